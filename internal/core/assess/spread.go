package assess

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
	"wexo/internal/core/version"
)

// Limit is what speaks of a tool's versions where a choice holds, beside what judges it in
// its own folder: whoever advises a version takes it into account.
type Limit struct {
	Of    LimitOf
	Wants []*resolve.Want
	Set   version.Set // of a rule: what it leaves
	Above bool        // it stands above the folders for which the choice is made
}

// LimitOf tells limits apart.
type LimitOf int

// What limits are of.
const (
	OfBound  LimitOf = iota // a manifest's bound in a folder below
	OfSetup                 // what pipelines and containers set up: one of them is known to work
	OfTested                // what the project says that it works with
	OfLevel                 // the level that the code runs on
	OfPin                   // what another folder of the repository pins
	OfWiring                // what an editor is pointed at by name
	OfRule                  // what goes together with other tools and components
)

func (l *Limit) key(k *caseKey) {
	k.text("limit" + string(rune('0'+l.Of)))
	k.flags(l.Above)
	for _, w := range l.Wants {
		k.want(w)
	}
	if l.Of == OfRule {
		k.text(l.Set.Canonical())
	}
}

// Positive reports whether the limit names versions that are known to work, rather than
// leaving some out.
func (l *Limit) Positive() bool { return l.Of != OfBound && l.Of != OfRule }

// How many limits of a kind, and claims of one, are looked at: nobody writes more by hand.
const (
	mostLimits = 24
	mostWants  = 200
)

// spread knows over which folders of a repository a choice holds: a pin where it is
// inherited, the lack of one wherever the tool is used.
type spread struct {
	facts    *Facts
	prepared *Prepared
	reaches  map[reach]*reached
	at       map[tooled]*resolve.Subject
	views    map[string]*resolve.View
	tying    *tying
}

// reach is folders for which one choice of a tool is made: those of one pin's folder, or
// those that none reaches, apart or not.
type reach struct {
	tool   *catalogue.Tool
	pinned bool
	folder string // of the pin
	apart  bool
}

type tooled struct {
	tool   *catalogue.Tool
	folder string
}

type reached struct {
	subjects []*resolve.Subject // the topmost first
	unpinned []*resolve.Subject // of those, that lack a pin
	needed   []*resolve.Subject
	limits   []Limit
	claims   [][]*claim.Claim
	limited  bool
}

func newSpread(f *Facts, p *Prepared, t *tying) *spread {
	s := &spread{f, p, map[reach]*reached{}, map[tooled]*resolve.Subject{}, map[string]*resolve.View{}, t}
	for _, v := range p.Views {
		s.views[v.Folder] = v
		for _, one := range v.Subjects {
			s.at[tooled{one.Tool, one.Folder}] = one
			key := s.of(one)
			r := s.reaches[key]
			if r == nil {
				r = &reached{}
				s.reaches[key] = r
			}
			r.add(one, s.free(one))
		}
	}
	for _, r := range s.reaches {
		for _, list := range [][]*resolve.Subject{r.subjects, r.unpinned, r.needed} {
			slices.SortStableFunc(list, func(a, b *resolve.Subject) int { return depth(a.Folder) - depth(b.Folder) })
		}
	}
	return s
}

func (r *reached) add(s *resolve.Subject, free bool) {
	r.subjects = append(r.subjects, s)
	if s.Pinned() {
		return
	}
	if len(s.Uses) > 0 && !free {
		r.unpinned = append(r.unpinned, s)
	}
	if s.Needed() {
		r.needed = append(r.needed, s)
	}
}

// free reports whether a use needs no pin: where bounds choose, or the user says so.
func (s *spread) free(one *resolve.Subject) bool {
	return one.Tool.BoundsSuffice && len(one.With(claim.Bound)) > 0 || s.prepared.Settings.NeedsNoPin(one.Tool.Name, one.Folder)
}

func (s *spread) of(one *resolve.Subject) reach {
	if one.Pinned() {
		return reach{tool: one.Tool, pinned: true, folder: one.PinFolder}
	}
	return reach{tool: one.Tool, apart: s.prepared.apart.holds(one.Folder)}
}

func depth(folder string) int {
	if folder == "" {
		return 0
	}
	return 1 + strings.Count(folder, "/")
}

