package assess

import (
	"slices"
	"strings"
	"sync"
	"time"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/policy"
	"wexo/internal/core/resolve"
	"wexo/internal/core/rule"
	"wexo/internal/core/version"
)

// Viewed is a folder of which rules or baselines speak, with where it says what they rest on.
type Viewed struct {
	Folder string
	Case   *ViewCase
	Tools  []*Subject       // of each of the case's tools; of a folder above where that pins it
	Parts  [][]*claim.Claim // of each of the case's components, what tells its version, the surest first
	places []int            // of each tool its place among the repository's subjects
}

// ViewCase is what rules and baselines depend on in a folder. Folders that are alike are one
// case, whatever the numbers of their components are as long as no rule tells them apart.
type ViewCase struct {
	Tools     []ToolEnd
	Parts     []Part
	Ties      []Tie
	Baselines []*rule.Baseline // that are adopted, or that the machines demand which build the repository
	Adopted   int              // how many of them, the first ones, are adopted
	Horizon   int
	Ends      time.Time
	groups    []policy.Machines
	book      *rule.Book

	mu     sync.Mutex
	judged []*ViewJudged
}

// ToolEnd is a tool of a folder.
type ToolEnd struct {
	*Case
	CodeOnly bool // its pins say what the code is made for, and none what runs the build
	Own      bool // something of it stands in the folder itself
	Decides  bool // what runs of it is decided in the folder: by a pin there, or by nothing, and it is the first without
}

// Part is a component of a folder.
type Part struct {
	Name string
	Set  version.Set // the versions that it may be of
	Sure bool        // one version alone, as a lock file has it
}

// Tie is a rule on what a folder says.
type Tie struct {
	Rule *rule.Rule
	Ends []TieEnd // of each of the rule's ends
}

// TieEnd is what an end of a rule is in a folder.
type TieEnd struct {
	Of EndOf
	N  int // among the case's tools or components
}

// EndOf tells ends apart.
type EndOf int

// What an end is.
const (
	AbsentEnd    EndOf = iota // the folder does not speak of it
	OfTool                    // the version of a tool
	OfPart                    // that of a component
	OfLabel                   // what the tool's installation is beside its version
	OfTheMachine              // its system or processor
)

// tying finds the rules and baselines that speak of a repository's folders.
type tying struct {
	facts    *Facts
	prepared *Prepared
	book     *rule.Book
	adopted  []*rule.Baseline
	demanded []*rule.Baseline // those, and behind them the ones that the machines demand which build it
	groups   []policy.Machines
	places   map[*resolve.Subject]int
	parts    map[string][]Component // of each folder
	inForce  map[*resolve.View][]*resolve.Subject
}

// Component is what a folder says of one component.
type Component struct {
	Part
	Claims []*claim.Claim
}

// view is the folder with the rules and baselines that speak of it; nil where none does.
func (t *tying) view(v *resolve.View) *Viewed {
	if len(t.demanded) == 0 && t.parts[v.Folder] == nil && len(t.tools(v)) < 2 && !t.alone(v) {
		return nil
	}
	out := t.gather(v)
	if len(out.Case.Ties) == 0 && len(out.Case.Baselines) == 0 {
		return nil
	}
	out.Case = t.facts.viewCase(out.Case)
	return out
}

// alone reports whether a rule speaks of a folder's one tool, and of nothing else but machines.
func (t *tying) alone(v *resolve.View) bool {
	for _, s := range t.tools(v) {
		for _, r := range t.book.Of(s.Tool.Name) {
			if !slices.ContainsFunc(r.Ends, func(e rule.End) bool { return e.Of != s.Tool.Name && e.Of != "machine" }) {
				return true
			}
		}
	}
	return false
}

// whole is the folder with all that is said there, whether rules speak of it or not.
func (t *tying) whole(v *resolve.View) *Viewed {
	out := t.gather(v)
	out.Case = t.facts.viewCase(out.Case)
	return out
}

func (t *tying) gather(v *resolve.View) *Viewed {
	out, c := &Viewed{Folder: v.Folder}, &ViewCase{Horizon: t.prepared.Settings.Horizon, Ends: t.prepared.Settings.Ends(), groups: t.groups, book: t.book}
	ends := map[string]TieEnd{}
	for _, p := range t.components(v) {
		ends[p.Name] = TieEnd{OfPart, len(c.Parts)}
		c.Parts, out.Parts = append(c.Parts, p.Part), append(out.Parts, p.Claims)
	}
	for _, s := range t.tools(v) {
		own := t.prepared.Subjects[t.places[s]]
		ends[s.Tool.Name] = TieEnd{OfTool, len(c.Tools)}
		c.Tools = append(c.Tools, ToolEnd{own.Case, codeOnly(s), ownIn(own, v.Folder), decidedIn(own, v.Folder)})
		out.Tools, out.places = append(out.Tools, own), append(out.places, t.places[s])
	}
	c.Ties = t.ties(c, ends)
	c.Baselines, c.Adopted = t.concerning(ends)
	out.Case = c
	return out
}

