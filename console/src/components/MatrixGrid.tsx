import { createColumnHelper, getCoreRowModel, useReactTable } from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import {
  type KeyboardEvent,
  memo,
  useCallback,
  useDeferredValue,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { useNavigate, useSearchParams } from "react-router";
import { useChange, useKeepLens } from "../lens";
import { type Cell, cellOf, type Row, type Tool } from "../matrix";
import { repositoryPage, severitySoft } from "../words";
import { RepositoryCell, ToolCell, ToolHeader } from "./MatrixCells";

const rowHeight = 47;
const columns = createColumnHelper<Row>();

type Column = { tool: Tool; start: number; size: number };
type Move = (row: number, column: number) => void;
type Props = { tools: Tool[]; rows: Row[]; pinned: string[]; narrow: boolean };

/**
 * The grid: only rows and columns in view are drawn, one cell is in the tab order, arrows move,
 * Enter opens. The repository and pinned columns stay while the others move under them.
 */
export function MatrixGrid({ tools, rows, pinned, narrow }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const room = useWidth(scroller);
  const [params] = useSearchParams();
  const change = useChange();
  const keep = useKeepLens();
  const navigate = useNavigate();
  const ordered = useOrdered(tools, rows, pinned);
  const awaited = useRef(params.get("at")); // the cell to return to, until its row is there
  const [at, setAt] = useState({ row: 0, column: 0 });
  const wantsFocus = useRef(false);
  useEffect(() => {
    const found = position(awaited.current, rows, ordered);
    if (!found) return;
    awaited.current = null;
    wantsFocus.current = true;
    setAt(found);
  }, [rows, ordered]);
  const first = room < 640 ? 124 : 210;
  const kept = room < 640 ? 0 : pinned.length; // there would be no room for the others
  const laid = useMemo(() => lay(ordered, first, room, narrow), [ordered, first, room, narrow]);
  const rowsInView = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 3,
    useFlushSync: false,
  });
  const columnsInView = useVirtualizer({
    horizontal: true,
    count: laid.length,
    getScrollElement: () => scroller.current,
    estimateSize: (i) => laid[i]?.size ?? 0,
    paddingStart: first,
    overscan: 1,
    useFlushSync: false,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: other widths ask for another measure
  useEffect(() => columnsInView.measure(), [laid, columnsInView]);
  const row = Math.min(at.row, rows.length - 1); // -1 is the row of headings
  const from = columnsInView.getVirtualItems();
  const shown = useMemo(() => {
    const indices = new Set(from.map((i) => i.index));
    for (let i = 0; i < kept; i++) indices.add(i);
    if (at.column > 0) indices.add(at.column - 1);
    return [...indices].filter((i) => i < laid.length).sort((a, b) => a - b);
  }, [from, kept, laid, at.column]);
  const key = shown.join(",");
  // biome-ignore lint/correctness/useExhaustiveDependencies: the same columns are the same list
  const stable = useMemo(() => shown, [key]);
  const items = useDeferredValue(rowsInView.getVirtualItems());
  const whole = first + laid.reduce((n, c) => n + c.size, 0);

  // The cell moved to may lie outside what is drawn: then it appears some frames later.
  // biome-ignore lint/correctness/useExhaustiveDependencies: every move is one, also to the same cell
  useEffect(() => {
    if (!wantsFocus.current) return;
    if (row >= 0) rowsInView.scrollToIndex(row);
    if (at.column > kept) columnsInView.scrollToIndex(at.column - 1);
    let frame = 0;
    const focus = (tries: number) => {
      const cell = scroller.current?.querySelector<HTMLElement>('[data-at="true"]');
      if (cell) {
        wantsFocus.current = false;
        cell.focus({ preventScroll: at.column <= kept });
      } else if (tries > 0) {
        frame = requestAnimationFrame(() => focus(tries - 1));
      }
    };
    focus(20);
    return () => cancelAnimationFrame(frame);
  }, [at, row, rowsInView]);

  const move: Move = (r, c) => {
    wantsFocus.current = true;
    setAt({ row: Math.max(-1, Math.min(rows.length - 1, r)), column: Math.max(0, Math.min(laid.length, c)) });
  };
  const openCell = useCallback<Move>(
    (r, c) => {
      const target = rows[r];
      if (!target) return;
      const tool = c > 0 ? ordered[c - 1]?.tool : undefined;
      const cell = tool ? cellOf(target, tool) : undefined;
      change({ at: `${target.repository}:${tool ?? ""}` }, "same");
      navigate(
        keep(repositoryPage(target.repository), { tool: cell ? tool : undefined, folder: cell?.folder || undefined }),
      );
    },
    [rows, ordered, change, keep, navigate],
  );
  const focused = useCallback<Move>(
    (r, c) => setAt((now) => (now.row === r && now.column === c ? now : { row: r, column: c })),
    [],
  );
  const pinnedNow = useRef<string | null>(null); // the column that was pinned or let go, to stay on it
  useEffect(() => {
    const column = ordered.findIndex((t) => t.tool === pinnedNow.current);
    pinnedNow.current = null;
    if (column < 0) return;
    wantsFocus.current = true;
    setAt((now) => ({ ...now, column: column + 1 }));
  }, [ordered]);
  const pin = () => {
    const tool = ordered[at.column - 1]?.tool;
    if (!tool) return;
    pinnedNow.current = tool;
    change({ pin: pinned.includes(tool) ? pinned.filter((t) => t !== tool) : [...pinned, tool] });
  };
  const onKey = (e: KeyboardEvent) => {
    if (e.key.toLowerCase() === "p" && !e.ctrlKey && !e.metaKey && !e.altKey) {
      e.preventDefault();
      pin();
      return;
    }
    if (e.key === "Enter" && row < 0) return; // a heading is a link
    const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? 500) / rowHeight) - 1);
    const moves: Record<string, [number, number]> = {
      ArrowUp: [row - 1, at.column],
      ArrowDown: [row + 1, at.column],
      ArrowLeft: [row, at.column - 1],
      ArrowRight: [row, at.column + 1],
      PageUp: [Math.max(row - page, 0), at.column],
      PageDown: [row + page, at.column],
      Home: [e.ctrlKey ? 0 : row, 0],
      End: [e.ctrlKey ? rows.length - 1 : row, laid.length],
    };
    const to = moves[e.key];
    if (!to && e.key !== "Enter") return;
    e.preventDefault();
    if (to) move(...to);
    else openCell(row, at.column);
  };
  return (
    <div
      ref={scroller}
      role="grid"
      aria-label="Repositories by tools"
      aria-rowcount={rows.length + 1}
      aria-colcount={tools.length + 1}
      aria-description="Arrows move, Enter opens, P pins a column"
      onKeyDown={onKey}
      className="panel relative min-h-64 flex-initial overflow-auto"
    >
      <div role="rowgroup" className="sticky top-0 z-10" style={{ width: whole }}>
        <div role="row" aria-rowindex={1} className="relative flex h-[52px] border-b border-rule bg-panel">
          <div
            role="columnheader"
            aria-colindex={1}
            tabIndex={row < 0 && at.column === 0 ? 0 : -1}
            data-at={row < 0 && at.column === 0}
            onFocus={() => focused(-1, 0)}
            className="sticky left-0 z-10 flex h-full shrink-0 flex-col justify-end border-r border-line bg-panel px-2.5 py-1.5 font-semibold text-ink2"
            style={{ width: first }}
          >
            Repository
          </div>
          {stable.map((i) => {
            const c = laid[i];
            return c ? (
              <div
                key={c.tool.tool}
                role="columnheader"
                aria-colindex={i + 2}
                className={`flex h-[51px] flex-col justify-end bg-panel px-2.5 py-1.5 font-semibold text-ink2 ${i < kept ? "z-10 border-r border-line" : ""}`}
                style={placed(c, i < kept)}
              >
                <ToolHeader
                  tool={c.tool}
                  pinned={i < kept}
                  at={row < 0 && at.column === i + 1}
                  onFocus={() => focused(-1, i + 1)}
                />
              </div>
            ) : null;
          })}
        </div>
      </div>
      <div role="rowgroup" style={{ height: rowsInView.getTotalSize(), width: whole, position: "relative" }}>
        {items.map((item) => {
          const r = rows[item.index];
          return r ? (
            <GridRow
              key={r.repository}
              row={r}
              index={item.index}
              start={item.start}
              at={item.index === row ? at.column : -1}
              first={first}
              kept={kept}
              laid={laid}
              shown={stable}
              narrow={narrow}
              open={openCell}
              focused={focused}
            />
          ) : null;
        })}
      </div>
    </div>
  );
}

