// Package claim says what a claim is: one statement about a tool's version in a
// repository, with its file, line and column, and what its text asks for. How claims are
// found is package reading's matter.
package claim

import (
	"regexp"
	"strings"
)

// Role is what a claim does.
type Role string

// The roles.
const (
	Pin       Role = "pin"       // selects a version
	Bound     Role = "bound"     // restricts it
	Wiring    Role = "wiring"    // points an editor at an interpreter or SDK
	Setup     Role = "setup"     // what a pipeline or container sets up
	Tested    Role = "tested"    // what the project says that it is made for, or works with
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
	Tool    string `json:"tool"`
	Role    Role   `json:"role"`
	Raw     string `json:"raw"`
	Dialect string `json:"dialect"`
	Reading string `json:"reading,omitempty"` // as in a catalogue's claim rule, or "kept" for a text that names no version
	Means   string `json:"means,omitempty"`   // the text that is read in place of Raw, where Raw only stands for it
	Brings  bool   `json:"brings,omitempty"`  // the build fetches this version itself; no installation is needed
	Fetched bool   `json:"fetched,omitempty"` // the tool's own programs fetch this version, as far as the machine lets them
	// Alternate is true of what may name one of several tools of which a project uses one.
	Alternate bool   `json:"alternate,omitempty"`
	Serves    string `json:"serves,omitempty"` // "editor": the editor's own runtime, not the project's
	Folder    string `json:"folder"`           // where it starts to hold; "" is the root
	File      string `json:"file"`
	Line      int    `json:"line"`   // from 1; 0 where a folder's name is the claim
	Column    int    `json:"column"` // from 1, in bytes
	// Begin and End are where the text stands in the file's original bytes; both 0 where it
	// is not written anywhere as such.
	Begin      int    `json:"begin,omitempty"`
	End        int    `json:"end,omitempty"`
	Recognised string `json:"recognised"`
	Certainty  string `json:"certainty"`
	Why        string `json:"why,omitempty"` // how it was recognised, and why the certainty is not high
	// Given is where the text itself is written, when the claim only refers to it.
	Given *Place `json:"given,omitempty"`
	// Inside is what the tree itself says of a wired path that lies in it; nil for other paths.
	Inside *Inside `json:"inside,omitempty"`
	// Locked is what a bound of a lock file rests on.
	Locked *Locked `json:"locked,omitempty"`
	Vendor string  `json:"vendor,omitempty"` // of a setup: whose build is set up, where something beside the version says so
	// Fallbacks are the further versions of a pin, to be tried in order.
	Fallbacks []string `json:"fallbacks,omitempty"`
	Component string   `json:"component,omitempty"` // the framework, for the role component
	Tells     string   `json:"tells,omitempty"`     // of a pin or bound: what rules speak of that it tells too
	Scope     string   `json:"scope,omitempty"`     // of a wiring: user, workspace or folder
	Setting   string   `json:"setting,omitempty"`   // of a wiring: the setting's name
	Beaten    string   `json:"beaten,omitempty"`    // of a wiring: the nearer file that sets the same
	Stage     string   `json:"stage,omitempty"`     // of a container's build
	Digest    string   `json:"digest,omitempty"`    // of a container's image
	Purpose   string   `json:"purpose,omitempty"`   // of a setup: why it stands beside others on purpose
	// OneOf names the matrix that a setup is one value of: one of its values is set up at a time.
	OneOf string `json:"oneOf,omitempty"`
}

// Place is a spot in a file.
type Place struct {
	Name   string `json:"name"` // what is defined there
	File   string `json:"file"`
	Line   int    `json:"line"`
	Column int    `json:"column"`
}

// Inside is a wired path that leads into the repository.
type Inside struct {
	Path    string `json:"path"`              // relative to the repository's root
	Exists  bool   `json:"exists"`            // the tree that was read holds it
	Version string `json:"version,omitempty"` // of a virtual environment, as its configuration says
}

