import { useState } from "react";
import type { Schemas } from "../api/client";
import { number } from "../words";
import { Panel } from "./Panel";
import { PlaceOf } from "./PlaceOf";
import { Word } from "./Word";

/** So many places are shown before one asks for all. */
const mostMentions = 8;

/** What looks like a tool beside a version and made no claim, so that nobody has to trust the reader blindly. */
export function Mentions({ list, repository, link }: { list: Schemas["Mention"][]; repository: string; link: string }) {
  const [all, setAll] = useState(false);
  if (list.length === 0) return null;
  const shown = all ? list : list.slice(0, mostMentions);
  return (
    <Panel title="Not understood" className="mt-3.5">
      <p className="mb-1 text-ink2">
        {list.length === 1 ? "One place looks" : `${number(list.length)} places look`} like a tool beside a version, and
        no <Word id="claim">claim</Word> was made of {list.length === 1 ? "it" : "them"}. No verdict rests on{" "}
        {list.length === 1 ? "it" : "them"}.
      </p>
      <table className="w-full table-fixed max-sm:block">
        <colgroup className="max-sm:hidden">
          <col className="w-[92px]" />
          <col className="w-[24%]" />
          <col className="w-[32%]" />
          <col />
        </colgroup>
        <thead className="sr-only">
          <tr>
            <th>Tool</th>
            <th>What it says</th>
            <th>Where</th>
            <th>Why it is no claim</th>
          </tr>
        </thead>
        <tbody className="max-sm:block">
          {shown.map((m) => (
            <tr
              key={`${m.file}:${m.line}:${m.column}`}
              className="border-t border-line align-top max-sm:block max-sm:py-1"
            >
              <td className="py-1 text-ink2 max-sm:inline max-sm:pr-2">{m.title}</td>
              <td className="py-1 pr-3 font-mono text-mono [overflow-wrap:anywhere] max-sm:inline">{m.raw}</td>
              <td className="py-1 pr-3 font-mono text-mono text-ink2 [overflow-wrap:anywhere] max-sm:block max-sm:py-0">
                <PlaceOf repository={repository} place={m} link={link} />
              </td>
              <td className="py-1 text-ink2 max-sm:block max-sm:py-0">{m.reason}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {list.length > mostMentions ? (
        <button type="button" className="mt-1 cursor-pointer text-accent underline" onClick={() => setAll(!all)}>
          {all ? `The first ${mostMentions}` : `All ${number(list.length)} places`}
        </button>
      ) : null}
    </Panel>
  );
}
