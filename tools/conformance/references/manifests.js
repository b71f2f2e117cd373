// Reads the paths of package.json files and answers, as npm itself reads each: what it
// says of Node.js, and which of the versions given it admits.
const path = require("path");
const npm = require("module").createRequire(process.argv[2]);
const PackageJson = npm("@npmcli/package-json");
const semver = npm("semver");
const versions = process.argv[3].split(",");
const main = async () => {
  const out = [];
  for (const file of require("fs").readFileSync(0, "utf8").split("\n").filter(Boolean)) {
    try {
      const { content } = await PackageJson.normalize(path.dirname(file));
      const raw = content.engines && typeof content.engines === "object" && !Array.isArray(content.engines) ? content.engines.node : undefined;
      const admits = typeof raw === "string" && semver.validRange(raw) !== null ? versions.map((v) => (semver.satisfies(v, raw) ? "1" : "0")).join("") : "";
      out.push(JSON.stringify({ raw: typeof raw === "string" ? raw : "", admits }));
    } catch (error) {
      out.push(JSON.stringify({ error: error.code || String(error) }));
    }
  }
  process.stdout.write(out.join("\n") + "\n");
};
main();
