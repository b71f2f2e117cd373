// Package assess judges resolutions: with the catalogue, a policy and a date it
// turns what repositories ask for and what machines would run into findings. The same
// inputs give the same findings; nothing here knows today's date.
package assess

import (
	"crypto/sha256"
	"encoding/hex"
	"slices"
	"strings"
)

// Class is the kind of a finding.
type Class string

// The classes that are assessed.
const (
	ToolchainMissing    Class = "toolchain-missing"
	PinMissing          Class = "pin-missing"
	ClaimsDisagree      Class = "claims-disagree"
	BoundViolated       Class = "bound-violated"
	InterpreterMismatch Class = "interpreter-mismatch"
	InterpreterDangling Class = "interpreter-dangling"
	SupportEnded        Class = "end-of-life"
	SupportEnding       Class = "support-ending"
	PinFloating         Class = "pin-floating"
	VersionUnknown      Class = "version-unknown"
	OverrideLingering   Class = "override-lingering"
	FileUnreadable      Class = "file-unreadable"
	FileUnclaimed       Class = "file-unclaimed"
)

// Severity is how bad a finding is.
type Severity string

// The severities.
const (
	Error   Severity = "error"
	Warning Severity = "warning"
	Note    Severity = "note"
)

// Classes lists every class with its default severity, worst first, in the order reports use.
var Classes = []struct {
	Class    Class
	Severity Severity
}{
	{ToolchainMissing, Error}, {ClaimsDisagree, Error}, {BoundViolated, Error},
	{InterpreterMismatch, Error}, {InterpreterDangling, Error}, {SupportEnded, Error},
	{VersionUnknown, Warning}, {SupportEnding, Warning}, {PinMissing, Warning},
	{PinFloating, Warning}, {OverrideLingering, Warning}, {FileUnreadable, Warning}, {FileUnclaimed, Note},
}

// Known tells whether the class is one that is assessed.
func Known(c Class) bool {
	for _, known := range Classes {
		if known.Class == c {
			return true
		}
	}
	return false
}

// severityOf is a class's default severity.
func severityOf(c Class) Severity {
	for _, known := range Classes {
		if known.Class == c {
			return known.Severity
		}
	}
	return Note
}

// Rank orders severities: error 3, warning 2, note 1, anything else 0.
func (s Severity) Rank() int {
	return map[Severity]int{Error: 3, Warning: 2, Note: 1}[s]
}

// Evidence is a place that proves a finding.
type Evidence struct {
	File   string `json:"file"`
	Line   int    `json:"line"`
	Column int    `json:"column"`
	Raw    string `json:"raw"`
}

// Finding is one problem.
type Finding struct {
	Fingerprint string     `json:"fingerprint"`
	Class       Class      `json:"class"`
	Severity    Severity   `json:"severity"`
	Repository  string     `json:"repository"`
	Folder      string     `json:"folder"`
	Tool        string     `json:"tool"`
	Machines    []string   `json:"machines"`
	Message     string     `json:"message"`
	Evidence    []Evidence `json:"evidence"`
	Remedy      string     `json:"remedy"`
	// Configuration is lines of .wexo.yaml that would settle the finding; empty where none can.
	Configuration string `json:"configuration,omitempty"`
	Waived        bool   `json:"waived"`
}

// fingerprint stays while the cause stands: class, place, tool and what the evidence
// says; neither line numbers nor machines nor wording.
func (f Finding) fingerprint(cause string) string {
	parts := []string{string(f.Class), f.Repository, f.Folder, f.Tool, cause}
	for _, e := range f.Evidence {
		parts = append(parts, e.File, e.Raw)
	}
	sum := sha256.Sum256([]byte(strings.Join(parts, "\x00")))
	return hex.EncodeToString(sum[:8])
}

// sortFindings orders by repository, folder, tool, class.
func sortFindings(list []Finding) {
	slices.SortStableFunc(list, func(a, b Finding) int {
		for _, c := range []int{
			strings.Compare(a.Repository, b.Repository), strings.Compare(a.Folder, b.Folder),
			strings.Compare(a.Tool, b.Tool), strings.Compare(string(a.Class), string(b.Class)),
		} {
			if c != 0 {
				return c
			}
		}
		return strings.Compare(a.Fingerprint, b.Fingerprint)
	})
}
