import type { Schemas } from "../api/client";
import { Panel } from "./Panel";

type Folder = Schemas["PathFolder"];
type Run = { name: string; title: string; at: number; version: string; proxy: boolean; wins: boolean; leads: string };

/**
 * PATH as a race: the folders stand left to right in the order in which they are asked, each
 * name runs along until the first folder that has it, and what stands behind that is shadowed.
 */
export function PathRace({ folders, titles }: { folders: Folder[]; titles: Record<string, string> }) {
  const there = folders.filter((f) => f.there && (f.tools ?? []).length > 0);
  const absent = folders.filter((f) => !f.there);
  const lanes = lanesOf(there, titles);
  if (lanes.length === 0) return null;
  return (
    <Panel title="What PATH runs" className="mt-3.5">
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is to be reached by keys */}
      <section className="relative overflow-x-auto" aria-label="PATH, name by name" tabIndex={0}>
        <table className="border-separate border-spacing-0">
          <thead>
            <tr>
              <th scope="col" className="py-1 pr-4 text-left text-small font-medium text-ink2">
                Name
              </th>
              {there.map((f, i) => (
                <th
                  key={f.folder}
                  scope="col"
                  className="max-w-44 px-2 py-1 text-left align-bottom text-small font-medium text-ink2"
                >
                  {i + 1}
                  <span className="block font-mono font-normal [overflow-wrap:anywhere]">{f.folder}</span>
                  {f.from ? (
                    <span className="block font-normal text-ink3 [overflow-wrap:anywhere]">{f.from}</span>
                  ) : null}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {lanes.map((lane) => (
              <Lane key={lane.name} lane={lane} columns={there.length} />
            ))}
          </tbody>
        </table>
      </section>
      {absent.length > 0 ? (
        <p className="mt-2 text-small text-ink2 [overflow-wrap:anywhere]">
          On PATH and not there: <span className="font-mono">{absent.map((f) => f.folder).join(", ")}</span>
        </p>
      ) : null}
    </Panel>
  );
}

type LaneOf = { name: string; title: string; runs: Run[] };

/** The lanes, one a name; names that lead to the same everywhere are one lane. */
function lanesOf(folders: Folder[], titles: Record<string, string>): LaneOf[] {
  const byName = new Map<string, LaneOf>();
  folders.forEach((f, at) => {
    for (const t of f.tools ?? []) {
      const lane = byName.get(t.name) ?? { name: t.name, title: titles[t.tool] ?? t.tool, runs: [] };
      lane.runs.push({
        name: t.name,
        title: lane.title,
        at,
        version: t.version ?? "",
        proxy: t.proxy ?? false,
        wins: t.wins ?? false,
        leads: t.leads ?? "",
      });
      byName.set(t.name, lane);
    }
  });
  const same = new Map<string, LaneOf>();
  for (const lane of [...byName.values()].sort(
    (a, b) => a.title.localeCompare(b.title) || a.name.length - b.name.length,
  )) {
    const key = lane.title + lane.runs.map((r) => `${r.at} ${r.version} ${r.wins} ${r.proxy}`).join();
    const known = same.get(key);
    if (known) known.name += `, ${lane.name}`;
    else same.set(key, lane);
  }
  return [...same.values()];
}

function Lane({ lane, columns }: { lane: LaneOf; columns: number }) {
  const winner = lane.runs.find((r) => r.wins)?.at ?? -1;
  return (
    <tr>
      <th scope="row" className="border-t border-line py-1.5 pr-4 text-left align-middle font-normal">
        <span className="font-mono text-mono">{lane.name}</span>{" "}
        <span className="text-small text-ink2">{lane.title}</span>
      </th>
      {Array.from({ length: columns }, (_, i) => {
        const run = lane.runs.find((r) => r.at === i);
        const track =
          i < winner
            ? "bg-[linear-gradient(var(--w-met),var(--w-met))]"
            : i === winner
              ? "bg-[linear-gradient(var(--w-met),var(--w-met))]"
              : "";
        return (
          <td
            // biome-ignore lint/suspicious/noArrayIndexKey: the folders keep their places
            key={i}
            className={`border-t border-line bg-no-repeat px-2 py-1.5 ${track}`}
            style={
              track
                ? { backgroundSize: i === winner ? "14px 2px" : "100% 2px", backgroundPosition: "left center" }
                : undefined
            }
          >
            {run ? <Runner run={run} /> : null}
          </td>
        );
      })}
    </tr>
  );
}

function Runner({ run }: { run: Run }) {
  const text = run.version || (run.leads ? "unknown" : "leads nowhere");
  if (run.wins) {
    return (
      <span className="inline-block rounded-full bg-met-soft px-2 font-mono text-mono whitespace-nowrap text-ink ring-1 ring-met">
        {text}
        {run.proxy ? <span className="font-sans text-small text-ink2"> by proxy</span> : null}
        <span className="sr-only"> runs</span>
      </span>
    );
  }
  return (
    <span className="inline-block rounded-full px-2 font-mono text-mono whitespace-nowrap text-ink2 ring-1 ring-rule">
      <s>{text}</s>
      <span className="font-sans text-small"> shadowed</span>
    </span>
  );
}
