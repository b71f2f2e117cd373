package catalogue

import (
	"cmp"
	"strings"
)

// Step is a pipeline's step that sets a tool up in words of its own. Steps whose inputs are
// called after the tool and version need no entry.
type Step struct {
	Uses      string   `yaml:"uses"`      // the last part of the name it is used by, without what stands behind the @
	Input     string   `yaml:"input"`     // the key of the version
	Reference bool     `yaml:"reference"` // what stands behind the @ is a version, if it looks like one
	Vendor    string   `yaml:"vendor"`    // the key of whose build it sets up
	Dialect   string   `yaml:"dialect"`   // of ranges; the tool's setup-dialect where it is left out
	Pattern   Pattern  `yaml:"pattern"`   // its group is the version; texts that are not like it say nothing
	Ignore    []string `yaml:"ignore"`    // words that say nothing of the tool's version
}

// StepOf is a step with the tool that it sets up.
type StepOf struct {
	*Step
	Tool *Tool
}

func (c *Catalogue) addSteps(t *Tool) {
	for i := range t.Steps {
		s := &t.Steps[i]
		c.steps[strings.ToLower(s.Uses)] = append(c.steps[strings.ToLower(s.Uses)], StepOf{s, t})
	}
	for _, key := range t.Inputs {
		c.inputs[strings.ToLower(key)] = t
	}
}

// StepsNamed are what is known of a step, by the last part of the name it is used by.
func (c *Catalogue) StepsNamed(name string) []StepOf { return c.steps[strings.ToLower(name)] }

// ToolOfInput finds the tool whose version stands beside a key of a pipeline that is not
// called after it.
func (c *Catalogue) ToolOfInput(key string) (*Tool, bool) {
	t, ok := c.inputs[strings.ToLower(key)]
	return t, ok
}

// Spelling is a text that stands for another: 8.0.1xx, or a number in another program's order.
type Spelling struct {
	Pattern Pattern `yaml:"pattern"` // it must span the whole text
	Means   string  `yaml:"means"`   // with $1 and $2 for the pattern's groups
	Dialect string  `yaml:"dialect"` // plain where it is left out
}

// Spelled is what a text of a pipeline stands for, and its dialect; ok is false where it
// stands for itself.
func (t *Tool) Spelled(text string) (means, dialect string, ok bool) {
	for _, s := range t.Spellings {
		m := s.Pattern.FindStringSubmatchIndex(text)
		if m != nil && m[0] == 0 && m[1] == len(text) {
			return string(s.Pattern.ExpandString(nil, s.Means, text, m)), cmp.Or(s.Dialect, "plain"), true
		}
	}
	return "", "", false
}