type RowProps = {
  row: Row;
  index: number;
  start: number;
  at: number;
  first: number;
  kept: number;
  laid: Column[];
  shown: number[];
  narrow: boolean;
  open: Move;
  focused: Move;
};

const cellStyle =
  "h-full cursor-pointer overflow-hidden px-2.5 py-[5px] focus:outline-2 focus:-outline-offset-2 focus:outline-accent";

const GridRow = memo(function GridRow({
  row,
  index,
  start,
  at,
  first,
  kept,
  laid,
  shown,
  narrow,
  open,
  focused,
}: RowProps) {
  return (
    <div
      role="row"
      aria-rowindex={index + 2}
      className="absolute right-0 left-0 flex border-b border-line"
      style={{ height: rowHeight, transform: `translateY(${start}px)`, contain: "layout style size" }}
    >
      <div
        role="rowheader"
        aria-colindex={1}
        tabIndex={at === 0 ? 0 : -1}
        data-at={at === 0}
        onFocus={() => focused(index, 0)}
        onClick={() => open(index, 0)}
        onKeyDown={() => {}}
        className={`sticky left-0 z-[2] shrink-0 border-r border-line bg-panel ${cellStyle}`}
        style={{ width: first }}
      >
        <RepositoryCell row={row} />
      </div>
      {shown.map((i) => {
        const c = laid[i];
        if (!c) return null;
        const cell = cellOf(row, c.tool.tool);
        const tint = tintOf(cell) ?? (i < kept ? "bg-panel" : "");
        return (
          <div
            key={c.tool.tool}
            role="gridcell"
            aria-colindex={i + 2}
            tabIndex={at === i + 1 ? 0 : -1}
            data-at={at === i + 1}
            onFocus={() => focused(index, i + 1)}
            onClick={() => open(index, i + 1)}
            onKeyDown={() => {}}
            className={`${cellStyle} ${tint} ${i < kept ? "z-[2] border-r border-line" : ""}`}
            style={placed(c, i < kept)}
          >
            <ToolCell cell={cell} narrow={narrow} />
          </div>
        );
      })}
    </div>
  );
});

