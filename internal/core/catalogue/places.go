package catalogue

import (
	"bytes"
	_ "embed"
	"fmt"
	"path"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"
)

//go:embed places.yaml
var placesYAML []byte

// Places says which files are of a kind that speaks of any tool, and which folders hold
// what was installed or built.
type Places struct {
	Skip      []SkipFolder `yaml:"skip"`
	Apart     Apart        `yaml:"apart"`
	Quiet     []string     `yaml:"quiet"` // dot-folders in which only known files are read
	Kinds     []Kind       `yaml:"kinds"`
	Views     []View       `yaml:"views"`
	Scopes    []Scope      `yaml:"scopes"`
	Variables []Variables  `yaml:"variables"`
	Ordinary  Ordinary     `yaml:"ordinary"`
	Applied   Applied      `yaml:"applied"`
	Unsaid    Unsaid       `yaml:"unsaid"`
	Pipelines Pipelines    `yaml:"pipelines"`
	Naming    []string     `yaml:"naming"` // keys of small files below which tools are named with versions
	Left      []Left       `yaml:"left"`
	Rivals    []Rivals     `yaml:"rivals"`
	Systems   []string     `yaml:"systems"` // names of distributions and of their releases, as labels
	Machines  Machines     `yaml:"machines"`
	skip      map[string][]SkipFolder
	index     fileIndex
}

// SkipFolder is a kind of folder that is not read, and why.
type SkipFolder struct {
	Names  []string `yaml:"names"`
	Why    string   `yaml:"why"`
	Beside []string `yaml:"beside"` // only where a file like one of these stands beside it
	// Ignored folders are skipped only where version control leaves them out: their names
	// are also those of folders that people write.
	Ignored bool `yaml:"ignored"`
}

// Apart names the folders that hold test data, examples or vendored code.
type Apart struct {
	Named    []string `yaml:"named"`    // whatever they hold
	Many     []string `yaml:"many"`     // those that hold many projects
	Projects int      `yaml:"projects"` // how many folders with claims are many
	Deep     int      `yaml:"deep"`     // how many folders below one of those nothing is a product whatever there is
}

// Kind is a kind of file in which any tool may be spoken of: container, compose,
// development, pipeline.
type Kind struct {
	Kind  string   `yaml:"kind"`
	Files []string `yaml:"files"`
}

// View is a part of a file that is read as if it were another file.
type View struct {
	Files []string `yaml:"files"`
	Below string   `yaml:"below"` // selector of the part, without the leading $
	As    string   `yaml:"as"`    // path of the file it is read as
}

// Scope says how near to a folder a settings file is.
type Scope struct {
	Files []string `yaml:"files"`
	Scope string   `yaml:"scope"` // user, workspace or folder
}

// Variables says where files define names that other values refer to, and how a file
// names the one it inherits from.
type Variables struct {
	Files   []string          `yaml:"files"`
	Format  string            `yaml:"format"`
	Each    string            `yaml:"each"`    // selector of the definitions; their keys are the names
	Also    map[string]string `yaml:"also"`    // further names and their selectors
	Parent  string            `yaml:"parent"`  // selector that is there where a file inherits
	At      string            `yaml:"at"`      // selector of the parent's relative path
	Default string            `yaml:"default"` // the path where none is given
}

// Applied describes build scripts that other builds apply by their names: what they say
// holds where they are applied.
type Applied struct {
	Files    []string `yaml:"files"`
	Below    []string `yaml:"below"`    // folders of a build in which its scripts for others lie
	Builds   []string `yaml:"builds"`   // names of folders that are such builds
	Includes Pattern  `yaml:"includes"` // in a build's script: its group is the folder of a build it includes
	Applies  Pattern  `yaml:"applies"`  // its first group that took part is the name of a script it applies
}

