package inventory

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"
)

// Limits of an inventory; a large machine has some hundred installations.
const (
	MaxInstallations = 5_000
	MaxChoices       = 1_000  // executables on PATH, defaults and overrides, of each
	MaxParts         = 20_000 // components and packages of one installation, of each
	maxName          = 200    // characters of a name, a version or a label
	maxPath          = 4_096  // characters of a path or a text in words
)

// ErrNoJSON is a text that is no JSON at all, or not whole.
var ErrNoJSON = errors.New("it is no JSON")

// Kinds are the kinds of machines, the unknown one among them.
var Kinds = []string{"", "laptop", "build-agent", "image", "subsystem", "server"}

// checking collects the first thing that is wrong.
type checking struct{ err error }

func (c *checking) fail(field, format string, args ...any) {
	if c.err == nil {
		c.err = fmt.Errorf("%s %s", field, fmt.Sprintf(format, args...))
	}
}

// text checks one text.
func (c *checking) text(field, text string, most int) {
	if why := wrong(text, most); why != "" {
		c.fail(field, "%s", why)
	}
}

// wrong tells what is wrong with a text. Controls are refused in all of them: none is part of
// a name, a version or a path that a program could be run by.
func wrong(text string, most int) string {
	if len(text) <= most && isPlain(text) { // as nearly all are
		return ""
	}
	switch {
	case utf8.RuneCountInString(text) > most:
		return fmt.Sprintf("has %d characters; at most %d are taken", utf8.RuneCountInString(text), most)
	case !utf8.ValidString(text):
		return "is not valid UTF-8"
	case strings.ContainsFunc(text, func(r rune) bool { return unicode.IsControl(r) || unicode.Is(unicode.Bidi_Control, r) }):
		return "holds a control character"
	}
	return ""
}

// isPlain reports whether a text is of printing ASCII characters alone.
func isPlain(text string) bool {
	for i := range len(text) {
		if text[i] < ' ' || text[i] > '~' {
			return false
		}
	}
	return true
}

func (c *checking) oneOf(field, text string, known []string) {
	if !slices.Contains(known, text) {
		c.fail(field, "should be one of %s", strings.TrimPrefix(strings.Join(known, ", "), ", "))
	}
}

func (c *checking) parts(field string, parts map[string]string) {
	if len(parts) > MaxParts {
		c.fail(field, "has %d entries; at most %d are taken", len(parts), MaxParts)
		return
	}
	for name, text := range parts {
		if wrong(name, maxName) == "" && wrong(text, maxName) == "" {
			continue
		}
		for _, name := range slices.Sorted(maps.Keys(parts)) { // the first that is wrong is told
			c.text(field+": a name", name, maxName)
			c.text(field+"["+fmt.Sprintf("%.40q", name)+"]", parts[name], maxName)
		}
		return
	}
}

// Check tells what keeps an inventory from being taken; errors name the field.
func (inv Inventory) Check() error {
	c := &checking{}
	if inv.Format != Format {
		return fmt.Errorf("format is %.60q; %q is read", inv.Format, Format)
	}
	if strings.TrimSpace(inv.Machine.Name) == "" {
		return errors.New("machine.name is missing")
	}
	m := inv.Machine
	c.text("machine.name", m.Name, maxName)
	if strings.TrimSpace(m.Name) != m.Name {
		c.fail("machine.name", "begins or ends with a space")
	}
	if m.Name == "." || m.Name == ".." {
		c.fail("machine.name", "is a folder's name, and no machine's")
	}
	if strings.ContainsFunc(m.Name, func(r rune) bool { return unicode.In(r, unicode.Cf, unicode.Other_Default_Ignorable_Code_Point) }) {
		c.fail("machine.name", "holds a character that nobody sees")
	}
	c.text("machine.os", m.OS, maxName)
	c.text("machine.arch", m.Arch, maxName)
	c.text("machine.home", m.Home, maxPath)
	c.oneOf("machine.kind", m.Kind, Kinds)
	for _, list := range []struct {
		field string
		n     int
		most  int
	}{{"installations", len(inv.Installations), MaxInstallations}, {"firstOnPath", len(inv.FirstOnPath), MaxChoices}, {"defaults", len(inv.Defaults), MaxChoices}, {"overrides", len(inv.Overrides), MaxChoices},
		{"proxies", len(inv.Proxies), MaxChoices}, {"searchPath", len(inv.SearchPath), MaxChoices}, {"startup", len(inv.Startup), MaxChoices},
		{"editors", len(inv.Editors), MaxChoices}, {"checkouts", len(inv.Checkouts), MaxInstallations}, {"passedOver", len(inv.PassedOver), MaxChoices}} {
		if list.n > list.most {
			c.fail(list.field, "has %d entries; at most %d are taken", list.n, list.most)
		}
	}
	c.text("machine.parent", m.Parent, maxName)
	c.text("reportEvery", inv.ReportEvery, maxName)
	if inv.ReportEvery != "" && inv.Every() < time.Minute {
		c.fail("reportEvery", "should be a time such as 6h, of a minute at least")
	}
	for i, in := range inv.Installations {
		c.installation(fmt.Sprintf("installations[%d]", i), in)
	}
	for i, p := range inv.FirstOnPath {
		c.texts(fmt.Sprintf("firstOnPath[%d]", i), "tool", p.Tool, "path", p.Path, "version", p.Version)
	}
	for i, d := range inv.Defaults {
		c.texts(fmt.Sprintf("defaults[%d]", i), "tool", d.Tool, "raw", d.Raw, "path", d.Source, "path", d.Path)
	}
	for i, o := range inv.Overrides {
		c.texts(fmt.Sprintf("overrides[%d]", i), "tool", o.Tool, "variable", o.Variable, "path", o.Raw, "path", o.Source)
	}
	c.around(inv)
	return c.err
}

