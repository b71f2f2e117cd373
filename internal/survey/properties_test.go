package survey_test

import (
	"bytes"
	"context"
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/fact"
	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/report"
	"wexo/internal/ruletest"
	"wexo/internal/survey"
)

// drawn is a made-up estate: what repositories say and what machines have.
type drawn struct {
	repositories []survey.ReadRepository
	machines     []inventory.Inventory
	policy       policy.Policy
	day          time.Time
}

var from = time.Date(2022, 1, 1, 0, 0, 0, 0, time.UTC)

var tools = map[string]struct{ pins, bounds, versions []string }{
	"node":   {[]string{"18", "20.11.1", "22", "22.11.0", "24", "lts", "latest", "lts/jod", "26.4.0", "26.99.0", "27", "29", "system", "garden-1", "99", "ref:0f1e2d"}, []string{">=18", "^20 || >=22", ">=22.12", "<18", ">=banana"}, []string{"18.20.8", "20.11.1", "22.11.0", "22.23.3", "24.21.0", "26.1.0", ""}},
	"python": {[]string{"3.8", "3.12", "3.12.7", "3.13", "*", "3.99"}, []string{">=3.9", ">=3.11,<3.14", "==3.12.*"}, []string{"3.8.18", "3.11.9", "3.12.4", "3.12.7", "3.13.1"}},
	"java":   {[]string{"17", "temurin-17", "21", "zulu-21", "8"}, []string{"11", "17", "21"}, []string{"8.0.402+6", "17.0.15+6", "21.0.8+9"}},
	"go":     {[]string{"1.26.8"}, []string{"1.24.0", "1.26.0", "1.30.0"}, []string{"1.25.5", "1.26.8", "1.27.4"}},
}

var toolNames = []string{"node", "python", "java", "go"}

func drawReading(t *rapid.T) fact.Reading {
	var r fact.Reading
	folders := []string{"", "web", "web/kiosk", "api", "testdata/old"}
	for i := range rapid.IntRange(0, 9).Draw(t, "claims") {
		tool := rapid.SampledFrom(toolNames).Draw(t, "tool")
		folder := rapid.SampledFrom(folders).Draw(t, "folder")
		c := claim.Claim{Tool: tool, Role: rapid.SampledFrom([]claim.Role{claim.Pin, claim.Pin, claim.Bound, claim.Setup, claim.Wiring, claim.Tested, claim.Component}).Draw(t, "role"), Folder: folder,
			Line: i + 1, Column: 1, Recognised: claim.Standard, Certainty: claim.High, Dialect: "plain", File: folder + "/" + rapid.SampledFrom([]string{".version", "manifest", "pins"}).Draw(t, "file")}
		switch c.Role {
		case claim.Bound:
			c.Raw = rapid.SampledFrom(tools[tool].bounds).Draw(t, "bound")
			c.Dialect = map[string]string{"node": "npm", "python": "pep440", "java": "plain", "go": "go-minimum"}[tool]
			if tool == "java" {
				c.Reading = "minimum"
			}
		case claim.Wiring:
			c.Reading = "path"
			c.Raw = rapid.SampledFrom([]string{"/opt/" + tool + "/" + tools[tool].versions[0] + "/bin/" + tool, "~/gone", "/opt/nowhere"}).Draw(t, "path")
			if rapid.Bool().Draw(t, "inside") {
				c.Raw, c.Inside = "./.venv/bin/x", &claim.Inside{Path: ".venv", Exists: rapid.Bool().Draw(t, "exists"), Version: tools[tool].versions[0]}
			} else if rapid.Bool().Draw(t, "named") {
				c.Reading, c.Raw = "name", rapid.SampledFrom(tools[tool].versions).Draw(t, "name")
			}
		case claim.Component:
			tool = map[string]string{"node": "angular", "python": "django", "java": "spring-boot", "go": "vite"}[tool]
			c.Tool = map[string]string{"angular": "node", "django": "python", "spring-boot": "java", "vite": "node"}[tool]
			c.Component, c.Raw = tool, rapid.SampledFrom([]string{"4.1.7", "5.0.2", "17.3.0", "3.2.1", "6.0.0"}).Draw(t, "component")
		default:
			c.Raw = rapid.SampledFrom(tools[tool].pins).Draw(t, "pin")
			if c.Role == claim.Setup && rapid.Bool().Draw(t, "matrix") {
				c.OneOf = "matrix.x"
			}
		}
		r.Claims = append(r.Claims, c)
	}
	for range rapid.IntRange(0, 3).Draw(t, "uses") {
		folder := rapid.SampledFrom(folders).Draw(t, "used in")
		r.Uses = append(r.Uses, claim.Use{Tool: rapid.SampledFrom(toolNames).Draw(t, "used"), Folder: folder, File: folder + "/manifest"})
	}
	if rapid.Bool().Draw(t, "problem") {
		r.Problems = append(r.Problems, claim.Problem{Kind: claim.Unclaimed, File: ".pinned", Reason: "nobody knows"}, claim.Problem{Kind: claim.Unreadable, File: "a.json", Line: 2, Reason: "broken"})
	}
	return r
}