// Pipelines are the words that pipelines of all hosts, and the scripts in them, have in common.
type Pipelines struct {
	Defining []string `yaml:"defining"` // keys, in lower case, below which names are defined
	Titles   []string `yaml:"titles"`   // keys, in lower case, of what a step or a job is called
	Purposes []string `yaml:"purposes"` // words in what a file, a job or a step is called that say that it is old on purpose
	Switches []string `yaml:"switches"` // keys, in lower case, that switch a job or step off where they are false or never
	LeftOut  []string `yaml:"left-out"` // keys below which stand parts of a matrix that do not run, or may fail
	Pairs    []string `yaml:"pairs"`    // keys of a matrix's entry that name the tool whose version stands beside it
	Install  []string `yaml:"install"`  // texts of which every line that installs holds one
	Installs Pattern  `yaml:"installs"` // its group is what a script installs
	Talked   Pattern  `yaml:"talked"`   // what stands before a command that is only talked of
}

// Unsaid describes what names a tool beside a version and speaks of something else, so
// that it is no mention either.
type Unsaid struct {
	Files []string  `yaml:"files"`
	Lines []Pattern `yaml:"lines"`
}

// Says tells whether a line, without what it is indented by, may speak of a tool's version.
func (u *Unsaid) Says(line []byte) bool {
	return !slices.ContainsFunc(u.Lines, func(p Pattern) bool { return p.Match(line) })
}

// Rivals are tools of which a project uses one.
type Rivals struct {
	Tools     []string          `yaml:"tools"`
	Manifests []string          `yaml:"manifests"` // files that may name several of them as alternatives
	Locks     map[string]string `yaml:"locks"`     // files that one of them wrote, each with the tool's name
}

// Left is a file that shows that its folder was made and not written, under whatever name.
type Left struct {
	File    string  `yaml:"file"`
	Why     string  `yaml:"why"`
	Version Pattern `yaml:"version"` // of an environment: its group is the version of the interpreter that it borrows
}

// Machines says where on machines installations are looked for.
type Machines struct {
	DotFolders  int            `yaml:"dot-folders"`  // how deep below each dot-folder of the home
	OpenFolders int            `yaml:"open-folders"` // how deep below each of its other folders
	Homes       []string       `yaml:"homes"`        // where home folders are, globs allowed
	Home        []Root         `yaml:"home"`         // below the home
	Roots       []Root         `yaml:"roots"`
	Shared      Shared         `yaml:"shared"` // folders in which things of many origins lie side by side
	System      []string       `yaml:"system"` // folders of the system's own executables
	Skip        []string       `yaml:"skip"`   // folders that hold no installations, only many files
	SkipLike    []string       `yaml:"skip-like"`
	Stubs       []Stub         `yaml:"stubs"`   // executables of a system that stand for others
	Private     []string       `yaml:"private"` // names, globs allowed, of toolchains that a program brings for itself alone
	Startup     []string       `yaml:"startup"` // files that shells read when they start, globs allowed; below ~ those of the user
	Tables      []Table        `yaml:"tables"`  // what editors and build tools know on the machine
	Settings    []UserSettings `yaml:"settings"`
}

// Shared are folders in which things of many origins lie side by side: what lies beside
// something there says nothing of it.
type Shared struct {
	Roots []string `yaml:"roots"`
	Home  []string `yaml:"home"` // below a home; "." is the home itself
}

// SharedBy tells of a machine with some homes, beside those of its other users, in which
// folders things of many origins lie side by side.
func (m *Machines) SharedBy(homes []string) func(dir string) bool {
	inHome := func(dir, home string) bool {
		return slices.ContainsFunc(m.Shared.Home, func(below string) bool { return path.Join(home, below) == dir })
	}
	return func(dir string) bool {
		if slices.Contains(m.Shared.Roots, dir) {
			return true
		}
		if slices.ContainsFunc(homes, func(home string) bool { return inHome(dir, home) }) {
			return true
		}
		parts := strings.Split(dir, "/")
		return slices.ContainsFunc(m.Homes, func(glob string) bool {
			n := strings.Count(glob, "/") + 1
			if len(parts) < n {
				return false
			}
			home := strings.Join(parts[:n], "/")
			ok, err := path.Match(glob, home)
			return ok && err == nil && inHome(dir, home)
		})
	}
}

