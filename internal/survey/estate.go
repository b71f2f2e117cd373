package survey

import (
	"context"
	"slices"
	"sync"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/policy"
	"wexo/internal/core/remedy"
	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
	"wexo/internal/core/sentence"
	"wexo/internal/core/unseen"
	"wexo/internal/core/userrule"
	"wexo/internal/report"
)

// Estate judges repositories that were read: the one way in, for a survey of the command
// line, for the service and for the demo. It may be used from several goroutines.
type Estate struct {
	Policy policy.Policy
	Rules  userrule.Rules // of the configuration
	File   string         // the configuration, for what of it matches nothing; "wexo.yaml" where it is empty
	Part   Part
	Now    func() time.Time // by which machines are late that have not reported; nil expects none to
	facts  *assess.Facts
}

// Part says what of the estate is looked at: of what is only a part, entries of the
// configuration that match nothing are told where something of a like name is there.
type Part struct{ Repositories, Machines bool }

// NewEstate judges by a book of rules, its catalogue and a policy.
func NewEstate(b *rule.Book, p policy.Policy) *Estate {
	return &Estate{Policy: p, facts: assess.NewFacts(b)}
}

// Entry is a repository that was read, ready for judging.
type Entry struct {
	*assess.Prepared
	Notice string
	Unread string // why it could not be read at all; empty where it could
	// Plain is the repository without its own rules; nil where it has none.
	Plain *assess.Prepared
}

// Machine makes an inventory ready for judging.
func (e *Estate) Machine(inv inventory.Inventory) *inventory.Machine {
	return inventory.NewMachine(inv, e.facts.Catalogue)
}

// Catalogue is what it judges by.
func (e *Estate) Catalogue() *catalogue.Catalogue { return e.facts.Catalogue }

// Prepare makes a repository that was read ready for judging.
func (e *Estate) Prepare(r ReadRepository) Entry {
	out := Entry{e.facts.Prepare(r.Repository, e.Policy), r.Notice, r.Unread, nil}
	if len(r.Reading.Settings.Written) > 0 {
		plain := r.Repository
		if r.Reading.Plain != nil {
			plain.Reading = *r.Reading.Plain
		}
		plain.Reading.Settings = policy.Settings{}
		out.Plain = e.facts.Prepare(plain, e.Policy)
	}
	return out
}

// Paths are the paths that editors are pointed at, to be followed on this machine.
func Paths(entries []Entry) []string {
	var out []string
	for _, e := range entries {
		out = append(out, e.Paths()...)
	}
	return out
}

// Tools are the names of the tools that repositories speak of, sorted; never nil.
func Tools(entries []Entry) []string {
	out := []string{}
	seen := map[*catalogue.Tool]bool{}
	for _, e := range entries {
		for _, s := range e.Subjects {
			if !seen[s.Tool] {
				seen[s.Tool] = true
				out = append(out, s.Tool.Name)
			}
		}
	}
	slices.Sort(out)
	return out
}

// Folders are where the repositories lie.
func Folders(entries []Entry) []string {
	var out []string
	for _, e := range entries {
		out = append(out, e.Path)
	}
	return out
}

// Judgement is repositories judged against machines on a day. It is read-only; parts of it
// are shared with others of the same estate.
type Judgement struct {
	Fleet *resolve.Fleet
	Day   time.Time
	Reads []report.Read    // in the order of the entries
	plain []*assess.Result // of the entries without their own rules; nil of those that have none
	at    map[string]int
	tools []*catalogue.Tool
	late  map[int]time.Time // machines that have not reported in their time, and when they last did
	// Everyone are the machines of the estate, where the fleet is only some of them.
	Everyone []string
	estate   *Estate
	part     []int // lines of the configuration that match nothing of a part of the estate
	entries  []Entry

	once      sync.Once // for what is told of the machines
	serving   []*assess.Serving
	machinery []*assess.Finding
}

// Serving tells of every installation whom it serves.
func (j *Judgement) Serving() []*assess.Serving {
	j.ofMachines()
	return j.serving
}

// Needing asks what a machine needs for some of the repositories.
func (j *Judgement) Needing(results []*assess.Result, machine int) remedy.Question {
	m := j.Fleet.Machines[machine]
	return remedy.Question{Results: results, Serving: j.Serving(), Fleet: j.Fleet, Machine: machine, On: j.Day, Try: func(inv inventory.Inventory) *resolve.Fleet {
		other := j.estate.Machine(inv)
		other.Followed = m.Followed
		return j.estate.Fleet([]*inventory.Machine{other}, nil)
	}}
}

// Machinery is what is wrong with the machines themselves.
func (j *Judgement) Machinery() []*assess.Finding {
	j.ofMachines()
	return j.machinery
}

func (j *Judgement) ofMachines() {
	j.once.Do(func() {
		results := make([]*assess.Result, len(j.Reads))
		for i, r := range j.Reads {
			results[i] = r.Result
		}
		j.serving = assess.Machinery(results, j.Fleet, j.tools, j.Day)
		j.machinery = assess.MachineFindings(results, j.serving, j.Fleet, j.estate.Policy.Settings)
		j.machinery = append(j.machinery, j.estate.idle(j)...)
	})
}

// Fleet puts machines together for judging. Before is one that it replaces, or nil.
func (e *Estate) Fleet(machines []*inventory.Machine, before *resolve.Fleet) *resolve.Fleet {
	return resolve.NewFleet(machines, e.facts.Wants, before)
}

