import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { CauseList } from "../components/CauseList";
import { FindingList } from "../components/FindingList";
import { Ladder } from "../components/Ladder";
import { Mark } from "../components/Mark";
import { Mentions } from "../components/Mentions";
import { OwnRules } from "../components/OwnRules";
import { Panel } from "../components/Panel";
import { PlaceOf, placeText } from "../components/PlaceOf";
import { Ruler } from "../components/Ruler";
import { Empty, Waiting } from "../components/States";
import { Together } from "../components/Together";
import { Unseen } from "../components/Unseen";
import { Word } from "../components/Word";
import { useChange, useKeepLens, useLens } from "../lens";
import { Heading } from "../page";
import { day, kindOf, number, several, severityText } from "../words";

type Detail = Schemas["RepositoryDetail"];
type ToolDetail = Schemas["ToolDetail"];

/** One repository: its folders and tools, and of the chosen one all that is behind the verdict. */
export function Repository() {
  const { name = "" } = useParams();
  const lens = useLens();
  const keep = useKeepLens();
  const navigate = useNavigate();
  const [params] = useSearchParams();
  useEffect(() => {
    const back = (e: KeyboardEvent) => {
      if (e.key !== "Escape" || e.defaultPrevented || document.querySelector("[role=listbox]")) return;
      const tool = params.get("tool") ?? "";
      if (history.state?.idx > 0) navigate(-1);
      else navigate(keep("/matrix", { at: `${name}:${tool}` }));
    };
    addEventListener("keydown", back);
    return () => removeEventListener("keydown", back);
  }, [keep, name, navigate, params]);
  const tool = params.get("tool") ?? undefined;
  const folder = params.get("folder") ?? undefined;
  const whole = useQuery({
    queryKey: ["repository", name, lens],
    queryFn: () => data(api.GET("/api/repositories/{name}", { params: { path: { name }, query: lens } })),
  });
  // Of very many folders and tools some are given, and the one that is asked for.
  const missing =
    tool !== undefined && whole.data !== undefined && left(whole.data) > 0 && !has(whole.data, folder, tool);
  const one = useQuery({
    queryKey: ["repository", name, lens, folder, tool],
    queryFn: () =>
      data(api.GET("/api/repositories/{name}", { params: { path: { name }, query: { ...lens, folder, tool } } })),
    enabled: missing,
  });
  const q = missing ? one : whole;
  if (!q.data) return <Waiting error={q.error} what={name} />;
  return <Shown repository={q.data} />;
}

/** How many folders and tools are not given. */
function left(r: Detail): number {
  return r.subjects - r.folders.reduce((n, f) => n + f.tools.length, 0);
}

function has(r: Detail, folder = "", tool = ""): boolean {
  return r.folders.some((f) => f.path === folder && f.tools.some((t) => t.tool === tool));
}

function Shown({ repository: r }: { repository: Detail }) {
  const keep = useKeepLens();
  const [params] = useSearchParams();
  const subjects = r.folders.flatMap((f) => f.tools.map((t) => ({ folder: f.path, tool: t })));
  const wanted = subjects.find((s) => s.tool.tool === params.get("tool") && s.folder === (params.get("folder") ?? ""));
  const worst = subjects.find((s) => s.tool.findings.some((f) => f.severity === "error"));
  const chosen = wanted ?? worst ?? subjects[0];
  const troubled = subjects.filter((s) => s.tool.findings.length > 0).length;
  return (
    <>
      <p className="text-small">
        <Link to={keep("/matrix", { at: `${r.name}:${chosen?.tool.tool ?? ""}` })} className="hover:underline">
          Matrix
        </Link>
      </p>
      <Heading title={r.name} className="[overflow-wrap:anywhere]" />
      <p className="text-ink2 [overflow-wrap:anywhere]">
        <span className="font-mono text-mono">{r.path}</span>
        {r.commit ? (
          <>
            {" "}
            · {r.ref} <span className="font-mono text-mono">{r.commit.slice(0, 7)}</span>
          </>
        ) : null}
        {r.readAt ? ` · read ${day(r.readAt)}` : ""}
      </p>
      {params.has("tool") && !wanted && subjects.length > 0 ? (
        <p role="status" className="mt-1 rounded-md bg-warning-soft px-2 py-1 text-warning">
          Nothing in {params.get("folder") ? `${params.get("folder")}/` : "the root folder"} speaks of{" "}
          {params.get("tool")}; shown is what is said of {chosen?.tool.title}.
        </p>
      ) : null}
      <Unseen gaps={r.unseen.filter((g) => g.weight !== "told" && !g.file)} />
      {r.notice ? <p className="mt-1 text-warning">{r.notice}</p> : null}
      {troubled + (r.findings.length > 0 ? 1 : 0) > 1 ? <First repository={r.name} /> : null}
      {r.findings.length > 0 ? (
        <section className="panel mt-3.5 px-4 pt-3">
          <h2>Files</h2>
          <FindingList findings={r.findings} links={{ [r.name]: r.link }} />
        </section>
      ) : null}
      {chosen ? (
        <>
          <Subjects list={subjects} chosen={chosen} />
          {left(r) > 0 ? (
            <p className="mt-1 text-ink2">
              {number(r.subjects)} folders and tools are spoken of here; those with the worst findings are shown.{" "}
              <Link to={keep("/findings", { repository: r.name, each: "1" })} className="underline">
                Each finding
              </Link>{" "}
              leads to its own.
            </p>
          ) : null}
          <Subject
            key={`${chosen.folder}:${chosen.tool.tool}`}
            folder={chosen.folder}
            tool={chosen.tool}
            repository={r}
          />
          <Together repository={r.name} folder={chosen.folder} />
        </>
      ) : (
        <div className="mt-3.5">
          <Empty title="No tool">Nothing in this repository speaks of a tool that the catalogue knows.</Empty>
        </div>
      )}
      <OwnRules list={r.ownRules} repository={r.name} link={r.link} />
      <Mentions list={r.mentions} repository={r.name} link={r.link} />
    </>
  );
}

