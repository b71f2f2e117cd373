package catalogue

import (
	"bytes"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"
)

// formatTable is a table of rules as far as claims read it: what a text such as an edition or
// the number of a lock file's format stands for.
type formatTable struct {
	Table string
	Rows  map[string]yaml.Node
}

// formats gives the claims that read a format what each text of it means, by the tables of
// the catalogue folders; a later folder's table replaces one of the same name. What is read
// by changes with them, and so does the sum.
func (c *Catalogue) formats(folders []fs.FS, sum io.Writer) error {
	var wanted []*ClaimRule
	for _, t := range c.tools {
		for i := range t.Claims {
			if t.Claims[i].MeansOf != "" {
				wanted = append(wanted, &t.Claims[i])
			}
		}
	}
	if len(wanted) == 0 {
		return nil
	}
	tables := map[string]map[string]yaml.Node{}
	for _, dir := range folders {
		if err := readTables(dir, wanted, tables); err != nil {
			return err
		}
	}
	for _, r := range wanted {
		rows, known := tables[r.MeansOf]
		if !known {
			return fmt.Errorf("a claim reads the table %q, and no file of rules holds it", r.MeansOf)
		}
		r.Means = map[string]string{}
		for _, text := range slices.Sorted(maps.Keys(rows)) {
			r.Means[text] = meaning(r, rows[text])
			_, _ = fmt.Fprintf(sum, "%q %q\n", text, r.Means[text])
		}
	}
	return nil
}

func readTables(dir fs.FS, wanted []*ClaimRule, tables map[string]map[string]yaml.Node) error {
	names, err := fs.Glob(dir, "rules/*.yaml")
	if err != nil {
		return err
	}
	for _, name := range names {
		data, err := fs.ReadFile(dir, name)
		if err != nil {
			return err
		}
		if !speaksOf(data, wanted) {
			continue
		}
		var list []formatTable
		if yaml.Unmarshal(data, &list) != nil {
			continue // whoever reads the rules tells
		}
		for _, t := range list {
			if t.Table != "" {
				tables[t.Table] = t.Rows
			}
		}
	}
	return nil
}

func speaksOf(data []byte, wanted []*ClaimRule) bool {
	for _, r := range wanted {
		if bytes.Contains(data, []byte("table: "+r.MeansOf)) {
			return true
		}
	}
	return false
}

// meaning is a row's range in the claim's own words: a minimum is written without its sign.
func meaning(r *ClaimRule, n yaml.Node) string {
	text := n.Value
	if n.Kind == yaml.MappingNode {
		var row struct{ Need string }
		if n.Decode(&row) == nil {
			text = row.Need
		}
	}
	if r.Reading == "minimum" || r.Reading == "level" || strings.HasSuffix(r.Dialect, "-minimum") {
		return strings.TrimPrefix(text, ">=")
	}
	return text
}
