import { createColumnHelper, flexRender, getCoreRowModel, useReactTable } from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { useChange, useKeepLens } from "../lens";
import { kindOf, plural, repositoryPage, severitySoft, severityText } from "../words";
import { Mark } from "./Mark";

type Row = Schemas["MatrixRow"];
type Tool = Schemas["MatrixTool"];

const rowHeight = 47;
const columns = createColumnHelper<Row>();

/** The grid: virtual rows, one cell in the tab order, arrows to move, Enter to open. */
export function MatrixGrid({ tools, rows }: { tools: Tool[]; rows: Row[] }) {
  const scroller = useRef<HTMLDivElement>(null);
  const [params] = useSearchParams();
  const change = useChange();
  const keep = useKeepLens();
  const navigate = useNavigate();
  const [at, setAt] = useState(() => position(params.get("at"), rows, tools));
  const wantsFocus = useRef(params.has("at"));
  const definitions = useMemo(
    () => [
      columns.accessor("repository", {
        header: "Repository",
        size: 210,
        cell: (c) => <RepositoryCell row={c.row.original} />,
      }),
      ...tools.map((t) =>
        columns.accessor((r) => r.cells.find((c) => c.tool === t.tool), {
          id: t.tool,
          header: () => <ToolHeader tool={t} />,
          size: 170,
          cell: (c) => <ToolCell cell={c.getValue()} />,
        }),
      ),
    ],
    [tools],
  );
  const table = useReactTable({ data: rows, columns: definitions, getCoreRowModel: getCoreRowModel() });
  const all = table.getRowModel().rows;
  const virtual = useVirtualizer({
    count: all.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 12,
  });
  const shown = virtual.getVirtualItems();
  const row = Math.min(at.row, rows.length - 1);

  // The cell moved to may lie outside the rows that are drawn: then it appears some frames later.
  // biome-ignore lint/correctness/useExhaustiveDependencies: every move is one, also to the same cell
  useEffect(() => {
    if (!wantsFocus.current) return;
    virtual.scrollToIndex(row);
    let frame = 0;
    const focus = (tries: number) => {
      const cell = scroller.current?.querySelector<HTMLElement>('[data-at="true"]');
      if (cell) {
        wantsFocus.current = false;
        cell.focus();
      } else if (tries > 0) {
        frame = requestAnimationFrame(() => focus(tries - 1));
      }
    };
    focus(20);
    return () => cancelAnimationFrame(frame);
  }, [at, row, virtual]);

  const move = (r: number, c: number) => {
    wantsFocus.current = true;
    setAt({ row: Math.max(0, Math.min(rows.length - 1, r)), column: Math.max(0, Math.min(tools.length, c)) });
  };
  const openCell = (r: number, c: number) => {
    const target = rows[r];
    if (!target) return;
    const tool = c > 0 ? tools[c - 1]?.tool : undefined;
    const cell = target.cells.find((x) => x.tool === tool);
    change({ at: `${target.repository}:${tool ?? ""}` });
    navigate(
      keep(repositoryPage(target.repository), { tool: cell ? tool : undefined, folder: cell?.folder || undefined }),
    );
  };
  const onKey = (e: KeyboardEvent) => {
    const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? 500) / rowHeight) - 1);
    const last = rows.length - 1;
    const moves: Record<string, [number, number]> = {
      ArrowUp: [row - 1, at.column],
      ArrowDown: [row + 1, at.column],
      ArrowLeft: [row, at.column - 1],
      ArrowRight: [row, at.column + 1],
      PageUp: [row - page, at.column],
      PageDown: [row + page, at.column],
      Home: [e.ctrlKey ? 0 : row, 0],
      End: [e.ctrlKey ? last : row, tools.length],
    };
    const to = moves[e.key];
    if (!to && e.key !== "Enter") return;
    e.preventDefault();
    if (to) move(...to);
    else openCell(row, at.column);
  };
  const template = { gridTemplateColumns: `210px repeat(${tools.length}, minmax(140px, 1fr))` };
  return (
    <div
      ref={scroller}
      role="grid"
      aria-label="Repositories by tools"
      aria-rowcount={rows.length + 1}
      aria-colcount={tools.length + 1}
      onKeyDown={onKey}
      className="panel min-h-0 flex-initial overflow-auto"
    >
      <div role="rowgroup" className="sticky top-0 z-10 bg-panel">
        {table.getHeaderGroups().map((group) => (
          <div key={group.id} role="row" aria-rowindex={1} className="grid border-b border-rule" style={template}>
            {group.headers.map((h) => (
              <div
                key={h.id}
                role="columnheader"
                className="flex flex-col justify-end px-2.5 py-1.5 font-semibold text-ink2 first:sticky first:left-0 first:bg-panel"
              >
                {flexRender(h.column.columnDef.header, h.getContext())}
              </div>
            ))}
          </div>
        ))}
      </div>
      <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: "relative" }}>
        {shown.map((item) => {
          const r = all[item.index];
          if (!r) return null;
          return (
            <div
              key={r.original.repository}
              role="row"
              aria-rowindex={item.index + 2}
              className="absolute right-0 left-0 grid border-b border-line"
              style={{ ...template, height: item.size, transform: `translateY(${item.start}px)` }}
            >
              {r.getVisibleCells().map((c, column) => {
                const here = item.index === row && column === at.column;
                const severity = r.original.cells.find((x) => x.tool === c.column.id)?.severity ?? "";
                return (
                  <div
                    key={c.id}
                    role={column === 0 ? "rowheader" : "gridcell"}
                    tabIndex={here ? 0 : -1}
                    data-at={here}
                    onFocus={() => here || setAt({ row: item.index, column })}
                    onClick={() => openCell(item.index, column)}
                    onKeyDown={() => {}}
                    className={`cursor-pointer overflow-hidden px-2.5 py-[5px] focus:outline-2 focus:-outline-offset-2 focus:outline-accent ${column === 0 ? "sticky left-0 border-r border-line bg-panel" : (severitySoft[severity] ?? "")}`}
                  >
                    {flexRender(c.column.columnDef.cell, c.getContext())}
                  </div>
                );
              })}
            </div>
          );
        })}
      </div>
    </div>
  );
}