/** So many causes are shown of one repository; more are one step behind. */
const mostCauses = 5;

/** What to do first here, where findings stand in more than one place. */
function First({ repository }: { repository: string }) {
  const lens = useLens();
  const keep = useKeepLens();
  const q = useQuery({
    queryKey: ["causes", repository, lens],
    queryFn: () =>
      data(api.GET("/api/causes", { params: { query: { ...lens, repository: [repository], limit: mostCauses } } })),
  });
  const total = q.data?.total ?? 0;
  if (!q.data || total < 2) return null;
  return (
    <Panel title="What to do first" className="mt-3.5">
      <CauseList causes={q.data.causes} query={{ repository }} />
      {total > mostCauses ? (
        <p className="border-t border-line pt-2">
          <Link to={keep("/findings", { repository })} className="underline">
            All {number(total)} causes here
          </Link>
        </p>
      ) : null}
    </Panel>
  );
}

type SubjectOf = { folder: string; tool: ToolDetail };

/** So many folders and tools can be looked over; of more those with findings come first. */
const mostSubjects = 24;

/** The folders and tools to choose from. */
function Subjects({ list, chosen }: { list: SubjectOf[]; chosen: SubjectOf }) {
  const change = useChange();
  const [all, setAll] = useState(false);
  const many = list.length > mostSubjects;
  const troubled = list.filter((s) => s.tool.findings.length > 0);
  const first = [...troubled, ...list.filter((s) => s.tool.findings.length === 0)].slice(0, mostSubjects);
  const shown = all || !many ? list : list.filter((s) => s === chosen || first.includes(s));
  return (
    <nav aria-label="Folders and tools" className="mt-3.5 flex flex-wrap gap-2">
      {shown.map((s) => {
        const worst = s.tool.findings.find((f) => f.severity === "error") ?? s.tool.findings[0];
        const kind = worst?.class ?? s.tool.resolutions.find((r) => !sound(r))?.state ?? "met";
        const severity = worst?.severity ?? (s.tool.resolutions.every(sound) ? "met" : "note");
        return (
          <button
            key={`${s.folder}:${s.tool.tool}`}
            type="button"
            aria-current={s === chosen ? "true" : undefined}
            onClick={() => change({ tool: s.tool.tool, folder: s.folder || undefined }, "same")}
            className={`flex cursor-pointer items-center gap-1.5 rounded-[7px] border px-2.5 py-0.5 [overflow-wrap:anywhere] ${s === chosen ? "border-accent bg-accent-soft" : "border-control bg-panel"}`}
          >
            <Mark kind={kind} className={severityText[severity]} silent />
            {s.tool.title}
            <span className="text-left text-ink2">{s.folder ? `${s.folder}/` : "root"}</span>
            <span className="sr-only">{kindOf(kind).title}</span>
          </button>
        );
      })}
      {many ? (
        <button type="button" className="cursor-pointer px-1 text-accent underline" onClick={() => setAll(!all)}>
          {all ? `The first ${mostSubjects}` : `All ${number(list.length)} folders and tools`}
        </button>
      ) : null}
    </nav>
  );
}

/** Whether something runs of which it is known what it is. */
function sound(r: Schemas["Resolution"]): boolean {
  return r.state === "met" || r.state === "unpinned";
}

