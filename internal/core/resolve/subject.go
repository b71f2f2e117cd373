package resolve

import (
	"cmp"
	"path"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/version"
)

// Asked is a claim with what it asks for.
type Asked struct {
	*claim.Claim
	Asks *Want
}

// Subject is one folder and tool with everything that is said of it there, on any day.
type Subject struct {
	Folder    string
	Tool      *catalogue.Tool
	Claims    []Asked     // in force in the folder, own first; of several above that ask the same, the first
	Beaten    []Asked     // pins of folders above that a nearer pin beats, nearest first
	Uses      []claim.Use // files that show that the tool is used
	PinFolder string      // where the deciding pins stand; meaningless without pins
	Baselines []*Want     // what adopted baselines demand
}

// Own reports whether the claim stands in the subject's own folder.
func (s *Subject) Own(a Asked) bool { return a.Folder == s.Folder }

// With are the claims of a role.
func (s *Subject) With(role claim.Role) []Asked {
	var out []Asked
	for _, a := range s.Claims {
		if a.Role == role {
			out = append(out, a)
		}
	}
	return out
}

// Pinned reports whether a pin is in force.
func (s *Subject) Pinned() bool {
	return slices.ContainsFunc(s.Claims, func(a Asked) bool { return a.Role == claim.Pin })
}

// Needed reports whether something that is not a pin shows that the folder needs the tool.
func (s *Subject) Needed() bool {
	return len(s.Uses) > 0 || slices.ContainsFunc(s.Claims, func(a Asked) bool { return a.Role == claim.Bound })
}

// View is one folder of one repository with all that is said there together.
type View struct {
	Folder     string
	Subjects   []*Subject // sorted by tool
	Components []Component
}

// Component is the version of a library or framework in a folder, in its own scheme.
type Component struct {
	*claim.Claim
	Name string
	Set  version.Set
	Err  error // the text could not be read; the set is then empty
}

type place struct{ folder, tool string }

// gathering puts a reading's claims together by folder and tool.
type gathering struct {
	catalogue  *catalogue.Catalogue
	wants      *Wants
	own        map[place][]Asked
	subjects   map[place]*Subject
	components map[string][]Component
}

// Views groups a reading by folder, sorted. Claims of tools that the catalogue does not
// know, as an older one may have, are left out.
func Views(r *claim.Reading, c *catalogue.Catalogue, wants *Wants) []*View {
	g := &gathering{c, wants, map[place][]Asked{}, map[place]*Subject{}, map[string][]Component{}}
	for i := range r.Claims {
		cl := &r.Claims[i]
		s := g.subject(cl.Folder, cl.Tool)
		if s == nil {
			continue
		}
		if name := cmp.Or(cl.Component, cl.Tells); name != "" {
			g.components[cl.Folder] = append(g.components[cl.Folder], componentOf(cl, name, c))
		}
		k := place{cl.Folder, s.Tool.Name}
		g.own[k] = append(g.own[k], Asked{cl, wants.Of(cl, s.Tool)})
	}
	for _, use := range r.Uses {
		if s := g.subject(use.Folder, use.Tool); s != nil {
			s.Uses = append(s.Uses, use)
		}
	}
	for _, list := range g.own {
		sortClaims(list)
	}
	byFolder := map[string]*View{}
	var out []*View
	for k, s := range g.subjects {
		g.inForce(s)
		slices.SortFunc(s.Uses, func(a, b claim.Use) int { return strings.Compare(a.File, b.File) })
		v := byFolder[k.folder]
		if v == nil {
			v = &View{Folder: k.folder, Components: g.components[k.folder]}
			byFolder[k.folder] = v
			out = append(out, v)
		}
		v.Subjects = append(v.Subjects, s)
	}
	for _, v := range out {
		slices.SortFunc(v.Subjects, func(a, b *Subject) int { return strings.Compare(a.Tool.Name, b.Tool.Name) })
		slices.SortFunc(v.Components, func(a, b Component) int { return compareClaims(a.Claim, b.Claim) })
	}
	slices.SortFunc(out, func(a, b *View) int { return strings.Compare(a.Folder, b.Folder) })
	return out
}

func (g *gathering) subject(folder, name string) *Subject {
	tool, known := g.catalogue.Tool(name)
	if !known {
		return nil
	}
	k := place{folder, tool.Name}
	if g.subjects[k] == nil {
		g.subjects[k] = &Subject{Folder: folder, Tool: tool}
	}
	return g.subjects[k]
}

func componentOf(cl *claim.Claim, name string, c *catalogue.Catalogue) Component {
	out := Component{Claim: cl, Name: name}
	scheme, ok := c.SchemeOf(name)
	if !ok {
		return out
	}
	reading := cl.Reading
	if cl.Tells != "" {
		reading = "" // what it tells is the version itself
	}
	out.Set, out.Err = claim.RangeOf(scheme, cl.Dialect, reading, cl.Raw)
	return out
}

// inForce collects the claims in force: own ones, the pins of the nearest folder above
// that has any, and of each manifest kind the nearest bounds above.
func (g *gathering) inForce(s *Subject) {
	pinned := false
	manifests := map[string]bool{}
	type said struct {
		want *Want
		file string
	}
	seen := map[said]bool{}
	for folder := s.Folder; ; folder = claim.Above(folder) {
		here := false
		var bases []string
		for _, a := range g.own[place{folder, s.Tool.Name}] {
			again := folder != s.Folder && seen[said{a.Asks, a.File}]
			switch {
			case a.Role == claim.Pin && pinned:
				s.Beaten = append(s.Beaten, a)
				continue
			case a.Role == claim.Pin:
				s.PinFolder, here = folder, true
			case a.Role == claim.Bound && manifests[path.Base(a.File)]:
				continue
			case a.Role == claim.Bound:
				bases = append(bases, path.Base(a.File))
			case folder != s.Folder:
				continue
			}
			if !again {
				s.Claims = append(s.Claims, a)
				seen[said{a.Asks, a.File}] = true
			}
		}
		for _, base := range bases {
			manifests[base] = true
		}
		pinned = pinned || here
		if folder == "" {
			return
		}
	}
}

// sortClaims puts files that hold one tool's version first, then files of several tools,
// then manifests, so that the first pin is the plainest.
func sortClaims(list []Asked) {
	slices.SortFunc(list, func(a, b Asked) int {
		if r := rank(a.Claim) - rank(b.Claim); r != 0 {
			return r
		}
		return compareClaims(a.Claim, b.Claim)
	})
}

func rank(c *claim.Claim) int {
	switch {
	case c.Recognised == claim.Standard:
		return 2
	case !strings.HasSuffix(c.File, "version"):
		return 1
	}
	return 0
}

// compareClaims orders claims by what they are, so that the order in which they were read
// decides nothing.
func compareClaims(a, b *claim.Claim) int {
	if r := strings.Compare(a.File, b.File); r != 0 {
		return r
	}
	if r := a.Line - b.Line; r != 0 {
		return r
	}
	if r := a.Column - b.Column; r != 0 {
		return r
	}
	if r := strings.Compare(string(a.Role), string(b.Role)); r != 0 {
		return r
	}
	if r := strings.Compare(a.Raw, b.Raw); r != 0 {
		return r
	}
	if r := strings.Compare(a.Component+a.Stage+a.OneOf+a.Setting, b.Component+b.Stage+b.OneOf+b.Setting); r != 0 {
		return r
	}
	return strings.Compare(a.Reading+"\x00"+a.Dialect, b.Reading+"\x00"+b.Dialect)
}
