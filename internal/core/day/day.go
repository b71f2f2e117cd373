// Package day is the day of a judgement. Whoever judges asks the day instead of comparing
// dates, and the day remembers between which dates every answer it gave stays the same: so
// a verdict knows how long it holds without anybody working it out a second time.
package day

import "time"

// Day is a day that is asked of. It is used by one goroutine at a time.
type Day struct {
	at   time.Time
	span Span
}

// On is the day of a time, in UTC.
func On(t time.Time) *Day {
	t = t.UTC()
	return &Day{at: time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC)}
}

// Time is the beginning of the day. What is decided by it is not remembered.
func (d *Day) Time() time.Time { return d.at }

// Reached reports whether t is that day or an earlier one.
func (d *Day) Reached(t time.Time) bool {
	if d.at.Before(t) {
		if d.span.Until.IsZero() || t.Before(d.span.Until) {
			d.span.Until = t
		}
		return false
	}
	if t.After(d.span.Since) {
		d.span.Since = t
	}
	return true
}

// Note takes over what another day of the same date remembers.
func (d *Day) Note(s Span) { d.span = d.span.And(s) }

// Span is between which dates everything that was asked is answered the same.
func (d *Day) Span() Span { return d.span }

// Span is the days from Since on and before Until. A zero Until is no end.
type Span struct{ Since, Until time.Time }

// Holds reports whether the day of t lies in the span.
func (s Span) Holds(t time.Time) bool {
	return !t.Before(s.Since) && (s.Until.IsZero() || t.Before(s.Until))
}

// And is what both spans hold.
func (s Span) And(o Span) Span {
	if o.Since.After(s.Since) {
		s.Since = o.Since
	}
	if !o.Until.IsZero() && (s.Until.IsZero() || o.Until.Before(s.Until)) {
		s.Until = o.Until
	}
	return s
}