function Subject({ folder, tool: t, repository }: SubjectOf & { repository: Detail }) {
  const [machine, setMachine] = useState(
    () => (t.resolutions.find((r) => r.state !== "met") ?? t.resolutions[0])?.machines[0],
  );
  const resolution = t.resolutions.find((r) => machine && r.machines.includes(machine)) ?? t.resolutions[0];
  return (
    <div className="mt-3 grid grid-cols-1 gap-3.5 lg:grid-cols-[minmax(0,1.75fr)_minmax(320px,1fr)]">
      <div className="flex min-w-0 flex-col gap-3.5">
        <Panel title={`${t.title} in ${folder ? `${folder}/` : "the root folder"}`}>
          <Ruler ruler={t.ruler} title={t.title} />
        </Panel>
        <Claims tool={t} repository={repository} />
      </div>
      <Panel title="Ladder" word="ladder">
        {t.resolutions.length > 1 ? (
          <label className="mb-2 flex items-center gap-2 text-ink2">
            Seen from
            <select
              className="min-w-0 flex-1 rounded-md border border-control bg-panel px-1 py-0.5 text-ink"
              value={resolution?.machines[0]}
              onChange={(e) => setMachine(e.target.value)}
            >
              {t.resolutions.map((r) => (
                <option key={r.machines[0]} value={r.machines[0]}>
                  {several(r.machines)}: {r.version || kindOf(r.state).title.toLowerCase()}
                </option>
              ))}
            </select>
          </label>
        ) : null}
        {resolution ? (
          <>
            {resolution.machines.length > 1 ? (
              <p className="mb-2 text-small text-ink2">The same on {resolution.machines.join(", ")}.</p>
            ) : null}
            <Ladder resolution={resolution} title={t.title} />
          </>
        ) : (
          <p className="text-ink2">No machine has sent its inventory.</p>
        )}
      </Panel>
      <Panel title="Findings" className="lg:col-span-2">
        {t.findings.length > 0 ? (
          <FindingList findings={t.findings} links={{ [repository.name]: repository.link }} />
        ) : (
          <Sound resolutions={t.resolutions} />
        )}
      </Panel>
    </div>
  );
}

/** What it means that there are no findings here. */
function Sound({ resolutions }: { resolutions: Schemas["Resolution"][] }) {
  if (resolutions.length === 0) {
    return <p className="text-ink2">No machine has sent its inventory yet: what would run is not known.</p>;
  }
  const odd = resolutions.find((r) => !sound(r));
  return odd ? (
    <p className="flex items-center gap-1.5 text-ink2">
      <Mark kind={odd.state} className="text-note" silent /> No finding is recorded, but on {several(odd.machines)}{" "}
      {odd.state === "absent" ? "there is none of it." : "it cannot be told what runs."}
    </p>
  ) : (
    <p className="flex items-center gap-1.5 text-ink2">
      <Mark kind="met" className="text-met" silent /> No finding is recorded for this tool in this folder.
    </p>
  );
}

/** What a claim without a range means, in a word. */
function meaning(c: Schemas["Claim"]): string {
  switch (c.role) {
    case "wiring":
      return "a path";
    case "residue":
      return "what made it";
    default:
      return "cannot be told";
  }
}

function Claims({ tool: t, repository }: { tool: ToolDetail; repository: Detail }) {
  return (
    <Panel title="Claims" word="claim">
      {t.claims.length === 0 ? <p className="text-ink2">No file states a version.</p> : null}
      {t.claims.length > 0 ? (
        <table className="w-full table-fixed max-sm:block">
          <colgroup className="max-sm:hidden">
            <col className="w-[92px]" />
            <col className="w-[24%]" />
            <col />
            <col className="w-[22%]" />
          </colgroup>
          <thead className="sr-only">
            <tr>
              <th>Role</th>
              <th>What it says</th>
              <th>Where</th>
              <th>What it means</th>
            </tr>
          </thead>
          <tbody className="max-sm:block">
            {t.claims.map((c) => (
              <tr
                key={`${c.file}:${c.line}:${c.column}:${c.raw}`}
                className="border-t border-line align-top first:border-0 max-sm:block max-sm:py-1"
              >
                <td className="py-1 text-ink2 max-sm:inline max-sm:pr-2">
                  <Word id={c.role}>{c.role}</Word>
                </td>
                <td className="py-1 pr-3 font-mono text-mono [overflow-wrap:anywhere] max-sm:inline">{c.raw}</td>
                <td className="py-1 pr-3 font-mono text-mono text-ink2 [overflow-wrap:anywhere] max-sm:block max-sm:py-0">
                  <PlaceOf repository={repository.name} place={c} link={repository.link} />
                  {c.notes?.map((note) => (
                    <span key={note} className="block font-sans text-small">
                      {note}
                    </span>
                  ))}
                </td>
                <td className="py-1 text-right font-mono text-mono text-ink2 [overflow-wrap:anywhere] max-sm:block max-sm:py-0 max-sm:text-left">
                  {c.range || meaning(c)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      {t.conflict.length > 0 ? (
        <p className="mt-2 text-error">
          No version satisfies all of this. These cannot hold together:{" "}
          {t.conflict.map((c) => `${c.raw} (${placeText(c)})`).join(" and ")}.
        </p>
      ) : t.claims.length > 0 ? (
        <p className="mt-2 text-ink2">
          <Word id="feasible">Together they allow</Word>{" "}
          <span className="font-mono text-mono text-ink">{t.feasible}</span>
        </p>
      ) : null}
    </Panel>
  );
}
