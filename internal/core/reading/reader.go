// Package reading reads what a repository says about tool versions. It takes a tree
// (fs.FS) and gives claims; nothing in the tree is run, and what cannot be read costs only
// itself. Known files are read by the catalogue's rules, small unknown ones by their shape,
// and the user's own rules win over both.
package reading

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"github.com/go-git/go-git/v5/plumbing/format/gitignore"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
	"wexo/internal/core/fact"
	"wexo/internal/core/nearest"
	"wexo/internal/core/policy"
	"wexo/internal/core/scan"
	"wexo/internal/core/userrule"
)

// Reader reads repositories with one catalogue. It may be used from several goroutines.
type Reader struct {
	catalogue *catalogue.Catalogue
	selectors document.Selectors
	residues  []catalogue.Use
}

// New prepares a catalogue's rules; those that cannot be compiled are catalogue.Problems,
// joined.
func New(c *catalogue.Catalogue) (*Reader, error) {
	r := &Reader{catalogue: c, selectors: document.Selectors{}}
	var problems []error
	for _, use := range c.Uses() {
		if err := r.compile(use.Rule); err != nil {
			problems = append(problems, use.Problem(err.Error()))
		}
		if claim.Role(use.Rule.Role) == claim.Residue {
			r.residues = append(r.residues, use)
		}
	}
	for _, v := range c.Places().Variables {
		for _, text := range append(v.Selectors(), v.Parent, v.At) {
			if err := r.selectors.Add(v.Format, text); err != nil {
				problems = append(problems, err)
			}
		}
	}
	return r, errors.Join(problems...)
}

// Catalogue is what the reader reads by.
func (r *Reader) Catalogue() *catalogue.Catalogue { return r.catalogue }

func (r *Reader) compile(rule *catalogue.ClaimRule) error {
	wanted := append(slices.Clone(rule.Select), rule.Unless...)
	if rule.When != nil {
		wanted = append(wanted, rule.When.Select)
	}
	if rule.Locked != nil {
		wanted = append(wanted, rule.Locked.Each)
	}
	if rule.Format != foldersFormat && !document.IsFormat(rule.Format) {
		return fmt.Errorf("unknown format %q; %s", rule.Format, nearest.Hint(rule.Format, append(document.Formats(), foldersFormat)))
	}
	for _, text := range wanted {
		if err := r.selectors.Add(rule.Format, text); err != nil {
			return fmt.Errorf("the selector %q is none: %w", text, err)
		}
	}
	return nil
}

// ErrFault is a fault of Wexo itself, which a file brought to light.
var ErrFault = scan.ErrFault

// Options say how to read a tree. The zero value reads a committed tree by the catalogue alone.
type Options struct {
	WorkingTree bool           // what builds left behind is read too
	Rules       userrule.Rules // the user's, for every repository
	Called      policy.Called
	Plain       bool // the repository's own rules are passed over
	// Remember keeps what files said, to be given again when a file is the same; nil keeps nothing.
	Remember *Memory
	// Leave are files that are not to be read, and why.
	Leave map[string]string
	// Begin is called before each file that is read; it may be nil.
	Begin func(file string)
}

// pass is one reading under way.
type pass struct {
	*Reader
	Options
	budget  *document.Budget
	tree    fs.FS
	rules   userrule.Rules
	ruled   string // changes with the repository's own rules
	scans   []scanned
	uses    []claim.Use
	reading fact.Reading

	folders  int
	claims   int
	same     map[string]int // how often a folder was read that git holds at many places
	told     map[string]bool
	matched  map[string]int            // of each claim of the user's, how many files it reads
	applied  map[string]bool           // rules of the user's that changed what is read
	ignores  []gitignore.Pattern       // what version control leaves out of a working tree
	charged  int64                     // of the work that the tree itself took
	bounds   map[toolIn][]*claim.Claim // of each tool in a folder; made when asked for
	definers map[string]int            // files that define names, as places in scans; made when asked for
}

// scanned is a file with what it says by itself.
type scanned struct {
	file, folder string
	*scan.Said
}

