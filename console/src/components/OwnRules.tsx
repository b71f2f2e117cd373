import type { Schemas } from "../api/client";
import { plural } from "../words";
import { Panel } from "./Panel";
import { PlaceOf } from "./PlaceOf";

type Rule = Schemas["OwnRule"];

/** What the repository's own rules take away: no verdict on it counts them, so nobody has to find out. */
export function OwnRules({ list, repository, link }: { list: Rule[]; repository: string; link: string }) {
  if (list.length === 0) return null;
  return (
    <Panel title="Taken away by its own rules" className="mt-3.5">
      <p className="mb-1 text-ink2">
        Without these rules of its own the repository would say more. What they take away is in no count; the lead
        decides which may be made.
      </p>
      <table className="w-full table-fixed max-sm:block">
        <thead className="sr-only">
          <tr>
            <th>Rule</th>
            <th>Where</th>
            <th>What it takes away</th>
          </tr>
        </thead>
        <tbody className="max-sm:block">
          {list.map((rule) => (
            <tr
              key={`${rule.line}:${rule.kind}:${rule.text}`}
              className="border-t border-line align-top max-sm:block max-sm:py-1"
            >
              <td className="py-1 pr-3 [overflow-wrap:anywhere] max-sm:block">
                {rule.kind} <span className="font-mono text-mono">{rule.text}</span>
              </td>
              <td className="py-1 pr-3 font-mono text-mono text-ink2 [overflow-wrap:anywhere] max-sm:block max-sm:py-0">
                <PlaceOf repository={repository} place={{ file: rule.file, line: rule.line, column: 1 }} link={link} />
              </td>
              <td className="py-1 max-sm:block max-sm:py-0">{taken(rule)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Panel>
  );
}

/** What a rule takes away, in words. */
function taken(rule: Rule): string {
  const parts = [
    [rule.findings.error, "error"],
    [rule.findings.warning, "warning"],
    [rule.findings.note, "note"],
    [rule.claims, "claim"],
  ] as const;
  return parts
    .filter(([n]) => n > 0)
    .map(([n, word]) => plural(n, word))
    .join(", ");
}
