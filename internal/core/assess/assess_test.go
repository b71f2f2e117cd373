package assess_test

import (
	"context"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	calendar "wexo/internal/core/day"
	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/core/reading"
	"wexo/internal/core/resolve"
	"wexo/internal/core/sentence"
	"wexo/internal/report"
	"wexo/internal/ruletest"
)

var day = time.Date(2026, 11, 16, 0, 0, 0, 0, time.UTC)

// bench is a laptop with the toolchains that most cases need.
func bench() inventory.Inventory {
	in := func(tool, version, vendor, path string) inventory.Installation {
		return inventory.Installation{Tool: tool, Version: version, Vendor: vendor, Path: path, Home: filepath.Dir(filepath.Dir(path)), Origin: "versioned-root", Health: "good"}
	}
	return inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: "bench", Kind: "laptop", Home: "/home/fern"},
		Installations: []inventory.Installation{
			in("python", "3.8.18", "", "/opt/python/3.8.18/bin/python3.8"),
			in("python", "3.12.7", "", "/opt/python/3.12.7/bin/python3.12"),
			in("python", "3.13.1", "", "/opt/python/3.13.1/bin/python3.13"),
			in("node", "22.11.0", "", "/opt/node/22.11.0/bin/node"),
			in("node", "24.21.0", "", "/opt/node/24.21.0/bin/node"),
			in("java", "17.0.15+6", "debian", "/usr/lib/jvm/java-17/bin/java"),
			in("java", "21.0.8+9", "temurin", "/usr/lib/jvm/temurin-21/bin/java"),
			in("go", "1.26.8", "", "/opt/go/1.26.8/bin/go"),
		},
		FirstOnPath: []inventory.OnPath{{Tool: "python", Path: "/opt/python/3.12.7/bin/python3", Version: "3.12.7"}, {Tool: "node", Path: "/opt/node/24.21.0/bin/node", Version: "24.21.0"},
			{Tool: "java", Path: "/usr/lib/jvm/java-17/bin/java", Version: "17.0.15+6"}, {Tool: "go", Path: "/opt/go/1.26.8/bin/go", Version: "1.26.8"}},
	}
}

// assessment is one repository judged, in words.
type assessment struct {
	Findings []report.Finding
	Subjects []standing
}

type standing struct {
	Tool        *catalogue.Tool
	Resolutions []resolution // of each machine
}

type resolution struct {
	resolve.Outcome
	Ladder []resolve.Rung
}

func judge(t testing.TB, files map[string]string, on time.Time, inventories ...inventory.Inventory) assessment {
	t.Helper()
	return judgeBy(t, policy.Policy{}, files, on, inventories...)
}

func judgeBy(t testing.TB, p policy.Policy, files map[string]string, on time.Time, inventories ...inventory.Inventory) assessment {
	t.Helper()
	c, err := catalogue.Embedded()
	require.NoError(t, err)
	reader, err := reading.New(c)
	require.NoError(t, err)
	tree := fstest.MapFS{}
	for name, content := range files {
		tree[name] = &fstest.MapFile{Data: []byte(content), Mode: 0o644}
	}
	facts := assess.NewFacts(ruletest.Book(t, c))
	var machines []*inventory.Machine
	for _, inv := range inventories {
		machines = append(machines, inventory.NewMachine(inv, c))
	}
	fleet := resolve.NewFleet(machines, facts.Wants, nil)
	prepared := facts.Prepare(assess.Repository{Name: "bed", Reading: reader.Read(tree)}, p)
	results, err := assess.All(context.Background(), []*assess.Prepared{prepared}, fleet, on, assess.Earlier{})
	require.NoError(t, err)
	r := results[0]
	out := assessment{Findings: report.Wording{Fleet: fleet, Teller: sentence.For(fleet, on)}.Findings(r.Findings)}
	for i, s := range r.Subjects {
		st := standing{Tool: s.Tool}
		for n := range machines {
			at := slices.IndexFunc(r.Judged[i].Resolved.Outcomes, func(o resolve.Outcome) bool { return o.Machines.Has(n) })
			class := fleet.Of(s.Tool).Of[n]
			st.Resolutions = append(st.Resolutions, resolution{r.Judged[i].Resolved.Outcomes[at], resolve.Ladder(s.Subject, s.Case.Question, s.Pins, class, calendar.On(on))})
		}
		out.Subjects = append(out.Subjects, st)
	}
	return out
}

func classes(a assessment) []string {
	var out []string
	for _, f := range a.Findings {
		out = append(out, f.Class)
	}
	return out
}

