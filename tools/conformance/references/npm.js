// Answers lines of KIND, X, Y (tab-separated) with npm's own semver.
const semver = require("module").createRequire(process.argv[2])("semver");
const answer = (kind, x, y) => {
  if (kind === "order") {
    if (!semver.valid(x) || !semver.valid(y)) return "error";
    return String(semver.compare(x, y));
  }
  if (semver.validRange(x) === null || !semver.valid(y)) return "error";
  return String(semver.satisfies(y, x));
};
const out = [];
for (const line of require("fs").readFileSync(0, "utf8").split("\n")) {
  if (line) out.push(answer(...line.split("\t")));
}
process.stdout.write(out.join("\n") + "\n");
