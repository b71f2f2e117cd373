package assess

import (
	"cmp"
	"context"
	"runtime"
	"slices"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/day"
	"wexo/internal/core/policy"
	"wexo/internal/core/resolve"
	"wexo/internal/core/version"
)

// Judged is a case judged for a fleet, for as many days as its verdicts hold.
type Judged struct {
	Case     *Case
	Resolved *resolve.Resolved
	Verdicts []Verdict
	Lines    []*catalogue.Line // in use: that the pin names, and that would run
	Span     day.Span
	advised  *Advice // nil where none was asked for
}

// Told reports whether it is known of every machine what runs there, and something does:
// where it is not, or there is no machine, nothing found to be wrong is not yet sound.
func (j *Judged) Told() bool {
	return len(j.Resolved.Outcomes) > 0 && !slices.ContainsFunc(j.Resolved.Outcomes, func(o resolve.Outcome) bool { return o.State != resolve.Met && o.State != resolve.Unpinned })
}

// Result is a repository judged for a fleet and a day. It is read-only, and shared between
// days on which nothing of it changes.
type Result struct {
	*Prepared
	Judged   []*Judged     // of each subject
	Together []*ViewJudged // of each folder of which rules or baselines speak
	Findings []*Finding
	Among    resolve.Machines // that matter to it
	Span     day.Span         // the days for which all of it holds
	each     [][]*Finding     // of each subject, as its verdicts say
	views    [][]*Finding     // of each folder that is judged as one
}

// Untold is of how many folders and tools it cannot be told what runs on some machine, or
// nothing does; those that count apart, or come with another tool, are not among them.
func (r *Result) Untold() int {
	n := 0
	for i, j := range r.Judged {
		if !j.Told() && !r.Subjects[i].Apart && !j.Case.Brought {
			n++
		}
	}
	return n
}

// Earlier is what was judged before on the same or on another fleet, in the order of the
// repositories; of one that is new it holds nil.
type Earlier struct {
	Fleet   *resolve.Fleet
	Results []*Result
}

// All judges repositories on a day, side by side. What was judged earlier is given again
// where nothing has changed.
func All(ctx context.Context, list []*Prepared, fleet *resolve.Fleet, on time.Time, earlier Earlier) ([]*Result, error) {
	out := make([]*Result, len(list))
	now, then := estates(list, fleet), estates(list, earlier.Fleet)
	const part = 64
	var g errgroup.Group
	g.SetLimit(runtime.GOMAXPROCS(0))
	for start := 0; start < len(list); start += part {
		g.Go(func() error {
			j := &judging{now: now, then: then, on: on, seen: map[fleets]map[*catalogue.Tool]toolOf{}}
			for i := start; i < min(start+part, len(list)); i++ {
				var was *Result
				if i < len(earlier.Results) {
					was = earlier.Results[i]
				}
				out[i] = j.repository(list[i], was)
			}
			return ctx.Err()
		})
	}
	return out, g.Wait()
}

// fleets are the machines that matter to a repository, now and before.
type fleets struct{ now, before *resolve.Fleet }

// estate is a fleet with who matters to whom.
type estate struct {
	fleet *resolve.Fleet
	*relevance
}

// estates looks at a fleet for repositories, which are all of one policy; nil without a fleet.
func estates(list []*Prepared, fleet *resolve.Fleet) *estate {
	if fleet == nil {
		return nil
	}
	var groups []policy.Machines
	if len(list) > 0 {
		groups = list[0].groups
	}
	return &estate{fleet, newRelevance(fleet, groups)}
}

// among are the machines that matter to a repository; nil without a fleet.
func (e *estate) among(p *Prepared) *resolve.Fleet {
	if e == nil {
		return nil
	}
	return e.fleet.Among(e.of(p))
}

// judging judges some repositories, in one goroutine.
type judging struct {
	now, then *estate
	on        time.Time
	seen      map[fleets]map[*catalogue.Tool]toolOf
}

// toolOf is what the fleet has of a tool, and whether it had the same before.
type toolOf struct {
	*resolve.Tooling
	same bool
}

func (j *judging) tool(f fleets, t *catalogue.Tool) toolOf {
	tools := j.seen[f]
	if known, ok := tools[t]; ok {
		return known
	}
	out := toolOf{Tooling: f.now.Of(t)}
	out.same = f.before != nil && (f.before == f.now || f.before.Of(t) == out.Tooling)
	if tools == nil {
		tools = map[*catalogue.Tool]toolOf{}
		j.seen[f] = tools
	}
	tools[t] = out
	return out
}

