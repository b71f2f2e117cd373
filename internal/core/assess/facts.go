// Package assess judges what repositories ask for and what machines would run: with the
// catalogue, a policy and a day it turns them into findings. The same inputs give the same
// findings; nothing here knows today's date.
//
// Facts are prepared once. What thousands of folders ask alike is one case, and a case is
// judged once for a fleet of machines and for as many days as its verdicts hold.
package assess

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"sync"
	"time"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/fact"
	"wexo/internal/core/inventory"
	"wexo/internal/core/nearest"
	"wexo/internal/core/policy"
	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
)

// Repository is what is known of one repository before it is judged.
type Repository struct {
	Name     string
	Identity string // what it is, whatever it is called and whichever others are looked at; empty takes the name
	Path     string
	Ref      string // what was read: a ref's name, or empty for a working tree
	Commit   string
	fact.Reading
}

// Is is what a repository is, whatever it is called.
func (r Repository) Is() string { return cmp.Or(r.Identity, r.Name) }

// Facts prepares repositories for judging and holds what they have in common. It may be
// used from several goroutines.
type Facts struct {
	Catalogue *catalogue.Catalogue
	Book      *rule.Book
	Wants     *resolve.Wants
	questions resolve.Questions
	mu        sync.Mutex
	cases     map[string]*Case
	viewCases map[string]*ViewCase
	books     map[string]bookOf // with rules of the user's, by those
	serials   map[*rule.Rule]int
	spoken    sync.Map // of books and names, the rules that may apply
}

// NewFacts holds nothing yet. Judging is by the book's rules and its catalogue.
func NewFacts(b *rule.Book) *Facts {
	return &Facts{Catalogue: b.Catalogue, Book: b, Wants: &resolve.Wants{}, cases: map[string]*Case{},
		viewCases: map[string]*ViewCase{}, books: map[string]bookOf{}, serials: map[*rule.Rule]int{}}
}

// Prepared is a repository ready for judging.
type Prepared struct {
	Repository
	Settings policy.Settings // what is decided for it
	Views    []*resolve.View
	Subjects []*Subject // of all views, sorted by folder and tool
	Viewed   []*Viewed  // folders of which rules or baselines speak
	apart    *aparts
	groups   []policy.Machines   // of the estate
	builds   map[string]bool     // files with problems that only say what a pipeline or container sets up
	speaking map[string][]string // of files with problems the tools that they could speak of; nil of any
}

// Subject is one folder and tool with the case that it is, and where its claims stand in it.
type Subject struct {
	*resolve.Subject
	Case    *Case
	Pins    []int // places among Claims of the case's pins
	Bounds  []int
	Setups  [][]int // of each matrix
	Wirings []int
	// Residues are places among Claims of the case's residues.
	Residues []int
	Limits   [][]*claim.Claim // of each limit its claims
	Apart    bool             // it lies in a folder that counts apart
	PinIn    string           // the file to pin the tool in: one that the tool's programs or the repository's read; empty where none is known
	Holds    Reach            // of what is found in several folders, where it is so
}

// Reach is where a finding that is told once holds.
type Reach struct {
	Folder string // above all of them
	More   int    // folders beside the subject's own
}

// Case is a question with all else that judging a folder and tool depends on. Subjects
// that are alike are one case.
type Case struct {
	*resolve.Question
	Setups    []Matrix
	Wirings   []Wiring
	Residues  []*resolve.Want // what earlier builds left, by what made it
	Limits    []Limit         // what else speaks of versions where the choice holds
	Used      bool            // a file shows that the tool is used
	Free      bool            // it needs no pin
	Unpinned  bool            // no pin, though a file shows that it is used and it needs one; once for all folders
	Needed    bool            // no pin, but something needs it; once for all folders
	Brought   bool            // it comes with another tool of the folder, and nothing can stand in for it
	Committed bool            // what was read is what is committed
	Horizon   int             // in days, as decided; 0 for the usual
	Ends      time.Time       // of the repository, as planned
	serial    int
}

// Matrix is the different wants of which a pipeline sets up one at a time.
type Matrix struct {
	Wants []*resolve.Want
	Texts []string // as written, each once
	With  int      // the first matrix of the same pipeline: what one runs through is set up on purpose beside the others
	File  int      // the first matrix of the same file
	Vague bool     // what reads it is not known
	Old   bool     // all of it is set up on purpose, beside what the project runs on
}