// ownIn reports whether something that chooses or bounds a tool stands in the folder: what
// holds in it because of a folder above is judged there.
func ownIn(s *Subject, folder string) bool {
	if s.Folder != folder {
		return false
	}
	return !s.Pinned() && s.Case.Needed || slices.ContainsFunc(s.Claims, func(a resolve.Asked) bool {
		return a.Folder == folder && (a.Role == claim.Pin || a.Role == claim.Bound)
	})
}

// decidedIn reports whether what runs of a tool is decided in the folder.
func decidedIn(s *Subject, folder string) bool {
	if !s.Pinned() {
		return s.Folder == folder && s.Case.Needed
	}
	return s.PinFolder == folder
}

// codeOnly reports whether all pins of a tool say what the code is made for.
func codeOnly(s *resolve.Subject) bool {
	pins := s.With(claim.Pin)
	return len(pins) > 0 && !slices.ContainsFunc(pins, func(a resolve.Asked) bool { return a.Serves != "code" })
}

// tools are the folder's own, and those that a folder above pins.
func (t *tying) tools(v *resolve.View) []*resolve.Subject {
	if known, ok := t.inForce[v]; ok {
		return known
	}
	out := t.findTools(v)
	if t.inForce == nil {
		t.inForce = map[*resolve.View][]*resolve.Subject{}
	}
	t.inForce[v] = out
	return out
}

func (t *tying) findTools(v *resolve.View) []*resolve.Subject {
	out := v.Subjects[:len(v.Subjects):len(v.Subjects)]
	for folder := v.Folder; folder != ""; {
		folder = claim.Above(folder)
		above, found := slices.BinarySearchFunc(t.prepared.Views, folder, func(v *resolve.View, f string) int { return strings.Compare(v.Folder, f) })
		if !found {
			continue
		}
		for _, s := range t.prepared.Views[above].Subjects {
			if s.Pinned() && s.PinFolder == folder && !slices.ContainsFunc(out, func(o *resolve.Subject) bool { return o.Tool == s.Tool }) {
				out = append(out, s)
			}
		}
	}
	return out
}

// ties are the rules all of whose conditions the folder speaks of, and some need of them, and
// that are not judged in a folder above.
func (t *tying) ties(c *ViewCase, ends map[string]TieEnd) []Tie {
	var out []Tie
	for _, r := range t.facts.speaking(t.book, ends) {
		if tie, applies := tieOf(r, c, ends); applies {
			out = append(out, tie)
		}
	}
	return out
}

// speaking are the rules that may apply to a folder that speaks of some names, sorted: they
// are the same for all folders that speak of the same.
func (f *Facts) speaking(b *rule.Book, ends map[string]TieEnd) []*rule.Rule {
	names := make([]string, 0, 8)
	for name := range ends {
		names = append(names, name)
	}
	slices.Sort(names)
	key := spoken{b, strings.Join(names, " ")}
	if known, ok := f.spoken.Load(key); ok {
		return known.([]*rule.Rule)
	}
	var out []*rule.Rule
	for _, name := range names {
		for _, r := range b.Of(name) {
			if !slices.Contains(out, r) && speaksOf(r, ends) {
				out = append(out, r)
			}
		}
	}
	slices.SortFunc(out, func(a, b *rule.Rule) int { return strings.Compare(a.Name, b.Name) })
	f.spoken.Store(key, out)
	return out
}

// spoken is a book and the names that a folder speaks of.
type spoken struct {
	book  *rule.Book
	names string
}

// speaksOf reports whether a folder speaks of all that some row of a rule asks for, and of
// some need.
func speaksOf(r *rule.Rule, ends map[string]TieEnd) bool {
	there := func(term rule.Term) bool {
		of := r.Ends[term.End].Of
		_, known := ends[of]
		return known || of == "machine"
	}
	return slices.ContainsFunc(r.Rows, func(row rule.Row) bool {
		return !slices.ContainsFunc(row.When, func(term rule.Term) bool { return !there(term) }) && slices.ContainsFunc(row.Need, there)
	})
}

