package inventory

import (
	"cmp"
	"path"
	"reflect"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/version"
)

// Machine is an inventory with its versions read, ready for questions. It is
// read-only and may be shared.
type Machine struct {
	Inventory Inventory
	byTool    map[string][]*Installed
	// Followed is the real path behind each path that was followed on the machine, empty
	// where nothing is there; nil where the machine could not be asked.
	Followed map[string]string
	// Unmatched tells of what the inventory speaks of and the catalogue does not know.
	Unmatched []string
	given     Inventory         // as it was reported
	implied   []OnPath          // what comes with what is first on PATH, and is not listed
	stubs     []catalogue.Stub  // of its system
	silent    []bool            // of each override, whether it chooses no version
	off       map[string]string // of tools that fetch nothing, what switches it off
}

// Installed is an installation with its version read; Version is zero where it cannot be told.
type Installed struct {
	Installation
	Number   version.Version
	Private  bool   // another program brought it for itself: it runs where a path leads to it, and serves nobody else
	Implied  bool   // nobody lists it: it comes with another one
	at, home string // its path and home as paths are compared
}

// NewMachine reads the versions of an inventory.
func NewMachine(inv Inventory, c *catalogue.Catalogue) *Machine {
	given := inv
	inv, unmatched := written(inv, c)
	m := &Machine{Inventory: inv, byTool: map[string][]*Installed{}, Unmatched: unmatched, given: given}
	m.switches(c)
	for _, s := range c.Places().Machines.Stubs {
		if s.OS == inv.Machine.OS {
			m.stubs = append(m.stubs, s)
		}
	}
	comes, first := implied(inv, c)
	m.implied = first
	for i, in := range slices.Concat(inv.Installations, comes) {
		tool, known := c.Tool(in.Tool)
		if !known {
			continue
		}
		number, err := tool.Scheme().Parse(in.Version)
		if err != nil || in.Version == "" { // which some orders read as their least
			number = version.Version{}
		}
		m.byTool[tool.Name] = append(m.byTool[tool.Name], &Installed{in, number, in.Origin == "bundled" && tool.BundledWith == "", i >= len(inv.Installations), m.key(in.Path), m.key(in.Home)})
	}
	for _, list := range m.byTool {
		slices.SortFunc(list, newestFirst)
	}
	return m
}

// newestFirst orders installations; the order in which they were found decides nothing.
func newestFirst(a, b *Installed) int {
	return cmp.Or(b.Number.Compare(a.Number), strings.Compare(a.Vendor, b.Vendor), strings.Compare(a.Variant, b.Variant), strings.Compare(a.Package, b.Package),
		strings.Compare(a.Path, b.Path), strings.Compare(a.Version, b.Version), strings.Compare(a.Arch, b.Arch), strings.Compare(a.Health, b.Health))
}

// Is reports whether an inventory is what the machine reported.
func (m *Machine) Is(inv Inventory) bool { return reflect.DeepEqual(m.given, inv) }

// Name is the machine's name.
func (m *Machine) Name() string { return m.Inventory.Machine.Name }

// Installed lists a tool's installations, newest first.
func (m *Machine) Installed(tool string) []*Installed { return m.byTool[tool] }

// Build is what a pin may ask of an installation beside its number; what is empty is free.
type Build struct{ Vendor, Variant, Package, Arch string }

// Newest is the newest working installation in the set, of the build that is asked for; nil where none is.
func (m *Machine) Newest(tool string, set version.Set, build Build) *Installed {
	for _, in := range m.byTool[tool] {
		if set.Contains(in.Number) && in.Health != "broken" && !in.Private && build.Fits(in.Installation) {
			return in
		}
	}
	return nil
}

// Called is the working installation whose folder is called by a name and no version, with
// or without the system that it is for behind it (nightly-x86_64-linux); nil where none is.
func (m *Machine) Called(tool, name string) *Installed {
	name = strings.ToLower(strings.TrimSpace(name))
	for _, in := range m.byTool[tool] {
		rest, ok := strings.CutPrefix(strings.ToLower(path.Base(slashed(in.Home))), name)
		dated := len(rest) > 1 && rest[1] >= '0' && rest[1] <= '9'
		if ok && name != "" && in.Health != "broken" && !in.Private && !dated && (rest == "" || rest[0] == '-') {
			return in
		}
	}
	return nil
}