// repository judges one. Before is an earlier result, or nil.
func (j *judging) repository(p *Prepared, before *Result) *Result {
	if before != nil && before.Prepared != p {
		before = nil
	}
	f := fleets{now: j.now.among(p), before: j.then.among(p)}
	if before != nil && before.Span.Holds(j.on) && (f.before == f.now || !p.looksAtMachines()) && !slices.ContainsFunc(p.Subjects, func(s *Subject) bool { return !j.tool(f, s.Tool).same }) && before.Among.Equal(f.now.Everyone()) {
		return before
	}
	out := &Result{Prepared: p, Among: f.now.Everyone(), Judged: make([]*Judged, len(p.Subjects))}
	for i, s := range p.Subjects {
		t := j.tool(f, s.Tool)
		if before != nil && t.same && before.Judged[i].Span.Holds(j.on) {
			out.Judged[i] = before.Judged[i]
		} else {
			out.Judged[i] = judgeCase(s.Case, t.Tooling, j.on)
		}
		out.Span = out.Span.And(out.Judged[i].Span)
	}
	for _, v := range p.Viewed {
		tools, toolings := make([]*Judged, len(v.places)), make([]*resolve.Tooling, len(v.places))
		for i, place := range v.places {
			tools[i], toolings[i] = out.Judged[place], j.tool(f, v.Tools[i].Tool).Tooling
		}
		one := judgeView(v.Case, tools, toolings, f.now, j.on)
		out.Together, out.Span = append(out.Together, one), out.Span.And(one.Span)
	}
	if before != nil && before.Among.Equal(out.Among) && slices.Equal(before.Judged, out.Judged) && slices.Equal(before.Together, out.Together) {
		return before
	}
	out.findings(before)
	return out
}

// looksAtMachines reports whether more of the machines matters than what would run.
func (p *Prepared) looksAtMachines() bool {
	return slices.ContainsFunc(p.Viewed, func(v *Viewed) bool { return v.Case.looksAtMachines() })
}

// remembered is what was judged of one tool on one fleet. It lives as long as the tooling.
type remembered struct {
	mu  sync.Mutex
	all map[*Case][]*Judged
}

// mostSpans is for how many spans of days a case's verdicts are kept.
const mostSpans = 12

