package assess

import "wexo/internal/core/resolve"

var overrideLingering = Class{
	"override-lingering", 4, Warning, "Override lingering", "Overridden", "override",
	"a variable on the machine, or a proxy's setting for the folder, beats the pin with another version",
	(*check).overrides,
}

// overrides reports machines whose variable beats the pin with another version, those with
// the same variable together.
func (k *check) overrides() {
	pin := k.first()
	if pin == nil || pin.Err != nil || pin.Unknown != "" || pin.Set.IsEmpty() {
		return
	}
	byVariable := map[string][]*resolve.Outcome{}
	var order []string
	for i := range k.Outcomes {
		o := &k.Outcomes[i]
		void := !o.Runs() && o.Number.IsZero() // nothing runs, which is worse
		if o.DecidedBy != resolve.ByOverride || void || pin.Set.Contains(o.Number) {
			continue
		}
		if byVariable[o.Where] == nil {
			order = append(order, o.Where)
		}
		byVariable[o.Where] = append(byVariable[o.Where], o)
	}
	ended := k.pinnedLine()
	if ended != nil && !ended.EndedOn(k.on) {
		ended = nil
	}
	for _, variable := range order {
		list := byVariable[variable]
		k.report(Verdict{Stands: Ref{Of: AtPin}, Evidence: []Ref{{Of: AtPin}}, Cause: variable, Line: ended, Machines: machinesOf(list), Runs: runs(list)})
	}
}
