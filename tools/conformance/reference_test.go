package conformance

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"

	"wexo/internal/core/version"
)

// question asks for the order of two versions, or whether a version is in a range.
type question struct {
	kind string // "order" or "range"
	x, y string
}

// reference is one implementation to agree with.
type reference struct {
	name     string
	scheme   string // for orders
	dialect  string // for ranges
	generate func(g *generator) question
	ask      func(questions []question) ([]string, error)
	// decide gives the reason why Wexo answers otherwise on purpose; "" where it does not.
	decide func(q question, theirs, ours string) string
	// circles tells that the reference's order is known to run in circles; differences
	// that it contradicts itself on are then decided. See circle.go.
	circles bool
}

// difference is a question with both answers.
type difference struct {
	question
	theirs, ours string
}

func (d difference) String() string {
	return fmt.Sprintf("%s %q %q: they say %s, Wexo %s", d.kind, d.x, d.y, d.theirs, d.ours)
}

type result struct {
	asked, telling, refused int
	decided                 map[string][]difference
	differ                  []difference
}

func (r *result) decidedCount() int {
	n := 0
	for _, list := range r.decided {
		n += len(list)
	}
	return n
}

func (r *result) reasons() []string { return slices.Sorted(maps.Keys(r.decided)) }

// run asks the reference and Wexo the same questions.
func (r reference) run(pairs int, seed uint64) (result, error) {
	g := &generator{rand.New(rand.NewPCG(seed, 20))}
	questions := make([]question, pairs)
	for i := range questions {
		questions[i] = r.generate(g)
	}
	theirs, err := r.ask(questions)
	if err != nil {
		return result{}, err
	}
	if len(theirs) != len(questions) {
		return result{}, fmt.Errorf("%d answers to %d questions", len(theirs), len(questions))
	}
	out := result{asked: pairs, decided: map[string][]difference{}}
	for i, q := range questions {
		ours := r.ours(q)
		switch theirs[i] {
		case "error":
			out.refused++
		case "true", "-1", "1":
			out.telling++
		}
		if ours == theirs[i] {
			continue
		}
		d := difference{q, theirs[i], ours}
		if r.decide != nil {
			if reason := r.decide(q, theirs[i], ours); reason != "" {
				out.decided[reason] = append(out.decided[reason], d)
				continue
			}
		}
		out.differ = append(out.differ, d)
	}
	if r.circles {
		return r.withoutCircles(out)
	}
	return out, nil
}

// ours is Wexo's answer in the words of the references.
func (r reference) ours(q question) string {
	if q.kind == "order" {
		a, errA := r.read(q.x)
		b, errB := r.read(q.y)
		if errA != nil || errB != nil {
			return "error"
		}
		return fmt.Sprint(a.Compare(b))
	}
	set, err := version.ParseRange(r.dialect, version.NoScheme, q.x)
	if err != nil {
		return "error"
	}
	v, err := version.ParseVersion(r.dialect, q.y)
	if err != nil {
		return "error"
	}
	return fmt.Sprint(set.Contains(v))
}

// read reads a version by the scheme, or as strictly as the dialect does.
func (r reference) read(text string) (version.Version, error) {
	if r.scheme == "" {
		return version.ParseVersion(r.dialect, text)
	}
	scheme, _ := version.SchemeNamed(r.scheme)
	return scheme.Parse(text)
}
