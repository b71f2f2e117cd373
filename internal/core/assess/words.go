package assess

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"wexo/internal/core/claim"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
)

// place is a file with its line: "package.json:4"; the file alone where no line is meant.
func place(file string, line int) string {
	if file == "" {
		file = "the repository's root"
	}
	if line == 0 {
		return file
	}
	return fmt.Sprintf("%s:%d", file, line)
}

func at(a resolve.Asked) string { return place(a.File, a.Line) }

// asks says what a claim asks for: "Node.js 20.11.1", "Java 17 or newer".
func asks(s Subject, a resolve.Asked) string {
	switch {
	case a.Locked != nil && len(a.Locked.By) > 0:
		return fmt.Sprintf("%s %s (%s; %s locked)", s.Tool.Title, a.Set, demanding(a.Locked.By), counted(a.Locked.Demands, "demand is", "demands are"))
	case a.Means != "":
		return fmt.Sprintf("%s %s (written as %s)", s.Tool.Title, a.Means, a.Raw)
	case a.Reading == "minimum" || a.Dialect == "go-minimum":
		return fmt.Sprintf("%s %s or newer", s.Tool.Title, a.Raw)
	case a.Raw == "":
		return s.Tool.Title
	}
	return fmt.Sprintf("%s %s", s.Tool.Title, a.Raw)
}

// mostDemands is how many dependencies a sentence names.
const mostDemands = 3

// demanding names the dependencies that come to a lock file's bound: one alone need not.
func demanding(by []claim.Demand) string {
	var out []string
	for _, d := range by[:min(len(by), mostDemands)] {
		out = append(out, strings.TrimSpace(d.Dependency+" "+d.Version)+" demands "+d.Raw)
	}
	if more := len(by) - mostDemands; more > 0 {
		out = append(out, counted(more, "other demands more", "others demand more"))
	}
	return list(out)
}

// list joins words: "a", "a and b", "a, b and c".
func list(words []string) string {
	switch n := len(words); n {
	case 0:
		return ""
	case 1:
		return words[0]
	default:
		return strings.Join(words[:n-1], ", ") + " and " + words[n-1]
	}
}

// some joins machine names: "every machine" for all of several, shortened where they are many.
func (j *judge) some(names []string) string {
	if j.all(names) {
		return "every machine"
	}
	if len(names) <= 4 {
		return list(names)
	}
	return fmt.Sprintf("%s and %d more machines", strings.Join(names[:3], ", "), len(names)-3)
}

// all tells whether the names are those of every machine, and more than one.
func (j *judge) all(names []string) bool { return len(names) > 1 && len(names) == len(j.in.Machines) }

func date(t time.Time) string { return t.Format("2 Jan 2006") }

func names(resolutions []resolve.Resolution) []string {
	var out []string
	for _, r := range resolutions {
		out = append(out, r.Machine)
	}
	return out
}

// numbered is a version with its vendor where it has one: "17.0.9 (temurin)".
func numbered(in *inventory.Installed) string {
	if in.Vendor == "" {
		return in.Version
	}
	return fmt.Sprintf("%s (%s)", in.Version, in.Vendor)
}

// runs tells what would run on each machine: "21.0.5 on potting-bench and 17.0.2 on mast-agent".
func (j *judge) runs(resolutions []resolve.Resolution) string {
	var versions []string
	machines := map[string][]string{}
	for _, r := range resolutions {
		v := r.Version
		if v == "" {
			v = "nothing"
		}
		if !slices.Contains(versions, v) {
			versions = append(versions, v)
		}
		machines[v] = append(machines[v], r.Machine)
	}
	var out []string
	for _, v := range versions {
		out = append(out, v+" on "+j.some(machines[v]))
	}
	return list(out)
}

// counted is a number with its word: "1 demand is", "12 demands are".
func counted(n int, one, many string) string { return fmt.Sprintf("%d %s", n, verb(n == 1, one, many)) }

func verb(single bool, one, many string) string {
	if single {
		return one
	}
	return many
}
