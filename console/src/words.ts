import type { Schemas } from "./api/client";
import { classes } from "./classes.gen";

/** The words for classes and states, and the mark each one has. */
export type Kind = { title: string; short: string; mark: string };

export const kinds: Record<string, Kind> = {
  ...classes,
  met: { title: "Met", short: "Met", mark: "met" },
  missing: { title: "Missing", short: "Missing", mark: "missing" },
  unpinned: { title: "Not pinned", short: "Not pinned", mark: "unpinned" },
  conflict: { title: "Conflict", short: "Conflict", mark: "conflict" },
  absent: { title: "Absent", short: "Absent", mark: "absent" },
  unknown: { title: "Unknown", short: "Unknown", mark: "question" },
};

export function kindOf(name: string): Kind {
  return kinds[name] ?? { title: name, short: name, mark: "question" };
}

export const severityText: Record<string, string> = {
  error: "text-error",
  warning: "text-warning",
  note: "text-note",
  met: "text-met",
};

export const severitySoft: Record<string, string> = { error: "bg-error-soft", warning: "bg-warning-soft" };

export const machineKinds: Record<string, string> = {
  laptop: "laptop",
  "build-agent": "build agent",
  image: "container image",
  subsystem: "subsystem",
  server: "server",
};

const clockFormat = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });

/** The time of day, here: "14:02". */
export function clock(at: Date): string {
  return clockFormat.format(at);
}

const dayFormat = new Intl.DateTimeFormat("en-GB", {
  day: "numeric",
  month: "short",
  year: "numeric",
  timeZone: "UTC",
});

/** "2026-11-16" or a time as "16 Nov 2026". */
export function day(text: string): string {
  const t = new Date(text);
  return Number.isNaN(t.getTime()) ? text : dayFormat.format(t);
}

/** A time of the service as "16 Nov 2026, 08:00", here. */
export function moment(text: string): string {
  const t = new Date(text);
  if (Number.isNaN(t.getTime())) return text;
  const here = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", year: "numeric" });
  return `${here.format(t)}, ${clock(t)}`;
}

const months = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];

/** A day as people type it, as 2026-11-16; undefined where it is none: 2026-11-16, 16 Nov 2026, 16.11.2026. */
export function typedDay(text: string): string | undefined {
  const t = text.trim().toLowerCase();
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(t);
  const dotted = /^(\d{1,2})[./](\d{1,2})[./](\d{4})$/.exec(t);
  const worded = /^(\d{1,2})\.?\s+([a-z]{3})[a-z]*\.?\s+(\d{4})$/.exec(t);
  let parts: [string | undefined, number, string | undefined] | undefined;
  if (iso) parts = [iso[1], Number(iso[2]), iso[3]];
  else if (dotted) parts = [dotted[3], Number(dotted[2]), dotted[1]];
  else if (worded) parts = [worded[3], months.indexOf(worded[2] ?? "") + 1, worded[1]];
  if (!parts) return undefined;
  const [year, month, date] = parts;
  const day = `${year}-${String(month).padStart(2, "0")}-${(date ?? "").padStart(2, "0")}`;
  const at = new Date(`${day}T00:00:00Z`);
  const valid = !Number.isNaN(at.getTime()) && at.toISOString().slice(0, 10) === day;
  return valid && Number(year) >= 2000 && Number(year) < 2100 ? day : undefined;
}

/** A number as it is read: 18,902. */
export function number(n: number): string {
  return n.toLocaleString("en-GB");
}

export function plural(n: number, one: string, many = `${one}s`): string {
  return `${number(n)} ${n === 1 ? one : many}`;
}

/** How long ago, in whole days. */
export function ago(days: number): string {
  if (days <= 0) return "today";
  return days === 1 ? "yesterday" : `${days} days ago`;
}

/** Since when findings are open: "first seen 8 to 30 days ago". */
export function opened(age: string | null, over: string | null): string {
  if (age && over) return `first seen ${Number(over) + 1} to ${age} days ago`;
  if (age) return `first seen within ${age} days`;
  return over ? `first seen more than ${over} days ago` : "";
}

/** Machines by name, shortened where they are many. */
export function several(names: string[], most = 3): string {
  const more = names.length - most;
  return more > 0 ? `${names.slice(0, most).join(", ")} and ${more} more` : names.join(", ");
}

/** The page of a repository, whatever it is called. */
export function repositoryPage(name: string): string {
  return `/repositories/${encodeURIComponent(name)}`;
}

/** The page of a machine, whatever it is called. */
export function machinePage(name: string): string {
  return `/machines/${encodeURIComponent(name)}`;
}

/** A size in the largest unit of which there is one: "316.2 MB". */
export function bytes(n: number): string {
  for (const [size, unit] of [
    [1e9, "GB"],
    [1e6, "MB"],
    [1e3, "kB"],
  ] as const) {
    if (n >= size) return `${(n / size).toFixed(1).replace(/\.0$/, "")} ${unit}`;
  }
  return `${n} B`;
}

/** What it means that there are no findings, which is not always that all is well. */
export function nothingFound(overview: Schemas["Overview"] | undefined): string {
  if (!overview || overview.repositories === 0) return "No repository has been read yet.";
  if (overview.machines === 0) return "No machine has sent its inventory yet: what would run is not known.";
  if (overview.untold > 0) {
    return `No finding is recorded, but of ${plural(overview.untold, "repository", "repositories")} it cannot be told what runs everywhere, or nothing does.`;
  }
  if (overview.unseen.total > 0) {
    return `No finding is recorded, but ${plural(overview.unseen.total, "thing")} ${overview.unseen.total === 1 ? "was" : "were"} not seen (the overview names them).`;
  }
  if (overview.taken.quiet > 0) {
    return `No finding is recorded, but ${plural(overview.taken.quiet, "repository", "repositories")} by ${overview.taken.quiet === 1 ? "its" : "their"} own rules take some away.`;
  }
  return "No finding is recorded for what is asked for here.";
}