// Wiring is what an editor is pointed at.
type Wiring struct {
	*resolve.Want
	Named   bool          // by the name that the editor gives to an installation
	Inside  *claim.Inside // of a path inside the repository
	Editors bool          // the editor's own runtime, not the project's
	Table   string        // the editor in whose table names of such files are looked up; empty where there is none
}

// Prepare makes a repository ready for judging under a policy.
func (f *Facts) Prepare(r Repository, p policy.Policy) *Prepared {
	out := &Prepared{Repository: r, Settings: p.For(policy.Called{Name: r.Name, Path: r.Path, Identity: r.Identity}, r.Reading.Settings), groups: p.Machines}
	out.Problems = append(out.Problems[:len(out.Problems):len(out.Problems)], unknownGroups(r, p)...)
	out.Views = resolve.Views(&out.Reading.Reading, f.Catalogue, f.Wants)
	folders := make([]string, 0, len(out.Views))
	for _, v := range out.Views {
		folders = append(folders, v.Folder)
	}
	out.apart = newAparts(f.Catalogue, out.Settings, folders)
	tying := f.tying(out, p)
	places := map[*resolve.Subject]int{}
	spread := newSpread(f, out, tying)
	for _, v := range out.Views {
		for _, s := range v.Subjects {
			places[s] = len(out.Subjects)
			tying.baseline(s)
			c := &Case{Used: len(s.Uses) > 0, Committed: r.Ref != "", Horizon: out.Settings.Horizon, Ends: out.Settings.Ends()}
			own := &Subject{Subject: s, Case: c, Apart: out.apart.holds(s.Folder)}
			spread.settle(own, c)
			f.subject(own, c)
			out.Subjects = append(out.Subjects, own)
		}
	}
	tying.places = places
	for _, v := range out.Views {
		if one := tying.view(v); one != nil {
			out.Viewed = append(out.Viewed, one)
		}
	}
	out.speaking, out.builds = speaks(f.Catalogue, out.Problems), map[string]bool{}
	for file := range out.speaking {
		out.builds[file] = setsUp(f.Catalogue, file)
	}
	return out
}

// unknownGroups are the groups that a repository says it is built by, and to which nobody adds a
// machine: it is judged as if it did not say so.
func unknownGroups(r Repository, p policy.Policy) []claim.Problem {
	var out []claim.Problem
	groups := p.MachineTags()
	for _, w := range r.Reading.Settings.Written {
		if w.Kind == policy.OwnBuiltBy && !slices.Contains(groups, w.Text) {
			out = append(out, claim.Problem{Kind: claim.Idle, File: userFile, Line: w.Line, Column: 1, Raw: w.Text,
				Reason: fmt.Sprintf("no machine is in a group %q; %s", w.Text, nearest.Hint(w.Text, groups))})
		}
	}
	return out
}

