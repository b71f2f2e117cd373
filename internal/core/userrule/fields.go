package userrule

import (
	"fmt"
	"slices"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/document"
	"wexo/internal/core/glob"
	"wexo/internal/core/nearest"
)

// fields calls do for every key of a mapping; keys that are not expected are a problem.
func (p *parser) fields(n *yaml.Node, what string, keys []string, do func(key string, v *yaml.Node)) {
	if n.Kind == yaml.AliasNode {
		n = n.Alias
	}
	if n.Kind != yaml.MappingNode {
		p.problem(n, "%s should be a mapping with %s, and it is %s", what, list(keys), kindOf(n))
		return
	}
	seen := map[string]bool{}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key := n.Content[i].Value
		switch {
		case !slices.Contains(keys, key):
			p.problem(n.Content[i], "unknown key %q in %s; %s", document.Clip(key), what, nearest.Hint(key, keys))
		case seen[key]:
			p.problem(n.Content[i], "%q stands twice in %s", key, what)
		default:
			seen[key] = true
			do(key, n.Content[i+1])
		}
	}
}

func (p *parser) oneOf(n *yaml.Node, key string, allowed ...string) string {
	if n.Kind != yaml.ScalarNode || !slices.Contains(allowed, n.Value) {
		near := ""
		if word, ok := nearest.To(n.Value, allowed); ok && n.Kind == yaml.ScalarNode {
			near = fmt.Sprintf("; did you mean %q?", word)
		}
		p.problem(n, "%s should be one of %s, and it is %s%s", key, list(allowed), kindOf(n), near)
	}
	return n.Value
}

// items are the entries of a list.
func (p *parser) items(n *yaml.Node, key string) []*yaml.Node {
	if n.Kind != yaml.SequenceNode {
		p.problem(n, "%s should be a list, and it is %s", key, kindOf(n))
		return nil
	}
	return n.Content
}

// texts are the texts of a list, or a single one.
func (p *parser) texts(n *yaml.Node, key string) []string {
	nodes := []*yaml.Node{n}
	if n.Kind == yaml.SequenceNode {
		nodes = p.few(n, key, n.Content)
	}
	var out []string
	for _, item := range nodes {
		if item.Kind != yaml.ScalarNode || item.Tag == "!!null" || item.Value == "" {
			p.problem(item, "%s should be a text or a list of texts, and it is %s", key, kindOf(item))
			continue
		}
		out = append(out, item.Value)
	}
	return out
}

func (p *parser) globs(n *yaml.Node, key string) []string {
	texts := p.texts(n, key)
	for _, text := range texts {
		if err := glob.Check(text); err != nil {
			p.problem(n, "%s should hold paths or globs inside the repository, and %q %v", key, document.Clip(text), err)
		}
	}
	return texts
}

// maxRules is how many claims one file of rules may hold, and globs one of its lists.
const maxRules = 200

// few are the entries of a list, unless they are more than anybody writes by hand: each
// file of a repository is compared with each.
func (p *parser) few(n *yaml.Node, key string, list []*yaml.Node) []*yaml.Node {
	if len(list) > maxRules {
		p.problem(n, "%s should hold at most %d entries, and it holds %d", key, maxRules, len(list))
		return nil
	}
	return list
}

func kindOf(n *yaml.Node) string {
	switch {
	case n.Kind == yaml.SequenceNode:
		return "a list"
	case n.Kind == yaml.MappingNode:
		return "a mapping"
	case n.Tag == "!!null":
		return "empty"
	}
	return fmt.Sprintf("%q", document.Clip(n.Value))
}

func list(words []string) string { return nearest.Listed(words, "or") }
