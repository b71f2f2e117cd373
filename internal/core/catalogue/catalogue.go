// Package catalogue holds what is known of tools, as data: names, version scheme,
// how an installation shows its version, the claims it makes in manifests, and its
// support lines. One YAML file a tool stands in data/tools; adding a tool is adding a file.
// What must go together, package rule's matter, stands beside it in data/rules and
// data/baselines.
package catalogue

import (
	"bytes"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"regexp"
	"slices"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"
	"golang.org/x/sync/errgroup"

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

// Tool is one kind of toolchain.
type Tool struct {
	Name          string            `yaml:"tool"`
	Title         string            `yaml:"title"`
	Names         []string          `yaml:"names"`
	SchemeName    string            `yaml:"scheme"`
	Dialect       string            `yaml:"dialect"`
	SetupDialect  string            `yaml:"setup-dialect"` // of ranges in pipelines; empty where only versions stand there
	Uses          []string          `yaml:"uses"`          // files that show a folder uses the tool
	BoundsSuffice bool              `yaml:"bounds-suffice"`
	Levels        bool              `yaml:"levels"` // what is asked for as a minimum is what the code runs on, and no newer one stands in for it
	BundledWith   string            `yaml:"bundled-with"`
	BuiltAgainst  map[string]string `yaml:"built-against"` // of each variant's label, the tool whose major it names
	PinIn         string            `yaml:"pin-in"`        // where the tool's own programs read a pin from; empty where they read none
	Aliases       map[string]string `yaml:"aliases"`
	Vendors       map[string]Vendor `yaml:"vendors"`
	Packages      []PackageKind     `yaml:"packages"`
	Installation  Installation      `yaml:"installation"`
	Overrides     []Override        `yaml:"overrides"`
	Claims        []ClaimRule       `yaml:"claims"`
	Steps         []Step            `yaml:"steps"`     // steps of pipelines that set the tool up in words of their own
	Inputs        []string          `yaml:"inputs"`    // further keys in pipelines beside which its version stands
	Spellings     []Spelling        `yaml:"spellings"` // texts in pipelines and images that stand for another
	Commands      []Pattern         `yaml:"commands"`  // texts that name the tool with its version, as gcc-12; the groups are the version's numbers
	Frameworks    []Framework       `yaml:"frameworks"`
	Images        []Image           `yaml:"images"`
	Kept          []Pattern         `yaml:"kept"` // texts of pins that name a build without a version number
	Ends          string            `yaml:"ends"`
	PatchesBelow  int               `yaml:"patches-below"` // no line ever had a last number this high; 0 where unknown
	Checked       Date              `yaml:"checked"`
	Sources       []string          `yaml:"sources"`
	Lines         []*Line           `yaml:"lines"`
	scheme        version.Scheme
	systems       []string
}

// Systems are the labels that stand for the system below an installation.
func (t *Tool) Systems() []string { return t.systems }

// Scheme is the order of the tool's versions.
func (t *Tool) Scheme() version.Scheme { return t.scheme }

// Vendor is one maker of a tool's builds: how pins name it and how its installations do.
type Vendor struct {
	Labels []string `yaml:"labels"`
	Maker  Pattern  `yaml:"maker"`
}

// PackageKind tells a kit from a runtime by a file beside the executable.
type PackageKind struct {
	Kind   string `yaml:"kind"`
	Beside string `yaml:"beside"` // relative to the installation's home; empty matches always
}

// Installation says how an installation of the tool is laid out.
type Installation struct {
	Executables []string               `yaml:"executables"` // base names, globs allowed, best first
	Inside      []string               `yaml:"inside"`      // folders below the home that hold them
	Script      string                 `yaml:"script"`      // a file of the home, glob allowed, that shows that a shell script is the tool's own and no proxy
	Version     []VersionSource        `yaml:"version"`     // tried in order
	Maker       *FilePattern           `yaml:"maker"`
	NotBeside   []string               `yaml:"not-beside"` // files in the home that show it is no installation of its own
	Components  map[string]FilePattern `yaml:"components"`
	Packages    []PackageFiles         `yaml:"packages"` // where packages that were installed into it are told of; none where that is not known
	Needs       []Need                 `yaml:"needs"`
	Parts       []PartFiles            `yaml:"parts"`
	Each        []Each                 `yaml:"each"`
}

// PackageFiles are files of which each tells of one package that was installed into an
// installation. The patterns' first groups are its name and its version.
type PackageFiles struct {
	File    string  `yaml:"file"` // below the home, globs allowed
	Name    Pattern `yaml:"name"`
	Version Pattern `yaml:"version"`
	Named   Pattern `yaml:"named"` // instead of both, of the file's path below the home: its groups are the name and the version
}

// VersionSource is one way to learn an installation's version: from a file below its home,
// from the name of one, or by running the executable with arguments. The pattern's groups
// are joined with dots. What the system's packages tell is looked up after the files.
type VersionSource struct {
	File   string   `yaml:"file"`
	Entry  string   `yaml:"entry"`  // in the file, which is then an archive: a jar
	Name   string   `yaml:"name"`   // a file, glob allowed, whose path below the home the pattern is of
	Newest []string `yaml:"newest"` // several such files: the newest of what their paths tell is what runs
	// Itself is true where the executable's own bytes are searched. The pattern begins with
	// plain text then.
	Itself  bool     `yaml:"itself"`
	Run     []string `yaml:"run"`
	Pattern Pattern  `yaml:"pattern"`
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
	Name string   `yaml:"name"`
	Any  []string `yaml:"any"` // below the home, globs allowed
	// Shows lists files that a kit alone has: where one of them is there and the part is not,
	// the installation is half a kit.
	Shows []string `yaml:"shows"`
	Why   string   `yaml:"why"` // what is then said
}

// Each describes versions that lie side by side in one home and share its executable.
type Each struct {
	Folders string `yaml:"folders"` // below the home, a glob; their names are the versions
	Package string `yaml:"package"`
	Unless  string `yaml:"unless"` // they count only where nothing matches this glob
}

// FilePattern takes the first group of a pattern from a file below an installation's home.
type FilePattern struct {
	File    string  `yaml:"file"`
	Pattern Pattern `yaml:"pattern"`
}

// Override is an environment variable that beats a repository's pin: with a version, or
// with the path of an installation.
type Override struct {
	Variable string    `yaml:"variable"`
	Locates  bool      `yaml:"locates"` // its value is the home of an installation
	Ignore   []Pattern `yaml:"ignore"`
}

// Pattern is a regular expression in YAML; its zero value matches nothing.
type Pattern struct{ *regexp.Regexp }

// UnmarshalYAML compiles the expression and reports the line of a bad one.
func (p *Pattern) UnmarshalYAML(n *yaml.Node) error {
	re, err := regexp.Compile(n.Value)
	if err != nil {
		return fmt.Errorf("line %d: %w", n.Line, err)
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
		return fmt.Errorf("line %d: %q is not a date such as 2026-11-16", n.Line, n.Value)
	}
	d.Time = t
	return nil
}

// Embedded is the catalogue that comes with Wexo.
func Embedded() (*Catalogue, error) { return Load(Shipped()) }

// Load reads tools/*.yaml of catalogue folders. A later folder's tool replaces one of the
// same name. Errors name the file and the line.
func Load(folders ...fs.FS) (*Catalogue, error) {
	c := &Catalogue{byName: map[string]*Tool{}, images: map[string][]ImageOf{}, frameworks: map[string]component{},
		steps: map[string][]StepOf{}, inputs: map[string]*Tool{}}
	var err error
	if c.places, err = embeddedPlaces(); err != nil {
		return nil, err
	}
	sum := sha256.New()
	var problems []error
	for _, file := range replaced(folders, &problems) {
		if file.err == nil {
			sum.Write(file.data)
			file.err = errors.Join(file.check(), c.add(file.tool))
		}
		if file.err != nil {
			problems = append(problems, fmt.Errorf("catalogue file %s: %w", file.name, file.err))
		}
	}
	slices.SortFunc(c.tools, ByName)
	for _, t := range c.tools {
		problems = append(problems, c.together(t))
	}
	problems = append(problems, c.formats(folders, sum))
	c.digest = hex.EncodeToString(sum.Sum(nil))[:16]
	return c, errors.Join(problems...)
}

// together checks what a tool says of other tools.
func (c *Catalogue) together(t *Tool) error {
	if _, known := c.Tool(t.BundledWith); t.BundledWith != "" && !known {
		return fmt.Errorf("%s is bundled with %q, and no file describes such a tool", t.Title, t.BundledWith)
	}
	for label, name := range t.BuiltAgainst {
		if _, known := c.Tool(name); !known {
			return fmt.Errorf("the variant %s of %s is built against %q, and no file describes such a tool", label, t.Title, name)
		}
	}
	return nil
}

// replaced are the files of all folders, without those whose tool a later folder describes
// too.
func replaced(folders []fs.FS, problems *[]error) []toolFile {
	var out []toolFile
	for _, dir := range folders {
		names, err := fs.Glob(dir, "tools/*.yaml")
		if err != nil {
			*problems = append(*problems, err)
		}
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
	name string
	data []byte
	tool *Tool
	err  error
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
	_ = g.Wait() // each file keeps its own error
	return out
}

func parseTool(dir fs.FS, name string) toolFile {
	f := toolFile{name: name, tool: &Tool{}}
	if f.data, f.err = fs.ReadFile(dir, name); f.err != nil {
		return f
	}
	decoder := yaml.NewDecoder(bytes.NewReader(f.data))
	decoder.KnownFields(true)
	f.err = decoder.Decode(f.tool)
	return f
}

func (c *Catalogue) add(t *Tool) error {
	if err := t.check(); err != nil {
		return err
	}
	for _, name := range append([]string{t.Name}, t.Names...) {
		name = strings.ToLower(name)
		if other, taken := c.byName[name]; taken {
			return fmt.Errorf("the name %q already belongs to %s", name, other.Title)
		}
		c.byName[name] = t
	}
	for i, f := range t.Frameworks {
		if other, taken := c.frameworks[f.Name]; taken {
			return fmt.Errorf("the framework %q is already described by %s", f.Name, other.tool.Title)
		}
		c.frameworks[f.Name] = component{t, i}
	}
	t.systems = c.places.Systems
	c.tools = append(c.tools, t)
	for i := range t.Claims {
		rules, err := t.Claims[i].instances(t.Frameworks)
		if err != nil {
			return err
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
	return nil
}

func (t *Tool) check() error {
	if t.Name == "" || t.Title == "" {
		return errors.New("tool and title must be given")
	}
	scheme, ok := version.SchemeNamed(t.SchemeName)
	if !ok {
		return errors.New("a known scheme must be given")
	}
	t.scheme = scheme
	for _, f := range t.Frameworks {
		if _, ok := version.SchemeNamed(f.Scheme); f.Scheme != "" && !ok {
			return fmt.Errorf("framework %s: unknown scheme %q; known are %s", f.Name, f.Scheme, strings.Join(version.SchemeNames(), ", "))
		}
	}
	for _, source := range t.Installation.Version {
		if !source.Itself {
			continue
		}
		if plain, _ := source.Pattern.LiteralPrefix(); len(plain) < leastPlain {
			return fmt.Errorf("installation.version: a pattern that is searched for in executables begins with plain text of at least %d characters; %q does not", leastPlain, source.Pattern)
		}
	}
	return t.readLines()
}

// ByName orders tools by their names.
func ByName(a, b *Tool) int { return strings.Compare(a.Name, b.Name) }

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