// around checks what is told beside installations.
func (c *checking) around(inv Inventory) {
	for i, p := range inv.Proxies {
		at := fmt.Sprintf("proxies[%d]", i)
		c.texts(at, "tool", p.Tool, "path", p.Path, "path", p.Leads, "path", p.Root, "path", p.Picks, "version", p.Version, "path", p.Because)
		if len(p.Folders) > MaxChoices {
			c.fail(at+".folders", "has %d entries; at most %d are taken", len(p.Folders), MaxChoices)
			continue
		}
		for n, f := range p.Folders {
			c.texts(fmt.Sprintf("%s.folders[%d]", at, n), "path", f.Folder, "raw", f.Raw, "path", f.Home, "version", f.Version, "path", f.Source)
		}
	}
	for i, f := range inv.SearchPath {
		at := fmt.Sprintf("searchPath[%d]", i)
		c.texts(at, "path", f.Folder, "path", f.From)
		if len(f.Tools) > MaxChoices {
			c.fail(at+".tools", "has %d entries; at most %d are taken", len(f.Tools), MaxChoices)
			continue
		}
		for n, t := range f.Tools {
			c.texts(fmt.Sprintf("%s.tools[%d]", at, n), "tool", t.Tool, "name", t.Name, "path", t.Leads, "version", t.Version)
		}
	}
	for i, l := range inv.Startup {
		c.texts(fmt.Sprintf("startup[%d]", i), "path", l.File, "variable", l.Variable, "path", l.Raw, "path", l.Value)
	}
	for i, w := range inv.Editors {
		at := fmt.Sprintf("editors[%d]", i)
		c.texts(at, "tool", w.Tool, "kind", w.Kind, "editor", w.Editor, "name", w.Name, "path", w.Path, "version", w.Version, "path", w.Source)
		c.oneOf(at+".kind", w.Kind, []string{WiredName, WiredSetting})
	}
	for i, o := range inv.PassedOver {
		c.texts(fmt.Sprintf("passedOver[%d]", i), "tool", o.Tool, "path", o.Path)
		c.text(fmt.Sprintf("passedOver[%d].why", i), o.Why, maxPath)
	}
	for i, o := range inv.Checkouts {
		c.texts(fmt.Sprintf("checkouts[%d]", i), "path", o.Path, "identity", o.Identity)
	}
}

// texts checks pairs of a field and its text; paths may be longer than names.
func (c *checking) texts(field string, pairs ...string) {
	for i := 0; i < len(pairs); i += 2 {
		most := maxName
		if pairs[i] == "path" || pairs[i] == "home" || pairs[i] == "healthReason" {
			most = maxPath
		}
		c.text(field+"."+pairs[i], pairs[i+1], most)
	}
}

func (c *checking) installation(field string, in Installation) {
	if in.Tool == "" || in.Path == "" {
		c.fail(field, "needs tool and path")
	}
	c.texts(field, "tool", in.Tool, "version", in.Version, "vendor", in.Vendor, "variant", in.Variant, "package", in.Package, "path", in.Path, "home", in.Home,
		"origin", in.Origin, "health", in.Health, "healthReason", in.HealthReason, "arch", in.Arch)
	if in.SizeBytes < 0 {
		c.fail(field+".sizeBytes", "is negative")
	}
	c.parts(field+".components", in.Components)
	c.parts(field+".packages", in.Packages)
	if len(in.Parts) > MaxChoices {
		c.fail(field+".parts", "has %d entries; at most %d are taken", len(in.Parts), MaxChoices)
	}
	for name := range in.Parts {
		c.text(field+".parts: a name", name, maxName)
	}
	c.text(field+".systemPackage", in.SystemPackage, maxName)
	c.text(field+".own", in.Own, maxPath)
}

