package cli_test

import (
	"bytes"
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wexo/internal/cli"
)

// ground is an estate that is being made, with what a command is given.
type ground struct {
	t      testing.TB
	random *rand.Rand
	dir    string // the repositories lie in it
	out    string // beside it
	bed    string // the repository that the fault is of
	plain  bool   // which is no git repository
	ref    string
	config string
	bench  string   // the inventory, as JSON
	more   []string // further folders that are named
}

func (g *ground) write(file, text string) {
	at := filepath.Join(g.bed, filepath.FromSlash(file))
	require.NoError(g.t, os.MkdirAll(filepath.Dir(at), 0o755))
	require.NoError(g.t, os.RemoveAll(at))
	require.NoError(g.t, os.WriteFile(at, []byte(text), 0o644))
}

// object is the file of a loose object of the repository.
func (g *ground) object(rev string) string {
	id := strings.TrimSpace(gitOut(g.t, g.bed, "rev-parse", rev))
	return filepath.Join(g.bed, ".git", "objects", id[:2], id[2:])
}

// made makes the repository a plain folder, so that what lies there is what is read.
func (g *ground) made() {
	require.NoError(g.t, os.RemoveAll(filepath.Join(g.bed, ".git")))
	g.plain = true
}

// fault is a way in which something is not seen.
type fault struct {
	name string
	make func(g *ground)
	// tells is what has to be said of it; where holds is true, a status of 0 is right then, since
	// what is said holds without it.
	tells string
	holds bool
	// of is what the fault is of: nothing is asked of it by commands that look at something else.
	of place
}

// place is what a fault is of.
type place int

const (
	ofBed     place = iota // the repository
	around                 // what lies around it
	below                  // a folder below the one that is asked for: what is said of that holds
	ofOther                // another tool than the one that is traced
	ofMachine              // the machine: claims are weighed without it, and what does not run there is listed
)

// benchOf is a machine on which all that the beds ask for runs.
const benchOf = `{"format":"wexo.inventory/1","machine":{"name":"bench","os":"linux","arch":"amd64","kind":"build-agent"},"installations":[
{"tool":"node","version":"24.21.0","path":"/opt/node/24.21.0/bin/node","home":"/opt/node/24.21.0","origin":"versioned-root","health":"good","arch":"amd64"},
{"tool":"python","version":"3.13.1","path":"/opt/python/3.13.1/bin/python3","home":"/opt/python/3.13.1","origin":"versioned-root","health":"good","arch":"amd64"}],
"firstOnPath":[{"tool":"node","path":"/opt/node/24.21.0/bin/node","version":"24.21.0"},{"tool":"python","path":"/opt/python/3.13.1/bin/python3","version":"3.13.1"}]}`

func in(file, text string) func(g *ground) {
	return func(g *ground) { g.made(); g.write(file, text) }
}

