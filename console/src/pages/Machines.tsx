import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { Panel } from "../components/Panel";
import { Empty, Waiting } from "../components/States";
import { useKeepLens } from "../lens";
import { Heading } from "../page";
import { day, machineKinds, machinePage, number, plural } from "../words";

type Summary = Schemas["MachineSummary"];

/** Which machines there are, how much can run on them, and who has not reported. */
export function Machines() {
  const keep = useKeepLens();
  const [words, setWords] = useState("");
  const q = useQuery({ queryKey: ["machines"], queryFn: () => data(api.GET("/api/machines")) });
  if (!q.data) return <Waiting error={q.error} what="the machines" />;
  const { machines, groups } = q.data;
  if (machines.length === 0) {
    return (
      <>
        <Heading title="Machines" className="mb-3" />
        <Empty title="No machine has sent its inventory yet">
          On each machine: <code className="font-mono text-mono">wexo machines send --every 6h</code>
        </Empty>
      </>
    );
  }
  const late = machines.filter((m) => m.stale);
  const ready = machines.filter((m) => m.ready === m.repositories);
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = machines.filter((m) => {
    const text = [m.name, m.kind, m.os, m.arch, m.parent, ...m.tags].join(" ").toLowerCase();
    return wanted.every((w) => text.includes(w));
  });
  return (
    <>
      <div className="flex flex-wrap items-start justify-between gap-x-4 gap-y-2">
        <div>
          <Heading title="Machines" />
          <p className="mt-1 max-w-[720px] text-lead text-ink2">
            {number(ready.length)} of {plural(machines.length, "machine")}{" "}
            {ready.length === 1 ? "is ready for all that matters to it" : "are ready for all that matters to them"}
            {late.length > 0 ? (
              <>
                ; <span className="font-semibold text-warning">{number(late.length)}</span>{" "}
                {late.length === 1 ? "has" : "have"} not reported in time
              </>
            ) : null}
            .
          </p>
        </div>
        <Link to={keep("/compare")} className="rounded-[7px] border border-control bg-panel px-3 py-1 font-medium">
          Compare two
        </Link>
      </div>
      {groups.length > 0 ? <Groups groups={groups} /> : null}
      <Panel title="All machines" className="mt-3.5">
        {machines.length > 8 ? (
          <input
            type="search"
            aria-label="Only machines with these words"
            placeholder="Name, kind, system or tag"
            className="mb-2 w-full max-w-72 rounded-[7px] border border-control bg-panel px-2.5 py-[3px] placeholder:text-ink3"
            value={words}
            onChange={(e) => setWords(e.target.value)}
          />
        ) : null}
        <Table machines={shown} />
        {shown.length === 0 ? <p className="text-ink2">No machine has all of these words.</p> : null}
      </Panel>
    </>
  );
}

/** How far machines with one tag are ready for what they build. */
function Groups({ groups }: { groups: Schemas["Group"][] }) {
  const keep = useKeepLens();
  return (
    <Panel title="Groups" className="mt-3.5">
      <ul className="divide-y divide-line">
        {groups.map((g) => (
          <li
            key={g.tag}
            className="grid grid-cols-1 items-center gap-x-4 gap-y-0.5 py-2 md:grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)]"
          >
            <div className="min-w-0 [overflow-wrap:anywhere]">
              <h3 className="font-semibold">{g.title}</h3>
              <p className="text-small text-ink2">
                {g.machines.map((name, i) => (
                  <span key={name}>
                    {i > 0 ? ", " : ""}
                    <Link to={keep(machinePage(name))} className="text-ink2 underline">
                      {name}
                    </Link>
                  </span>
                ))}
                {g.stale > 0 ? <span className="text-warning">, {number(g.stale)} late</span> : null}
              </p>
            </div>
            <Ready ready={g.ready} of={g.repositories} />
          </li>
        ))}
      </ul>
    </Panel>
  );
}

/** For how many repositories all is there that they ask for: a bar, and the words beside it. */
function Ready({ ready, of }: { ready: number; of: number }) {
  if (of === 0) return <span className="text-ink2">matters to no repository</span>;
  return (
    <span className="flex items-center gap-2">
      <span
        className="h-2 w-24 shrink-0 overflow-hidden rounded-full bg-error-soft ring-1 ring-line"
        aria-hidden="true"
      >
        <span className="block h-full bg-met" style={{ width: `${(100 * ready) / of}%` }} />
      </span>
      <span className={ready === of ? "text-ink2" : "text-ink"}>
        {ready === of ? `ready for all ${number(of)}` : `${number(ready)} of ${number(of)}`}
      </span>
    </span>
  );
}

function Table({ machines }: { machines: Summary[] }) {
  const keep = useKeepLens();
  return (
    <table className="w-full max-md:block">
      <thead className="text-left text-small text-ink2 max-md:sr-only">
        <tr>
          {["Machine", "System", "Ready for repositories", "Installations", "Reported"].map((t) => (
            <th key={t} scope="col" className="py-1 pr-3 font-medium">
              {t}
            </th>
          ))}
        </tr>
      </thead>
      <tbody className="max-md:block">
        {machines.map((m) => (
          <tr key={m.name} className="border-t border-line align-top max-md:block max-md:py-1.5">
            <td className="py-1.5 pr-3 [overflow-wrap:anywhere] max-md:block max-md:py-0">
              <Link to={keep(machinePage(m.name))} className="font-semibold text-ink hover:underline">
                {m.name}
              </Link>{" "}
              <span className="text-ink2">{machineKinds[m.kind] ?? m.kind}</span>
              {m.parent ? <span className="text-ink2"> in {m.parent}</span> : null}
              {m.tags.length > 0 ? <span className="block text-small text-ink2">{m.tags.join(", ")}</span> : null}
            </td>
            <td className="py-1.5 pr-3 text-ink2 max-md:inline max-md:py-0">
              {m.os} {m.arch}
            </td>
            <td className="py-1.5 pr-3 max-md:block max-md:py-0">
              <Ready ready={m.ready} of={m.repositories} />
            </td>
            <td className="py-1.5 pr-3 text-ink2 max-md:inline max-md:py-0">
              {number(m.installations)}
              {m.broken > 0 ? <span className="text-error">, {number(m.broken)} broken</span> : null}
              <span className="md:hidden"> {m.installations === 1 ? "installation" : "installations"}</span>
            </td>
            <td className="py-1.5 text-ink2 max-md:block max-md:py-0">
              <span className="md:hidden">reported </span>
              {day(m.takenAt)}
              {m.stale ? <span className="font-medium text-warning"> late</span> : null}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
