import { useQuery } from "@tanstack/react-query";
import { Fragment } from "react";
import { Link, useParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { FindingList } from "../components/FindingList";
import { Mark } from "../components/Mark";
import { Panel } from "../components/Panel";
import { PathRace } from "../components/PathRace";
import { Empty, Waiting } from "../components/States";
import { blinding, Unseen } from "../components/Unseen";
import { useKeepLens, useLens } from "../lens";
import { Heading } from "../page";
import { bytes, day, machineKinds, machinePage, number, plural, repositoryPage, several } from "../words";

type Detail = Schemas["MachineDetail"];
type Installation = Schemas["Installation"];

/** One machine: what is installed and whom it serves, what PATH and editors run, what it needs and what could go. */
export function Machine() {
  const { name = "" } = useParams();
  const lens = useLens();
  const keep = useKeepLens();
  const q = useQuery({
    queryKey: ["machine", name, lens.asOf],
    queryFn: () =>
      data(api.GET("/api/machines/{name}/detail", { params: { path: { name }, query: { asOf: lens.asOf } } })),
  });
  if (!q.data) return <Waiting error={q.error} what={name} />;
  const d = q.data;
  const m = d.machine;
  const titles = Object.fromEntries(d.serving.map((s) => [s.tool, s.title]));
  return (
    <>
      <p className="text-small">
        <Link to={keep("/machines")} className="hover:underline">
          Machines
        </Link>
      </p>
      <div className="flex flex-wrap items-start justify-between gap-x-4 gap-y-2">
        <div className="min-w-0">
          <Heading title={m.name} className="[overflow-wrap:anywhere]" />
          <p className="text-ink2">
            {[machineKinds[m.kind] ?? m.kind, `${m.os} ${m.arch}`, m.parent ? `in ${m.parent}` : "", m.tags.join(", ")]
              .filter(Boolean)
              .join(" · ")}{" "}
            · reported {day(m.takenAt)}
            {m.stale ? <span className="font-medium text-warning"> late: it was expected by {day(m.due)}</span> : null}
          </p>
          <p className="mt-1 text-lead text-ink2">
            {m.repositories === 0
              ? "It matters to no repository."
              : m.ready === m.repositories
                ? `All is there for the ${plural(m.repositories, "repository", "repositories")} that it matters to.`
                : `Ready for ${number(m.ready)} of the ${plural(m.repositories, "repository", "repositories")} that it matters to.`}
          </p>
        </div>
        <Link
          to={keep("/compare", { a: m.name })}
          className="rounded-[7px] border border-control bg-panel px-3 py-1 font-medium"
        >
          Compare with another
        </Link>
      </div>
      <div className="mt-3.5 grid grid-cols-1 gap-3.5 lg:grid-cols-[minmax(0,1.7fr)_minmax(0,1fr)]">
        <div className="flex min-w-0 flex-col gap-3.5">
          <Installations detail={d} />
        </div>
        <div className="flex min-w-0 flex-col gap-3.5">
          <NeedsOf name={m.name} />
          <Changes name={m.name} />
        </div>
      </div>
      <PathRace folders={d.inventory.searchPath ?? []} titles={titles} />
      <Proxies proxies={d.inventory.proxies ?? []} titles={titles} />
      <Editors entries={d.inventory.editors ?? []} notes={d.notes} titles={titles} />
      {d.findings.length > 0 ? (
        <Panel title="On this machine itself" className="mt-3.5">
          <FindingList findings={d.findings} />
        </Panel>
      ) : null}
    </>
  );
}

/** What is installed, tool by tool, with its health and whom it serves. */
function Installations({ detail: d }: { detail: Detail }) {
  const list = d.inventory.installations ?? [];
  if (list.length === 0) return <Empty title="Nothing is installed">No toolchain that the catalogue knows.</Empty>;
  const tools = [...new Set(d.serving.map((s) => s.tool))];
  return (
    <Panel title={`Installations (${number(list.length)})`}>
      <table className="w-full table-fixed max-sm:block">
        <colgroup className="max-sm:hidden">
          <col className="w-[26%]" />
          <col />
          <col className="w-[30%]" />
        </colgroup>
        <thead className="text-left text-small text-ink2 max-sm:sr-only">
          <tr>
            <th scope="col" className="py-1 pr-3 font-medium">
              Toolchain
            </th>
            <th scope="col" className="py-1 pr-3 font-medium">
              Where
            </th>
            <th scope="col" className="py-1 font-medium">
              Serves
            </th>
          </tr>
        </thead>
        {tools.map((tool) => (
          <tbody key={tool} className="max-sm:block">
            {d.serving
              .filter((s) => s.tool === tool)
              .map((s) => {
                const own = list.find((i) => i.tool === s.tool && i.path === s.path && i.version === s.version);
                return own ? <Row key={s.path + s.version} serving={s} installation={own} /> : null;
              })}
          </tbody>
        ))}
      </table>
    </Panel>
  );
}

function Row({ serving: s, installation: i }: { serving: Schemas["Serving"]; installation: Installation }) {
  const keep = useKeepLens();
  const traits = [i.vendor, i.variant, i.package, i.sizeBytes ? bytes(i.sizeBytes) : ""].filter(Boolean);
  const packages = Object.entries(i.packages ?? {});
  const broken = i.health === "broken";
  return (
    <tr className="border-t border-line align-top max-sm:block max-sm:py-1.5">
      <td className="py-1.5 pr-3 max-sm:block max-sm:py-0">
        <span className="flex items-baseline gap-1.5">
          <span className="translate-y-[2px]">
            <Mark
              kind={broken ? "installation-broken" : i.health === "good" ? "met" : "unknown"}
              className={broken ? "text-error" : i.health === "good" ? "text-met" : "text-warning"}
              silent
            />
          </span>
          <span className="[overflow-wrap:anywhere]">
            {s.title} <span className="font-mono text-mono font-semibold">{i.version || "unknown"}</span>
            <span className="sr-only"> {i.health}</span>
          </span>
        </span>
      </td>
      <td className="py-1.5 pr-3 [overflow-wrap:anywhere] max-sm:block max-sm:py-0">
        <span className="font-mono text-mono text-ink2">
          <Path of={i.own || i.home || i.path} />
        </span>
        <span className="block text-small text-ink2">{traits.join(", ")}</span>
        {i.healthReason ? (
          <span className={broken ? "block text-error" : "block text-warning"}>{i.healthReason}</span>
        ) : null}
        {packages.length > 0 ? (
          <details className="text-small text-ink2">
            <summary className="cursor-pointer py-1.5">{plural(packages.length, "package")}</summary>
            <span className="font-mono">{packages.map(([name, version]) => `${name} ${version}`).join(", ")}</span>
          </details>
        ) : null}
      </td>
      <td className="py-1.5 text-ink2 [overflow-wrap:anywhere] max-sm:block max-sm:py-0">
        {s.repositories.length === 0
          ? s.held || "no repository, and nothing points at it"
          : s.repositories.slice(0, 4).map((name, n) => (
              <span key={name}>
                {n > 0 ? ", " : ""}
                <Link
                  to={keep(repositoryPage(name), { tool: s.tool })}
                  className="inline-block leading-6 text-ink2 underline"
                >
                  {name}
                </Link>
              </span>
            ))}
        {s.repositories.length > 4 ? (
          <>
            {" and "}
            <Link to={keep("/matrix", { tool: s.tool })} className="inline-block leading-6 text-ink2 underline">
              {number(s.repositories.length - 4)} more
            </Link>
          </>
        ) : null}
      </td>
    </tr>
  );
}

/** The folder that an executable lies in. */
const folderOf = (path: string) => path.replace(/[\\/][^\\/]*$/, "");

/** So much that was not seen is named. */
const mostUnseen = 5;

/** What to install, and what could go. */
function NeedsOf({ name }: { name: string }) {
  const lens = useLens();
  const q = useQuery({
    queryKey: ["needs", name, lens.asOf],
    queryFn: () =>
      data(api.GET("/api/machines/{name}/needs", { params: { path: { name }, query: { asOf: lens.asOf } } })),
  });
  if (!q.data) {
    return q.error ? (
      <p role="alert" className="text-ink2">
        {q.error.message}
      </p>
    ) : null;
  }
  const { install, reach, left, spare, asking } = q.data;
  const unseen = blinding(q.data.unseen);
  const total = spare.reduce((sum, s) => sum + s.sizeBytes, 0);
  return (
    <>
      <Panel title="Needs">
        {install.length + reach.length + left.length === 0 ? (
          <p className="text-ink2">
            {asking === 0
              ? "It is not known: no repository that was read is built by it or lies on it."
              : unseen.length > 0
                ? "Nothing is missing of what was seen."
                : "Nothing that is asked for is missing."}
          </p>
        ) : null}
        <ul className="divide-y divide-line">
          {install.map((i) => (
            <li key={`${i.tool} ${i.version} ${i.vendor} ${i.range}`} className="py-1.5">
              <span className="font-semibold">
                {i.title} <span className="font-mono text-mono">{i.version || i.range}</span> {i.vendor} {i.package}
              </span>
              {i.version ? null : <span className="text-warning"> no release is known that would do</span>}
              {i.ended ? (
                <span className="text-error"> out of support since {day(i.supportedUntil ?? "")}</span>
              ) : i.supportedUntil ? (
                <span className="text-ink2"> supported until {day(i.supportedUntil)}</span>
              ) : null}
              {i.first ? (
                <span className="block">
                  Nothing pins it: {i.default ? `make it the default in ${i.default}` : "put it first on PATH"}.
                </span>
              ) : null}
              <span className="block text-ink2 [overflow-wrap:anywhere]">for {several(i.askedBy, 4)}</span>
            </li>
          ))}
          {reach.map((r) => (
            <li key={`${r.tool} ${r.version} ${r.path}`} className="py-1.5">
              <span className="font-semibold">
                {r.title} <span className="font-mono text-mono">{r.version}</span>
              </span>{" "}
              is there, and not reached
              <span className="block [overflow-wrap:anywhere]">
                {r.default ? `Make it the default in ${r.default}` : `Put ${folderOf(r.path)} first on PATH`}.
              </span>
              <span className="block text-ink2 [overflow-wrap:anywhere]">for {several(r.askedBy, 4)}</span>
            </li>
          ))}
        </ul>
        {left.length > 0 ? (
          <>
            <h3 className="mt-3 mb-1 font-semibold">Not mended by this</h3>
            <ul className="divide-y divide-line">
              {left.map((l) => (
                <li key={`${l.class} ${l.message}`} className="py-1.5 [overflow-wrap:anywhere]">
                  {l.message}
                  <span className="block text-ink2">in {several(l.askedBy, 4)}</span>
                </li>
              ))}
            </ul>
          </>
        ) : null}
        <Unseen gaps={unseen.slice(0, mostUnseen)} total={unseen.length} />
      </Panel>
      {spare.length > 0 ? (
        <Panel title={total > 0 ? `Could go: ${bytes(total)}` : "Could go"}>
          <ul className="divide-y divide-line">
            {spare.map((s) => (
              <li key={s.path + s.version} className="py-1.5 [overflow-wrap:anywhere]">
                <span className="font-semibold">
                  {s.title} <span className="font-mono text-mono">{s.version}</span>
                </span>
                {s.sizeBytes > 0 ? <span className="text-ink2"> {bytes(s.sizeBytes)}</span> : null}
                <span className="block font-mono text-small text-ink2">
                  <Path of={s.home} />
                </span>
                {s.goesWith.length > 0 ? (
                  <span className="block text-small text-ink2">with it would go {several(s.goesWith, 5)}</span>
                ) : null}
              </li>
            ))}
          </ul>
          <p className="mt-1 border-t border-line pt-1.5 text-small text-ink2">
            No surveyed repository would run them, and nothing on the machine points at them. Keep what others need.
          </p>
        </Panel>
      ) : null}
    </>
  );
}

/** What came, went and changed since the inventory before. */
function Changes({ name }: { name: string }) {
  const q = useQuery({
    queryKey: ["changes", name],
    queryFn: () => data(api.GET("/api/machines/{name}/changes", { params: { path: { name } } })),
  });
  if (!q.data) return null;
  const c = q.data;
  const lines = [
    ...c.came.map((x) => ({ x, sign: "+", word: "came", text: x.now })),
    ...c.went.map((x) => ({ x, sign: "−", word: "went", text: x.before })),
    ...c.changed.map((x) => ({ x, sign: "~", word: "changed", text: `${x.now}, was ${x.before}` })),
  ];
  return (
    <Panel title="Changes">
      {c.from ? (
        <p className="text-ink2">
          Since {day(c.from)}
          {lines.length === 0 ? ": nothing has changed." : ""}
        </p>
      ) : (
        <p className="text-ink2">Nothing older is kept to compare with.</p>
      )}
      <ul>
        {lines.map(({ x, sign, word, text }) => (
          <li
            key={`${word} ${x.what} ${x.tool} ${x.path}`}
            className="grid grid-cols-[16px_minmax(0,1fr)] border-t border-line py-1"
          >
            <span aria-hidden="true" className="font-mono">
              {sign}
            </span>
            <span className="[overflow-wrap:anywhere]">
              <span className="sr-only">{word}: </span>
              {x.title} <span className="font-mono text-mono">{text}</span>
              <span className="block text-small text-ink2">
                {about[x.what]} {x.what === "path" ? null : <Path of={x.path} />}
              </span>
            </span>
          </li>
        ))}
      </ul>
    </Panel>
  );
}

/** What a change is about. */
const about: Record<Schemas["Change"]["what"], string> = {
  installation: "at",
  health: "health of",
  path: "what PATH runs",
  default: "the default, from",
  override: "variable",
  proxy: "proxy",
};

/** A path, which breaks behind its slashes. */
function Path({ of }: { of: string }) {
  let at = 0;
  return of.split(/(?<=[/\\])/).map((part) => {
    at += part.length;
    return (
      <Fragment key={at}>
        {part}
        <wbr />
      </Fragment>
    );
  });
}

/** Executables that pick by the folder, and what they pick. */
function Proxies({ proxies, titles }: { proxies: Schemas["Proxy"][]; titles: Record<string, string> }) {
  if (proxies.length === 0) return null;
  return (
    <Panel title="Proxies" className="mt-3.5">
      <p className="mb-1 text-ink2">
        Executables that stand for several installations and pick one by the folder in which they are called.
      </p>
      <ul className="divide-y divide-line">
        {proxies.map((p) => (
          <li key={p.path} className="py-1.5 [overflow-wrap:anywhere]">
            <span className="font-semibold">{titles[p.tool] ?? p.tool}</span>{" "}
            <span className="font-mono text-mono text-ink2">{p.path}</span> runs{" "}
            <span className="font-mono text-mono font-semibold">{p.version || "what cannot be told"}</span>
            {p.because ? <span className="text-ink2"> ({p.because})</span> : null}
            {(p.folders ?? []).map((f) => (
              <span key={f.folder} className="block text-ink2">
                in <span className="font-mono text-mono">{f.folder}</span> {f.version || f.raw} ({f.source})
              </span>
            ))}
          </li>
        ))}
      </ul>
    </Panel>
  );
}

/** What editors and build tools know on the machine. */
function Editors({
  entries,
  notes,
  titles,
}: {
  entries: Schemas["EditorEntry"][];
  notes: string[];
  titles: Record<string, string>;
}) {
  if (entries.length === 0) return null;
  return (
    <Panel title="What editors know" className="mt-3.5">
      <ul className="divide-y divide-line">
        {entries.map((e) => (
          <li key={`${e.source}:${e.line}:${e.name}`} className="py-1.5 [overflow-wrap:anywhere]">
            <span className="font-semibold">{e.editor}</span> {titles[e.tool] ?? e.tool} “{e.name || "setting"}”{" "}
            <span className="font-mono text-mono">{e.version}</span>
            {e.default ? <span className="text-ink2"> for new projects</span> : null}
            <span className="block font-mono text-small text-ink2">
              {e.path} · {e.source}:{e.line}
            </span>
          </li>
        ))}
      </ul>
      {notes.map((n) => (
        <p key={n} className="mt-1 flex items-start gap-1.5 text-ink2">
          <Mark kind="default-mismatch" className="mt-[3px] text-note" silent />
          <span className="min-w-0 [overflow-wrap:anywhere]">{n}</span>
        </p>
      ))}
    </Panel>
  );
}

/** A link to a machine's page. */
export function MachineLink({ name }: { name: string }) {
  const keep = useKeepLens();
  return (
    <Link to={keep(machinePage(name))} className="font-semibold text-ink hover:underline">
      {name}
    </Link>
  );
}