// Fits tells whether an installation is such a build. What an inventory does not tell
// of an installation is taken to fit, but for the vendor and the variant.
func (b Build) Fits(in Installation) bool {
	return (b.Vendor == "" || in.Vendor == b.Vendor) && (b.Variant == "" || in.Variant == b.Variant) &&
		(b.Package != "kit" || in.Package != "runtime") && (b.Arch == "" || in.Arch == "" || in.Arch == b.Arch)
}

// Nearest gives the installed versions next to a set: the newest below it and the oldest
// above it, of those that work. A version in the set of another vendor than asked for comes first.
func (m *Machine) Nearest(tool string, set version.Set) []*Installed {
	var inside, below, above *Installed
	for _, in := range m.byTool[tool] {
		switch {
		case in.Number.IsZero() || in.Health == "broken" || in.Private:
		case set.Contains(in.Number):
			if inside == nil {
				inside = in
			}
		case set.NoneBelow(in.Number):
			if below == nil {
				below = in
			}
		default:
			above = in
		}
	}
	var out []*Installed
	for _, in := range []*Installed{inside, below, above} {
		if in != nil {
			out = append(out, in)
		}
	}
	return out
}

// FirstOnPath is what a terminal finds first for the tool.
func (m *Machine) FirstOnPath(tool string) (OnPath, bool) {
	for _, list := range [][]OnPath{m.Inventory.FirstOnPath, m.implied} {
		for _, p := range list {
			if p.Tool == tool {
				return p, true
			}
		}
	}
	return OnPath{}, false
}

// Leading is the installation that an executable on PATH belongs to; nil where none is known.
func (m *Machine) Leading(tool string, p OnPath) *Installed {
	if in, _ := m.At(tool, p.Path); in != nil {
		return in
	}
	at := m.key(p.Path)
	for _, f := range m.Inventory.SearchPath {
		for _, t := range f.Tools {
			if t.Tool == tool && t.Leads != "" && m.key(f.Folder+"/"+t.Name) == at {
				return m.match(tool, t.Leads)
			}
		}
	}
	return nil
}

// WinsOnPath reports whether an installation is what some name on PATH leads to.
func (m *Machine) WinsOnPath(in *Installed) bool {
	for _, f := range m.Inventory.SearchPath {
		for _, t := range f.Tools {
			if t.Wins && t.Tool == in.Tool && t.Leads != "" && m.key(t.Leads) == in.at {
				return true
			}
		}
	}
	first, onPath := m.FirstOnPath(in.Tool)
	return onPath && (m.Leading(in.Tool, first) == in || first.Version == in.Version)
}

// Proxy is the proxy of a tool at a path.
func (m *Machine) Proxy(tool, at string) (Proxy, bool) {
	for _, p := range m.Inventory.Proxies {
		if p.Tool == tool && p.Path == at {
			return p, true
		}
	}
	return Proxy{}, false
}

// ChoiceIn is what applies to a folder of a proxy's choices by folder: that of the folder
// itself or of the nearest above it.
func (m *Machine) ChoiceIn(choices []FolderChoice, folder string) (found FolderChoice, ok bool) {
	folder = m.key(folder)
	for _, c := range choices {
		if below(m.key(c.Folder), folder) && (!ok || len(c.Folder) > len(found.Folder)) {
			found, ok = c, true
		}
	}
	return found, ok
}

// Named is the entry by which an editor on the machine knows an installation of a tool; knows
// is false where nothing is known of the editor's table there.
func (m *Machine) Named(editor, tool, name string) (entry Wiring, found, knows bool) {
	for _, w := range m.Inventory.Editors {
		if !sameName(w.Editor, editor) || w.Kind != WiredName {
			continue
		}
		knows = true
		if w.Tool == tool && w.Name == name {
			return w, true, true
		}
	}
	return Wiring{}, false, knows
}

