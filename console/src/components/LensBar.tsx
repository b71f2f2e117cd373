import { useQuery } from "@tanstack/react-query";
import { useEffect, useId, useRef, useState } from "react";
import { api, data } from "../api/client";
import { useChange, useLens } from "../lens";
import { day, machineKinds, plural, typedDay } from "../words";
import { Pick } from "./Pick";
import { Word } from "./Word";

/** The lenses: as of a date, seen from machines, reading which ref. */
export function LensBar({ today }: { today: string }) {
  return (
    <>
      <AsOf today={today} />
      <SeenFrom />
      <div className="flex items-center gap-2 px-1 text-ink">
        <span className="text-ink2">Reading</span> what is committed
      </div>
    </>
  );
}

/** The day of the verdicts: typed, and applied by Enter or on leaving it, or picked. */
function AsOf({ today }: { today: string }) {
  const lens = useLens();
  const change = useChange();
  const now = lens.asOf ?? today;
  const [typed, setTyped] = useState<string | null>(null); // null while nobody types
  const [wrong, setWrong] = useState(false);
  const picker = useRef<HTMLInputElement>(null);
  const problem = useId();
  const ahead = now > today;
  const moved = now !== today;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another day, from wherever, ends the typing
  useEffect(() => {
    setTyped(null);
    setWrong(false);
  }, [now]);
  const go = (to: string) => {
    if (to !== now) change({ asOf: to === today ? undefined : to });
  };
  const apply = (text: string) => {
    const to = text.trim() === "" ? today : typedDay(text);
    setWrong(to === undefined);
    if (to === undefined) return;
    setTyped(null);
    go(to);
  };
  return (
    <>
      <span className={`control relative !cursor-text !py-0 ${moved ? "!border-accent bg-accent-soft" : ""}`}>
        <label className="flex items-center gap-2 py-[3px]">
          <span className="text-ink2">{moved ? (ahead ? "As it will be on" : "As it was on") : "As of"}</span>
          <input
            type="text"
            inputMode="numeric"
            autoComplete="off"
            spellCheck={false}
            className="w-[92px] bg-transparent text-ink tabular-nums focus-visible:outline-offset-4"
            aria-invalid={wrong}
            aria-describedby={wrong ? problem : undefined}
            value={typed ?? day(now)}
            onFocus={(e) => e.currentTarget.select()}
            onChange={(e) => setTyped(e.target.value)}
            onBlur={() => typed !== null && apply(typed)}
            onKeyDown={(e) => {
              if (e.key === "Enter") apply(typed ?? day(now));
              if (e.key === "Escape" && typed !== null) {
                e.preventDefault();
                setTyped(null);
                setWrong(false);
              }
            }}
          />
        </label>
        <button
          type="button"
          aria-label="Choose a day"
          className="-mr-1 cursor-pointer rounded-md px-1 text-ink2 hover:text-ink"
          onClick={() => picker.current?.showPicker()}
        >
          <svg viewBox="0 0 14 14" width="14" height="14" aria-hidden="true">
            <path
              d="M2 3.500h10v8.500H2ZM2 6h10M4.500 1.500v3M9.500 1.500v3"
              fill="none"
              stroke="currentColor"
              strokeWidth="1.300"
            />
          </svg>
        </button>
        <input
          ref={picker}
          type="date"
          tabIndex={-1}
          aria-hidden="true"
          className="pointer-events-none absolute bottom-0 left-0 h-0 w-0 opacity-0"
          value={now}
          min="2000-01-01"
          max="2099-12-31"
          onChange={(e) => e.target.value && go(e.target.value)}
        />
      </span>
      {wrong ? (
        <span id={problem} role="alert" className="text-error">
          Write a day such as 2027-05-01
        </span>
      ) : null}
      {moved ? (
        <button
          type="button"
          className="cursor-pointer text-accent underline"
          onClick={() => change({ asOf: undefined })}
        >
          back to today
        </button>
      ) : null}
    </>
  );
}

/** The machines that verdicts are seen from; none chosen means all. */
function SeenFrom() {
  const lens = useLens();
  const change = useChange();
  const machines = useQuery({ queryKey: ["machines"], queryFn: () => data(api.GET("/api/machines")) });
  const all = machines.data?.machines ?? [];
  return (
    <Pick
      label="Seen from"
      said={
        machines.isSuccess
          ? seen(
              lens.machine ?? [],
              all.map((m) => m.name),
            )
          : "…"
      }
      options={all.map((m) => ({ value: m.name, label: m.name, note: machineKinds[m.kind] ?? m.kind }))}
      chosen={lens.machine ?? []}
      onChoose={(machine) => change({ machine })}
      all="All machines"
      empty={
        <>
          No machine has sent its <Word id="inventory">inventory</Word> yet. On each:{" "}
          <code className="font-mono text-mono">wexo machines send</code>
        </>
      }
    />
  );
}

function seen(chosen: string[], all: string[]): string {
  if (chosen.length === 1 && chosen[0]) return chosen[0];
  if (chosen.length > 1) return `${chosen.length} of ${plural(all.length, "machine")}`;
  if (all.length === 0) return "no machine yet";
  return all.length === 1 && all[0] ? all[0] : `All ${plural(all.length, "machine")}`;
}