func drawMachine(t *rapid.T, name string) inventory.Inventory {
	inv := inventory.Inventory{Format: inventory.Format, TakenAt: from, Machine: inventory.MachineInfo{Name: name, Kind: rapid.SampledFrom([]string{"laptop", "build-agent", ""}).Draw(t, "kind"), Home: "/home/fern"}}
	if rapid.Bool().Draw(t, "lists checkouts") {
		inv.Checkouts = []inventory.Checkout{}
		for i := range 4 {
			if rapid.Bool().Draw(t, "holds") {
				inv.Checkouts = append(inv.Checkouts, inventory.Checkout{Path: fmt.Sprint("/home/fern/bed-", i), Identity: fmt.Sprint("identity-", i)})
			}
		}
	}
	for range rapid.IntRange(0, 8).Draw(t, "installations") {
		inv.Installations = append(inv.Installations, drawInstallation(t))
	}
	for _, tool := range toolNames {
		version := rapid.SampledFrom(tools[tool].versions).Draw(t, "first")
		switch rapid.IntRange(0, 5).Draw(t, "choice") {
		case 0, 1:
			inv.FirstOnPath = append(inv.FirstOnPath, inventory.OnPath{Tool: tool, Version: version, Path: "/opt/" + tool + "/" + version + "/bin/" + tool, Shim: rapid.Bool().Draw(t, "shim")})
		case 2:
			inv.Defaults = append(inv.Defaults, inventory.Default{Tool: tool, Raw: rapid.SampledFrom(tools[tool].pins).Draw(t, "default"), Source: "~/.default",
				Path: rapid.SampledFrom([]string{"", "", "/opt/" + tool + "/" + version}).Draw(t, "of")})
		case 3:
			inv.Overrides = append(inv.Overrides, inventory.Override{Tool: tool, Variable: "GARDEN", Raw: rapid.SampledFrom([]string{version, "/opt/" + tool + "/" + version, "/gone"}).Draw(t, "override")})
		}
	}
	return inv
}

func drawInstallation(t *rapid.T) inventory.Installation {
	tool := rapid.SampledFrom(toolNames).Draw(t, "installed")
	version := rapid.SampledFrom(tools[tool].versions).Draw(t, "version")
	home := "/opt/" + tool + "/" + version
	return inventory.Installation{Tool: tool, Version: version, Vendor: rapid.SampledFrom([]string{"", "temurin", "zulu"}).Draw(t, "vendor"), Home: home, Path: home + "/bin/" + tool,
		Origin: "versioned-root", Health: rapid.SampledFrom([]string{"good", "good", "broken"}).Draw(t, "health")}
}

