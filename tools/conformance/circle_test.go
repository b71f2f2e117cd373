package conformance

import "strings"

// A reference whose order runs in a circle cannot be agreed with everywhere. A
// difference is put down to that only where it is shown: the reference says a < b, and
// yet a >= w >= b for some third version w.
const circleReason = "their order runs in a circle through a third version"

// pair is an order question on which the reference may contradict itself.
type pair struct{ a, b string }

// withoutCircles moves the differences that rest on circles to the decided ones.
func (r reference) withoutCircles(out result) (result, error) {
	var pairs []pair
	from := make([]int, len(out.differ)+1) // where each difference's pairs begin
	for i, d := range out.differ {
		from[i] = len(pairs)
		pairs = append(pairs, pairsOf(d.question)...)
	}
	from[len(out.differ)] = len(pairs)
	circular, err := r.circular(pairs)
	if err != nil {
		return out, err
	}
	var left []difference
	for i, d := range out.differ {
		found := false
		for n := from[i]; n < from[i+1]; n++ {
			found = found || circular[n]
		}
		if found {
			out.decided[circleReason] = append(out.decided[circleReason], d)
		} else {
			left = append(left, d)
		}
	}
	out.differ = left
	return out, nil
}

// pairsOf are the versions that a question makes the reference compare.
func pairsOf(q question) []pair {
	if q.kind == "order" {
		return []pair{{q.x, q.y}}
	}
	versions := append(strings.FieldsFunc(q.x, func(r rune) bool { return strings.ContainsRune("[](), ", r) }), q.y)
	var out []pair
	for i, a := range versions {
		for _, b := range versions[i+1:] {
			out = append(out, pair{a, b})
		}
	}
	return out
}

// circular asks, for each pair, whether a third version lies on the wrong side.
func (r reference) circular(pairs []pair) ([]bool, error) {
	var questions []question
	type span struct {
		pair
		witnesses int
	}
	var spans []span
	for _, p := range pairs {
		questions = append(questions, question{"order", p.a, p.b})
		witnesses := append(beginnings(p.a), beginnings(p.b)...)
		for _, w := range witnesses {
			questions = append(questions, question{"order", p.a, w}, question{"order", w, p.b})
		}
		spans = append(spans, span{p, len(witnesses)})
	}
	if len(questions) == 0 {
		return nil, nil
	}
	answers, err := r.ask(questions)
	if err != nil {
		return nil, err
	}
	out := make([]bool, len(spans))
	at := 0
	for i, s := range spans {
		direct := answers[at]
		at++
		for range s.witnesses {
			first, second := answers[at], answers[at+1]
			at += 2
			switch {
			case direct == "-1" && first != "-1" && second != "-1",
				direct == "1" && first != "1" && second != "1",
				direct == "0" && (first == "0") != (second == "0"),
				direct == "0" && first != "0" && first == second:
				out[i] = true
			}
		}
	}
	return out, nil
}

// beginnings are a version's beginnings at its separators, plain and continued.
func beginnings(text string) []string {
	out := []string{"0"}
	for i := 1; i < len(text); i++ {
		if strings.IndexByte(".-", text[i]) >= 0 || text[i-1] >= '0' && text[i-1] <= '9' != (text[i] >= '0' && text[i] <= '9') {
			out = append(out, text[:i], text[:i]+"-1", text[:i]+"-alpha", text[:i]+"-sp", text[:i]+".0")
		}
	}
	return append(out, text+"-1", text+"-alpha")
}
