import { useEffect } from "react";
import { useLocation } from "react-router";
import { glossary } from "../glossary.gen";
import { Heading } from "../page";

/** What the words of the console mean, each once. */
export function Words() {
  const { hash } = useLocation();
  useEffect(() => {
    const word = document.getElementById(hash.slice(1));
    if (!word) return;
    word.scrollIntoView({ block: "center" });
    word.focus({ preventScroll: true });
  }, [hash]);
  return (
    <>
      <Heading title="Words" />
      <p className="mt-1 text-ink2">What the words of the console, the commands and the API mean.</p>
      <dl className="panel mt-3.5 max-w-[860px] px-4">
        {glossary.map((g) => (
          <div
            key={g.id}
            className="grid grid-cols-1 gap-x-4 border-t border-line py-2 first:border-0 sm:grid-cols-[160px_minmax(0,1fr)]"
          >
            <dt id={g.id} tabIndex={-1} className="font-semibold">
              {g.word}
            </dt>
            <dd className="text-ink2">{g.meaning}</dd>
          </div>
        ))}
      </dl>
    </>
  );
}
