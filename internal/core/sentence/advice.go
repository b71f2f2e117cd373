package sentence

import (
	"fmt"
	"slices"
	"strings"

	"wexo/internal/core/assess"
	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
)

// named is a line as it is advised: "Python 3.12 (supported until 31 Oct 2028)".
func (w *words) named(l *catalogue.Line) string {
	return fmt.Sprintf("%s %s%s", w.title(), l.Line, until(l, " (supported until %s)"))
}

// advised is the version that is advised, with how long it is supported.
func (w *words) advised() string {
	a := w.v.Advice
	return fmt.Sprintf("%s %s%s", w.title(), a.Text, until(a.Line, " (supported until %s)"))
}

// because says what speaks for an advice, as the end of a sentence; nothing where nothing does.
func (w *words) because() string {
	a := w.v.Advice
	switch a.Basis {
	case assess.ByEvidence:
		if by := w.speaking(); by != "" {
			return ", which " + by
		}
	case assess.ByUse:
		return ", which runs today" + w.whereUsed()
	case assess.ByLeast:
		if len(w.s.Bounds) > 0 {
			return ", the least that " + at(w.s.Claim(assess.Ref{Of: assess.AtBound})) + " asks for"
		}
	}
	return ""
}

// asElsewhere is because where the version is to come to other machines than it is on.
func (w *words) asElsewhere() string {
	if w.v.Advice.Basis == assess.ByUse {
		return ", as on other machines"
	}
	return w.because()
}

// whereUsed names the machines on which the advised line would run, where they are not all.
func (w *words) whereUsed() string {
	for _, r := range w.v.Runs {
		if n, err := w.f.Tool.Scheme().Parse(r.Version); err != nil || w.f.Tool.LineOf(n) != w.v.Advice.Line {
			continue
		}
		if len(w.v.Runs) > 1 {
			return " on " + w.some(r.Machines)
		}
	}
	return ""
}

// mostPlaces is how many places a sentence names.
const mostPlaces = 3

// speaking names the places that speak for an advice: "tox.yml:4 sets up" and the like.
func (w *words) speaking() string {
	var says, admits []string
	for _, i := range w.v.Advice.By {
		c := w.speaker(i)
		if c == nil {
			continue
		}
		place := at(*c)
		if w.s.Case.Limits[i].Positive() {
			says = append(says, place)
		} else {
			admits = append(admits, place)
		}
	}
	admits = slices.DeleteFunc(admits, func(place string) bool { return slices.Contains(says, place) })
	for _, r := range w.v.Advice.Wired {
		says = append(says, at(w.s.Claim(r)))
	}
	says, admits = short(unique(says)), short(unique(admits))
	switch {
	case len(says) > 0 && len(admits) > 0:
		return fmt.Sprintf("%s %s known to work and %s %s", list(says), verb(len(says) == 1, "shows is", "show is"), list(admits), verb(len(admits) == 1, "admits", "admit"))
	case len(says) > 0:
		return fmt.Sprintf("%s %s known to work", list(says), verb(len(says) == 1, "shows is", "show is"))
	case len(admits) > 0:
		return fmt.Sprintf("%s %s", list(admits), verb(len(admits) == 1, "admits", "admit"))
	}
	return ""
}

// speaker is of a limit's claims the one that names what is advised, or the first.
func (w *words) speaker(limit int) *claim.Claim {
	said := w.s.Limits[limit]
	if len(said) < 2 {
		return said[0]
	}
	for _, c := range said {
		if want, err := c.Want(w.f.Tool); err == nil && want.Set.Overlaps(w.v.Advice.Set) {
			return c
		}
	}
	return said[0]
}

func unique(list []string) []string {
	var out []string
	for _, s := range list {
		if !slices.Contains(out, s) {
			out = append(out, s)
		}
	}
	return out
}

// short leaves out what is too much for a sentence.
func short(list []string) []string {
	if more := len(list) - mostPlaces; more > 0 {
		return append(list[:mostPlaces:mostPlaces], Count(more, "other place", "other places"))
	}
	return list
}

// install says where the advised version has to be installed first; nothing where it is there.
func (w *words) install() string {
	a := w.v.Advice
	lacking := w.fleet.Among(w.f.Among).Of(w.f.Tool).Lacking(a.Set, a.Build)
	if lacking.Len() == 0 {
		return ""
	}
	return fmt.Sprintf(" Install it on %s first.", w.some(lacking))
}

// places names what has to be changed: the claim that a finding is about, and what would be
// at odds with the new version.
func (w *words) places(first ...assess.Ref) string {
	var out []string
	for _, r := range append(first, w.v.Advice.Change...) {
		out = append(out, at(w.s.Claim(r)))
	}
	out = unique(out)
	if more := len(out) - 6; more > 0 {
		out = append(out[:6:6], Count(more, "other place", "other places"))
	}
	return list(out)
}