var faults = []fault{
	{"a pin's object is missing", func(g *ground) { require.NoError(g.t, os.Remove(g.object("HEAD:.node-version"))) }, ".node-version", false, ofBed},
	{"a manifest's object is missing", func(g *ground) { require.NoError(g.t, os.Remove(g.object("HEAD:package.json"))) }, "package.json", false, ofBed},
	{"a tree is missing", func(g *ground) { require.NoError(g.t, os.Remove(g.object("HEAD:web"))) }, "web", false, below},
	{"the root's tree is missing", func(g *ground) { require.NoError(g.t, os.Remove(g.object("HEAD^{tree}"))) }, "cannot be read", false, ofBed},
	{"the commit is missing", func(g *ground) { require.NoError(g.t, os.Remove(g.object("HEAD"))) }, "", false, ofBed},
	{"an object is garbage", func(g *ground) {
		at := g.object("HEAD:.node-version")
		require.NoError(g.t, os.Chmod(at, 0o644))
		require.NoError(g.t, os.WriteFile(at, []byte("fern"), 0o644))
	}, ".node-version", false, ofBed},
	{"an object is cut off", func(g *ground) {
		at := g.object("HEAD:package.json")
		require.NoError(g.t, os.Chmod(at, 0o644))
		require.NoError(g.t, os.Truncate(at, 9))
	}, "package.json", false, ofBed},
	{"no objects", func(g *ground) { require.NoError(g.t, os.RemoveAll(filepath.Join(g.bed, ".git/objects"))) }, "", false, ofBed},
	{"no HEAD", func(g *ground) { require.NoError(g.t, os.Remove(filepath.Join(g.bed, ".git/HEAD"))) }, "", false, ofBed},
	{"HEAD is nonsense", func(g *ground) { g.write(".git/HEAD", "fern\n") }, "", false, ofBed},
	{"HEAD's branch is not there", func(g *ground) { g.write(".git/HEAD", "ref: refs/heads/gone\n") }, "", false, ofBed},
	{".git leads nowhere", func(g *ground) {
		require.NoError(g.t, os.RemoveAll(filepath.Join(g.bed, ".git")))
		g.write(".git", "gitdir: /no/such/folder\n")
	}, "", false, ofBed},
	{"a ref that is not there", func(g *ground) { g.ref = "no-such" }, "no-such", false, ofBed},
	{"a tree that no git would check out", func(g *ground) {
		pin := strings.TrimSpace(gitOut(g.t, g.bed, "rev-parse", "HEAD:.node-version"))
		tree := treeWith(g.t, g.bed, [3]string{"100644", ".node-version", pin}, [3]string{"100644", "a/b", pin})
		head := strings.TrimSpace(gitOut(g.t, g.bed, "commit-tree", "-m", "odd", tree))
		gitOut(g.t, g.bed, "update-ref", "HEAD", head)
	}, "folder listing", false, ofBed},
	{"a pin that is a link to nowhere", func(g *ground) {
		g.made()
		require.NoError(g.t, os.Remove(filepath.Join(g.bed, ".node-version")))
		require.NoError(g.t, os.Symlink("gone", filepath.Join(g.bed, ".node-version")))
	}, ".node-version", false, ofBed},
	{"a pin that is a link out", func(g *ground) {
		g.made()
		require.NoError(g.t, os.Remove(filepath.Join(g.bed, ".node-version")))
		require.NoError(g.t, os.Symlink("/etc/hostname", filepath.Join(g.bed, ".node-version")))
	}, ".node-version", false, ofBed},
	{"a pin that is a pipe", func(g *ground) {
		g.made()
		require.NoError(g.t, os.Remove(filepath.Join(g.bed, ".node-version")))
		require.NoError(g.t, mkfifo(filepath.Join(g.bed, ".node-version")))
	}, ".node-version", false, ofBed},
	{"a pin of 70 KB", in(".node-version", "24.21.0\n"+strings.Repeat("fern ", 14_000)), ".node-version", false, ofBed},
	{"a pin that is none", in(".node-version", "banana split\n"), ".node-version", false, ofBed},
	{"an empty pin", in(".node-version", ""), ".node-version", false, ofBed},
	{"a pin in no encoding", in(".node-version", "24\xff\xfe\x00\x01"), ".node-version", false, ofBed},
	{"a manifest that is broken", in("package.json", `{"engines": {"node": ">=24"`), "package.json", false, ofBed},
	{"a range that is none", in("package.json", `{"engines": {"node": ">=banana"}}`), "banana", false, ofBed},
	{"a lock file that is broken", in("package-lock.json", `{"lockfileVersion": 3, "packages": {"": {`), "package-lock.json", false, ofBed},
	{"a pyproject that is broken", in("pyproject.toml", "[project\nrequires-python = '>=3.13'\n"), "pyproject.toml", false, ofOther},
	{"a go.mod that is broken", in("go.mod", "modul x\ngo 1.x.y.z\n"), "go.mod", false, ofOther},
	{"a pom that is broken", in("pom.xml", "<project><properties><maven.compiler.release>21</project>"), "pom.xml", false, ofOther},
	{"a manifest beyond all size", in("package.json", `{"a": "`+strings.Repeat("x", 9<<20)+`"}`), "package.json", false, ofBed},
	{"own rules that are broken", in(".wexo.yaml", "baselines: [\n"), ".wexo.yaml", false, ofBed},
	{"own rules with a key that there is not", in(".wexo.yaml", "baseline: [kiosk]\n"), ".wexo.yaml", false, ofBed},
	{"own rules with a baseline that there is not", in(".wexo.yaml", "baselines: [kiosk]\n"), "kiosk", false, ofBed},
	{"own rules that are built by nobody", in(".wexo.yaml", "built-by: [kiosk]\n"), "kiosk", true, ofBed},
	{"folders without end", in(strings.Repeat("a/", 44)+".node-version", "18\n"), "deep", false, below},
	{"a repository too deep", func(g *ground) {
		at := filepath.Join(g.dir, strings.Repeat("d/", 34), "deep")
		require.NoError(g.t, os.MkdirAll(at, 0o755))
		require.NoError(g.t, os.WriteFile(filepath.Join(at, ".node-version"), []byte("18\n"), 0o644))
		require.NoError(g.t, os.WriteFile(filepath.Join(at, "package.json"), []byte("{}"), 0o644))
	}, "folders deep", false, around},
	{"a folder that holds nothing", func(g *ground) {
		at := filepath.Join(g.out, "empty")
		require.NoError(g.t, os.MkdirAll(at, 0o755))
		g.more = append(g.more, at)
	}, "empty", false, around},
	{"a folder that is not there", func(g *ground) { g.more = append(g.more, filepath.Join(g.out, "gone")) }, "gone", false, around},
	{"a file in place of a folder", func(g *ground) { g.more = append(g.more, filepath.Join(g.out, "bench.json")) }, "it is a file", false, around},
	{"a repository in a dot-folder", func(g *ground) {
		require.NoError(g.t, os.MkdirAll(filepath.Join(g.dir, ".trees/kiosk/.git"), 0o755))
	}, ".trees/kiosk", true, around},
	{"a link to a repository", func(g *ground) {
		at := filepath.Join(g.out, "elsewhere")
		require.NoError(g.t, os.MkdirAll(filepath.Join(at, ".git"), 0o755))
		require.NoError(g.t, os.Symlink(at, filepath.Join(g.dir, "linked")))
	}, "linked", true, around},
	{"a submodule that is not checked out", func(g *ground) { g.write(".gitmodules", "[submodule \"fern\"]\n\tpath = fern\n\turl = ../fern\n") }, "submodule", true, around},
	{"a group that there is not", func(g *ground) { g.config = "machines: {bench: {tags: [benches]}}\nbuilt-by: [bench]\n" }, "benches", false, ofBed},
	{"a group without machines", func(g *ground) { g.config = "machines: {bank: {tags: [benches]}}\nbuilt-by: [benches]\n" }, "no machine", false, ofBed},
	{"a title of no group", func(g *ground) { g.config = "groups: {benches: Benches}\n" }, "benches", false, ofBed},
	{"a baseline that there is not", func(g *ground) { g.config = "baselines: [kiosk]\n" }, "kiosk", false, ofBed},
	{"a class that there is not", func(g *ground) { g.config = "severities: {end-of-live: error}\n" }, "end-of-live", false, ofBed},
	{"a repository that there is not", func(g *ground) { g.config = "repositories: {bedd: {planned-end: 2099-01-01}}\n" }, "bedd", true, ofBed},
	{"a glob that matches nothing", func(g *ground) { g.config = "repositories: {'{kiosk,shop}-*': {planned-end: 2099-01-01}}\n" }, "kiosk,shop", true, ofBed},
	{"a tag that nobody has", func(g *ground) { g.config = "repositories: {'tag:kiosk': {planned-end: 2099-01-01}}\n" }, "kiosk", true, ofBed},
	{"a machine that there is not", func(g *ground) { g.config = "machines: {benhc: {tags: [benches]}}\n" }, "benhc", true, ofBed},
	{"what is left out and not there", func(g *ground) { g.config = "leave-out: [never]\n" }, "wexo.yaml", true, ofBed},
	{"a rule of too many choices", func(g *ground) { g.config = wideRule() }, "many choices", false, ofBed},
	{"an inventory that is broken", func(g *ground) { g.bench = benchOf[:300] }, "bench.json", false, ofBed},
	{"a tool that there is not", func(g *ground) {
		g.bench = strings.Replace(benchOf, `"tool":"python","version"`, `"tool":"pyton","version"`, 1)
	}, "pyton", true, ofMachine},
	{"a variable that leads nowhere", func(g *ground) {
		g.bench = strings.Replace(benchOf, `"firstOnPath"`, `"overrides":[{"tool":"node","variable":"GARDEN","raw":"/gone"}],"firstOnPath"`, 1)
	}, "GARDEN", false, ofMachine},
	{"a version that is not told", func(g *ground) {
		g.bench = strings.ReplaceAll(benchOf, `"version":"24.21.0"`, `"version":""`)
	}, "", false, ofMachine},
}

