import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { api, data, type Severity } from "../api/client";
import { FilterChip } from "../components/FilterChip";
import { FindingList } from "../components/FindingList";
import { Empty, Failure, Loading } from "../components/States";
import { useChange, useLens } from "../lens";
import { kindOf, nothingFound } from "../words";

const pageSize = 50;

/** Findings with filters in the URL. */
export function Findings() {
  const lens = useLens();
  const [params] = useSearchParams();
  const change = useChange();
  const classes = params.getAll("class");
  const severities = params.getAll("severity") as Severity[];
  const age = params.get("age");
  const q = params.get("q") ?? undefined;
  const overview = useQuery({
    queryKey: ["overview", lens],
    queryFn: () => data(api.GET("/api/overview", { params: { query: lens } })),
  });
  const filter = {
    ...lens,
    class: classes.length ? classes : undefined,
    severity: severities.length ? severities : undefined,
    age: age ? Number(age) : undefined,
    q,
    limit: pageSize,
  };
  const list = useInfiniteQuery({
    queryKey: ["findings", filter],
    queryFn: ({ pageParam }) => data(api.GET("/api/findings", { params: { query: { ...filter, offset: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const shown = pages.reduce((n, p) => n + p.findings.length, 0);
      return shown < last.total ? shown : undefined;
    },
  });
  const findings = list.data?.pages.flatMap((p) => p.findings) ?? [];
  const total = list.data?.pages[0]?.total ?? 0;
  const toggle = (name: string) =>
    change({ class: classes.includes(name) ? classes.filter((c) => c !== name) : [...classes, name] });
  const filtered = classes.length > 0 || severities.length > 0 || age !== null || q !== undefined;
  return (
    <>
      <h1>Findings</h1>
      <p className="text-ink2" role="status">
        {list.isPending
          ? "Reading …"
          : `${total} ${total === 1 ? "finding" : "findings"}${filtered ? (total === 1 ? " matches" : " match") : ""}`}
        {severities.length ? `, severity ${severities.join(" or ")}` : ""}
        {age ? `, first seen within ${age} days` : ""}
        {filtered ? (
          <button
            type="button"
            className="ml-3 cursor-pointer text-accent underline"
            onClick={() => change({ class: undefined, severity: undefined, age: undefined, q: undefined })}
          >
            show all
          </button>
        ) : null}
      </p>
      <div className="my-3 flex flex-wrap gap-2">
        {overview.data?.classes.map((c) => (
          <FilterChip
            key={c.class}
            kind={c.class}
            severity={c.severity}
            label={kindOf(c.class).short}
            count={c.total}
            on={classes.includes(c.class)}
            onToggle={() => toggle(c.class)}
          />
        ))}
      </div>
      {list.error ? <Failure error={list.error} /> : null}
      {list.isPending ? <Loading what="the findings" /> : null}
      {list.isSuccess && findings.length === 0 ? (
        <Empty title={filtered ? "No finding matches" : "No findings"}>
          {filtered ? "Take a filter away to see more." : nothingFound(overview.data)}
        </Empty>
      ) : null}
      {findings.length > 0 ? (
        <div className="panel px-4">
          <h2 className="sr-only">List</h2>
          <FindingList findings={findings} withRepository />
        </div>
      ) : null}
      {list.hasNextPage ? (
        <button type="button" className="control mt-3" onClick={() => list.fetchNextPage()}>
          Show more ({total - findings.length} left)
        </button>
      ) : null}
    </>
  );
}