// settle tells a subject what its choice depends on, and which of several folders speaks
// for all.
func (s *spread) settle(own *Subject, c *Case) {
	r := s.reaches[s.of(own.Subject)]
	if !r.limited {
		s.limit(r)
	}
	c.Limits, own.Limits = r.limits, r.claims
	if own.Pinned() {
		return
	}
	if c.Brought = s.brought(own.Subject); c.Brought {
		return
	}
	c.Free = s.free(own.Subject)
	first := func(list []*resolve.Subject) bool { return len(list) > 0 && list[0] == own.Subject }
	c.Unpinned, c.Needed = first(r.unpinned), first(r.needed)
	switch {
	case c.Unpinned:
		own.Holds = reachOf(r.unpinned)
	case c.Needed:
		own.Holds = Reach{own.Folder, len(r.needed) - 1}
	default:
		return
	}
	own.PinIn = s.pinFile(own)
}

// brought reports whether a tool comes with another one that the folder speaks of.
func (s *spread) brought(one *resolve.Subject) bool {
	tools := s.tying.tools(s.views[one.Folder])
	return slices.ContainsFunc(s.tying.book.Of(one.Tool.Name), func(r *rule.Rule) bool {
		return r.Brings && r.Fixed && r.Ends[1].Of == one.Tool.Name &&
			slices.ContainsFunc(tools, func(t *resolve.Subject) bool { return t.Tool.Name == r.Ends[0].Of })
	})
}

// pinFile is where a pin is written so that it is read: the file that the tool's own
// programs read, one like that which pins the tool in another folder, or one above that
// pins other tools too.
func (s *spread) pinFile(own *Subject) string {
	if own.Tool.PinIn != "" {
		return own.Tool.PinIn
	}
	above, first := "", map[string]string{}
	for i := range s.prepared.Claims {
		c := &s.prepared.Claims[i]
		if c.Role != claim.Pin || c.Recognised != claim.Shape {
			continue
		}
		if c.Tool == own.Tool.Name {
			return path.Join(own.Holds.Folder, path.Base(c.File))
		}
		if first[c.File] == "" {
			first[c.File] = c.Tool
		}
		if first[c.File] != c.Tool && holdsIn(c.Folder, own.Holds.Folder) && len(c.File) >= len(above) {
			above = c.File
		}
	}
	return above
}

// holdsIn reports whether a folder is another or lies above it.
func holdsIn(folder, below string) bool {
	return folder == "" || folder == below || strings.HasPrefix(below, folder+"/")
}

// reachOf is the folder above several, and how many there are beside the first.
func reachOf(list []*resolve.Subject) Reach {
	out := Reach{list[0].Folder, len(list) - 1}
	for _, s := range list[1:] {
		for !holdsIn(out.Folder, s.Folder) {
			out.Folder = claim.Above(out.Folder)
		}
	}
	return out
}

// limit gathers what speaks of the tool's versions over a reach.
func (s *spread) limit(r *reached) {
	r.limited = true
	tool := r.subjects[0].Tool
	seen := map[*resolve.Want]bool{}
	counts := map[LimitOf]int{}
	add := func(l Limit, said []*claim.Claim) {
		if counts[l.Of]++; counts[l.Of] <= mostLimits {
			r.limits, r.claims = append(r.limits, l), append(r.claims, said)
		}
	}
	for _, one := range r.subjects {
		for _, a := range one.Claims {
			if a.Role == claim.Bound && !seen[a.Asks] {
				seen[a.Asks] = true
				add(Limit{Of: OfBound, Wants: []*resolve.Want{a.Asks}}, []*claim.Claim{a.Claim})
			}
		}
	}
	s.positive(r, add)
	s.rules(r, tool)
}

// positive gathers what is known to work: what is set up, what the project says of itself,
// in the folders of the reach and above the topmost.
func (s *spread) positive(r *reached, add func(Limit, []*claim.Claim)) {
	type group struct {
		of    LimitOf
		file  string
		above bool
	}
	at := map[group]int{}
	var groups [][]resolve.Asked
	var kinds []group
	take := func(g group, a resolve.Asked) {
		n, known := at[g]
		if !known {
			n = len(groups)
			at[g] = n
			groups, kinds = append(groups, nil), append(kinds, g)
		}
		if len(groups[n]) < mostWants {
			groups[n] = append(groups[n], a)
		}
	}
	for i, one := range s.withAbove(r) {
		above := i >= len(r.subjects)
		for _, a := range one.Claims {
			switch {
			case a.Role == claim.Setup && a.Folder == one.Folder:
				take(group{OfSetup, a.File, above}, a)
			case a.Role == claim.Tested && a.Folder == one.Folder:
				take(group{OfTested, a.File, above}, a)
			case a.Role == claim.Wiring && a.Folder == one.Folder && a.Reading == "name" && a.Beaten == "" && a.Serves == "":
				take(group{OfWiring, fmt.Sprintf("%s:%d:%d", a.File, a.Line, a.Column), above}, a)
			case a.Role == claim.Bound && one.Tool.Levels && a.Asks.Minimum:
				take(group{OfLevel, a.File, above}, a)
			}
		}
	}
	if !r.subjects[0].Pinned() {
		for _, other := range s.prepared.Views {
			for _, one := range other.Subjects {
				if one.Tool == r.subjects[0].Tool && one.Pinned() && one.PinFolder == one.Folder && !s.prepared.apart.holds(one.Folder) {
					for _, a := range one.With(claim.Pin) {
						take(group{OfPin, "", false}, a)
					}
				}
			}
		}
	}
	for i, list := range groups {
		var wants []*resolve.Want
		var said []*claim.Claim
		for _, a := range list {
			said = append(said, a.Claim)
			if !slices.Contains(wants, a.Asks) {
				wants = append(wants, a.Asks)
			}
		}
		add(Limit{Of: kinds[i].of, Wants: wants, Above: kinds[i].above}, said)
	}
}