// wideRule is a rule with more choices than are written out.
func wideRule() string {
	var b strings.Builder
	b.WriteString("rules:\n")
	b.WriteString("  - table: wide\n    rows-of: node\n    need: python\n    because: \"a made-up one\"\n    rows:\n")
	for i := range 180 {
		fmt.Fprintf(&b, "      \"%d.%d\": \">=3.%d.%d\"\n", 20+i/20, i%20, i%14, i/14)
	}
	return b.String()
}

// well are the words for all being well, or for what could go.
var well = regexp.MustCompile(`Everything asked for|has all that is asked for|Nothing: all that|All that is said here can hold|in \d+ all can hold together, in 0 it cannot|Serves none of these repositories`)

// asks are the commands that rest on what was read. Those of one repository are given it.
var asks = []struct {
	name string
	one  bool
	args []string
}{
	{"survey", false, []string{"survey"}}, {"survey --each", false, []string{"survey", "--each"}}, {"survey json", false, []string{"survey", "--output", "json"}},
	{"survey one", true, []string{"survey"}}, {"survey strict", false, []string{"survey", "--strict", "--verbose"}},
	{"needs", false, []string{"needs"}}, {"needs json", false, []string{"needs", "--output", "json"}}, {"needs markdown", false, []string{"needs", "--output", "markdown"}}, {"needs list", true, []string{"needs", "--output", "list"}},
	{"reconcile", true, []string{"reconcile"}}, {"reconcile json", true, []string{"reconcile", "--output", "json"}}, {"reconcile --all", false, []string{"reconcile", "--all"}},
	{"trace", true, []string{"trace"}}, {"trace json", true, []string{"trace", "--output", "json"}},
}