// Default is the user's default for the tool.
func (m *Machine) Default(tool string) (Default, bool) {
	for _, d := range m.Inventory.Defaults {
		if d.Tool == tool {
			return d, true
		}
	}
	return Default{}, false
}

// Override is the variable that beats pins of the tool.
func (m *Machine) Override(tool string) (Override, bool) {
	for i, o := range m.Inventory.Overrides {
		if o.Tool == tool && !m.silent[i] {
			return o, true
		}
	}
	return Override{}, false
}

// switches finds the variables that choose no version: those that only say whether versions are
// fetched.
func (m *Machine) switches(c *catalogue.Catalogue) {
	m.silent, m.off = make([]bool, len(m.Inventory.Overrides)), map[string]string{}
	for i, o := range m.Inventory.Overrides {
		tool, known := c.Tool(o.Tool)
		if !known {
			continue
		}
		m.silent[i] = tool.SaysNothing(o.Variable, o.Raw)
		if f := tool.Fetches; f != nil && f.SwitchedOff(o.Variable, o.Raw) {
			m.silent[i] = m.silent[i] || o.Variable != "" && !chooses(tool, o.Variable)
			m.off[tool.Name] = o.Variable + "=" + o.Raw
			if o.Source != "" {
				m.off[tool.Name] += " in " + o.Source
			}
		}
	}
}

// chooses reports whether a variable overrides pins of a tool.
func chooses(t *catalogue.Tool, variable string) bool {
	return slices.ContainsFunc(t.Overrides, func(o catalogue.Override) bool { return o.Variable == variable })
}

// FetchesNothing tells what keeps a tool's programs from fetching other versions on the machine;
// empty where nothing does.
func (m *Machine) FetchesNothing(tool string) string { return m.off[tool] }

// At is the installation a path on the machine leads to: its executable, its home, or
// another name of its executable. there is false where the machine is known to have
// nothing at the path.
func (m *Machine) At(tool, raw string) (found *Installed, there bool) {
	at := m.Absolute(raw)
	if real, asked := m.Followed[at]; asked {
		if real == "" {
			return nil, false
		}
		if in := m.match(tool, real); in != nil {
			return in, true
		}
		return m.match(tool, at), true
	}
	in := m.match(tool, at)
	return in, in != nil || m.standsFor(at)
}

// standsFor reports whether the machine's system brings an executable at a path that stands for
// others: it is there, whatever it leads to.
func (m *Machine) standsFor(at string) bool {
	return slices.ContainsFunc(m.stubs, func(s catalogue.Stub) bool {
		return path.Dir(at) == s.Folder && slices.Contains(s.Names, path.Base(at))
	})
}

// Stubbed reports whether the machine's system brings an executable that stands for the tool's.
func (m *Machine) Stubbed(t *catalogue.Tool) bool {
	return slices.ContainsFunc(m.stubs, func(s catalogue.Stub) bool {
		return slices.ContainsFunc(t.Installation.Executables, func(name string) bool { return slices.Contains(s.Names, name) })
	})
}

func (m *Machine) match(tool, raw string) *Installed {
	at := m.key(raw)
	var best *Installed
	for _, in := range m.byTool[tool] {
		switch {
		case in.at == at || in.home == at && in.Origin != "system":
			return in
		case in.Origin == "system" && path.Dir(at) != path.Dir(in.at), !sameNumber(path.Base(at), in.Number):
		case in.Origin != "system" && !strings.HasPrefix(at, strings.TrimSuffix(in.home, "/")+"/"):
		case best == nil || len(in.home) > len(best.home):
			best = in
		}
	}
	return best
}

// sameNumber tells whether an executable's name that ends in a number (python3.11) fits the version.
func sameNumber(base string, v version.Version) bool {
	base = strings.TrimSuffix(base, ".exe")
	start := len(base)
	for start > 0 && (base[start-1] >= '0' && base[start-1] <= '9' || base[start-1] == '.') {
		start--
	}
	number := strings.TrimLeft(base[start:], ".")
	if number == "" || strings.HasSuffix(number, ".") || strings.Contains(number, "..") {
		return true
	}
	rest, same := strings.CutPrefix(v.String(), number)
	return same && (rest == "" || rest[0] == '.')
}
