package survey

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"wexo/internal/core/assess"
	"wexo/internal/core/nearest"
	"wexo/internal/core/policy"
	"wexo/internal/core/unseen"
)

// idle are the findings of what in the configuration matches nothing that is there.
func (e *Estate) idle(j *Judgement) []*assess.Finding {
	file := cmp.Or(e.File, "wexo.yaml")
	machines := j.Everyone
	if machines == nil {
		for _, m := range j.Fleet.All() {
			machines = append(machines, m.Name())
		}
	}
	owned := make([]policy.Owned, len(j.entries))
	var bases []assess.Adopting
	for i, entry := range j.entries {
		owned[i] = policy.Owned{Called: policy.Called{Name: entry.Name, Path: entry.Path, Identity: entry.Identity}, Own: entry.Reading.Settings}
		bases = append(bases, assess.Adopting{Tags: entry.Settings.Tags, BuiltBy: entry.Settings.BuiltBy})
	}
	var out []*assess.Finding
	add := func(file string, line int, text, reason string) {
		out = append(out, assess.IdleFinding(file, line, text, reason, e.Policy.Settings, j.Fleet))
	}
	for _, i := range e.Policy.Idle(owned, machines) {
		if i.Near || !e.Part.leavesOut(i.Of) {
			add(file, i.Line, i.Text, i.Reason)
		} else {
			j.part = append(j.part, i.Line)
		}
	}
	rules := e.idleRules(j.entries)
	if e.Part.Repositories {
		j.part = append(j.part, rules...)
	} else {
		for _, line := range rules {
			add(file, line, "", "it changes nothing in any repository that is read")
		}
		if !e.Part.Machines {
			for _, b := range e.facts.IdleBaselines(bases, e.Policy) {
				add(b.File, b.Line, b.Group, "the baseline must be met by this group, and no machine and no repository belongs to it")
			}
		}
	}
	return out
}

func (p Part) leavesOut(of policy.IdleOf) bool {
	return of == policy.OfRepositories && p.Repositories || of == policy.OfMachines && p.Machines
}

// idleRules are the lines of rules of the configuration that changed what was read nowhere.
func (e *Estate) idleRules(entries []Entry) []int {
	applied := map[string]bool{}
	for _, entry := range entries {
		if entry.Unread != "" {
			return nil // it may have had a use for any
		}
		for _, ref := range entry.Applied {
			applied[ref] = true
		}
	}
	var out []int
	for _, at := range e.Rules.Places() {
		if !applied[at.Ref()] && !slices.Contains(out, at.Line) {
			out = append(out, at.Line)
		}
	}
	return out
}

// Gaps are what was not seen of the repositories, sorted.
func (j *Judgement) Gaps() []unseen.Gap {
	var out []unseen.Gap
	for _, r := range j.Reads {
		out = append(out, r.Gaps...)
	}
	out = append(out, j.OfMachines()...)
	unseen.Sort(out)
	return out
}

// partly tells of lines that match nothing of what is looked at, which is a part of the estate.
func partly(lines []int) string {
	const most = 8
	slices.Sort(lines)
	lines = slices.Compact(lines)
	var out []string
	for _, line := range lines[:min(len(lines), most)] {
		out = append(out, strconv.Itoa(line))
	}
	what := "the entries at lines " + nearest.Listed(out, "and")
	switch more := len(lines) - most; {
	case more > 0:
		what = fmt.Sprintf("the entries at lines %s and %d more", strings.Join(out, ", "), more)
	case len(lines) == 1:
		what = "the entry at line " + out[0]
		return what + " matches nothing of what is looked at here, which may be a part of the estate"
	}
	return what + " match nothing of what is looked at here, which may be a part of the estate"
}

// OfMachines are what was not matched of the inventories; and that there is none.
func (j *Judgement) OfMachines() []unseen.Gap {
	j.ofMachines()
	var out []unseen.Gap
	if len(j.part) > 0 {
		out = append(out, unseen.Gap{Kind: unseen.Unmatched, File: cmp.Or(j.estate.File, "wexo.yaml"), What: partly(j.part), Weight: unseen.Told})
	}
	machines := 0
	for _, m := range j.Fleet.All() {
		machines++
		for _, text := range m.Unmatched {
			out = append(out, unseen.Gap{Kind: unseen.Unmatched, What: fmt.Sprintf("the inventory of %s: %s", m.Name(), text), Weight: unseen.Told})
		}
	}
	if machines == 0 && len(j.Reads) > 0 {
		out = append(out, unseen.Gap{Kind: unseen.Missing, What: "no machine is known, so that nothing that is asked for is compared with what is installed", Weight: unseen.Open})
	}
	return out
}
