import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useMemo } from "react";
import { useSearchParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { ColumnChoice } from "../components/ColumnChoice";
import { FilterChip } from "../components/FilterChip";
import { MatrixGrid } from "../components/MatrixGrid";
import { Empty, Waiting } from "../components/States";
import { useChange, useLens } from "../lens";
import { type Data, type Row, type Tool, textOf, untold, useMatrix } from "../matrix";
import { Heading } from "../page";
import { kindOf, kinds, number, plural } from "../words";

type Overview = Schemas["Overview"];

/** Repositories by tools. */
export function Matrix() {
  const lens = useLens();
  const { matrix, error, again } = useMatrix(lens);
  if (!matrix) return <Waiting error={error} what="the matrix" />;
  if (matrix.total === 0) {
    return (
      <>
        <Heading title="Matrix" className="mb-3" />
        <Empty title="No repository has been read yet">
          Add some with <code className="font-mono text-mono">wexo repositories add PATH</code>, then start a survey.
        </Empty>
      </>
    );
  }
  return <Shown matrix={matrix} error={error} again={again} />;
}

function Shown({ matrix: newest, error, again }: { matrix: Data; error: Error | null; again: () => void }) {
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
  // What is kept by words and by how repositories stand; classes choose among these, and their chips count them.
  const kept = useMemo(() => {
    const titles = new Map(matrix.tools.map((t) => [t.tool, t.title]));
    return filter.any ? matrix.rows.filter((r) => keeps(r, titles, filter)) : matrix.rows;
  }, [matrix, filter]);
  const chips = useMemo(() => count(kept, filter.classes, overview.data), [kept, filter.classes, overview.data]);
  const rows = useMemo(() => {
    const chosen =
      filter.classes.length > 0
        ? kept.filter(
            (r) =>
              r.cells.some((c) => classed(c, filter.classes)) || r.counts.some((c) => filter.classes.includes(c.class)),
          )
        : kept;
    return filter.byNeed ? [...chosen].sort((a, b) => compareNeed(needOf(a.cells), needOf(b.cells))) : chosen;
  }, [kept, filter]);
  const occurring = useMemo(() => toolsIn(matrix.tools, rows), [matrix.tools, rows]);
  const tools = useMemo(() => {
    const shown = filter.tools.length > 0 ? matrix.tools.filter((t) => filter.tools.includes(t.tool)) : occurring;
    return filter.byNeed ? [...shown].sort((a, b) => compareNeed(a, b)) : shown;
  }, [matrix.tools, occurring, filter]);
  const pinned = useMemo(() => filter.pinned.filter((p) => tools.some((t) => t.tool === p)), [filter.pinned, tools]);
  const toggle = (kind: string) =>
    change({
      class: filter.classes.includes(kind) ? filter.classes.filter((c) => c !== kind) : [...filter.classes, kind],
    });
  const reading = matrix.rows.length < matrix.total;
  return (
    <div className="flex h-full min-h-[420px] flex-col">
      <Heading title="Matrix" />
      <p className="text-ink2">
        What each repository asks for, and what would run.{" "}
        <span role="status">
          {reading
            ? `${number(matrix.rows.length)} of ${number(matrix.total)} repositories read${error ? "" : " so far"}`
            : `${filter.any ? `${number(rows.length)} of ` : ""}${plural(matrix.total, "repository", "repositories")}`}
          , {plural(tools.length, "tool")}.
        </span>
        {error && reading ? (
          <span role="alert" className="text-error">
            {" "}
            The others could not be read: {error.message}{" "}
            <button type="button" className="cursor-pointer text-accent underline" onClick={again}>
              Read on
            </button>
          </span>
        ) : null}
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
      <div className="my-3 flex flex-wrap items-center gap-2">
        <ColumnChoice tools={matrix.tools} chosen={filter.tools} pinned={pinned} narrow={filter.narrow} />
        <label className={`control !py-0 ${filter.byNeed ? "!border-accent bg-accent-soft" : ""}`}>
          <span className="text-ink2">Sorted by</span>
          <select
            className="min-h-6 bg-transparent text-ink"
            value={filter.byNeed ? "need" : "name"}
            onChange={(e) => change({ sort: e.target.value === "need" ? "need" : undefined })}
          >
            <option value="name">name</option>
            <option value="need">need</option>
          </select>
        </label>
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
          key={`${filter.tools.join()} ${filter.byNeed}`}
          tools={tools}
          rows={rows}
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
  byNeed: boolean;
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
    byNeed: params.get("sort") === "need",
    tools: params.getAll("tool"),
    pinned: params.getAll("pin"),
    narrow: params.has("narrow"),
  };
}

/** Cells by every class they have, or by their state where nothing is wrong. A class that is chosen stays, whatever it counts. */
function count(
  rows: Row[],
  chosen: string[],
  overview: Overview | undefined,
): { kind: string; severity: string; count: number }[] {
  const found = new Map(chosen.map((kind) => [kind, { kind, severity: severityOf(kind, overview), count: 0 }]));
  const add = (kind: string, n: number) => {
    const at = found.get(kind) ?? { kind, severity: severityOf(kind, overview), count: 0 };
    at.count += n;
    found.set(kind, at);
  };
  for (const row of rows) {
    for (const c of row.counts) add(c.class, c.findings); // as the overview and the list of findings count them
    for (const cell of row.cells) if (cell.classes.length === 0) add(cell.kind, 1);
  }
  const order = Object.keys(kinds);
  return [...found.values()].sort((a, b) => order.indexOf(a.kind) - order.indexOf(b.kind));
}

/** The severity a class has in the overview; states where nothing is wrong have none of their own. */
function severityOf(kind: string, overview: Overview | undefined): string {
  const found = overview?.classes.find((c) => c.class === kind);
  return found?.severity ?? (kind === "met" ? "met" : "note");
}

/** The tools that some rows use, with how they stand in these. */
function toolsIn(tools: Tool[], rows: Row[]): Tool[] {
  const of = new Map(tools.map((t) => [t.tool, { ...t, error: 0, warning: 0, note: 0, met: 0 }]));
  for (const row of rows) {
    for (const cell of row.cells) {
      const tool = of.get(cell.tool);
      if (tool) tool[cell.severity || "met"]++;
    }
  }
  return [...of.values()].filter((t) => t.error + t.warning + t.note + t.met > 0);
}

type Need = { error: number; warning: number; note: number };

/** How much of a row is to be looked at. */
function needOf(cells: Row["cells"]): Need {
  const need = { error: 0, warning: 0, note: 0 };
  for (const c of cells) if (c.severity && c.severity !== "met") need[c.severity]++;
  return need;
}

/** What needs most comes first. */
function compareNeed(a: Need, b: Need): number {
  return b.error - a.error || b.warning - a.warning || b.note - a.note;
}

function classed(cell: Row["cells"][number], classes: string[]): boolean {
  return classes.includes(cell.kind) || cell.classes.some((kind) => classes.includes(kind));
}

function keeps(row: Row, titles: Map<string, string>, f: Filter): boolean {
  const troubled = row.loose > 0 || row.cells.some((c) => c.classes.length > 0);
  if (f.show === "troubled" && !troubled) return false;
  if (f.show === "healthy" && (troubled || row.quiet || untold(row))) return false;
  if (f.show === "untold" && (troubled || row.quiet || !untold(row))) return false;
  return f.words.length === 0 || f.words.every((w) => textOf(row, titles).includes(w));
}
