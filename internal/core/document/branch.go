package document

import (
	"bytes"
	"regexp"
)

// branch is the head of a branch of a script's logic, up to what it depends on.
var branch = regexp.MustCompile(`\b(?:if\s*\(|else\s*\{)`)

// refuses is what stands in a branch that only ends the build: its condition is a demand.
var refuses = regexp.MustCompile(`\b(?:throw|error|fail|GradleException|check|require)\b`)

// blankBranches replaces what stands in the branches of a script by spaces, so that offsets stay:
// which of them is taken, nobody knows who does not run it. code is changed where it may be.
func blankBranches(code []byte) []byte {
	if !bytes.Contains(code, []byte("if")) {
		return code
	}
	out := bytes.Clone(code)
	for from := 0; from < len(out); {
		m := branch.FindIndex(out[from:])
		if m == nil {
			return out
		}
		open := from + m[1] - 1
		from += m[1]
		if out[open] == '(' {
			end := closing(out, open)
			if end < 0 {
				return out
			}
			if open = end + 1; open < len(out) {
				open += len(out[open:]) - len(bytes.TrimLeft(out[open:], " \t\r\n"))
			}
			if open >= len(out) || out[open] != '{' {
				from = end
				continue
			}
		}
		end := closing(out, open)
		if end < 0 {
			return out
		}
		if from = end; refuses.Match(out[open:end]) {
			continue
		}
		for i := open + 1; i < end; i++ {
			if out[i] != '\n' {
				out[i] = ' '
			}
		}
	}
	return out
}

// closing is where the bracket closes that stands at an offset; -1 where it does not. Texts in
// quotes are passed over.
func closing(code []byte, at int) int {
	open, deep, quote := code[at], 0, byte(0)
	shut := map[byte]byte{'(': ')', '{': '}'}[open]
	for i := at; i < len(code); i++ {
		switch b := code[i]; {
		case quote != 0 && b == '\\':
			i++
		case quote != 0:
			if b == quote || b == '\n' {
				quote = 0
			}
		case b == '"' || b == '\'':
			quote = b
		case b == open:
			deep++
		case b == shut:
			if deep--; deep == 0 {
				return i
			}
		}
	}
	return -1
}
