package assess

import (
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
)

// OverrideFolder is a proxy's setting for a folder that beats a repository's pin there.
const OverrideFolder Kind = "folder"

// foldered finds the settings of proxies on machines that pick another version in a
// repository's folder than the repository's pin: where such a setting stands, the proxy
// asks no version file.
func foldered(results []*Result, fleet *resolve.Fleet) []*Finding {
	var out []*Finding
	at := map[string]*Finding{}
	for i, m := range fleet.All() {
		tools := choosing(m)
		if len(tools) == 0 {
			continue
		}
		for _, r := range results {
			if !r.Among.Has(i) {
				continue
			}
			for _, f := range folderedOn(m, tools, r) {
				known := at[f.Fingerprint]
				if known == nil {
					f.Among = fleet.Everyone()
					known, at[f.Fingerprint] = f, f
					out = append(out, f)
				}
				known.Machines = known.Machines.With(i)
				known.Verdict.Machines = known.Machines
				known.Verdict.Near[0].Machines = known.Machines
			}
		}
	}
	return out
}

// choosing are the tools that proxies on PATH of a machine pick by the folder, with their choices.
func choosing(m *inventory.Machine) map[string][]inventory.FolderChoice {
	out := map[string][]inventory.FolderChoice{}
	for _, p := range m.Inventory.FirstOnPath {
		if x, ok := m.Proxy(p.Tool, p.Path); ok && p.Shim && len(x.Folders) > 0 {
			out[p.Tool] = x.Folders
		}
	}
	return out
}

// folderedOn compares what is picked in the checkouts of a repository with its pins.
func folderedOn(m *inventory.Machine, choices map[string][]inventory.FolderChoice, r *Result) []*Finding {
	var out []*Finding
	told := map[*catalogue.Tool]bool{}
	for n, s := range r.Subjects {
		j := r.Judged[n]
		if len(choices[s.Tool.Name]) == 0 || len(j.Resolved.Pins) == 0 || len(s.Pins) == 0 || s.Apart || told[s.Tool] {
			continue
		}
		pin := &j.Resolved.Pins[0]
		if unreadable(pin) && !pin.Kept || pin.Err != nil || pin.Brings || pin.System {
			continue
		}
		for _, checkout := range checkouts(m, r.Prepared) {
			choice, ok := m.ChoiceIn(choices[s.Tool.Name], checkout+"/"+s.Folder)
			if !ok {
				continue
			}
			if agrees(m, s.Tool, pin, choice) {
				continue
			}
			told[s.Tool] = true
			c := s.Claims[s.Pins[0]]
			v := &Verdict{Class: &overrideLingering, Kind: OverrideFolder, Cause: choice.Source, Pinned: []*Prepared{r.Prepared}, Reason: c.File + "\x00" + c.Raw,
				Near: []Run{{Release: Release{Version: choice.Version}, Raw: choice.Raw, Path: choice.Folder}}, Root: Cause{Class: &overrideLingering, Tool: s.Tool, About: choice.Source + "\x00" + choice.Folder}}
			f := &Finding{Class: v.Class, Severity: v.Class.Severity, Repository: &Prepared{}, Tool: s.Tool, Verdict: v}
			f.Fingerprint = f.fingerprint(strings.Join([]string{r.Name, choice.Source, choice.Folder, choice.Raw, c.Raw}, "\x00"))
			out = append(out, f)
			break
		}
	}
	return out
}

// agrees reports whether a choice is what a pin asks for. Of a pin that is a name only that
// can be told for which something is called so.
func agrees(m *inventory.Machine, t *catalogue.Tool, pin *resolve.Said, choice inventory.FolderChoice) bool {
	if pin.Kept {
		named := m.Called(t.Name, pin.Raw)
		return named == nil || named.Home == choice.Home
	}
	number, err := t.Scheme().Parse(choice.Version)
	return err == nil && pin.Set.Contains(number)
}

// checkouts are the folders of a machine that hold a repository: those its inventory lists,
// and on the machine that asks the repository itself.
func checkouts(m *inventory.Machine, p *Prepared) []string {
	var out []string
	if m.Followed != nil && p.Path != "" {
		out = append(out, p.Path)
	}
	for _, c := range m.Inventory.Checkouts {
		if slices.Contains(p.names(), c.Names()) {
			out = append(out, c.Path)
		}
	}
	return out
}
