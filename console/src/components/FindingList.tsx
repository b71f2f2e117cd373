import { Fragment } from "react";
import { Link } from "react-router";
import type { Finding } from "../api/client";
import { useKeepLens } from "../lens";
import { day, kindOf, repositoryPage, several, severityText } from "../words";
import { CopyButton } from "./CopyButton";
import { Mark } from "./Mark";
import { PlaceOf } from "./PlaceOf";

type Props = {
  findings: Finding[];
  withRepository?: boolean;
  /** Where the files of each repository are shown. */
  links?: Record<string, string>;
  /** The fingerprints that are selected, and how to change that; nothing can be selected where it is left out. */
  selection?: { has: (f: Finding) => boolean; toggle: (f: Finding) => void };
};

/** Findings as sentences: what is, where, why it matters, what to do. */
export function FindingList({ findings, withRepository = false, links = {}, selection }: Props) {
  return (
    <ul className="divide-y divide-line">
      {findings.map((f) => (
        <FindingItem
          key={keyOf(f)}
          finding={f}
          withRepository={withRepository}
          link={links[f.repository]}
          selection={selection}
        />
      ))}
    </ul>
  );
}

/** What tells findings of all repositories apart. */
export function keyOf(f: Finding): string {
  return `${f.repository}\n${f.fingerprint}`;
}

/** A finding's places as they are copied: with the repository, one a line. */
export function placesOf(f: Finding): string {
  const places = f.evidence.filter((e) => e.file);
  if (places.length === 0) return f.repository || f.machines.join(", ");
  return places
    .map((e) => `${f.repository ? `${f.repository}/` : ""}${e.file}${e.line ? `:${e.line}` : ""}`)
    .join("\n");
}

/** A finding's remedy as it is copied. */
export function remedyOf(f: Finding): string {
  const where = f.repository || f.machines.join(", ");
  return `${where}: ${f.remedy}${f.configuration ? `\n${f.configuration}` : ""}`;
}

function FindingItem({
  finding: f,
  withRepository,
  link,
  selection,
}: {
  finding: Finding;
  withRepository: boolean;
  link?: string;
  selection: Props["selection"];
}) {
  const keep = useKeepLens();
  const kind = kindOf(f.class);
  const title = f.title ? `${f.title}: ${kind.title.toLowerCase()}` : kind.title;
  const places = f.evidence.filter((e) => e.file);
  return (
    <li className="grid grid-cols-[20px_minmax(0,1fr)] gap-x-2 py-2.5 md:grid-cols-[20px_minmax(0,1fr)_minmax(220px,300px)]">
      <span className="flex flex-col items-center gap-1.5">
        <Mark kind={f.class} className={`mt-[3px] ${severityText[f.severity]}`} silent />
        {selection ? (
          <input
            type="checkbox"
            className="h-4 w-4 accent-accent"
            aria-label={`Select ${title} ${f.repository || several(f.machines)}`}
            checked={selection.has(f)}
            onChange={() => selection.toggle(f)}
          />
        ) : null}
      </span>
      <div className="min-w-0">
        <h3 className="font-semibold">
          {title} <span className={`text-small font-medium ${severityText[f.severity]}`}>{f.severity}</span>
          {f.apart ? <span className="ml-2 text-small font-medium text-ink2">counts apart</span> : null}
          {withRepository && !f.repository ? <span className="ml-2 font-medium">{several(f.machines)}</span> : null}
          {withRepository && f.repository ? (
            <Link
              className="ml-2 font-medium underline-offset-2 hover:underline"
              to={keep(repositoryPage(f.repository), { tool: f.tool || undefined, folder: f.folder || undefined })}
            >
              {f.repository}
              {f.folder ? `/${f.folder}` : ""}
            </Link>
          ) : null}
        </h3>
        <p className="text-ink2 [overflow-wrap:anywhere]">{f.message}</p>
        <p className="mt-0.5 text-small text-ink2 [overflow-wrap:anywhere]">
          {places.map((e, i) => (
            <Fragment key={`${e.file}:${e.line}:${e.column}:${e.raw}`}>
              {i > 0 ? " · " : ""}
              <PlaceOf repository={f.repository} place={e} link={link} />
            </Fragment>
          ))}
          {f.firstSeen ? <span> first seen {day(f.firstSeen)}</span> : null}
        </p>
      </div>
      <div className="col-start-2 text-accent [overflow-wrap:anywhere] md:col-start-3">
        <span className="sr-only">Remedy: </span>
        {f.remedy}
        {f.configuration ? (
          <code className="mt-1 block rounded-md bg-sunk px-2 py-1 font-mono text-mono whitespace-pre-wrap text-ink">
            {f.configuration}
          </code>
        ) : null}{" "}
        <CopyButton text={remedyOf(f)} what={`the remedy of ${title}`}>
          copy
        </CopyButton>
      </div>
    </li>
  );
}