// Read reads an inventory as it comes, and stops where a list has more entries than are
// taken: nobody is made to hold what is refused.
func Read(r io.Reader) (Inventory, error) {
	var inv Inventory
	d := json.NewDecoder(r)
	if open, err := d.Token(); err != nil || open != json.Delim('{') {
		if own := syntaxOf(err); own != nil {
			return inv, own
		}
		return inv, errors.New("it should be a JSON object")
	}
	var given []string
	for d.More() {
		key, err := d.Token()
		if err != nil {
			return inv, syntaxOf(err)
		}
		if name, ok := key.(string); ok && len(given) < MaxChoices {
			if slices.Contains(given, name) {
				return inv, fmt.Errorf("%.60q is given twice", name)
			}
			given = append(given, name)
		}
		switch key {
		case "format":
			err = field(d, "format", &inv.Format)
		case "machine":
			err = field(d, "machine", &inv.Machine)
		case "takenAt":
			err = field(d, "takenAt", &inv.TakenAt)
		case "installations":
			inv.Installations, err = entries[Installation](d, "installations", MaxInstallations)
		case "firstOnPath":
			inv.FirstOnPath, err = entries[OnPath](d, "firstOnPath", MaxChoices)
		case "defaults":
			inv.Defaults, err = entries[Default](d, "defaults", MaxChoices)
		case "overrides":
			inv.Overrides, err = entries[Override](d, "overrides", MaxChoices)
		case "proxies":
			inv.Proxies, err = entries[Proxy](d, "proxies", MaxChoices)
		case "searchPath":
			inv.SearchPath, err = entries[PathFolder](d, "searchPath", MaxChoices)
		case "startup":
			inv.Startup, err = entries[StartupLine](d, "startup", MaxChoices)
		case "editors":
			inv.Editors, err = entries[Wiring](d, "editors", MaxChoices)
		case "checkouts":
			inv.Checkouts, err = entries[Checkout](d, "checkouts", MaxInstallations)
		case "passedOver":
			inv.PassedOver, err = entries[PassedOver](d, "passedOver", MaxChoices)
		case "reportEvery":
			err = field(d, "reportEvery", &inv.ReportEvery)
		default:
			var passed json.RawMessage
			err = field(d, fmt.Sprintf("%.60v", key), &passed)
		}
		if err != nil {
			return inv, err
		}
	}
	if _, err := d.Token(); err != nil {
		return inv, syntaxOf(err)
	}
	if d.More() {
		return inv, errors.New("something stands behind the inventory")
	}
	if err := inv.Check(); err != nil {
		return inv, err
	}
	return inv, complete(given)
}

// The parts of an inventory, and those without which it says nothing.
var (
	parts    = []string{"format", "machine", "takenAt", "installations", "firstOnPath", "defaults", "overrides", "proxies", "searchPath", "startup", "editors", "checkouts", "passedOver", "reportEvery"}
	required = []string{"format", "machine", "installations"}
)

// complete gives an error where a part is missing without which a machine would be taken
// for an empty one. It names a part that is none, since that may be the one that is meant.
func complete(given []string) error {
	for _, part := range required {
		if slices.Contains(given, part) {
			continue
		}
		for _, other := range given {
			if !slices.Contains(parts, other) {
				return fmt.Errorf("%s is missing, and %.60q is no part of an inventory", part, other)
			}
		}
		return fmt.Errorf("%s is missing; where there are none, give an empty list", part)
	}
	return nil
}

func field(d *json.Decoder, name string, to any) error {
	err := d.Decode(to)
	var kind *json.UnmarshalTypeError
	switch {
	case errors.As(err, &kind):
		return fmt.Errorf("%s should be %s", strings.TrimSuffix(name+"."+kind.Field, "."), kindName(kind.Type.Kind().String()))
	case name == "takenAt" && isTime(err):
		return errors.New("takenAt should be a time such as 2026-11-16T08:00:00Z")
	case err != nil:
		if own := syntaxOf(err); own != nil {
			return own
		}
		return fmt.Errorf("%s cannot be understood", name)
	}
	return nil
}

// kindName is what JSON calls a kind of value.
func kindName(kind string) string {
	switch kind {
	case "struct", "map":
		return "an object"
	case "slice":
		return "a list"
	case "string":
		return "a text"
	case "bool":
		return "true or false"
	}
	return "a number"
}

func entries[T any](d *json.Decoder, name string, most int) ([]T, error) {
	open, err := d.Token()
	if err != nil {
		return nil, syntaxOf(err)
	}
	if open == nil {
		return nil, nil
	}
	if open != json.Delim('[') {
		return nil, fmt.Errorf("%s should be a list", name)
	}
	out := []T{}
	for d.More() {
		if len(out) == most {
			return nil, fmt.Errorf("%s has more than %d entries", name, most)
		}
		var one T
		if err := field(d, fmt.Sprintf("%s[%d]", name, len(out)), &one); err != nil {
			return nil, err
		}
		out = append(out, one)
	}
	_, err = d.Token()
	return out, syntaxOf(err)
}

// syntaxOf is an error of the text itself, or of reading it; nil for others.
func syntaxOf(err error) error {
	var syntax *json.SyntaxError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &syntax):
		return fmt.Errorf("%w at byte %d", ErrNoJSON, syntax.Offset)
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
		return fmt.Errorf("%w, for it ends before its end", ErrNoJSON)
	}
	var kind *json.UnmarshalTypeError
	if errors.As(err, &kind) || isTime(err) {
		return nil
	}
	return err
}

// isTime tells whether an error is of a text that should be a time.
func isTime(err error) bool {
	return err != nil && (strings.Contains(err.Error(), "parsing time") || strings.HasPrefix(err.Error(), "Time."))
}
