package assess

import (
	"slices"

	"wexo/internal/core/resolve"
)

var versionUnknown = Class{
	"version-unknown", 10, Error, "Version unknown", "Unknown", "question",
	"the pin names a version that was never released, or a vendor nobody knows",
	(*check).unknown,
}

// The ways in which a version is unknown.
const (
	UnknownText  Kind = "text"  // it is no version of the tool
	UnknownLabel Kind = "label" // no vendor or variant is called so
	UnknownNever Kind = "never" // it was never released
	UnknownHere  Kind = "here"  // it is newer than what is known of its line
)

// newer notes a pin of a release that is newer than what is known and installed nowhere: it may
// well exist.
func (k *check) newer(v Verdict, pin *resolve.Said) {
	newest := k.Tool.NewerThanKnown(pin.Set)
	if newest.IsZero() || slices.Contains(k.Tooling.Among(pin.Set), true) {
		return
	}
	v.Kind, v.Severity, v.Reason, v.Evidence, v.Machines = UnknownHere, Note, newest.String(), []Ref{v.Stands}, k.everyone()
	k.report(v)
}

// unknown reports pins that name what was never released, or cannot be told.
func (k *check) unknown() {
	for i := range k.Pins {
		pin := &k.Pins[i]
		v := Verdict{Stands: Ref{Of: AtPin, N: i}}
		switch {
		case pin.Unknown != "":
			v.Kind, v.Reason = UnknownLabel, pin.Unknown
		case pin.Err != nil:
			v.Kind = UnknownText
		case pin.Alias != "" || pin.System || pin.Kept:
			continue
		default:
			v.Kind, v.Reason = UnknownNever, k.Tool.Unreleased(pin.Set, k.on)
			if v.Reason == "" {
				k.newer(v, pin)
				continue
			}
		}
		v.Evidence, v.Machines, v.Advice = []Ref{v.Stands}, k.everyone(), k.advice()
		k.report(v)
	}
}
