// Package conformance compares how Wexo reads versions and ranges with the reference
// implementation of each, in its own language: the same generated questions to both,
// with fixed seeds. It holds tests only; `make conformance` asks 200,000 questions each,
// `make test` a few thousand.
//
// Each reference is a small program in references/ that answers lines, or a Go library
// called in process. Where Wexo decides otherwise on purpose, decisions_test.go says so,
// and the questions that a decision covers are counted.
package conformance
