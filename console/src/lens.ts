import { useCallback, useMemo } from "react";
import { useSearchParams } from "react-router";

/** The lens everything is seen through. It lives in the URL and holds for every page. */
export type Lens = { asOf?: string; machine?: string[] };

const lensKeys = ["asOf", "machine"];

/** The lens of the URL, as query parameters of the API. */
export function useLens(): Lens {
  const [params] = useSearchParams();
  const asOf = params.get("asOf") ?? undefined;
  const machines = params.getAll("machine").join("\n");
  return useMemo(() => ({ asOf, machine: machines ? machines.split("\n") : undefined }), [asOf, machines]);
}

/** A path that keeps the lens. */
export function useKeepLens(): (path: string, query?: Record<string, string | string[] | undefined>) => string {
  const [params] = useSearchParams();
  return useCallback(
    (path, query = {}) => {
      const next = new URLSearchParams();
      for (const key of lensKeys) for (const value of params.getAll(key)) next.append(key, value);
      for (const [key, value] of Object.entries(query)) {
        for (const v of Array.isArray(value) ? value : value ? [value] : []) next.append(key, v);
      }
      const text = next.toString();
      return text ? `${path}?${text}` : path;
    },
    [params],
  );
}

/** Whether a change is a step of the history of its own, or goes with the one before. */
export type Step = "own" | "same";

/** Changes parameters of the URL; undefined removes one. Each change is a step of the history, so that going back undoes it. */
export function useChange(): (changes: Record<string, string | string[] | undefined>, step?: Step) => void {
  const [, setParams] = useSearchParams();
  return useCallback(
    (changes, step = "own") =>
      setParams(
        (before) => {
          const next = new URLSearchParams(before);
          for (const [key, value] of Object.entries(changes)) {
            next.delete(key);
            for (const v of Array.isArray(value) ? value : value ? [value] : []) next.append(key, v);
          }
          return next;
        },
        { replace: step === "same" },
      ),
    [setParams],
  );
}