/** The cell that "repository:tool" names, so that Escape returns to it. */
function position(at: string | null, rows: Row[], tools: Tool[]): { row: number; column: number } {
  const cut = (at ?? "").lastIndexOf(":"); // a repository's name may hold one
  const repository = (at ?? "").slice(0, Math.max(0, cut));
  const tool = (at ?? "").slice(cut + 1);
  const row = rows.findIndex((r) => r.repository === repository);
  return { row: Math.max(0, row), column: Math.max(0, tools.findIndex((t) => t.tool === tool) + 1) };
}

function RepositoryCell({ row }: { row: Row }) {
  const wrong = row.cells.filter((c) => c.classes.length > 0).length;
  return (
    <>
      <div className="truncate font-semibold" title={row.repository}>
        {row.repository}
      </div>
      <div className="truncate text-small text-ink2">{attention(wrong, row)}</div>
    </>
  );
}

/** Whether it cannot be told what runs for some tool on some machine, or nothing does. */
export function untold(row: Row): boolean {
  return row.cells.some((c) => c.classes.length === 0 && c.kind !== "met" && c.kind !== "unpinned");
}

function attention(wrong: number, row: Row): string {
  const files = row.loose ? plural(row.loose, "file") : "";
  const tools = wrong ? (row.cells.length === 1 ? "1 tool" : `${wrong} of ${row.cells.length} tools`) : "";
  const what = [tools, files].filter(Boolean).join(" and ");
  if (what) return `${what} to look at`;
  return untold(row) ? "not all can be told" : "sound";
}

function ToolHeader({ tool: t }: { tool: Tool }) {
  const parts: [number, string, string][] = [
    [t.met, "bg-met", "met"],
    [t.warning, "bg-warning", "with warnings"],
    [t.error, "bg-error", "with errors"],
  ];
  const text = parts
    .filter(([n]) => n > 0)
    .map(([n, , word]) => `${n} ${word}`)
    .join(", ");
  return (
    <>
      {t.title}
      <span className="mt-1 flex h-1.5 gap-px overflow-hidden rounded-[3px]" role="img" aria-label={text} title={text}>
        {parts.map(([n, color]) => (n > 0 ? <i key={color} className={color} style={{ flex: n }} /> : null))}
      </span>
    </>
  );
}

function ToolCell({ cell: c }: { cell: Schemas["Cell"] | undefined }) {
  if (!c) return <span className="sr-only">not used</span>;
  const more = c.classes.length > 1 ? ` +${c.classes.length - 1}` : "";
  const kind = kindOf(c.kind);
  return (
    <div className="grid grid-cols-[16px_minmax(0,1fr)] gap-x-[5px]">
      <Mark kind={c.kind} className={`mt-[3px] ${severityText[c.severity]}`} silent />
      <span className="truncate font-mono text-mono" title={c.asked}>
        {c.asked}
      </span>
      <span className="col-start-2 truncate text-small text-ink2" title={c.resolved}>
        <span className={`mr-1.5 font-medium ${severityText[c.severity]}`}>
          {kind.short}
          {more}
        </span>
        {c.resolved}
      </span>
    </div>
  );
}
