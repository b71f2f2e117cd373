import type { Schemas } from "../api/client";
import { kindOf, several, severityText } from "../words";
import { Mark } from "./Mark";

type Resolution = Schemas["Resolution"];
type Rung = Schemas["Rung"];

const names: Record<Rung["source"], string> = {
  override: "Override",
  pin: "Pin",
  "inherited-pin": "Inherited pin",
  baseline: "Baseline",
  default: "Default",
  path: "First on PATH",
};

const silent: Record<Rung["source"], string> = {
  override: "none on this machine",
  pin: "no version file here",
  "inherited-pin": "none above",
  baseline: "none adopted",
  default: "the user has none",
  path: "not on PATH",
};

const stateSeverity: Record<Resolution["state"], string> = {
  met: "met",
  missing: "error",
  conflict: "error",
  unpinned: "warning",
  absent: "note",
  unknown: "warning",
};

/** Every rung, also those that said nothing; the deciding one is marked. */
export function Ladder({ resolution: r, title }: { resolution: Resolution; title: string }) {
  return (
    <div>
      <p className="flex items-baseline gap-1.5 pb-1.5">
        <Mark kind={r.state} className={`translate-y-0.5 ${severityText[stateSeverity[r.state]]}`} silent />
        <span className="font-semibold">{kindOf(r.state).title}</span>
        <span className="text-ink2">{verdict(r, title)}</span>
      </p>
      <ol>
        {places(r.ladder).map(([rung, ...others]) => (
          <RungRow key={rung.rung} rung={rung} others={others} together={r.machines.length > 1} />
        ))}
      </ol>
    </div>
  );
}

/** The answers on each place of a ladder; machines may differ. */
function places(ladder: Rung[]): [Rung, ...Rung[]][] {
  const out: [Rung, ...Rung[]][] = [];
  for (const rung of ladder) {
    const last = out[out.length - 1];
    if (last?.[0].rung === rung.rung) last.push(rung);
    else out.push([rung]);
  }
  return out;
}

function RungRow({ rung, others, together }: { rung: Rung; others: Rung[]; together: boolean }) {
  const answers = [rung, ...others];
  const quiet = answers.some((a) => a.says) ? "" : "text-ink3";
  return (
    <li className={`grid grid-cols-[20px_104px_minmax(0,1fr)] border-t border-line py-1.5 ${quiet}`}>
      <span className={rung.decides ? "text-accent" : "text-ink3"} aria-hidden="true">
        {rung.decides ? "▶" : rung.rung}
      </span>
      <span className={rung.decides ? "font-semibold" : "font-medium"}>
        {names[rung.source]}
        {rung.decides ? <span className="sr-only"> (decides)</span> : null}
      </span>
      <div className="[overflow-wrap:anywhere]">
        {answers.map((a) => (
          <div key={a.machines?.join() ?? ""} className={answers.length > 1 ? "pb-1" : ""}>
            {a.says ? <Said rung={a} /> : together && a.source === "override" ? "none on them" : silent[a.source]}
            {a.machines ? <span className="block text-small text-ink2">on {several(a.machines, 6)}</span> : null}
          </div>
        ))}
      </div>
    </li>
  );
}

function Said({ rung }: { rung: Rung }) {
  const weight = rung.decides ? "font-semibold" : "";
  return (
    <>
      {rung.raw ? <span className="font-mono text-mono">{rung.raw} </span> : null}
      {rung.where && rung.where !== rung.path ? (
        <span className="font-mono text-mono text-ink2">{rung.where} </span>
      ) : null}
      {rung.source === "path" && !rung.version ? null : (
        <span className={weight}>→ {rung.version || "not installed"}</span>
      )}
      {rung.path ? <span className="block font-mono text-small text-ink3">{rung.path}</span> : null}
      {rung.note ? <span className="block text-small text-ink2">{rung.note}</span> : null}
    </>
  );
}

function verdict(r: Resolution, title: string): string {
  const by =
    r.decidedBy === "path" ? "the first one on PATH" : `the ${names[r.decidedBy as Rung["source"]]?.toLowerCase()}`;
  if (r.starts) {
    const starts = r.starts === "proxy" ? "a proxy" : `${title} ${r.starts}`;
    return `${starts} starts, fetches ${title} ${r.version}, which is asked for, and runs it`;
  }
  switch (r.state) {
    case "met":
      if (r.asItIs)
        return `by ${by}: ${title} ${r.version} runs where something follows version files; as it is, PATH runs ${r.asItIs.map((one) => (r.machines.length > 1 ? `${one.version} on ${several(one.machines, 3)}` : one.version)).join(", ")}`;
      return `by ${by}: ${title} ${r.version} runs`;
    case "missing":
      return `${by} decides, and nothing installed fits it`;
    case "unpinned":
      return `${by} runs: ${title} ${r.version}`;
    case "conflict":
      return r.version
        ? `no version satisfies every claim; ${r.version} runs by ${by}`
        : "no version satisfies every claim";
    case "absent":
      return `nothing decides, and there is no ${title} here`;
    default:
      return "the version that would run cannot be told";
  }
}