// judgeCase judges a case, unless that was done for a span in which the day lies.
func judgeCase(c *Case, t *resolve.Tooling, on time.Time) *Judged {
	r := memoryOf(t)
	if known := r.known(c, on); known != nil {
		return known
	}
	asked := day.On(on)
	resolved := t.Resolve(c.Question, asked)
	out := carried(c, t, resolved, on)
	if out == nil {
		out = judge(c, t, resolved, asked)
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, known := range r.all[c] { // another goroutine was faster
		if known.Span.Holds(on) {
			return known
		}
	}
	list := r.all[c]
	if len(list) == mostSpans {
		list = list[1:]
	}
	r.all[c] = append(list[:len(list):len(list)], out)
	return out
}

// findings puts the verdicts of all subjects, and the problems of files, into findings. A
// pin that holds for many folders is reported once, where it stands. What an earlier
// result says of subjects of which nothing has changed is taken over.
func (r *Result) findings(before *Result) {
	r.each = make([][]*Finding, len(r.Subjects))
	at := make(map[string]int)
	add := func(f *Finding) {
		n, known := at[f.Fingerprint]
		if !known {
			at[f.Fingerprint] = len(r.Findings)
			r.Findings = append(r.Findings, f)
			return
		}
		both := *r.Findings[n] // it may belong to another result too
		both.Machines = both.Machines.And(f.Machines)
		r.Findings[n] = &both
	}
	for i, s := range r.Subjects {
		if before != nil && before.Judged[i] == r.Judged[i] {
			r.each[i] = before.each[i]
		} else {
			r.each[i] = r.subjectFindings(s, r.Judged[i].Verdicts)
		}
		for _, f := range r.each[i] {
			add(f)
		}
	}
	r.views = make([][]*Finding, len(r.Viewed))
	for i, v := range r.Viewed {
		if before != nil && before.Together[i] == r.Together[i] {
			r.views[i] = before.views[i]
		} else {
			r.views[i] = r.viewFindings(v, r.Together[i].Verdicts)
		}
		for _, f := range r.views[i] {
			add(f)
		}
	}
	for i := range r.Problems {
		add(r.problem(&r.Problems[i]))
	}
	sortFindings(r.Findings)
}

func (r *Result) subjectFindings(s *Subject, verdicts []Verdict) []*Finding {
	var out []*Finding
	for n := range verdicts {
		v := &verdicts[n]
		f := &Finding{Class: v.Class, Folder: s.Claim(v.Stands).Folder, Tool: s.Tool, Machines: v.Machines, Verdict: v, Subject: s}
		if v.Wide {
			f.Folder = s.Holds.Folder
		}
		f.Evidence = s.evidence(v.Evidence)
		r.finish(f, v.Cause)
		if v.Wide {
			f.Apart = s.Apart
		}
		f.Evidence = append(f.Evidence, s.evidence(v.Also)...)
		out = append(out, f)
	}
	return out
}

// viewFindings are what rules and baselines say of a folder.
func (r *Result) viewFindings(v *Viewed, verdicts []Verdict) []*Finding {
	var out []*Finding
	for n := range verdicts {
		one := &verdicts[n]
		f := &Finding{Class: one.Class, Folder: v.Folder, Tool: one.First, Machines: one.Machines, Verdict: one, View: v}
		for _, c := range v.Proof(one.Tied) {
			f.Evidence = append(f.Evidence, Evidence{c.File, c.Line, c.Column, c.Raw})
		}
		out = append(out, r.finish(f, one.Cause))
		if _, decided := r.Settings.Severity(f.Class.Name); one.Tied.Rule != nil && !decided {
			f.Severity = Severity(one.Tied.Rule.Severity)
		}
	}
	return out
}

func (r *Result) problem(p *claim.Problem) *Finding {
	f := &Finding{Class: &fileUnreadable, Folder: p.Folder, Evidence: []Evidence{{p.File, p.Line, p.Column, p.Raw}}, Problem: p}
	switch p.Kind {
	case claim.Unclaimed:
		f.Class = &fileUnclaimed
	case claim.Mistaken:
		f.Class = &rulesMistaken
	case claim.Idle:
		f.Class = &ruleIdle
	case claim.Rival:
		f.Class = &claimsDisagree
	}
	return r.finish(f, p.Reason)
}

// finish gives a finding its severity and fingerprint.
func (r *Result) finish(f *Finding, cause string) *Finding {
	f.Repository, f.Among, f.Apart = r.Prepared, r.Among, r.apart.holds(f.Folder)
	f.Fingerprint = f.fingerprint(cause)
	f.Severity = f.Class.Severity
	if f.Problem != nil && f.Problem.Kind == claim.Rival {
		f.Severity = Warning
	}
	if f.Verdict != nil {
		f.Severity = cmp.Or(f.Verdict.Severity, f.Severity)
	}
	f.weigh(r.Settings)
	return f
}

func memoryOf(t *resolve.Tooling) *remembered {
	return t.Remember(func() any { return &remembered{all: map[*Case][]*Judged{}} }).(*remembered)
}

func (r *remembered) known(c *Case, on time.Time) *Judged {
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, known := range r.all[c] {
		if known.Span.Holds(on) {
			return known
		}
	}
	return nil
}

// judge asks every class whether it holds.
func judge(c *Case, t *resolve.Tooling, r *resolve.Resolved, on *day.Day) *Judged {
	k := &check{Resolved: r, Case: c, Tooling: t, on: on}
	for _, class := range classes {
		if k.class = class; class.check != nil {
			class.check(k)
		}
	}
	for i := range k.verdicts {
		k.verdicts[i].Root = k.cause(&k.verdicts[i])
	}
	out := &Judged{Case: c, Resolved: r, Verdicts: k.verdicts, Lines: k.linesInUse(), advised: k.advised}
	out.Span = on.Span()
	return out
}

// sameAdvice reports whether what is advised is the same with what is installed now, and for
// as long. Where the same versions are there, only the one that most machines have may differ.
func sameAdvice(was *Judged, t, before *resolve.Tooling, r *resolve.Resolved, on time.Time) bool {
	asked := day.On(on)
	k := &check{Resolved: r, Case: was.Case, Tooling: t, on: asked}
	if t.SameLines(before) {
		return was.advised.Line == nil || k.exact(was.advised.Line, was.advised.within, was.advised.Build) == was.advised.Exact
	}
	return k.advice().same(was.advised) && was.Span.And(asked.Span()) == was.Span
}

// carried is what was judged before some machines changed, where their change cannot make
// a difference: what would run is the same, and nothing else of them was looked at.
func carried(c *Case, t *resolve.Tooling, r *resolve.Resolved, on time.Time) *Judged {
	changed, before := t.Changed()
	if before == nil || len(c.Pins) > 1 || len(c.Wirings) > 0 {
		return nil
	}
	was := memoryOf(before).known(c, on)
	if was == nil || was.Resolved != r || was.advised != nil && !sameAdvice(was, t, before, r, on) {
		return nil
	}
	for _, i := range changed {
		if t.Of[i] == nil {
			continue // it does not matter to it
		}
		o := r.Comes(i)
		if o == nil {
			return nil
		}
		near := r.Feasible
		if len(r.Pins) > 0 {
			near = r.Pins[0].Set
		}
		if !o.Runs() && (!sameUnusable(i, t, before) || !sameNear(near, i, t, before)) {
			return nil
		}
	}
	return was
}

// sameNear reports whether a machine has the same next to a set as it had before: that is
// looked at where nothing runs.
func sameNear(set version.Set, machine int, t, before *resolve.Tooling) bool {
	return slices.EqualFunc(t.Of[machine].Nearest(t.Beside(set)), before.Of[machine].Nearest(before.Beside(set)),
		func(a, b resolve.Held) bool {
			return a.Version == b.Version && a.Vendor == b.Vendor && a.Path == b.Path
		})
}

// sameUnusable reports whether what a machine has of no use is what it was.
func sameUnusable(machine int, t, before *resolve.Tooling) bool {
	return slices.EqualFunc(t.Of[machine].Unusable(), before.Of[machine].Unusable(), sameUse)
}
