import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, data, type Schemas, type Severity } from "../api/client";
import { CauseList } from "../components/CauseList";
import { FindingFilters } from "../components/FindingFilters";
import { FindingList, keyOf, placesOf, remedyOf } from "../components/FindingList";
import { Empty, Waiting } from "../components/States";
import { Word } from "../components/Word";
import { copy } from "../copy";
import { useChange, useLens } from "../lens";
import { Heading } from "../page";
import { nothingFound, number, opened, plural } from "../words";

const pageSize = 50;

const filters = ["class", "severity", "repository", "tool", "tag", "age", "over", "q", "cause", "apart"];

/** What is wrong: its causes first, each finding one step behind. Filters live in the URL. */
export function Findings() {
  const lens = useLens();
  const [params] = useSearchParams();
  const change = useChange();
  const cause = params.get("cause");
  const apart = params.has("apart");
  const each = params.has("each") || cause !== null || apart;
  const overview = useQuery({
    queryKey: ["overview", lens],
    queryFn: () => data(api.GET("/api/overview", { params: { query: lens } })),
  });
  const filtered = filters.some((f) => params.has(f));
  return (
    <>
      <Heading title="Findings" />
      <div className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1 text-ink2">
        <Ways each={each} filtered={filtered} />
        <span>
          A <Word id="cause">cause</Word> is what one act would mend; the worst stand first, then those that reach
          furthest.
        </span>
        {overview.data?.apart && !apart ? (
          <button
            type="button"
            className="cursor-pointer text-left text-ink2 underline"
            onClick={() => change({ apart: "1", cause: undefined, class: undefined })}
          >
            {plural(overview.data.apart, "finding")} in test data, examples and vendored code{" "}
            {overview.data.apart === 1 ? "counts" : "count"} apart
          </button>
        ) : null}
      </div>
      <FindingFilters overview={overview.data} apart={apart} />
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
  const some = (name: string) => (params.has(name) ? params.getAll(name) : undefined);
  const numberOf = (name: string) => (params.has(name) ? Number(params.get(name)) : undefined);
  return {
    ...lens,
    class: classes.length ? classes : undefined,
    severity: severities.length ? severities : undefined,
    repository: some("repository"),
    tool: some("tool"),
    tag: some("tag"),
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
    placeholderData: keepPreviousData,
  });
  const causes = list.data?.pages.flatMap((p) => p.causes) ?? [];
  const total = list.data?.pages[0]?.total ?? 0;
  const kept = Object.fromEntries(
    ["class", "severity", "repository", "tool", "tag", "age", "over", "q"].map((f) => [f, params.getAll(f)]),
  );
  return (
    <>
      <Status
        text={list.data && !list.isPlaceholderData ? plural(total, "cause") : undefined}
        filtered={filtered}
        one={total === 1}
      />
      {list.data ? null : <Waiting error={list.error} what="the causes" />}
      {list.isSuccess && !list.isPlaceholderData && causes.length === 0 ? (
        <Nothing overview={overview} filtered={filtered} what="cause" />
      ) : null}
      {causes.length > 0 ? (
        <div className="panel px-4">
          <h2 className="sr-only">Causes</h2>
          <CauseList causes={causes} query={kept} copies />
        </div>
      ) : null}
      <More list={list} left={list.hasNextPage ? total - causes.length : 0} />
    </>
  );
}

