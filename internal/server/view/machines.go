package view

import (
	"slices"

	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/core/unseen"
)

// Standing is how a machine stands: how much of what it matters to can run on it.
type Standing struct {
	*inventory.Machine
	Repositories int // to which it matters
	Ready        int // of these, those that were seen whole and for which nothing is to be installed on it
	Broken       int // installations that do not work
}

// GroupStanding is how machines with one tag stand.
type GroupStanding struct {
	Tag, Title   string
	Machines     []string
	Repositories int // to which one of its machines matters
	Ready        int // of these, those that were seen whole and for which all that matter are ready
}

// Standings are how all machines and groups stand, in the fleet's order and in that of the tags.
func (v *View) Standings(decided policy.Policy) ([]Standing, []GroupStanding) {
	machines := make([]Standing, len(v.Judgement.Fleet.Machines))
	for i, m := range v.Judgement.Fleet.Machines {
		machines[i].Machine = m
		for _, in := range m.Inventory.Installations {
			if in.Health == "broken" {
				machines[i].Broken++
			}
		}
	}
	groups, of := v.groups(decided)
	for _, read := range v.Reads {
		if read.Unread != "" && len(read.Subjects) == 0 {
			continue
		}
		unready := read.Unready(v.Judgement.Fleet)
		if len(unseen.Blinding(read.Gaps)) > 0 {
			unready = read.Among
		}
		touched, failing := map[int]bool{}, map[int]bool{}
		for i := range read.Among.All() {
			machines[i].Repositories++
			if !unready.Has(i) {
				machines[i].Ready++
			}
			for _, g := range of[i] {
				touched[g] = true
				failing[g] = failing[g] || unready.Has(i)
			}
		}
		for g := range touched {
			groups[g].Repositories++
			if !failing[g] {
				groups[g].Ready++
			}
		}
	}
	return machines, groups
}

// groups are the tags that machines have, in the order in which they are decided, and of each
// machine the places of its own.
func (v *View) groups(decided policy.Policy) (groups []GroupStanding, of [][]int) {
	of = make([][]int, len(v.Judgement.Fleet.Machines))
	for i, m := range v.Judgement.Fleet.Machines {
		for _, tag := range decided.TagsOf(m.Name()) {
			g := slices.IndexFunc(groups, func(s GroupStanding) bool { return s.Tag == tag })
			if g < 0 {
				g = len(groups)
				groups = append(groups, GroupStanding{Tag: tag, Title: decided.TitleOf(tag)})
			}
			groups[g].Machines = append(groups[g].Machines, m.Name())
			of[i] = append(of[i], g)
		}
	}
	return groups, of
}
