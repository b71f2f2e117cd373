package assess

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
	"wexo/internal/core/version"
)

// Verdict is what is wrong with a case, as data: it speaks of the case's claims by their
// places, and of machines by theirs. Sentences are made of it at output.
type Verdict struct {
	Class    *Class
	Kind     Kind
	Severity Severity // of this kind, where it is another than its class's; empty where it is not
	Stands   Ref      // the claim in whose folder the finding stands; no claim means the subject's folder
	Evidence []Ref    // what proves it, the first being what it is about
	Also     []Ref    // further places of the same kind, which make it no other finding
	Wide     bool     // it holds for all folders of the subject's reach
	Follows  *Class   // the class of the finding whose remedy mends this one too
	Cause    string   // what tells it from others of its kind at the same place
	Root     Cause    // what it has in common with those of other places
	Machines resolve.Machines
	Runs     []Run             // what would run, or is there, on which machines
	Near     []Run             // what is installed instead
	Unusable []Unusable        // what is installed and of no use
	Line     *catalogue.Line   // that ends
	Ended    []*catalogue.Line // of what would run, those out of support, or that will soon be
	Advice   *Advice           // where to go
	Allowed  version.Set       // what would satisfy all
	Within   version.Set       // what the bounds leave of what is asked for; empty where that is all of it
	Home     bool              // a path of what would run lies in somebody's home
	Best     string            // a version that is installed and would do
	Tied     *Broken           // what does not go together
	First    *catalogue.Tool   // of what does not: the one to change first
	Reason   string
	Pinned   []*Prepared // of what PATH runs: the repositories that pin something else
	// Installed are the installations that a finding on machines themselves is about.
	Installed []*Serving
}

// Overriding is the variable that leads to all that would run; empty where something else
// does too.
func (v *Verdict) Overriding() string {
	where := ""
	for _, r := range v.Runs {
		if r.By != resolve.ByOverride || where != "" && where != r.Where {
			return ""
		}
		where = r.Where
	}
	return where
}

// Kind tells the sentences of one class apart.
type Kind string

// Ref is a place among the claims of a case: the n-th of its pins, bounds or wirings, or a
// value of a matrix; or a file that shows that the tool is used.
type Ref struct {
	Of    Place
	N     int
	Value int // of a matrix
}

// Place is where in a case a claim stands.
type Place int

// The places.
const (
	Nowhere Place = iota
	AtPin
	AtBound
	AtWiring
	AtSetup
	AtUse
	AtLimit // in another folder where the choice holds too
	AtResidue
)

// Release is a version, and whose it is where several vendors build the tool.
type Release struct{ Version, Vendor string }

// Run is a version, and the machines for which it is so.
type Run struct {
	Release          // what would run, or is there
	Other    Release // of two that differ, the second
	Path     string
	By       string // what decides it: one of resolve's By constants
	Where    string // the variable or file that does
	Raw      string // what it says
	Machines resolve.Machines
}

// Unusable is an installation that nobody can count on, and the machines that have it.
type Unusable struct {
	*inventory.Installed
	Machines resolve.Machines
}

// Evidence is a place that proves a finding.
type Evidence struct {
	File   string `json:"file"`
	Line   int    `json:"line"`
	Column int    `json:"column"`
	Raw    string `json:"raw"`
}

// Finding is one problem of one repository.
type Finding struct {
	Fingerprint string
	Class       *Class
	Severity    Severity
	Repository  *Prepared
	Among       resolve.Machines // that matter to the repository
	Folder      string
	Tool        *catalogue.Tool // nil where it belongs to none
	Machines    resolve.Machines
	Evidence    []Evidence
	Apart       bool           // its folder holds test data, examples or vendored code: it counts nowhere
	Verdict     *Verdict       // nil where a file is the problem
	Subject     *Subject       // of the verdict; nil where it is of several tools together
	View        *Viewed        // of a verdict on several tools together
	Problem     *claim.Problem // nil where it is a verdict
}

