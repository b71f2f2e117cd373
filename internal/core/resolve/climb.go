// Package resolve turns claims and machines into resolutions: for one folder, tool and
// machine, the installation that would run. Each question is asked once, for all machines
// that look the same; the ladder behind an answer is made when somebody looks at it.
package resolve

import (
	"strings"

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

// Outcome is what would run on machines that come to the same.
type Outcome struct {
	State     State
	DecidedBy string // a By constant, or empty
	Where     string // of what decides on the machines: the variable, or the default's file
	Raw       string // what stands there
	Version   string
	Number    version.Version // zero where it cannot be told
	Starts    string          // the installed version that starts what is fetched; empty where nothing is
	Path      string          // where they share it
	Machines  Machines
}

// Runs reports whether something would run whose version is known by name.
func (o *Outcome) Runs() bool { return o.Version != "" }

// like reports whether two outcomes are the same, but for machines and path.
func (o *Outcome) like(p *Outcome) bool {
	return o.State == p.State && o.DecidedBy == p.DecidedBy && o.Version == p.Version && o.Starts == p.Starts && o.Where == p.Where && o.Raw == p.Raw
}

// together adds what some machines come to.
func together(list []Outcome, m Machines, one Outcome) []Outcome {
	for i := range list {
		o := &list[i]
		if o.like(&one) {
			o.Machines = o.Machines.And(m)
			if o.Path != one.Path {
				o.Path = ""
			}
			return list
		}
	}
	one.Machines = m
	return append(list, one)
}

// narrowed is a pin as it is looked for: narrowed by the other pins of its folder, as long
// as something is left.
type narrowed struct {
	build inventory.Build
	among []bool     // of the tooling's versions
	first []narrowed // those that are tried before, in order
}

// narrow compares an answer's pins with the versions that there are, once for all classes.
func (t *Tooling) narrow(a *Answer, on *day.Day) []narrowed {
	out := make([]narrowed, len(a.Pins))
	for i := range a.Pins {
		p := &a.Pins[i]
		if p.Silent() || p.System {
			continue
		}
		out[i] = t.narrowOne(a, p)
		for _, f := range p.Fallbacks {
			one := Said{Want: &Want{Wanted: f, Tool: t.Tool}}
			one.Set, _ = one.On(on)
			out[i].first = append(out[i].first, t.narrowOne(a, &one))
		}
	}
	return out
}

func (t *Tooling) narrowOne(a *Answer, p *Said) narrowed {
	set, build := p.Set, p.Build()
	for i := range a.Pins {
		other := &a.Pins[i]
		if other.Silent() {
			continue
		}
		if len(a.Pins) > 1 && set.Overlaps(other.Set) {
			set = set.Intersect(other.Set)
		}
		if build.Vendor == "" {
			build.Vendor = other.Vendor
		}
	}
	return narrowed{build: build, among: t.Among(set)}
}

// climbing goes up one ladder, strongest rung first.
type climbing struct {
	*Answer
	narrowed []narrowed
	class    *Class
	on       *day.Day
	out      Outcome
	tell     func(Rung) // nil where nobody looks
}

// climb resolves an answer on a class of machines. Tell is told of every rung; it may be nil.
func climb(a *Answer, n []narrowed, c *Class, on *day.Day, tell func(Rung)) Outcome {
	k := climbing{Answer: a, narrowed: n, class: c, on: on, tell: tell}
	k.override()
	k.pins()
	k.baseline()
	if k.out.DecidedBy == "" || tell != nil { // weaker rungs are for those who look
		k.byDefault()
		k.onPath()
	}
	k.fetch()
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
		k.out.DecidedBy, k.out.State, k.out.Version, k.out.Path = r.Source, state, r.Version, r.Path
		if r.Source == ByOverride || r.Source == ByDefault {
			k.out.Where, k.out.Raw = r.Where, r.Raw
		}
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
		k.add(r, k.class.overriding, stateOf(k.class.overriding))
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
		in, state := k.choose(i)
		if p.Unknown != "" && k.tell != nil {
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

func (k *climbing) choose(pin int) (*inventory.Installed, State) {
	p := &k.Pins[pin]
	if p.Err == nil && (p.Kept || p.Alias != "") {
		if in := k.class.Called(k.Tool.Name, p.Raw); in != nil {
			return in, stateOf(in)
		}
	}
	if p.Silent() {
		return nil, Unknown
	}
	if p.System {
		if k.class.path == nil {
			return nil, Missing
		}
		in := k.class.path.leads
		return in, stateOf(in)
	}
	n := &k.narrowed[pin]
	for _, f := range n.first { // the first that is installed
		if in := k.class.NewestAmong(f.among, f.build); in != nil {
			return in, stateOf(in)
		}
	}
	in := k.class.NewestAmong(n.among, n.build)
	return in, stateOf(in)
}

// baseline chooses by what adopted baselines demand together; those that cannot hold
// together choose nothing.
func (k *climbing) baseline() {
	if len(k.Baselines) == 0 || k.out.DecidedBy != "" && k.tell == nil {
		k.rung(Rung{Source: ByBaseline})
		return
	}
	set := version.All(k.Tool.Scheme())
	var texts []string
	for _, w := range k.Baselines {
		set, texts = set.Intersect(w.Set), append(texts, w.Raw)
	}
	r := Rung{Source: ByBaseline, Raw: strings.Join(texts, " and ")}
	if set.IsEmpty() {
		r.Says, r.Note = true, "the baselines demand what no version is"
		k.rung(r)
		return
	}
	in := k.class.Newest(k.Tool.Name, set, inventory.Build{})
	k.add(r, in, stateOf(in))
}

func (k *climbing) byDefault() {
	d, ok := k.class.Default(k.Tool.Name)
	if !ok {
		k.rung(Rung{Source: ByDefault})
		return
	}
	r := Rung{Source: ByDefault, Says: true, Raw: d.Raw, Where: d.Source}
	if d.Path != "" { // it names an installation
		if in, _ := k.class.At(k.Tool.Name, d.Path); in != nil && in.Health != "broken" {
			k.add(r, in, Unpinned)
			return
		}
		r.Note = "what it names is not there, or does not work"
		k.rung(r)
		return
	}
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
	p := k.class.path
	if p == nil {
		k.rung(Rung{Source: ByPath})
		return
	}
	r := Rung{Source: ByPath, Where: p.Path, Version: p.Version, Path: p.Path, Note: p.note}
	state := Unpinned
	if p.leads == nil && p.number.IsZero() {
		state = Unknown
	}
	decides := k.out.DecidedBy == ""
	k.add(r, p.leads, state)
	if decides && p.leads == nil {
		k.out.Version, k.out.Path, k.out.Number = p.Version, p.Path, p.number
	}
}
