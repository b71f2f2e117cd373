import type { Schemas } from "../api/client";
import { number } from "../words";

type Gap = Schemas["Gap"];

/** What was not seen on which something rests: all that is more than told. */
export function blinding(gaps: Gap[]): Gap[] {
  return gaps.filter((g) => g.weight !== "told");
}

/** Where something stands that was not seen: "seed-ledger/pom.xml:3". */
function placeOf(g: Gap): string {
  const at = g.file ? `${g.file}${g.line ? `:${g.line}` : ""}` : (g.folder ?? "");
  return [g.repository, at].filter(Boolean).join("/");
}

/** What was not seen, and so what rests on it is not known. */
export function Unseen({ gaps, total = gaps.length }: { gaps: Gap[]; total?: number }) {
  if (gaps.length === 0) return null;
  return (
    <div className="mt-2 rounded-md bg-warning-soft px-2.5 py-1.5 text-body text-ink">
      <p className="font-semibold">Not seen, and so what rests on it is not known</p>
      <ul>
        {gaps.map((g) => (
          <li key={`${placeOf(g)} ${g.what}`} className="[overflow-wrap:anywhere]">
            {placeOf(g) ? <span className="font-mono text-mono">{placeOf(g)}</span> : null}
            {placeOf(g) ? ": " : ""}
            {g.what}
          </li>
        ))}
      </ul>
      {total > gaps.length ? <p className="text-ink2">and {number(total - gaps.length)} more.</p> : null}
    </div>
  );
}
