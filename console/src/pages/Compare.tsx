import { useQueries, useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { Mark } from "../components/Mark";
import { Panel } from "../components/Panel";
import { Empty, Waiting } from "../components/States";
import { useChange, useLens } from "../lens";
import { Heading } from "../page";
import { MachineLink } from "./Machine";

type Detail = Schemas["MachineDetail"];

/** Two machines side by side: what both have, and what only one of them. */
export function Compare() {
  const [params] = useSearchParams();
  const lens = useLens();
  const all = useQuery({ queryKey: ["machines"], queryFn: () => data(api.GET("/api/machines")) });
  const names = all.data?.machines.map((m) => m.name) ?? [];
  const a = params.get("a") ?? names[0] ?? "";
  const b = params.get("b") ?? names.find((n) => n !== a) ?? "";
  const both = useQueries({
    queries: [a, b].map((name) => ({
      queryKey: ["machine", name, lens.asOf],
      enabled: name !== "",
      queryFn: () =>
        data(api.GET("/api/machines/{name}/detail", { params: { path: { name }, query: { asOf: lens.asOf } } })),
    })),
  });
  if (!all.data) return <Waiting error={all.error} what="the machines" />;
  if (names.length < 2) {
    return (
      <>
        <Heading title="Two machines" className="mb-3" />
        <Empty title="There is no second machine">Two have to send their inventories to be compared.</Empty>
      </>
    );
  }
  const [left, right] = both;
  const error = left?.error ?? right?.error;
  return (
    <>
      <Heading title="Two machines" />
      <div className="mt-2 flex flex-wrap gap-3">
        <Choice label="Left" value={a} names={names} param="a" />
        <Choice label="Right" value={b} names={names} param="b" />
      </div>
      {left?.data && right?.data ? (
        <Beside left={left.data} right={right.data} />
      ) : (
        <Waiting error={error ?? null} what="both machines" />
      )}
    </>
  );
}

function Choice({ label, value, names, param }: { label: string; value: string; names: string[]; param: string }) {
  const change = useChange();
  return (
    <label className="flex items-center gap-2 text-ink2">
      {label}
      <select
        className="rounded-md border border-control bg-panel px-1 py-0.5 text-ink"
        value={value}
        onChange={(e) => change({ [param]: e.target.value })}
      >
        {names.map((n) => (
          <option key={n}>{n}</option>
        ))}
      </select>
    </label>
  );
}

type Line = { title: string; what: string; left: string; right: string };

/** What machines have of each tool, line by line. */
function linesOf(left: Detail, right: Detail): Line[] {
  const titles = new Map([...left.serving, ...right.serving].map((s) => [s.tool, s.title]));
  const tools = [...titles.keys()].sort((x, y) => (titles.get(x) ?? "").localeCompare(titles.get(y) ?? ""));
  const has = (d: Detail, tool: string) =>
    (d.inventory.installations ?? [])
      .filter((i) => i.tool === tool)
      .map((i) =>
        [i.version || "unknown", i.vendor, i.health === "broken" ? "(broken)" : ""].filter(Boolean).join(" "),
      );
  const out: Line[] = [];
  for (const tool of tools) {
    const title = titles.get(tool) ?? tool;
    const l = has(left, tool);
    const r = has(right, tool);
    for (const v of [...new Set([...l, ...r])].sort((x, y) => y.localeCompare(x, "en", { numeric: true }))) {
      out.push({ title, what: "installed", left: l.includes(v) ? v : "", right: r.includes(v) ? v : "" });
    }
    const first = (d: Detail) => (d.inventory.firstOnPath ?? []).find((p) => p.tool === tool)?.version ?? "";
    if (first(left) || first(right)) out.push({ title, what: "PATH runs", left: first(left), right: first(right) });
    const byDefault = (d: Detail) => (d.inventory.defaults ?? []).find((p) => p.tool === tool)?.raw ?? "";
    if (byDefault(left) || byDefault(right)) {
      out.push({ title, what: "default", left: byDefault(left), right: byDefault(right) });
    }
    const over = (d: Detail) =>
      (d.inventory.overrides ?? [])
        .filter((o) => o.tool === tool)
        .map((o) => `${o.variable}=${o.raw}`)
        .join(" ");
    if (over(left) || over(right)) out.push({ title, what: "variable", left: over(left), right: over(right) });
  }
  return out;
}

function Beside({ left, right }: { left: Detail; right: Detail }) {
  const lines = linesOf(left, right);
  const differ = lines.filter((l) => l.left !== l.right).length;
  return (
    <Panel title={differ === 0 ? "Both have the same" : `${differ} of ${lines.length} differ`} className="mt-3.5">
      <table className="w-full table-fixed">
        <colgroup>
          <col className="w-[30%]" />
          <col />
          <col />
        </colgroup>
        <thead className="text-left">
          <tr>
            <th scope="col" className="py-1 pr-3 text-small font-medium text-ink2">
              Toolchain
            </th>
            {[left, right].map((d) => (
              <th key={d.machine.name} scope="col" className="py-1 pr-3 [overflow-wrap:anywhere]">
                <MachineLink name={d.machine.name} />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map((l, n) => {
            const other = l.left !== l.right;
            const again = n > 0 && lines[n - 1]?.title === l.title;
            return (
              <tr
                key={`${l.title} ${l.what} ${l.left} ${l.right}`}
                className={`align-top ${again ? "" : "border-t border-line"}`}
              >
                <th scope="row" className="py-1 pr-3 text-left font-normal [overflow-wrap:anywhere]">
                  <span className={again ? "sr-only" : "font-semibold"}>{l.title}</span>{" "}
                  <span className="text-small text-ink2">{l.what}</span>
                </th>
                {[l.left, l.right].map((text, i) => (
                  <td
                    // biome-ignore lint/suspicious/noArrayIndexKey: left and right
                    key={i}
                    className={`py-1 pr-3 font-mono text-mono [overflow-wrap:anywhere] ${other && text ? "font-semibold" : ""}`}
                  >
                    {text || <span className="font-sans text-ink2">none</span>}
                    {other && text ? (
                      <span className="ml-1 inline-block translate-y-[2px] text-warning">
                        <Mark kind="interpreter-mismatch" silent />
                        <span className="sr-only"> differs</span>
                      </span>
                    ) : null}
                  </td>
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
    </Panel>
  );
}