func drawEstate(t *rapid.T) drawn {
	d := drawn{day: from.AddDate(0, 0, rapid.IntRange(0, 3650).Draw(t, "day"))}
	for i := range rapid.IntRange(1, 4).Draw(t, "repositories") {
		d.repositories = append(d.repositories, survey.ReadRepository{Repository: assess.Repository{Name: fmt.Sprint("bed-", i), Identity: fmt.Sprint("identity-", i), Ref: "HEAD", Reading: drawReading(t)}})
	}
	for i := range rapid.IntRange(0, 5).Draw(t, "machines") {
		d.machines = append(d.machines, drawMachine(t, fmt.Sprint("desk-", i)))
	}
	if rapid.Bool().Draw(t, "decided") {
		d.policy.Horizon, d.policy.PlannedEnd = 400, "2028-01-01"
		d.policy.Unpinned = []policy.Unpinned{{Tool: "node", Folders: []string{"web"}}}
		d.policy.Severities = []policy.Weighting{{Class: "pin-missing", Severity: "note"}}
	}
	if rapid.Bool().Draw(t, "grouped") {
		d.policy.Machines = []policy.Machines{{Name: "desk-[024]", Tags: []string{"even"}}, {Name: "desk-1", Tags: []string{"one"}}}
		d.policy.Repositories = []policy.Named{{Name: "bed-[01]", Settings: policy.Settings{BuiltBy: []string{rapid.SampledFrom([]string{"even", "one", "none"}).Draw(t, "group")}}}}
	}
	return d
}

func (d drawn) fleet(e *survey.Estate) []*inventory.Machine {
	var out []*inventory.Machine
	for _, inv := range d.machines {
		out = append(out, e.Machine(inv))
	}
	return out
}

// anew judges an estate by itself.
func (d drawn) anew(t require.TestingT, c *catalogue.Catalogue) *survey.Judgement {
	e := survey.NewEstate(ruletest.Book(t, c), d.policy)
	var entries []survey.Entry
	for _, r := range d.repositories {
		entries = append(entries, e.Prepare(r))
	}
	out, err := e.Judge(context.Background(), entries, e.Fleet(d.fleet(e), nil), d.day, nil)
	require.NoError(t, err)
	return out
}

// bytesOf is all that is written of a judgement: its report as JSON, then as text.
func bytesOf(t require.TestingT, j *survey.Judgement, c *catalogue.Catalogue) string {
	var b bytes.Buffer
	r := j.Report("test")
	require.NoError(t, r.WriteJSON(&b))
	require.NoError(t, report.Text(&b, r.Telling(), c, report.Style{}, true))
	return b.String()
}

// TestOtherMachinesDoNotMatter: a repository is judged as if the machines that do not matter
// to it were not there.
func TestOtherMachinesDoNotMatter(t *testing.T) {
	_, c := reader(t)
	rapid.Check(t, func(t *rapid.T) {
		d := drawEstate(t)
		whole := d.anew(t, c)
		for i, read := range whole.Reads {
			var names []string
			alone := drawn{repositories: d.repositories[i : i+1], policy: d.policy, day: d.day}
			for n := range read.Among.All() {
				names = append(names, whole.Fleet.Machines[n].Name())
			}
			for _, inv := range d.machines {
				if slices.Contains(names, inv.Machine.Name) {
					alone.machines = append(alone.machines, inv)
				}
			}
			require.Equal(t, told(alone.anew(t, c)), told(&survey.Judgement{Fleet: whole.Fleet, Day: d.day, Reads: whole.Reads[i : i+1]}))
		}
	})
}

// told is what is said of the findings of a judgement, but for the words, which name machines
// where they are not all.
func told(j *survey.Judgement) []report.Finding {
	out := []report.Finding{}
	r := report.Build("test", j.Reads, j.Fleet, j.Day)
	for _, read := range r.Reads {
		for _, f := range r.Findings(read.Findings) {
			f.Message, f.Remedy, f.Configuration = "", "", ""
			out = append(out, f)
		}
	}
	return out
}

