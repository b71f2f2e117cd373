// Package resolve turns claims and machines into resolutions: for one folder, tool and
// machine, the installation that would run. Each question is asked once, for all machines
// that look the same; the ladder behind an answer is made when somebody looks at it.
package resolve

import (
	"wexo/internal/core/day"
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

// Outcome is what would run on a class of machines.
type Outcome struct {
	Class     *Class
	State     State
	DecidedBy string // a By constant, or empty
	Where     string // of what decides on the machine: the variable, or the default's file
	Raw       string // what stands there
	Version   string
	Path      string
	Number    version.Version      // zero where it cannot be told
	Chosen    *inventory.Installed // nil where what runs is no known installation
}

// Runs reports whether something would run whose version is known by name.
func (o *Outcome) Runs() bool { return o.Version != "" }

// climbing goes up one ladder, strongest rung first.
type climbing struct {
	*Answer
	class *Class
	on    *day.Day
	out   Outcome
	tell  func(Rung) // nil where nobody looks
}

// climb resolves an answer on a class of machines. Tell is told of every rung; it may be nil.
func climb(a *Answer, c *Class, on *day.Day, tell func(Rung)) Outcome {
	k := &climbing{a, c, on, Outcome{Class: c}, tell}
	k.override()
	k.pins()
	k.rung(Rung{Source: ByBaseline})
	k.byDefault()
	k.onPath()
	if k.out.State == "" {
		k.out.State = Absent
	}
	if k.out.State != Unknown && a.Conflict {
		k.out.State = Conflict
	}
	return k.out
}

func (k *climbing) rung(r Rung) {
	if k.tell != nil {
		k.tell(r)
	}
}

// add puts a rung that speaks on the ladder; it decides where none above it did and the
// state is known.
func (k *climbing) add(r Rung, in *inventory.Installed, state State) {
	r.Says = true
	if in != nil {
		r.Version, r.Path = in.Version, in.Path
	}
	if k.out.DecidedBy == "" && state != "" {
		r.Decides = true
		k.out.DecidedBy, k.out.State, k.out.Version, k.out.Path, k.out.Chosen = r.Source, state, r.Version, r.Path, in
		k.out.Where, k.out.Raw = r.Where, r.Raw
		if in != nil {
			k.out.Number = in.Number
		}
	}
	k.rung(r)
}

func (k *climbing) override() {
	o, ok := k.class.Override(k.Tool.Name)
	if !ok {
		k.rung(Rung{Source: ByOverride})
		return
	}
	r := Rung{Source: ByOverride, Raw: o.Raw, Where: o.Variable}
	if k.class.override == nil {
		in, _ := k.class.At(k.Tool.Name, o.Raw)
		k.add(r, in, stateOf(in))
		return
	}
	s := SaidOn(k.class.override, k.on)
	in := k.class.Newest(k.Tool.Name, s.Set, s.Build())
	k.add(r, in, stateOf(in))
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

// pins adds the pin rungs. Pins of one folder that share versions decide together;
// otherwise the first one does.
func (k *climbing) pins() {
	source := ByInherited
	if k.Own {
		source = ByPin
	}
	if source == ByInherited || len(k.Pins) == 0 {
		k.rung(Rung{Source: ByPin})
	}
	for i := range k.Pins {
		p := &k.Pins[i]
		r := Rung{Source: source, Raw: p.Raw, pin: i + 1}
		if p.Brings && p.Err == nil {
			k.brought(r, p)
			continue
		}
		in, state := k.choose(p)
		if p.Unknown != "" {
			r.Note = "the label \"" + p.Unknown + "\" is unknown"
		}
		k.add(r, in, state)
	}
	if source == ByPin || len(k.Pins) == 0 {
		k.rung(Rung{Source: ByInherited})
	}
}

// brought decides for a version that the build fetches itself, whatever is installed.
func (k *climbing) brought(r Rung, p *Said) {
	r.Version, r.Note = p.Raw, "the build fetches it itself"
	decides := k.out.DecidedBy == ""
	k.add(r, nil, Met)
	if number, err := k.Tool.Scheme().Parse(p.Raw); decides && err == nil {
		k.out.Number = number
	}
}

func (k *climbing) choose(p *Said) (*inventory.Installed, State) {
	if p.Silent() {
		return nil, Unknown
	}
	if p.System {
		first, ok := k.class.FirstOnPath(k.Tool.Name)
		if !ok {
			return nil, Missing
		}
		in, _ := k.class.At(k.Tool.Name, first.Path)
		return in, stateOf(in)
	}
	for _, f := range p.Fallbacks { // the first that is installed
		one := Said{Want: &Want{Wanted: f, Tool: k.Tool}}
		one.Set, _ = one.On(k.on)
		set, build := k.together(&one)
		if in := k.class.Newest(k.Tool.Name, set, build); in != nil {
			return in, stateOf(in)
		}
	}
	set, build := k.together(p)
	in := k.class.Newest(k.Tool.Name, set, build)
	return in, stateOf(in)
}

// together narrows a pin by the other pins of its folder, as long as something is left.
func (k *climbing) together(p *Said) (version.Set, inventory.Build) {
	set, build := p.Set, p.Build()
	for i := range k.Pins {
		other := &k.Pins[i]
		if other.Silent() {
			continue
		}
		if set.Overlaps(other.Set) {
			set = set.Intersect(other.Set)
		}
		if build.Vendor == "" {
			build.Vendor = other.Vendor
		}
	}
	return set, build
}

func (k *climbing) byDefault() {
	d, ok := k.class.Default(k.Tool.Name)
	if !ok {
		k.rung(Rung{Source: ByDefault})
		return
	}
	r := Rung{Source: ByDefault, Says: true, Raw: d.Raw, Where: d.Source}
	s := SaidOn(k.class.byDefault, k.on)
	if s.System {
		r.Note = "the default leaves the choice to PATH"
		k.rung(r)
		return
	}
	in := k.class.Newest(k.Tool.Name, s.Set, s.Build())
	state := Unpinned
	if in == nil {
		state, r.Note = "", "no installation fits it"
	}
	k.add(r, in, state)
}

func (k *climbing) onPath() {
	p, ok := k.class.FirstOnPath(k.Tool.Name)
	if !ok {
		k.rung(Rung{Source: ByPath})
		return
	}
	r := Rung{Source: ByPath, Where: p.Path, Version: p.Version, Path: p.Path}
	in, _ := k.class.At(k.Tool.Name, p.Path)
	state := Unpinned
	number, err := k.Tool.Scheme().Parse(p.Version)
	if p.Shim {
		r.Note = "a shim: it passes the call on"
		if in == nil && err == nil {
			in = k.class.Newest(k.Tool.Name, version.Exactly(number), inventory.Build{})
		}
	}
	if in == nil && err != nil {
		state = Unknown
	}
	decides := k.out.DecidedBy == ""
	k.add(r, in, state)
	if decides && in == nil {
		k.out.Version, k.out.Path, k.out.Number = p.Version, p.Path, number
	}
}
