package reading

import (
	"io/fs"
	"path"
	"slices"
	"strings"

	"github.com/go-git/go-git/v5/plumbing/format/gitignore"

	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

// ignoreName is the file in which git is told what not to keep.
const ignoreName = ".gitignore"

// noteIgnored reads a folder's ignore file, where a working tree has one.
func (p *pass) noteIgnored(folder string, entries []fs.DirEntry) {
	if !p.WorkingTree || !slices.ContainsFunc(entries, func(e fs.DirEntry) bool { return e.Name() == ignoreName && e.Type().IsRegular() }) {
		return
	}
	if data, err := p.readFile(path.Join(folder, ignoreName), scan.MaxShape); err == nil {
		var within []string
		if folder != "" {
			within = strings.Split(folder, "/")
		}
		p.budget.Spend(len(data))
		for line := range strings.Lines(string(data)) {
			if line = strings.TrimSpace(line); line != "" && line[0] != '#' {
				p.ignores = append(p.ignores, gitignore.ParsePattern(line, within))
			}
		}
	}
}

// leftOut tells whether version control leaves a folder out, so that what lies in it was
// not written by hand. What is committed is not left out; a working tree that says
// nothing at all is believed to hold only what such folders usually hold, but no build
// writes into the dot-folders of editors and hosts.
func (p *pass) leftOut(folder string) bool {
	if !p.WorkingTree {
		return false
	}
	if len(p.ignores) == 0 {
		return folder[0] != '.' && !strings.Contains(folder, "/.")
	}
	p.budget.Spend(document.StepCost * len(p.ignores))
	return gitignore.NewMatcher(p.ignores).Match(strings.Split(folder, "/"), true)
}