// TestNoSilentYes: whatever of an estate is not found, not read, not matched or not decided, no
// command that rests on it ends with 0 or says that all is well, unless what it says holds without
// it and it is told.
func TestNoSilentYes(t *testing.T) {
	require.GreaterOrEqual(t, len(faults), 30)
	template := bedOf(t)
	ctx, err := cli.Holding(t.Context())
	require.NoError(t, err)
	worlds := 160
	if n, err := strconv.Atoi(os.Getenv("WEXO_WORLDS")); err == nil {
		worlds = n
	}
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	var group sync.WaitGroup
	next := make(chan int)
	for range max(2, runtime.GOMAXPROCS(0)) {
		group.Go(func() {
			for n := range next {
				random := rand.New(rand.NewPCG(seed, uint64(n)))
				silent(ctx, t, random, template, faults[n%len(faults)])
			}
		})
	}
	for n := range worlds {
		next <- n
	}
	close(next)
	group.Wait()
}

// silent makes one estate with and without a fault and asks it.
func silent(ctx context.Context, t *testing.T, random *rand.Rand, template string, f fault) {
	out, err := os.MkdirTemp("", "silence")
	require.NoError(t, err)
	defer os.RemoveAll(out)
	g := &ground{t: t, random: random, dir: filepath.Join(out, "work"), out: out, bench: benchOf}
	require.NoError(t, os.MkdirAll(g.dir, 0o755))
	for i := range random.IntN(3) {
		other := filepath.Join(g.dir, fmt.Sprint("moss-", i))
		require.NoError(t, os.MkdirAll(other, 0o755))
		form := [][2]string{{".node-version", "24.21.0\n"}, {".python-version", "3.13\n"}, {".tools", "node 24.21.0\npython 3.13.1\n"}}[random.IntN(3)]
		require.NoError(t, os.WriteFile(filepath.Join(other, form[0]), []byte(form[1]), 0o644))
	}
	g.bed = filepath.Join(g.dir, "bed")
	require.NoError(t, os.CopyFS(g.bed, os.DirFS(template)))
	require.NoError(t, os.WriteFile(filepath.Join(out, "bench.json"), []byte(g.bench), 0o644))
	f.make(g)
	require.NoError(t, os.WriteFile(filepath.Join(out, "bench.json"), []byte(g.bench), 0o644))
	ask := asks[random.IntN(len(asks))]
	args := slices.Clone(ask.args)
	where := g.dir
	if ask.one {
		where = g.bed
	}
	survey, joint := ask.args[0] == "survey", ask.args[0] == "reconcile"
	switch {
	case ask.one && f.of == around, !survey && f.holds && f.of != around, joint && f.of == ofMachine,
		f.name == "a rule of too many choices" && !survey && !joint:
		return // it does not matter to what is asked
	}
	args = append(args, "--fresh", "--as-of", "2026-11-30", "--inventory", filepath.Join(out, "bench.json"))
	if g.ref != "" {
		args = append(args, "--ref", g.ref)
	}
	if g.config != "" {
		require.NoError(t, os.WriteFile(filepath.Join(out, "wexo.yaml"), []byte(g.config), 0o644))
		args = append(args, "--config", filepath.Join(out, "wexo.yaml"))
	}
	args = append(args, where)
	args = append(args, g.more...)
	if ask.args[0] == "trace" {
		args = append(args, "node")
	}
	var o, e bytes.Buffer
	status := cli.RunIn(ctx, args, cli.Streams{In: strings.NewReader(""), Out: &o, Err: &e})
	said := o.String() + e.String()
	note := fmt.Sprintf("%s, %s: status %d\n%s", f.name, ask.name, status, said)
	if f.holds || f.of == below && (ask.args[0] == "trace" || joint && ask.one) || f.of == ofOther && ask.args[0] == "trace" || f.of == ofMachine && !survey {
		if f.name == "a version that is not told" || ask.name == "needs list" {
			return
		}
		tells := f.tells
		if ask.one && g.config != "" { // of a part of the estate the line is told
			tells = "wexo.yaml"
		}
		assert.Contains(t, strings.Join(strings.Fields(said), " "), tells, "it is not told: %s", note)
		return
	}
	assert.NotEqual(t, 0, status, note)
	if status != 2 && f.tells != "" && ask.name != "needs list" {
		assert.Contains(t, strings.Join(strings.Fields(said), " "), f.tells, "it is not told: %s", note)
	}
	if found := well.FindString(said); found != "" && !(strings.HasPrefix(found, "Serves") && !strings.Contains(said, "- Node.js")) {
		assert.Fail(t, "it says that all is well: "+found, note)
	}
}

