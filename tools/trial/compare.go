package main

import (
	"encoding/json"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
)

// label is what somebody read in a tree: parted by tabs the tree, file:line, role, tool and text.
type label struct{ tree, place, role, tool, raw string }

func (l label) String() string {
	return strings.Join([]string{l.tree, l.place, l.role, l.tool, l.raw}, "\t")
}

// surveyed is as much of Wexo's report as is compared.
type surveyed struct {
	Repositories []struct {
		Name    string
		Folders []struct {
			Tools []struct {
				Tool   string
				Claims []struct {
					Role, Raw, File string
					Line            int
				}
			}
		}
	}
	Causes []struct{ Class, Severity, Title string }
}

// compare tells which labels were heard, which were not, and which claims nobody labelled: each of
// these is to be read.
func compare(out io.Writer, labels, report string) error {
	wanted, err := readLabels(labels)
	if err != nil {
		return err
	}
	data, err := os.ReadFile(report)
	if err != nil {
		return err
	}
	var r surveyed
	if err := json.Unmarshal(data, &r); err != nil {
		return fmt.Errorf("%s is no report: %w", report, err)
	}
	claims := r.claims()
	heard := 0
	for _, w := range wanted {
		if slices.ContainsFunc(claims, func(c label) bool { return sameStatement(c, w) }) {
			heard++
			continue
		}
		fmt.Fprintln(out, "missed\t"+w.String())
	}
	extra := 0
	for _, c := range claims {
		if !slices.ContainsFunc(wanted, func(w label) bool { return sameStatement(c, w) }) {
			extra++
			fmt.Fprintln(out, "extra\t"+c.String())
		}
	}
	fmt.Fprintf(out, "%d of %d labels heard; %d claims, %d of them without a label; %d causes\n", heard, len(wanted), len(claims), extra, len(r.Causes))
	return nil
}

// sameStatement reports whether two labels are of one statement; what it does is told apart as well.
func sameStatement(a, b label) bool {
	return a.tree == b.tree && a.place == b.place && a.tool == b.tool && a.role == b.role && (a.raw == b.raw || strings.HasPrefix(a.raw, b.raw) || strings.HasPrefix(b.raw, a.raw))
}

func readLabels(file string) ([]label, error) {
	data, err := os.ReadFile(file)
	if err != nil {
		return nil, err
	}
	var out []label
	for n, line := range strings.Split(strings.TrimSpace(string(data)), "\n") {
		cells := strings.Split(line, "\t")
		if len(cells) != 5 {
			return nil, fmt.Errorf("%s:%d: %d cells, not five: tree, place, role, tool, text", file, n+1, len(cells))
		}
		out = append(out, label{cells[0], cells[1], cells[2], cells[3], cells[4]})
	}
	return out, nil
}

// claims are the statements of a report, each once, without those of components.
func (r surveyed) claims() []label {
	var out []label
	for _, repository := range r.Repositories {
		for _, folder := range repository.Folders {
			for _, tool := range folder.Tools {
				for _, c := range tool.Claims {
					l := label{repository.Name, fmt.Sprintf("%s:%d", c.File, c.Line), c.Role, tool.Tool, c.Raw}
					if c.Role != "component" && !slices.Contains(out, l) {
						out = append(out, l)
					}
				}
			}
		}
	}
	return out
}
