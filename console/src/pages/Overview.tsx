import { useQuery } from "@tanstack/react-query";
import { scaleUtc } from "d3-scale";
import { utcMonth } from "d3-time";
import { useState } from "react";
import { Link } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { CauseList } from "../components/CauseList";
import { Mark } from "../components/Mark";
import { Panel } from "../components/Panel";
import { Empty, Waiting } from "../components/States";
import { SurveyButton } from "../components/SurveyButton";
import { Unseen } from "../components/Unseen";
import { useKeepLens, useLens } from "../lens";
import { Heading } from "../page";
import {
  ago,
  day,
  kindOf,
  machineKinds,
  machinePage,
  nothingFound,
  number,
  plural,
  repositoryPage,
  severityText,
} from "../words";

type Data = Schemas["Overview"];

/** So many repositories are named whose own rules take something away. */
const mostNamed = 5;

/** What repositories' own rules take away, which is in no count. */
function Taken({ taken }: { taken: Data["taken"] }) {
  const keep = useKeepLens();
  const named = taken.repositories.slice(0, mostNamed);
  const more = taken.repositories.length - named.length;
  return (
    <span className="block text-body">
      Repositories’ own rules take away {plural(taken.findings, "finding")} and {plural(taken.claims, "claim")}, in{" "}
      {named.map((name, i) => (
        <span key={name}>
          {i > 0 ? ", " : ""}
          <Link to={keep(repositoryPage(name))} className="text-ink2 underline">
            {name}
          </Link>
        </span>
      ))}
      {more > 0 ? ` and ${number(more)} more` : ""}.
    </span>
  );
}

/** What needs attention: by class and age, the year ahead, and how fresh all this is. */
export function Overview() {
  const lens = useLens();
  const keep = useKeepLens();
  const q = useQuery({
    queryKey: ["overview", lens],
    queryFn: () => data(api.GET("/api/overview", { params: { query: lens } })),
  });
  if (!q.data) return <Waiting error={q.error} what="the overview" />;
  const o = q.data;
  if (o.repositories === 0) {
    return (
      <>
        <Heading title="Overview" className="mb-3" />
        <Empty title="No repository has been read yet">
          Add some with <code className="font-mono text-mono">wexo repositories add PATH</code>, then start a survey.
          <div className="mt-3 flex justify-center">
            <SurveyButton />
          </div>
        </Empty>
      </>
    );
  }
  return (
    <>
      <div className="flex flex-wrap items-start justify-between gap-x-4 gap-y-2">
        <div>
          <Heading title="Overview" />
          <p className="mt-1 max-w-[720px] text-lead text-ink2">
            <Count
              to={keep("/findings", { severity: "error", each: "1" })}
              n={o.bySeverity.error}
              tone="text-error"
              word="error"
            />
            ,{" "}
            <Count
              to={keep("/findings", { severity: "warning", each: "1" })}
              n={o.bySeverity.warning}
              tone="text-warning"
              word="warning"
            />{" "}
            and{" "}
            <Count
              to={keep("/findings", { severity: "note", each: "1" })}
              n={o.bySeverity.note}
              tone="text-note"
              word="note"
            />{" "}
            in{" "}
            <Link
              to={keep("/matrix", { show: "troubled" })}
              className="font-semibold underline-offset-4 hover:underline"
            >
              {number(o.repositories - o.healthy - o.untold - o.taken.quiet)} of{" "}
              {plural(o.repositories, "repository", "repositories")}
            </Link>
            {o.healthy > 0 ? (
              <>
                ; {o.untold + o.taken.quiet > 0 ? "" : "the other "}
                <Link
                  to={keep("/matrix", { show: "healthy" })}
                  className="font-semibold underline-offset-4 hover:underline"
                >
                  {number(o.healthy)}
                </Link>{" "}
                {o.healthy === 1 ? "is" : "are"} sound
              </>
            ) : null}
            {o.untold > 0 && (
              <>
                , and of{" "}
                <Link
                  to={keep("/matrix", { show: "untold" })}
                  className="font-semibold underline-offset-4 hover:underline"
                >
                  {number(o.untold)}
                </Link>{" "}
                it cannot be told
              </>
            )}
            .
            {o.apart > 0 ? (
              <span className="block text-body">
                <Link to={keep("/findings", { apart: "1" })} className="text-ink2 underline">
                  {plural(o.apart, "finding")}
                </Link>{" "}
                in test data, examples and vendored code {o.apart === 1 ? "counts" : "count"} apart.
              </span>
            ) : null}
            {o.taken.repositories.length > 0 ? <Taken taken={o.taken} /> : null}
          </p>
          <Unseen gaps={o.unseen.first} total={o.unseen.total} />
        </div>
        <SurveyButton />
      </div>
      <div className="mt-4 grid grid-cols-1 gap-3.5 lg:grid-cols-[minmax(0,1.55fr)_minmax(0,1fr)]">
        <div className="flex min-w-0 flex-col gap-3.5">
          <First overview={o} />
          <Attention overview={o} />
        </div>
        <div className="flex min-w-0 flex-col gap-3.5">
          <Worst overview={o} />
          <Freshness overview={o} />
        </div>
        <YearAhead overview={o} />
      </div>
    </>
  );
}