// TestNoSilentYesOfAService: the same commands, asked of a service that has read the repositories.
func TestNoSilentYesOfAService(t *testing.T) {
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	dir := lay(t, map[string]string{"bench.json": benchOf, "work/well/.node-version": "24.21.0\n", "work/broken/.node-version": "24.21.0\n", "work/broken/package.json": `{"engines": {`})
	token, link, stop := serving(t, "--data", filepath.Join(dir, "wexo.db"), "--roots", filepath.Join(dir, "work"), "--as-of", "2026-11-30")
	defer stop()
	url, _, _ := strings.Cut(link, "/sign-in")
	t.Setenv("WEXO_SERVER", url)
	t.Setenv("WEXO_TOKEN", token)
	for _, args := range [][]string{{"repositories", "add", filepath.Join(dir, "work")}, {"machines", "send", filepath.Join(dir, "bench.json")}} {
		status, _, errs := wexo(t, args...)
		require.Equal(t, 0, status, errs)
	}
	for _, args := range [][]string{{"survey"}, {"survey", "--output", "json"}, {"needs", "bench"}, {"needs", "bench", "--output", "list"}, {"reconcile", "broken"}, {"reconcile", "broken", "--output", "json"}, {"trace", "broken", "node"}, {"trace", "broken", "node", "--output", "json"}} {
		status, out, errs := wexo(t, args...)
		assert.Equal(t, 3, status, "%s: %s%s", args, out, errs)
		assert.Contains(t, out+errs, "package.json", args)
		assert.NotRegexp(t, well, out+errs, args)
	}
	for _, args := range [][]string{{"needs", "bench", "well"}, {"reconcile", "well"}, {"trace", "well", "node"}, {"survey", "--fail-on", "never"}, {"survey", "--repository", "well"}} {
		status, out, errs := wexo(t, args...)
		assert.Equal(t, 0, status, "%s: %s%s", args, out, errs)
	}
}