function Each({ overview, filtered }: Shown) {
  const [params] = useSearchParams();
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const filter = {
    ...useFilter(),
    cause: params.get("cause") ?? undefined,
    apart: params.has("apart") ? true : undefined,
    sort: "need" as const,
  };
  const list = useInfiniteQuery({
    queryKey: ["findings", filter],
    queryFn: ({ pageParam }) => data(api.GET("/api/findings", { params: { query: { ...filter, offset: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const shown = pages.reduce((n, p) => n + p.findings.length, 0);
      return shown < last.total ? shown : undefined;
    },
    placeholderData: keepPreviousData,
  });
  const findings = list.data?.pages.flatMap((p) => p.findings) ?? [];
  const total = list.data?.pages[0]?.total ?? 0;
  return (
    <>
      <Status
        text={list.data && !list.isPlaceholderData ? plural(total, "finding") : undefined}
        filtered={filtered}
        one={total === 1}
      />
      {list.data ? null : <Waiting error={list.error} what="the findings" />}
      {list.isSuccess && !list.isPlaceholderData && findings.length === 0 ? (
        <Nothing overview={overview} filtered={filtered} what="finding" />
      ) : null}
      {findings.length > 0 ? (
        <div className="panel px-4">
          <h2 className="sr-only">List</h2>
          <Copies shown={findings} chosen={chosen} onChoose={setChosen} />
          <FindingList
            findings={findings}
            withRepository
            links={Object.assign({}, ...(list.data?.pages.map((p) => p.links) ?? []))}
            selection={{
              has: (f) => chosen.has(keyOf(f)),
              toggle: (f) => {
                const next = new Set(chosen);
                if (!next.delete(keyOf(f))) next.add(keyOf(f));
                setChosen(next);
              },
            }}
          />
        </div>
      ) : null}
      <More list={list} left={list.hasNextPage ? total - findings.length : 0} />
    </>
  );
}

type Choosing = {
  shown: Schemas["Finding"][];
  chosen: ReadonlySet<string>;
  onChoose: (chosen: ReadonlySet<string>) => void;
};

/** What can be done with the findings that are selected, or with all that are shown. */
function Copies({ shown, chosen, onChoose }: Choosing) {
  const selected = shown.filter((f) => chosen.has(keyOf(f)));
  const meant = selected.length > 0 ? selected : shown;
  const what = selected.length > 0 ? `${number(selected.length)} selected` : "all that are shown";
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line py-2 text-ink2">
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="h-4 w-4 accent-accent"
          checked={selected.length > 0 && selected.length === shown.length}
          ref={(box) => {
            if (box) box.indeterminate = selected.length > 0 && selected.length < shown.length;
          }}
          onChange={(e) => onChoose(new Set(e.target.checked ? shown.map(keyOf) : []))}
        />
        {selected.length > 0 ? `${number(selected.length)} selected` : "Select all"}
      </label>
      <button
        type="button"
        className="cursor-pointer text-accent underline"
        onClick={() => copy(`${meant.map(remedyOf).join("\n")}\n`, plural(meant.length, "remedy", "remedies"))}
      >
        Copy remedies<span className="sr-only"> of {what}</span>
      </button>
      <button
        type="button"
        className="cursor-pointer text-accent underline"
        onClick={() => copy(`${meant.map(placesOf).join("\n")}\n`, `the places of ${plural(meant.length, "finding")}`)}
      >
        Copy places<span className="sr-only"> of {what}</span>
      </button>
    </div>
  );
}

/** How many there are, and by what they were chosen. */
function Status({ text, filtered, one }: { text: string | undefined; filtered: boolean; one: boolean }) {
  const [params] = useSearchParams();
  const severities = params.getAll("severity");
  const said = [
    params.has("repository") ? `in ${params.getAll("repository").join(" or ")}` : "",
    params.has("tool") ? `on ${params.getAll("tool").join(" or ")}` : "",
    params.has("tag") ? `with the tag ${params.getAll("tag").join(" or ")}` : "",
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

type Pages = { fetchNextPage: () => unknown; error: Error | null; isPlaceholderData: boolean };

/** More of a list, and that more of it could not be read. */
function More({ left, list }: { left: number; list: Pages }) {
  if (left <= 0 || list.isPlaceholderData) return null;
  return (
    <>
      {list.error ? (
        <p role="alert" className="mt-3 text-error">
          The others could not be read: {list.error.message}
        </p>
      ) : null}
      <button type="button" className="control mt-3" onClick={() => list.fetchNextPage()}>
        Show more ({number(left)} left)
      </button>
    </>
  );
}
