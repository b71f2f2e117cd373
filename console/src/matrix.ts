import { useInfiniteQuery } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import { api, data, type Schemas } from "./api/client";
import type { Lens } from "./lens";

export type Row = Schemas["MatrixRow"];
export type Tool = Schemas["MatrixTool"];
export type Cell = Schemas["Cell"];
export type Data = Schemas["Matrix"];

/** So many rows come at once: few at first, to be seen soon, then as many as are read without a halt. */
const firstRows = 120;
const moreRows = 400;

/** The matrix, part by part: what is there is shown while the rest is read. */
export function useMatrix(lens: Lens) {
  const q = useInfiniteQuery({
    queryKey: ["matrix", lens],
    queryFn: ({ pageParam, signal }) =>
      data(
        api.GET("/api/matrix", {
          params: { query: { ...lens, from: pageParam, rows: pageParam === 0 ? firstRows : moreRows } },
          signal,
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const read = pages.reduce((n, p) => n + p.rows.length, 0);
      return read < last.total && last.rows.length > 0 ? read : undefined;
    },
  });
  const { hasNextPage, isFetchingNextPage, fetchNextPage, isError } = q;
  useEffect(() => {
    if (!hasNextPage || isFetchingNextPage || isError) return;
    const wait = setTimeout(fetchNextPage, 0);
    return () => clearTimeout(wait);
  }, [hasNextPage, isFetchingNextPage, fetchNextPage, isError]);
  const matrix = useMemo<Data | undefined>(() => {
    const first = q.data?.pages[0];
    return first && { ...first, rows: q.data?.pages.flatMap((p) => p.rows) ?? [] };
  }, [q.data]);
  return { matrix, error: q.error, again: () => void fetchNextPage() };
}

/** Whether it cannot be told what runs for some tool on some machine, or nothing does. */
export function untold(row: Row): boolean {
  return row.cells.some((c) => c.classes.length === 0 && c.kind !== "met" && c.kind !== "unpinned");
}

const byTool = new WeakMap<Row, Map<string, Cell>>();

/** The cell of a tool; undefined where the repository does not use it. */
export function cellOf(row: Row, tool: string): Cell | undefined {
  let cells = byTool.get(row);
  if (!cells) {
    cells = new Map(row.cells.map((c) => [c.tool, c]));
    byTool.set(row, cells);
  }
  return cells.get(tool);
}

const texts = new WeakMap<Row, string>();

/** All that a row says, in lower case, for finding it. */
export function textOf(row: Row, titles: Map<string, string>): string {
  let text = texts.get(row);
  if (text === undefined) {
    const cells = row.cells.map((c) => `${titles.get(c.tool) ?? c.tool} ${c.asked} ${c.resolved}`);
    text = `${row.repository} ${cells.join(" ")}`.toLowerCase();
    texts.set(row, text);
  }
  return text;
}
