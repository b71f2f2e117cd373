package report

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"wexo/internal/core/assess"
	"wexo/internal/core/claim"
	"wexo/internal/core/rule"
	"wexo/internal/core/sentence"
	"wexo/internal/core/unseen"
)

// ReconcileFormat is the name and version of the joint answer's format.
const ReconcileFormat = "wexo.reconcile/1"

// Reconciled is the joint answer over all tools of a folder, in words.
type Reconciled struct {
	Format     string `json:"format"`
	AsOf       string `json:"asOf"`
	Repository string `json:"repository"`
	Folder     string `json:"folder"`
	// Feasible tells whether all that is said can hold together; meaningless where Decided is false.
	Feasible bool `json:"feasible"`
	Decided  bool `json:"decided"`
	// Smallest tells whether it is proved that no smaller conflict exists.
	Smallest bool        `json:"smallest"`
	Conflict []ChainLink `json:"conflict"`
	// Beyond are conflicts that no choice of versions settles: a component or a bound has to change.
	Beyond     [][]ChainLink `json:"beyond"`
	Assignment []Assignment  `json:"assignment"`
	// Names are the tools and components that are said something of, with their titles.
	Names []Named `json:"names"`
	// Unseen is what was not seen of the repository: it may say more.
	Unseen []unseen.Gap `json:"unseen"`
	Ties   []TieInUse   `json:"ties"`
}

// Named is a tool or component of a folder.
type Named struct {
	Name  string `json:"name"`
	Title string `json:"title"`
	Says  string `json:"says"` // what is asked for, or what it is; empty where nothing is said
	Place string `json:"place"`
	Kind  string `json:"kind"` // tool or component
}

// TieInUse is a rule between tools and components of the folder.
type TieInUse struct {
	Rule   string   `json:"rule"`
	Text   string   `json:"text"` // the rows that apply
	Names  []string `json:"names"`
	Broken bool     `json:"broken"` // it is part of the conflict, or does not hold by itself
	Source string   `json:"source"`
}

// ChainLink is one part of a conflict: a claim, a demand of a baseline, or a rule.
type ChainLink struct {
	Kind    string   `json:"kind"` // claim, component, demand or rule
	Text    string   `json:"text"`
	Names   []string `json:"names"`
	File    string   `json:"file"`
	Line    int      `json:"line"`
	Column  int      `json:"column"`
	Raw     string   `json:"raw"`
	Range   string   `json:"range"`
	Rule    string   `json:"rule,omitempty"`
	Because string   `json:"because,omitempty"`
	Source  string   `json:"source,omitempty"`
}

// Assignment is the version of one tool in the joint answer.
type Assignment struct {
	Tool    string   `json:"tool"`
	Title   string   `json:"title"`
	Version string   `json:"version"` // the one that is meant, for one
	Write   string   `json:"write"`   // what to write: a line where all of it will do
	Until   string   `json:"until"`   // the last day of support; empty where none is known
	Changes []Change `json:"changes"`
	Install []string `json:"install"` // machines that lack it
}

// Change is a claim that has to say something else.
type Change struct {
	File   string `json:"file"`
	Line   int    `json:"line"`
	Column int    `json:"column"`
	Raw    string `json:"raw"`
	To     string `json:"to"`
}

// NewReconciled puts a joint answer into words.
func (w Wording) NewReconciled(r *assess.Result, v *assess.Viewed, j *assess.Joint, on time.Time) Reconciled {
	out := Reconciled{Format: ReconcileFormat, AsOf: on.Format(time.DateOnly), Repository: r.Name, Folder: v.Folder, Feasible: j.Feasible, Decided: j.Decided, Smallest: j.Smallest || j.Feasible,
		Conflict: []ChainLink{}, Beyond: [][]ChainLink{}, Assignment: []Assignment{}, Names: []Named{}, Unseen: []unseen.Gap{}, Ties: []TieInUse{}}
	for _, l := range j.Chain {
		out.Conflict = append(out.Conflict, w.chainLink(v, l))
	}
	for _, chain := range j.Beyond {
		links := []ChainLink{}
		for _, l := range chain {
			links = append(links, w.chainLink(v, l))
		}
		out.Beyond = append(out.Beyond, links)
	}
	for _, c := range j.Choices {
		out.Assignment = append(out.Assignment, w.assignment(v, c))
	}
	out.names(v)
	out.ties(v, j)
	return out
}

