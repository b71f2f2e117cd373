import { useEffect, useState } from "react";
import { copy } from "../copy";

/** Copies a text; the button says for a moment that it did. */
export function CopyButton({ text, what, children = "Copy" }: { text: string; what: string; children?: string }) {
  const [done, setDone] = useState(false);
  useEffect(() => {
    if (!done) return;
    const wait = setTimeout(() => setDone(false), 2_000);
    return () => clearTimeout(wait);
  }, [done]);
  return (
    <button
      type="button"
      className="inline-block min-w-6 cursor-pointer rounded-md px-1 font-sans text-small leading-6 text-accent underline-offset-2 hover:underline"
      onClick={() => {
        copy(text, what);
        setDone(true);
      }}
    >
      {done ? "Copied" : children}
      <span className="sr-only"> {what}</span>
    </button>
  );
}