func TestFindings(t *testing.T) {
	files := func(pairs ...string) map[string]string {
		out := map[string]string{}
		for i := 0; i < len(pairs); i += 2 {
			out[pairs[i]] = pairs[i+1]
		}
		return out
	}
	settings := ".vscode/settings.json"
	for name, c := range map[string]struct {
		files map[string]string
		want  []string // classes
		says  []string // of the first finding's message and remedy
	}{
		"healthy":                             {files(".python-version", "3.12\n", "pyproject.toml", "[project]\nrequires-python = \">=3.11\"\n"), nil, nil},
		"healthy by code name":                {files(".node-version", "lts/krypton\n", "package.json", "{}"), nil, nil},
		"healthy Go module without a pin":     {files("go.mod", "module x\n\ngo 1.26.0\n"), nil, nil},
		"the vendor is there":                 {files(".java-version", "temurin-21\n", "pom.xml", "<project/>"), nil, nil},
		"toolchain missing":                   {files(".node-version", "24.11.1\n"), []string{"toolchain-missing"}, []string{".node-version:1", "24.11.1", "bench has no such installation", "22.11.0 and 24.21.0", "change the pin in .node-version:1 to 24.21.0"}},
		"another vendor":                      {files(".java-version", "temurin-17\n", "pom.xml", "<project/>"), []string{"toolchain-missing"}, []string{"temurin-17", "17.0.15+6 (debian)"}},
		"pin missing":                         {files("package.json", "{}"), []string{"pin-missing"}, []string{"package.json", "24.21.0 on bench", "Pin Node.js 24 (supported until 30 Apr 2028), which runs today"}},
		"pin missing once for nested folders": {files("package.json", "{}", "a/package.json", "{}", "b/c/package.json", "{}"), []string{"pin-missing"}, nil},
		"claims disagree":                     {files(".java-version", "17\n", ".pins", "java 21\n"), []string{"claims-disagree"}, []string{".java-version:1", ".pins:1", "no version is both"}},
		"pins of different vendors":           {files(".java-version", "temurin-21\n", ".pins", "java zulu-21\n"), []string{"claims-disagree"}, []string{"temurin-21", "zulu-21"}},
		"bound violated for good":             {files(".python-version", "3.12\n", "pyproject.toml", "[project]\nrequires-python = \">=3.13\"\n"), []string{"bound-violated"}, []string{"pyproject.toml:2", ".python-version:1", "never meet", "Change .python-version:1 to Python 3.13"}},
		"bound violated by what is installed": {files(".node-version", "22\n", "package.json", `{"engines":{"node":">=22.12"}}`), []string{"bound-violated", "support-ending"}, []string{"package.json:1", "22.11.0 on bench", ">=22.12"}},
		"bound violated without a pin":        {files("go.mod", "module x\n\ngo 1.27.0\n"), []string{"toolchain-missing"}, []string{"Go 1.26.8 starts on bench, fetches Go 1.27.0, which go.mod:3 asks for"}},
		"language level above the kit":        {files(".java-version", "17\n", "pom.xml", "<project><properties><maven.compiler.release>21</maven.compiler.release></properties></project>"), []string{"bound-violated"}, []string{"Java 21 or newer"}},
		"interpreter mismatch":                {files(".python-version", "3.12\n", settings, `{"python.defaultInterpreterPath": "/opt/python/3.8.18/bin/python"}`), []string{"interpreter-mismatch"}, []string{"3.8.18 on bench", "ended on 7 Oct 2024", ".python-version:1", settings + ":1", "/opt/python/3.12.7/bin/python3.12"}},
		"interpreter by its home":             {files(".python-version", "3.12\n", settings, `{"python.defaultInterpreterPath": "/opt/python/3.12.7"}`), nil, nil},
		"interpreter dangling":                {files(".python-version", "3.12\n", settings, `{"python.defaultInterpreterPath": "~/gone/bin/python"}`), []string{"interpreter-dangling"}, []string{"~/gone/bin/python", "bench"}},
		"environment that is not there":       {files(".python-version", "3.12\n", settings, `{"python.defaultInterpreterPath": "${workspaceFolder}/.venv/bin/python"}`), []string{"interpreter-dangling"}, nil},
		"environment of another version":      {files(".python-version", "3.12\n", settings, `{"python.defaultInterpreterPath": ".venv/bin/python"}`, ".venv/pyvenv.cfg", "version = 3.8.18\n"), []string{"interpreter-mismatch"}, []string{"3.8.18"}},
		"the editor's own runtime is free":    {files(".java-version", "17\n", settings, `{"java.jdt.ls.java.home": "/usr/lib/jvm/temurin-21"}`), nil, nil},
		"end of life":                         {files(".python-version", "3.8\n", "setup.py", ""), []string{"end-of-life"}, []string{".python-version:1", "7 Oct 2024", "3.8.18 on bench", "Move to Python 3.13"}},
		"end of life and missing":             {files(".node-version", "18\n"), []string{"end-of-life", "toolchain-missing"}, []string{"30 Apr 2025"}},
		"support ending":                      {files(".node-version", "22\n"), []string{"support-ending"}, []string{"30 Apr 2027", "165 days"}},
		"pin floating":                        {files(".python-version", "*\n"), []string{"pin-floating"}, []string{".python-version:1", "names no version", "3.13.1 on bench"}},
		"lts floats, and is not there":        {files(".node-version", "lts\n"), []string{"pin-floating", "toolchain-missing"}, nil},
		"version unknown":                     {files(".node-version", "24.99.0\n"), []string{"toolchain-missing", "version-unknown"}, []string{"Correcting the version, as said under version unknown"}},
		"unknown vendor":                      {files(".java-version", "gardenjdk-17\n"), []string{"version-unknown"}, []string{"gardenjdk"}},
		"file unreadable":                     {files("package.json", "{", ".node-version", "24\n"), []string{"file-unreadable"}, []string{"package.json:1"}},
		"file unclaimed":                      {files(".zig-version", "0.14.1\n"), []string{"file-unclaimed"}, []string{".zig-version:1", "zig"}},
		"broken range":                        {files(".node-version", "24\n", "package.json", `{"engines":{"node":">=banana"}}`), []string{"file-unreadable"}, []string{"package.json:1", ">=banana"}},
		"nearer pin wins":                     {files(".node-version", "18\n", "web/.node-version", "24\n", "web/package.json", "{}"), []string{"end-of-life", "toolchain-missing"}, nil},
		"inherited pin is reported once":      {files(".node-version", "24.11.1\n", "a/package.json", "{}", "b/package.json", "{}"), []string{"toolchain-missing"}, nil},
	} {
		t.Run(name, func(t *testing.T) {
			a := judge(t, c.files, day, bench())
			assert.Equal(t, c.want, classes(a))
			for _, f := range a.Findings {
				assert.NotEmpty(t, f.Remedy)
				assert.True(t, strings.HasSuffix(f.Message, "."), f.Message)
				assert.NotEmpty(t, f.Evidence)
			}
			if len(c.says) > 0 {
				require.NotEmpty(t, a.Findings)
				for _, says := range c.says {
					assert.Contains(t, a.Findings[0].Message+" "+a.Findings[0].Remedy, says)
				}
			}
		})
	}
}

