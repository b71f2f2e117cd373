package policy

import (
	"fmt"
	"slices"
	"strings"

	"wexo/internal/core/glob"
	"wexo/internal/core/nearest"
)

// Idle is a line of the estate's configuration that matches nothing of what is there.
type Idle struct {
	Line   int
	Text   string // what stands there
	Reason string
	Near   bool // something of a like name is there, so that it is most likely a mistake
	Of     IdleOf
}

// IdleOf is what an entry would have to match.
type IdleOf int

// What entries match.
const (
	OfRepositories IdleOf = iota
	OfMachines
)

// Owned is a repository with what it says of itself.
type Owned struct {
	Called
	Own Settings
}

// Idle are the entries that hold for no repository or no machine of those that there are; none
// where there is not one yet. What would be idle whatever is there was refused when the
// configuration was read.
func (p Policy) Idle(repositories []Owned, machines []string) []Idle {
	i := &idling{policy: p, machines: machines, used: make([]bool, len(p.Repositories))}
	for _, one := range repositories {
		i.repository(one)
	}
	if len(repositories) > 0 {
		i.entries()
	}
	if len(machines) == 0 {
		return i.out
	}
	for _, m := range p.Machines {
		if !slices.ContainsFunc(machines, func(name string) bool { return glob.Name(m.Name, name) }) {
			i.add(OfMachines, m.Line, m.Name, "no machine is called so", machines)
		}
	}
	i.groups()
	return i.out
}

// idling finds idle entries.
type idling struct {
	policy   Policy
	machines []string
	names    []string // of repositories
	tags     []string // that choose a policy
	own      []string // that repositories give themselves, and that choose none
	used     []bool   // of the policy's entries for repositories
	out      []Idle
}

func (i *idling) add(of IdleOf, line int, text, reason string, known []string) {
	near, is := nearest.To(text, known)
	if is {
		reason += fmt.Sprintf("; did you mean %q?", near)
	}
	i.out = append(i.out, Idle{line, text, reason, is, of})
}

// repository notes which entries hold for one.
func (i *idling) repository(one Owned) {
	i.names = append(i.names, one.Name)
	estate := i.policy.Settings
	for n, entry := range i.policy.Repositories {
		if !strings.HasPrefix(entry.Name, TagMark) && one.Is(entry.Name) {
			i.used[n], estate = true, estate.with(entry.Settings)
		}
	}
	tags := choosing(estate, one.Own.allowed(estate.Decides))
	for n, entry := range i.policy.Repositories {
		if tag, ok := strings.CutPrefix(entry.Name, TagMark); ok && slices.Contains(tags, tag) {
			i.used[n] = true
		}
	}
	for _, tag := range tags {
		if !slices.Contains(i.tags, tag) {
			i.tags = append(i.tags, tag)
		}
	}
	for _, tag := range one.Own.Tags {
		if !slices.Contains(i.own, tag) {
			i.own = append(i.own, tag)
		}
	}
}

// entries tells of those for repositories that hold for none.
func (i *idling) entries() {
	for n, entry := range i.policy.Repositories {
		tag, tagged := strings.CutPrefix(entry.Name, TagMark)
		switch {
		case i.used[n]:
		case !tagged:
			i.add(OfRepositories, entry.Line, entry.Name, "no repository is called so", i.names)
		case slices.Contains(i.own, tag):
			i.add(OfRepositories, entry.Line, entry.Name, "only repositories themselves say that they have this tag, and it chooses nothing unless repositories-decide allows tags", nil)
		default:
			i.add(OfRepositories, entry.Line, entry.Name, "no repository has this tag", slices.Concat(i.tags, i.own))
		}
	}
}

// groups tells of those by which repositories are built and in which no machine is.
func (i *idling) groups() {
	told := map[string]bool{}
	for _, s := range append([]Named{{Settings: i.policy.Settings}}, i.policy.Repositories...) {
		for _, tag := range s.BuiltBy {
			if !told[tag] && !i.policy.inGroup(tag, i.machines) {
				told[tag] = true
				i.add(OfMachines, s.BuiltByLine, tag, "repositories are built by this group, and no machine that is there belongs to it", nil)
			}
		}
	}
}

// inGroup reports whether one of some machines has a tag.
func (p Policy) inGroup(tag string, machines []string) bool {
	return slices.ContainsFunc(machines, func(name string) bool { return InGroup(p.Machines, name, tag) })
}

// MachineTags are the tags that machines may have.
func (p Policy) MachineTags() []string {
	var out []string
	for _, m := range p.Machines {
		for _, tag := range m.Tags {
			if !slices.Contains(out, tag) {
				out = append(out, tag)
			}
		}
	}
	return out
}
