// Package scan is one file being read: its text and documents, what it says, and where that
// stands. Readers of formats and of pipelines put what they find into it.
package scan

import "wexo/internal/core/claim"

// Said is what one file says by itself, whatever stands beside it. It depends on
// nothing but the file's path, its bytes, the catalogue and the user's rules, so it can be
// kept for as long as these stay.
type Said struct {
	Claims   []claim.Claim    `json:"c,omitempty"`
	Problems []claim.Problem  `json:"p,omitempty"`
	Bare     *Bare            `json:"b,omitempty"`
	Names    map[string]Named `json:"n,omitempty"` // definitions that values refer to
	Parent   string           `json:"i,omitempty"` // the file whose definitions hold here too
	Holds    []string         `json:"w,omitempty"` // folders that a workspace file lists
	Reads    []Reads          `json:"r,omitempty"` // files that are said to hold a version
	Applies  []string         `json:"a,omitempty"` // scripts that a build script applies
	Includes []string         `json:"u,omitempty"` // builds that it includes
	Sets     []Sets           `json:"s,omitempty"` // what is passed to the builds of container files
	Mentions []claim.Mention  `json:"m,omitempty"`
	Off      []string         `json:"o,omitempty"` // tools that fetch nothing where the file lies
	Applied  []string         `json:"d,omitempty"` // rules of the user's that found something in it
}

// Named is a definition with its place.
type Named struct {
	Text   string `json:"t"`
	Line   int    `json:"l"`
	Column int    `json:"c"`
}

// Bare is a file with nothing but one version. Its tool follows from what stands beside it.
type Bare struct {
	Text   string `json:"t"`
	Line   int    `json:"l"`
	Column int    `json:"c"`
	Begin  int    `json:"f,omitempty"`
	End    int    `json:"e,omitempty"`
	// Else is why the text is more likely the version of something else than a tool's; empty
	// where nothing says so.
	Else string `json:"o,omitempty"`
}

// Reads is a file that another file says holds a tool's version.
type Reads struct {
	Tool string `json:"t"`
	File string `json:"f"`
	For  string `json:"h,omitempty"` // the folder that the naming file speaks for
	By   string `json:"b"`           // the naming file
}

// Sets is what a file passes to the build of a container file, or, where there is none, of another.
type Sets struct {
	File string           `json:"f"`
	Else string           `json:"e,omitempty"`
	Args map[string]Named `json:"a"`
}