// Judge judges repositories. Before is an earlier judgement, or nil: what of it still holds
// is taken over.
func (e *Estate) Judge(ctx context.Context, entries []Entry, fleet *resolve.Fleet, on time.Time, before *Judgement) (*Judgement, error) {
	prepared := make([]*assess.Prepared, len(entries))
	var earlier assess.Earlier
	moved := before == nil || len(before.Reads) != len(entries)
	if before != nil {
		earlier = assess.Earlier{Fleet: before.Fleet, Results: make([]*assess.Result, len(entries))}
	}
	for i, entry := range entries {
		prepared[i] = entry.Prepared
		if before == nil {
			continue
		}
		if n, known := before.place(entry, i); known {
			earlier.Results[i] = before.Reads[n].Result
			moved = moved || n != i
		} else {
			moved = true
		}
	}
	results, err := assess.All(ctx, prepared, fleet, on, earlier)
	if err != nil {
		return nil, err
	}
	plain, err := judgePlain(ctx, entries, fleet, on, before)
	if err != nil {
		return nil, err
	}
	out := &Judgement{estate: e, entries: entries, plain: plain, Fleet: fleet, Day: on, tools: e.facts.Catalogue.Tools(), late: e.late(fleet), Reads: make([]report.Read, len(entries))}
	for i, entry := range entries {
		out.Reads[i] = report.Read{Result: results[i], Notice: entry.Notice, Unread: entry.Unread, Taken: results[i].Taken(plain[i]), Gaps: gaps(results[i], fleet)}
	}
	if !moved {
		out.at = before.at
		return out, nil
	}
	out.at = make(map[string]int, len(entries))
	for i, entry := range entries {
		out.at[entry.Name] = i
	}
	return out, nil
}

// gaps are what was not seen of a repository. That there is no machine at all is told once.
func gaps(r *assess.Result, fleet *resolve.Fleet) []unseen.Gap {
	out := r.Gaps()
	if fleet.Everyone().Len() > 0 {
		out = append(out, r.Undecided(fleet)...)
	}
	return out
}

// judgePlain judges the repositories that make rules for themselves as if they made none.
func judgePlain(ctx context.Context, entries []Entry, fleet *resolve.Fleet, on time.Time, before *Judgement) ([]*assess.Result, error) {
	out := make([]*assess.Result, len(entries))
	var which []int
	var prepared []*assess.Prepared
	var earlier assess.Earlier
	if before != nil {
		earlier.Fleet = before.Fleet
	}
	for i, entry := range entries {
		if entry.Plain == nil {
			continue
		}
		which, prepared = append(which, i), append(prepared, entry.Plain)
		var was *assess.Result
		if before != nil {
			if n, known := before.place(entry, i); known {
				was = before.plain[n]
			}
		}
		earlier.Results = append(earlier.Results, was)
	}
	results, err := assess.All(ctx, prepared, fleet, on, earlier)
	for n, result := range results {
		out[which[n]] = result
	}
	return out, err
}

// place is where an entry stands, which most often is where it stands among the new ones.
func (j *Judgement) place(entry Entry, guess int) (int, bool) {
	if guess < len(j.Reads) && j.Reads[guess].Name == entry.Name {
		return guess, true
	}
	n, known := j.at[entry.Name]
	return n, known
}

// Of is the judgement of one repository.
func (j *Judgement) Of(name string) (report.Read, bool) {
	i, known := j.at[name]
	if !known {
		return report.Read{}, false
	}
	return j.Reads[i], true
}

// Report is the judgement as a report.
func (j *Judgement) Report(version string) *report.Report {
	r := report.Build(version, j.Reads, j.Fleet, j.Day)
	r.Wording = j.Wording()
	r.OfMachines(j.Machinery())
	r.NotSeen(j.OfMachines())
	return r
}

// Wording puts the judgement into words.
func (j *Judgement) Wording() report.Wording {
	return report.Wording{Fleet: j.Fleet, Teller: sentence.For(j.Fleet, j.Day).Late(j.late)}
}

// Due is until when a machine is expected to report again; zero where nobody expects it.
func (e *Estate) Due(inv inventory.Inventory) time.Time {
	within := e.Policy.ReportsWithin(inv.Machine.Name, inv.Machine.Kind, inv.Every())
	if within == 0 || inv.TakenAt.IsZero() {
		return time.Time{}
	}
	return inv.TakenAt.Add(within)
}

// Late reports whether a machine has not reported in its time.
func (e *Estate) Late(inv inventory.Inventory) bool {
	due := e.Due(inv)
	return e.Now != nil && !due.IsZero() && e.Now().After(due)
}

// late are the machines that have not reported in their time.
func (e *Estate) late(fleet *resolve.Fleet) map[int]time.Time {
	if e.Now == nil {
		return nil
	}
	out := map[int]time.Time{}
	for i, m := range fleet.All() {
		if e.Late(m.Inventory) {
			out[i] = m.Inventory.TakenAt
		}
	}
	return out
}

// Reconciling finds joint answers for the folders of a judgement.
func (e *Estate) Reconciling(j *Judgement) *assess.Reconciling {
	return e.facts.Reconciling(e.Policy, j.Fleet, j.Day)
}

// Sizes tells how much of what is prepared is different.
func (e *Estate) Sizes() (wants, questions, cases int) { return e.facts.Sizes() }
