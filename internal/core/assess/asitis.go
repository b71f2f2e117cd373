package assess

import (
	"slices"

	"wexo/internal/core/claim"
	"wexo/internal/core/resolve"
)

// AsItIs is what PATH runs on a class of machines where a pin decides something else and nothing
// there follows version files; false where what is pinned runs, or something follows pins.
func AsItIs(r *resolve.Resolved, c *resolve.Class) (version string, differs bool) {
	number, text, direct := c.OnPath()
	o := r.Comes(c.Machines.First())
	if !direct || number.IsZero() || o == nil || o.State != resolve.Met || o.Starts != "" || o.DecidedBy != resolve.ByPin && o.DecidedBy != resolve.ByInherited {
		return "", false
	}
	pin := &r.Pins[0]
	if unreadable(pin) || pin.Brings || pin.System || sameNumbers(number, o.Number) || pin.Set.Contains(number) {
		return "", false
	}
	return text, true
}

// setsUp reports whether a pipeline or container of the repository sets the tool up itself: a
// machine that only builds then needs nothing that follows version files.
func (s *Subject) setsUp() bool {
	return slices.ContainsFunc(s.With(claim.Setup), func(a resolve.Asked) bool { return a.Line > 0 })
}

// unfollowed are machines on which something else than what is pinned runs as it is.
func (r *Result) unfollowed(fleet *resolve.Fleet) resolve.Machines {
	var out resolve.Machines
	part := fleet.Among(r.Among)
	for n, s := range r.Subjects {
		j := r.Judged[n]
		if s.Apart || j.Case.Brought || len(j.Resolved.Pins) == 0 {
			continue
		}
		for _, c := range part.Of(s.Tool).Classes {
			if _, differs := AsItIs(j.Resolved, c); differs && (editors(c) || !s.setsUp()) {
				out = out.And(c.Machines)
			}
		}
	}
	return out
}
