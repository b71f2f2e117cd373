package assess

import (
	"context"
	"slices"
	"strings"
	"time"

	"wexo/internal/core/claim"
	"wexo/internal/core/day"
	"wexo/internal/core/policy"
	"wexo/internal/core/resolve"
)

// Reconciling finds joint answers for folders of judged repositories. What many folders have
// in common is answered once. It is used by one goroutine at a time.
type Reconciling struct {
	facts   *Facts
	decided policy.Policy
	fleet   *resolve.Fleet
	on      time.Time
	known   map[caseOn]*Joint

	of   *Result // that was looked at last, with what ties its folders
	tied *tying
}

// caseOn is a case with the machines that matter.
type caseOn struct {
	*ViewCase
	fleet *resolve.Fleet
}

// Reconciling prepares joint answers for a fleet and a day.
func (f *Facts) Reconciling(decided policy.Policy, fleet *resolve.Fleet, on time.Time) *Reconciling {
	return &Reconciling{facts: f, decided: decided, fleet: fleet, on: on, known: map[caseOn]*Joint{}}
}

// Folder is the joint answer of a folder, or of the nearest one above that anything is said
// of; nil where there is none.
func (k *Reconciling) Folder(r *Result, folder string) (*Viewed, *Joint) {
	for {
		if v := viewOf(r.Prepared, folder); v != nil {
			return k.view(r, v)
		}
		if folder == "" {
			return nil, nil
		}
		folder = claim.Above(folder)
	}
}

// Each gives the joint answer of every folder in which something of its own stands, but for
// those that count apart, until ctx ends.
func (k *Reconciling) Each(ctx context.Context, r *Result, do func(*Viewed, *Joint)) {
	for _, v := range r.Views {
		if ctx.Err() != nil {
			return
		}
		if r.apart.holds(v.Folder) {
			continue
		}
		if viewed, joint := k.view(r, v); slices.ContainsFunc(viewed.Case.Tools, func(t ToolEnd) bool { return t.Own }) {
			do(viewed, joint)
		}
	}
}

// tying is what ties the folders of a repository, found once for all of them.
func (k *Reconciling) tying(r *Result) *tying {
	if k.of == r {
		return k.tied
	}
	t := k.facts.tying(&Prepared{Repository: r.Repository, Settings: r.Settings, Views: r.Views, Subjects: r.Subjects, apart: r.apart}, k.decided)
	t.places = make(map[*resolve.Subject]int, len(r.Subjects))
	for i, s := range r.Subjects {
		t.places[s.Subject] = i
	}
	k.of, k.tied = r, t
	return t
}

func viewOf(p *Prepared, folder string) *resolve.View {
	at, found := slices.BinarySearchFunc(p.Views, folder, func(v *resolve.View, f string) int { return strings.Compare(v.Folder, f) })
	if !found {
		return nil
	}
	return p.Views[at]
}

func (k *Reconciling) view(r *Result, v *resolve.View) (*Viewed, *Joint) {
	viewed := k.tying(r).whole(v)
	among := k.fleet.Among(r.Among)
	check := &viewCheck{ViewCase: viewed.Case, fleet: among, on: day.On(k.on)}
	for i, place := range viewed.places {
		check.tools = append(check.tools, r.Judged[place])
		check.toolings = append(check.toolings, among.Of(viewed.Tools[i].Tool))
		check.asked = append(check.asked, askedOf(r.Judged[place].Resolved))
	}
	at := caseOn{viewed.Case, among}
	if known := k.known[at]; known != nil {
		return viewed, known
	}
	k.known[at] = check.world().solve()
	return viewed, k.known[at]
}
