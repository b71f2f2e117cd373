import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, data, queries, type Schemas } from "../api/client";
import { useAway } from "../connection";
import { useMayLead } from "../session";
import { moment, plural } from "../words";

type Survey = Schemas["Survey"];

/** How long it takes until it is asked again whether a survey has ended, in milliseconds. */
const askAgain = 3000;

/** Starts a survey and shows how far it is and what it changed; the pages are read again when it ends. */
export function SurveyButton() {
  const may = useMayLead();
  const away = useAway();
  const [watched, setWatched] = useState<Survey | null>(null);
  const surveys = useQuery({
    queryKey: ["surveys"],
    queryFn: () => data(api.GET("/api/surveys")),
    // Where the events have broken off, the list says what became of a survey.
    refetchInterval: (q) => (q.state.data?.surveys[0]?.state === "running" ? askAgain : false),
  });
  const newest = surveys.data?.surveys[0];
  const start = useMutation({ mutationFn: () => data(api.POST("/api/surveys")), onSuccess: setWatched });
  // One that somebody else began, or the schedule, is shown as well.
  const running = watched ?? (newest?.state === "running" ? newest : null);
  const id = running?.id;
  const ran = useRef(false);
  useEffect(() => {
    if (ran.current && id === undefined) queries.invalidateQueries();
    ran.current = id !== undefined;
  }, [id]);
  useEffect(() => {
    if (id === undefined || away) return;
    const events = new EventSource(`/api/surveys/${id}/events`);
    const end = () => {
      events.close();
      queries.invalidateQueries({ queryKey: ["surveys"] }).then(() => setWatched(null));
    };
    events.addEventListener("survey", (e) => {
      const now = JSON.parse(e.data) as Survey;
      if (now.state === "running") setWatched(now);
      else end();
    });
    events.onerror = end; // the list of surveys says what became of it
    return () => events.close();
  }, [id, away]);
  const busy = running !== null;
  return (
    <div className="sm:text-right">
      {may ? (
        <button
          type="button"
          className={`control sm:ml-auto ${busy ? "!cursor-default text-ink2" : ""}`}
          aria-disabled={busy}
          onClick={() => !busy && !start.isPending && start.mutate()}
        >
          {busy ? "Surveying …" : "Survey now"}
        </button>
      ) : null}
      {running ? (
        <progress
          aria-label="Repositories read"
          className="mt-1 block h-1.5 w-40 accent-accent sm:ml-auto"
          value={running.done}
          max={Math.max(running.total, 1)}
        />
      ) : null}
      <p className="mt-1 text-small text-ink2" role="status">
        {running
          ? `Read ${running.done} of ${plural(running.total, "repository", "repositories")}`
          : start.error
            ? start.error.message
            : newest
              ? said(newest)
              : surveys.isSuccess
                ? "Never surveyed"
                : ""}
      </p>
    </div>
  );
}

/** What became of a survey. */
function said(s: Survey): string {
  const when = moment(s.finishedAt || s.startedAt);
  if (s.state !== "finished") return `The survey of ${when} ${s.state}: ${s.message}`;
  const changes = [
    s.opened ? `${plural(s.opened, "finding")} opened` : "",
    s.closed ? `${s.opened ? s.closed : plural(s.closed, "finding")} closed` : "",
  ].filter(Boolean);
  return `Surveyed ${when}: ${changes.length > 0 ? changes.join(", ") : "nothing changed"}`;
}
