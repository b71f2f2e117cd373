// Package catalogue holds what is known of tools, as data: names, version scheme,
// how an installation shows its version, the claims it makes in manifests, and its
// support lines. One YAML file a tool stands in data/tools; adding a tool is adding a file.
// What must go together, package rule's matter, stands beside it in data/rules and
// data/baselines.
package catalogue

import (
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"
	"golang.org/x/sync/errgroup"

	"wexo/internal/core/nearest"
	"wexo/internal/core/version"
)

//go:embed data
var embedded embed.FS

// Shipped is the folder of the catalogue that comes with Wexo: tools, rules, baselines.
// Folders of the user's are laid out alike.
func Shipped() fs.FS {
	data, err := fs.Sub(embedded, "data")
	if err != nil { // the name is no path
		panic(err)
	}
	return data
}

// Catalogue is every known tool. It is read-only and may be shared.
type Catalogue struct {
	tools      []*Tool
	byName     map[string]*Tool
	files      fileIndex
	images     map[string][]ImageOf
	places     Places
	named      []ImageOf // images that carry the version in their name
	steps      map[string][]StepOf
	inputs     map[string]*Tool
	frameworks map[string]component
	digest     string
}

// Tool is one kind of toolchain. What the keys of its file mean is told here, and from here in
// the documentation and the JSON Schema.
type Tool struct {
	Name          string            `yaml:"tool"`           // what it is called in files and on the command line: lower-case letters, digits and dashes
	Title         string            `yaml:"title"`          // what people read
	Names         []string          `yaml:"names"`          // what else it is called: in version files, in pipelines, on the command line
	SchemeName    string            `yaml:"scheme"`         // the order of its versions (`wexo order --help` lists them)
	Dialect       string            `yaml:"dialect"`        // how its pins are written where a claim says nothing else (`wexo satisfies --help` lists them)
	SetupDialect  string            `yaml:"setup-dialect"`  // how ranges are written where a pipeline sets it up; left out, only versions stand there
	Uses          []string          `yaml:"uses"`           // files that show that a folder uses the tool
	BoundsSuffice bool              `yaml:"bounds-suffice"` // true where a bound in a manifest is what people choose by, so that a folder with one needs no pin
	Levels        bool              `yaml:"levels"`         // true where code runs on no newer line than the minimum that it names
	Dropped       []Dropped         `yaml:"dropped"`        // levels of code that newer versions refuse
	RunsOn        []string          `yaml:"runs-on"`        // the systems that it exists for: linux, darwin, windows; all where it is left out
	BundledWith   string            `yaml:"bundled-with"`   // the tool whose installations bring one of it: npm comes with Node.js
	BuiltAgainst  map[string]string `yaml:"built-against"`  // of each label of a variant, the tool whose major the label names: otp is erlang
	PinIn         string            `yaml:"pin-in"`         // the file in which the tool's own programs read a pin, for remedies; left out where they read none
	Aliases       map[string]string `yaml:"aliases"`        // names that stand for versions in pins, each with what it means: newest, newest-long-term, second-newest or development
	Vendors       map[string]Vendor `yaml:"vendors"`        // makers of its builds, where there are several
	Packages      []PackageKind     `yaml:"packages"`       // how a kit is told from a runtime; the first that fits counts
	Installation  Installation      `yaml:"installation"`   // how an installation is found and tells its version
	Fetches       *Fetching         `yaml:"fetches"`        // when its own programs fetch the version that is asked for; left out where they never do
	Overrides     []Override        `yaml:"overrides"`      // environment variables that beat a pin
	Claims        []ClaimRule       `yaml:"claims"`         // where files speak of its version
	Steps         []Step            `yaml:"steps"`          // steps of pipelines that set it up in words of their own
	Inputs        []string          `yaml:"inputs"`         // keys of pipelines and variables that hold its version and are not called after it
	Spellings     []Spelling        `yaml:"spellings"`      // texts that stand for another one
	Commands      []Pattern         `yaml:"commands"`       // patterns of commands and packages that carry the version in their name, as gcc-12 does; the groups are its numbers
	Frameworks    []Framework       `yaml:"frameworks"`     // libraries that rules speak of beside the tool, with the packages that bring them
	Images        []Image           `yaml:"images"`         // container images whose tag is its version
	Kept          []Pattern         `yaml:"kept"`           // texts of pins that name a build without a version number
	Support       Support           `yaml:"support"`        // until when lines are supported that state no end of their own
	Ends          string            `yaml:"ends"`           // an older word for support: second-next-release is {newest: 2}
	PatchesBelow  int               `yaml:"patches-below"`  // no line ever had a last number this high; left out where that is not known
	Checked       Date              `yaml:"checked"`        // the day on which lines and newest releases were looked up; what came out later is not called unknown
	Sources       []string          `yaml:"sources"`        // where the figures come from, and which are recalled and not proved
	Lines         []*Line           `yaml:"lines"`          // release lines with their dates
	scheme        version.Scheme
	systems       []string
	file          string // for messages
	text          []byte
}

