import { Link } from "react-router";
import { useKeepLens } from "../lens";
import { type Cell, type Row, type Tool, untold } from "../matrix";
import { kindOf, plural, severityText } from "../words";
import { Mark } from "./Mark";

/** A repository's name, and how much of it is to be looked at. */
export function RepositoryCell({ row }: { row: Row }) {
  const wrong = row.cells.filter((c) => c.classes.length > 0).length;
  return (
    <>
      <div className="truncate font-semibold" title={row.repository}>
        {row.repository}
      </div>
      <div className="truncate text-small text-ink2">{attention(wrong, row)}</div>
    </>
  );
}

function attention(wrong: number, row: Row): string {
  const files = row.loose ? plural(row.loose, "file") : "";
  const tools = wrong ? (row.cells.length === 1 ? "1 tool" : `${wrong} of ${row.cells.length} tools`) : "";
  const what = [tools, files].filter(Boolean).join(" and ");
  if (what) return `${what} to look at`;
  return untold(row) ? "not all can be told" : "no findings";
}

const parts = [
  ["met", "bg-met", "sound"],
  ["note", "bg-note", "with notes, or that cannot be told"],
  ["warning", "bg-warning", "with warnings"],
  ["error", "bg-error", "with errors"],
] as const;

/** A tool's name over a bar of how it stands in all repositories. */
export function ToolHeader({
  tool: t,
  pinned,
  at,
  onFocus,
}: {
  tool: Tool;
  pinned: boolean;
  at: boolean;
  onFocus: () => void;
}) {
  const keep = useKeepLens();
  const there = parts.filter(([part]) => t[part] > 0);
  const text = there.map(([part, , word]) => `${t[part]} ${word}`).join(", ");
  return (
    <>
      <Link
        to={keep("/findings", { tool: t.tool, each: "1" })}
        className="truncate text-ink2 hover:underline"
        title={`${t.title}: its findings`}
        tabIndex={at ? 0 : -1}
        data-at={at}
        onFocus={onFocus}
      >
        {t.title}
        {pinned ? <span className="sr-only"> (pinned)</span> : null}
      </Link>
      <span className="mt-1 flex h-1.5 gap-px overflow-hidden rounded-[3px]" role="img" aria-label={text} title={text}>
        {there.map(([part, color]) => (
          <i key={part} className={color} style={{ flex: t[part] }} />
        ))}
      </span>
    </>
  );
}

/** What is asked for, over how that stands and what would run. */
export function ToolCell({ cell: c, narrow }: { cell: Cell | undefined; narrow: boolean }) {
  if (!c) return <span className="sr-only">not used</span>;
  const more = c.classes.length > 1 ? ` +${c.classes.length - 1}` : "";
  const kind = kindOf(c.kind);
  return (
    <div className="grid grid-cols-[16px_minmax(0,1fr)] gap-x-[5px]">
      <Mark kind={c.kind} className={`mt-[3px] ${severityText[c.severity]}`} silent />
      <span className="truncate font-mono text-mono" title={c.asked}>
        {c.asked}
      </span>
      <span
        className={`truncate text-small text-ink2 ${narrow ? "col-span-2" : "col-start-2"}`}
        title={`${kind.title}${more}: ${c.resolved}`}
      >
        <span className={`mr-1.5 font-medium ${severityText[c.severity]}`}>
          {kind.short}
          {more}
        </span>
        {narrow ? null : c.resolved}
      </span>
    </div>
  );
}
