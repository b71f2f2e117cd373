package survey_test

import (
	"context"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"wexo/internal/core/assess"
	"wexo/internal/core/claim"
	"wexo/internal/core/inventory"
	"wexo/internal/core/reading"
	"wexo/internal/core/remedy"
	"wexo/internal/report"
	"wexo/internal/survey"
)

// worlds is how many estates are drawn: few where each is slow.
func worlds(few int) int {
	if n, err := strconv.Atoi(os.Getenv("WEXO_WORLDS")); err == nil {
		return n
	}
	return few
}

// many checks a property for as many estates as are drawn.
func many(t *testing.T, few int, check func(*rapid.T)) {
	for range (worlds(few) + 99) / 100 {
		rapid.Check(t, check)
		if t.Failed() {
			return
		}
	}
}

// TestNeedsAndSurveyAgree: somebody who does on a machine what needs say is left with nothing that
// is missing, out of bounds or unknown there, but for what needs said that they do not mend; and
// who takes away what could go is told of nothing new.
func TestNeedsAndSurveyAgree(t *testing.T) {
	_, c := reader(t)
	many(t, 300, func(t *rapid.T) {
		d := drawEstate(t)
		if len(d.machines) == 0 {
			t.SkipNow()
		}
		at := rapid.IntRange(0, len(d.machines)-1).Draw(t, "machine")
		name := d.machines[at].Machine.Name
		before := d.anew(t, c)
		needs := needsOf(t, before, name)

		after := d
		after.machines = slices.Clone(d.machines)
		after.machines[at] = followed(d.machines[at], needs)
		for _, f := range foundOn(after.anew(t, c), name) {
			if f.Severity == "note" || !slices.Contains([]string{"toolchain-missing", "bound-violated", "version-unknown"}, f.Class) {
				continue // a note asks nothing of the machine
			}
			require.True(t, toldOf(needs, f), "nothing is said of it: %s: %s\n%s\nneeds: %+v", f.Class, f.Message, f.Remedy, needs)
		}

		known := map[string]bool{}
		for _, f := range foundOn(before, name) {
			known[f.Repository+f.Fingerprint] = true
		}
		after.machines[at] = d.machines[at]
		after.machines[at].Installations = slices.DeleteFunc(slices.Clone(d.machines[at].Installations), func(in inventory.Installation) bool {
			return slices.ContainsFunc(needs.Spare, func(s report.NeedsSpare) bool {
				return s.Tool == in.Tool && s.Path == in.Path && s.Version == in.Version
			})
		})
		for _, f := range foundOn(after.anew(t, c), name) {
			require.True(t, known[f.Repository+f.Fingerprint], "what could go brings: %s: %s\n%+v", f.Class, f.Message, needs.Spare)
		}
	})
}

func needsOf(t require.TestingT, j *survey.Judgement, machine string) report.Needs {
	var results []*assess.Result
	for _, r := range j.Reads {
		results = append(results, r.Result)
	}
	at := slices.IndexFunc(j.Fleet.Machines, func(m *inventory.Machine) bool { return m.Name() == machine })
	found, err := remedy.Of(context.Background(), j.Needing(results, at))
	require.NoError(t, err)
	return report.NewNeeds(found, machine, j.Day)
}

// foundOn are the findings of repositories on a machine, but for those that count apart.
func foundOn(j *survey.Judgement, machine string) []report.Finding {
	var out []report.Finding
	r := j.Report("test")
	for _, read := range r.Reads {
		for _, f := range r.Findings(read.Findings) {
			if !f.Apart && slices.Contains(f.Machines, machine) {
				out = append(out, f)
			}
		}
	}
	return out
}

// toldOf reports whether needs say of a finding that nothing on the machine mends it.
func toldOf(n report.Needs, f report.Finding) bool {
	at := f.Repository
	if f.Folder != "" {
		at += "/" + f.Folder
	}
	return slices.ContainsFunc(n.Left, func(l report.NeedsLeft) bool {
		return l.Class == f.Class && l.Tool == f.Tool && slices.Contains(l.AskedBy, at)
	}) || slices.ContainsFunc(n.Install, func(in report.NeedsInstall) bool {
		return in.Version == "" && in.Tool == f.Tool && slices.Contains(in.AskedBy, at)
	})
}

