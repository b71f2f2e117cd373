package probe

import (
	"encoding/json"
	"path"
	"regexp"
	"slices"
	"strings"

	"github.com/pelletier/go-toml/v2"
	"go.yaml.in/yaml/v3"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/inventory"
)

// root is a versioned root: the folder whose children are installations.
type root struct {
	tool *catalogue.Tool
	dir  string
}

// rootsOf are a tool's versioned roots, those first whose folder lies nearest to a home.
func (p *probe) rootsOf(tool *catalogue.Tool) []root {
	var out []root
	for _, key := range sortedKeys(p.found) {
		c := p.found[key]
		if c.tool != tool || c.system || tool.BundledWith != "" && p.origin(c) == "bundled" {
			continue
		}
		above := path.Dir(c.home)
		r := root{tool, above}
		versioned := versionIn(path.Base(c.home)) != "" || p.amongOthers(c)
		if (versioned || path.Dir(above) != "/" && p.dotFolder(above) != "" && p.dotFolder(above) != above) && !slices.Contains(out, r) {
			out = append(out, r)
		}
	}
	return out
}

// roots are those of all tools.
func (p *probe) roots() []root {
	var out []root
	for _, tool := range p.tools {
		if tool.BundledWith == "" {
			out = append(out, p.rootsOf(tool)...)
		}
	}
	return out
}

// chosen is what the settings of a versioned root say: which of its children is taken, and
// in which folders another one.
type chosen struct {
	raw, source string
	folders     []folderChoice
}

type folderChoice struct {
	inventory.FolderChoice
	raw string
}

// maxSettings is up to which size a settings file is read, in bytes.
const maxSettings = 64 << 10

// chooses are the keys that say which one is taken.
var chooses = regexp.MustCompile(`(?i)(?:^|[._-])(?:default|global|current|selected|active)(?:$|[._-])`)

// settings reads the settings files beside a versioned root, whatever they are called: a
// value that is the name of one of its children chooses it, for everything or, below a key
// that is a folder's path, for that folder.
func (p *probe) settings(r root) chosen {
	var out chosen
	var children []string
	for _, e := range p.disk.list(r.dir) {
		children = append(children, e.Name())
	}
	for _, dir := range []string{path.Dir(r.dir), r.dir} {
		for _, e := range p.disk.list(dir) {
			decode := decoderOf(e.Name())
			if decode == nil || e.IsDir() {
				continue
			}
			data, err := p.disk.head(path.Join(dir, e.Name()), maxSettings)
			var value any
			if err != nil || len(data) == maxSettings || decode(data, &value) != nil {
				continue
			}
			s := settingsFile{children: children, text: string(data), file: p.short(path.Join(dir, e.Name())), out: &out}
			s.walk(value, "", "", 0)
		}
	}
	return out
}

func decoderOf(name string) func([]byte, any) error {
	switch path.Ext(name) {
	case ".toml":
		return toml.Unmarshal
	case ".json":
		return json.Unmarshal
	case ".yaml", ".yml":
		return yaml.Unmarshal
	}
	return nil
}

// settingsFile is one settings file that is looked through.
type settingsFile struct {
	children   []string
	text, file string
	out        *chosen
}

func (s *settingsFile) walk(value any, key, folder string, deep int) {
	if deep > 6 {
		return
	}
	switch v := value.(type) {
	case map[string]any:
		for _, k := range sortedKeys(v) {
			below := folder
			if path.IsAbs(k) {
				below = path.Clean(k)
			}
			s.walk(v[k], k, below, deep+1)
		}
	case []any:
		for _, one := range v {
			s.walk(one, key, folder, deep+1)
		}
	case string:
		s.choice(v, key, folder)
	}
}

func (s *settingsFile) choice(raw, key, folder string) {
	named := slices.ContainsFunc(s.children, func(child string) bool { return child == raw || strings.HasPrefix(child, raw+"-") })
	switch {
	case !named || raw == "":
	case folder != "":
		choice := inventory.FolderChoice{Folder: folder, Raw: raw, Source: because(s.file, s.lineOf(folder, raw))}
		s.out.folders = append(s.out.folders, folderChoice{choice, raw})
	case chooses.MatchString(key) && s.out.raw == "":
		s.out.raw, s.out.source = raw, because(s.file, s.lineOf(key, raw))
	}
}

// lineOf is the line on which both texts stand, or the later one behind the first.
func (s *settingsFile) lineOf(key, raw string) int {
	after := false
	for i, line := range strings.Split(s.text, "\n") {
		after = after || strings.Contains(line, key)
		if after && strings.Contains(line, raw) {
			return i + 1
		}
	}
	return 1
}
