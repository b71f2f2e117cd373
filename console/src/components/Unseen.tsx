import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useKeepLens } from "../lens";
import { number, repositoryPage } from "../words";

type Gap = Schemas["Gap"];

/** What was not seen on which something rests: all that is more than told. */
export function blinding(gaps: Gap[]): Gap[] {
  return gaps.filter((g) => g.weight !== "told");
}

/** Where in its repository something stands that was not seen: "pom.xml:3". */
function placeIn(g: Gap): string {
  return g.file ? `${g.file}${g.line ? `:${g.line}` : ""}` : (g.folder ?? "");
}

/** What was not seen, and so what rests on it is not known. */
export function Unseen({ gaps, total = gaps.length }: { gaps: Gap[]; total?: number }) {
  const keep = useKeepLens();
  if (gaps.length === 0) return null;
  return (
    <div className="mt-2 rounded-md bg-warning-soft px-2.5 py-1.5 text-body text-ink">
      <p className="font-semibold">Not seen, and so what rests on it is not known</p>
      <ul>
        {gaps.map((g) => (
          <li key={`${g.repository} ${placeIn(g)} ${g.what}`} className="[overflow-wrap:anywhere]">
            {g.repository ? (
              <Link to={keep(repositoryPage(g.repository))} className="text-ink underline">
                {g.repository}
              </Link>
            ) : null}
            {placeIn(g) ? <span className="font-mono text-mono"> {placeIn(g)}</span> : null}
            {g.repository || placeIn(g) ? ": " : ""}
            {g.what}
          </li>
        ))}
      </ul>
      {total > gaps.length ? <p className="text-ink2">and {number(total - gaps.length)} more.</p> : null}
    </div>
  );
}
