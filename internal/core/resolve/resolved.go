package resolve

import "wexo/internal/core/day"

// Resolved is a question resolved for a fleet, for as long as it holds. Machines that come
// to the same are together.
type Resolved struct {
	*Answer
	Outcomes []Outcome
	Span     day.Span
}

// Resolve resolves a question on a day, once for every class of machines. Where little has
// changed since an earlier fleet and nothing comes of it, the earlier answer is given.
func (t *Tooling) Resolve(q *Question, on *day.Day) *Resolved {
	known, was := t.known(q, on)
	if known != nil {
		on.Note(known.Span)
		return known
	}
	asked := day.On(on.Time())
	var out *Resolved
	if earlier := was.resolved(q, on); earlier != nil && t.same(earlier, was.changed, asked) {
		out = earlier
	} else {
		out = t.resolve(q, asked)
	}
	on.Note(out.Span)
	t.mu.Lock()
	defer t.mu.Unlock()
	list := t.answered[q]
	if len(list) == mostSpans {
		list = list[1:]
	}
	t.answered[q] = append(list[:len(list):len(list)], out)
	return out
}

func (t *Tooling) resolve(q *Question, on *day.Day) *Resolved {
	out := &Resolved{Answer: q.On(on)}
	narrowed := t.narrow(out.Answer, on)
	for _, c := range t.Classes {
		out.Outcomes = together(out.Outcomes, c.Machines, climb(out.Answer, narrowed, c, on, nil))
	}
	out.Span = on.Span()
	return out
}

// known is the answer for a day, where it was found before; otherwise the tooling before.
func (t *Tooling) known(q *Question, on *day.Day) (*Resolved, *before) {
	t.mu.Lock()
	defer t.mu.Unlock()
	for _, known := range t.answered[q] {
		if known.Span.Holds(on.Time()) {
			return known, nil
		}
	}
	return nil, t.before
}

func (b *before) resolved(q *Question, on *day.Day) *Resolved {
	if b == nil {
		return nil
	}
	known, _ := b.known(q, on)
	return known
}

// same reports whether the machines that have changed come to the same as in an earlier answer.
func (t *Tooling) same(r *Resolved, changed []int, on *day.Day) bool {
	narrowed := t.narrow(r.Answer, on)
	for _, i := range changed {
		if t.Of[i] == nil {
			continue
		}
		now := climb(r.Answer, narrowed, t.Of[i], on, nil)
		if was := r.Comes(i); was == nil || !was.like(&now) || was.Path != "" && was.Path != now.Path {
			return false
		}
	}
	return true
}

// OutcomeOf is what a class of machines comes to, with the path that is its own.
func (t *Tooling) OutcomeOf(r *Resolved, c *Class, on *day.Day) Outcome {
	return t.OutcomesOf(r, on)(c)
}

// OutcomesOf gives what each class of machines comes to, with the path that is its own.
func (t *Tooling) OutcomesOf(r *Resolved, on *day.Day) func(*Class) Outcome {
	narrowed := t.narrow(r.Answer, on)
	return func(c *Class) Outcome { return climb(r.Answer, narrowed, c, on, nil) }
}

// PinnedOf gives what the pins alone would lead to on each class of machines, whatever a variable
// says there.
func (t *Tooling) PinnedOf(r *Resolved, on *day.Day) func(*Class) Outcome {
	narrowed := t.narrow(r.Answer, on)
	return func(c *Class) Outcome {
		k := climbing{Answer: r.Answer, narrowed: narrowed, class: c, on: on}
		k.pins()
		return k.out
	}
}

// Comes is what the machine at a place comes to.
func (r *Resolved) Comes(machine int) *Outcome {
	for i := range r.Outcomes {
		if r.Outcomes[i].Machines.Has(machine) {
			return &r.Outcomes[i]
		}
	}
	return nil
}

// mostSpans is for how many spans of days an answer is kept.
const mostSpans = 12