// withAbove are the subjects of a reach and those of the folders above the topmost.
func (s *spread) withAbove(r *reached) []*resolve.Subject {
	out := slices.Clone(r.subjects)
	for folder := r.subjects[0].Folder; folder != ""; {
		folder = claim.Above(folder)
		if above := s.at[tooled{r.subjects[0].Tool, folder}]; above != nil && !slices.Contains(out, above) {
			out = append(out, above)
		}
	}
	return out
}

// mostViews is how many folders' components are looked at for what goes together.
const mostViews = 50

// rules gathers what goes together with the other tools and components of the folders, and
// what baselines demand.
func (s *spread) rules(r *reached, tool *catalogue.Tool) {
	type left struct {
		rule *rule.Rule
		set  string
	}
	seen := map[left]bool{}
	add := func(by *rule.Rule, set version.Set, c *claim.Claim) {
		key := left{by, set.Canonical()}
		if set.IsAll() || seen[key] || len(seen) == mostLimits {
			return
		}
		seen[key] = true
		r.limits, r.claims = append(r.limits, Limit{Of: OfRule, Set: set}), append(r.claims, []*claim.Claim{c})
	}
	for _, b := range s.tying.adopted {
		for _, d := range b.Demands {
			if d.Name == tool.Name {
				add(nil, d.Set, nil)
			}
		}
	}
	for _, one := range r.subjects[:min(len(r.subjects), mostViews)] {
		known, places := s.besideOf(s.views[one.Folder], tool)
		if len(known) == 0 {
			continue
		}
		ends := map[string]TieEnd{tool.Name: {}}
		for name := range known {
			ends[name] = TieEnd{}
		}
		for _, by := range s.facts.speaking(s.tying.book, ends) {
			at := by.Speaks(tool.Name)
			if at < 0 || by.Builds && codeOnly(one) || by.Brings && !by.Fixed {
				continue
			}
			values, about := make([]rule.Value, len(by.Ends)), (*claim.Claim)(nil)
			for i, e := range by.Ends {
				if is, there := known[e.Name]; there && i != at {
					values[i].Set = is
					if about == nil {
						about = places[e.Name]
					}
				}
			}
			if about != nil {
				add(by, by.Left(at, values), about)
			}
		}
	}
}

// besideOf are the versions of other tools and of components that a folder names.
func (s *spread) besideOf(v *resolve.View, tool *catalogue.Tool) (map[string]version.Set, map[string]*claim.Claim) {
	others := s.tying.tools(v)
	if len(others) < 2 && s.tying.parts[v.Folder] == nil {
		return nil, nil
	}
	known, places := map[string]version.Set{}, map[string]*claim.Claim{}
	for _, c := range s.tying.components(v) {
		known[c.Name], places[c.Name] = c.Set, c.Claims[0]
	}
	for _, other := range others {
		if other.Tool == tool || codeOnly(other) {
			continue
		}
		for _, a := range other.Claims {
			if a.Role != claim.Pin || a.Asks.Err != nil || a.Asks.Kept || a.Asks.Alias != "" || a.Asks.Set.IsEmpty() {
				continue
			}
			set, there := known[other.Tool.Name]
			switch {
			case !there:
				known[other.Tool.Name], places[other.Tool.Name] = a.Asks.Set, a.Claim
			case set.Meets(a.Asks.Set):
				known[other.Tool.Name] = set.Intersect(a.Asks.Set)
			}
		}
	}
	return known, places
}