/** What to do first: the causes that are worst and reach furthest. */
function First({ overview: o }: { overview: Data }) {
  const keep = useKeepLens();
  if (o.first.length === 0) return null;
  return (
    <Panel title="What to do first">
      <CauseList causes={o.first} />
      {o.causes > o.first.length ? (
        <p className="border-t border-line pt-2">
          <Link to={keep("/findings")} className="underline">
            All {number(o.causes)} causes
          </Link>
        </p>
      ) : null}
    </Panel>
  );
}

function Count({ to, n, word, tone }: { to: string; n: number; word: string; tone: string }) {
  return (
    <Link to={to} className={`font-semibold underline-offset-4 hover:underline ${tone}`}>
      {plural(n, word)}
    </Link>
  );
}

const ages = [
  { key: "week", title: "to 7 days", days: "7", over: undefined },
  { key: "month", title: "8 to 30", days: "30", over: "7" },
  { key: "quarter", title: "31 to 90", days: "90", over: "30" },
  { key: "older", title: "older", days: undefined, over: "90" },
] as const;

/** Findings by class and by the age of their first sight. */
function Attention({ overview: o }: { overview: Data }) {
  const keep = useKeepLens();
  if (o.classes.length === 0) {
    return (
      <Panel title="What needs attention">
        <p className="text-ink2">{nothingFound(o)}</p>
      </Panel>
    );
  }
  return (
    <Panel title="What needs attention">
      <table className="w-full">
        <thead>
          <tr className="text-small text-ink2">
            <th className="pb-1 text-left font-medium">Class</th>
            <th className="pb-1 text-right font-medium">All</th>
            {ages.map((a) => (
              <th key={a.key} className="pb-1 pl-2 text-right font-medium sm:w-[74px]">
                {a.title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {o.classes.map((c) => (
            <tr key={c.class} className="border-t border-line">
              <th scope="row" className="py-[5px] text-left font-normal">
                <Link
                  to={keep("/findings", { class: c.class, each: "1" })}
                  className="flex items-center gap-2 text-ink hover:underline"
                >
                  <Mark kind={c.class} className={severityText[c.severity]} silent />
                  {kindOf(c.class).title}
                  <span className={`text-small max-sm:hidden ${severityText[c.severity]}`}>{c.severity}</span>
                </Link>
              </th>
              <td className="text-right">
                <Link
                  to={keep("/findings", { class: c.class, each: "1" })}
                  className="font-semibold text-ink hover:underline"
                >
                  {number(c.total)}
                </Link>
              </td>
              {ages.map((a) => (
                <td key={a.key} className="text-right">
                  {c[a.key] === 0 ? (
                    <span className="text-ink3">–</span>
                  ) : (
                    <Link
                      to={keep("/findings", { class: c.class, age: a.days, over: a.over, each: "1" })}
                      className="text-ink hover:underline"
                    >
                      {number(c[a.key])}
                    </Link>
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-small text-ink2">Columns: how long ago a survey first saw them.</p>
    </Panel>
  );
}

function Worst({ overview: o }: { overview: Data }) {
  const keep = useKeepLens();
  return (
    <Panel title="Most errors">
      {o.worst.length === 0 ? <p className="text-ink2">No repository has an error.</p> : null}
      <ul>
        {o.worst.map((w) => (
          <li key={w.repository} className="flex justify-between border-t border-line py-1 first:border-0">
            <Link to={keep(repositoryPage(w.repository))} className="font-medium text-ink hover:underline">
              {w.repository}
            </Link>
            <span>
              <span className="text-error">{plural(w.errors, "error")}</span>
              {w.warnings ? <span className="text-warning">, {plural(w.warnings, "warning")}</span> : null}
            </span>
          </li>
        ))}
      </ul>
    </Panel>
  );
}

const mostMachines = 8;

function Freshness({ overview: o }: { overview: Data }) {
  const keep = useKeepLens();
  const [all, setAll] = useState(false);
  const oldest = o.freshness.machines.toSorted((a, b) => b.days - a.days);
  const shown = all ? oldest : oldest.slice(0, mostMachines);
  return (
    <Panel title="How fresh this is">
      <ul>
        <li className="flex justify-between border-b border-line py-1">
          <span className="font-medium">Repositories</span>
          <span className="text-ink2">
            {o.freshness.surveyedAt ? `surveyed ${day(o.freshness.surveyedAt)}` : "never surveyed"}
          </span>
        </li>
        {shown.map((m) => (
          <li key={m.name} className="flex justify-between border-t border-line py-1 first:border-0">
            <Link to={keep(machinePage(m.name))} className="font-medium text-ink hover:underline">
              {m.name} <span className="font-normal text-ink2">{machineKinds[m.kind] ?? m.kind}</span>
            </Link>
            <span className={m.days > 30 ? "text-warning" : "text-ink2"} title={day(m.takenAt)}>
              {m.days > 30 ? "stale: " : ""}
              {ago(m.days)}
            </span>
          </li>
        ))}
      </ul>
      {oldest.length > mostMachines ? (
        <button type="button" className="mt-1 cursor-pointer text-accent underline" onClick={() => setAll(!all)}>
          {all ? "Only the oldest" : `All ${oldest.length} machines`}
        </button>
      ) : null}
      {o.freshness.machines.length === 0 ? (
        <p className="text-ink2">
          No machine has sent its inventory: <code className="font-mono text-mono">wexo machines send</code>
        </p>
      ) : null}
    </Panel>
  );
}

/** The support ends of lines in use within the next twelve months, on a time axis. */
function YearAhead({ overview: o }: { overview: Data }) {
  const keep = useKeepLens();
  const start = new Date(o.asOf);
  const end = new Date(start);
  end.setUTCFullYear(end.getUTCFullYear() + 1);
  const x = scaleUtc([start, end], [0, 100]);
  const months = utcMonth.range(utcMonth.ceil(start), end);
  return (
    <Panel title="Support ending in the next twelve months" className="lg:col-span-2">
      {o.ending.length === 0 ? <p className="text-ink2">No line in use ends within a year.</p> : null}
      {o.ending.length > 0 ? (
        <>
          <div
            className="relative ml-[130px] h-5 overflow-hidden sm:ml-[190px] border-b border-rule"
            aria-hidden="true"
          >
            {months.map((m) => (
              <span
                key={m.toISOString()}
                className="absolute top-0 h-full border-l border-line pl-1 text-small text-ink2"
                style={{ left: `${x(m)}%` }}
              >
                {m.toLocaleString("en-GB", { month: "short", timeZone: "UTC" })}
                {m.getUTCMonth() === 0 ? ` ${m.getUTCFullYear()}` : ""}
              </span>
            ))}
          </div>
          <ul>
            {o.ending.map((l) => {
              const at = x(new Date(l.end));
              return (
                <li key={l.tool + l.line} className="flex items-center border-b border-line py-1 last:border-0">
                  <Link
                    to={keep("/matrix", { q: l.title })}
                    className="w-[130px] shrink-0 font-medium sm:w-[190px] text-ink hover:underline"
                  >
                    {l.title} {l.line}{" "}
                    <span className="font-normal text-ink2">
                      {plural(l.repositories, "repository", "repositories")}
                    </span>
                  </Link>
                  <div className="relative h-5 min-w-0 flex-1">
                    <div className="absolute top-2 h-1 rounded bg-met" style={{ left: 0, width: `${at}%` }} />
                    <div
                      className={`absolute top-0 flex items-center gap-1.5 whitespace-nowrap ${at > 70 ? "-translate-x-full flex-row-reverse" : ""}`}
                      style={{ left: `${at}%` }}
                    >
                      <Mark kind="support-ending" className="bg-panel text-warning" silent />
                      <span className="bg-panel px-1 text-small">{day(l.end)}</span>
                    </div>
                  </div>
                </li>
              );
            })}
          </ul>
        </>
      ) : null}
    </Panel>
  );
}
