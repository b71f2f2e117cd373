package report

import (
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"time"

	"wexo/internal/core/unseen"
)

// Document is a report that was written as JSON.
type Document struct {
	Format   string `json:"format"`
	AsOf     string `json:"asOf"` // the day of its verdicts
	Wexo     string `json:"wexo"` // the version that made it
	Machines []struct {
		Name string `json:"name"`
	} `json:"machines"`
	Repositories []Repository `json:"repositories"`
	Findings     []Finding    `json:"findings"`
	Causes       []Cause      `json:"causes"`
	Unseen       []unseen.Gap `json:"unseen"`
	Summary      Summary      `json:"summary"`
}

// ReadDocument reads a report.
func ReadDocument(r io.Reader) (Document, error) {
	var d Document
	if err := json.NewDecoder(r).Decode(&d); err != nil {
		return d, fmt.Errorf("the report cannot be read: %w", err)
	}
	if d.Format != Format {
		return d, fmt.Errorf("the report's format is %.60q; %q is read", d.Format, Format)
	}
	return d, nil
}

// Telling is the document as its text is made of it.
func (d Document) Telling() Telling {
	t := Telling{Summary: d.Summary, Unseen: d.Unseen}
	t.Day, _ = time.Parse(time.DateOnly, d.AsOf)
	for _, m := range d.Machines {
		t.Machines = append(t.Machines, m.Name)
	}
	findings, ofMachines := d.Findings, []Finding(nil)
	if n := slices.IndexFunc(d.Findings, func(f Finding) bool { return f.Repository == "" }); n >= 0 {
		findings, ofMachines = d.Findings[:n], d.Findings[n:]
	}
	t.Machinery = func() []Finding { return ofMachines }
	for _, repo := range d.Repositories {
		n := slices.IndexFunc(findings, func(f Finding) bool { return f.Repository != repo.Name })
		if n < 0 {
			n = len(findings)
		}
		own := findings[:n] // both are sorted by repository
		findings = findings[n:]
		counted := 0
		for _, f := range own {
			if !f.Apart {
				counted++
			}
		}
		t.Repositories = append(t.Repositories, Told{repo.Name, repo.Ref, repo.Notice, counted, func() []Finding { return own }, repo.OwnRules})
	}
	type key struct{ cause, fingerprint string }
	at := make(map[key]int, len(d.Findings))
	for i, f := range d.Findings {
		at[key{f.Cause, f.Fingerprint}] = i
	}
	for _, c := range d.Causes {
		t.Causes = append(t.Causes, ToldCause{c, func(most int) []Finding {
			var out []Finding
			for _, fingerprint := range c.Findings[:min(most, len(c.Findings))] {
				if i, known := at[key{c.ID, fingerprint}]; known {
					out = append(out, d.Findings[i])
				}
			}
			return out
		}})
	}
	return t
}
