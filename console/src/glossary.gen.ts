// Written by make generate from docs/glossary.md.

export const glossary = [
  { id: "repository", word: "repository", meaning: "a git repository, or a plain folder of source" },
  {
    id: "folder",
    word: "folder",
    meaning: "where claims apply; they hold for everything below it until a nearer one says otherwise",
  },
  { id: "tool", word: "tool", meaning: "a kind of toolchain: a runtime, SDK, compiler, build tool or package manager" },
  {
    id: "claim",
    word: "claim",
    meaning: "one statement about a tool's version in a repository, with file, line and column",
  },
  { id: "role", word: "role", meaning: "what a claim does: pin, bound, wiring, setup, tested, component or residue" },
  { id: "pin", word: "pin", meaning: "a claim that selects a version" },
  {
    id: "bound",
    word: "bound",
    meaning: "a claim that restricts the version: a manifest's engines, a minimum, what locked dependencies demand",
  },
  { id: "wiring", word: "wiring", meaning: "a claim that points an editor or IDE at an interpreter or SDK" },
  {
    id: "setup",
    word: "setup",
    meaning: "what a pipeline or a container file sets up; it has to be a version that the pin asks for",
  },
  { id: "tested", word: "tested", meaning: "a version that the project says it works with; it demands nothing" },
  { id: "component", word: "component", meaning: "the version of a library or framework that rules speak of" },
  { id: "residue", word: "residue", meaning: "what an earlier build left behind, naming the version that made it" },
  {
    id: "mention",
    word: "mention",
    meaning: "a place that looks like a tool beside a version and makes no claim, with the reason; no verdict rests on it",
  },
  {
    id: "feasible",
    word: "feasible range",
    meaning: "the versions that all claims on a tool in a folder allow together",
  },
  {
    id: "machine",
    word: "machine",
    meaning: "a place with toolchains: a laptop, a build agent, a container image, a subsystem inside another system",
  },
  { id: "inventory", word: "inventory", meaning: "what one machine has at one time" },
  {
    id: "installation",
    word: "installation",
    meaning: "one toolchain on one machine: tool, version, path, health, what comes with it",
  },
  { id: "group", word: "group", meaning: "machines with one tag; repositories are built by groups" },
  { id: "line", word: "line", meaning: "a release line of a tool (Python 3.12) with its dated support phases" },
  {
    id: "phase",
    word: "phase",
    meaning: "where a line stands in its life on a day: upcoming, current, long-term, maintenance or ended",
  },
  {
    id: "ladder",
    word: "ladder",
    meaning: "the ordered places a version can come from, strongest first: override, pin, inherited pin, baseline, default, first on PATH",
  },
  {
    id: "resolution",
    word: "resolution",
    meaning: "for one folder, tool and machine: the installation that would run, and its ladder",
  },
  { id: "met", word: "met", meaning: "an installation that is asked for would run" },
  { id: "missing", word: "missing", meaning: "a claim decides, and nothing installed fits" },
  { id: "unpinned", word: "unpinned", meaning: "nothing decides but the default or PATH" },
  { id: "absent", word: "absent", meaning: "no claim decides, and the machine has none" },
  { id: "conflict", word: "conflict", meaning: "no version can satisfy all claims" },
  { id: "finding", word: "finding", meaning: "one problem, with class, severity, evidence, machines and remedy" },
  { id: "cause", word: "cause", meaning: "findings that one act would mend" },
  { id: "remedy", word: "remedy", meaning: "a proposed change: an edit to a file, or something to install" },
  { id: "severity", word: "severity", meaning: "how bad a finding is: error, warning or note" },
  { id: "rule", word: "rule", meaning: "what must go together, between tools, components and platforms" },
  {
    id: "baseline",
    word: "baseline",
    meaning: "a named set of ranges that a target platform demands; repositories adopt baselines",
  },
  {
    id: "policy",
    word: "policy",
    meaning: "what the user decides: what matters where, how bad it is, what is accepted",
  },
  {
    id: "apart",
    word: "apart",
    meaning: "of folders of test data, examples or vendored code: listed, but in no count, cause or gate",
  },
  { id: "survey", word: "survey", meaning: "one pass over the repositories" },
  { id: "catalogue", word: "catalogue", meaning: "what is known of tools, rules and baselines, as data" },
] as const;

export type Word = (typeof glossary)[number]["id"];
