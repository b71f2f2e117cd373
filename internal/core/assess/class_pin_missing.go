package assess

var pinMissing = Class{
	"pin-missing", 2, Warning, "Pin missing", "No pin", "unpinned",
	"the repository uses the tool, and nothing pins it",
	(*check).unpinned,
}

// unpinned reports a tool that is used and pinned nowhere, once for the topmost folder.
func (k *check) unpinned() {
	if !k.Case.Unpinned {
		return
	}
	now := k.those(running)
	k.report(Verdict{Evidence: []Ref{{Of: AtUse}}, Machines: machinesOf(now), Runs: runs(now), Move: k.recommended()})
}
