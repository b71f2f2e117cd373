package assess

var pinFloating = Class{
	"pin-floating", 3, Warning, "Pin floating", "Floating", "floating",
	"the pin names no version (`latest`, `lts`, `*`): machines differ, or may differ",
	(*check).floating,
}

// floating reports pins that name no version.
func (k *check) floating() {
	for i := range k.Pins {
		if !k.Pins[i].Floating {
			continue
		}
		now := k.those(running)
		at := Ref{Of: AtPin, N: i}
		k.report(Verdict{Stands: at, Evidence: []Ref{at}, Machines: machinesOf(now), Runs: runs(now), Advice: k.advice()})
	}
}
