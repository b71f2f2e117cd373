package resolve

import (
	"fmt"

	"time"

	"wexo/internal/core/claim"
	"wexo/internal/core/inventory"
	"wexo/internal/core/version"
)

// State is what a resolution comes to.
type State string

// The states.
const (
	Met      State = "met"      // an installation in range would run
	Missing  State = "missing"  // a claim decides, nothing fits
	Unpinned State = "unpinned" // nothing decides but the default
	Conflict State = "conflict" // no version can satisfy the claims
	Absent   State = "absent"   // no claim decides and the machine has none
	Unknown  State = "unknown"  // the version cannot be told
)

// The rungs of the ladder, strongest first.
const (
	ByOverride  = "override"
	ByPin       = "pin"
	ByInherited = "inherited-pin"
	ByBaseline  = "baseline"
	ByDefault   = "default"
	ByPath      = "path"
)

// Rung is one place a version can come from, and what it says.
type Rung struct {
	Source  string // one of the By constants
	Says    bool   // false where this rung says nothing
	Raw     string // as written
	Where   string // file:line, variable or path
	Version string // of the installation it leads to; empty where there is none
	Path    string
	Decides bool
	Note    string
}

// Resolution is the installation that would run for one folder, tool and machine.
type Resolution struct {
	Machine   string
	State     State
	DecidedBy string // a By constant, or empty
	Version   string
	Path      string
	Number    version.Version
	Chosen    *inventory.Installed // nil where what runs is no known installation
	Ladder    []Rung
}

// Resolve climbs the ladder for one machine on a day.
func Resolve(s *Subject, m *inventory.Machine, day time.Time) Resolution {
	r := Resolution{Machine: m.Name()}
	r.override(s, m, day)
	r.pins(s, m)
	r.Ladder = append(r.Ladder, Rung{Source: ByBaseline})
	r.byDefault(s, m, day)
	r.onPath(s, m)
	if r.State == "" {
		r.State = Absent
	}
	if r.State != Unknown && s.Conflict() != nil {
		r.State = Conflict
	}
	return r
}

// add puts a rung on the ladder; it decides where none above it did.
func (r *Resolution) add(rung Rung, in *inventory.Installed, state State) {
	if in != nil {
		rung.Version, rung.Path = in.Version, in.Path
	}
	if rung.Says && r.DecidedBy == "" && state != "" {
		rung.Decides = true
		r.DecidedBy, r.State, r.Version, r.Path, r.Chosen = rung.Source, state, rung.Version, rung.Path, in
		if in != nil {
			r.Number = in.Number
		}
	}
	r.Ladder = append(r.Ladder, rung)
}

func (r *Resolution) override(s *Subject, m *inventory.Machine, day time.Time) {
	o, ok := m.Override(s.Tool.Name)
	if !ok {
		r.Ladder = append(r.Ladder, Rung{Source: ByOverride})
		return
	}
	rung := Rung{Source: ByOverride, Says: true, Raw: o.Raw, Where: o.Variable}
	if len(o.Raw) > 0 && (o.Raw[0] == '/' || o.Raw[0] == '~') {
		in, _ := m.At(s.Tool.Name, o.Raw)
		r.add(rung, in, stateOf(in))
		return
	}
	a := ask(claim.Claim{Raw: o.Raw, Dialect: "plain", Role: claim.Pin}, s.Tool, day)
	in := m.Newest(s.Tool.Name, a.Set, a.Build())
	r.add(rung, in, stateOf(in))
}

func stateOf(in *inventory.Installed) State {
	switch {
	case in == nil:
		return Missing
	case in.Number.IsZero():
		return Unknown
	}
	return Met
}

// pins adds the pin rungs of the folder and of those above. Pins of one folder
// that share versions decide together; otherwise the first one does.
func (r *Resolution) pins(s *Subject, m *inventory.Machine) {
	pins := s.Pins()
	source := ByPin
	if len(pins) > 0 && s.PinFolder != s.Folder {
		r.Ladder = append(r.Ladder, Rung{Source: ByPin})
		source = ByInherited
	}
	if len(pins) == 0 {
		r.Ladder = append(r.Ladder, Rung{Source: ByPin}, Rung{Source: ByInherited})
		return
	}
	for _, a := range pins {
		rung := Rung{Source: source, Says: true, Raw: a.Raw, Where: fmt.Sprintf("%s:%d", a.File, a.Line)}
		if a.Brings && a.Err == nil {
			r.brought(s, rung, a)
			continue
		}
		in, state := choose(s, a, pins, m)
		if a.Unknown != "" {
			rung.Note = fmt.Sprintf("the label %q is unknown", a.Unknown)
		}
		r.add(rung, in, state)
	}
	if source == ByPin {
		r.Ladder = append(r.Ladder, Rung{Source: ByInherited})
	}
}

