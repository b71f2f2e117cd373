package assess

import (
	"cmp"
	"maps"
	"runtime"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/day"
	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/core/resolve"
)

// Serving is one installation of one machine, with whom it serves.
type Serving struct {
	Machine int // its place in the fleet
	Tool    *catalogue.Tool
	*inventory.Installed
	Repositories []*Prepared // that would run it there, each once
	Held         string      // why it has to stay though none would: what points at it; empty where nothing does
}

// Machinery tells of every installation of a fleet whom it serves: the repositories to which
// its machine matters and in which it would run. Tools are all that there are.
func Machinery(results []*Result, fleet *resolve.Fleet, tools []*catalogue.Tool, on time.Time) []*Serving {
	var out []*Serving
	at := map[place]*Serving{}
	for i, m := range fleet.All() {
		for _, t := range tools {
			for _, in := range m.Installed(t.Name) {
				if in.Implied {
					continue
				}
				s := &Serving{Machine: i, Tool: t, Installed: in, Held: held(m, t, in)}
				out = append(out, s)
				at[place{i, t, in.Path, in.Version}] = s
			}
		}
	}
	running := runningAt(results, fleet, on)
	for _, r := range results {
		part := fleet.Among(r.Among)
		for _, j := range r.Judged {
			for _, p := range running[ran{part, j.Resolved}] {
				s := at[p]
				if s != nil && (len(s.Repositories) == 0 || s.Repositories[len(s.Repositories)-1] != r.Prepared) {
					s.Repositories = append(s.Repositories, r.Prepared)
				}
			}
		}
	}
	for _, s := range out {
		slices.SortFunc(s.Repositories, func(a, b *Prepared) int { return strings.Compare(a.Name, b.Name) })
	}
	return out
}

// place is an installation on a machine.
type place struct {
	machine       int
	tool          *catalogue.Tool
	path, version string
}

// ran is an answer on a part of a fleet.
type ran struct {
	fleet    *resolve.Fleet
	resolved *resolve.Resolved
}

// runningAt are the installations that would run by each answer. Answers are looked at side
// by side.
func runningAt(results []*Result, fleet *resolve.Fleet, on time.Time) map[ran][]place {
	tools := map[ran]*catalogue.Tool{}
	for _, r := range results {
		part := fleet.Among(r.Among)
		for n, j := range r.Judged {
			tools[ran{part, j.Resolved}] = r.Subjects[n].Tool
		}
	}
	keys := slices.Collect(maps.Keys(tools))
	found := make([][]place, len(keys))
	var group errgroup.Group
	share := len(keys)/runtime.GOMAXPROCS(0) + 1
	for from := 0; from < len(keys); from += share {
		group.Go(func() error {
			for i := from; i < min(from+share, len(keys)); i++ {
				found[i] = runsAt(keys[i].fleet.Of(tools[keys[i]]), keys[i].resolved, on)
			}
			return nil
		})
	}
	_ = group.Wait() // none fails
	out := make(map[ran][]place, len(keys))
	for i, key := range keys {
		out[key] = found[i]
	}
	return out
}

// runsAt are the installations that would run by an answer, machine by machine.
func runsAt(t *resolve.Tooling, r *resolve.Resolved, on time.Time) []place {
	var out []place
	add := func(o *resolve.Outcome, machines resolve.Machines) {
		for i := range machines.All() {
			out = append(out, place{i, t.Tool, o.Path, o.Version})
		}
	}
	of, pinned := t.OutcomesOf(r, day.On(on)), t.PinnedOf(r, day.On(on))
	for k := range r.Outcomes {
		o := &r.Outcomes[k]
		if o.DecidedBy == resolve.ByOverride && len(r.Pins) > 0 { // which is asked for all the same
			for _, c := range t.Classes {
				if one := pinned(c); o.Machines.Has(c.Machines.First()) && one.Path != "" {
					add(&one, c.Machines)
				}
			}
		}
		switch {
		case !o.Runs():
			continue
		case o.Path != "":
			add(o, o.Machines)
			continue
		}
		for _, c := range t.Classes { // each has a path of its own, or none
			if !o.Machines.Has(c.Machines.First()) {
				continue
			}
			if one := of(c); one.Path != "" {
				add(&one, c.Machines)
			}
		}
	}
	return out
}

// held tells what on the machine itself points at an installation; empty where nothing does.
func held(m *inventory.Machine, t *catalogue.Tool, in *inventory.Installed) string {
	leads := func(raw string) bool {
		found, _ := m.At(t.Name, raw)
		return found == in
	}
	switch {
	case in.Origin == "system":
		return "it is the system's own"
	case in.SystemPackage != "":
		return "the system's package " + in.SystemPackage + " brings it"
	case in.Origin == "bundled":
		return "it comes with another tool"
	case m.WinsOnPath(in):
		return "PATH runs it"
	}
	for _, x := range m.Inventory.Proxies {
		if x.Tool == t.Name && x.Picks != "" && leads(x.Picks) {
			return "a proxy picks it"
		}
		for _, f := range x.Folders {
			if x.Tool == t.Name && f.Home != "" && leads(f.Home) {
				return "a proxy picks it in " + f.Folder
			}
		}
	}
	if d, ok := m.Default(t.Name); ok && d.Path != "" && leads(d.Path) {
		return "it is the default"
	}
	if o, ok := m.Override(t.Name); ok && inventory.IsPath(o.Raw) && leads(o.Raw) {
		return o.Variable + " names it"
	}
	for _, l := range m.Inventory.Startup {
		if l.Variable != "PATH" && inventory.IsPath(l.Value) && leads(l.Value) {
			return l.Variable + " names it (" + l.File + ")"
		}
	}
	for _, w := range m.Inventory.Editors {
		if w.Tool == t.Name && w.Path != "" && leads(w.Path) {
			return w.Editor + " knows it"
		}
	}
	return ""
}

