import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { type ReactNode, useState } from "react";

export type Option = { value: string; label: string; note?: string };

/** From so many options on a part of a name can be typed to find one, and so many are shown at once. */
const many = 8;
const mostShown = 60;

type Props = {
  label: string;
  /** What the button says behind the label. */
  said: string;
  options: Option[];
  chosen: string[];
  onChoose: (chosen: string[]) => void;
  /** What takes every choice back. */
  all: string;
  /** What is said where there is nothing to choose from. */
  empty: ReactNode;
  /** Called when it is opened for the first time, to fetch what there is. */
  onOpen?: () => void;
};

/** A choice of some of many: opened with Enter, Space or a click, left with Escape. */
export function Pick({ label, said, options, chosen, onChoose, all, empty, onOpen }: Props) {
  const [part, setPart] = useState("");
  const words = part.toLowerCase();
  const fitting = options.filter((o) => `${o.label} ${o.note ?? ""}`.toLowerCase().includes(words));
  const first = [
    ...fitting.filter((o) => chosen.includes(o.value)),
    ...fitting.filter((o) => !chosen.includes(o.value)),
  ];
  const shown = fitting.length > mostShown ? first.slice(0, mostShown) : fitting;
  const toggle = (value: string) =>
    onChoose(chosen.includes(value) ? chosen.filter((c) => c !== value) : [...chosen, value]);
  return (
    <Popover className="relative">
      <PopoverButton
        className={`control ${chosen.length ? "!border-accent bg-accent-soft" : ""}`}
        onFocus={onOpen}
        onPointerEnter={onOpen}
      >
        <span className="text-ink2">{label}</span> {said}
      </PopoverButton>
      <PopoverPanel className="absolute top-full left-0 z-20 mt-1 max-h-96 w-72 overflow-auto max-sm:fixed max-sm:inset-x-2 max-sm:top-auto max-sm:w-auto rounded-[7px] border border-rule bg-panel p-2">
        {options.length === 0 ? <p className="px-1 text-ink2">{empty}</p> : null}
        {options.length > many ? (
          <input
            type="text"
            aria-label={`Find in ${label.toLowerCase()}`}
            placeholder="Find"
            className="mb-1 w-full rounded-md border border-control bg-panel px-2 py-0.5"
            value={part}
            onChange={(e) => setPart(e.target.value)}
          />
        ) : null}
        <ul>
          {shown.map((o) => (
            <li key={o.value}>
              <label className="flex cursor-pointer items-center gap-2 rounded-md px-1 py-1 hover:bg-sunk">
                <input
                  type="checkbox"
                  className="h-4 w-4 accent-accent"
                  checked={chosen.includes(o.value)}
                  onChange={() => toggle(o.value)}
                />
                <span className="min-w-0 flex-1 truncate">{o.label}</span>
                {o.note ? <span className="text-small text-ink2">{o.note}</span> : null}
              </label>
            </li>
          ))}
        </ul>
        {fitting.length > shown.length ? (
          <p className="px-1 text-small text-ink2">{fitting.length - shown.length} more; type a part of the name.</p>
        ) : null}
        {options.length > 0 && fitting.length === 0 ? <p className="px-1 text-ink2">None is called so.</p> : null}
        {chosen.length > 0 ? (
          <button type="button" className="mt-1 cursor-pointer px-1 text-accent underline" onClick={() => onChoose([])}>
            {all}
          </button>
        ) : null}
      </PopoverPanel>
    </Popover>
  );
}

/** What a choice says behind its label: one by its name, several by their number. */
export function chosenOf(chosen: string[], options: Option[], none: string): string {
  const [first] = chosen;
  if (first === undefined) return none;
  if (chosen.length > 1) return String(chosen.length);
  return options.find((o) => o.value === first)?.label ?? first;
}
