import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { useChange } from "../lens";
import { kindOf, machineKinds, number } from "../words";
import { FilterChip } from "./FilterChip";
import { chosenOf, Pick } from "./Pick";
import { Word } from "./Word";

type Overview = Schemas["Overview"];

const severities = ["error", "warning", "note"] as const;

/** For how long findings are open, as the URL says it. */
const ages: { value: string; label: string; age?: string; over?: string }[] = [
  { value: "", label: "any time" },
  { value: "7", label: "7 days or less", age: "7" },
  { value: "30", label: "30 days or less", age: "30" },
  { value: "90", label: "90 days or less", age: "90" },
  { value: "over30", label: "more than 30 days", over: "30" },
  { value: "over90", label: "more than 90 days", over: "90" },
];

/** By what findings can be chosen; each choice is in the URL. */
export function FindingFilters({ overview, apart }: { overview: Overview | undefined; apart: boolean }) {
  const [params] = useSearchParams();
  const change = useChange();
  const classes = params.getAll("class");
  const toggle = (key: string, value: string) => {
    const now = params.getAll(key);
    change({ [key]: now.includes(value) ? now.filter((v) => v !== value) : [...now, value] });
  };
  return (
    <div className="my-3 flex flex-col gap-2">
      <div className="flex flex-wrap items-center gap-2">
        <fieldset className="flex flex-wrap gap-2">
          <legend className="sr-only">Severity</legend>
          {severities.map((s) => (
            <button
              key={s}
              type="button"
              aria-pressed={params.getAll("severity").includes(s)}
              onClick={() => toggle("severity", s)}
              className={`cursor-pointer rounded-full border px-2.5 py-0.5 ${params.getAll("severity").includes(s) ? "border-accent bg-accent-soft" : "border-control bg-panel"}`}
            >
              {s} {apart ? null : <b className="font-semibold">{number(overview?.bySeverity[s] ?? 0)}</b>}
            </button>
          ))}
        </fieldset>
        <Age />
        <Tools overview={overview} />
        <Repositories />
        {overview && overview.tags.length > 0 ? <Tags tags={overview.tags} /> : null}
        <Machines />
      </div>
      {apart ? null : (
        <fieldset className="flex flex-wrap gap-2">
          <legend className="sr-only">Class</legend>
          {(overview?.classes ?? []).map((c) => (
            <FilterChip
              key={c.class}
              kind={c.class}
              severity={c.severity}
              label={kindOf(c.class).short}
              count={c.total}
              on={classes.includes(c.class)}
              onToggle={() => toggle("class", c.class)}
            />
          ))}
        </fieldset>
      )}
    </div>
  );
}

function Age() {
  const [params] = useSearchParams();
  const change = useChange();
  const age = params.get("age") ?? undefined;
  const over = params.get("over") ?? undefined;
  const known = ages.find((a) => a.age === age && a.over === over);
  return (
    <label className={`control !py-0 ${age || over ? "!border-accent bg-accent-soft" : ""}`}>
      <span className="text-ink2">Open for</span>
      <select
        className="min-h-6 bg-transparent text-ink"
        value={known ? known.value : "other"}
        onChange={(e) => {
          const next = ages.find((a) => a.value === e.target.value);
          change({ age: next?.age, over: next?.over });
        }}
      >
        {known ? null : <option value="other">{`${Number(over) + 1} to ${age} days`}</option>}
        {ages.map((a) => (
          <option key={a.value} value={a.value}>
            {a.label}
          </option>
        ))}
      </select>
    </label>
  );
}

function Tools({ overview }: { overview: Overview | undefined }) {
  const [params] = useSearchParams();
  const change = useChange();
  const chosen = params.getAll("tool");
  const options = (overview?.toolNames ?? []).map((t) => ({ value: t.tool, label: t.title }));
  return (
    <Pick
      label="Tool"
      said={chosenOf(chosen, options, "any")}
      options={options}
      chosen={chosen}
      onChoose={(tool) => change({ tool })}
      all="Any tool"
      empty={
        <>
          No repository speaks of a <Word id="tool">tool</Word> yet.
        </>
      }
    />
  );
}

function Repositories() {
  const [params] = useSearchParams();
  const change = useChange();
  const [wanted, setWanted] = useState(false);
  const chosen = params.getAll("repository");
  const list = useQuery({
    queryKey: ["repositories"],
    queryFn: () => data(api.GET("/api/repositories")),
    enabled: wanted,
  });
  const options = (list.data?.repositories ?? []).map((r) => ({ value: r.name, label: r.name }));
  return (
    <Pick
      label="Repository"
      said={chosenOf(chosen, options, "any")}
      options={options}
      chosen={chosen}
      onChoose={(repository) => change({ repository })}
      all="Any repository"
      empty={list.isSuccess ? "There is no repository yet." : "Reading …"}
      onOpen={() => setWanted(true)}
    />
  );
}

function Tags({ tags }: { tags: string[] }) {
  const [params] = useSearchParams();
  const change = useChange();
  const chosen = params.getAll("tag");
  const options = tags.map((t) => ({ value: t, label: t }));
  return (
    <Pick
      label="Tag"
      said={chosenOf(chosen, options, "any")}
      options={options}
      chosen={chosen}
      onChoose={(tag) => change({ tag })}
      all="Any tag"
      empty=""
    />
  );
}

/** The machines: the same choice as the lens above, where one looks for filters. */
function Machines() {
  const [params] = useSearchParams();
  const change = useChange();
  const chosen = params.getAll("machine");
  const list = useQuery({ queryKey: ["machines"], queryFn: () => data(api.GET("/api/machines")) });
  const options = (list.data?.machines ?? []).map((m) => ({
    value: m.name,
    label: m.name,
    note: machineKinds[m.kind] ?? m.kind,
  }));
  return (
    <Pick
      label="On machine"
      said={chosenOf(chosen, options, "any")}
      options={options}
      chosen={chosen}
      onChoose={(machine) => change({ machine })}
      all="Any machine"
      empty={
        <>
          No machine has sent its <Word id="inventory">inventory</Word> yet.
        </>
      }
    />
  );
}