// MachineFindings are what is wrong with machines themselves: installations that do not work,
// of tools that somebody asks for, and those that serve nobody and could go. They are as bad as
// the estate decided.
func MachineFindings(results []*Result, serving []*Serving, fleet *resolve.Fleet, decided policy.Settings) []*Finding {
	heard := hear(results)
	at := map[string]*Finding{}
	var out []*Finding
	for _, s := range serving {
		v := &Verdict{Machines: resolve.Machines{}.With(s.Machine), Cause: s.Path}
		switch {
		case s.Health == "broken" && heard.asked[s.Tool].Has(s.Machine):
			v.Class, v.Reason = &installationBroken, s.HealthReason
		case s.Health != "broken" && heard.spares(s):
			v.Class = &installationUnneeded
		default:
			continue
		}
		v.Near = []Run{{Release: Release{Version: s.Version, Vendor: s.Vendor}, Path: s.Path, Machines: v.Machines}}
		v.Installed = []*Serving{s}
		v.Root = Cause{Class: v.Class, Tool: s.Tool, About: s.Path + "\x00" + s.Version + "\x00" + v.Reason}
		key := strings.Join([]string{v.Class.Name, s.Tool.Name, s.Version, s.Vendor, s.Path, v.Reason}, "\x00")
		if known := at[key]; known != nil {
			known.Verdict.Machines = known.Verdict.Machines.And(v.Machines)
			known.Verdict.Near[0].Machines, known.Machines = known.Verdict.Machines, known.Verdict.Machines
			known.Verdict.Installed = append(known.Verdict.Installed, s)
			continue
		}
		f := &Finding{Class: v.Class, Severity: v.Class.Severity, Repository: &Prepared{}, Among: fleet.Everyone(), Tool: s.Tool, Machines: v.Machines, Verdict: v}
		f.Fingerprint = f.fingerprint(strings.Join([]string{s.Version, s.Vendor, s.Path, v.Reason}, "\x00"))
		at[key] = f
		out = append(out, f)
	}
	for _, p := range defaults(results, fleet) {
		out = append(out, p.finding(fleet))
	}
	out = append(out, foldered(results, fleet)...)
	for _, f := range out {
		f.weigh(decided)
	}
	sortFindings(out)
	return out
}

// heard is what repositories say to machines.
type heard struct {
	known  resolve.Machines                     // machines to which something matters of which it is known what it asks for
	asked  map[*catalogue.Tool]resolve.Machines // machines of which somebody asks for a tool
	untold map[*catalogue.Tool]resolve.Machines // machines on which it cannot be told what of a tool would run
	// unheard are machines for which something was not seen that may ask for a tool.
	unheard unheard
}

func hear(results []*Result) heard {
	h := heard{asked: map[*catalogue.Tool]resolve.Machines{}, untold: map[*catalogue.Tool]resolve.Machines{}, unheard: unheard{of: map[string]resolve.Machines{}}}
	for _, r := range results {
		h.unheard.add(r)
		if len(r.Subjects) > 0 {
			h.known = h.known.And(r.Among)
		}
		for n, s := range r.Subjects {
			h.asked[s.Tool] = h.asked[s.Tool].And(r.Among)
			for i := range r.Judged[n].Resolved.Outcomes {
				if o := &r.Judged[n].Resolved.Outcomes[i]; o.State == resolve.Unknown {
					h.untold[s.Tool] = h.untold[s.Tool].And(o.Machines)
				}
			}
		}
	}
	return h
}

// spares reports whether an installation is known to serve nobody. Where no repository is
// known, or a version cannot be told, nobody knows.
func (h heard) spares(s *Serving) bool {
	return h.known.Has(s.Machine) && !h.unheard.has(s.Machine, s.Tool) && !h.untold[s.Tool].Has(s.Machine) && len(s.Repositories) == 0 && s.Held == "" && !s.Number.IsZero()
}

// Spare are the installations of a machine that could go, as far as some repositories tell,
// the largest first.
func Spare(results []*Result, serving []*Serving, machine int) []*Serving {
	heard := hear(results)
	var out []*Serving
	for _, s := range serving {
		if s.Machine == machine && heard.spares(s) {
			out = append(out, s)
		}
	}
	slices.SortStableFunc(out, func(a, b *Serving) int {
		return cmp.Or(cmp.Compare(b.SizeBytes, a.SizeBytes), strings.Compare(a.Tool.Name, b.Tool.Name), strings.Compare(a.Path, b.Path))
	})
	return out
}
