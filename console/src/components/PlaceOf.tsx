import { useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";
import { api, data } from "../api/client";
import { CopyButton } from "./CopyButton";

export type Place = { file: string; line: number; column?: number };

/** A place in a file: "package.json:4:12". */
export function placeText(p: Place): string {
  return p.line ? `${p.file}:${p.line}${p.column ? `:${p.column}` : ""}` : p.file;
}

/** Where the host of the repository shows a place; undefined where that is not known. */
export function linkTo(link: string | undefined, p: Place): string | undefined {
  if (!link || !p.file) return undefined;
  const file = p.file.split("/").map(encodeURIComponent).join("/");
  return link.replace("{file}", () => file).replace("{line}", String(p.line || 1));
}

/** A place that opens the text around it, leads to the file at its host, and can be copied. */
export function PlaceOf({ repository, place, link }: { repository: string; place: Place; link?: string }) {
  const [open, setOpen] = useState(false);
  const text = placeText(place);
  const at = useId();
  const host = linkTo(link, place);
  const shows = repository !== "" && place.line > 0;
  return (
    <>
      {shows ? (
        <button
          type="button"
          aria-expanded={open}
          aria-controls={open ? at : undefined}
          className="cursor-pointer text-left font-mono leading-6 text-inherit underline decoration-control decoration-dotted underline-offset-[3px] [overflow-wrap:anywhere] hover:decoration-solid"
          onClick={() => setOpen(!open)}
        >
          {text}
        </button>
      ) : (
        <span className="font-mono [overflow-wrap:anywhere]">{text}</span>
      )}
      {host ? (
        <a
          href={host}
          target="_blank"
          rel="noreferrer noopener"
          className="ml-1.5 inline-block min-w-6 text-center font-sans text-small leading-6"
        >
          open<span className="sr-only"> {text} at its host, in a new tab</span>
        </a>
      ) : null}
      {open ? <Excerpt id={at} repository={repository} place={place} text={text} /> : null}
    </>
  );
}

/** The line of the file, or those around it too where the service shows them, from what was read. */
function Excerpt({ id, repository, place, text }: { id: string; repository: string; place: Place; text: string }) {
  const q = useQuery({
    queryKey: ["lines", repository, place.file, place.line],
    queryFn: () =>
      data(
        api.GET("/api/repositories/{name}/lines", {
          params: { path: { name: repository }, query: { file: place.file, line: place.line } },
        }),
      ),
  });
  const said = q.error?.message ?? q.data?.notice;
  return (
    <span id={id} role="status" className="my-1 block rounded-md bg-sunk px-2 py-1 font-mono text-mono text-ink">
      {q.isPending ? <span className="font-sans">Reading …</span> : null}
      {said ? <span className="block font-sans text-ink2">{said}</span> : null}
      {q.data?.lines.map((l) => (
        <span
          key={l.number}
          className={`grid grid-cols-[28px_minmax(0,1fr)] ${l.number === place.line ? "font-semibold" : "text-ink2"}`}
        >
          <span className="pr-2 text-right text-ink2 select-none">{l.number}</span>
          <span className="whitespace-pre-wrap [overflow-wrap:anywhere]">{l.text || " "}</span>
        </span>
      ))}
      <span className="block text-right">
        <CopyButton text={text} what={text}>
          copy the place
        </CopyButton>
      </span>
    </span>
  );
}
