package assess

import (
	"slices"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
	"wexo/internal/core/version"
)

var toolchainMissing = Class{
	"toolchain-missing", 1, Error, "Toolchain missing", "Missing", "missing",
	"a claim decides, and no installation on the machine is in its range; or a folder needs the tool, nothing decides, and the machine has none",
	(*check).missing,
}

// The ways in which a toolchain is missing.
const (
	MissingPinned  Kind = "pinned"  // the pin decides
	MissingVoid    Kind = "void"    // the overriding variable decides, and leads nowhere
	MissingAbsent  Kind = "absent"  // nothing decides, and there is none
	MissingNowhere Kind = "nowhere" // it exists for the system of no machine that is looked at
	MissingStarts  Kind = "starts"  // another version is there, which fetches what is asked for
)

// missing reports machines on which what the folder needs cannot run.
func (k *check) missing() {
	if k.first() != nil {
		k.missingPinned()
	}
	k.missingVoid()
	k.fetching()
	if !k.Case.Needed {
		return
	}
	absent := machinesOf(k.those(func(o *resolve.Outcome) bool { return o.DecidedBy == "" }))
	if k.nowhere(absent, k.proof()) {
		return
	}
	if absent = absent.Both(k.capable()); absent.Len() > 0 {
		k.report(Verdict{Kind: MissingAbsent, Evidence: k.proof(), Cause: "absent", Wide: true, Machines: absent, Unusable: k.unusable(absent), Near: k.unreached(absent), Advice: k.advice(), Allowed: k.bounded()})
	}
}

// capable are the machines for whose systems the tool exists, as far as they tell theirs.
func (k *check) capable() resolve.Machines {
	if len(k.Tool.RunsOn) == 0 {
		return k.everyone()
	}
	var out resolve.Machines
	for _, c := range k.Tooling.Classes {
		if os := c.Inventory.Machine.OS; os == "" || slices.Contains(k.Tool.RunsOn, os) {
			out = out.And(c.Machines)
		}
	}
	return out
}

// nowhere notes that nothing of the tool exists for any of the machines that lack it: whether it
// is there where it could be is not known.
func (k *check) nowhere(lacking resolve.Machines, evidence []Ref) bool {
	if lacking.Len() == 0 || k.capable().Len() > 0 {
		return false
	}
	k.report(Verdict{Kind: MissingNowhere, Severity: Note, Evidence: evidence, Cause: "nowhere", Wide: k.first() == nil, Machines: lacking})
	return true
}

// fetching notes what is not installed and is fetched by what is, once it is called.
func (k *check) fetching() {
	fetched := k.those(func(o *resolve.Outcome) bool { return o.Starts != "" })
	if len(fetched) == 0 {
		return
	}
	v := Verdict{Kind: MissingStarts, Severity: Note, Evidence: k.asking(), Cause: "fetched", Machines: machinesOf(fetched)}
	for _, o := range fetched {
		v.Runs = addRun(v.Runs, Run{Release: Release{Version: o.Version}, Other: Release{Version: o.Starts}}, o.Machines)
	}
	k.report(v)
}

// asking are the claims of which what they ask for is fetched.
func (k *check) asking() []Ref {
	var out []Ref
	for i := range k.Pins {
		if k.Pins[i].Fetched {
			out = append(out, Ref{Of: AtPin, N: i})
		}
	}
	for i := range k.Bounds {
		if k.Bounds[i].Fetched {
			out = append(out, Ref{Of: AtBound, N: i})
		}
	}
	return out[:min(len(out), 1)]
}

// missingVoid reports variables that decide and lead nowhere: whatever is pinned or installed,
// nothing runs there.
func (k *check) missingVoid() {
	if k.first() == nil && !k.Case.Needed {
		return
	}
	void := k.those(func(o *resolve.Outcome) bool {
		return o.DecidedBy == resolve.ByOverride && !o.Runs() && o.Number.IsZero()
	})
	if len(void) == 0 {
		return
	}
	v := Verdict{Kind: MissingVoid, Evidence: k.proof(), Cause: "override", Wide: true, Machines: machinesOf(void), Runs: runs(void)}
	if k.first() != nil {
		v.Stands, v.Evidence, v.Wide = Ref{Of: AtPin}, []Ref{{Of: AtPin}}, false
	}
	k.report(v)
}

// unreached are installations that would do and that nothing leads to.
func (k *check) unreached(where resolve.Machines) (out []Run) {
	for _, c := range k.Tooling.Classes {
		if !where.Has(c.Machines.First()) {
			continue
		}
		if in := c.Newest(k.Tool.Name, k.bounded(), inventory.Build{}); in != nil {
			out = addRun(out, Run{Release: Release{in.Version, in.Vendor}, Path: in.Path}, c.Machines)
		}
	}
	return out
}

