import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { useChange } from "../lens";
import type { Tool } from "../matrix";

type Props = { tools: Tool[]; chosen: string[]; pinned: string[]; narrow: boolean };

/** Which tools are shown, which of them stay in view, and how wide a column is. It lives in the URL. */
export function ColumnChoice({ tools, chosen, pinned, narrow }: Props) {
  const change = useChange();
  const shown = chosen.length > 0 ? chosen : tools.map((t) => t.tool);
  const choose = (tool: string, on: boolean) => {
    const next = tools.map((t) => t.tool).filter((t) => (t === tool ? on : shown.includes(t)));
    change({ tool: next.length === tools.length || next.length === 0 ? undefined : next });
  };
  const pin = (tool: string) =>
    change({ pin: pinned.includes(tool) ? pinned.filter((t) => t !== tool) : [...pinned, tool] });
  return (
    <Popover className="relative">
      <PopoverButton
        className={`control ${chosen.length || pinned.length || narrow ? "!border-accent bg-accent-soft" : ""}`}
      >
        <span className="text-ink2">Columns</span> {chosen.length ? `${chosen.length} of ${tools.length}` : "all"}
        {pinned.length ? `, ${pinned.length} pinned` : ""}
        {narrow ? ", narrow" : ""}
      </PopoverButton>
      <PopoverPanel className="absolute top-full left-0 z-20 mt-1 max-h-96 w-72 overflow-auto max-sm:fixed max-sm:inset-x-2 max-sm:top-auto max-sm:w-auto rounded-[7px] border border-rule bg-panel p-2">
        <label className="flex items-center gap-2 border-b border-line px-1 pb-2">
          <input
            type="checkbox"
            className="h-4 w-4 accent-accent"
            checked={narrow}
            onChange={(e) => change({ narrow: e.target.checked ? "1" : undefined })}
          />
          Narrow columns
        </label>
        <ul className="py-1">
          {tools.map((t) => (
            <li key={t.tool} className="flex items-center gap-2 px-1 py-1">
              <label className="flex min-w-0 flex-1 items-center gap-2">
                <input
                  type="checkbox"
                  className="h-4 w-4 accent-accent"
                  checked={shown.includes(t.tool)}
                  onChange={(e) => choose(t.tool, e.target.checked)}
                />
                <span className="truncate">{t.title}</span>
                <span className="text-small text-ink2">{t.met + t.note + t.warning + t.error}</span>
              </label>
              <button
                type="button"
                aria-pressed={pinned.includes(t.tool)}
                className={`cursor-pointer rounded-md px-1.5 text-small ${pinned.includes(t.tool) ? "bg-accent-soft text-accent" : "text-ink2 hover:text-ink"}`}
                onClick={() => pin(t.tool)}
              >
                {pinned.includes(t.tool) ? "pinned" : "pin"}
                <span className="sr-only"> {t.title}</span>
              </button>
            </li>
          ))}
        </ul>
        <button
          type="button"
          className="cursor-pointer px-1 text-accent underline"
          onClick={() => change({ tool: undefined, pin: undefined, narrow: undefined })}
        >
          Show all columns
        </button>
      </PopoverPanel>
    </Popover>
  );
}