// TestTheNewestOfSeveralIsProposed: newest by the scheme's order, not by the letters.
func TestTheNewestOfSeveralIsProposed(t *testing.T) {
	inv := bench()
	inv.Installations = append(inv.Installations, inventory.Installation{Tool: "java", Version: "8.0.402+6", Path: "/opt/java/8/bin/java", Home: "/opt/java/8", Health: "good"})
	a := judge(t, map[string]string{".java-version": "11\n"}, day, inv)
	require.Equal(t, []string{"toolchain-missing"}, classes(a))
	assert.Contains(t, a.Findings[0].Message, "Nearest installed: 8.0.402+6 and 17.0.15+6 (debian).")
	assert.Equal(t, "Install Java 11 on bench.", a.Findings[0].Remedy, "nothing says that another one would do")
	a = judge(t, map[string]string{".java-version": "11\n", ".github/workflows/test.yml": "jobs:\n  test:\n    strategy:\n      matrix:\n        java: [11, 17]\n    steps:\n      - uses: actions/setup-java@v4\n        with: {java-version: '${{ matrix.java }}'}\n"}, day, inv)
	assert.Contains(t, a.Findings[0].Remedy, "change the pin in .java-version:1 to 17.0.15+6.", "the pipeline shows that it does")
}

// TestWhatIsThereAndOfNoUse: nobody is told that nothing is installed where something is.
func TestWhatIsThereAndOfNoUse(t *testing.T) {
	deno := func(version, health string) inventory.Installation {
		return inventory.Installation{Tool: "deno", Version: version, Path: "/opt/a/bin/deno", Home: "/opt/a", Origin: "standalone", Health: health}
	}
	for _, c := range []struct {
		name   string
		has    []inventory.Installation
		says   string
		silent string
	}{
		{"nothing", nil, "No Deno is installed there at all.", "no use"},
		{"a broken one", []inventory.Installation{deno("2.1.4", "broken")}, "no such installation that is known to work: the pinned version cannot run there. There, but of no use: 2.1.4 at /opt/a/bin/deno, which does not work.", "Nearest"},
		{"one that tells nothing", []inventory.Installation{deno("", "unknown")}, "that is known to work. There, but of no use: /opt/a/bin/deno, which does not tell its version.", "cannot run"},
		{"a broken one of another version", []inventory.Installation{deno("1.40.0", "broken"), {Tool: "deno", Version: "2.0.0", Path: "/opt/b/bin/deno", Home: "/opt/b", Health: "good"}},
			"no such installation: the pinned version cannot run there. Nearest installed: 2.0.0.", "no use"},
	} {
		inv := bench()
		inv.Installations = append(inv.Installations, c.has...)
		f := judge(t, map[string]string{".deno-version": "2.1.4\n"}, day, inv).Findings[0]
		assert.Contains(t, f.Message, c.says, c.name)
		assert.NotContains(t, f.Message, c.silent, c.name)
	}
	inv := bench()
	inv.Installations = append(inv.Installations, deno("2.1.4", "broken"))
	f := judge(t, map[string]string{"package.json": `{"engines": {"deno": ">=2"}}`}, day, inv).Findings[0]
	assert.Contains(t, f.Message, "bench has none that is known to work. There, but of no use: 2.1.4 at /opt/a/bin/deno, which does not work.")
}

