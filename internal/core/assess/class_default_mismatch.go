package assess

import (
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/resolve"
	"wexo/internal/core/version"
)

var defaultMismatch = Class{
	"default-mismatch", 2, Note, "Default mismatch", "Default", "default",
	"on a machine where nothing follows version files, PATH runs another version than the one that repositories pin; told once for a tool and what PATH runs",
	nil, // judged machine by machine
}

// pathed is what PATH runs of a tool on some machines, with the repositories whose pins ask
// for something else.
type pathed struct {
	tool     *catalogue.Tool
	version  string
	machines resolve.Machines
	pinned   []*Prepared
	asked    []string // what they pin, each text once
}

// defaults finds what terminals would run by themselves where pins ask for another version,
// and have one there. Where the first on PATH passes calls on, it is what follows pins.
func defaults(results []*Result, fleet *resolve.Fleet) []*pathed {
	var out []*pathed
	at := map[string]*pathed{}
	for _, r := range results {
		part := fleet.Among(r.Among)
		for n, s := range r.Subjects {
			j := r.Judged[n]
			if len(j.Resolved.Pins) == 0 || s.Apart {
				continue
			}
			pin := &j.Resolved.Pins[0]
			if unreadable(pin) || pin.Brings || pin.System {
				continue
			}
			for _, c := range part.Of(s.Tool).Classes {
				number, text, direct := c.OnPath()
				o := j.Resolved.Comes(c.Machines.First())
				if !direct || number.IsZero() || o == nil || o.State != resolve.Met || o.DecidedBy == resolve.ByOverride || o.Starts != "" || sameNumbers(number, o.Number) {
					continue
				}
				key := s.Tool.Name + "\x00" + text
				p := at[key]
				if p == nil {
					p = &pathed{tool: s.Tool, version: text}
					at[key], out = p, append(out, p)
				}
				p.add(c.Machines, r.Prepared, pin.Raw)
			}
		}
	}
	for _, p := range out { // the order in which repositories come decides nothing
		slices.SortFunc(p.pinned, func(a, b *Prepared) int { return strings.Compare(a.Name, b.Name) })
		slices.Sort(p.asked)
	}
	return out
}

func (p *pathed) add(m resolve.Machines, r *Prepared, asked string) {
	p.machines = p.machines.And(m)
	if len(p.pinned) == 0 || p.pinned[len(p.pinned)-1] != r {
		p.pinned = append(p.pinned, r)
	}
	for _, known := range p.asked {
		if known == asked {
			return
		}
	}
	p.asked = append(p.asked, asked)
}

// finding is what is told of it.
func (p *pathed) finding(fleet *resolve.Fleet) *Finding {
	v := &Verdict{Class: &defaultMismatch, Machines: p.machines, Cause: p.version, Near: []Run{{Release: Release{Version: p.version}, Machines: p.machines}},
		Pinned: p.pinned, Reason: strings.Join(p.asked, "\x00"), Root: Cause{Class: &defaultMismatch, Tool: p.tool, About: p.version}}
	f := &Finding{Class: v.Class, Severity: v.Class.Severity, Repository: &Prepared{}, Among: fleet.Everyone(), Tool: p.tool, Machines: v.Machines, Verdict: v}
	f.Fingerprint = f.fingerprint(v.Cause)
	return f
}

// sameNumbers reports whether two versions differ in nothing but labels.
func sameNumbers(a, b version.Version) bool { return a.Compare(b) == 0 }
