package reading

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"wexo/internal/core/claim"
	"wexo/internal/core/nearest"
)

// alternatives keeps of the bounds with which one file names several tools of which a project
// uses one only those of the tools that something else in the folder shows to be used: the others
// say with what it works too.
func (p *pass) alternatives() {
	for _, group := range p.catalogue.Places().Rivals {
		used := p.used(group.Locks)
		named := map[string][]*claim.Claim{} // by file
		for i := range p.reading.Claims {
			c := &p.reading.Claims[i]
			tool, known := p.catalogue.Tool(c.Tool)
			if !known || !c.Alternate || c.Role != claim.Bound || !slices.Contains(group.Tools, c.Tool) {
				continue
			}
			if _, err := c.Want(tool); err != nil { // a word in place of a range keeps a tool out
				c.Role, c.Certainty, c.Why = claim.Tested, claim.Low, "no range: it asks for another tool"
				continue
			}
			named[c.File] = append(named[c.File], c)
		}
		for _, list := range named {
			if !slices.ContainsFunc(list, func(c *claim.Claim) bool { return c.Tool != list[0].Tool }) {
				continue
			}
			for _, c := range list {
				if !around(used, c.Tool, c.Folder) {
					c.Role, c.Certainty, c.Why = claim.Tested, claim.Medium, "one of several tools that the file names, of which a project uses one"
				}
			}
		}
	}
}

// used are the folders in which a pin, or a lock file, shows that one of rival tools is the one
// that is used.
func (p *pass) used(locks map[string]string) map[toolIn]bool {
	out := map[toolIn]bool{}
	for i := range p.reading.Claims {
		if c := &p.reading.Claims[i]; c.Role == claim.Pin {
			out[toolIn{c.Tool, c.Folder}] = true
		}
	}
	for _, l := range p.lockFiles(locks) {
		out[toolIn{l.tool, l.folder}] = true
	}
	return out
}

// lockFile is a file that one of rival tools wrote.
type lockFile struct{ tool, folder, file string }

func (p *pass) lockFiles(locks map[string]string) []lockFile {
	var out []lockFile
	for _, s := range p.scans {
		if tool := locks[path.Base(s.file)]; tool != "" {
			out = append(out, lockFile{tool, claim.Above(s.file), s.file})
		}
	}
	return out
}

// rivals tells of folders in which two tools are at work of which a project uses one: each writes
// its own lock file, and installs what that one says.
func (p *pass) rivals() {
	for _, group := range p.catalogue.Places().Rivals {
		seen := map[string]lockFile{}
		for _, l := range p.lockFiles(group.Locks) {
			first, known := seen[l.folder]
			if !known {
				seen[l.folder] = l
				continue
			}
			if first.tool != l.tool {
				p.rival(l.folder, first.file, l.file, first.tool, l.tool)
			}
		}
		for _, c := range p.reading.Claims {
			l, locked := seen[c.Folder]
			if c.Role == claim.Pin && locked && c.Tool != l.tool && slices.Contains(group.Tools, c.Tool) && slices.Contains(group.Manifests, path.Base(c.File)) {
				p.rival(c.Folder, fmt.Sprintf("%s:%d", c.File, c.Line), l.file, c.Tool, l.tool)
			}
		}
	}
}

func (p *pass) rival(folder, first, second, one, other string) {
	titles := make([]string, 0, 2)
	for _, name := range []string{one, other} {
		if t, ok := p.catalogue.Tool(name); ok {
			titles = append(titles, t.Title)
		}
	}
	file, line, _ := strings.Cut(first, ":")
	at := 0
	_, _ = fmt.Sscanf(line, "%d", &at) // no line is meant where there is none
	p.report(claim.Problem{Kind: claim.Rival, Folder: folder, File: file, Line: at,
		Reason: fmt.Sprintf("%s is of %s, and %s of %s", first, titles[0], second, titles[1]), Raw: nearest.Listed([]string{first, second}, "and")})
}
