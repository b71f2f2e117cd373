import { Link } from "react-router";
import type { Finding, Schemas } from "../api/client";
import { useKeepLens } from "../lens";
import { day, kindOf, repositoryPage, several, severityText } from "../words";
import { Mark } from "./Mark";

type Place = Pick<Schemas["Evidence"], "file" | "line" | "column">;

/** A place in a file: "package.json:4:12". */
export function placeOf(e: Place): string {
  return e.line ? `${e.file}:${e.line}${e.column ? `:${e.column}` : ""}` : e.file;
}

/** Findings as sentences: what is, where, why it matters, what to do. */
export function FindingList({ findings, withRepository = false }: { findings: Finding[]; withRepository?: boolean }) {
  return (
    <ul className="divide-y divide-line">
      {findings.map((f) => (
        <FindingItem key={f.fingerprint} finding={f} withRepository={withRepository} />
      ))}
    </ul>
  );
}

function FindingItem({ finding: f, withRepository }: { finding: Finding; withRepository: boolean }) {
  const keep = useKeepLens();
  const kind = kindOf(f.class);
  return (
    <li className="grid grid-cols-[20px_minmax(0,1fr)] gap-x-2 py-2.5 md:grid-cols-[20px_minmax(0,1fr)_minmax(220px,300px)]">
      <Mark kind={f.class} className={`mt-[3px] ${severityText[f.severity]}`} silent />
      <div className="min-w-0">
        <h3 className="font-semibold">
          {f.title ? `${f.title}: ${kind.title.toLowerCase()}` : kind.title}{" "}
          <span className={`text-small font-medium ${severityText[f.severity]}`}>{f.severity}</span>
          {f.apart ? <span className="ml-2 text-small font-medium text-ink2">counts apart</span> : null}
          {withRepository && !f.repository ? <span className="ml-2 font-medium">{several(f.machines)}</span> : null}
          {withRepository && f.repository ? (
            <Link
              className="ml-2 font-medium underline-offset-2 hover:underline"
              to={keep(repositoryPage(f.repository))}
            >
              {f.repository}
              {f.folder ? `/${f.folder}` : ""}
            </Link>
          ) : null}
        </h3>
        <p className="text-ink2 [overflow-wrap:anywhere]">{f.message}</p>
        <p className="mt-0.5 font-mono text-small text-ink3 [overflow-wrap:anywhere]">
          {f.evidence.map(placeOf).filter(Boolean).join(" · ")}
          {f.firstSeen ? <span className="font-sans"> first seen {day(f.firstSeen)}</span> : null}
        </p>
      </div>
      <p className="col-start-2 text-accent [overflow-wrap:anywhere] md:col-start-3">
        <span className="sr-only">Remedy: </span>
        {f.remedy}
        {f.configuration ? (
          <code className="mt-1 block rounded-md bg-sunk px-2 py-1 font-mono text-mono whitespace-pre-wrap text-ink">
            {f.configuration}
          </code>
        ) : null}
      </p>
    </li>
  );
}