// Locked is the demands of a lock file's dependencies on a tool, taken together.
type Locked struct {
	Demands int      `json:"demands"` // how many dependencies demand something
	Range   string   `json:"range"`   // what all of them admit, as version.Set.Canonical
	By      []Demand `json:"by"`      // a smallest choice of them that comes to the same range
}

// Demand is what one locked dependency demands of a tool.
type Demand struct {
	Dependency string `json:"dependency"`
	Version    string `json:"version,omitempty"`
	Raw        string `json:"raw"`
	Line       int    `json:"line"`
	Column     int    `json:"column"`
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
	Partial    ProblemKind = "partial"    // a known file is read only in part
	Stale      ProblemKind = "stale"      // the repository cannot be read any more; what it said last counts
	Unclaimed  ProblemKind = "unclaimed"  // looks like a version file, belongs to no tool
	Mistaken   ProblemKind = "mistaken"   // a rule of the user's cannot be understood
	Rival      ProblemKind = "rival"      // two tools are at work in a folder, of which a project uses one
	Idle       ProblemKind = "idle"       // a rule of the user's, or a file of them, changes nothing
)

// Problem is a file that could not be read, or only in part, or not be attributed.
type Problem struct {
	Kind     ProblemKind `json:"kind"`
	Folder   string      `json:"folder"`
	File     string      `json:"file"`
	Line     int         `json:"line"` // 0 where the file as a whole is meant
	Column   int         `json:"column"`
	Raw      string      `json:"raw,omitempty"`
	Reason   string      `json:"reason"`
	Settle   string      `json:"settle,omitempty"`   // three lines of .wexo.yaml that settle an unclaimed file
	Stranger bool        `json:"stranger,omitempty"` // it names a tool that the catalogue does not know
	// Lost tells of what could not be had at all, for damage, access or a limit; what is read and
	// not understood is not.
	Lost bool `json:"lost,omitempty"`
}

// Mention is a place that looks like a tool beside a version and makes no claim, with the
// reason. Mentions are in no count and no verdict; they tell what reading did not understand.
type Mention struct {
	Tool   string `json:"tool"`
	Raw    string `json:"raw"`
	Folder string `json:"folder"`
	File   string `json:"file"`
	Line   int    `json:"line"`
	Column int    `json:"column"`
	Reason string `json:"reason"`
}

// Submodule is why a folder is not read that holds a commit of another repository.
const Submodule = "a submodule"

// SkippedFolder is a folder that was not read.
type SkippedFolder struct {
	Folder string `json:"folder"`
	Why    string `json:"why"`
}

// Reading is everything that the files of one repository say.
type Reading struct {
	Claims   []Claim         `json:"claims"`
	Uses     []Use           `json:"uses"`
	Problems []Problem       `json:"problems"`
	Skipped  []SkippedFolder `json:"skipped,omitempty"`
	Mentions []Mention       `json:"mentions,omitempty"`
	// Applied are the estate's rules that changed what was read here, as userrule.Place.Ref.
	Applied []string `json:"applied,omitempty"`
	Ended   string   `json:"ended,omitempty"` // why reading ended early; empty where it did not
	Spent   bool     `json:"-"`               // it ended since it takes too much work, as it would again
	Files   int      `json:"files"`           // files seen
}

var versionFile = regexp.MustCompile(`^\.([A-Za-z][\w.-]*?)[-_]version$`)

// VersionFile is the tool part of the name of a file that is called .<tool>-version; "" for other
// names.
func VersionFile(base string) string {
	if m := versionFile.FindStringSubmatch(base); m != nil {
		return m[1]
	}
	return ""
}

// Above is the folder that a folder lies in; the root lies in itself.
func Above(folder string) string {
	if i := strings.LastIndexByte(folder, '/'); i >= 0 {
		return folder[:i]
	}
	return ""
}
