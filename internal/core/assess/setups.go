package assess

import (
	"fmt"
	"slices"

	"wexo/internal/core/resolve"
	"wexo/internal/core/version"
)

// setups reports pipelines and containers that set up nothing the pin asks for. Of a
// matrix it is enough that one value fits.
func (j *judge) setups(s Subject) {
	pins := s.Pins()
	if len(pins) == 0 || unreadable(pins[0]) {
		return
	}
	pin := pins[0]
	matrices := map[string][]resolve.Asked{}
	var order []string
	for _, a := range s.Setups() {
		if unreadable(a) {
			continue
		}
		key := fmt.Sprintf("%s:%d:%d", a.File, a.Line, a.Column)
		if a.OneOf != "" {
			key = a.File + " " + a.OneOf
		}
		if matrices[key] == nil {
			order = append(order, key)
		}
		matrices[key] = append(matrices[key], a)
	}
	for _, key := range order {
		values := matrices[key]
		all := version.None(s.Tool.Scheme())
		for _, a := range values {
			all = all.Unite(a.Set)
		}
		if !all.Overlaps(pin.Set) {
			j.setupApart(s, pin, values)
		}
	}
}

func (j *judge) setupApart(s Subject, pin resolve.Asked, values []resolve.Asked) {
	first := values[0]
	what := asks(s, first)
	if raws := different(values); len(raws) > 1 {
		what = s.Tool.Title + " " + list(raws)
	}
	values = values[:min(len(values), mostValues)]
	j.report(Finding{Class: ClaimsDisagree, Folder: s.Folder, Tool: s.Tool.Name, Machines: []string{},
		Message: fmt.Sprintf("%s sets up %s, but %s asks for %s: what is built and tested there is not what runs elsewhere.",
			at(first), what, at(pin), asks(s, pin)),
		Evidence: evidence(append([]resolve.Asked{pin}, values...)...),
		Remedy:   fmt.Sprintf("Set up %s in %s, or change the pin in %s.", asks(s, pin), at(first), at(pin))}, "setup")
}

// mostValues is how many values of a matrix a finding names.
const mostValues = 8

// different are the values of a matrix, each once.
func different(values []resolve.Asked) []string {
	var raws []string
	for _, v := range values {
		if !slices.Contains(raws, v.Raw) {
			raws = append(raws, v.Raw)
		}
	}
	if more := len(raws) - mostValues; more > 0 {
		raws = append(raws[:mostValues], fmt.Sprintf("%d others", more))
	}
	return raws
}
