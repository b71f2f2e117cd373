package catalogue

import (
	"regexp"

	"wexo/internal/core/version"
)

// Dropped says from which version on a tool refuses levels that code may be written for.
type Dropped struct {
	Below string `yaml:"below"` // levels older than this one
	By    string `yaml:"by"`    // the first version that refuses them
	below version.Version
	by    version.Version
}

// levelled is the last number of a text that names a level: of a range, its upper end.
var levelled = regexp.MustCompile(`(\d+(?:\.\d+)*)\D*$`)

// Builds is which versions of the tool still build what is written for a level.
func (t *Tool) Builds(level string) version.Set {
	out := version.All(t.scheme)
	m := levelled.FindStringSubmatch(level)
	if m == nil {
		return out
	}
	v, err := t.scheme.Parse(m[1])
	if err != nil {
		return out
	}
	for _, d := range t.Dropped {
		if v.Compare(d.below) < 0 {
			out = out.Intersect(version.LessThan(d.by))
		}
	}
	return out
}

// dropping reads the versions of what is dropped.
func (c *checking) dropping() {
	for i := range c.tool.Dropped {
		d := &c.tool.Dropped[i]
		var err, other error
		d.below, err = c.tool.scheme.Parse(d.Below)
		if d.by, other = c.tool.scheme.Parse(d.By); err != nil || other != nil || d.Below == "" || d.By == "" {
			c.fail(c.at("dropped"), "dropped should say below which level (%q), and by which version (%q)", d.Below, d.By)
		}
	}
}
