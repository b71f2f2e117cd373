package probe

import (
	"bytes"
	"context"
	"io/fs"
	"path"
	"slices"
	"strconv"
	"strings"
	"testing/fstest"
	"time"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/inventory"
	"wexo/internal/core/reading"
)

// mostTabled is how many entries are told of.
const mostTabled = inventory.MaxChoices

// readTables reads what editors and build tools know on the machine: their tables of named
// installations, and the settings that the user made for all projects.
func (p *probe) readTables(reader *reading.Reader) (out []inventory.Wiring) {
	home := p.machine.Info.Home
	if home == "" {
		return nil
	}
	places := &p.catalogue.Places().Machines
	for i := range places.Tables {
		t := &places.Tables[i]
		for _, glob := range t.Files {
			for _, file := range p.glob(path.Join(home, glob)) {
				out = append(out, p.table(t, file)...)
			}
		}
	}
	for _, s := range places.Settings {
		for _, glob := range s.Files {
			for _, file := range p.glob(path.Join(home, glob)) {
				out = append(out, p.userSettings(reader, s, file)...)
			}
		}
	}
	return out
}

// tables are what editors and build tools know, with the versions that their entries lead to.
func (p *probe) tables() []inventory.Wiring {
	out := slices.Clone(p.wired)
	for i := range out {
		out[i].Version = p.versionAt(out[i])
	}
	markDefaults(out)
	entries := slices.Clone(out)
	out = slices.DeleteFunc(out, func(w inventory.Wiring) bool {
		return w.Kind == inventory.WiredSetting && slices.ContainsFunc(entries, func(e inventory.Wiring) bool { return tabled(e, w) })
	})
	out = slices.DeleteFunc(out, func(w inventory.Wiring) bool { return !p.wants(w.Tool) || w.Name == "" && w.Path == "" })
	return out[:min(len(out), mostTabled)]
}

// tabled reports whether a setting is an entry of a table in the same file.
func tabled(entry, setting inventory.Wiring) bool {
	return entry.Kind == inventory.WiredName && entry.Source == setting.Source && entry.Tool == setting.Tool &&
		(setting.Path != "" && setting.Path == entry.Path || setting.Name != "" && setting.Name == entry.Name)
}

// markDefaults puts what new projects take beside the entries that they name.
func markDefaults(list []inventory.Wiring) {
	for i := range list {
		d := &list[i]
		if !d.Default || d.Path != "" {
			continue
		}
		for k := range list {
			if w := &list[k]; k != i && w.Editor == d.Editor && w.Tool == d.Tool && w.Name == d.Name && w.Path != "" && path.Dir(w.Source) == path.Dir(d.Source) {
				w.Default, d.Name = true, "" // told beside the entry
			}
		}
	}
}

// table reads one file of a table.
func (p *probe) table(t *catalogue.Table, file string) []inventory.Wiring {
	data, err := p.disk.head(file, maxEvidence)
	if err != nil {
		return nil
	}
	text, err := document.Decode(data)
	if err != nil {
		return nil
	}
	data = text.Data
	line := 0
	if t.Below != "" {
		data, line = below(data, t.Below)
	}
	selectors := document.Selectors{}
	for _, s := range []string{t.Each, t.Kind, t.Name, t.Path, t.Version, t.Default} {
		if selectors.Add(t.Format, s) != nil {
			return nil
		}
	}
	budget := document.NewBudget(context.Background())
	var out []inventory.Wiring
	spent, _ := budget.Within(func() {
		doc, err := document.Parse(t.Format, document.Source{Data: data, Selectors: selectors, Budget: budget})
		if err != nil {
			return
		}
		for _, part := range document.Parts(doc, t.Each) {
			out = append(out, p.entryOf(t, part, data, file, line))
		}
	})
	if spent != nil {
		return nil
	}
	return out
}