// Root is a folder below which installations lie, and how deep.
type Root struct {
	Path  string `yaml:"path"`
	Depth int    `yaml:"depth"`
	OS    string `yaml:"os"` // on machines of this system alone; empty on all
}

// Stub describes executables of a system that stand for others. Where it leads nowhere, they
// are other programs that only share a tool's name.
type Stub struct {
	OS     string   `yaml:"os"`
	Folder string   `yaml:"folder"`
	Names  []string `yaml:"names"`
	Leads  []string `yaml:"leads"`  // folders; the first that has an executable of the same name is meant
	Newest []string `yaml:"newest"` // folders; the newest installation below them is meant, unless a variable names one
}

// Table is a file in which an editor or a build tool keeps installations by name.
type Table struct {
	Editor string   `yaml:"editor"`
	Files  []string `yaml:"files"` // below the home, globs allowed
	Format string   `yaml:"format"`
	// Below is a property whose value is the document that the selectors are of.
	Below string `yaml:"below"`
	Each  string `yaml:"each"` // selects the entries; the others select in an entry
	// Kind selects what tells of which tool an entry is: its text is looked up in Tools.
	Kind    string            `yaml:"kind"`
	Tools   map[string]string `yaml:"tools"`
	Name    string            `yaml:"name"`
	Path    string            `yaml:"path"`
	Version string            `yaml:"version"`
	Default string            `yaml:"default"` // selects in an entry what is there or true for the one that new projects take
	Tool    string            `yaml:"tool"`    // of all entries; empty where Kind or the executable's name tells
	For     []string          `yaml:"for"`     // files of projects, as globs of their paths' ends, whose names are looked up in it
	// Defaults is true where the entries only name what new projects take.
	Defaults bool `yaml:"defaults"`
}

// TableOf is the editor in whose table the names in a project's file are looked up; empty
// where there is none.
func (p *Places) TableOf(file string) string {
	for i := range p.Machines.Tables {
		t := &p.Machines.Tables[i]
		for _, pattern := range t.For {
			parts := strings.Count(pattern, "/") + 1
			whole := strings.Split(file, "/")
			if len(whole) < parts {
				continue
			}
			if ok, err := path.Match(pattern, strings.Join(whole[len(whole)-parts:], "/")); ok && err == nil {
				return t.Editor
			}
		}
	}
	return ""
}

// UserSettings are files of the user's that are read as if they were a project's.
type UserSettings struct {
	Editor string   `yaml:"editor"`
	Files  []string `yaml:"files"`
	As     string   `yaml:"as"`
}

// Skips reports whether a folder of this name holds no installations, only many files.
func (m *Machines) Skips(name string) bool {
	lower := strings.ToLower(name)
	return slices.Contains(m.Skip, name) || slices.ContainsFunc(m.SkipLike, func(part string) bool { return strings.Contains(lower, part) })
}

// IsPrivate reports whether a program calls the toolchain so that it brings for itself alone.
func (m *Machines) IsPrivate(name string) bool {
	return slices.ContainsFunc(m.Private, func(glob string) bool {
		ok, err := path.Match(glob, strings.ToLower(name))
		return ok && err == nil
	})
}

// Borrowed is the file of an environment that borrows an interpreter from an installation.
func (p *Places) Borrowed() (Left, bool) {
	for _, l := range p.Left {
		if l.Version.Regexp != nil {
			return l, true
		}
	}
	return Left{}, false
}

// Ordinary names what must never be taken for a version file or a mapping of tools.
type Ordinary struct {
	Files  []string `yaml:"files"`
	Keys   []string `yaml:"keys"`
	Limits []string `yaml:"limits"` // keys below which versions are what a program that nobody knows may choose
	Words  []string `yaml:"words"`  // in names of small files, beginning or ending a part: what is in them is of something else
	Newest []string `yaml:"newest"` // in lower case, beginnings of names that tell what is the newest of something, and choose nothing
}

