package reading

import (
	"path"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/scan"
)

// applied notes which scripts a build script applies, and which builds it includes.
func (s *scanning) applied() {
	rule := &s.Catalogue.Places().Applied
	if !catalogue.Covers(rule.Files, s.Path) {
		return
	}
	for _, m := range rule.Applies.FindAllSubmatch(s.Data, 128) {
		s.Said.Applies = append(s.Said.Applies, firstGroup(m))
	}
	for _, m := range rule.Includes.FindAllSubmatch(s.Data, 32) {
		s.Said.Includes = append(s.Said.Includes, firstGroup(m))
	}
}

// firstGroup is the first group of a match that took part.
func firstGroup(m [][]byte) string {
	for _, g := range m[1:] {
		if len(g) > 0 {
			return string(g)
		}
	}
	return ""
}

// convention is a script that other builds apply by its name.
type convention struct {
	name  string
	build string // the folder of the build that it serves
	scan  *scan.Said
}

// conventions lets what a script says that other builds apply hold where it is applied, and
// for the whole build where nothing shows that.
func (p *pass) conventions() {
	of := map[string]*convention{}
	for _, s := range p.scans {
		if c := p.convention(s); c != nil && len(of) < 1_000 {
			of[s.file] = c
		}
	}
	if len(of) == 0 {
		return
	}
	var moved []claim.Claim
	for i := range p.reading.Claims {
		c := &p.reading.Claims[i]
		script := of[c.File]
		if script == nil {
			moved = append(moved, *c)
			continue
		}
		folders := p.applying(script, of)
		if len(folders) == 0 {
			folders = []string{script.build}
		}
		for _, folder := range folders {
			copied := *c
			copied.Folder = folder
			moved = append(moved, copied)
		}
	}
	p.reading.Claims = moved
}

// convention tells whether a script is one that other builds apply, and which they are.
func (p *pass) convention(s scanned) *convention {
	rule := &p.catalogue.Places().Applied
	for _, below := range rule.Below {
		at := strings.Index("/"+s.file, "/"+below+"/")
		if at < 0 || s.Applies == nil && len(s.Claims) == 0 {
			continue
		}
		build := strings.Trim(("/" + s.file)[:at], "/")
		serves, ok := p.serves(build, rule)
		if !ok {
			return nil
		}
		name := path.Base(s.file)
		for _, pattern := range rule.Files {
			name = strings.TrimSuffix(name, strings.TrimPrefix(pattern, "*"))
		}
		return &convention{name, serves, s.Said}
	}
	return nil
}

// serves is the folder of the build that a build of scripts is made for.
func (p *pass) serves(build string, rule *catalogue.Applied) (string, bool) {
	for at := build; at != ""; at = claim.Above(at) {
		if slices.Contains(rule.Builds, path.Base(at)) {
			return claim.Above(at), true
		}
		for _, s := range p.scans {
			if slices.ContainsFunc(s.Includes, func(to string) bool { return path.Join(s.folder, to) == at }) {
				return s.folder, true
			}
		}
	}
	return "", false
}

// mostApplying is how many folders a script is applied in at most.
const mostApplying = 200

// applying are the folders whose builds apply a script, also through other scripts.
func (p *pass) applying(script *convention, of map[string]*convention) []string {
	names := []string{script.name}
	for changed := true; changed && len(names) < 32; {
		changed = false
		for _, other := range of {
			if !slices.Contains(names, other.name) && slices.ContainsFunc(other.scan.Applies, func(n string) bool { return slices.Contains(names, n) }) {
				names, changed = append(names, other.name), true
			}
		}
	}
	var out []string
	for _, s := range p.scans {
		if of[s.file] != nil || len(out) >= mostApplying || script.build != "" && s.folder != script.build && !strings.HasPrefix(s.folder, script.build+"/") {
			continue
		}
		if slices.ContainsFunc(s.Applies, func(n string) bool { return slices.Contains(names, n) }) && !slices.Contains(out, s.folder) {
			out = append(out, s.folder)
		}
	}
	slices.Sort(out)
	return out
}
