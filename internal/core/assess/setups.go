package assess

import (
	"fmt"

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
	if len(values) > 1 {
		raws := make([]string, 0, len(values))
		for _, v := range values {
			raws = append(raws, v.Raw)
		}
		what = s.Tool.Title + " " + list(raws)
	}
	j.report(Finding{Class: ClaimsDisagree, Folder: s.Folder, Tool: s.Tool.Name, Machines: []string{},
		Message: fmt.Sprintf("%s sets up %s, but %s asks for %s: what is built and tested there is not what runs elsewhere.",
			at(first), what, at(pin), asks(s, pin)),
		Evidence: evidence(append([]resolve.Asked{pin}, values...)...),
		Remedy:   fmt.Sprintf("Set up %s in %s, or change the pin in %s.", asks(s, pin), at(first), at(pin))}, "setup")
}