// Text is the file that describes the tool.
func (t *Tool) Text() []byte { return t.text }

// Systems are the labels that stand for the system below an installation.
func (t *Tool) Systems() []string { return t.systems }

// Scheme is the order of the tool's versions.
func (t *Tool) Scheme() version.Scheme { return t.scheme }

// Vendor is one maker of a tool's builds: how pins name it and how its installations do.
type Vendor struct {
	Labels []string `yaml:"labels"` // what pins and images call it
	Maker  Pattern  `yaml:"maker"`  // what its installations say of who made them
}

// PackageKind tells a kit from a runtime by a file beside the executable.
type PackageKind struct {
	Kind   string `yaml:"kind"`   // kit or runtime
	Beside string `yaml:"beside"` // relative to the installation's home; empty matches always
}

// Installation says how an installation of the tool is laid out.
type Installation struct {
	Executables []string               `yaml:"executables"` // base names, globs allowed, best first
	Inside      []string               `yaml:"inside"`      // folders below the home that hold them
	Script      string                 `yaml:"script"`      // a file of the home, glob allowed, that shows that a shell script is the tool's own and no proxy
	Version     []VersionSource        `yaml:"version"`     // where the version is told; tried in order
	Maker       *FilePattern           `yaml:"maker"`       // the file that names the vendor
	NotBeside   []string               `yaml:"not-beside"`  // files in the home that show it is no installation of its own
	Components  map[string]FilePattern `yaml:"components"`  // what comes with it, each with where its version is told
	Packages    []PackageFiles         `yaml:"packages"`    // where packages that were installed into it are told of; none where that is not known
	Needs       []Need                 `yaml:"needs"`       // parts without which it does not work
	Parts       []PartFiles            `yaml:"parts"`       // what a kit can hold: compiler, debugger, build-tool, headers, sources
	Each        []Each                 `yaml:"each"`        // versions that lie side by side in one home
	// Kept are files of the home that show that a clone was made an installation, where the tool
	// is installed by cloning it: version control does not keep them.
	Kept []string `yaml:"kept"`
}

// PackageFiles are files of which each tells of one package that was installed into an
// installation. The patterns' first groups are its name and its version.
type PackageFiles struct {
	File    string  `yaml:"file"`    // below the home, globs allowed
	Name    Pattern `yaml:"name"`    // its group is the package's name
	Version Pattern `yaml:"version"` // its group is the package's version
	Named   Pattern `yaml:"named"`   // instead of both, of the file's path below the home: its groups are the name and the version
}

// VersionSource is one way to learn an installation's version: from a file below its home,
// from the name of one, or by running the executable with arguments. The pattern's groups
// are joined with dots. What the system's packages tell is looked up after the files.
type VersionSource struct {
	File   string   `yaml:"file"`   // below the home, globs allowed
	Entry  string   `yaml:"entry"`  // in the file, which is then an archive: a jar
	Name   string   `yaml:"name"`   // a file, glob allowed, whose path below the home the pattern is of
	Newest []string `yaml:"newest"` // several such files: the newest of what their paths tell is what runs
	// Itself is true where the executable's own bytes are searched. The pattern begins with
	// plain text then.
	Itself  bool     `yaml:"itself"`
	Run     []string `yaml:"run"`     // arguments with which the executable tells its version; used where nothing else does
	Pattern Pattern  `yaml:"pattern"` // its groups, joined with dots, are the version
}

// leastPlain is with how much plain text a pattern begins that is searched for.
const leastPlain = 5

// Need is a part without which an installation does not work.
type Need struct {
	Any []string `yaml:"any"` // files or folders below the home, globs allowed, of which one has to be there
	Why string   `yaml:"why"` // what it is
}

// PartFiles are where a part of a kit lies: a compiler, a debugger, a build tool, headers,
// sources.
type PartFiles struct {
	Name string   `yaml:"name"` // what the part is called
	Any  []string `yaml:"any"`  // below the home, globs allowed
	// Shows lists files that a kit alone has: where one of them is there and the part is not,
	// the installation is half a kit.
	Shows []string `yaml:"shows"`
	Why   string   `yaml:"why"` // what is then said
}

