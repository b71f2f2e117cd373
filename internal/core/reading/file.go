package reading

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/scan"
)

// file reads one file, or remembers what it said.
func (p *pass) file(file, folder string, e fs.DirEntry, byShape bool) {
	base := e.Name()
	p.astray(file, folder, base)
	switches := p.catalogue.Switches(base)
	known := p.catalogue.Known(base) || switches
	mine := p.claimsFor(file)
	if !known && !byShape && len(mine) == 0 || p.leavesOut(file) {
		return
	}
	if why, left := p.Leave[file]; left {
		p.report(claim.Problem{Kind: claim.Unreadable, Folder: folder, File: file, Reason: why, Lost: true})
		return
	}
	var found []catalogue.Found
	reads := false
	if known {
		found = p.catalogue.RulesFor(file)
		kind, _ := p.catalogue.Places().KindOf(file)
		reads = kind != "" || switches || p.catalogue.Places().HasView(file)
	}
	rules := p.usesAndRules(file, found)
	reads = reads || len(rules) > 0
	ordinary := slices.Contains(p.catalogue.Places().Ordinary.Files, base)
	limit := int64(scan.MaxKnown)
	if !reads && len(mine) == 0 {
		if limit = scan.MaxShape; !byShape || len(found) > 0 || ordinary {
			return
		}
	}
	if p.claims > MaxAll {
		p.cut(fmt.Sprintf("it makes more than %d claims; files behind those are not read", MaxAll))
		return
	}
	if p.Begin != nil {
		p.Begin(file)
	}
	under := "" // the rules of the repository's own that the file was read by
	if len(mine) > 0 {
		under = p.ruled
	}
	s := p.remembered(file, e, under, func() *scan.Said {
		return p.guarded(file, folder, func(s *scanning) {
			data, err := p.readFile(file, limit)
			if limit == scan.MaxShape && errors.As(err, new(scan.TooLarge)) {
				data, err = p.padded(file, err)
			}
			switch {
			case err != nil && (reads || len(mine) > 0 || claim.VersionFile(base) != ""):
				s.Unreadable(err)
			case errors.As(err, new(scan.Withheld)): // it may be a version file
				s.Aside = false
				s.Unreadable(err)
			case err != nil:
			default:
				if reads {
					p.scanKnown(s, data, rules)
				} else if byShape {
					s.shape(data)
				}
				p.scanRules(s.Said, file, folder, data, mine)
			}
		})
	})
	p.keep(scanned{file, folder, s})
}

// usesAndRules notes which tools a file shows to be used, and gives the rules that read it.
func (p *pass) usesAndRules(file string, found []catalogue.Found) []catalogue.Found {
	var rules []catalogue.Found
	for _, f := range found {
		switch {
		case f.Rule == nil && len(p.uses) < MaxAllUses:
			p.uses = append(p.uses, claim.Use{Tool: f.Tool.Name, Folder: f.Folder, File: file})
		case f.Rule == nil:
			p.cut(fmt.Sprintf("it has more than %d files that show which tools it uses; the others do not count", MaxAllUses))
		case claim.Role(f.Rule.Role) != claim.Residue:
			rules = append(rules, f)
		}
	}
	return rules
}

// keep takes what a file said, and counts its claims.
func (p *pass) keep(s scanned) {
	p.claims += len(s.Claims)
	p.scans = append(p.scans, s)
}

// guarded reads one file with a budget of its own. What it said before its budget ran out,
// or before a fault of ours came to light, is kept.
func (p *pass) guarded(file, folder string, read func(s *scanning)) *scan.Said {
	s := p.scanning(file, folder, &scan.Said{})
	spent, fault := p.budget.Within(func() { read(s) })
	if fault != nil {
		s.Unreadable(fmt.Errorf("%w: %v", ErrFault, fault))
	}
	if spent != nil {
		s.Partial(spent.Error())
	}
	return s.Said
}

// mostPadded is the largest file, in bytes, that is looked at for a version behind which only
// spaces stand.
const mostPadded = 1 << 20

// padded reads a file that is too large to be a version file, unless what makes it large are
// spaces at its end: those take no pin away.
func (p *pass) padded(file string, large error) ([]byte, error) {
	data, err := p.readFile(file, mostPadded)
	if err != nil {
		return nil, large
	}
	if data = bytes.TrimRight(data, " \t\r\n"); len(data) > scan.MaxShape {
		return nil, large
	}
	return data, nil
}

// readFile reads a file, and charges what the tree itself took for it.
func (p *pass) readFile(file string, limit int64) ([]byte, error) {
	defer p.charge()
	return readLimited(p.tree, file, limit)
}

// charge takes from the budget what the tree took to put together what was read: in git's
// packs little is kept of much.
func (p *pass) charge() {
	if t, ok := p.tree.(interface{ Work() int64 }); ok {
		work := t.Work()
		p.budget.Charge(work - p.charged)
		p.charged = work
	}
}

// readLimited reads a regular file of at most limit bytes.
func readLimited(tree fs.FS, file string, limit int64) ([]byte, error) {
	info, err := fs.Stat(tree, file) // before it is opened: a pipe would keep the opener waiting
	if err != nil {
		return nil, plainError(err)
	}
	if !info.Mode().IsRegular() {
		return nil, errors.New("it is not a regular file")
	}
	if info.Size() > limit {
		return nil, scan.TooLarge{Size: info.Size(), Limit: limit}
	}
	f, err := tree.Open(file)
	if err != nil {
		return nil, plainError(err)
	}
	defer f.Close()
	data := make([]byte, 0, info.Size()+1)
	for len(data) <= int(limit) {
		if len(data) == cap(data) {
			data = append(data, 0)[:len(data)]
		}
		n, err := f.Read(data[len(data):cap(data)])
		data = data[:len(data)+n]
		if errors.Is(err, io.EOF) {
			return data, nil
		}
		if err != nil {
			return nil, plainError(err)
		}
	}
	return nil, fmt.Errorf("it grew beyond %s while it was read", document.Bytes(limit))
}

// plainError is a file error without the path, which the finding names anyway.
func plainError(err error) error {
	var pathErr *fs.PathError
	if errors.As(err, &pathErr) {
		err = pathErr.Err
	}
	switch {
	case errors.Is(err, fs.ErrPermission):
		return scan.Withhold(errors.New("this account may not read it"))
	case errors.Is(err, fs.ErrNotExist):
		return errors.New("it is a link that leads nowhere")
	case strings.Contains(err.Error(), "escapes"):
		return errors.New("it is a link that leads out of the repository, and is not followed")
	}
	return scan.Withhold(err)
}

func dot(folder string) string {
	if folder == "" {
		return "."
	}
	return folder
}
