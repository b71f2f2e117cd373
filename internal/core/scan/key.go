package scan

import (
	"regexp"
	"strings"

	"wexo/internal/core/catalogue"
)

// ToolKey finds the tool of a key such as node-version, PYTHON_VERSION or jdkVersion.
func (s *File) ToolKey(key string) (*catalogue.Tool, bool) {
	m := versionKey.FindStringSubmatch(key)
	if m == nil {
		return nil, false
	}
	name := strings.ReplaceAll(m[1], "_", "-")
	if tool, known := s.Catalogue.Tool(name); known {
		return tool, true
	}
	return s.KitKey(name)
}

// KitKey finds the tool of a key that is called after its kit, such as flutter-sdk or dartSdk.
func (s *File) KitKey(key string) (*catalogue.Tool, bool) {
	for _, ending := range []string{"-sdk", "_sdk", "Sdk", "SDK"} {
		if rest, ok := strings.CutSuffix(key, ending); ok {
			return s.Catalogue.Tool(rest)
		}
	}
	return nil, false
}

var versionKey = regexp.MustCompile(`^(?i:(?:(?:default|use|setup|my|the|min|minimum|minimal|max|maximum|supported|required|target|base|build|current|latest|oldest|newest|primary|main)[-_]?){0,2}([a-z][a-z0-9.]*?(?:[-_][a-z]+)?)[-_.]?versions?)$`)

// InputKey finds the tool of a key that a version stands beside.
func (s *File) InputKey(key string) (*catalogue.Tool, bool) {
	if tool, known := s.ToolKey(key); known {
		return tool, true
	}
	return s.Catalogue.ToolOfInput(key)
}
