package probe

import (
	"slices"
	"strings"

	"wexo/internal/core/inventory"
	"wexo/internal/host/repo"
)

// checkouts lists the repositories below the folders that the user names.
func (p *probe) checkouts() []inventory.Checkout {
	if len(p.machine.Checkouts) == 0 {
		return nil
	}
	found, _ := repo.Discover(p.machine.Checkouts, nil) // what cannot be read holds none
	var out []inventory.Checkout
	for _, l := range found {
		if len(out) == inventory.MaxInstallations {
			break
		}
		out = append(out, inventory.Checkout{Path: l.Path, Identity: repo.Identity(l)})
	}
	slices.SortFunc(out, func(a, b inventory.Checkout) int { return strings.Compare(a.Path, b.Path) })
	return out
}