// below is the document that a property holds, with the line before it.
func below(data []byte, key string) ([]byte, int) {
	for i, line := range bytes.Split(data, []byte("\n")) {
		value, ok := bytes.CutPrefix(line, []byte(key+"="))
		if !ok {
			continue
		}
		unescaped := strings.NewReplacer(`\n`, "\n", `\r`, "", `\t`, " ", `\:`, ":", `\=`, "=", `\\`, `\`, `\#`, "#", `\!`, "!").Replace(string(value))
		return []byte(unescaped), i
	}
	return nil, 0
}

// entryOf is one entry of a table.
func (p *probe) entryOf(t *catalogue.Table, part document.Document, data []byte, file string, line int) inventory.Wiring {
	text := func(selector string) (string, int) {
		if selector == "" {
			return "", -1
		}
		found := part.Find(selector)
		if len(found) == 0 {
			return "", -1
		}
		return found[0].Text, found[0].Offset
	}
	out := inventory.Wiring{Kind: inventory.WiredName, Editor: t.Editor, Tool: t.Tool, Source: p.short(file), Line: line + 1, Default: t.Defaults}
	name, offset := text(t.Name)
	at, _ := text(t.Path)
	out.Version, _ = text(t.Version)
	out.Name, out.Path = name, p.written(at)
	if offset >= 0 && t.Below == "" {
		out.Line = 1 + bytes.Count(data[:min(offset, len(data))], []byte("\n"))
	}
	if value, _ := text(t.Default); value == "true" {
		out.Default = true
	}
	if kind, _ := text(t.Kind); t.Kind != "" {
		out.Tool = t.Tools[kind]
	}
	if out.Tool == "" && t.Kind == "" {
		out.Tool = p.toolOf(out.Path)
	}
	return out
}

// written is a path of a table with the user's home written out.
func (p *probe) written(at string) string {
	home := p.outside(p.machine.Info.Home)
	for _, name := range []string{"$USER_HOME$", "${user.home}", "${env.HOME}", "${env:HOME}", "${env:USERPROFILE}", "${userHome}"} {
		at = strings.ReplaceAll(at, name, home)
	}
	return at
}

// toolOf is the tool that an executable's name belongs to.
func (p *probe) toolOf(at string) string {
	base := path.Base(strings.ReplaceAll(at, `\`, "/"))
	for _, one := range p.looked.match(anywhere, p.bareName(base)) {
		return one.tool.Name
	}
	return ""
}

// versionAt is the version of the installation that an entry leads to; what the entry says
// itself where it leads to none.
func (p *probe) versionAt(w inventory.Wiring) string {
	if w.Path == "" {
		return w.Version
	}
	at := p.inside(w.Path)
	real, err := p.disk.real(at)
	if err != nil {
		return w.Version
	}
	for _, in := range p.inv.Installations {
		if in.Tool == w.Tool && (in.Path == real || in.Home == real || in.Home == at || in.Home == path.Join(real, "Contents/Home")) {
			return in.Version
		}
	}
	return w.Version
}

// userSettings reads a file of settings as if it were a project's.
func (p *probe) userSettings(reader *reading.Reader, s catalogue.UserSettings, file string) []inventory.Wiring {
	data, err := p.disk.head(file, maxEvidence)
	if err != nil {
		return nil
	}
	tree := fstest.MapFS{s.As: {Data: data, Mode: fs.FileMode(0o644), ModTime: time.Unix(0, 0)}}
	var out []inventory.Wiring
	for _, c := range reader.Read(tree).Claims {
		if c.Role != claim.Wiring {
			continue
		}
		w := inventory.Wiring{Tool: c.Tool, Kind: inventory.WiredSetting, Editor: s.Editor, Source: p.short(file), Line: c.Line}
		if c.Reading == "path" {
			w.Path = p.written(c.Raw)
		} else {
			w.Name = c.Raw
		}
		out = append(out, w)
	}
	slices.SortStableFunc(out, func(a, b inventory.Wiring) int {
		return strings.Compare(a.Tool+strconv.Itoa(a.Line), b.Tool+strconv.Itoa(b.Line))
	})
	return out
}
