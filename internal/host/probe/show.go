package probe

import "wexo/internal/core/inventory"

// inside is a path of the machine as it is looked for below Files.
func (p *probe) inside(at string) string {
	if !p.windows {
		return at
	}
	return fromWindows(at, p.disk.drive)
}

// outside is a path as the machine itself writes it.
func (p *probe) outside(at string) string {
	if !p.windows {
		return at
	}
	return toWindows(at, p.disk.drive)
}

// show writes all paths as the machine itself writes them.
func (p *probe) show(inv *inventory.Inventory) {
	if !p.windows {
		return
	}
	each := func(paths ...*string) {
		for _, at := range paths {
			*at = p.outside(*at)
		}
	}
	each(&inv.Machine.Home)
	for i := range inv.Installations {
		each(&inv.Installations[i].Path, &inv.Installations[i].Home, &inv.Installations[i].Own)
	}
	for i := range inv.FirstOnPath {
		each(&inv.FirstOnPath[i].Path)
	}
	for i := range inv.Defaults {
		each(&inv.Defaults[i].Path, &inv.Defaults[i].Source)
	}
	for i := range inv.Proxies {
		x := &inv.Proxies[i]
		each(&x.Path, &x.Leads, &x.Root, &x.Picks)
		for n := range x.Folders {
			each(&x.Folders[n].Home)
		}
	}
	for i := range inv.SearchPath {
		each(&inv.SearchPath[i].Folder)
		for n := range inv.SearchPath[i].Tools {
			each(&inv.SearchPath[i].Tools[n].Leads)
		}
	}
	for i := range inv.PassedOver {
		each(&inv.PassedOver[i].Path)
	}
	for i := range inv.Editors {
		each(&inv.Editors[i].Source)
	}
}