func TestTheDateDecides(t *testing.T) {
	files := map[string]string{".node-version": "22\n"}
	assert.Empty(t, classes(judge(t, files, day.AddDate(0, -3, 0), bench())))
	assert.Equal(t, []string{"support-ending"}, classes(judge(t, files, day, bench())))
	assert.Equal(t, []string{"support-ending"}, classes(judge(t, files, time.Date(2027, 4, 30, 0, 0, 0, 0, time.UTC), bench())), "the last day of support")
	assert.Equal(t, []string{"end-of-life"}, classes(judge(t, files, time.Date(2027, 5, 1, 0, 0, 0, 0, time.UTC), bench())))
}

func TestFingerprintsStand(t *testing.T) {
	first := judge(t, map[string]string{".node-version": "24.11.1\n"}, day, bench())
	other := bench()
	other.Machine.Name = "desk"
	moved := judge(t, map[string]string{".node-version": "# moved down\n\n24.11.1\n", ".python-version": "3.12\n"}, day.AddDate(0, 0, 7), bench(), other)
	changed := judge(t, map[string]string{".node-version": "24.11.2\n"}, day, bench())
	assert.Equal(t, first.Findings[0].Fingerprint, moved.Findings[0].Fingerprint)
	assert.Equal(t, []string{"bench", "desk"}, moved.Findings[0].Machines)
	assert.NotEqual(t, first.Findings[0].Fingerprint, changed.Findings[0].Fingerprint)
}

func TestOverrideBeatsThePin(t *testing.T) {
	inv := bench()
	inv.Overrides = []inventory.Override{{Tool: "java", Variable: "JAVA_HOME", Raw: "/usr/lib/jvm/temurin-21"}}
	a := judge(t, map[string]string{".java-version": "17\n"}, day, inv)
	assert.Equal(t, []string{"override-lingering"}, classes(a))
	r := a.Subjects[0].Resolutions[0]
	assert.Equal(t, resolve.ByOverride, r.DecidedBy)
	assert.Equal(t, "21.0.8+9", r.Version)
	assert.Equal(t, "17", r.Ladder[1].Raw, "the weaker rung stays visible")
	assert.Equal(t, "17.0.15+6", r.Ladder[1].Version)
}

func TestPinsThatPickDifferentInstallations(t *testing.T) {
	inv := bench()
	inv.Installations = append(inv.Installations, inventory.Installation{Tool: "python", Version: "3.12.4", Path: "/opt/python/3.12.4/bin/python3", Home: "/opt/python/3.12.4", Health: "good"})
	a := judge(t, map[string]string{".python-version": "3.12\n", ".pins": "python 3.12.4\n"}, day, inv)
	require.Equal(t, []string{"claims-disagree"}, classes(a))
	assert.Contains(t, a.Findings[0].Message, "on bench the first leads to 3.12.7 and the second to 3.12.4")
	same := judge(t, map[string]string{".python-version": "3.12\n", ".pins": "python 3.12.7\n"}, day, inv)
	assert.Empty(t, classes(same), "two spellings that come to the same are no problem")
}

