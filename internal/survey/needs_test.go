package survey_test

import (
	"context"
	"os"
	"slices"
	"strconv"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"wexo/internal/core/assess"
	"wexo/internal/core/inventory"
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
			if !slices.Contains([]string{"toolchain-missing", "bound-violated", "version-unknown"}, f.Class) {
				continue
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
