import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useKeepLens } from "../lens";
import { kindOf, plural, repositoryPage, severityText } from "../words";
import { CopyButton } from "./CopyButton";
import { Mark } from "./Mark";

type Cause = Schemas["Cause"];

/** Causes as sentences: what is wrong and how far it reaches, what to do, and the first places. */
export function CauseList({
  causes,
  query = {},
  copies = false,
}: {
  causes: Cause[];
  query?: Record<string, string | string[] | undefined>;
  /** Whether remedies can be copied. */
  copies?: boolean;
}) {
  return (
    <ol className="divide-y divide-line">
      {causes.map((c) => (
        <CauseItem key={c.id} cause={c} query={query} copies={copies} />
      ))}
    </ol>
  );
}

function CauseItem({
  cause: c,
  query,
  copies,
}: {
  cause: Cause;
  query: Record<string, string | string[] | undefined>;
  copies: boolean;
}) {
  const keep = useKeepLens();
  const more = c.findings - c.first.length;
  const several = c.repositories > 1 ? c.first[0]?.repository : undefined;
  return (
    <li className="grid grid-cols-[20px_minmax(0,1fr)] gap-x-2 py-2.5">
      <Mark kind={c.class} className={`mt-[3px] ${severityText[c.severity]}`} silent />
      <div className="min-w-0">
        <h3 className="font-semibold [overflow-wrap:anywhere]">
          <Link className="text-ink hover:underline" to={keep("/findings", { ...query, cause: c.id })}>
            {c.title}
          </Link>{" "}
          <span className={`text-small font-medium ${severityText[c.severity]}`}>
            {c.severity}, {kindOf(c.class).title.toLowerCase()}
          </span>
        </h3>
        <p className="text-accent [overflow-wrap:anywhere]">
          <span className="sr-only">Remedy: </span>
          {several ? `In ${several}: ` : ""}
          {c.remedy}{" "}
          {copies ? (
            <CopyButton text={`${several ? `In ${several}: ` : ""}${c.remedy}`} what="this remedy">
              copy
            </CopyButton>
          ) : null}
        </p>
        <p className="mt-0.5 text-small text-ink2 [overflow-wrap:anywhere]">
          {c.first
            .filter((p) => p.repository)
            .map((p, i) => (
              <span key={`${p.repository}:${p.file}:${p.line}`}>
                {i > 0 ? " · " : ""}
                <Link className="font-medium text-ink2 hover:underline" to={keep(repositoryPage(p.repository))}>
                  {p.repository}
                </Link>{" "}
                <span className="font-mono">
                  {p.file}
                  {p.line ? `:${p.line}` : ""}
                </span>
              </span>
            ))}
          {more > 0 ? (
            <>
              {c.first[0]?.repository ? " · " : ""}
              <Link className="text-ink2 underline" to={keep("/findings", { ...query, cause: c.id })}>
                {plural(more, "more finding")}
              </Link>
            </>
          ) : null}
        </p>
      </div>
    </li>
  );
}