func (k *check) missingPinned() {
	lacking := k.those(func(o *resolve.Outcome) bool {
		return (o.State == resolve.Missing || o.State == resolve.Conflict && !o.Runs()) && (o.DecidedBy == resolve.ByPin || o.DecidedBy == resolve.ByInherited)
	})
	if where := machinesOf(lacking); len(lacking) == 0 || k.nowhere(where, []Ref{{Of: AtPin}}) || where.Both(k.capable()).Len() == 0 {
		return
	}
	pin := k.first()
	v := Verdict{Kind: MissingPinned, Stands: Ref{Of: AtPin}, Evidence: []Ref{{Of: AtPin}}, Machines: machinesOf(lacking).Both(k.capable()), Allowed: pin.Set}
	if allowed := k.reasoning().allowed; !pin.Set.SubsetOf(allowed) && pin.Set.Overlaps(allowed) {
		v.Within = pin.Set.Intersect(allowed)
	}
	v.Near, v.Best = k.nearest(pin, lacking)
	v.Unusable = slices.DeleteFunc(k.unusable(v.Machines), func(u Unusable) bool { // another version does not matter
		return len(v.Near) > 0 && !u.Number.IsZero() && !pin.Set.Contains(u.Number)
	})
	if pin.Alias == "" {
		v.Reason = k.Tool.Unreleased(pin.Set, k.on)
	}
	switch l := k.pinnedLine(); {
	case v.Reason != "":
		v.Follows = &versionUnknown
	case l != nil && l.EndedOn(k.on):
		v.Follows, v.Line = &supportEnded, l
	case l == nil && !pin.Floating:
		v.Line = k.named(pin)
	case pin.Floating:
		v.Follows = &pinFloating
	}
	if v.Line != nil && v.Follows == nil {
		v.Advice = k.advice()
	}
	k.report(v)
}

// named is the line that a pin of several names first, where its support has ended.
func (k *check) named(pin *resolve.Said) *catalogue.Line {
	set := pin.Set
	if len(pin.Fallbacks) > 0 {
		set = pin.Fallbacks[0].Set
	} else if least, err := k.Tool.Scheme().Parse(number.FindString(pin.Raw)); err == nil {
		set = version.Exactly(least)
	}
	if l := k.Tool.LineFor(set); l != nil && l.EndedOn(k.on) {
		return l
	}
	return nil
}

// nearest lists the installed versions next to what the pin asks for, and of those that
// may stand in for it the one that most of the lacking machines have, the newest of
// several: it is supported, admitted, and of the pin's own line or one that is known to work.
func (k *check) nearest(pin *resolve.Said, lacking []*resolve.Outcome) (near []Run, best string) {
	r := k.reasoning()
	allowed, tested, speaking := r.allowed, r.tested, r.speaking
	beside, admitted, where := k.Tooling.Beside(pin.Set), k.Tooling.Among(allowed), machinesOf(lacking)
	usable := make([]int, len(admitted)) // machines on which each version is next to the set
	for _, c := range k.Tooling.Classes {
		if !where.Has(c.Machines.First()) {
			continue
		}
		for _, n := range c.Nearest(beside) {
			near = addRun(near, Run{Release: Release{n.Version, n.Vendor}}, c.Machines)
			if pin.Vendor == "" || n.Vendor == pin.Vendor {
				usable[n.At] += c.Machines.Len()
			}
		}
	}
	own := k.pinnedLine()
	most := 0
	for at, machines := range usable { // newest first
		v := k.Tooling.Versions[at]
		l := k.Tooling.LineOf(v)
		if machines <= most || !admitted[at] || l == nil || l.EndedOn(k.on) || l != own && (len(speaking) == 0 || !tested.Contains(v)) {
			continue
		}
		most, best = machines, v.String()
	}
	return near, best
}

// unusable lists what some machines have of the tool that nobody can count on.
func (k *check) unusable(where resolve.Machines) (out []Unusable) {
	for _, c := range k.Tooling.Classes {
		if !where.Has(c.Machines.First()) {
			continue
		}
		for _, in := range c.Unusable() {
			same := slices.IndexFunc(out, func(o Unusable) bool { return sameUse(o.Installed, in) })
			if same < 0 {
				out = append(out, Unusable{Installed: in, Machines: c.Machines})
				continue
			}
			out[same].Machines = out[same].Machines.And(c.Machines)
		}
	}
	return out
}

// sameUse reports whether two installations are of no use for the same reason.
func sameUse(a, b *inventory.Installed) bool {
	return a.Path == b.Path && a.Version == b.Version && a.Health == b.Health && a.Private == b.Private
}

// proof is the subject's own evidence where nothing pins the tool.
func (k *check) proof() []Ref {
	if len(k.Bounds) > 0 {
		return []Ref{{Of: AtBound}}
	}
	if k.Case.Used {
		return []Ref{{Of: AtUse}}
	}
	return nil
}
