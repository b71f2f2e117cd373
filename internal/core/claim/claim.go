// Package claim reads what a repository says about tool versions. It takes a tree
// (fs.FS) and gives claims, each with its file, line and column; nothing in the tree
// is run, and what cannot be read costs only itself.
package claim

import (
	"wexo/internal/core/catalogue"
	"wexo/internal/core/version"
)

// Role is what a claim does.
type Role string

// The roles.
const (
	Pin       Role = "pin"       // selects a version
	Bound     Role = "bound"     // restricts it
	Wiring    Role = "wiring"    // points an editor at an interpreter or SDK
	Setup     Role = "setup"     // what a pipeline or container sets up
	Component Role = "component" // a library's version that rules speak of
	Residue   Role = "residue"   // what an earlier build left behind
)

// How a claim was recognised, and how sure that is.
const (
	Standard = "standard" // a known file
	Shape    = "shape"    // by what is in the file
	Rule     = "rule"     // by the user's own rule

	High   = "high"
	Medium = "medium"
	Low    = "low"
)

// Claim is one statement about a tool's version in a repository.
type Claim struct {
	Tool       string `json:"tool"`
	Role       Role   `json:"role"`
	Raw        string `json:"raw"`
	Dialect    string `json:"dialect"`
	Reading    string `json:"reading,omitempty"` // "", "minimum" or "path"
	Serves     string `json:"serves,omitempty"`  // "editor": the editor's own runtime, not the project's
	Folder     string `json:"folder"`            // where it starts to hold; "" is the root
	File       string `json:"file"`
	Line       int    `json:"line"`   // from 1
	Column     int    `json:"column"` // from 1, in bytes
	Recognised string `json:"recognised"`
	Certainty  string `json:"certainty"`
	Why        string `json:"why,omitempty"` // why the certainty is not high
	// Inside is what the tree itself says of a wired path that lies in it; nil for other paths.
	Inside *Inside `json:"inside,omitempty"`
}

// Inside is a wired path that leads into the repository.
type Inside struct {
	Path    string `json:"path"`              // relative to the repository's root
	Exists  bool   `json:"exists"`            // the tree that was read holds it
	Version string `json:"version,omitempty"` // of a virtual environment, as its configuration says
}

// Use is a file that shows a folder uses a tool.
type Use struct {
	Tool   string `json:"tool"`
	Folder string `json:"folder"`
	File   string `json:"file"`
}

// ProblemKind says what is wrong with a file.
type ProblemKind string

// The kinds of problems.
const (
	Unreadable ProblemKind = "unreadable" // a known file cannot be read or parsed
	Unclaimed  ProblemKind = "unclaimed"  // looks like a version file, belongs to no tool
)

// Problem is a file that could not be read, or not be attributed.
type Problem struct {
	Kind   ProblemKind `json:"kind"`
	Folder string      `json:"folder"`
	File   string      `json:"file"`
	Line   int         `json:"line"` // 0 where the file as a whole is meant
	Column int         `json:"column"`
	Raw    string      `json:"raw,omitempty"`
	Reason string      `json:"reason"`
}

// Reading is everything one repository says.
type Reading struct {
	Claims   []Claim   `json:"claims"`
	Uses     []Use     `json:"uses"`
	Problems []Problem `json:"problems"`
	Files    int       `json:"files"` // files seen
}

// Wanted is what a claim's text asks for, before names are looked up by date.
type Wanted struct {
	Set     version.Set
	Alias   string // a name such as lts; Set is then to be looked up
	Vendor  string // as the catalogue names it
	Variant string // what it is built against: otp-27
	Package string // runtime or kit, where the text names one
	Arch    string // a processor, where the text names one
	Unknown string // a label that no vendor or variant has
	System  bool   // "whatever the system has"
}

// Want reads the claim's text for its tool. It fails where the text is no version,
// no range and no name of the tool.
func (c Claim) Want(t *catalogue.Tool) (Wanted, error) {
	if c.Reading == "minimum" {
		set, err := version.Minimum(t.Scheme(), c.Raw)
		return Wanted{Set: set}, err
	}
	if c.Dialect != "plain" {
		set, err := version.ParseRange(c.Dialect, t.Scheme(), c.Raw)
		return Wanted{Set: set}, err
	}
	return wantPlain(t, c.Raw)
}
