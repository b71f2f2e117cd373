package assess

import (
	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
	"wexo/internal/core/version"
)

var interpreterMismatch = Class{
	"interpreter-mismatch", 6, Error, "Interpreter mismatch", "Mismatched", "mismatch",
	"the editor runs another version than the pin (or a bound, if nothing is pinned) asks for",
	(*check).mismatches,
}

// The ways in which an editor's interpreter is another one.
const (
	MismatchNamed Kind = "named" // by the name that the editor gives to it
	MismatchPath  Kind = "path"  // by the path it is at
	MismatchTable Kind = "table" // by what the editor's own table says of the name
)

// mismatches compares what editors are pointed at with the choice.
func (k *check) mismatches() {
	for i := range k.Case.Wirings {
		at, w := Ref{Of: AtWiring, N: i}, &k.Case.Wirings[i]
		switch {
		case w.Named:
			k.namedWiring(at, w)
		case w.Kept: // the name says nothing
		case w.Inside != nil:
			k.insideWiring(at, w)
		case inventory.IsPath(w.Raw) && !w.Editors:
			k.outsideWiring(at, w)
		}
	}
}

// namedWiring judges the name that an editor gives to an installation: where its table is
// known, by the version that it stands for there; elsewhere only where no version with that
// name could be what is asked for.
func (k *check) namedWiring(at Ref, w *Wiring) {
	by := Verdict{Kind: MismatchTable, Evidence: []Ref{at}, Reason: w.Table}
	var untold resolve.Machines
	told := false
	for _, c := range k.Tooling.Classes {
		if !editors(c) {
			continue
		}
		entry, found, knows := c.Named(w.Table, k.Tool.Name, w.Raw)
		if w.Table == "" || !knows {
			untold = untold.And(c.Machines)
		} else {
			told = true
		}
		if !found {
			continue
		}
		number, text, path := k.entry(c, entry)
		against, differs := k.differs(number)
		if number.IsZero() || !differs {
			continue
		}
		if len(by.Evidence) == 1 {
			by.Evidence, by.Cause, by.Line = append(by.Evidence, against), text, k.ended(number)
		}
		by.Near = addRun(by.Near, Run{Release: Release{Version: text}, Path: path, Where: entry.Source}, c.Machines)
		by.Machines = by.Machines.And(c.Machines)
	}
	if by.Machines.Len() > 0 {
		k.report(by)
	}
	if told && untold.Len() == 0 || w.Kept || w.Err != nil || w.Set.IsEmpty() {
		return
	}
	for _, r := range k.judged() {
		if s := k.said(r); !unreadable(s) && !s.Set.Overlaps(w.Set) {
			k.report(Verdict{Kind: MismatchNamed, Evidence: []Ref{at, r}, Cause: w.Raw, Machines: untold})
			return
		}
	}
}

// entry is the version that an entry of an editor's table stands for.
func (k *check) entry(c *resolve.Class, e inventory.Wiring) (number version.Version, text, path string) {
	if in, _ := c.LeadsTo(e.Path); in != nil && e.Path != "" {
		return in.Number, in.Version, in.Path
	}
	number, err := k.Tool.Scheme().Parse(e.Version)
	if err != nil {
		return version.Version{}, "", ""
	}
	return number, e.Version, e.Path
}

// insideWiring judges a path that leads into the repository, by what was read there.
func (k *check) insideWiring(at Ref, w *Wiring) {
	number, err := k.Tool.Scheme().Parse(w.Inside.Version)
	if !w.Inside.Exists || err != nil || w.Editors {
		return
	}
	if against, differs := k.differs(number); differs {
		k.report(Verdict{Kind: MismatchPath, Evidence: []Ref{at, against}, Cause: w.Inside.Version, Line: k.ended(number),
			Near: []Run{{Release: Release{Version: w.Inside.Version}, Path: w.Inside.Path}}})
	}
}

// outsideWiring judges a path on the machines: each version that is there is a finding.
func (k *check) outsideWiring(at Ref, w *Wiring) {
	var found []*Verdict
	byVersion := map[string]*Verdict{}
	for _, c := range k.Tooling.Classes {
		if !editors(c) {
			continue
		}
		in, _ := c.LeadsTo(w.Raw)
		if in == nil || in.Number.IsZero() {
			continue
		}
		against, differs := k.differs(in.Number)
		if !differs {
			continue
		}
		v := byVersion[in.Version]
		if v == nil {
			v = &Verdict{Kind: MismatchPath, Evidence: []Ref{at, against}, Cause: in.Version, Line: k.ended(in.Number)}
			byVersion[in.Version] = v
			found = append(found, v)
		}
		v.Near = addRun(v.Near, Run{Release: Release{Version: in.Version}, Path: in.Path}, c.Machines)
		v.Machines = v.Machines.And(c.Machines)
	}
	for _, v := range found {
		v.Runs, v.Home = k.chosen(v.Machines)
		k.report(*v)
	}
}

// differs finds the claim that a wired version breaks: the pin, or a bound where nothing is pinned.
func (k *check) differs(number version.Version) (Ref, bool) {
	for _, r := range k.judged() {
		if s := k.said(r); s.Err == nil && s.Unknown == "" && !s.Set.IsEmpty() && !s.Set.Contains(number) {
			return r, true
		}
	}
	return Ref{}, false
}

// ended is the line of a version, where its support has ended.
func (k *check) ended(number version.Version) *catalogue.Line {
	if l := k.Tool.LineOf(number); l != nil && l.EndedOn(k.on) {
		return l
	}
	return nil
}

// chosen are the installations that the choice leads to on some machines, and whether one
// of them lies in somebody's home.
func (k *check) chosen(on resolve.Machines) (out []Run, home bool) {
	for _, c := range k.Tooling.Classes {
		if !on.Has(c.Machines.First()) {
			continue
		}
		if o := k.Tooling.OutcomeOf(k.Resolved, c, k.on); o.State == resolve.Met && o.Path != "" {
			out = addRun(out, Run{Release: Release{Version: o.Version}, Path: o.Path}, c.Machines)
			home = home || c.InHome(o.Path)
		}
	}
	return out, home
}
