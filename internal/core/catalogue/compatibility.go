package catalogue

import (
	"bytes"
	"embed"
	"fmt"
	"io/fs"
	"maps"
	"slices"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/version"
)

//go:embed rules/*.yaml
var embeddedRules embed.FS

// Rule is what must go together: where all of When holds, each of Need must too. Names are
// those of tools and components.
type Rule struct {
	Name     string            `yaml:"name"`
	When     map[string]string `yaml:"when"`
	Need     map[string]string `yaml:"need"`
	Because  string            `yaml:"because"`
	Severity string            `yaml:"severity"`
	Source   string            `yaml:"source"`

	when, need map[string]version.Set
}

// Known are versions of tools and components of one folder, as sets that hold them.
type Known map[string]version.Set

// RulesOf are the rules that speak of a tool.
func (c *Catalogue) RulesOf(t *Tool) []*Rule { return c.rules[t.Name] }

// Admits is what the rule leaves of a tool's versions beside what is known of others, and
// whether that is not all.
func (r *Rule) Admits(t *Tool, beside Known) (version.Set, bool) {
	if need, speaks := r.need[t.Name]; speaks && r.holds(beside) {
		return need, true
	}
	if when, speaks := r.when[t.Name]; speaks && r.broken(t.Name, beside) {
		return when.Complement(), true
	}
	return version.All(t.scheme), false
}

// About is the tool or component beside which the rule speaks of a tool.
func (r *Rule) About(t *Tool) string {
	for _, names := range []map[string]string{r.When, r.Need} {
		for _, name := range slices.Sorted(maps.Keys(names)) {
			if name != t.Name {
				return name
			}
		}
	}
	return ""
}

// holds reports whether everything that the rule speaks of is known to be so.
func (r *Rule) holds(beside Known) bool {
	for name, when := range r.when {
		if is, known := beside[name]; !known || is.IsEmpty() || !is.SubsetOf(when) {
			return false
		}
	}
	return true
}

// broken reports whether the rule would be broken if a tool were in its condition.
func (r *Rule) broken(tool string, beside Known) bool {
	for name, when := range r.when {
		if is, known := beside[name]; name != tool && (!known || is.IsEmpty() || !is.SubsetOf(when)) {
			return false
		}
	}
	for name, need := range r.need {
		if is, known := beside[name]; name != tool && known && !is.IsEmpty() && !is.Overlaps(need) {
			return true
		}
	}
	return false
}

// loadRules reads the rules, for each tool that they speak of.
func (c *Catalogue) loadRules(dir fs.FS) error {
	names, err := fs.Glob(dir, "*.yaml")
	if err != nil {
		return err
	}
	c.rules = map[string][]*Rule{}
	for _, name := range names {
		data, err := fs.ReadFile(dir, name)
		if err != nil {
			return err
		}
		var list []*Rule
		decoder := yaml.NewDecoder(bytes.NewReader(data))
		decoder.KnownFields(true)
		if err := decoder.Decode(&list); err != nil {
			return fmt.Errorf("rules file %s: %w", name, err)
		}
		for _, r := range list {
			if err := c.addRule(r); err != nil {
				return fmt.Errorf("rules file %s: rule %s: %w", name, r.Name, err)
			}
		}
	}
	return nil
}

// addRule adds a rule, unless it speaks of what this catalogue does not know.
func (c *Catalogue) addRule(r *Rule) (err error) {
	for _, texts := range []map[string]string{r.When, r.Need} {
		for name := range texts {
			if _, known := c.schemeNamed(name); !known {
				return nil
			}
		}
	}
	if r.when, err = c.ranges(r.When); err != nil {
		return err
	}
	if r.need, err = c.ranges(r.Need); err != nil {
		return err
	}
	for _, names := range []map[string]version.Set{r.when, r.need} {
		for _, name := range slices.Sorted(maps.Keys(names)) {
			if t, known := c.Tool(name); known {
				c.rules[t.Name] = append(c.rules[t.Name], r)
			}
		}
	}
	return nil
}

func (c *Catalogue) ranges(texts map[string]string) (map[string]version.Set, error) {
	out := map[string]version.Set{}
	for _, name := range slices.Sorted(maps.Keys(texts)) {
		scheme, _ := c.schemeNamed(name)
		set, err := version.ParseRange(rangeDialect(scheme), scheme, texts[name])
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		out[name] = set
	}
	return out, nil
}

// schemeNamed is the order of the versions of a tool or component.
func (c *Catalogue) schemeNamed(name string) (version.Scheme, bool) {
	if t, known := c.Tool(name); known {
		return t.scheme, true
	}
	return c.SchemeOf(name)
}

// rangeDialect is how ranges of a scheme are written in rules.
func rangeDialect(s version.Scheme) string {
	switch name := s.String(); name {
	case "semver":
		return "npm"
	case "pep440", "rubygems":
		return name
	}
	return "maven" // brackets say it for every order
}
