package catalogue

import (
	"strings"
	"time"

	"wexo/internal/core/day"
	"wexo/internal/core/version"
)

// Alias is a name in a pin that stands for versions: latest, lts, a line's code name.
type Alias struct {
	Set      version.Set
	Line     *Line
	Floating bool // what it stands for changes with time
}

// IsAlias tells whether the text is a name the tool's pins may use.
func (t *Tool) IsAlias(raw string) bool {
	_, ok := t.AliasOn(raw, day.On(time.Time{}))
	return ok
}

// AliasOn looks up a name as it stands on a day. The set is empty where no line fits on that day.
func (t *Tool) AliasOn(raw string, on *day.Day) (Alias, bool) {
	name := strings.ToLower(strings.TrimSpace(raw))
	if meaning, ok := t.Aliases[name]; ok {
		return t.channel(meaning, on), true
	}
	rest, long := strings.CutPrefix(name, "lts")
	_, hasLong := t.Aliases["lts"]
	if long && hasLong && rest != "" {
		if rest = strings.Trim(rest, "/-_: "); rest == "*" {
			return t.channel(t.Aliases["lts"], on), true
		}
		name = rest
	}
	for _, l := range t.Lines {
		if l.Name != "" && strings.EqualFold(l.Name, name) {
			return Alias{Set: l.set, Line: l}, true
		}
		if long && hasLong && name == l.Line && !l.LongTerm.IsZero() { // lts/18
			return Alias{Set: l.set, Line: l}, true
		}
	}
	return Alias{}, false
}

// IsDevelopment tells whether the text is a name for builds of what is being worked on,
// which have no version yet.
func (t *Tool) IsDevelopment(raw string) bool {
	return t.Aliases[strings.ToLower(strings.TrimSpace(raw))] == "development"
}

// channel is what "newest", "newest-long-term" or "second-newest" means on a day.
func (t *Tool) channel(meaning string, on *day.Day) Alias {
	l := t.NewestLine(on, meaning == "newest-long-term")
	if l != nil && meaning == "second-newest" {
		l = t.Lines[max(l.place-1, 0)]
	}
	if l == nil {
		set := version.None(t.scheme)
		if len(t.Lines) == 0 {
			set = version.Releases(t.scheme)
		}
		return Alias{Set: set, Floating: true}
	}
	return Alias{Set: l.set, Line: l, Floating: true}
}
