import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { api, data, type Schemas, type Severity } from "../api/client";
import { CauseList } from "../components/CauseList";
import { FilterChip } from "../components/FilterChip";
import { FindingList } from "../components/FindingList";
import { Empty, Failure, Loading } from "../components/States";
import { useChange, useLens } from "../lens";
import { kindOf, nothingFound, number, opened, plural } from "../words";

const pageSize = 50;

const filters = ["class", "severity", "repository", "age", "over", "q", "cause", "apart"];

/** What is wrong: its causes first, each finding one step behind. Filters live in the URL. */
export function Findings() {
  const lens = useLens();
  const [params] = useSearchParams();
  const change = useChange();
  const classes = params.getAll("class");
  const cause = params.get("cause");
  const apart = params.has("apart");
  const each = params.has("each") || cause !== null || apart;
  const overview = useQuery({
    queryKey: ["overview", lens],
    queryFn: () => data(api.GET("/api/overview", { params: { query: lens } })),
  });
  const toggle = (name: string) =>
    change({ class: classes.includes(name) ? classes.filter((c) => c !== name) : [...classes, name] });
  const filtered = filters.some((f) => params.has(f));
  return (
    <>
      <h1>Findings</h1>
      <div className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1 text-ink2">
        <Ways each={each} filtered={filtered} />
        {overview.data?.apart && !apart ? (
          <button
            type="button"
            className="cursor-pointer text-ink2 underline"
            onClick={() => change({ apart: "1", cause: undefined, class: undefined })}
          >
            {plural(overview.data.apart, "finding")} in test data, examples and vendored code{" "}
            {overview.data.apart === 1 ? "counts" : "count"} apart
          </button>
        ) : null}
      </div>
      <div className="my-3 flex flex-wrap gap-2">
        {(apart ? [] : (overview.data?.classes ?? [])).map((c) => (
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
      {each ? (
        <Each overview={overview.data} filtered={filtered} />
      ) : (
        <Causes overview={overview.data} filtered={filtered} />
      )}
    </>
  );
}

/** Causes, or each finding. */
function Ways({ each, filtered }: { each: boolean; filtered: boolean }) {
  const change = useChange();
  const way = (on: boolean) =>
    `cursor-pointer rounded-[5px] px-2 ${on ? "bg-accent-soft font-medium text-ink" : "text-ink2 hover:text-ink"}`;
  return (
    <>
      <fieldset className="flex gap-0.5 rounded-[7px] border border-control bg-panel p-px">
        <legend className="sr-only">Show</legend>
        <button
          type="button"
          aria-pressed={!each}
          className={way(!each)}
          onClick={() => change({ each: undefined, cause: undefined, apart: undefined })}
        >
          Causes
        </button>
        <button type="button" aria-pressed={each} className={way(each)} onClick={() => change({ each: "1" })}>
          Each finding
        </button>
      </fieldset>
      {filtered ? (
        <button
          type="button"
          className="cursor-pointer text-accent underline"
          onClick={() => change(Object.fromEntries(filters.map((f) => [f, undefined])))}
        >
          show all
        </button>
      ) : null}
    </>
  );
}

/** What the URL filters by, as the API takes it. */
function useFilter() {
  const lens = useLens();
  const [params] = useSearchParams();
  const classes = params.getAll("class");
  const severities = params.getAll("severity") as Severity[];
  const numberOf = (name: string) => (params.has(name) ? Number(params.get(name)) : undefined);
  return {
    ...lens,
    class: classes.length ? classes : undefined,
    severity: severities.length ? severities : undefined,
    repository: params.get("repository") ?? undefined,
    age: numberOf("age"),
    over: numberOf("over"),
    q: params.get("q") ?? undefined,
    limit: pageSize,
  };
}

type Shown = { overview: Schemas["Overview"] | undefined; filtered: boolean };

function Causes({ overview, filtered }: Shown) {
  const filter = useFilter();
  const [params] = useSearchParams();
  const list = useInfiniteQuery({
    queryKey: ["causes", filter],
    queryFn: ({ pageParam }) => data(api.GET("/api/causes", { params: { query: { ...filter, offset: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const shown = pages.reduce((n, p) => n + p.causes.length, 0);
      return shown < last.total ? shown : undefined;
    },
  });
  const causes = list.data?.pages.flatMap((p) => p.causes) ?? [];
  const total = list.data?.pages[0]?.total ?? 0;
  const kept = Object.fromEntries(
    ["class", "severity", "repository", "age", "over", "q"].map((f) => [f, params.getAll(f)]),
  );
  return (
    <>
      <Status text={list.isPending ? undefined : plural(total, "cause")} filtered={filtered} one={total === 1} />
      {list.error ? <Failure error={list.error} /> : null}
      {list.isPending ? <Loading what="the causes" /> : null}
      {list.isSuccess && causes.length === 0 ? <Nothing overview={overview} filtered={filtered} what="cause" /> : null}
      {causes.length > 0 ? (
        <div className="panel px-4">
          <h2 className="sr-only">Causes</h2>
          <CauseList causes={causes} query={kept} />
        </div>
      ) : null}
      <More left={list.hasNextPage ? total - causes.length : 0} onMore={() => list.fetchNextPage()} />
    </>
  );
}

function Each({ overview, filtered }: Shown) {
  const [params] = useSearchParams();
  const filter = {
    ...useFilter(),
    cause: params.get("cause") ?? undefined,
    apart: params.has("apart") ? true : undefined,
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
  return (
    <>
      <Status text={list.isPending ? undefined : plural(total, "finding")} filtered={filtered} one={total === 1} />
      {list.error ? <Failure error={list.error} /> : null}
      {list.isPending ? <Loading what="the findings" /> : null}
      {list.isSuccess && findings.length === 0 ? (
        <Nothing overview={overview} filtered={filtered} what="finding" />
      ) : null}
      {findings.length > 0 ? (
        <div className="panel px-4">
          <h2 className="sr-only">List</h2>
          <FindingList findings={findings} withRepository />
        </div>
      ) : null}
      <More left={list.hasNextPage ? total - findings.length : 0} onMore={() => list.fetchNextPage()} />
    </>
  );
}

/** How many there are, and by what they were chosen. */
function Status({ text, filtered, one }: { text: string | undefined; filtered: boolean; one: boolean }) {
  const [params] = useSearchParams();
  const severities = params.getAll("severity");
  const said = [
    params.has("repository") ? `in ${params.get("repository")}` : "",
    severities.length ? `severity ${severities.join(" or ")}` : "",
    opened(params.get("age"), params.get("over")),
    params.has("cause") ? "of one cause" : "",
    params.has("apart") ? "in folders that count apart" : "",
  ].filter(Boolean);
  return (
    <p className="mb-2 text-ink2" role="status">
      {text === undefined ? "Reading …" : `${text}${filtered ? (one ? " matches" : " match") : ""}`}
      {said.map((s) => `, ${s}`).join("")}
    </p>
  );
}

function Nothing({ overview, filtered, what }: Shown & { what: string }) {
  return (
    <Empty title={filtered ? `No ${what} matches` : `No ${what}s`}>
      {filtered ? "Take a filter away to see more." : nothingFound(overview)}
    </Empty>
  );
}

function More({ left, onMore }: { left: number; onMore: () => void }) {
  if (left <= 0) return null;
  return (
    <button type="button" className="control mt-3" onClick={onMore}>
      Show more ({number(left)} left)
    </button>
  );
}
