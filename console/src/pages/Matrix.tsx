import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useMemo } from "react";
import { useSearchParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { ColumnChoice } from "../components/ColumnChoice";
import { FilterChip } from "../components/FilterChip";
import { MatrixGrid } from "../components/MatrixGrid";
import { Empty, Failure, Loading } from "../components/States";
import { useChange, useLens } from "../lens";
import { type Data, type Row, textOf, untold, useMatrix } from "../matrix";
import { kindOf, kinds, number, plural } from "../words";

type Overview = Schemas["Overview"];

/** Repositories by tools. */
export function Matrix() {
  const lens = useLens();
  const { matrix, error } = useMatrix(lens);
  if (error) return <Failure error={error} />;
  if (!matrix) return <Loading what="the matrix" />;
  if (matrix.total === 0) {
    return (
      <>
        <h1 className="mb-3">Matrix</h1>
        <Empty title="No repository has been read yet">
          Add some with <code className="font-mono text-mono">wexo repositories add PATH</code>, then start a survey.
        </Empty>
      </>
    );
  }
  return <Shown matrix={matrix} />;
}

function Shown({ matrix: newest }: { matrix: Data }) {
  const matrix = useDeferredValue(newest);
  const [params] = useSearchParams();
  const change = useChange();
  const asked = params.toString();
  const filter = useMemo(() => filterOf(new URLSearchParams(asked)), [asked]);
  const lens = useLens();
  const overview = useQuery({
    queryKey: ["overview", lens],
    queryFn: () => data(api.GET("/api/overview", { params: { query: lens } })),
  });
  const chips = useMemo(() => count(matrix, overview.data), [matrix, overview.data]);
  const rows = useMemo(() => {
    const titles = new Map(matrix.tools.map((t) => [t.tool, t.title]));
    return filter.any ? matrix.rows.filter((r) => keeps(r, titles, filter)) : matrix.rows;
  }, [matrix, filter]);
  const tools = useMemo(
    () => matrix.tools.filter((t) => filter.tools.length === 0 || filter.tools.includes(t.tool)),
    [matrix.tools, filter.tools],
  );
  const pinned = useMemo(() => filter.pinned.filter((p) => tools.some((t) => t.tool === p)), [filter.pinned, tools]);
  const toggle = (kind: string) =>
    change({
      class: filter.classes.includes(kind) ? filter.classes.filter((c) => c !== kind) : [...filter.classes, kind],
    });
  const reading = matrix.rows.length < matrix.total;
  return (
    <div className="flex h-full min-h-[420px] flex-col">
      <h1>Matrix</h1>
      <p className="text-ink2">
        What each repository asks for, and what would run.{" "}
        <span role="status">
          {reading
            ? `${number(matrix.rows.length)} of ${number(matrix.total)} repositories read so far`
            : `${filter.any ? `${number(rows.length)} of ` : ""}${plural(matrix.total, "repository", "repositories")}`}
          , {plural(matrix.tools.length, "tool")}.
        </span>
        {filter.any ? (
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
        <ColumnChoice tools={matrix.tools} chosen={filter.tools} pinned={pinned} narrow={filter.narrow} />
        {chips.map((c) => (
          <FilterChip
            key={c.kind}
            kind={c.kind}
            severity={c.severity}
            label={kindOf(c.kind).short}
            count={c.count}
            on={filter.classes.includes(c.kind)}
            onToggle={() => toggle(c.kind)}
          />
        ))}
      </div>
      {rows.length === 0 ? (
        <Empty title="No repository matches">Take a filter away to see more.</Empty>
      ) : (
        <MatrixGrid
          key={filter.tools.join()}
          tools={tools}
          rows={rows}
          machines={overview.data?.machines ?? 0}
          pinned={pinned}
          narrow={filter.narrow}
        />
      )}
    </div>
  );
}

type Filter = {
  classes: string[];
  show: string | null;
  words: string[];
  any: boolean;
  tools: string[];
  pinned: string[];
  narrow: boolean;
};

/** What the URL says is shown. */
function filterOf(params: URLSearchParams): Filter {
  const classes = params.getAll("class");
  const show = params.get("show");
  const words = (params.get("q") ?? "").toLowerCase().split(/\s+/).filter(Boolean);
  const any = classes.length > 0 || show !== null || words.length > 0;
  return {
    classes,
    show,
    words,
    any,
    tools: params.getAll("tool"),
    pinned: params.getAll("pin"),
    narrow: params.has("narrow"),
  };
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

function keeps(row: Row, titles: Map<string, string>, f: Filter): boolean {
  const troubled = row.loose > 0 || row.cells.some((c) => c.classes.length > 0);
  if (f.show === "troubled" && !troubled) return false;
  if (f.show === "healthy" && (troubled || untold(row))) return false;
  if (f.show === "untold" && (troubled || !untold(row))) return false;
  const classed = (c: Row["cells"][number]) =>
    f.classes.includes(c.kind) || c.classes.some((kind) => f.classes.includes(kind));
  if (f.classes.length && !row.cells.some(classed)) return false;
  return f.words.length === 0 || f.words.every((w) => textOf(row, titles).includes(w));
}
