import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, queries, type Schemas } from "../api/client";
import { day } from "../words";

/** Starts a survey and shows how far it is; the pages are read again when it ends. */
export function SurveyButton() {
  const [running, setRunning] = useState<Schemas["Survey"] | null>(null);
  const surveys = useQuery({ queryKey: ["surveys"], queryFn: () => data(api.GET("/api/surveys")) });
  const start = useMutation({
    mutationFn: () => data(api.POST("/api/surveys")),
    onSuccess: (s) => {
      setRunning(s);
      const events = new EventSource(`/api/surveys/${s.id}/events`);
      const end = () => {
        events.close();
        setRunning(null);
        queries.invalidateQueries();
      };
      events.addEventListener("survey", (e) => {
        const now = JSON.parse(e.data) as Schemas["Survey"];
        if (now.state === "running") setRunning(now);
        else end();
      });
      events.onerror = end;
    },
  });
  const last = surveys.data?.surveys.find((s) => s.state === "finished");
  return (
    <div className="sm:text-right">
      <button type="button" className="control sm:ml-auto" disabled={running !== null} onClick={() => start.mutate()}>
        {running ? `Reading ${running.done} of ${running.total}` : "Survey now"}
      </button>
      <p className="mt-1 text-small text-ink2" role="status">
        {start.error ? start.error.message : last ? `Last survey as of ${day(last.asOf)}` : "Never surveyed"}
      </p>
    </div>
  );
}
