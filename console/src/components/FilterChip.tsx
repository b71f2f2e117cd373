import { number, severityText } from "../words";
import { Mark } from "./Mark";

type Props = { kind: string; severity: string; label: string; count: number; on: boolean; onToggle: () => void };

/** A filter that can be on or off, with what it counts. */
export function FilterChip({ kind, severity, label, count, on, onToggle }: Props) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onToggle}
      className={`flex cursor-pointer items-center gap-1.5 rounded-full border px-2.5 py-0.5 ${on ? "border-accent bg-accent-soft" : "border-control bg-panel"}`}
    >
      <Mark kind={kind} className={severityText[severity]} silent />
      {label} <b className="font-semibold">{number(count)}</b>
    </button>
  );
}