// instead says what to do where no version can be advised.
func (w *words) instead() string {
	a := w.v.Advice
	var named []string
	for _, i := range a.By {
		if c := w.s.Limits[i][0]; c != nil {
			named = append(named, at(*c))
		}
	}
	named = short(unique(named))
	try := ""
	if a.Try != nil {
		try = fmt.Sprintf("try it with %s, and pin what works", w.named(a.Try))
	}
	switch {
	case a.Basis == assess.ByEnded && w.f.Class.Name == "pin-missing" && w.onlySetUp():
		return fmt.Sprintf("Pin what %s %s up once that has moved to a supported line, as said under end of life.", list(named), verb(len(named) == 1, "sets", "set"))
	case a.Basis == assess.ByConflict && w.f.Class.Name == "pin-missing" && w.setUpAgainst() != "":
		return w.setUpAgainst()
	case a.Basis == assess.ByConflict && len(named) > 0:
		return fmt.Sprintf("No version is admitted by all: loosen %s, or pin each folder for itself.", list(named))
	case a.Basis == assess.ByConflict:
		return "No version is admitted by all that is asked for: loosen one of the bounds first."
	case a.Basis == assess.ByEnded && len(named) > 0 && try != "":
		if w.setsUp() { // what is set up has to go along
			try = strings.Replace(try, "try it with", "try it there with", 1)
		}
		return fmt.Sprintf("All that %s %s to work is out of support: %s.", list(named), verb(len(named) == 1, "shows", "show"), try)
	case a.Basis == assess.ByEnded && len(w.narrowing()) > 0:
		return fmt.Sprintf("No supported line fits %s: widen it once a supported one is tried, and move.", list(short(w.narrowing())))
	case try != "":
		if len(w.v.Ended) > 0 {
			return fmt.Sprintf("Nothing here says what it works with but what runs today, which is out of support or soon will be: %s.", try)
		}
		return fmt.Sprintf("Nothing here says which supported version it works with: %s.", try)
	}
	return ""
}

// setsUp reports whether some of what is known to work is set up somewhere.
func (w *words) setsUp() bool {
	return slices.ContainsFunc(w.v.Advice.By, func(i int) bool { return w.s.Case.Limits[i].Of == assess.OfSetup })
}

// onlySetUp reports whether what is known to work is known by what is set up alone: that has
// findings of its own.
func (w *words) onlySetUp() bool {
	by := w.v.Advice.By
	return len(by) > 0 && !slices.ContainsFunc(by, func(i int) bool { return w.s.Case.Limits[i].Of != assess.OfSetup })
}

// setUpAgainst says what to do where what is set up is not what the bounds allow: the project
// says what it supports, so what is set up has to follow. It is empty where anything else is in
// conflict.
func (w *words) setUpAgainst() string {
	var setups, bounds []string
	for _, i := range w.v.Advice.By {
		c := w.s.Limits[i][0]
		switch {
		case c == nil || w.s.Case.Limits[i].Of != assess.OfSetup && w.s.Case.Limits[i].Of != assess.OfBound:
			return ""
		case w.s.Case.Limits[i].Of == assess.OfSetup:
			setups = append(setups, at(*c))
		default:
			bounds = append(bounds, at(*c))
		}
	}
	if len(setups) == 0 || len(bounds) == 0 {
		return ""
	}
	return fmt.Sprintf("Set up in %s what %s %s, and pin that.", list(short(unique(setups))), list(short(unique(bounds))), verb(len(unique(bounds)) == 1, "allows", "allow"))
}

// narrowing are the bounds that leave no supported line; of a lock file the dependencies
// that demand it.
func (w *words) narrowing() []string {
	var out []string
	for _, i := range w.v.Advice.By {
		c := w.s.Limits[i][0]
		switch {
		case c == nil:
		case c.Locked != nil && len(c.Locked.By) > 0:
			out = append(out, fmt.Sprintf("%s (%s)", at(*c), demanding(c.Locked.By)))
		default:
			out = append(out, at(*c))
		}
	}
	return unique(out)
}

// toPin advises a pin in a file that is really read.
func (w *words) toPin() string {
	a := w.v.Advice
	if a.Line == nil {
		if text := w.instead(); text != "" {
			return text
		}
		return "Pin the version that it is made for."
	}
	where := "in the version file that your machines' programs read"
	if w.s.PinIn != "" {
		where = "in " + w.s.PinIn
	}
	because := w.because()
	if because != "" {
		because += ","
	}
	also := ""
	if len(a.Change) > 0 {
		also = fmt.Sprintf(" Change %s to it too.", w.places())
	}
	return fmt.Sprintf("Pin %s%s %s.%s%s", w.advised(), because, where, also, w.install())
}

// toMove advises another line in place of what claims say now.
func (w *words) toMove(first ...assess.Ref) string {
	a := w.v.Advice
	if a.Line == nil {
		if text := w.instead(); text != "" {
			return text
		}
		return "Move to a supported line."
	}
	return fmt.Sprintf("Move to %s%s: change %s.%s", w.advised(), w.because(), w.places(first...), w.install())
}

// capital begins a sentence.
func capital(text string) string {
	if text == "" {
		return ""
	}
	return strings.ToUpper(text[:1]) + text[1:]
}
