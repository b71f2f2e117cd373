package assess

import (
	"context"
	"runtime"
	"slices"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"wexo/internal/core/claim"
	"wexo/internal/core/day"
	"wexo/internal/core/resolve"
)

// Judged is a case judged for a fleet, for as many days as its verdicts hold.
type Judged struct {
	Case     *Case
	Resolved *resolve.Resolved
	Verdicts []Verdict
	Span     day.Span
}

// Result is a repository judged for a fleet and a day. It is read-only, and shared between
// days on which nothing of it changes.
type Result struct {
	*Prepared
	Judged   []*Judged // of each subject
	Findings []*Finding
	Span     day.Span // the days for which all of it holds
}

// Judge judges one repository on a day. Before is an earlier result of it, or nil: it is
// given again where nothing has changed.
func Judge(p *Prepared, fleet *resolve.Fleet, on time.Time, before *Result) *Result {
	out := &Result{Prepared: p, Judged: make([]*Judged, len(p.Subjects))}
	for i, s := range p.Subjects {
		out.Judged[i] = judgeCase(s.Case, fleet.Of(s.Tool), on)
		out.Span = out.Span.And(out.Judged[i].Span)
	}
	if before != nil && before.Prepared == p && slices.Equal(before.Judged, out.Judged) {
		return before
	}
	out.findings()
	return out
}

// All judges repositories on a day, side by side. Before are earlier results in the same
// order, or nil.
func All(ctx context.Context, list []*Prepared, fleet *resolve.Fleet, on time.Time, before []*Result) ([]*Result, error) {
	out := make([]*Result, len(list))
	const part = 64
	var g errgroup.Group
	g.SetLimit(runtime.GOMAXPROCS(0))
	for start := 0; start < len(list); start += part {
		g.Go(func() error {
			for i := start; i < min(start+part, len(list)); i++ {
				var was *Result
				if i < len(before) {
					was = before[i]
				}
				out[i] = Judge(list[i], fleet, on, was)
			}
			return ctx.Err()
		})
	}
	return out, g.Wait()
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
	r := t.Remember(func() any { return &remembered{all: map[*Case][]*Judged{}} }).(*remembered)
	r.mu.Lock()
	for _, known := range r.all[c] {
		if known.Span.Holds(on) {
			r.mu.Unlock()
			return known
		}
	}
	r.mu.Unlock()
	asked := day.On(on)
	k := &check{Case: c, Tooling: t, on: asked}
	k.Resolved = t.Resolve(c.Question, asked)
	for _, class := range classes {
		if k.class = class; class.check != nil {
			class.check(k)
		}
	}
	out := &Judged{Case: c, Resolved: k.Resolved, Verdicts: k.verdicts, Span: asked.Span()}
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
// pin that holds for many folders is reported once, where it stands.
func (r *Result) findings() {
	at := map[string]*Finding{}
	add := func(f *Finding, cause string) {
		f.Repository = r.Prepared
		f.Fingerprint = f.fingerprint(cause)
		if first := at[f.Fingerprint]; first != nil {
			first.Machines = first.Machines.And(f.Machines)
			return
		}
		f.Severity = f.Class.Severity
		if decided, ok := r.Settings.Severity(f.Class.Name); ok {
			f.Severity = Severity(decided)
		}
		at[f.Fingerprint] = f
		r.Findings = append(r.Findings, f)
	}
	for i, s := range r.Subjects {
		verdicts := r.Judged[i].Verdicts
		for n := range verdicts {
			v := &verdicts[n]
			f := &Finding{Class: v.Class, Folder: s.Claim(v.Stands).Folder, Tool: s.Tool, Machines: v.Machines, Verdict: v, Subject: s}
			for _, ref := range v.Evidence {
				c := s.Claim(ref)
				f.Evidence = append(f.Evidence, Evidence{c.File, c.Line, c.Column, c.Raw})
			}
			add(f, v.Cause)
		}
	}
	for i := range r.Problems {
		p := &r.Problems[i]
		f := &Finding{Class: &fileUnreadable, Folder: p.Folder, Evidence: []Evidence{{p.File, p.Line, p.Column, p.Raw}}, Problem: p}
		if p.Kind == claim.Unclaimed {
			f.Class = &fileUnclaimed
		}
		add(f, p.Reason)
	}
	sortFindings(r.Findings)
}