func (w Wording) chainLink(v *assess.Viewed, l assess.Link) ChainLink {
	out := ChainLink{Kind: "claim", Text: w.Teller.Link(v, l), Names: []string{}}
	switch {
	case l.Rule != nil:
		out.Kind, out.Rule = "rule", l.Rule.Name
		out.Because, out.Source = l.Rows[0].Because, sourceOf(l.Rows[0])
		out.File, out.Line = l.Rows[0].At.File, l.Rows[0].At.Line
		for _, e := range l.Ends {
			if name := v.Name(e); name != "" && !slices.Contains(out.Names, name) {
				out.Names = append(out.Names, name)
			}
		}
		return out
	case l.Baseline != nil:
		out.Kind, out.Names = "demand", []string{l.Demand.Name}
		out.File, out.Line, out.Raw, out.Range = l.Demand.At.File, l.Demand.At.Line, l.Demand.Text, l.Demand.Set.String()
		return out
	}
	c := v.Claim(l.End, l.Claim)
	if l.End.Of == assess.OfPart {
		out.Kind, out.Range = "component", v.Case.Parts[l.End.N].Set.String()
	} else if want, err := c.Want(v.Tools[l.End.N].Tool); err == nil {
		out.Range = want.Set.String()
	}
	out.Names = []string{v.Name(l.End)}
	out.File, out.Line, out.Column, out.Raw = c.File, c.Line, c.Column, c.Raw
	return out
}

func sourceOf(r *rule.Row) string {
	return strings.Trim(r.Source+", "+r.Date, ", ")
}

func (w Wording) assignment(v *assess.Viewed, c assess.Chosen) Assignment {
	tool := v.Tools[c.Tool].Tool
	out := Assignment{Tool: tool.Name, Title: tool.Title, Version: c.Version, Write: c.Text, Changes: []Change{}, Install: w.Fleet.Names(c.Lacking)}
	if c.Line != nil && !c.Line.End.IsZero() {
		out.Until = c.Line.End.Format(time.DateOnly)
	}
	for _, n := range c.Claims {
		said := v.Claim(assess.TieEnd{Of: assess.OfTool, N: c.Tool}, n)
		out.Changes = append(out.Changes, Change{said.File, said.Line, said.Column, said.Raw, c.Text})
	}
	return out
}

func (r *Reconciled) names(v *assess.Viewed) {
	for _, s := range v.Tools {
		n := Named{Name: s.Tool.Name, Title: s.Tool.Title, Kind: "tool"}
		if len(s.Pins)+len(s.Bounds) > 0 {
			n.say(s.Asked(0).Claim)
		}
		r.Names = append(r.Names, n)
	}
	for i, p := range v.Case.Parts {
		n := Named{Name: p.Name, Title: v.Case.Catalogue().Title(p.Name), Kind: "component"}
		n.say(v.Parts[i][0])
		r.Names = append(r.Names, n)
	}
}

func (n *Named) say(c *claim.Claim) {
	n.Says = cmp.Or(c.Means, c.Raw)
	n.Place = sentence.Place(c.File, c.Line)
}

func (r *Reconciled) ties(v *assess.Viewed, j *assess.Joint) {
	for i := range v.Case.Ties {
		t := &v.Case.Ties[i]
		in := TieInUse{Rule: t.Rule.Name, Names: []string{}}
		for _, e := range t.Ends {
			if name := v.Name(e); name != "" && !slices.Contains(in.Names, name) {
				in.Names = append(in.Names, name)
			}
		}
		if len(in.Names) < 2 {
			continue
		}
		rows := j.Rows[i]
		if len(rows) > 0 {
			in.Source = sourceOf(rows[0])
		}
		in.Text = sentence.Rows(v.Case.Catalogue(), t.Rule, rows)
		in.Broken = !j.Held[i] || slices.ContainsFunc(j.Chain, func(l assess.Link) bool { return l.Rule == t.Rule })
		if in.Text != "" {
			r.Ties = append(r.Ties, in)
		}
	}
}
