package assess_test

import (
	"context"
	"fmt"
	"maps"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/core/reading"
	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
	"wexo/internal/core/sentence"
)

// garden is a repository as it lies on disk, with the machines it is seen from.
type garden struct {
	book      *rule.Book
	catalogue *catalogue.Catalogue
	reader    *reading.Reader
	files     map[string]string
	machines  []inventory.Inventory
	worktree  bool // it is read as it lies there
}

// known is what comes with Wexo, with a reader of it: hundreds of gardens share them.
var known = sync.OnceValues(func() (*rule.Book, *reading.Reader) {
	b, err := rule.Embedded()
	if err != nil {
		panic(err)
	}
	r, err := reading.New(b.Catalogue)
	if err != nil {
		panic(err)
	}
	return b, r
})

func newGarden(files map[string]string, machines ...inventory.Inventory) *garden {
	b, r := known()
	return &garden{book: b, catalogue: b.Catalogue, reader: r, files: files, machines: machines}
}

// agent is a build agent with what the bench has, but for the oldest Python.
func agent() inventory.Inventory {
	inv := bench()
	inv.Machine.Name, inv.Machine.Kind, inv.Machine.Home = "agent", "build-agent", ""
	inv.Installations = inv.Installations[1:]
	return inv
}

// tree is files as a repository's tree.
func tree(files map[string]string) fstest.MapFS {
	out := fstest.MapFS{}
	for name, content := range files {
		out[name] = &fstest.MapFile{Data: []byte(content), Mode: 0o644}
	}
	return out
}

// look judges the garden.
func (g *garden) look(t testing.TB) ([]*assess.Finding, *resolve.Fleet) {
	result, _, fleet := g.judge(t)
	return result.Findings, fleet
}

// judge judges the garden, and gives what it was judged by.
func (g *garden) judge(t testing.TB) (*assess.Result, *assess.Facts, *resolve.Fleet) {
	facts := assess.NewFacts(g.book)
	var machines []*inventory.Machine
	for _, inv := range g.machines {
		machines = append(machines, inventory.NewMachine(inv, g.catalogue))
	}
	fleet := resolve.NewFleet(machines, facts.Wants, nil)
	prepared := facts.Prepare(assess.Repository{Name: "bed", Reading: g.reader.ReadTree(context.Background(), tree(g.files), reading.Options{WorkingTree: g.worktree})}, policy.Policy{})
	results, err := assess.All(context.Background(), []*assess.Prepared{prepared}, fleet, day, assess.Earlier{})
	require.NoError(t, err)
	return results[0], facts, fleet
}

// with is the garden after something was done; nothing of the first one changes.
func (g *garden) with() *garden {
	out := &garden{book: g.book, catalogue: g.catalogue, reader: g.reader, files: maps.Clone(g.files), worktree: g.worktree}
	for _, m := range g.machines {
		m.Installations, m.FirstOnPath = slices.Clone(m.Installations), slices.Clone(m.FirstOnPath)
		out.machines = append(out.machines, m)
	}
	return out
}

// install puts a version on machines; first makes it what runs by default.
func (g *garden) install(on []string, tool, version, vendor string, first bool) {
	for i := range g.machines {
		m := &g.machines[i]
		if !slices.Contains(on, m.Machine.Name) {
			continue
		}
		home := "/opt/new/" + tool + "/" + version
		m.Installations = append(m.Installations, inventory.Installation{Tool: tool, Version: version, Vendor: vendor, Path: home + "/bin/" + tool, Home: home, Origin: "versioned-root", Health: "good"})
		if _, there := inventory.NewMachine(*m, g.catalogue).FirstOnPath(tool); first || !there {
			m.FirstOnPath = append([]inventory.OnPath{{Tool: tool, Path: home + "/bin/" + tool, Version: version}}, slices.DeleteFunc(m.FirstOnPath, func(p inventory.OnPath) bool { return p.Tool == tool })...)
		}
	}
}

// edit is another text for a claim.
type edit struct {
	claim claim.Claim
	text  string
}

// apply edits files, from the end of each to its beginning; false where a claim is written
// nowhere as such.
func (g *garden) apply(edits []edit) bool {
	slices.SortFunc(edits, func(a, b edit) int { return b.claim.Begin - a.claim.Begin })
	for i, e := range edits {
		text := g.files[e.claim.File]
		if e.claim.End == 0 || e.claim.End > len(text) || e.claim.Locked != nil {
			return false
		}
		if i > 0 && edits[i-1].claim.File == e.claim.File && edits[i-1].claim.Begin == e.claim.Begin {
			continue
		}
		g.files[e.claim.File] = text[:e.claim.Begin] + e.text + text[e.claim.End:]
	}
	return true
}

