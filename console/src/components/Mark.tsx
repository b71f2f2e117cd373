import type { ReactNode } from "react";
import type { classes } from "../classes.gen";
import { kindOf } from "../words";

const stroke = { fill: "none", stroke: "currentColor", strokeWidth: 1.7 } as const;

/** What the table of classes draws: each has its shape below. */
type ClassMark = (typeof classes)[keyof typeof classes]["mark"];

/** One mark for each state, 14 by 14, told apart by shape alone. */
const shapes: Record<string, ReactNode> & Record<ClassMark, ReactNode> = {
  met: <circle cx="7" cy="7" r="3.2" fill="currentColor" />,
  missing: <rect x="2" y="2" width="10" height="10" rx="1" {...stroke} strokeDasharray="3 2" />,
  mismatch: (
    <>
      <path d="M7 .9 13.1 7 7 13.1.9 7Z" {...stroke} />
      <path d="M4.7 9.3 9.3 4.7" {...stroke} />
    </>
  ),
  conflict: (
    <>
      <rect x="1.2" y="1.2" width="11.6" height="11.6" rx="2" fill="currentColor" />
      <path d="m4.5 4.5 5 5m0-5-5 5" stroke="var(--w-panel)" strokeWidth="1.8" />
    </>
  ),
  outside: (
    <>
      <path d="M1.5 2v10M8 2v10M1.5 12H8M1.5 2H8" {...stroke} />
      <circle cx="11.6" cy="7" r="1.9" fill="currentColor" />
    </>
  ),
  untied: (
    <>
      <path d="M1.2 4.2h4v5.600h-4ZM8.800 4.200h4v5.600h-4Z" {...stroke} />
      <path d="M7 1.500v2M7 6v2M7 10.500v2" {...stroke} />
    </>
  ),
  platform: (
    <>
      <path d="M1 10.500h12M3 13h8" {...stroke} />
      <path d="M3.500 1.500h7v5.500h-7Z" {...stroke} strokeDasharray="2 1.600" />
    </>
  ),
  companion: (
    <>
      <circle cx="4.600" cy="7" r="3" fill="currentColor" />
      <circle cx="10.400" cy="7" r="2.400" {...stroke} strokeDasharray="1.800 1.400" />
    </>
  ),
  dangling: (
    <>
      <path d="M1.5 3.5h6a3 3 0 0 1 3 3v1" {...stroke} />
      <path d="m8.4 10.2 4.2 3m0-3-4.2 3" {...stroke} />
    </>
  ),
  ended: (
    <>
      <path d="M1 9h12" {...stroke} />
      <path d="M3 9a4 4 0 0 1 8 0Z" fill="currentColor" />
      <path d="M4 12h6" {...stroke} />
    </>
  ),
  ending: (
    <>
      <circle cx="7" cy="7" r="5.4" {...stroke} />
      <path d="M7 7V1.6A5.4 5.4 0 1 1 1.6 7Z" fill="currentColor" />
    </>
  ),
  unpinned: <circle cx="7" cy="7" r="5.2" {...stroke} strokeDasharray="2.4 2.2" />,
  floating: <path d="M1 8.5c2-4 4-4 6 0s4 4 6 0" {...stroke} strokeWidth="2" strokeLinecap="round" />,
  question: (
    <>
      <path d="M4 5a3 3 0 1 1 4.4 2.6C7.4 8.2 7 8.6 7 9.5" {...stroke} />
      <circle cx="7" cy="12.2" r="1.2" fill="currentColor" />
    </>
  ),
  residue: (
    <>
      <path d="M2.5 4h9l-1 8.500h-7Z" {...stroke} />
      <path d="M1 4h12M5 1.500h4M5.500 7v3M8.500 7v3" {...stroke} />
    </>
  ),
  default: (
    <>
      <path d="M1.500 4h7M1.500 10h11" {...stroke} />
      <path d="m6.500 1.500 3 2.500-3 2.500" {...stroke} />
    </>
  ),
  broken: (
    <>
      <path d="M2 12.500 6 1.500M8 12.500 12 1.500" {...stroke} />
      <path d="M1 7h3.500M9.500 7H13" {...stroke} />
    </>
  ),
  spare: (
    <>
      <rect x="2" y="2" width="10" height="10" rx="5" {...stroke} strokeDasharray="1.400 1.800" />
      <path d="M4.500 7h5" {...stroke} />
    </>
  ),
  override: <path d="M2 12V6.500a4 4 0 0 1 8 0V8M7 6.500l3 3 3-3" {...stroke} />,
  unreadable: <path d="M3 1.500h8v4.500l-2 1.5 2 1.500v3.500H3V9l2-1.500L3 6Z" {...stroke} />,
  unclaimed: <path d="M3 1.500h5l3 3v8H3ZM5.5 8h3" {...stroke} />,
  mistaken: <path d="M3 1.500h8v11H3ZM5.500 5.500l3 3M8.500 5.500l-3 3" {...stroke} />,
  idle: (
    <>
      <path d="M3 1.500h8v11H3Z" {...stroke} strokeDasharray="1.400 1.800" />
      <path d="M5 7h4" {...stroke} />
    </>
  ),
  absent: <path d="M4 7h6" {...stroke} />,
};

/** A state's mark. It carries its word unless the word stands beside it. */
export function Mark({ kind, className = "", silent = false }: { kind: string; className?: string; silent?: boolean }) {
  const { mark, title } = kindOf(kind);
  const label = silent ? { "aria-hidden": true } : { role: "img", "aria-label": title };
  return (
    // biome-ignore lint/a11y/noSvgWithoutTitle: labelled or hidden by the attributes below
    <svg viewBox="0 0 14 14" width="14" height="14" className={`shrink-0 ${className}`} {...label}>
      {shapes[mark]}
    </svg>
  );
}

export function Logo() {
  return (
    <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true">
      <path d="M2 6h20M2 18h20" stroke="var(--w-rule)" strokeWidth="2" />
      <path d="M5 3v6M10 4v4M15 3v6M20 4v4" stroke="var(--w-ink3)" strokeWidth="1.6" />
      <rect x="8" y="11" width="9" height="4" rx="1" fill="var(--w-accent)" />
      <path d="M12.5 9v13" stroke="var(--w-ink)" strokeWidth="2" />
    </svg>
  );
}