/** Only what is wrong on most machines colours its cell: with fifty, something is missing on some of them almost everywhere. */
function tintOf(cell: Cell | undefined): string | undefined {
  if (!cell || (cell.affected > 0 && cell.affected * 2 < cell.among)) return undefined;
  return severitySoft[cell.severity];
}

/** Where a column stands; what is pinned stays there while the others move under it. */
function placed(c: Column, kept: boolean) {
  if (!kept) return { position: "absolute", top: 0, left: c.start, width: c.size } as const;
  return { position: "sticky", left: c.start, width: c.size, flexShrink: 0 } as const;
}

/** The columns side by side: narrow or wide, and wider where there is room for all. */
function lay(tools: Tool[], first: number, room: number, narrow: boolean): Column[] {
  const least = narrow ? 92 : 138;
  const size = tools.length > 0 ? Math.max(least, Math.floor((room - first - 2) / tools.length)) : least;
  return tools.map((tool, i) => ({ tool, size, start: first + i * size }));
}

/** The tools in the order of their columns: pinned ones first. */
function useOrdered(tools: Tool[], rows: Row[], pinned: string[]): Tool[] {
  const definitions = useMemo(() => tools.map((t) => columns.display({ id: t.tool, meta: t })), [tools]);
  const table = useReactTable({
    data: rows,
    columns: definitions,
    getCoreRowModel: getCoreRowModel(),
    state: { columnPinning: { left: pinned } },
  });
  const left = table.getLeftLeafColumns();
  const center = table.getCenterLeafColumns();
  return useMemo(() => [...left, ...center].map((c) => c.columnDef.meta as Tool), [left, center]);
}

/** How wide an element is. */
function useWidth(of: React.RefObject<HTMLDivElement | null>): number {
  const [width, setWidth] = useState(1000);
  useLayoutEffect(() => {
    const element = of.current;
    if (!element) return;
    setWidth(element.clientWidth);
    const watch = new ResizeObserver(() => setWidth(element.clientWidth));
    watch.observe(element);
    return () => watch.disconnect();
  }, [of]);
  return width;
}

/** The cell that "repository:tool" names, so that Escape returns to it; undefined where it is not there. */
function position(at: string | null, rows: Row[], tools: Tool[]): { row: number; column: number } | undefined {
  if (at === null) return undefined;
  const cut = at.lastIndexOf(":"); // a repository's name may hold one
  const repository = at.slice(0, Math.max(0, cut));
  const tool = at.slice(cut + 1);
  const row = rows.findIndex((r) => r.repository === repository);
  if (row < 0) return undefined;
  return { row, column: Math.max(0, tools.findIndex((t) => t.tool === tool) + 1) };
}
