import { scaleLinear } from "d3-scale";
import { useId } from "react";
import type { Schemas } from "../api/client";

type RulerData = Schemas["Ruler"];

const width = 640;
const top = 20;
const rowHeight = 24;

const tone: Record<string, string> = { pin: "accent", bound: "note", setup: "warning" };

/** A tool's versions as an axis: claims as bars, installations as ticks, out of support hatched. */
export function Ruler({ ruler, title }: { ruler: RulerData; title: string }) {
  const hatch = useId();
  if (ruler.lines.length === 0) return <p className="text-ink2">No release lines of {title} are known to draw.</p>;
  const x = scaleLinear([0, ruler.lines.length], [0, width]);
  const rows = ruler.bars.length + ruler.points.length;
  const axis = top + rows * rowHeight + 34;
  const bottom = axis + 10;
  return (
    <figure>
      <svg
        viewBox={`-1 0 ${width + 2} ${bottom + 18}`}
        className="w-full max-w-[660px]"
        role="img"
        aria-label={spoken(ruler, title)}
      >
        <defs>
          <pattern id={hatch} width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="2" height="6" fill="var(--w-hatch)" />
          </pattern>
        </defs>
        {ruler.lines.map((l, i) => (
          <g key={l.line}>
            {l.ended ? <rect x={x(i)} y={top} width={x(1)} height={bottom - top} fill={`url(#${hatch})`} /> : null}
            <path d={`M${x(i)} ${top}V${bottom}`} stroke="var(--w-line)" />
            {l.gap ? <path d={`M${x(i) - 2} ${top - 14}V${bottom}m4 0V${top - 14}`} stroke="var(--w-control)" /> : null}
            <text x={x(i) + 5} y={14} fill="var(--w-ink2)" className="font-mono" fontSize="12">
              {l.line}
            </text>
          </g>
        ))}
        {ruler.feasible.map((s) => (
          <rect
            key={s.from}
            x={x(s.from)}
            y={top}
            width={Math.max(2, x(s.to) - x(s.from))}
            height={bottom - top}
            fill="var(--w-accent)"
            opacity="0.12"
          />
        ))}
        {ruler.bars.map((b, i) => (
          <Bar key={`${b.file}:${b.line}:${b.text}`} bar={b} y={top + 8 + i * rowHeight} x={x} />
        ))}
        {ruler.points.map((p, i) => {
          const y = top + 16 + (ruler.bars.length + i) * rowHeight;
          const end = x(p.at) > width - 110;
          return (
            <g key={p.version}>
              <circle cx={x(p.at)} cy={y} r="5" fill={p.agrees ? "var(--w-met)" : "var(--w-error)"} />
              <text
                x={x(p.at) + (end ? -9 : 9)}
                y={y + 4}
                textAnchor={end ? "end" : "start"}
                fill="var(--w-ink)"
                fontSize="12"
              >
                editor {p.version}
              </text>
            </g>
          );
        })}
        <path d={`M0 ${axis}H${width}`} stroke="var(--w-control)" strokeWidth="1.5" />
        {ruler.ticks.map((t) => (
          <g key={t.version}>
            <path d={`M${x(t.at)} ${axis - 8}v16`} stroke="var(--w-ink)" strokeWidth={t.chosen ? 3 : 1.6} />
            {t.chosen ? <path d={`M${x(t.at)} ${axis - 11}l-6 -9h12z`} fill="var(--w-accent)" /> : null}
            <text x={x(t.at)} y={axis + 23} textAnchor="middle" fill="var(--w-ink2)" fontSize="11">
              {t.machines}
            </text>
          </g>
        ))}
      </svg>
      <figcaption className="text-small text-ink2">
        Ticks: installed, with the number of machines. Shaded: every claim agrees. Hatched: out of support.
        {ruler.lines.some((l) => l.gap) ? " Double line: ended lines left out." : ""}
        {ruler.feasible.length === 0 && ruler.bars.length > 0 ? " No version satisfies every claim." : ""}
      </figcaption>
    </figure>
  );
}

function Bar({ bar, y, x }: { bar: Schemas["RulerBar"]; y: number; x: (n: number) => number }) {
  const color = bar.agrees ? (tone[bar.role] ?? "note") : "error";
  const from = x(bar.from);
  const length = Math.max(8, x(bar.to) - from);
  const text = `${bar.role} ${bar.text}`;
  const [start, room] = widest(
    from,
    from + length,
    bar.gaps.map((g) => [x(g.from), x(g.to)] as const),
  );
  const inside = room > text.length * 6.6 + 12;
  const left = from + length + text.length * 6.6 + 12 > width && !inside;
  return (
    <g>
      <rect
        x={from}
        y={y}
        width={length}
        height={16}
        rx={3}
        fill={`var(--w-${color}-soft)`}
        stroke={`var(--w-${color})`}
        strokeWidth="1.2"
      />
      {bar.gaps.map((g) => (
        <Gap key={g.from} from={x(g.from)} to={x(g.to)} y={y} color={`var(--w-${color})`} />
      ))}
      <text
        x={inside ? start + 6 : left ? from - 5 : from + length + 5}
        y={y + 12}
        textAnchor={left ? "end" : "start"}
        fill="var(--w-ink)"
        className="font-mono"
        fontSize="11.5"
      >
        {text}
      </text>
    </g>
  );
}

/** Where the widest part of a bar between its gaps begins, and how wide it is: there its text stands. */
function widest(from: number, to: number, gaps: (readonly [number, number])[]): [number, number] {
  let best: [number, number] = [from, 0];
  let start = from;
  for (const [gapFrom, gapTo] of [...gaps, [to, to] as const].sort((a, b) => a[0] - b[0])) {
    if (gapFrom - start > best[1]) best = [start, gapFrom - start];
    start = gapTo;
  }
  return best;
}

/** What a claim leaves out inside its bar: a break, or a slit for one version alone. */
function Gap({ from, to, y, color }: { from: number; to: number; y: number; color: string }) {
  const width = Math.max(3, to - from);
  const left = to === from ? from - width / 2 : from;
  return (
    <g>
      <rect x={left} y={y - 1} width={width} height={18} fill="var(--w-paper)" />
      <path d={`M${left} ${y}v16M${left + width} ${y}v16`} stroke={color} strokeWidth="1.2" />
      {to > from ? <path d={`M${left} ${y + 8}h${width}`} stroke={color} strokeDasharray="2 3" /> : null}
    </g>
  );
}

/** The ruler in words, for those who do not see it. */
function spoken(r: RulerData, title: string): string {
  const bars = r.bars.map((b) => `${b.role} ${b.text} from ${b.file} line ${b.line}`).join("; ");
  const ticks = r.ticks.map((t) => `${t.version} on ${t.machines}${t.chosen ? ", chosen" : ""}`).join("; ");
  const points = r.points.map((p) => p.version).join("; ");
  return `Versions of ${title}. Claims: ${bars || "none"}. Installed: ${ticks || "none"}.${points ? ` The editor runs ${points}.` : ""}`;
}