// Each describes versions that lie side by side in one home and share its executable.
type Each struct {
	Folders string `yaml:"folders"` // below the home, a glob; their names are the versions
	Package string `yaml:"package"` // the kind of installation that they are: kit or runtime
	Unless  string `yaml:"unless"`  // they count only where nothing matches this glob
}

// FilePattern takes the first group of a pattern from a file below an installation's home.
type FilePattern struct {
	File    string  `yaml:"file"`    // below the home
	Pattern Pattern `yaml:"pattern"` // its group is what is looked for
}

// Override is an environment variable that beats a repository's pin: with a version, or
// with the path of an installation.
type Override struct {
	Variable string    `yaml:"variable"` // its name
	Locates  bool      `yaml:"locates"`  // its value is the home of an installation
	Ignore   []Pattern `yaml:"ignore"`   // values that say nothing
}

// Pattern is a regular expression in YAML; its zero value matches nothing.
type Pattern struct{ *regexp.Regexp }

// UnmarshalYAML compiles the expression and reports the line of a bad one.
func (p *Pattern) UnmarshalYAML(n *yaml.Node) error {
	re, err := regexp.Compile(n.Value)
	if err != nil {
		return fmt.Errorf("'%s' is no regular expression: %s", n.Value, strings.TrimPrefix(err.Error(), "error parsing regexp: "))
	}
	p.Regexp = re
	return nil
}

// Date is a day without a time, UTC.
type Date struct{ time.Time }

// UnmarshalYAML reads 2026-11-16.
func (d *Date) UnmarshalYAML(n *yaml.Node) error {
	t, err := time.Parse(time.DateOnly, n.Value)
	if err != nil {
		return fmt.Errorf("%q is not a date such as 2026-11-16", n.Value)
	}
	d.Time = t
	return nil
}

// Embedded is the catalogue that comes with Wexo.
func Embedded() (*Catalogue, error) { return Load(Shipped()) }

// Load reads tools/*.yaml of catalogue folders. A later folder's tool replaces one of the
// same name. Its errors are Problems, joined.
func Load(folders ...fs.FS) (*Catalogue, error) {
	c := &Catalogue{byName: map[string]*Tool{}, images: map[string][]ImageOf{}, frameworks: map[string]component{},
		steps: map[string][]StepOf{}, inputs: map[string]*Tool{}}
	var err error
	if c.places, err = embeddedPlaces(); err != nil {
		return nil, err
	}
	sum := sha256.New()
	files := replaced(folders)
	var problems []error
	for _, file := range files {
		sum.Write(file.data)
		if problems = append(problems, file.problems...); len(file.problems) == 0 {
			problems = append(problems, c.add(file)...)
		}
	}
	for _, file := range files {
		if file.tool.scheme != version.NoScheme {
			problems = append(problems, c.together(file)...)
		}
	}
	slices.SortFunc(c.tools, ByName)
	problems = append(problems, c.formats(folders, sum))
	c.digest = hex.EncodeToString(sum.Sum(nil))[:16]
	return c, errors.Join(problems...)
}

// together finds what is wrong with what a tool says of other tools.
func (c *Catalogue) together(f toolFile) []error {
	known := &checking{file: f}
	switch host, there := c.Tool(f.tool.BundledWith); {
	case f.tool.BundledWith == "":
	case !there:
		known.fail(known.at("bundled-with"), "%s is bundled with %q, and no file describes such a tool; %s", f.tool.Title, f.tool.BundledWith, nearest.Hint(f.tool.BundledWith, c.Names()))
	case host == f.tool:
		known.fail(known.at("bundled-with"), "%s cannot be bundled with itself", f.tool.Title)
	case c.circular(f.tool):
		known.fail(known.at("bundled-with"), "%s is bundled with %s, which in the end is bundled with it", f.tool.Title, host.Title)
	}
	for _, label := range slices.Sorted(maps.Keys(f.tool.BuiltAgainst)) {
		name := f.tool.BuiltAgainst[label]
		if _, there := c.Tool(name); !there {
			known.fail(known.at("built-against", label), "the variant %s of %s is built against %q, and no file describes such a tool; %s", label, f.tool.Title, name, nearest.Hint(name, c.Names()))
		}
	}
	return known.problems
}

// circular reports whether what a tool comes with comes with the tool itself in the end.
func (c *Catalogue) circular(t *Tool) bool {
	at := t
	for range c.tools {
		next, there := c.Tool(at.BundledWith)
		switch {
		case !there || at.BundledWith == "":
			return false
		case next == t:
			return true
		}
		at = next
	}
	return false // a circle that others are in
}