var numbered = regexp.MustCompile(`\d+(?:\.\d+)*(?:\+\d+)?`)

// somewhere is a version of a line that can be installed.
func somewhere(a *assess.Advice) string {
	version := a.Exact
	if version == "" {
		version = a.Text
	}
	for strings.Count(version, ".") < 2 {
		version += ".0"
	}
	return version
}

// done are the gardens in which a finding's remedy was followed, each way that it offers.
// known is false where the remedy names no version.
func (g *garden) done(f *assess.Finding, fleet *resolve.Fleet) (out []*garden, known bool) {
	v := f.Verdict
	if v == nil || v.Follows != nil {
		return nil, false
	}
	a, s := v.Advice, f.Subject
	missing := f.Class.Name == "toolchain-missing" && v.Kind == assess.MissingPinned && v.Line == nil
	if a == nil && !missing {
		return nil, false
	}
	vendor := ""
	if len(s.Pins) > 0 {
		vendor = s.Asked(0).Asks.Vendor
	}
	on := fleet.Names(v.Machines)
	switch class := f.Class.Name; {
	case missing:
		asked := s.Asked(0).Asks
		if asked.Variant != "" || asked.Package != "" || asked.Arch != "" || asked.System {
			return nil, false
		}
		next := g.with()
		next.install(on, f.Tool.Name, within(s, v), vendor, false)
		out = append(out, next)
		if v.Best != "" {
			next := g.with()
			if next.apply([]edit{{s.Claim(v.Evidence[0]), v.Best}}) {
				out = append(out, next)
			}
		}
		return out, true
	case class == "toolchain-missing" && v.Kind == assess.MissingPinned && a.Basis == assess.ByChoice && a.Line != nil:
		next := g.with()
		next.install(on, f.Tool.Name, somewhere(a), vendor, false)
		return []*garden{next}, true
	case a.Line == nil || a.Line == v.Line || v.Overriding() != "":
		return nil, false
	}
	next := g.with()
	next.install(fleet.Names(fleet.Of(f.Tool).Lacking(a.Set, a.Build)), f.Tool.Name, somewhere(a), vendor, false)
	switch class := f.Class.Name; {
	case class == "toolchain-missing" && v.Kind == assess.MissingAbsent:
		next.install(on, f.Tool.Name, somewhere(a), vendor, true)
	case class == "pin-missing":
		var edits []edit
		for _, r := range a.Change {
			for _, c := range claimsAt(s, r) {
				edits = append(edits, edit{c, written(a, r, c)})
			}
		}
		if !next.apply(edits) {
			return nil, false
		}
		next.files[path.Join(s.Holds.Folder, "."+f.Tool.Name+"-version")] = a.Text + "\n"
	case class == "bound-violated" && v.Kind != assess.BoundNever:
		return nil, false
	case v.Kind == assess.SupportDefault:
		next.install(on, f.Tool.Name, somewhere(a), "", true)
	default:
		first := v.Evidence
		if v.Kind == assess.BoundNever {
			first = v.Evidence[1:]
		}
		if len(first) == 0 {
			return nil, false
		}
		var edits []edit
		for _, r := range slices.Concat(first[:1], v.Also, a.Change) {
			for _, c := range claimsAt(s, r) {
				edits = append(edits, edit{c, written(a, r, c)})
			}
		}
		if !next.apply(edits) {
			return nil, false
		}
	}
	return []*garden{next}, true
}

// claimsAt are the claims at a place: of a matrix all its values.
func claimsAt(s *assess.Subject, r assess.Ref) []claim.Claim {
	if r.Of == assess.AtLimit {
		var out []claim.Claim
		for _, c := range s.Limits[r.N] {
			out = append(out, *c)
		}
		return out
	}
	if r.Of != assess.AtSetup {
		return []claim.Claim{s.Claim(r)}
	}
	var out []claim.Claim
	for n, m := range s.Case.Setups {
		if m.With != s.Case.Setups[r.N].With {
			continue
		}
		for i := range s.Setups[n] {
			out = append(out, s.Claim(assess.Ref{Of: assess.AtSetup, N: n, Value: i}))
		}
	}
	return out
}