// TestOrderNeverMatters: the same inputs in any order give the same bytes.
func TestOrderNeverMatters(t *testing.T) {
	_, c := reader(t)
	rapid.Check(t, func(t *rapid.T) {
		d := drawEstate(t)
		want := bytesOf(t, d.anew(t, c), c)
		r := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "seed"), 0))
		for range 5 {
			other := d
			other.repositories, other.machines = slices.Clone(d.repositories), slices.Clone(d.machines)
			shuffle(r, other.repositories)
			shuffle(r, other.machines)
			for i := range other.repositories {
				reading := &other.repositories[i].Reading
				reading.Claims, reading.Uses, reading.Problems = slices.Clone(reading.Claims), slices.Clone(reading.Uses), slices.Clone(reading.Problems)
				shuffle(r, reading.Claims)
				shuffle(r, reading.Uses)
				shuffle(r, reading.Problems)
			}
			for i := range other.machines {
				other.machines[i].Installations = slices.Clone(other.machines[i].Installations)
				shuffle(r, other.machines[i].Installations)
			}
			require.Equal(t, want, bytesOf(t, other.anew(t, c), c))
		}
	})
}

func shuffle[T any](r *rand.Rand, list []T) {
	r.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
}

// missing are the machines that lack a toolchain, for each finding that says so.
func missing(j *survey.Judgement) map[string]bool {
	out := map[string]bool{}
	for _, read := range j.Reads {
		for _, f := range read.Findings {
			if f.Class.Name == "toolchain-missing" {
				for _, m := range j.Fleet.Names(f.Machines) {
					out[f.Fingerprint+" "+m] = true
				}
			}
		}
	}
	return out
}

// TestMoreIsNeverMissing: another installation never makes a toolchain missing.
func TestMoreIsNeverMissing(t *testing.T) {
	_, c := reader(t)
	rapid.Check(t, func(t *rapid.T) {
		d := drawEstate(t)
		if len(d.machines) == 0 {
			return
		}
		before := missing(d.anew(t, c))
		n := rapid.IntRange(0, len(d.machines)-1).Draw(t, "machine")
		d.machines[n].Installations = append(slices.Clone(d.machines[n].Installations), drawInstallation(t))
		for key := range missing(d.anew(t, c)) {
			require.Contains(t, before, key)
		}
	})
}

// TestIncrementalEqualsAnew: after any changes, what is judged with all that was judged
// before is what is judged anew.
func TestIncrementalEqualsAnew(t *testing.T) {
	_, c := reader(t)
	rapid.Check(t, func(t *rapid.T) {
		d := drawEstate(t)
		e := survey.NewEstate(ruletest.Book(t, c), d.policy)
		entries := make([]survey.Entry, len(d.repositories))
		for i, r := range d.repositories {
			entries[i] = e.Prepare(r)
		}
		machines := d.fleet(e)
		fleet := e.Fleet(machines, nil)
		var was *survey.Judgement
		for range rapid.IntRange(1, 6).Draw(t, "changes") {
			switch rapid.IntRange(0, 4).Draw(t, "change") {
			case 0:
				n := rapid.IntRange(0, len(d.repositories)-1).Draw(t, "which")
				d.repositories[n].Reading = drawReading(t)
				entries[n] = e.Prepare(d.repositories[n])
			case 1:
				if len(d.machines) > 0 {
					n := rapid.IntRange(0, len(d.machines)-1).Draw(t, "which machine")
					if has := d.machines[n].Installations; len(has) > 0 && rapid.IntRange(0, 3).Draw(t, "much") > 0 {
						d.machines[n].Installations = slices.Clone(has)[1:]
						if rapid.Bool().Draw(t, "instead") {
							d.machines[n].Installations = append(d.machines[n].Installations, drawInstallation(t))
						}
					} else {
						d.machines[n] = drawMachine(t, d.machines[n].Machine.Name)
					}
					machines[n] = e.Machine(d.machines[n])
				}
				fleet = e.Fleet(machines, fleet)
			case 2:
				inv := drawMachine(t, fmt.Sprint("new-", len(d.machines)))
				d.machines, machines = append(d.machines, inv), append(machines, e.Machine(inv))
				fleet = e.Fleet(machines, fleet)
			case 3:
				d.day = from.AddDate(0, 0, rapid.IntRange(0, 3650).Draw(t, "another day"))
			case 4:
				d.repositories = append(d.repositories, survey.ReadRepository{Repository: assess.Repository{Name: fmt.Sprint("more-", len(d.repositories)), Identity: fmt.Sprint(len(d.repositories)), Ref: "HEAD", Reading: drawReading(t)}})
				entries = append(entries, e.Prepare(d.repositories[len(d.repositories)-1]))
			}
			now, err := e.Judge(t.Context(), entries, fleet, d.day, was)
			require.NoError(t, err)
			require.Equal(t, bytesOf(t, d.anew(t, c), c), bytesOf(t, now, c))
			was = now
		}
	})
}

