import { useQuery } from "@tanstack/react-query";
import { api, data, type Schemas } from "../api/client";
import { useLens } from "../lens";
import { day, several } from "../words";
import { Mark } from "./Mark";
import { Panel } from "./Panel";
import { TiesDrawing } from "./TiesDrawing";
import { blinding, Unseen } from "./Unseen";

type Joint = Schemas["Together"];

/** What holds all tools of a folder together: drawn, and in words beside it. */
export function Together({ repository, folder }: { repository: string; folder: string }) {
  const lens = useLens();
  const q = useQuery({
    queryKey: ["together", repository, folder, lens],
    queryFn: () =>
      data(
        api.GET("/api/repositories/{name}/together", {
          params: { path: { name: repository }, query: { ...lens, folder } },
        }),
      ),
    retry: false,
  });
  const j = q.data;
  if (!j || (j.ties.length === 0 && j.feasible)) return null;
  return (
    <Panel title={`All tools of ${j.folder ? `${j.folder}/` : "the root folder"} together`} className="mt-3.5">
      <div className="grid grid-cols-1 gap-x-6 gap-y-3 lg:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
        <TiesDrawing joint={j} />
        <div className="min-w-0">
          <Verdict joint={j} />
          <Holding joint={j} />
          <Unseen gaps={blinding(j.unseen)} />
        </div>
      </div>
    </Panel>
  );
}

function Verdict({ joint: j }: { joint: Joint }) {
  if (!j.decided) return <p className="text-ink2">Not decided: more is said here than can be weighed together.</p>;
  if (j.feasible && blinding(j.unseen).length > 0)
    return <p className="text-ink2">All that was seen here can hold together; not all was.</p>;
  if (j.feasible)
    return (
      <p className="flex items-center gap-1.5 text-ink2">
        <Mark kind="met" className="text-met" silent /> All that is said here can hold together.
      </p>
    );
  return (
    <>
      <p className="flex items-start gap-1.5">
        <Mark kind="tools-incompatible" className="mt-0.5 text-error" silent />
        <span>
          <span className="font-semibold">These cannot hold together.</span>{" "}
          <span className="text-ink2">{j.smallest ? "Leave out any one, and the others can." : ""}</span>
        </span>
      </p>
      <Chain links={j.conflict} />
      {j.beyond.map((chain) => (
        <div key={chain.map((l) => l.text).join()}>
          <p className="mt-2 text-ink2">Whatever is pinned, these cannot: one of them has to change.</p>
          <Chain links={chain} />
        </div>
      ))}
    </>
  );
}

/** A conflict in the order in which it is followed: rules between the claims that they tie. */
function Chain({ links }: { links: Schemas["ChainLink"][] }) {
  return (
    <ol className="mt-1.5">
      {links.map((l) => (
        <li
          key={l.text}
          className={`border-l-2 py-0.5 pl-2.5 [overflow-wrap:anywhere] ${l.kind === "rule" ? "border-error" : "border-rule"}`}
        >
          {l.text}
          {l.kind === "rule" && l.source ? <span className="block text-small text-ink2">{l.source}</span> : null}
        </li>
      ))}
    </ol>
  );
}

/** The versions that would hold, as the changes to make. */
function Holding({ joint: j }: { joint: Joint }) {
  const changed = j.assignment.filter((a) => a.changes.length > 0);
  if (j.feasible || changed.length === 0) return null;
  return (
    <>
      <h3 className="mt-3 mb-1 font-semibold">What would hold</h3>
      <ul>
        {changed.map((a) => (
          <li key={a.tool} className="py-0.5 [overflow-wrap:anywhere]">
            <span className="font-semibold">
              {a.title} {a.write}
            </span>{" "}
            <span className="text-ink2">
              {a.changes.map((c) => `in ${c.file}:${c.line} instead of ${c.raw}`).join(", ")}
              {a.until ? `; supported until ${day(a.until)}` : ""}
              {a.install.length > 0 ? `; to be installed on ${several(a.install)}` : ""}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