// brought decides for a version that the build fetches itself, whatever is installed.
func (r *Resolution) brought(s *Subject, rung Rung, a Asked) {
	rung.Version, rung.Note = a.Raw, "the build fetches it itself"
	decides := r.DecidedBy == ""
	r.add(rung, nil, Met)
	if number, err := s.Tool.Scheme().Parse(a.Raw); decides && err == nil {
		r.Number = number
	}
}

func choose(s *Subject, a Asked, pins []Asked, m *inventory.Machine) (*inventory.Installed, State) {
	if a.Err != nil || a.Unknown != "" || a.Kept {
		return nil, Unknown
	}
	if len(a.Wanted.Fallbacks) > 0 {
		return inOrder(s, a, pins, m)
	}
	if a.System {
		first, ok := m.FirstOnPath(s.Tool.Name)
		if !ok {
			return nil, Missing
		}
		in, _ := m.At(s.Tool.Name, first.Path)
		return in, stateOf(in)
	}
	set, build := together(a, pins)
	in := m.Newest(s.Tool.Name, set, build)
	return in, stateOf(in)
}

// inOrder takes the first of a pin's versions that is installed.
func inOrder(s *Subject, a Asked, pins []Asked, m *inventory.Machine) (*inventory.Installed, State) {
	for _, w := range a.Wanted.Fallbacks {
		one := a
		one.Wanted = w
		if w.Alias != "" {
			continue // a name among fallbacks is looked up with the set as a whole
		}
		if in, state := choose(s, one, pins, m); in != nil {
			return in, state
		}
	}
	set, build := together(a, pins)
	in := m.Newest(s.Tool.Name, set, build)
	return in, stateOf(in)
}

// together narrows a pin by the other pins of its folder, as long as something is left.
func together(a Asked, pins []Asked) (version.Set, inventory.Build) {
	set, build := a.Set, a.Build()
	for i := range pins {
		b := &pins[i]
		if b.Err != nil || b.Unknown != "" || b.Kept {
			continue
		}
		if set.Overlaps(b.Set) {
			set = set.Intersect(b.Set)
		}
		if build.Vendor == "" {
			build.Vendor = b.Vendor
		}
	}
	return set, build
}

func (r *Resolution) byDefault(s *Subject, m *inventory.Machine, day time.Time) {
	d, ok := m.Default(s.Tool.Name)
	if !ok {
		r.Ladder = append(r.Ladder, Rung{Source: ByDefault})
		return
	}
	rung := Rung{Source: ByDefault, Says: true, Raw: d.Raw, Where: d.Source}
	a := ask(claim.Claim{Raw: d.Raw, Dialect: "plain", Role: claim.Pin}, s.Tool, day)
	if a.System {
		rung.Note = "the default leaves the choice to PATH"
		r.Ladder = append(r.Ladder, rung)
		return
	}
	in := m.Newest(s.Tool.Name, a.Set, a.Build())
	state := Unpinned
	if in == nil {
		state, rung.Note = "", "no installation fits it"
	}
	r.add(rung, in, state)
}

func (r *Resolution) onPath(s *Subject, m *inventory.Machine) {
	p, ok := m.FirstOnPath(s.Tool.Name)
	if !ok {
		r.Ladder = append(r.Ladder, Rung{Source: ByPath})
		return
	}
	rung := Rung{Source: ByPath, Says: true, Where: p.Path, Version: p.Version, Path: p.Path}
	in, _ := m.At(s.Tool.Name, p.Path)
	state := Unpinned
	number, err := s.Tool.Scheme().Parse(p.Version)
	if p.Shim {
		rung.Note = "a shim: it passes the call on"
		if in == nil && err == nil {
			in = m.Newest(s.Tool.Name, version.Exactly(number), inventory.Build{})
		}
	}
	if in == nil && err != nil {
		state = Unknown
	}
	decides := r.DecidedBy == ""
	r.add(rung, in, state)
	if decides && in == nil {
		r.Version, r.Path, r.Number = p.Version, p.Path, number
	}
}
