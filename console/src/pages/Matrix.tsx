import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { useSearchParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { FilterChip } from "../components/FilterChip";
import { MatrixGrid, untold } from "../components/MatrixGrid";
import { Empty, Failure, Loading } from "../components/States";
import { useChange, useLens } from "../lens";
import { kindOf, kinds, plural } from "../words";

type Row = Schemas["MatrixRow"];
type Data = Schemas["Matrix"];
type Overview = Schemas["Overview"];

/** Repositories by tools. */
export function Matrix() {
  const lens = useLens();
  const q = useQuery({
    queryKey: ["matrix", lens],
    queryFn: () => data(api.GET("/api/matrix", { params: { query: lens } })),
  });
  if (q.isPending) return <Loading what="the matrix" />;
  if (q.error) return <Failure error={q.error} />;
  if (q.data.rows.length === 0) {
    return (
      <>
        <h1 className="mb-3">Matrix</h1>
        <Empty title="No repository has been read yet">
          Add some with <code className="font-mono text-mono">wexo repositories add PATH</code>, then start a survey.
        </Empty>
      </>
    );
  }
  return <Shown matrix={q.data} />;
}

function Shown({ matrix }: { matrix: Data }) {
  const [params] = useSearchParams();
  const change = useChange();
  const classes = params.getAll("class");
  const show = params.get("show");
  const words = params.get("q") ?? "";
  const lens = useLens();
  const overview = useQuery({
    queryKey: ["overview", lens],
    queryFn: () => data(api.GET("/api/overview", { params: { query: lens } })),
  });
  const chips = useMemo(() => count(matrix, overview.data), [matrix, overview.data]);
  const rows = useMemo(
    () => matrix.rows.filter((r) => keeps(r, matrix, classes, show, words)),
    [matrix, classes, show, words],
  );
  const toggle = (kind: string) =>
    change({ class: classes.includes(kind) ? classes.filter((c) => c !== kind) : [...classes, kind] });
  const filtered = classes.length > 0 || show !== null || words !== "";
  return (
    <div className="flex h-full flex-col">
      <h1>Matrix</h1>
      <p className="text-ink2">
        What each repository asks for, and what would run.{" "}
        <span role="status">
          {filtered ? `${rows.length} of ` : ""}
          {plural(matrix.rows.length, "repository", "repositories")}, {plural(matrix.tools.length, "tool")}.
        </span>
        {filtered ? (
          <button
            type="button"
            className="ml-3 cursor-pointer text-accent underline"
            onClick={() => change({ class: undefined, show: undefined, q: undefined })}
          >
            show all
          </button>
        ) : null}
      </p>
      <div className="my-3 flex flex-wrap gap-2">
        {chips.map((c) => (
          <FilterChip
            key={c.kind}
            kind={c.kind}
            severity={c.severity}
            label={kindOf(c.kind).short}
            count={c.count}
            on={classes.includes(c.kind)}
            onToggle={() => toggle(c.kind)}
          />
        ))}
      </div>
      {rows.length === 0 ? (
        <Empty title="No repository matches">Take a filter away to see more.</Empty>
      ) : (
        <MatrixGrid tools={matrix.tools} rows={rows} />
      )}
    </div>
  );
}

/** Cells by every class they have, or by their state where nothing is wrong. */
function count(m: Data, overview: Overview | undefined): { kind: string; severity: string; count: number }[] {
  const found = new Map<string, { kind: string; severity: string; count: number }>();
  for (const row of m.rows) {
    for (const cell of row.cells) {
      for (const kind of cell.classes.length ? cell.classes : [cell.kind]) {
        const severity = severityOf(kind, overview);
        const at = found.get(kind) ?? { kind, severity, count: 0 };
        at.count++;
        found.set(kind, at);
      }
    }
  }
  const order = Object.keys(kinds);
  return [...found.values()].sort((a, b) => order.indexOf(a.kind) - order.indexOf(b.kind));
}

/** The severity a class has in the overview; states where nothing is wrong have none of their own. */
function severityOf(kind: string, overview: Overview | undefined): string {
  const found = overview?.classes.find((c) => c.class === kind);
  return found?.severity ?? (kind === "met" ? "met" : "note");
}

function keeps(row: Row, m: Data, classes: string[], show: string | null, words: string): boolean {
  const troubled = row.loose > 0 || row.cells.some((c) => c.classes.length > 0);
  if (show === "troubled" && !troubled) return false;
  if (show === "healthy" && (troubled || untold(row))) return false;
  if (show === "untold" && (troubled || !untold(row))) return false;
  if (
    classes.length &&
    !row.cells.some((c) => classes.includes(c.kind) || c.classes.some((k) => classes.includes(k)))
  ) {
    return false;
  }
  const titles = row.cells.map((c) => `${m.tools.find((t) => t.tool === c.tool)?.title} ${c.asked} ${c.resolved}`);
  const text = `${row.repository} ${titles.join(" ")}`.toLowerCase();
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((w) => text.includes(w));
}
