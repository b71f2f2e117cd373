import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { NavLink, useLocation, useNavigate, useNavigationType, useSearchParams } from "react-router";
import { api, data, forgetSession, queries, type Schemas } from "../api/client";
import { useAway } from "../connection";
import { useChange, useKeepLens, useLens } from "../lens";
import { Announcements, useReturning } from "../page";
import { applyTheme, type Theme, theme } from "../theme";
import { clock, number, plural } from "../words";
import { LensBar } from "./LensBar";
import { Logo } from "./Mark";

/** The frame of every page: navigation, lenses and search. On a small screen they stand above the page and scroll with it. */
export function Layout({ session, children }: { session: Schemas["Session"]; children: ReactNode }) {
  const main = useReturning();
  return (
    <div className="min-h-screen lg:grid lg:h-screen lg:grid-cols-[176px_1fr]">
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:z-20 focus:bg-panel focus:p-2">
        Skip to the page
      </a>
      <Navigation session={session} />
      <div className="flex min-w-0 flex-col lg:overflow-hidden">
        <header className="flex shrink-0 flex-wrap items-center gap-2.5 border-b border-line bg-panel px-4 py-2 lg:px-6">
          <LensBar today={session.asOf} />
          <Find />
        </header>
        <Connection />
        <main
          id="main"
          ref={main}
          tabIndex={-1}
          className="min-h-0 flex-1 px-4 pt-4 pb-8 lg:overflow-auto lg:px-6 lg:pt-5"
        >
          {children}
        </main>
      </div>
      <Announcements />
    </div>
  );
}

/** Says that the service does not answer, since when, and that nobody has to do anything. */
function Connection() {
  const since = useAway();
  return (
    <p
      role="status"
      className={since ? "border-b border-line bg-warning-soft px-4 py-1.5 text-warning lg:px-6" : "sr-only"}
    >
      {since
        ? `The service has not answered since ${clock(since)}. What is shown was read before; it is tried again by itself.`
        : ""}
    </p>
  );
}

function Navigation({ session }: { session: Schemas["Session"] }) {
  const keep = useKeepLens();
  const lens = useLens();
  const overview = useQuery({
    queryKey: ["overview", lens],
    queryFn: () => data(api.GET("/api/overview", { params: { query: lens } })),
  });
  const errors = overview.data?.bySeverity.error;
  return (
    <nav
      aria-label="Pages"
      className="flex flex-wrap items-center gap-0.5 border-b border-line bg-sunk px-2.5 py-1.5 lg:flex-col lg:flex-nowrap lg:items-stretch lg:border-r lg:border-b-0 lg:py-4"
    >
      <div className="flex items-center gap-2 px-2 text-[19px] leading-6 font-bold tracking-tight lg:pb-3.5">
        <Logo />
        Wexo
      </div>
      <Page to={keep("/")}>Overview</Page>
      <Page to={keep("/matrix")}>Matrix</Page>
      <Page to={keep("/findings")}>
        Findings
        {errors ? (
          <span className="font-semibold text-error" title={plural(errors, "error")}>
            {number(errors)}
          </span>
        ) : null}
      </Page>
      <Page to={keep("/machines")} whole>
        Machines
      </Page>
      <div className="flex-1" />
      <Page to={keep("/words")}>Words</Page>
      <ThemeChoice />
      <SignOut name={session.name} role={session.role} />
    </nav>
  );
}

function Page({ to, whole = false, children }: { to: string; whole?: boolean; children: ReactNode }) {
  return (
    <NavLink
      to={to}
      end={!whole}
      className={({ isActive }) =>
        `flex justify-between gap-1.5 rounded-md px-2 py-1.5 font-medium ${isActive ? "bg-panel text-ink ring-1 ring-line" : "text-ink2 hover:text-ink"}`
      }
    >
      {children}
    </NavLink>
  );
}

function ThemeChoice() {
  const [now, setNow] = useState<Theme>(theme());
  return (
    <label className="flex items-center justify-between gap-1.5 px-2 py-1.5 text-ink2">
      Theme
      <select
        className="rounded-md border border-control bg-panel px-1 py-0.5 text-ink"
        value={now}
        onChange={(e) => {
          const next = e.target.value as Theme;
          setNow(next);
          applyTheme(next);
        }}
      >
        <option value="system">System</option>
        <option value="light">Light</option>
        <option value="dark">Dark</option>
      </select>
    </label>
  );
}

function SignOut({ name, role }: { name: string; role: string }) {
  const navigate = useNavigate();
  return (
    <button
      type="button"
      className="cursor-pointer rounded-md px-2 py-1.5 text-left text-ink2 hover:text-ink"
      title={`Signed in as ${name}, ${role}`}
      onClick={async () => {
        await api.DELETE("/api/session");
        forgetSession();
        queries.clear();
        navigate("/sign-in");
      }}
    >
      Sign out
    </button>
  );
}

/** Finds in the matrix, and in findings where those are shown. "/" goes to it. */
function Find() {
  const [params] = useSearchParams();
  const { pathname } = useLocation();
  const change = useChange();
  const navigate = useNavigate();
  const keep = useKeepLens();
  const box = useRef<HTMLInputElement>(null);
  const typing = useRef(false);
  const how = useNavigationType();
  const here = pathname === "/matrix" || pathname === "/findings";
  const q = params.get("q") ?? "";
  useEffect(() => {
    if (!box.current || (typing.current && how !== "POP")) return; // what is typed is ahead of the address
    box.current.value = q; // going back brings the words back
    typing.current = false;
  }, [q, how]);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLElement && /^(INPUT|SELECT|TEXTAREA)$/.test(e.target.tagName);
      if (e.key !== "/" || typing || e.ctrlKey || e.metaKey || e.altKey) return;
      e.preventDefault();
      box.current?.focus();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, []);
  return (
    <form
      role="search"
      className="w-full sm:ml-auto sm:w-auto"
      onSubmit={(e) => {
        e.preventDefault();
        if (!here) navigate(keep("/matrix", { q: box.current?.value }));
      }}
    >
      <input
        ref={box}
        key={pathname}
        type="search"
        aria-label="Find repository, tool or version"
        aria-keyshortcuts="/"
        placeholder="Find repository, tool, version  ( / )"
        defaultValue={q}
        className="w-full rounded-[7px] sm:w-64 border border-control bg-panel px-2.5 py-[3px] placeholder:text-ink3"
        onChange={(e) => {
          if (!here) return;
          // One search is one step of the history, however many letters it has.
          change({ q: e.target.value || undefined }, typing.current ? "same" : "own");
          typing.current = true;
        }}
        onBlur={() => {
          typing.current = false;
        }}
        onKeyDown={(e) => {
          const cell = document.querySelector<HTMLElement>('[role=grid] [data-at="true"]');
          if (e.key !== "ArrowDown" || !cell) return;
          e.preventDefault();
          cell.focus();
        }}
      />
    </form>
  );
}
