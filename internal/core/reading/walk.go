package reading

import (
	"fmt"
	"io/fs"
	"path"
	"regexp"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

func (p *pass) list(folder string) ([]fs.DirEntry, bool) {
	entries, err := fs.ReadDir(p.tree, dot(folder))
	p.charge()
	switch {
	case err != nil && len(entries) > 0: // of which something is left out
		p.report(claim.Problem{Kind: claim.Partial, Folder: folder, File: folder, Reason: plainError(err).Error(), Lost: true})
	case err != nil:
		p.problem(folder, folder, plainError(err))
		return nil, false
	}
	return entries, true
}

func (p *pass) folder(folder string, depth int) {
	entries, ok := p.open(folder)
	if !ok {
		return
	}
	if depth > 0 && p.leftBehind(folder, entries) {
		return
	}
	p.noteIgnored(folder, entries)
	for _, e := range entries {
		name := e.Name()
		switch {
		case p.budget.Ended():
			return
		case e.IsDir():
			p.enter(folder, e, depth, entries)
		case !p.oneMore():
			return
		default:
			p.file(path.Join(folder, name), folder, e, name[0] == '.' || depth == 0 && structuredName(name))
		}
	}
}

// oneMore counts a file, and tells whether it is to be looked at.
func (p *pass) oneMore() bool {
	if p.reading.Files >= MaxFiles {
		p.cut(fmt.Sprintf("it has more than %d files; the others are not read", MaxFiles))
		return false
	}
	p.reading.Files++
	return true
}

// folderCost and entryCost are what a folder and a name in it cost, in steps.
const (
	folderCost = 2_000
	entryCost  = 20
)

// open lists a folder that is read, and counts it.
func (p *pass) open(folder string) ([]fs.DirEntry, bool) {
	if p.budget.Ended() {
		return nil, false
	}
	if p.folders++; p.folders > MaxFolders {
		p.cut(fmt.Sprintf("it has more than %d folders; the others are not read", MaxFolders))
		return nil, false
	}
	entries, ok := p.list(folder)
	p.budget.Spend(folderCost + entryCost*len(entries))
	return entries, ok
}

// leftBehind tells whether a folder is no source by what lies in it: a repository of its
// own, an environment, a build.
func (p *pass) leftBehind(folder string, entries []fs.DirEntry) bool {
	for _, e := range entries {
		if e.Name() == ".git" {
			p.skip(folder, "a repository of its own")
			return true
		}
		for _, left := range p.catalogue.Places().Left {
			if e.Name() == left.File {
				p.residues(folder, path.Base(folder))
				p.skip(folder, left.Why)
				return true
			}
		}
	}
	return false
}

func (p *pass) skip(folder, why string) {
	if len(p.reading.Skipped) == MaxProblems {
		return
	}
	p.reading.Skipped = append(p.reading.Skipped, claim.SkippedFolder{Folder: folder, Why: why})
}

// objectOf names the object behind an entry that git holds; "" for others.
func objectOf(e fs.DirEntry) string {
	if held, ok := e.(interface{ Object() string }); ok {
		return held.Object()
	}
	return ""
}

// repeated tells whether a folder was read at so many places already that it need not be again.
func (p *pass) repeated(folder string, e fs.DirEntry) bool {
	object := objectOf(e)
	if object == "" {
		return false
	}
	if p.same[object]++; p.same[object] <= MaxSame {
		return false
	}
	p.cut(fmt.Sprintf("one folder stands at more than %d places, of which %s is one; the others are not read", MaxSame, document.Clip(folder)))
	return true
}

func (p *pass) enter(folder string, e fs.DirEntry, depth int, entries []fs.DirEntry) {
	name := e.Name()
	below := path.Join(folder, name)
	if held, ok := e.(interface{ Submodule() bool }); ok && held.Submodule() {
		p.skip(below, claim.Submodule)
		return
	}
	if p.repeated(below, e) {
		return
	}
	why, skipped := p.passedOver(below, name, entries)
	switch {
	case skipped:
		p.skip(below, why)
		p.residues(below, name)
	case strings.HasPrefix(name, "."):
		p.dotFolder(below, folder, 1, slices.Contains(p.catalogue.Places().Quiet, name))
	case depth >= MaxDepth:
		p.problem(folder, below, scan.Withhold(fmt.Errorf("folders are nested more than %d deep", MaxDepth)))
	default:
		p.folder(below, depth+1)
	}
}

// passedOver tells why a folder is not read, and whether that is so.
func (p *pass) passedOver(folder, name string, beside []fs.DirEntry) (why string, skipped bool) {
	s, skipped := p.catalogue.Places().Skipped(name, func(patterns []string) bool { return besides(beside, patterns) })
	if skipped && (!s.Ignored || p.leftOut(folder)) {
		return s.Why, true
	}
	return "left out by rule", p.leavesOut(folder)
}

func besides(entries []fs.DirEntry, patterns []string) bool {
	return slices.ContainsFunc(entries, func(e fs.DirEntry) bool {
		return catalogue.Covers(patterns, e.Name())
	})
}

// dotFolder reads the known files of a dot-folder, and unless it is quiet the small ones
// that look like version files, for the folder that holds it.
func (p *pass) dotFolder(folder, holds string, depth int, quiet bool) {
	entries, ok := p.open(folder)
	if !ok {
		return
	}
	for _, e := range entries {
		name := e.Name()
		below := path.Join(folder, name)
		if p.budget.Ended() {
			return
		}
		if e.IsDir() {
			if p.repeated(below, e) {
				continue
			}
			if why, skipped := p.passedOver(below, name, entries); skipped {
				p.skip(below, why)
			} else if depth < maxDot {
				p.dotFolder(below, holds, depth+1, quiet)
			}
			continue
		}
		if !p.oneMore() {
			return
		}
		p.file(below, holds, e, !quiet && shapely(name))
	}
}

// structuredName tells whether a file is TOML, JSON or YAML by its ending, and no lock file.
func structuredName(name string) bool {
	return structured(path.Ext(name), nil) != "" && !lockName.MatchString(name)
}

var lockName = regexp.MustCompile(`(?i)(?:^|[._-])lock(?:file)?(?:[._-]|$)`)

// shapely tells whether a file's ending is one that version files have.
func shapely(name string) bool {
	switch path.Ext(name) {
	case "", ".json", ".jsonc", ".yaml", ".yml", ".toml", ".conf", ".cfg", ".ini", ".properties", ".env", ".version", ".versions", name:
		return true
	}
	return false
}