func TestOverrideThatLeadsNowhere(t *testing.T) {
	inv := bench()
	inv.Overrides = []inventory.Override{{Tool: "java", Variable: "JAVA_HOME", Raw: "/opt/gone"}}
	a := judge(t, map[string]string{".java-version": "17\n"}, day, inv)
	require.Equal(t, []string{"toolchain-missing"}, classes(a), "nothing runs there, whatever is pinned")
	assert.Equal(t, "error", string(a.Findings[0].Severity))
	assert.Contains(t, a.Findings[0].Message, "it says /opt/gone, which leads to no Java there")
	assert.Equal(t, resolve.Missing, a.Subjects[0].Resolutions[0].State)
}

func TestEditorsRunOnLaptopsOnly(t *testing.T) {
	agent := bench()
	agent.Machine.Name, agent.Machine.Kind = "agent", "build-agent"
	a := judge(t, map[string]string{".python-version": "3.12\n", ".vscode/settings.json": `{"python.defaultInterpreterPath": "/nowhere/bin/python"}`}, day, bench(), agent)
	require.Equal(t, []string{"interpreter-dangling"}, classes(a))
	assert.Equal(t, []string{"bench"}, a.Findings[0].Machines)
}

// allowed is all that the computation may import: nothing of the rest of Wexo, and nothing
// that asks the world outside for a file, a clock, a network or a process.
var allowed = []string{
	"bytes", "cmp", "context", "crypto/sha256", "embed", "encoding/binary", "encoding/hex", "encoding/json", "encoding/xml", "errors", "fmt", "hash", "io", "io/fs", "iter",
	"maps", "math/bits", "path", "reflect", "regexp", "regexp/syntax", "runtime", "slices", "sort", "strconv", "strings", "sync", "time", "unicode", "unicode/utf16", "unicode/utf8",
	"github.com/antchfx/xpath", "github.com/bmatcuk/doublestar/v4", "github.com/distribution/reference", "github.com/go-git/go-git/v5/plumbing/format/gitignore",
	"github.com/hashicorp/hcl/v2", "github.com/hashicorp/hcl/v2/hclsyntax", "github.com/pelletier/go-toml/v2", "github.com/pelletier/go-toml/v2/unstable",
	"github.com/tailscale/hujson", "github.com/theory/jsonpath", "github.com/theory/jsonpath/spec", "github.com/zclconf/go-cty/cty", "go.yaml.in/yaml/v3",
	"golang.org/x/mod/modfile", "golang.org/x/sync/errgroup",
}

// asking are the functions of allowed packages that ask the world outside all the same.
var asking = []string{"time.Now", "time.Since", "time.Until", "time.After", "time.AfterFunc", "time.Sleep", "time.Tick", "time.NewTimer", "time.NewTicker", "gitignore.ReadPatterns"}

// TestCoreStandsAlone: the computation imports what is allowed and nothing else.
// apart are packages, each with what it must not know: claims nothing of what is decided, documents
// nothing of what is known of tools, and what one file says nothing of pipelines.
var apart = map[string][]string{
	"claim": {"policy", "reading", "pipeline", "scan", "document"}, "document": {"catalogue", "claim", "policy"},
	"scan": {"pipeline", "reading", "policy"}, "pipeline": {"reading", "policy"},
}

func TestCoreStandsAlone(t *testing.T) {
	seen := 0
	err := filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		seen++
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		require.NoError(t, err)
		for _, i := range file.Imports {
			name := strings.Trim(i.Path.Value, `"`)
			assert.True(t, slices.Contains(allowed, name) || strings.HasPrefix(name, "wexo/internal/core/"), "%s imports %s", path, name)
			assert.NotContains(t, apart[filepath.Base(filepath.Dir(path))], strings.TrimPrefix(name, "wexo/internal/core/"), path)
		}
		ast.Inspect(file, func(n ast.Node) bool {
			if s, ok := n.(*ast.SelectorExpr); ok {
				if of, ok := s.X.(*ast.Ident); ok {
					assert.NotContains(t, asking, of.Name+"."+s.Sel.Name, path)
				}
			}
			return true
		})
		return nil
	})
	require.NoError(t, err)
	assert.Greater(t, seen, 50)
}