// Image is a container image whose tag is a tool's version.
type Image struct {
	Name    string  `yaml:"name"`    // without the registry; one without a slash also stands for those of others that end in it
	Tag     Pattern `yaml:"tag"`     // its group is the version in the tag; zero where the tag is one
	Named   Pattern `yaml:"named"`   // of images that carry the version in the last part of their name: its groups are the numbers
	Package string  `yaml:"package"` // kit or runtime, where the image's name says so
	Vendor  string  `yaml:"vendor"`  // whose build it carries, where the image's name says so
}

func embeddedPlaces() (Places, error) {
	var p Places
	decoder := yaml.NewDecoder(bytes.NewReader(placesYAML))
	decoder.KnownFields(true)
	if err := decoder.Decode(&p); err != nil {
		return p, fmt.Errorf("catalogue file places.yaml: %w", err)
	}
	p.skip = map[string][]SkipFolder{}
	for _, s := range p.Skip {
		for _, name := range s.Names {
			p.skip[name] = append(p.skip[name], s)
		}
	}
	for _, k := range p.Kinds {
		p.index.add(k.Files, Use{}, k.Kind)
	}
	for _, v := range p.Views {
		p.index.add(v.Files, Use{}, "")
	}
	for _, v := range p.Variables {
		p.index.add(v.Files, Use{}, "")
	}
	return p, nil
}

// Places says which files and folders are special whatever the tool.
func (c *Catalogue) Places() *Places { return &c.places }

// Skipped tells why a folder of this name is not read; ok is false where it is. beside
// tells whether a file like one of the patterns stands beside the folder.
func (p *Places) Skipped(name string, beside func(patterns []string) bool) (s SkipFolder, ok bool) {
	for _, s := range p.skip[name] {
		if len(s.Beside) == 0 || beside(s.Beside) {
			return s, true
		}
	}
	return SkipFolder{}, false
}

// KindOf is the kind of a file in which any tool may be spoken of, and the folder it
// speaks for; empty for other files.
func (p *Places) KindOf(path string) (kind, folder string) {
	for _, list := range p.index.candidates(path[strings.LastIndexByte(path, '/')+1:]) {
		for _, f := range list {
			if f.kind == "" {
				continue
			}
			if folder, ok := HoldsFrom(f.pattern, path); ok {
				return f.kind, folder
			}
		}
	}
	return "", ""
}

// ScopeOf tells how near a settings file is: user, workspace, folder, or empty for
// files that are no settings.
func (p *Places) ScopeOf(path string) string {
	for _, s := range p.Scopes {
		if Covers(s.Files, path) {
			return s.Scope
		}
	}
	return ""
}

// ImageOf is a tool that a container image carries.
type ImageOf struct {
	Tool  *Tool
	Image Image
}

// ImagesOf finds the tools of a container image's name, without registry or tag. The
// longest name that fits counts.
func (c *Catalogue) ImagesOf(name string) []ImageOf {
	var out []ImageOf
	for _, i := range c.images[name[strings.LastIndexByte(name, '/')+1:]] {
		if name != i.Image.Name && !strings.HasSuffix(name, "/"+i.Image.Name) {
			continue
		}
		if len(out) > 0 && len(i.Image.Name) > len(out[0].Image.Name) {
			out = nil
		}
		if len(out) == 0 || len(i.Image.Name) == len(out[0].Image.Name) {
			out = append(out, i)
		}
	}
	return out
}

// ImagesNamed are the tools whose version the last part of an image's name tells.
func (c *Catalogue) ImagesNamed(base string) []ImageOf {
	var out []ImageOf
	for _, i := range c.named {
		if i.Image.Named.MatchString(base) {
			out = append(out, i)
		}
	}
	return out
}

// HasView tells whether a part of the file is read as another file, or other files refer
// to its definitions.
func (p *Places) HasView(path string) bool {
	return slices.ContainsFunc(p.Views, func(v View) bool { return Covers(v.Files, path) }) ||
		slices.ContainsFunc(p.Variables, func(v Variables) bool { return Covers(v.Files, path) })
}

// Selectors are all selectors of definitions.
func (v Variables) Selectors() []string {
	out := []string{v.Each}
	for _, s := range v.Also {
		out = append(out, s)
	}
	return out
}