func tieOf(r *rule.Rule, c *ViewCase, ends map[string]TieEnd) (tie Tie, applies bool) {
	tie.Rule = r
	tie.Ends = make([]TieEnd, 0, len(r.Ends))
	own := false
	for _, e := range r.Ends {
		at, there := ends[e.Of]
		switch {
		case e.Of == "machine":
			at, there = TieEnd{Of: OfTheMachine}, true
		case there && e.Label != "" && at.Of == OfTool:
			at.Of = OfLabel
		}
		tie.Ends = append(tie.Ends, at)
		own = own || there && (at.Of == OfPart || at.Of == OfTool && c.Tools[at.N].Own)
	}
	if !own {
		return tie, false
	}
	// A bound that leaves no more than the rule does says it already.
	return tie, !tie.said(c)
}

// said reports whether bounds of the folder say of its one tool all that the rule says.
func (t *Tie) said(c *ViewCase) bool {
	tool := -1
	values := make([]rule.Value, len(t.Ends))
	for i, e := range t.Ends {
		switch e.Of {
		case OfTool:
			if tool >= 0 {
				return false
			}
			tool = i
		case OfPart:
			values[i].Set = c.Parts[e.N].Set
		default:
			return false
		}
	}
	if tool < 0 {
		return false
	}
	left := t.Rule.Left(tool, values)
	return left.IsAll() || slices.ContainsFunc(c.Tools[t.Ends[tool].N].Question.Bounds, func(w *resolve.Want) bool {
		return w.Err == nil && !w.Kept && w.Alias == "" && !w.Set.IsEmpty() && w.Set.SubsetOf(left)
	})
}

// concerning are the baselines that demand something of what the folder speaks of, adopted
// ones first.
func (t *tying) concerning(ends map[string]TieEnd) (out []*rule.Baseline, adopted int) {
	for i, b := range t.demanded {
		about := func(name string) bool { _, there := ends[name]; return there }
		if slices.ContainsFunc(b.Demands, func(d rule.Demand) bool { return about(d.Name) }) ||
			slices.ContainsFunc(b.Companions, func(c rule.Companion) bool { return about(c.Tool) }) {
			out = append(out, b)
			if i < len(t.adopted) {
				adopted++
			}
		}
	}
	return out, adopted
}

// Catalogue is that by whose rules it is judged.
func (c *ViewCase) Catalogue() *catalogue.Catalogue { return c.book.Catalogue }

// Name is what an end is called in rules; empty of what the folder does not speak of.
func (v *Viewed) Name(e TieEnd) string {
	switch e.Of {
	case OfTool, OfLabel:
		return v.Tools[e.N].Tool.Name
	case OfPart:
		return v.Case.Parts[e.N].Name
	}
	return ""
}

// Claim is a pin of a tool, or behind its pins a bound; of a component what tells its version.
func (v *Viewed) Claim(e TieEnd, n int) *claim.Claim {
	if e.Of == OfPart {
		return v.Parts[e.N][0]
	}
	return v.Tools[e.N].Asked(n).Claim
}

// SetUp is a value of a matrix that a tool's pipelines set up.
func (v *Viewed) SetUp(e TieEnd, r Ref) *claim.Claim {
	s := v.Tools[e.N]
	return s.Claims[s.Setups[r.N][r.Value]].Claim
}

// Proof is where stands what is broken, each place once.
func (v *Viewed) Proof(b *Broken) []*claim.Claim {
	var out []*claim.Claim
	add := func(c *claim.Claim) {
		if !slices.Contains(out, c) {
			out = append(out, c)
		}
	}
	for _, d := range []*rule.Demand{b.Against, b.Demand} {
		if d != nil && b.Against != nil {
			add(&claim.Claim{File: d.At.File, Line: d.At.Line, Column: 1, Raw: d.Text})
		}
	}
	for _, e := range b.Ends {
		if e.Of == OfPart {
			add(v.Parts[e.N][0])
		}
		for _, n := range e.Claims {
			add(v.Claim(e.TieEnd, n))
		}
		for _, r := range e.Setups {
			add(v.SetUp(e.TieEnd, r))
		}
		if e.Of == OfTool && len(e.Claims)+len(e.Setups) == 0 && len(v.Tools[e.N].Uses) > 0 && b.Against == nil {
			add(&claim.Claim{File: v.Tools[e.N].Uses[0].File})
		}
	}
	return out
}
