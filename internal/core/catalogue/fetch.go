package catalogue

import (
	"slices"

	"wexo/internal/core/version"
)

// Fetching says when a tool's own programs fetch the version that a repository asks for, so that
// what is installed only starts it.
type Fetching struct {
	From     string         `yaml:"from"`     // an installation of this version or newer fetches; left out where only a proxy does
	Proxies  bool           `yaml:"proxies"`  // an executable that passes calls on fetches what it is asked for
	Variable string         `yaml:"variable"` // the environment variable that switches it off
	Off      Pattern        `yaml:"off"`      // values of the variable with which nothing is fetched
	Settings []FetchSetting `yaml:"settings"` // files of a machine that set the variable
	Unless   []FetchSwitch  `yaml:"unless"`   // files of a repository that switch it off
	from     version.Version
}

// FetchSetting is a file of a machine in which the variable may be set.
type FetchSetting struct {
	File    string  `yaml:"file"`    // below the user's home where it begins with a tilde, otherwise below that of the installation
	Pattern Pattern `yaml:"pattern"` // its group is the value
}

// FetchSwitch is where a file of a repository switches fetching off, for its folder and those below.
type FetchSwitch struct {
	Files   []string `yaml:"files"`   // base names
	Pattern Pattern  `yaml:"pattern"` // what then stands in the file
}

// ByVersion reports whether an installation of a version fetches what it is asked for.
func (f *Fetching) ByVersion(v version.Version) bool {
	return !f.from.IsZero() && !v.IsZero() && v.Compare(f.from) >= 0
}

// All reports whether every installation of a set fetches what it is asked for.
func (f *Fetching) All(set version.Set) bool {
	return !f.from.IsZero() && set.SubsetOf(version.AtLeast(f.from))
}

// SwitchedOff reports whether a variable's value switches fetching off.
func (f *Fetching) SwitchedOff(variable, value string) bool {
	return variable == f.Variable && value != "" && f.Variable != "" && f.Off.Regexp != nil && f.Off.FindString(value) == value
}

// SaysNothing reports whether a value of an overriding variable chooses no version.
func (t *Tool) SaysNothing(variable, value string) bool {
	return slices.ContainsFunc(t.Overrides, func(o Override) bool {
		return o.Variable == variable && slices.ContainsFunc(o.Ignore, func(p Pattern) bool { return p.FindString(value) == value })
	})
}

// fetching checks from which version on a tool fetches others.
func (c *checking) fetching() {
	f := c.tool.Fetches
	if f == nil {
		return
	}
	var err error
	if f.from, err = c.tool.scheme.Parse(f.From); f.From != "" && err != nil {
		c.fail(c.at("fetches", "from"), "fetches from %q, which is no version: %v", f.From, err)
	}
	if f.From == "" {
		f.from = version.Version{}
		if !f.Proxies {
			c.fail(c.at("fetches"), "fetches should say from which version on, or that proxies do")
		}
	}
}

// Switches reports whether a file of a repository with this base name may switch fetching off.
func (c *Catalogue) Switches(base string) bool {
	return slices.ContainsFunc(c.tools, func(t *Tool) bool {
		return t.Fetches != nil && slices.ContainsFunc(t.Fetches.Unless, func(s FetchSwitch) bool { return slices.Contains(s.Files, base) })
	})
}

// SwitchesOff are the tools that fetch nothing where a file of a repository with this base name
// and text lies.
func (c *Catalogue) SwitchesOff(base string, data []byte) (off []string) {
	for _, t := range c.tools {
		if t.Fetches != nil && slices.ContainsFunc(t.Fetches.Unless, func(s FetchSwitch) bool { return slices.Contains(s.Files, base) && s.Pattern.Match(data) }) {
			off = append(off, t.Name)
		}
	}
	return off
}
