// Command matrices compares the tables of rules that a registry can confirm with what the
// registry says today, and shows the difference; with -write it writes it into the tables.
// Only tables that name where it is stated are looked at: states: {npm: PACKAGE, from: MAJOR}.
package main

import (
	"bytes"
	"cmp"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"wexo/internal/core/version"
)

func main() {
	write := flag.Bool("write", false, "write what the registry says into the tables")
	dir := flag.String("rules", "internal/core/catalogue/data/rules", "the `folder` of the tables")
	day := flag.String("date", time.Now().UTC().Format(time.DateOnly), "the `date` that changed tables are given")
	flag.Parse()
	differ, err := run(*dir, *day, *write)
	if err != nil {
		fmt.Fprintln(os.Stderr, "matrices:", err)
		os.Exit(3)
	}
	if differ && !*write {
		os.Exit(1)
	}
}

// table is what is read of a table here.
type table struct {
	Table  string
	States struct {
		Npm  string
		From int
	}
	Rows map[string]string
}

func run(dir, day string, write bool) (differ bool, err error) {
	files, err := filepath.Glob(filepath.Join(dir, "*.yaml"))
	if err != nil {
		return false, err
	}
	for _, file := range files {
		text, err := os.ReadFile(file)
		if err != nil {
			return differ, err
		}
		if !bytes.Contains(text, []byte("states: {npm:")) {
			continue
		}
		var list []table
		if err := yaml.Unmarshal(text, &list); err != nil || len(list) != 1 {
			return differ, fmt.Errorf("%s: a table that a registry states stands alone in its file (%v)", file, err)
		}
		rows, err := stated(list[0].States.Npm, list[0].States.From)
		if err != nil {
			return differ, fmt.Errorf("%s: %w", file, err)
		}
		if same := compare(list[0], rows); same {
			continue
		}
		differ = true
		if write {
			if err := os.WriteFile(file, rewritten(text, rows, day), 0o644); err != nil {
				return differ, err
			}
		}
	}
	return differ, nil
}

// row is what releases that follow each other demand alike.
type row struct{ key, need string }

// release is one version of a package and what it demands of Node.js.
type release struct {
	Version string `json:"version"`
	Engines string `json:"engines.node"`
	number  version.Version
}

// stated are the rows that a package's releases from a major on state themselves.
func stated(pack string, from int) ([]row, error) {
	out, err := exec.Command("npm", "view", fmt.Sprintf("%s@>=%d", pack, from), "version", "engines.node", "--json").Output()
	if err != nil {
		return nil, fmt.Errorf("npm view %s: %w", pack, err)
	}
	var told []json.RawMessage
	if err := json.Unmarshal(out, &told); err != nil {
		return nil, fmt.Errorf("npm view %s: %w", pack, err)
	}
	all := make([]release, len(told))
	for i, one := range told {
		if json.Unmarshal(one, &all[i].Version) == nil { // nothing but the version: it demands nothing
			continue
		}
		if err := json.Unmarshal(one, &all[i]); err != nil {
			return nil, fmt.Errorf("npm view %s: %w", pack, err)
		}
	}
	var list []release
	for _, r := range all {
		if r.number, err = version.Semver.Parse(r.Version); err == nil && !strings.Contains(r.Version, "-") {
			list = append(list, r)
		}
	}
	slices.SortFunc(list, func(a, b release) int { return a.number.Compare(b.number) })
	return rowsOf(list), nil
}

func major(text string) string { m, _, _ := strings.Cut(text, "."); return m }

// rowsOf puts together the releases of one major that demand the same: the major alone where
// all of it does. Releases that demand nothing go with any.
func rowsOf(list []release) []row {
	var out []row
	for i := 0; i < len(list); {
		m := major(list[i].Version)
		end := i
		for end < len(list) && major(list[end].Version) == m {
			end++
		}
		for start := i; start < end; {
			next := start
			for next < end && alike(list[next].Engines, list[start].Engines) {
				next++
			}
			key := m
			if start > i || next < end {
				key = ">=" + list[start].Version
				if next < end {
					key += " <" + list[next].Version
				} else {
					key += " <" + after(m)
				}
			}
			out = append(out, row{key, cmp.Or(list[start].Engines, "*")})
			start = next
		}
		i = end
	}
	return out
}

// alike reports whether two demands admit the same, however they are written.
func alike(a, b string) bool {
	if a == b {
		return true
	}
	x, errX := version.ParseRange("npm", version.Semver, a)
	y, errY := version.ParseRange("npm", version.Semver, b)
	return a != "" && b != "" && errX == nil && errY == nil && x.Equal(y)
}

func after(major string) string {
	var n int
	_, _ = fmt.Sscan(major, &n)
	return fmt.Sprint(n + 1)
}

func compare(t table, rows []row) (same bool) {
	same = true
	stated := map[string]bool{}
	for _, r := range rows {
		stated[r.key] = true
		switch was, there := t.Rows[r.key]; {
		case !there:
			fmt.Printf("%s: %s is new: %s\n", t.Table, r.key, r.need)
			same = false
		case was != r.need:
			fmt.Printf("%s: %s says %s, and stands as %s\n", t.Table, r.key, r.need, was)
			same = false
		}
	}
	for key := range t.Rows {
		if !stated[key] {
			fmt.Printf("%s: %s is stated no more\n", t.Table, key)
			same = false
		}
	}
	return same
}

// rewritten is a table's file with other rows and the day on which they were read.
func rewritten(text []byte, rows []row, day string) []byte {
	head, _, _ := bytes.Cut(text, []byte("\n  rows:"))
	var out bytes.Buffer
	for line := range strings.Lines(string(head) + "\n") {
		if strings.HasPrefix(line, "  date: ") {
			line = "  date: " + day + "\n"
		}
		out.WriteString(line)
	}
	out.WriteString("  rows:\n")
	for _, r := range rows {
		fmt.Fprintf(&out, "    %q: %q\n", r.key, r.need)
	}
	return out.Bytes()
}