func written(a *assess.Advice, r assess.Ref, c claim.Claim) string {
	if r.Of == assess.AtPin {
		return a.Written(c.Raw)
	}
	return strings.Replace(c.Raw, numbered.FindString(c.Raw), a.Text, 1)
}

// within is a version that a pin asks for: the one that is written, where it is a whole one.
func within(s *assess.Subject, v *assess.Verdict) string {
	c := s.Claim(v.Evidence[0])
	if !v.Within.IsEmpty() {
		return numbered.FindString(v.Within.String())
	}
	if raw := numbered.FindString(c.Raw); strings.Count(raw, ".") >= 2 && c.Means == "" {
		return raw
	}
	return numbered.FindString(v.Allowed.String())
}

// errorsOf are the errors among findings, by what they are.
func errorsOf(list []*assess.Finding) map[string]*assess.Finding {
	out := map[string]*assess.Finding{}
	for _, f := range list {
		if f.Severity == assess.Error && !f.Apart {
			what := f.Class.Name + " " + f.Folder
			if f.Tool != nil {
				what += " " + f.Tool.Name
			}
			out[what] = f
		}
	}
	return out
}

// gardens are the repositories of the demo, of the reader's corpus, and those that are
// labelled for their causes.
func gardens(t testing.TB) map[string]map[string]string {
	out := map[string]map[string]string{}
	for _, pattern := range []string{"../../../demo/repositories/*.txtar", "../reading/testdata/corpus/*.txt"} {
		names, err := filepath.Glob(pattern)
		require.NoError(t, err)
		for _, name := range names {
			data, err := os.ReadFile(name)
			require.NoError(t, err)
			files, n := map[string]string{}, 0
			for _, f := range txtar.Parse(data).Files {
				if f.Name == "want" {
					out[fmt.Sprintf("%s/%d", filepath.Base(name), n)] = files
					files, n = map[string]string{}, n+1
					continue
				}
				files[f.Name] = string(f.Data)
			}
			if len(files) > 0 {
				out[filepath.Base(name)] = files
			}
		}
	}
	for _, l := range labelledRepositories(t) {
		out[l.name] = l.files
	}
	return out
}

// TestAdviceIsGoodToFollow: whoever does what a remedy says is rid of the finding, and no new
// error has come of it.
func TestAdviceIsGoodToFollow(t *testing.T) {
	all := gardens(t)
	followed := 0
	for _, name := range slices.Sorted(maps.Keys(all)) {
		g := newGarden(all[name], bench(), agent())
		before, fleet := g.look(t)
		teller := sentence.For(fleet, day)
		was := errorsOf(before)
		for _, f := range before {
			ways, _ := g.done(f, fleet)
			for n, way := range ways {
				followed++
				after, _ := way.look(t)
				message, remedy := teller.Tell(f)
				says := fmt.Sprintf("%s, way %d: %s\n-> %s", name, n, message, remedy)
				assert.False(t, slices.ContainsFunc(after, func(a *assess.Finding) bool { return a.Fingerprint == f.Fingerprint }), "still there: %s", says)
				for what, e := range errorsOf(after) {
					if was[what] == nil {
						m, _ := teller.Tell(e)
						assert.Fail(t, "a new error", "%s\nnew: %s", says, m)
					}
				}
			}
		}
	}
	assert.Greater(t, followed, 100, "remedies were followed")
}

// TestRemediesOfASubjectAgree: no two of them send to different lines, and those of a missing
// pin and of support are not the same twice.
func TestRemediesOfASubjectAgree(t *testing.T) {
	all := gardens(t)
	several := 0
	for _, name := range slices.Sorted(maps.Keys(all)) {
		found, fleet := newGarden(all[name], bench(), agent()).look(t)
		teller := sentence.For(fleet, day)
		lines := map[*assess.Subject]*catalogue.Line{}
		said := map[string]bool{}
		for _, f := range found {
			if f.Verdict == nil {
				continue
			}
			message, remedy := teller.Tell(f)
			if a := f.Verdict.Advice; a != nil && a.Line != nil {
				if was := lines[f.Subject]; was != nil {
					several++
					assert.Same(t, was, a.Line, "%s: %s -> %s", name, message, remedy)
				}
				lines[f.Subject] = a.Line
			}
			if c := f.Class.Name; c == "pin-missing" || c == "end-of-life" || c == "support-ending" {
				key := f.Tool.Name + " in " + f.Folder + ": " + remedy
				assert.False(t, said[key], "%s says twice: %s", name, key)
				said[key] = true
			}
		}
	}
	assert.Positive(t, several, "some subjects have several")
}
