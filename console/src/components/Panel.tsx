import type { ReactNode } from "react";
import type { Word as Known } from "../glossary.gen";
import { Word } from "./Word";

type Props = { title: string; children: ReactNode; className?: string; word?: Known };

/** A titled surface. Its title leads to what the word means, where one is named. */
export function Panel({ title, children, className = "", word }: Props) {
  return (
    <section className={`panel px-4 py-3.5 ${className}`}>
      <h2 className="mb-2">{word ? <Word id={word}>{title}</Word> : title}</h2>
      {children}
    </section>
  );
}
