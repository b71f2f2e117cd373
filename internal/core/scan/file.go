package scan

import (
	"errors"
	"fmt"
	"slices"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
)

// Limits of reading one file. What is beyond them is left out and told.
const (
	MaxKnown  = 8 << 20  // bytes of a known file; lock files are long
	MaxShape  = 64 << 10 // bytes of a file that is looked at for its shape
	MaxClaims = 10_000   // of one file
	MaxText   = 1024     // bytes of a text in which variables are replaced

	// MaxMentions is how many mentions of one file are kept.
	MaxMentions = 50

	maxLooks = 10 * MaxClaims
)

// File is one file being read.
type File struct {
	document.Text
	Catalogue *catalogue.Catalogue
	Selectors document.Selectors
	Budget    *document.Budget
	Path      string
	Folder    string // where it stands, for problems
	Said      *Said  // what is found
	// Aside is true of files in which only linters, scripts and the like are told of: nobody misses
	// what cannot be read.
	Aside  bool
	Full   bool // no more values are looked at
	Failed bool // it could not be parsed, which was reported
	Parsed map[string]document.Document

	looked int // values that may be versions
	seen   map[spot]bool
}

// spot is a claim's place and text; one place says a thing once.
type spot struct {
	tool, raw, component, folder string
	role                         claim.Role
	line, column                 int
	use                          bool // what the place defines is told of where it is used
}

// Document parses the file once a format; nil where it cannot be parsed, which is reported once.
func (s *File) Document(format string) document.Document {
	doc, seen := s.Parsed[format]
	if seen || s.Failed {
		return doc
	}
	doc, err := document.Parse(format, s.Source(s.Selectors))
	if err != nil {
		s.Failed = true
		s.Unreadable(err)
		doc = nil
	}
	if s.Parsed == nil {
		s.Parsed = map[string]document.Document{}
	}
	s.Parsed[format] = doc
	return doc
}

// Source is the file's text, to be parsed for selectors.
func (s *File) Source(selectors document.Selectors) document.Source {
	return document.Source{Data: s.Data, Selectors: selectors, Budget: s.Budget}
}

// Unreadable reports that the file could not be read, or not be understood.
func (s *File) Unreadable(err error) {
	if s.Aside {
		return
	}
	problem := claim.Problem{Kind: claim.Unreadable, Folder: s.Folder, File: s.Path, Reason: err.Error(), Lost: isLost(err)}
	var syntax *document.SyntaxError
	if errors.As(err, &syntax) {
		problem.Line, problem.Column, problem.Reason = syntax.Line, syntax.Column, syntax.Reason
	}
	s.Said.Problems = append(s.Said.Problems, problem)
}

// isLost reports whether an error is that something could not be had, and not that it cannot be
// understood.
func isLost(err error) bool {
	return errors.As(err, new(Withheld)) || errors.As(err, new(TooLarge)) || errors.Is(err, ErrFault)
}

// Partial reports that the rest of the file is left out.
func (s *File) Partial(reason string) {
	s.Said.Problems = append(s.Said.Problems, claim.Problem{Kind: claim.Partial, Folder: s.Folder, File: s.Path, Reason: reason, Lost: true})
}

// Claim is a claim that a value of the file makes of a tool.
func (s *File) Claim(tool *catalogue.Tool, role claim.Role, v document.Value, dialect, folder string) claim.Claim {
	line, column := s.Position(v.Offset)
	c := claim.Claim{Tool: tool.Name, Role: role, Raw: v.Text, Dialect: dialect, Folder: folder, File: s.Path,
		Line: line, Column: column, Recognised: claim.Standard, Certainty: claim.High}
	c.Begin, c.End = s.Span(v, s.Budget)
	if v.Given != nil {
		line, column := s.Position(v.Given.Offset)
		c.Given = &claim.Place{Name: v.Given.Name, File: s.Path, Line: line, Column: column}
	}
	if v.Means != "" {
		c.Means = v.Means
	}
	if v.Number != "" {
		c.Means = v.Number
		c.Why = "without quotes it is the number " + v.Number
	}
	return c
}

// Add keeps a claim unless the same place said the same already.
func (s *File) Add(c claim.Claim) {
	if s.repeats(&c) {
		return
	}
	if len(s.Said.Claims) == MaxClaims {
		s.looked = maxLooks
		s.More()
		return
	}
	s.Said.Claims = append(s.Said.Claims, c)
}

// repeats tells whether the same was said before, and keeps what this claim says. A value
// that a definition and what is put together from it both tell of counts once.
func (s *File) repeats(c *claim.Claim) bool {
	own := spot{tool: c.Tool, component: c.Component, folder: c.Folder, role: c.Role, line: c.Line, column: c.Column}
	at := own
	at.raw = c.Raw
	used := own // the definition, as something else makes use of it
	used.use = true
	if c.Given != nil {
		own.line, own.column = c.Given.Line, c.Given.Column
		used.line, used.column = own.line, own.column
	}
	if s.seen[at] || c.Given != nil && s.seen[own] || c.Given == nil && s.seen[used] {
		return true
	}
	if s.seen == nil {
		s.seen = map[spot]bool{}
	}
	s.seen[at] = true
	if c.Given != nil {
		own = used
	}
	s.seen[own] = true
	return false
}

// More counts a value that may be a version, and tells whether it is to be looked at: a
// file of endless values costs only itself.
func (s *File) More() bool {
	if s.Full {
		return false
	}
	s.Budget.Spend(document.LookCost)
	if s.looked++; s.looked > maxLooks {
		s.Full = true
		s.Partial(fmt.Sprintf("it has more places for versions than anybody needs; after %d versions the rest is left out", len(s.Said.Claims)))
	}
	return !s.Full
}

// Mention keeps a place that looks like a tool beside a version and makes no claim.
func (s *File) Mention(tool *catalogue.Tool, v document.Value, reason string) {
	if len(s.Said.Mentions) >= MaxMentions {
		return
	}
	line, column := s.Position(v.Offset)
	if slices.ContainsFunc(s.Said.Mentions, func(m claim.Mention) bool { return m.Line == line && m.Column == column }) {
		return
	}
	s.Said.Mentions = append(s.Said.Mentions, claim.Mention{Tool: tool.Name, Raw: document.Clip(v.Text), Folder: s.Folder, File: s.Path, Line: line, Column: column, Reason: reason})
}