// TestVerdictsHoldAsLongAsTheySay, day by day over ten years: the day on which something
// becomes different is never later than was said.
func TestVerdictsHoldAsLongAsTheySay(t *testing.T) {
	_, c := reader(t)
	check := func(d drawn) {
		e := survey.NewEstate(ruletest.Book(t, c), d.policy)
		var entries []survey.Entry // what is said has no day
		for _, r := range d.repositories {
			entries = append(entries, e.Prepare(r))
		}
		machines := d.fleet(e)
		on := func(day time.Time) *survey.Judgement {
			out, err := e.Judge(t.Context(), entries, e.Fleet(machines, nil), day, nil)
			require.NoError(t, err)
			return out
		}
		held := on(from)
		for n := 0; n < 3650; n += step {
			d.day = from.AddDate(0, 0, n)
			anew := on(d.day)
			for i, read := range anew.Reads {
				if !held.Reads[i].Span.Holds(d.day) {
					held.Reads[i] = read
					continue
				}
				for s, judged := range read.Judged {
					was := held.Reads[i].Judged[s]
					require.True(t, reflect.DeepEqual(plain(was), plain(judged)), "%s: %s %s on %s", read.Name, read.Subjects[s].Folder, read.Subjects[s].Tool.Name, d.day)
				}
			}
		}
	}
	for seed := range 2 {
		check(rapid.Custom(drawEstate).Example(seed))
	}
	every := drawn{}
	for _, tool := range toolNames { // each pin by itself: what holds is not cut short by another
		for _, raw := range append([]string{""}, tools[tool].pins...) {
			r := fact.Reading{Reading: claim.Reading{Uses: []claim.Use{{Tool: tool, File: "manifest"}}}}
			if raw != "" {
				r.Claims = []claim.Claim{{Tool: tool, Role: claim.Pin, Raw: raw, Dialect: "plain", File: ".version", Line: 1}}
			}
			every.repositories = append(every.repositories, survey.ReadRepository{Repository: assess.Repository{Name: fmt.Sprint(tool, " ", raw), Reading: r}})
		}
		version := tools[tool].versions[1]
		inv := inventory.Inventory{Machine: inventory.MachineInfo{Name: tool}, FirstOnPath: []inventory.OnPath{{Tool: tool, Version: version, Path: "/usr/bin/" + tool}}}
		every.machines = append(every.machines, inv)
	}
	check(every)
}

// plain is what a case came to, without where it is held.
func plain(j *assess.Judged) any {
	verdicts := slices.Clone(j.Verdicts)
	for i := range verdicts {
		verdicts[i].Class = nil
	}
	return []any{verdicts, j.Resolved.Outcomes, j.Resolved.Feasible.Canonical(), j.Resolved.Contradiction()}
}
