/** The words for classes and states, and the mark each one has. */
export type Kind = { title: string; short: string; mark: string };

export const kinds: Record<string, Kind> = {
  "toolchain-missing": { title: "Toolchain missing", short: "Missing", mark: "missing" },
  "claims-disagree": { title: "Claims disagree", short: "Disagree", mark: "conflict" },
  "bound-violated": { title: "Bound violated", short: "Out of bounds", mark: "outside" },
  "interpreter-mismatch": { title: "Interpreter mismatch", short: "Mismatched", mark: "mismatch" },
  "interpreter-dangling": { title: "Interpreter dangling", short: "Dangling", mark: "dangling" },
  "end-of-life": { title: "End of life", short: "End of life", mark: "ended" },
  "version-unknown": { title: "Version unknown", short: "Unknown", mark: "question" },
  "support-ending": { title: "Support ending", short: "Ending soon", mark: "ending" },
  "pin-missing": { title: "Pin missing", short: "No pin", mark: "unpinned" },
  "pin-floating": { title: "Pin floating", short: "Floating", mark: "floating" },
  "override-lingering": { title: "Override lingering", short: "Overridden", mark: "override" },
  "file-unreadable": { title: "File unreadable", short: "Unreadable", mark: "unreadable" },
  "file-unclaimed": { title: "File unclaimed", short: "Unclaimed", mark: "unclaimed" },
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

export function plural(n: number, one: string, many = `${one}s`): string {
  return `${n} ${n === 1 ? one : many}`;
}

/** How long ago, in whole days. */
export function ago(days: number): string {
  if (days <= 0) return "today";
  return days === 1 ? "yesterday" : `${days} days ago`;
}
