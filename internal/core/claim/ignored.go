package claim

import (
	"io/fs"
	"path"
	"slices"
	"strings"
)

// ignoreName is the file in which git is told what not to keep.
const ignoreName = ".gitignore"

// ignoreFile is what one such file says, for its own folder and those below.
type ignoreFile struct {
	folder string
	lines  []string
}

// noteIgnored reads a folder's ignore file, where a working tree has one.
func (p *pass) noteIgnored(folder string, entries []fs.DirEntry) {
	if !p.WorkingTree || !slices.ContainsFunc(entries, func(e fs.DirEntry) bool { return e.Name() == ignoreName && e.Type().IsRegular() }) {
		return
	}
	if data, err := readLimited(p.tree, path.Join(folder, ignoreName), MaxShape); err == nil {
		p.ignores = append(p.ignores, ignoreFile{folder, strings.Split(string(data), "\n")})
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
	ignored := len(p.ignores) == 0 && folder[0] != '.' && !strings.Contains(folder, "/.")
	for _, file := range p.ignores {
		rest, inside := strings.CutPrefix(folder, file.folder)
		if !inside || file.folder != "" && !strings.HasPrefix(rest, "/") {
			continue
		}
		p.budget.spend(stepCost * len(file.lines))
		for _, line := range file.lines {
			if names, no := ignoreLine(line, strings.TrimPrefix(rest, "/")); names {
				ignored = !no
			}
		}
	}
	return ignored
}

// ignoreLine tells whether a line of an ignore file names a folder, and whether it takes
// an earlier line back. Only names and globs are understood: what folders are called that
// a build makes.
func ignoreLine(line, folder string) (names, not bool) {
	line = strings.TrimSpace(line)
	line, not = strings.CutPrefix(line, "!")
	if line == "" || line[0] == '#' {
		return false, false
	}
	for _, end := range []string{"/**", "/*", "/"} {
		line = strings.TrimSuffix(line, end)
	}
	line = strings.TrimPrefix(line, "**/")
	if !strings.Contains(line, "/") {
		folder = path.Base(folder)
	}
	ok, err := path.Match(strings.TrimPrefix(line, "/"), folder)
	return ok && err == nil, not
}
