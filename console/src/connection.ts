import { useSyncExternalStore } from "react";

/** How often it is tried whether the service answers again, in milliseconds. */
const again = 2_000;

const listeners = new Set<() => void>();
const backAgain = new Set<() => void>();
let since: Date | null = null;
let timer: ReturnType<typeof setTimeout> | undefined;

function tell() {
  for (const l of listeners) l();
}

async function look() {
  const answers = await fetch("/health", { cache: "no-store" }).then(
    (r) => r.ok,
    () => false,
  );
  if (answers) back();
  else timer = setTimeout(look, again);
}

/** A call found nobody there: from now on it is tried again by itself. */
export function away() {
  if (since) return;
  since = new Date();
  timer = setTimeout(look, again);
  tell();
}

/** The service answered. */
export function back() {
  if (!since) return;
  since = null;
  clearTimeout(timer);
  tell();
  for (const b of backAgain) b();
}

/** How often a page that nobody touches looks whether the service is still there, in milliseconds. */
const idle = 20_000;

setInterval(async () => {
  if (since || document.hidden) return;
  await fetch("/health", { cache: "no-store" }).catch(away);
}, idle);

/** Calls what is given whenever the service answers again. */
export function onBack(b: () => void) {
  backAgain.add(b);
}

/** Since when the service does not answer; null where it does. */
export function useAway(): Date | null {
  return useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => since,
  );
}
