import { type ReactNode, useEffect, useLayoutEffect, useRef } from "react";
import { useLocation, useNavigationType } from "react-router";

/** A page's heading: it names the document, and takes the focus when one comes to the page. */
export function Heading({ title, className, children }: { title: string; className?: string; children?: ReactNode }) {
  useEffect(() => {
    document.title = `${title} · Wexo`;
  }, [title]);
  return (
    <h1 tabIndex={-1} className={`focus-visible:outline-none ${className ?? ""}`}>
      {children ?? title}
    </h1>
  );
}

/** Where one was on a page: how far it was scrolled, and what had the focus. */
type Place = { top: number; focus: number[] | null };

/** The places of this visit, by the history's key. */
const places = new Map<string, Place>();

/** The way from the page to an element, as places among children; null where it is outside. */
function pathOf(element: Element | null, main: HTMLElement): number[] | null {
  const path: number[] = [];
  for (let at = element; at && at !== main; at = at.parentElement) {
    const parent: Element | null = at.parentElement;
    if (!parent) return null;
    path.unshift([...parent.children].indexOf(at));
  }
  return element && main.contains(element) && element !== main ? path : null;
}

function elementAt(path: number[], main: HTMLElement): HTMLElement | null {
  let at: Element | undefined = main;
  for (const i of path) at = at?.children[i];
  return at instanceof HTMLElement ? at : null;
}

/** What scrolls: the page itself where there is room beside it for the navigation, else the window. */
function scroller(main: HTMLElement): HTMLElement {
  return main.scrollHeight > main.clientHeight + 1 && getComputedStyle(main).overflowY === "auto"
    ? main
    : ((document.scrollingElement as HTMLElement | null) ?? main);
}

/** For how long what one returns to may take to be there, in milliseconds. */
const patience = 4_000;

/** Tries in every frame until it is done; gives the way to stop it. */
function soon(done: () => boolean): () => void {
  const begun = performance.now();
  let frame = 0;
  const step = () => {
    if (!done() && performance.now() - begun < patience) frame = requestAnimationFrame(step);
  };
  step();
  return () => cancelAnimationFrame(frame);
}

/**
 * After navigation the focus is on the heading and the page at its top; who goes back finds both
 * where they were. A change of filters moves neither.
 */
export function useReturning() {
  const main = useRef<HTMLElement>(null);
  const location = useLocation();
  const how = useNavigationType();
  const before = useRef<string | null>(null);
  const stop = useRef<() => void>(() => {});
  useLayoutEffect(() => {
    const page = main.current;
    if (!page) return;
    const note = () => {
      const was = places.get(location.key);
      const focus = pathOf(document.activeElement, page);
      places.set(location.key, { top: scroller(page).scrollTop, focus: focus ?? was?.focus ?? null });
    };
    document.addEventListener("scroll", note, { passive: true, capture: true });
    document.addEventListener("focusin", note);
    return () => {
      document.removeEventListener("scroll", note, { capture: true });
      document.removeEventListener("focusin", note);
    };
  }, [location.key]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: every step of the history is one
  useLayoutEffect(() => {
    const page = main.current;
    const came = before.current;
    before.current = location.pathname;
    if (!page || came === null) return;
    stop.current();
    const place = how === "POP" ? places.get(location.key) : undefined;
    if (place) {
      stop.current = soon(() => {
        const at = place.focus ? elementAt(place.focus, page) : page.querySelector("h1");
        if (!at || page.querySelector("[data-loading]")) return false;
        scroller(page).scrollTop = place.top;
        if (!at.closest("[role=grid]")) at.focus({ preventScroll: true }); // the grid returns to its cell by itself
        return scroller(page).scrollTop >= place.top - 1;
      });
    } else if (came !== location.pathname) {
      scroller(page).scrollTop = 0;
      stop.current = soon(() => {
        const heading = page.querySelector<HTMLElement>("h1");
        if (!heading || page.querySelector("[data-loading]")) return false;
        if (!page.contains(document.activeElement) || document.activeElement === page)
          heading.focus({ preventScroll: true });
        return true;
      });
    }
    return () => stop.current();
  }, [location.key]);
  return main;
}

let region: HTMLElement | null = null;

/** Tells those who listen what happened. */
export function announce(text: string) {
  if (!region) return;
  region.textContent = "";
  requestAnimationFrame(() => {
    if (region) region.textContent = text;
  });
}

/** Where announcements are made. */
export function Announcements() {
  return (
    <p
      className="sr-only"
      role="status"
      ref={(element) => {
        region = element;
      }}
    />
  );
}
