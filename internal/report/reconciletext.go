package report

import (
	"cmp"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"
	"time"

	"wexo/internal/core/sentence"
	"wexo/internal/core/unseen"
	"wexo/internal/terminal"
)

// ReconciledText prints a joint answer: the conflict as a chain, and what would hold as the
// changes to make.
func ReconciledText(w io.Writer, r Reconciled, style Style) error {
	p := &printer{w: w, style: style}
	p.linef("%s", p.bold(terminal.Clean("All tools of "+path.Join(r.Repository, r.Folder)+" together")))
	var titles []string
	for _, n := range r.Names {
		titles = append(titles, n.Title)
	}
	p.linef("%s\n", p.dim(terminal.Clean(strings.Join(titles, ", "))))
	switch {
	case !r.Decided:
		p.linef("Not decided: more is said here than can be weighed together.")
		p.unseen(r.Unseen)
		return p.err
	case r.Feasible && len(unseen.Blinding(r.Unseen)) > 0:
		p.linef("%s", "All that was seen here can hold together; not all was.")
	case r.Feasible:
		p.linef("%s", "All that is said here can hold together.")
	default:
		p.chain(r)
	}
	p.assignment(r)
	p.unseen(r.Unseen)
	return p.err
}

func (p *printer) chain(r Reconciled) {
	smallest := "; leave out any one, and the others can"
	if !r.Smallest {
		smallest = ""
	}
	p.linef("%s", p.paint("31", fmt.Sprintf("Not all of it can hold. These %d cannot hold together%s:", len(r.Conflict), smallest)))
	p.links(r.Conflict)
}

// links prints a chain, rules between the claims that they tie together.
func (p *printer) links(chain []ChainLink) {
	for i, l := range chain {
		mark, text := "·", terminal.Clean(l.Text)
		if l.Kind == "rule" {
			mark = "="
			if l.Source != "" {
				text += p.dim("  " + terminal.Clean(l.Source))
			}
		}
		p.linef("  %d %s %s", i+1, mark, text)
	}
}

func (p *printer) assignment(r Reconciled) {
	for _, chain := range r.Beyond {
		p.linef("\nWhatever is pinned, these cannot hold together: one of them has to change.")
		p.links(chain)
	}
	if len(r.Assignment) == 0 {
		return
	}
	title := "What would hold, for the longest and with the fewest changes"
	if len(r.Beyond) > 0 {
		title = "What would hold beside that"
	}
	p.linef("\n%s", p.bold(title))
	wide, version := 0, 0
	for _, a := range r.Assignment {
		wide, version = max(wide, len(a.Title)), max(version, len(a.Write))
	}
	for _, a := range r.Assignment {
		p.linef("  %-*s  %-*s  %s", wide, a.Title, version, terminal.Clean(a.Write), strings.Join(p.doing(a), "; "))
	}
}

// doing is what an assignment asks for.
func (p *printer) doing(a Assignment) []string {
	var out []string
	for _, c := range a.Changes {
		out = append(out, fmt.Sprintf("change %s:%d, which says %s", terminal.Clean(c.File), c.Line, terminal.Clean(c.Raw)))
	}
	if len(a.Install) > 0 {
		out = append(out, "install it on "+terminal.Clean(shortNames(a.Install)))
	}
	if a.Until != "" {
		out = append(out, p.dim("supported until "+inWords(a.Until)))
	}
	if len(a.Changes)+len(a.Install) == 0 {
		out = append([]string{p.dim("as it is")}, out...)
	}
	return out
}

