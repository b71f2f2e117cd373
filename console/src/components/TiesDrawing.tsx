import type { Schemas } from "../api/client";

type Joint = Schemas["Together"];
type End = Schemas["NamedEnd"];

const box = { width: 172, height: 44, gap: 14 };
const between = 118;

/** Where a tool or component stands in the drawing. */
interface Spot {
  end: End;
  x: number;
  y: number;
}

/** Tools as boxes, rules as lines between them, the broken ones marked. */
export function TiesDrawing({ joint: j }: { joint: Joint }) {
  const spots = placed(j);
  if (spots.length < 2) return null;
  const at = new Map(spots.map((s) => [s.end.name, s]));
  const lines = pairs(j)
    .filter((p) => at.has(p.a) && at.has(p.b))
    .sort((p, q) => Number(p.broken) - Number(q.broken));
  const width = Math.max(...spots.map((s) => s.x)) + box.width + 46;
  const height = Math.max(...spots.map((s) => s.y)) + box.height + 2;
  return (
    <div className="overflow-x-auto">
      <svg
        viewBox={`0 0 ${width} ${height}`}
        width={width}
        height={height}
        className="max-w-full h-auto"
        role="img"
        aria-label={`${spots.length} tools and components with ${lines.length} rules between them, ${lines.filter((l) => l.broken).length} of them broken`}
      >
        {lines.map((l) => (
          <Line key={`${l.a} ${l.b}`} from={at.get(l.a) as Spot} to={at.get(l.b) as Spot} broken={l.broken} />
        ))}
        {spots.map((s) => (
          <Box
            key={s.end.name}
            spot={s}
            broken={j.conflict.some((c) => c.kind !== "rule" && c.names.includes(s.end.name))}
          />
        ))}
      </svg>
    </div>
  );
}

/** Components stand on the left, tools on the right: most rules lead from the one to the other. */
function placed(j: Joint): Spot[] {
  const tied = new Set([...j.ties.flatMap((t) => t.names), ...j.conflict.flatMap((c) => c.names)]);
  const ends = j.names.filter((n) => tied.has(n.name));
  const components = ends.filter((e) => e.kind === "component");
  const tools = ends.filter((e) => e.kind === "tool");
  const rows = Math.max(components.length, tools.length);
  const column = (list: End[], x: number): Spot[] => {
    const offset = ((rows - list.length) * (box.height + box.gap)) / 2;
    return list.map((end, i) => ({ end, x, y: 1 + offset + i * (box.height + box.gap) }));
  };
  return [...column(components, 1), ...column(tools, components.length > 0 ? box.width + between : 1)];
}

interface Pair {
  a: string;
  b: string;
  broken: boolean;
}

/** The pairs that rules tie together, each once. */
function pairs(j: Joint): Pair[] {
  const out = new Map<string, Pair>();
  for (const t of j.ties) {
    for (const [i, a] of t.names.entries()) {
      for (const b of t.names.slice(i + 1)) {
        const [first, second] = [a, b].sort() as [string, string];
        const was = out.get(`${first} ${second}`);
        out.set(`${first} ${second}`, { a: first, b: second, broken: t.broken || (was?.broken ?? false) });
      }
    }
  }
  return [...out.values()];
}

function Line({ from, to, broken }: { from: Spot; to: Spot; broken: boolean }) {
  const [a, b] = from.x <= to.x ? [from, to] : [to, from];
  const middle = box.height / 2;
  const same = a.x === b.x;
  const start = { x: a.x + box.width, y: a.y + middle };
  const end = { x: same ? b.x + box.width : b.x, y: b.y + middle };
  const rows = Math.abs(a.y - b.y) / (box.height + box.gap);
  const bend = same ? 16 + 14 * rows : between / 2;
  const path = same
    ? `M${start.x} ${start.y}C${start.x + bend} ${start.y} ${end.x + bend} ${end.y} ${end.x} ${end.y}`
    : `M${start.x} ${start.y}C${start.x + bend} ${start.y} ${end.x - bend} ${end.y} ${end.x} ${end.y}`;
  const mark = { x: (start.x + end.x) / 2 + (same ? bend * 0.75 : 0), y: (start.y + end.y) / 2 };
  return (
    <g stroke={broken ? "var(--w-error)" : "var(--w-control)"} strokeWidth={broken ? 2.2 : 1.2} fill="none">
      <path d={path} />
      {broken ? (
        <>
          <circle cx={mark.x} cy={mark.y} r="9" fill="var(--w-panel)" />
          <path d={`m${mark.x - 3.5} ${mark.y - 3.5} 7 7m0-7-7 7`} />
        </>
      ) : null}
    </g>
  );
}

function Box({ spot: s, broken }: { spot: Spot; broken: boolean }) {
  return (
    <g>
      <rect
        x={s.x}
        y={s.y}
        width={box.width}
        height={box.height}
        rx="7"
        fill="var(--w-panel)"
        stroke={broken ? "var(--w-error)" : "var(--w-control)"}
        strokeWidth={broken ? 1.8 : 1}
        strokeDasharray={s.end.kind === "component" ? "4 2.500" : undefined}
      />
      <text x={s.x + 10} y={s.y + 18} fill="var(--w-ink)" fontSize="13" fontWeight="600">
        {clipped(s.end.title, 24)}
      </text>
      <text x={s.x + 10} y={s.y + 35} fill="var(--w-ink2)" fontSize="12" fontFamily="var(--font-mono)">
        {clipped(s.end.says || "not asked for", 20)}
      </text>
    </g>
  );
}

function clipped(text: string, most: number): string {
  return text.length > most ? `${text.slice(0, most - 1)}…` : text;
}
