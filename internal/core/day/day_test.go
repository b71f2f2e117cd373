package day_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"wexo/internal/core/day"
)

func date(n int) time.Time { return time.Date(2026, 1, n, 0, 0, 0, 0, time.UTC) }

// TestASpanIsAllThatIsAnsweredTheSame: on every day of it every answer is as it was, and on
// the days beside it one is another.
func TestASpanIsAllThatIsAnsweredTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		asked := rapid.SliceOfN(rapid.IntRange(1, 60), 0, 6).Draw(t, "asked")
		answers := func(n int) (out []bool, span day.Span) {
			d := day.On(date(n).Add(7 * time.Hour))
			for _, a := range asked {
				out = append(out, d.Reached(date(a)))
			}
			return out, d.Span()
		}
		at := rapid.IntRange(1, 60).Draw(t, "day")
		want, span := answers(at)
		for n := range 62 {
			got, _ := answers(n)
			if span.Holds(date(n)) {
				assert.Equal(t, want, got, "day %d of %v", n, span)
			} else {
				assert.NotEqual(t, want, got, "day %d beside %v", n, span)
			}
		}
	})
}

// TestSpansTogether hold where both hold, and nowhere else.
func TestSpansTogether(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		some := rapid.Custom(func(t *rapid.T) day.Span {
			s := day.Span{Since: date(rapid.IntRange(0, 20).Draw(t, "since"))}
			if rapid.Bool().Draw(t, "ends") {
				s.Until = s.Since.AddDate(0, 0, rapid.IntRange(1, 20).Draw(t, "days"))
			}
			return s
		})
		a, b := some.Draw(t, "a"), some.Draw(t, "b")
		for n := range 45 {
			assert.Equal(t, a.Holds(date(n)) && b.Holds(date(n)), a.And(b).Holds(date(n)), "day %d of %v and %v", n, a, b)
		}
	})
}