// Read reads every claim of a committed tree. Folders that are repositories of their own
// are left out.
func (r *Reader) Read(tree fs.FS) fact.Reading {
	return r.ReadTree(context.Background(), tree, Options{})
}

// ReadTree reads every claim of a tree. Where ctx ends, so does the reading, also inside a
// file; what was read until then is given, with a problem that names the cause.
func (r *Reader) ReadTree(ctx context.Context, tree fs.FS, o Options) fact.Reading {
	p := &pass{Reader: r, Options: o, tree: tree, budget: document.NewBudget(ctx), same: map[string]int{}, told: map[string]bool{},
		matched: map[string]int{}, applied: map[string]bool{}}
	p.rules = o.Rules.For(o.Called)
	p.budget.Whole(func() {
		if !o.Plain {
			p.ownRules()
		}
		p.folder("", 0)
	})
	ended := p.budget.Ended()
	p.reading.Spent = p.budget.Spent()
	over := p.budget.Over()
	p.budget = document.NewBudget(context.WithoutCancel(ctx)) // what was read counts, however it ended
	p.budget.Whole(p.combine)
	if !ended && p.budget.Over() != nil {
		over = p.budget.Over()
	}
	if over != nil {
		p.cut(over.Error())
		p.reading.Ended = over.Error()
	}
	p.idle()
	return p.reading
}

func (p *pass) problem(folder, file string, err error) {
	s := p.scanning(file, folder, &scan.Said{})
	s.Unreadable(err)
	p.report(s.Said.Problems...)
}

// report keeps problems, as many as anybody would read.
func (p *pass) report(list ...claim.Problem) {
	for _, one := range list {
		if len(p.reading.Problems) >= MaxProblems {
			p.cut(fmt.Sprintf("it has more than %d files that cannot be read or attributed; the others are not named", MaxProblems))
			return
		}
		p.reading.Problems = append(p.reading.Problems, one)
	}
}

// cut tells, once, that a part of the repository is not read.
func (p *pass) cut(reason string) {
	if !p.told[reason] {
		p.told[reason] = true
		p.reading.Problems = append(p.reading.Problems, claim.Problem{Kind: claim.Partial, Reason: reason, Lost: true})
	}
}

// ReadTop reads the version files of one folder and nothing below it, as a user's home
// folder holds them.
func (r *Reader) ReadTop(tree fs.FS) fact.Reading {
	return r.readBeside(tree, func(name string) bool { return strings.HasPrefix(name, ".") })
}

// mostBeside is how many files of one folder are read to see whether it is somebody's source:
// few folders of source have more, and many caches.
const mostBeside = 200

// ReadFolder reads the files of one folder, and nothing below it, whose names may speak of
// tools: what shows whether it is somebody's source.
func (r *Reader) ReadFolder(tree fs.FS) fact.Reading {
	n := 0
	return r.readBeside(tree, func(name string) bool {
		n++
		return n <= mostBeside && (strings.HasPrefix(name, ".") || r.Marks(name) || structuredName(name))
	})
}

func (r *Reader) readBeside(tree fs.FS, wanted func(name string) bool) fact.Reading {
	p := &pass{Reader: r, tree: tree, budget: document.NewBudget(context.Background()), same: map[string]int{}, told: map[string]bool{},
		matched: map[string]int{}, applied: map[string]bool{}}
	entries, err := fs.ReadDir(tree, ".")
	if err != nil {
		return fact.Reading{}
	}
	p.budget.Whole(func() {
		for _, e := range entries {
			if !e.IsDir() && wanted(e.Name()) {
				p.file(e.Name(), "", e, true)
			}
		}
		p.combine()
	})
	return fact.Reading{Reading: claim.Reading{Claims: p.reading.Claims, Uses: p.reading.Uses}}
}

// Marks tells whether a file of this name alone shows that its folder is source with claims.
func (r *Reader) Marks(base string) bool {
	return r.catalogue.Known(base) || claim.VersionFile(base) != ""
}
