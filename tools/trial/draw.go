package main

import (
	"bufio"
	"cmp"
	"crypto/sha256"
	"fmt"
	"io"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// layer is a kind of source tree, by what its line in a list is like, and how many of it are
// drawn: no language is left to chance, and of what is drawn a part cannot be had.
type layer struct {
	kind   string // debian, module or npm
	like   *regexp.Regexp
	number int
}

var layers = []layer{
	{"debian", regexp.MustCompile(`^lib.*-java$`), 25},
	{"debian", regexp.MustCompile(`^ruby-`), 12},
	{"debian", regexp.MustCompile(`^php-`), 15},
	{"debian", regexp.MustCompile(`^python-`), 25},
	{"debian", regexp.MustCompile(`^(?:rust|haskell|elixir|erlang|node)-`), 15},
	{"debian", regexp.MustCompile(``), 40},
	{"module", regexp.MustCompile(``), 0},
	{"npm", regexp.MustCompile(`(?i)react[ -]native|capacitor|cordova|nativescript`), 24},
	{"npm", regexp.MustCompile(`(?i)\b(?:native addon|node-gyp|n-api|napi|cmake|bindings? for)\b`), 16},
	{"npm", regexp.MustCompile(`(?i)\b(?:python|django|pip)\b`), 12},
	{"npm", regexp.MustCompile(`(?i)\b(?:ruby|rails|jekyll|php|laravel|wordpress|symfony|drupal)\b`), 16},
	{"npm", regexp.MustCompile(`(?i)\b(?:java|kotlin|gradle|maven|spring|android)\b`), 12},
	{"npm", regexp.MustCompile(`(?i)\b(?:dotnet|c#|unity|blazor|nuget|asp\.net)\b`), 10},
	{"npm", regexp.MustCompile(`(?i)\b(?:rust|wasm|cargo|tauri)\b`), 10},
	{"npm", regexp.MustCompile(`(?i)\b(?:elixir|phoenix|erlang|dart|flutter|swift|ios)\b`), 10},
	{"npm", regexp.MustCompile(`(?i)\b(?:docker|terraform|kubernetes|serverless|lambda)\b`), 10},
	{"npm", regexp.MustCompile(``), 50},
}

const (
	mostSize   = 4 << 20 // bytes packed of a Debian source; a larger one takes minutes to fetch
	leastLoads = 2_000   // a month, of an npm package: most others are empty
)

// source is a tree that can be drawn.
type source struct{ kind, name, version, about string }

// draw writes a list of trees that follows from the seed and the two lists alone.
func draw(out io.Writer, seed, npm, sources string, modules int) error {
	debian, err := debianSources(sources)
	if err != nil {
		return err
	}
	packages, err := npmPackages(npm)
	if err != nil {
		return err
	}
	all := append(debian, packages...)
	order := map[string]string{}
	for _, s := range all {
		order[s.name] = fmt.Sprintf("%x", sha256.Sum256([]byte(seed+" "+s.name)))
	}
	slices.SortStableFunc(all, func(a, b source) int { return cmp.Compare(order[a.name], order[b.name]) })
	taken := map[string]bool{}
	for _, l := range layers {
		if l.kind == "module" {
			l.number = modules
		}
		n := 0
		for _, s := range all {
			if n < l.number && s.kind == l.kind && !taken[s.name] && l.like.MatchString(s.about) {
				fmt.Fprintln(out, s.kind, s.name, s.version)
				taken[s.name] = true
				n++
			}
		}
	}
	return nil
}

// debianSources are the source packages of an index, and the Go modules that some of them
// are made of.
func debianSources(file string) ([]source, error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	var out []source
	stanza := map[string]string{}
	large, upstream := false, false
	scanner := bufio.NewScanner(f)
	scanner.Buffer(nil, 8<<20)
	for scanner.Scan() {
		line := scanner.Text()
		if line == "" {
			if name := stanza["Package"]; name != "" && !large && upstream {
				out = append(out, source{"debian", name, stanza["Version"], name})
			}
			if module := strings.TrimSpace(strings.Split(stanza["Go-Import-Path"], ",")[0]); strings.Contains(module, ".") {
				out = append(out, source{"module", module, "latest", module})
			}
			stanza, large, upstream = map[string]string{}, false, false
			continue
		}
		if key, value, ok := strings.Cut(line, ": "); ok && line[0] != ' ' {
			stanza[key] = value
			continue
		}
		if words := strings.Fields(line); len(words) == 3 && line[0] == ' ' { // a file's digest, size and name
			size, _ := strconv.Atoi(words[1])
			large = large || size > mostSize
			upstream = upstream || strings.Contains(words[2], ".orig.")
		}
	}
	return out, scanner.Err()
}

func npmPackages(file string) ([]source, error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	var out []source
	scanner := bufio.NewScanner(f)
	scanner.Buffer(nil, 1<<20)
	for scanner.Scan() {
		cells := strings.Split(scanner.Text(), "\t")
		if len(cells) < 4 {
			continue
		}
		if loads, err := strconv.Atoi(cells[2]); err == nil && loads >= leastLoads {
			out = append(out, source{"npm", cells[0], cells[1], cells[0] + " " + cells[3]})
		}
	}
	return out, scanner.Err()
}