// followed is a machine on which everything was done that needs say.
func followed(inv inventory.Inventory, n report.Needs) inventory.Inventory {
	inv.Installations, inv.FirstOnPath, inv.Defaults = slices.Clone(inv.Installations), slices.Clone(inv.FirstOnPath), slices.Clone(inv.Defaults)
	first := func(tool, version, path string) {
		inv.FirstOnPath = slices.DeleteFunc(inv.FirstOnPath, func(p inventory.OnPath) bool { return p.Tool == tool })
		inv.FirstOnPath = append(inv.FirstOnPath, inventory.OnPath{Tool: tool, Version: version, Path: path})
	}
	byDefault := func(tool, version, source string) {
		for i := range inv.Defaults {
			if inv.Defaults[i].Tool == tool && inv.Defaults[i].Source == source {
				inv.Defaults[i].Raw, inv.Defaults[i].Path = version, ""
			}
		}
	}
	for _, in := range n.Install {
		if in.Version == "" {
			continue
		}
		version := in.Version
		home := "/opt/followed/" + in.Tool + "/" + version
		inv.Installations = append(inv.Installations, inventory.Installation{Tool: in.Tool, Version: version, Vendor: in.Vendor, Variant: in.Variant, Package: in.Package, Arch: in.Arch,
			Home: home, Path: home + "/bin/" + in.Tool, Origin: "versioned-root", Health: "good"})
		switch {
		case in.Default != "":
			byDefault(in.Tool, version, in.Default)
		case in.First:
			first(in.Tool, version, home+"/bin/"+in.Tool)
		}
	}
	for _, r := range n.Reach {
		if r.Default != "" {
			byDefault(r.Tool, r.Version, r.Default)
			continue
		}
		first(r.Tool, r.Version, r.Path)
	}
	return inv
}

// treesOf are folders of source that nobody prepared: the packages with which the console and the
// program are built, those that say something of versions.
func treesOf(t *testing.T, r *reading.Reader, most int) []survey.ReadRepository {
	cache, err := exec.Command("go", "env", "GOMODCACHE").Output()
	require.NoError(t, err)
	var found []string
	for _, pattern := range []string{"../../console/node_modules/*", "../../console/node_modules/@*/*", strings.TrimSpace(string(cache)) + "/*/*@*", strings.TrimSpace(string(cache)) + "/*/*/*@*"} {
		more, err := filepath.Glob(pattern)
		require.NoError(t, err)
		found = append(found, more...)
	}
	draw := rand.New(rand.NewPCG(26, uint64(worlds(1)))) // others are drawn where many worlds are
	draw.Shuffle(len(found), func(i, j int) { found[i], found[j] = found[j], found[i] })
	var out []survey.ReadRepository
	for _, at := range found {
		if len(out) == most {
			break
		}
		if info, err := os.Stat(at); err != nil || !info.IsDir() {
			continue
		}
		said := r.ReadTree(t.Context(), os.DirFS(at), reading.Options{WorkingTree: true})
		if slices.ContainsFunc(said.Claims, func(c claim.Claim) bool { return c.Role == claim.Bound || c.Role == claim.Pin }) {
			out = append(out, survey.ReadRepository{Repository: assess.Repository{Name: filepath.Base(filepath.Dir(at)) + "/" + filepath.Base(at), Path: at, Reading: said}})
		}
	}
	return out
}

// TestNeedsAndSurveyAgreeOnTrees: the same of source that nobody prepared.
func TestNeedsAndSurveyAgreeOnTrees(t *testing.T) {
	r, c := reader(t)
	trees := treesOf(t, r, 100)
	require.NotEmpty(t, trees)
	old := inventory.Inventory{Format: inventory.Format, Machine: inventory.MachineInfo{Name: "desk-0", Kind: "build-agent", OS: "linux", Arch: "amd64"}}
	for _, in := range [][2]string{{"node", "14.21.3"}, {"node", "20.11.1"}, {"go", "1.19.13"}, {"go", "1.24.0"}, {"python", "3.9.2"}} {
		home := "/opt/" + in[0] + "/" + in[1]
		old.Installations = append(old.Installations, inventory.Installation{Tool: in[0], Version: in[1], Home: home, Path: home + "/bin/" + in[0], Origin: "versioned-root", Health: "good"})
	}
	for _, i := range []int{0, 2, 4} {
		in := old.Installations[i]
		old.FirstOnPath = append(old.FirstOnPath, inventory.OnPath{Tool: in.Tool, Version: in.Version, Path: in.Path})
	}
	agree := func(list []survey.ReadRepository) {
		d := drawn{repositories: list, machines: []inventory.Inventory{old}, day: from.AddDate(4, 10, 29)}
		needs := needsOf(t, d.anew(t, c), "desk-0")
		d.machines = []inventory.Inventory{followed(old, needs)}
		for _, f := range foundOn(d.anew(t, c), "desk-0") {
			if slices.Contains([]string{"toolchain-missing", "bound-violated", "version-unknown"}, f.Class) {
				require.True(t, toldOf(needs, f), "nothing is said of it: %s in %s: %s", f.Class, f.Repository, f.Message)
			}
		}
	}
	for i := range trees {
		agree(trees[i : i+1])
	}
	agree(trees)
	t.Logf("%d trees", len(trees))
}