func shortNames(names []string) string {
	const most = 3
	if len(names) <= most {
		return strings.Join(names, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(names[:most-1], ", "), len(names)-most+1)
}

// ReconcileAllFormat is the name and version of the format of an estate's joint answers.
const ReconcileAllFormat = "wexo.reconcile-all/1"

// Settling are the joint answers of an estate: how many folders hold, and the moves that
// settle most of the others.
type Settling struct {
	Format       string       `json:"format"`
	AsOf         string       `json:"asOf"`
	Repositories int          `json:"repositories"`
	Folders      int          `json:"folders"`
	Holding      int          `json:"holding"`
	Apart        int          `json:"notHolding"`
	Undecided    int          `json:"undecided"`
	Moves        []MoveRanked `json:"moves"`
	Unsettled    []FolderName `json:"unsettled"` // that no choice of versions settles
	Unseen       []unseen.Gap `json:"unseen"`    // what was not seen of the repositories
	at           map[string]int
}

// FolderName is a folder of a repository.
type FolderName struct {
	Repository string `json:"repository"`
	Folder     string `json:"folder"`
}

// MoveRanked is what settles some folders.
type MoveRanked struct {
	Text         string       `json:"text"`
	Folders      int          `json:"folders"`
	Repositories int          `json:"repositories"`
	In           []FolderName `json:"in"`
}

// NewSettling holds nothing yet.
func NewSettling(on time.Time, repositories int) *Settling {
	return &Settling{Format: ReconcileAllFormat, AsOf: on.Format(time.DateOnly), Repositories: repositories, Moves: []MoveRanked{}, Unsettled: []FolderName{}, at: map[string]int{}}
}

// Add counts a folder's answer.
func (s *Settling) Add(r Reconciled) {
	s.Folders++
	name := FolderName{r.Repository, r.Folder}
	switch {
	case !r.Decided:
		s.Undecided++
		return
	case r.Feasible:
		s.Holding++
		return
	}
	s.Apart++
	var acts []string
	for _, a := range r.Assignment {
		for _, c := range a.Changes {
			if act := fmt.Sprintf("%s %s → %s", a.Title, c.Raw, c.To); !slices.Contains(acts, act) {
				acts = append(acts, act)
			}
		}
	}
	if len(acts) == 0 {
		s.Unsettled = append(s.Unsettled, name)
		return
	}
	text := strings.Join(acts, ", ")
	n, known := s.at[text]
	if !known {
		n = len(s.Moves)
		s.at[text] = n
		s.Moves = append(s.Moves, MoveRanked{Text: text})
	}
	m := &s.Moves[n]
	if k := len(m.In); k == 0 || m.In[k-1].Repository != r.Repository {
		m.Repositories++
	}
	m.Folders++
	m.In = append(m.In, name)
}

// Rank puts the moves that settle most first.
func (s *Settling) Rank() {
	slices.SortStableFunc(s.Moves, func(a, b MoveRanked) int {
		return cmp.Or(b.Folders-a.Folders, b.Repositories-a.Repositories, strings.Compare(a.Text, b.Text))
	})
}

// mostMoves is how many moves are printed.
const mostMoves = 20

// SettlingText prints the joint answers of an estate.
func SettlingText(w io.Writer, s *Settling, style Style) error {
	p := &printer{w: w, style: style}
	all := "all can hold together"
	if len(unseen.Blinding(s.Unseen)) > 0 {
		all = "what was seen can hold together"
	}
	p.linef("%s", p.bold(fmt.Sprintf("%s of %s: in %d %s, in %d it cannot", sentence.Count(s.Folders, "folder", "folders"), sentence.Count(s.Repositories, "repository", "repositories"), s.Holding, all, s.Apart)))
	if s.Undecided > 0 {
		p.linef("%d were not decided: more is said there than can be weighed together.", s.Undecided)
	}
	if len(s.Moves) > 0 {
		p.linef("\n%s", p.bold("What settles most"))
	}
	for _, m := range s.Moves[:min(len(s.Moves), mostMoves)] {
		where := terminal.Clean(path.Join(m.In[0].Repository, m.In[0].Folder))
		if m.Folders > 1 {
			where = fmt.Sprintf("%s in %s", sentence.Count(m.Folders, "folder", "folders"), sentence.Count(m.Repositories, "repository", "repositories"))
		}
		p.linef("  %s  %s", terminal.Clean(m.Text), p.dim(where))
	}
	if more := len(s.Moves) - mostMoves; more > 0 {
		p.linef("  %s", p.dim("and "+sentence.Count(more, "move", "moves")+" more; --output json has them all"))
	}
	if len(s.Unsettled) > 0 {
		p.linef("\n%s", p.bold("What no choice of versions settles"))
		for _, f := range s.Unsettled[:min(len(s.Unsettled), mostMoves)] {
			p.linef("  %s", terminal.Clean(path.Join(f.Repository, f.Folder)))
		}
	}
	p.unseen(s.Unseen)
	return p.err
}