// replaced are the files of all folders, without those whose tool a later folder describes
// too.
func replaced(folders []fs.FS) []toolFile {
	var out []toolFile
	for _, dir := range folders {
		names, _ := fs.Glob(dir, "tools/*.yaml") // the pattern is one
		files := parsed(dir, names)
		for _, later := range files {
			out = slices.DeleteFunc(out, func(f toolFile) bool { return later.tool.Name != "" && f.tool.Name == later.tool.Name })
		}
		out = append(out, files...)
	}
	return out
}

// Digest changes with what is known of tools.
func (c *Catalogue) Digest() string { return c.digest }

// toolFile is one file of the catalogue.
type toolFile struct {
	name       string
	data       []byte
	root       *yaml.Node // nil where the file is empty or broken
	tool       *Tool
	problems   []error
	restricted bool // it comes from a folder whose tools are asked with few arguments
}

// parsed reads the files side by side: it is most of what every command begins with.
func parsed(dir fs.FS, names []string) []toolFile {
	out := make([]toolFile, len(names))
	var g errgroup.Group
	for i, name := range names {
		g.Go(func() error {
			out[i] = parseTool(dir, name)
			return nil
		})
	}
	_ = g.Wait() // each file keeps its own problems
	return out
}

func parseTool(dir fs.FS, name string) toolFile {
	f := toolFile{name: Called(dir, name), tool: &Tool{}, restricted: restricted(dir)}
	var err error
	if f.data, err = fs.ReadFile(dir, name); err == nil {
		f.root, err = Document(f.data, f.name)
	}
	switch {
	case err != nil:
		f.problems = []error{err}
	case f.root == nil:
		f.problems = []error{Problem{f.name, 1, "the file is empty; a tool has at least tool, title, scheme and dialect"}}
	default:
		f.problems = f.check()
	}
	return f
}

// add makes a tool known; names that belong to another one are told.
func (c *Catalogue) add(f toolFile) []error {
	t, taken := f.tool, &checking{file: f}
	for i, name := range append([]string{t.Name}, t.Names...) {
		at := taken.at("tool")
		if i > 0 {
			at = taken.at("names", strconv.Itoa(i-1))
		}
		name = strings.ToLower(name)
		if other := c.byName[name]; other != nil {
			taken.fail(at, "the name %q already belongs to %s (%s)", name, other.Title, other.file)
			continue
		}
		c.byName[name] = t
	}
	for i, f := range t.Frameworks {
		if other, known := c.frameworks[f.Name]; known {
			taken.fail(taken.at("frameworks", strconv.Itoa(i), "name"), "the framework %q is already described by %s", f.Name, other.tool.Title)
			continue
		}
		c.frameworks[f.Name] = component{t, i}
	}
	t.systems = c.places.Systems
	c.tools = append(c.tools, t)
	for i := range t.Claims {
		rules, err := t.Claims[i].instances(t.Frameworks)
		if err != nil {
			taken.fail(taken.at("claims", strconv.Itoa(i), "pattern"), "%v", err)
		}
		for _, rule := range rules {
			c.files.add(rule.Files, Use{t, rule}, "")
		}
	}
	c.files.add(t.Uses, Use{Tool: t}, "")
	c.addSteps(t)
	for _, image := range t.Images {
		if image.Named.Regexp != nil {
			c.named = append(c.named, ImageOf{t, image})
			continue
		}
		last := image.Name[strings.LastIndexByte(image.Name, '/')+1:]
		c.images[last] = append(c.images[last], ImageOf{t, image})
	}
	return taken.problems
}

// ByName orders tools by their names.
func ByName(a, b *Tool) int { return strings.Compare(a.Name, b.Name) }

// Names lists the names of all tools, sorted.
func (c *Catalogue) Names() []string {
	out := make([]string, len(c.tools))
	for i, t := range c.tools {
		out[i] = t.Name
	}
	slices.Sort(out)
	return out
}

// Tools lists every tool, sorted by name.
func (c *Catalogue) Tools() []*Tool { return c.tools }

// Tool finds a tool by its name or one of its other names, in any case.
func (c *Catalogue) Tool(name string) (*Tool, bool) {
	t, ok := c.byName[strings.ToLower(name)]
	return t, ok
}

// Uses lists every claim rule with its tool, rules for frameworks one for each package.
func (c *Catalogue) Uses() []Use {
	var out []Use
	seen := map[*ClaimRule]bool{}
	for _, list := range c.files.all() {
		for _, f := range list {
			if f.use.Rule != nil && !seen[f.use.Rule] {
				seen[f.use.Rule] = true
				out = append(out, f.use)
			}
		}
	}
	return out
}