// Claim is the claim that a verdict speaks of; its fields are empty where a file only shows
// that a tool is used.
func (s *Subject) Claim(r Ref) claim.Claim {
	switch r.Of {
	case AtPin:
		return *s.Claims[s.Pins[r.N]].Claim
	case AtBound:
		return *s.Claims[s.Bounds[r.N]].Claim
	case AtWiring:
		return *s.Claims[s.Wirings[r.N]].Claim
	case AtSetup:
		return *s.Claims[s.Setups[r.N][r.Value]].Claim
	case AtResidue:
		return *s.Claims[s.Residues[r.N]].Claim
	case AtLimit:
		return *s.Limits[r.N][r.Value]
	case AtUse:
		return claim.Claim{File: s.Uses[r.N].File, Folder: s.Folder}
	}
	return claim.Claim{Folder: s.Folder}
}

func (s *Subject) evidence(refs []Ref) []Evidence {
	var out []Evidence
	for _, ref := range refs {
		c := s.Claim(ref)
		out = append(out, Evidence{c.File, c.Line, c.Column, c.Raw})
	}
	return out
}

// Concerns reports whether a finding is one of a subject: it stands in the same folder, or
// is told once for all folders that are so.
func (f *Finding) Concerns(s *Subject) bool {
	if f.View != nil {
		return slices.Contains(f.View.Tools, s) && slices.Contains(f.Tools(), s.Tool.Name)
	}
	if f.Tool != s.Tool {
		return false
	}
	wide := f.Verdict != nil && f.Verdict.Wide && !s.Pinned() && s.Needed() && f.Apart == s.Apart && holdsIn(f.Folder, s.Folder)
	return f.Folder == s.Folder || f.Subject == s || wide
}

// Tools names all tools and components that a finding is about, the one to change first.
func (f *Finding) Tools() []string {
	out := []string{}
	add := func(name string) {
		if !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	if f.Tool != nil {
		add(f.Tool.Name)
	}
	if f.View != nil {
		for _, e := range f.Verdict.Tied.Ends {
			if name := f.View.Name(e.TieEnd); name != "" {
				add(name)
			}
		}
	}
	return out
}

// toolName is the name of a finding's tool, or nothing.
func (f *Finding) toolName() string {
	if f.Tool == nil {
		return ""
	}
	return f.Tool.Name
}

// fingerprint stays while the cause stands: what the repository is, class, place, tool and
// what the evidence says; neither line numbers nor machines nor wording.
func (f *Finding) fingerprint(cause string) string {
	return digest(f.parts(f.Repository.Is(), cause), "\x00")
}

// Former is the fingerprint that a finding had when it rested on the repository's name.
func (f *Finding) Former() string {
	cause := ""
	switch {
	case f.Problem != nil:
		cause = f.Problem.Reason
	case f.Verdict != nil:
		cause = f.Verdict.Cause
	}
	return digest(f.parts(f.Repository.Name, cause), "")
}

func (f *Finding) parts(repository, cause string) []string {
	parts := make([]string, 0, 5+2*len(f.Evidence))
	parts = append(parts, f.Class.Name, repository, f.Folder, f.toolName(), cause)
	for _, e := range f.Evidence {
		parts = append(parts, e.File, e.Raw)
	}
	return parts
}

func digest(parts []string, end string) string {
	sum := sha256.Sum256([]byte(strings.Join(parts, "\x00") + end))
	return hex.EncodeToString(sum[:8])
}

// sortFindings orders by folder, tool, class.
func sortFindings(list []*Finding) {
	slices.SortFunc(list, func(a, b *Finding) int {
		return cmp.Or(strings.Compare(a.Folder, b.Folder), strings.Compare(a.toolName(), b.toolName()),
			strings.Compare(a.Class.Name, b.Class.Name), strings.Compare(a.Fingerprint, b.Fingerprint))
	})
}
