import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";
import { api, data } from "../api/client";
import { useChange, useLens } from "../lens";
import { day, machineKinds } from "../words";

/** The lenses: as of a date, seen from machines, reading which ref. */
export function LensBar({ today }: { today: string }) {
  const lens = useLens();
  const change = useChange();
  const machines = useQuery({ queryKey: ["machines"], queryFn: () => data(api.GET("/api/machines")) });
  const all = machines.data?.machines ?? [];
  const chosen = lens.machine ?? [];
  const seen =
    chosen.length === 0
      ? all.length === 1 && all[0]
        ? all[0].name
        : `All ${all.length || ""} machines`
      : chosen.length === 1
        ? chosen[0]
        : `${chosen.length} of ${all.length} machines`;
  const ahead = lens.asOf !== undefined && lens.asOf > today;
  const moved = lens.asOf !== undefined && lens.asOf !== today;
  return (
    <>
      <label
        className={`control relative focus-within:outline-2 focus-within:outline-offset-2 focus-within:outline-accent ${moved ? "!border-accent bg-accent-soft" : ""}`}
      >
        <span className="text-ink2">{moved ? (ahead ? "As it will be on" : "As it was on") : "As of"}</span>
        <span aria-hidden="true">{day(lens.asOf ?? today)}</span>
        <input
          type="date"
          className="absolute inset-0 cursor-pointer opacity-0"
          value={lens.asOf ?? today}
          onClick={(e) => e.currentTarget.showPicker()}
          onChange={(e) => change({ asOf: e.target.value && e.target.value !== today ? e.target.value : undefined })}
        />
      </label>
      {moved ? (
        <button
          type="button"
          className="cursor-pointer text-accent underline"
          onClick={() => change({ asOf: undefined })}
        >
          back to today
        </button>
      ) : null}
      <Listbox value={chosen} multiple onChange={(names) => change({ machine: names })}>
        <ListboxButton className={`control ${chosen.length ? "!border-accent bg-accent-soft" : ""}`}>
          <span className="text-ink2">Seen from</span> {seen}
        </ListboxButton>
        <ListboxOptions
          anchor="bottom start"
          className="z-20 mt-1 min-w-56 rounded-[7px] border border-rule bg-panel p-1 focus:outline-none"
        >
          {all.map((m) => (
            <ListboxOption
              key={m.name}
              value={m.name}
              className="flex cursor-pointer items-center gap-2 rounded-md px-2 py-1 data-focus:bg-sunk"
            >
              {({ selected }) => (
                <>
                  <span aria-hidden="true" className={`w-3 text-accent ${selected ? "" : "invisible"}`}>
                    ✓
                  </span>
                  <span className="flex-1">{m.name}</span>
                  <span className="text-small text-ink3">{machineKinds[m.kind] ?? m.kind}</span>
                </>
              )}
            </ListboxOption>
          ))}
        </ListboxOptions>
      </Listbox>
      <div className="flex items-center gap-2 px-1 text-ink">
        <span className="text-ink2">Reading</span> what is committed
      </div>
    </>
  );
}
