import type { ReactNode } from "react";

/** A titled surface. */
export function Panel({ title, children, className = "" }: { title: string; children: ReactNode; className?: string }) {
  return (
    <section className={`panel px-4 py-3.5 ${className}`}>
      <h2 className="mb-2">{title}</h2>
      {children}
    </section>
  );
}
