package reading

import (
	"fmt"
	"io/fs"
	"path"
	"regexp"
	"slices"
	"strings"

	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

// combine puts together what the files say: what is nothing but a version gets its tool,
// references are followed, nearer settings beat farther ones, rules beat what is built in.
func (p *pass) combine() {
	out := &p.reading
	out.Uses = p.uses
	shown, pointed := p.shown(), p.pointed()
	for _, s := range p.scans {
		p.report(s.Problems...)
		if s.Bare != nil {
			p.attribute(s, shown, pointed)
		}
		p.budget.Spend(document.LookCost * len(s.Claims))
		for _, c := range s.Claims {
			if strings.Contains(c.Raw, "${") && s.Names != nil {
				p.refer(&c, s)
			}
			if c.Reading == "path" {
				c.Inside = p.inside(c.Folder, c.Raw)
			}
			out.Claims = append(out.Claims, c)
		}
	}
	p.switchOff()
	p.followed()
	p.follow(pointed)
	p.environments()
	p.built()
	p.conventions()
	p.workspaces()
	p.nearest()
	p.betterComponents()
	p.preferRules()
	p.purposeful()
	p.once()
	p.alternatives()
	p.rivals()
	p.mentions()
}

// followed marks what a pipeline sets up beside a job of its that follows the repository's own
// statement: it does so on purpose.
func (p *pass) followed() {
	says, setups := map[string]bool{}, map[string][]*claim.Claim{}
	for i := range p.reading.Claims {
		c := &p.reading.Claims[i]
		says[c.File] = true
		if c.Role == claim.Setup {
			setups[c.File] = append(setups[c.File], c)
		}
	}
	for _, s := range p.scans {
		for _, r := range s.Reads {
			if !says[r.File] {
				continue
			}
			p.budget.Spend(document.StepCost * len(setups[s.file]))
			for _, c := range setups[s.file] {
				if c.Tool == r.Tool && c.Purpose == "" {
					c.Purpose = "beside it " + r.By + " follows " + r.File
				}
			}
		}
	}
}

// purposeful lets purposes stand only where there is something beside which they stand: where all
// that is set up of a tool is called after its version, that is what the project runs on. A default
// that is set to something else where the file is built is never what it runs on.
func (p *pass) purposeful() {
	other := map[string]bool{}
	for i := range p.reading.Claims {
		c := &p.reading.Claims[i]
		if c.Role == claim.Pin || c.Role == claim.Setup && c.Purpose == "" {
			other[c.Tool] = true
		}
	}
	for i := range p.reading.Claims {
		if c := &p.reading.Claims[i]; !other[c.Tool] && c.Why != unusedDefault {
			c.Purpose = ""
		}
	}
}

// switchOff takes from claims in the folders of files that say so that what they ask for is
// fetched.
func (p *pass) switchOff() {
	off := map[toolIn]bool{}
	for _, s := range p.scans {
		for _, tool := range s.Off {
			off[toolIn{tool, s.folder}] = true
		}
	}
	for i := range p.reading.Claims {
		if c := &p.reading.Claims[i]; len(off) > 0 && c.Fetched && around(off, c.Tool, c.Folder) {
			c.Fetched = false
		}
	}
}

// toolIn is a tool in a folder.
type toolIn struct{ tool, folder string }

// around reports whether something holds of a tool in a folder, or in one above it.
func around(of map[toolIn]bool, tool, folder string) bool {
	for ; ; folder = claim.Above(folder) {
		if of[toolIn{tool, folder}] {
			return true
		}
		if folder == "" {
			return false
		}
	}
}

// once tells of unclaimed files that are called the same, and of which nothing but their names is
// known, as of one: one line settles them.
func (p *pass) once() {
	type alike struct {
		name  string
		apart bool
	}
	first := map[alike]int{}
	more := map[int]int{}
	var out []claim.Problem
	for _, one := range p.reading.Problems {
		if one.Kind != claim.Unclaimed || one.Stranger || !strings.Contains(one.Reason, "nothing but a version") {
			out = append(out, one)
			continue
		}
		key := alike{path.Base(one.File), strings.Contains("/"+one.Folder, "/.")}
		if at, known := first[key]; known {
			more[at]++
			continue
		}
		first[key] = len(out)
		out = append(out, one)
	}
	for at, n := range more {
		one := &out[at]
		files := "files are"
		if n == 1 {
			files = "file is"
		}
		one.Reason += fmt.Sprintf("; %d more %s called so", n, files)
		one.Settle = strings.Replace(one.Settle, quoted(one.File), quoted(path.Base(one.File)), 1)
	}
	p.reading.Problems = out
}

// refer replaces ${names} in a claim's text by what the file, or a file it inherits from,
// defines, at most eight deep.
func (p *pass) refer(c *claim.Claim, s scanned) {
	for range 8 {
		changed := false
		text := referring.ReplaceAllStringFunc(c.Raw, func(ref string) string {
			d, file, ok := p.definition(ref[2:len(ref)-1], s)
			if !ok || len(c.Raw)+len(d.Text) > 1024 {
				return ref
			}
			changed = true
			c.Given = &claim.Place{Name: ref[2 : len(ref)-1], File: file, Line: d.Line, Column: d.Column}
			return d.Text
		})
		if !changed || text == c.Raw {
			return
		}
		c.Raw = text
	}
}

// definition looks a name up in a file, then in the files it inherits from.
func (p *pass) definition(name string, s scanned) (scan.Named, string, bool) {
	for range 16 {
		if d, ok := s.Names[name]; ok {
			return d, s.file, true
		}
		if s.Parent == "" {
			return scan.Named{}, "", false
		}
		at, ok := p.defining()[path.Join(path.Dir(s.file), s.Parent)]
		if !ok {
			return scan.Named{}, "", false
		}
		s = p.scans[at]
	}
	return scan.Named{}, "", false
}

// defining finds the files that define names, by their path and by their folder's.
func (p *pass) defining() map[string]int {
	if p.definers != nil {
		return p.definers
	}
	p.definers = map[string]int{}
	for i, s := range p.scans {
		if s.Names == nil {
			continue
		}
		for _, at := range []string{s.file, path.Dir(s.file)} {
			if _, taken := p.definers[at]; !taken {
				p.definers[at] = i
			}
		}
	}
	return p.definers
}

// workspaces lets the settings of a workspace file hold in the folders it lists.
func (p *pass) workspaces() {
	var more []claim.Claim
	for _, s := range p.scans {
		if len(s.Holds) == 0 {
			continue
		}
		p.budget.Spend(document.StepCost * len(p.reading.Claims))
		for i := range p.reading.Claims {
			c := &p.reading.Claims[i]
			if c.File != s.file || c.Scope != "workspace" {
				continue
			}
			for n, at := range s.Holds {
				folder := path.Join(path.Dir(s.file), at)
				if folder == "." {
					folder = ""
				}
				if !fs.ValidPath(dot(folder)) || n >= 64 {
					continue
				}
				if n == 0 {
					c.Folder = folder
				} else {
					copied := *c
					copied.Folder = folder
					more = append(more, copied)
				}
			}
		}
	}
	p.reading.Claims = append(p.reading.Claims, more...)
}

var scopes = []string{"user", "workspace", "folder"}

// nearest marks wirings that a nearer file beats: the same setting for the same folder.
func (p *pass) nearest() {
	type key struct{ tool, setting, folder string }
	best := map[key]*claim.Claim{}
	for i := range p.reading.Claims {
		c := &p.reading.Claims[i]
		if c.Role != claim.Wiring || c.Setting == "" {
			continue
		}
		k := key{c.Tool, c.Setting, c.Folder}
		if c.Scope == "user" {
			continue
		}
		other := best[k]
		if other == nil || slices.Index(scopes, c.Scope) > slices.Index(scopes, other.Scope) {
			best[k] = c
		}
	}
	for i := range p.reading.Claims {
		c := &p.reading.Claims[i]
		if c.Role != claim.Wiring || c.Setting == "" {
			continue
		}
		if other := best[key{c.Tool, c.Setting, c.Folder}]; other != nil && other.Scope != c.Scope {
			c.Beaten = fmt.Sprintf("%s:%d", other.File, other.Line)
		}
	}
}

// betterComponents leaves out what a manifest says of a framework where a lock file
// beside it names the version itself.
func (p *pass) betterComponents() {
	type key struct{ component, folder string }
	locked := map[key]bool{}
	for _, c := range p.reading.Claims {
		if c.Role == claim.Component && c.Dialect == "plain" {
			locked[key{c.Component, c.Folder}] = true
		}
	}
	p.reading.Claims = slices.DeleteFunc(p.reading.Claims, func(c claim.Claim) bool {
		return c.Role == claim.Component && c.Dialect != "plain" && locked[key{c.Component, c.Folder}]
	})
}

// preferRules drops what is built in where a rule of the user's speaks of the same file.
func (p *pass) preferRules() {
	ruled := map[string]bool{}
	for _, c := range p.reading.Claims {
		if c.Recognised == claim.Rule {
			ruled[c.File+"\x00"+c.Tool] = true
			ruled[c.File] = true
		}
	}
	if len(ruled) == 0 {
		return
	}
	p.reading.Claims = slices.DeleteFunc(p.reading.Claims, func(c claim.Claim) bool { return c.Recognised != claim.Rule && ruled[c.File+"\x00"+c.Tool] })
	p.reading.Problems = slices.DeleteFunc(p.reading.Problems, func(f claim.Problem) bool { return f.Kind == claim.Unclaimed && ruled[f.File] })
}

var referring = regexp.MustCompile(`\$\{([^}]+)\}`)