// subject finds the case that a subject is.
func (f *Facts) subject(out *Subject, c *Case) {
	c.Question, out.Pins, out.Bounds = f.questions.Of(out.Subject)
	key := &caseKey{}
	key.text(c.Key())
	key.flags(c.Used, c.Free, c.Unpinned, c.Needed, c.Brought, c.Committed)
	key.text(strconv.Itoa(c.Horizon))
	key.text(c.Ends.Format(time.DateOnly))
	f.matrices(out, c, key)
	out.wirings(f.Catalogue.Places(), c, key)
	out.residues(c, key)
	for i := range c.Limits {
		c.Limits[i].key(key)
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	if known := f.cases[string(key.b)]; known != nil {
		out.Case = known
		return
	}
	c.serial = len(f.cases)
	f.cases[string(key.b)] = c
}

// Asked is the pin, or behind the pins the bound, at a place of the subject's question.
func (s *Subject) Asked(i int) resolve.Asked {
	if i < len(s.Pins) {
		return s.Claims[s.Pins[i]]
	}
	return s.Claims[s.Bounds[i-len(s.Pins)]]
}

// matrices puts setups together of which one is set up at a time.
func (f *Facts) matrices(s *Subject, c *Case, key *caseKey) {
	type group struct{ file, of string }
	at, first, files := map[group]int{}, map[string]int{}, map[string]int{}
	for i, a := range s.Claims {
		if a.Role != claim.Setup {
			continue
		}
		g := group{a.File, a.OneOf}
		if a.OneOf == "" {
			g.of = "\x00" + strconv.Itoa(a.Line) + ":" + strconv.Itoa(a.Column)
		}
		n, known := at[g]
		if !known {
			n = len(c.Setups)
			at[g] = n
			with := n
			if kind, _ := f.Catalogue.Places().KindOf(a.File); kind == "pipeline" {
				if known, seen := first[a.File]; seen {
					with = known
				}
				first[a.File] = with
			}
			file := n
			if known, seen := files[a.File]; seen {
				file = known
			}
			files[a.File] = file
			c.Setups, s.Setups = append(c.Setups, Matrix{With: with, File: file, Old: true, Vague: true}), append(s.Setups, nil)
		}
		m := &c.Setups[n]
		m.Old, m.Vague = m.Old && a.Purpose != "", m.Vague && a.Certainty == claim.Low
		if slices.Contains(m.Wants, a.Asks) {
			continue
		}
		m.Wants, m.Texts, s.Setups[n] = append(m.Wants, a.Asks), append(m.Texts, a.Raw), append(s.Setups[n], i)
	}
	for _, m := range c.Setups {
		key.text("setup" + strconv.Itoa(m.With) + " " + strconv.Itoa(m.File) + " " + strconv.FormatBool(m.Old) + strconv.FormatBool(m.Vague))
		for i, w := range m.Wants {
			key.want(w)
			key.text(m.Texts[i])
		}
	}
}

// wirings are those that count: a nearer setting beats a farther one, and of several that
// are alike one is enough.
func (s *Subject) wirings(places *catalogue.Places, c *Case, key *caseKey) {
	for i, a := range s.Claims {
		if a.Role != claim.Wiring || a.Beaten != "" {
			continue
		}
		w := Wiring{Want: a.Asks, Named: a.Reading == "name", Inside: a.Inside, Editors: a.Serves == "editor"}
		if w.Named {
			w.Table = places.TableOf(a.File)
		}
		c.Wirings = append(c.Wirings, w)
		s.Wirings = append(s.Wirings, i)
		key.text("wiring")
		key.want(a.Asks)
		key.text(w.Table)
		key.flags(a.Reading == "name", a.Inside != nil, a.Serves == "editor")
		if a.Inside != nil {
			key.flags(a.Inside.Exists)
			key.text(a.Inside.Path)
			key.text(a.Inside.Version)
		}
	}
}

// residues are what earlier builds left in the folder itself.
func (s *Subject) residues(c *Case, key *caseKey) {
	for i, a := range s.Claims {
		if a.Role != claim.Residue || slices.Contains(c.Residues, a.Asks) {
			continue
		}
		c.Residues, s.Residues = append(c.Residues, a.Asks), append(s.Residues, i)
		key.text("residue")
		key.want(a.Asks)
	}
}

// caseKey tells cases apart.
type caseKey struct{ b []byte }

func (k *caseKey) text(s string) {
	k.b = strconv.AppendInt(k.b, int64(len(s)), 36)
	k.b = append(append(k.b, ':'), s...)
}

func (k *caseKey) flags(list ...bool) {
	for _, f := range list {
		k.b = strconv.AppendBool(k.b, f)
	}
}

func (k *caseKey) want(w *resolve.Want) { k.text(w.ID()) }

// Paths are the absolute paths that a repository's editors are pointed at, to be followed
// on the machines that can be asked.
func (p *Prepared) Paths() []string {
	var out []string
	for _, s := range p.Subjects {
		for _, w := range s.Case.Wirings {
			if w.Inside == nil && !w.Named && inventory.IsPath(w.Raw) {
				out = append(out, w.Raw)
			}
		}
	}
	return out
}

// Sizes tells how much of what is prepared is different.
func (f *Facts) Sizes() (wants, questions, cases int) {
	f.mu.Lock()
	defer f.mu.Unlock()
	return f.Wants.Len(), f.questions.Len(), len(f.cases)
}
