// Package resolve turns claims and an inventory into resolutions: for one folder, tool
// and machine, the installation that would run, and the ladder that led to it.
package resolve

import (
	"path"
	"slices"
	"strings"
	"time"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/inventory"
	"wexo/internal/core/version"
)

// Subject is one folder and tool with everything that is said of it there.
type Subject struct {
	Folder    string
	Tool      *catalogue.Tool
	Claims    []Asked // in force in the folder, own first
	Uses      []claim.Use
	PinFolder string // where the deciding pins stand; meaningless without pins
}

// Asked is a claim with what it asks for on a day.
type Asked struct {
	claim.Claim
	claim.Wanted
	Floating bool
	Err      error // the text could not be read; the set is then empty
}

// Build is what the claim asks of an installation beside its number.
func (a Asked) Build() inventory.Build {
	return inventory.Build{Vendor: a.Vendor, Variant: a.Variant, Package: a.Package, Arch: a.Arch}
}

// Own tells whether the claim stands in the subject's own folder.
func (s *Subject) Own(a Asked) bool { return a.Folder == s.Folder }

// Pins are the claims that decide, nearest folder only.
func (s *Subject) Pins() []Asked { return s.with(claim.Pin) }

// Bounds are the claims that judge.
func (s *Subject) Bounds() []Asked { return s.with(claim.Bound) }

// Wirings are the claims of editors.
func (s *Subject) Wirings() []Asked { return s.with(claim.Wiring) }

// Setups are what pipelines and containers set up.
func (s *Subject) Setups() []Asked { return s.with(claim.Setup) }

func (s *Subject) with(role claim.Role) []Asked {
	n := 0
	for i := range s.Claims {
		if s.Claims[i].Role == role {
			n++
		}
	}
	if n == 0 {
		return nil
	}
	out := make([]Asked, 0, n)
	for i := range s.Claims {
		if s.Claims[i].Role == role {
			out = append(out, s.Claims[i])
		}
	}
	return out
}

// Feasible is what every readable pin and bound allows.
func (s *Subject) Feasible() version.Set {
	out := version.All(s.Tool.Scheme())
	for _, a := range s.Claims {
		if a.Judges() {
			out = out.Intersect(a.Set)
		}
	}
	return out
}

// Judges tells whether the claim's set limits what may run: pins and bounds do.
func (a Asked) Judges() bool {
	return a.Err == nil && !a.Kept && (a.Role == claim.Pin || a.Role == claim.Bound)
}

// Same tells whether two claims stand in the same place.
func (a Asked) Same(b Asked) bool {
	return a.File == b.File && a.Line == b.Line && a.Column == b.Column && a.Role == b.Role && a.Raw == b.Raw && a.Folder == b.Folder
}

// Conflict is a smallest set of claims that cannot hold together; nil where all can.
func (s *Subject) Conflict() []Asked {
	var judging []Asked
	var sets []version.Set
	for _, a := range s.Claims {
		if a.Judges() {
			judging, sets = append(judging, a), append(sets, a.Set)
		}
	}
	var out []Asked
	for _, i := range version.Contradiction(sets) {
		out = append(out, judging[i])
	}
	return out
}

// Subjects groups a reading by folder and tool, sorted. Names in pins are looked up on the day.
func Subjects(r claim.Reading, c *catalogue.Catalogue, day time.Time) []*Subject {
	type key struct{ folder, tool string }
	own := map[key][]Asked{}
	subjects := map[key]*Subject{}
	touch := func(folder, name string) *Subject {
		k := key{folder, name}
		if subjects[k] == nil {
			tool, _ := c.Tool(name)
			subjects[k] = &Subject{Folder: folder, Tool: tool}
		}
		return subjects[k]
	}
	for _, cl := range r.Claims {
		tool, known := c.Tool(cl.Tool)
		if !known {
			continue
		}
		touch(cl.Folder, tool.Name)
		k := key{cl.Folder, tool.Name}
		own[k] = append(own[k], ask(cl, tool, day))
	}
	for _, use := range r.Uses {
		s := touch(use.Folder, use.Tool)
		s.Uses = append(s.Uses, use)
	}
	out := make([]*Subject, 0, len(subjects))
	for _, s := range subjects {
		s.gather(func(folder string) []Asked { return own[key{folder, s.Tool.Name}] })
		out = append(out, s)
	}
	slices.SortFunc(out, func(a, b *Subject) int {
		if r := strings.Compare(a.Folder, b.Folder); r != 0 {
			return r
		}
		return strings.Compare(a.Tool.Name, b.Tool.Name)
	})
	return out
}

func ask(c claim.Claim, tool *catalogue.Tool, day time.Time) Asked {
	a := Asked{Claim: c}
	if c.Reading == "path" || c.Role == claim.Component { // a component's version is of another order
		return a
	}
	a.Wanted, a.Err = c.Want(tool)
	if a.Alias != "" {
		alias, _ := tool.AliasOn(a.Alias, day)
		a.Set, a.Floating = alias.Set, alias.Floating
	}
	if a.Role == claim.Pin && a.Err == nil && !a.Kept && (a.System || a.Set.IsAll()) {
		a.Floating = true
	}
	return a
}

// gather collects the claims in force: own ones, the pins of the nearest folder above
// that has any, and of each manifest kind the nearest bounds above.
func (s *Subject) gather(own func(folder string) []Asked) {
	pinned := false
	manifests := map[string]bool{}
	for folder := s.Folder; ; folder = parent(folder) {
		here := false
		var bases []string
		for _, a := range sorted(own(folder)) {
			switch {
			case a.Role == claim.Pin && !pinned:
				s.Claims, s.PinFolder, here = append(s.Claims, a), folder, true
			case a.Role == claim.Bound && !manifests[path.Base(a.File)]:
				s.Claims, bases = append(s.Claims, a), append(bases, path.Base(a.File))
			case a.Role != claim.Pin && a.Role != claim.Bound && folder == s.Folder:
				s.Claims = append(s.Claims, a)
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

// sorted puts files that hold one tool's version first, then files of several tools,
// then manifests, so that the first pin is the plainest.
func sorted(claims []Asked) []Asked {
	if len(claims) < 2 {
		return claims
	}
	out := slices.Clone(claims)
	rank := func(a Asked) int {
		switch {
		case a.Recognised == claim.Standard:
			return 2
		case !strings.HasSuffix(a.File, "version"):
			return 1
		}
		return 0
	}
	slices.SortStableFunc(out, func(a, b Asked) int {
		if r := rank(a) - rank(b); r != 0 {
			return r
		}
		if r := strings.Compare(a.File, b.File); r != 0 {
			return r
		}
		return a.Line - b.Line
	})
	return out
}

func parent(folder string) string {
	if i := strings.LastIndexByte(folder, '/'); i >= 0 {
		return folder[:i]
	}
	return ""
}
