package main

import (
	"fmt"
	"strings"

	"wexo/internal/core/trust"
)

// line writes the line of trust: who controls what, and what that may do.
func line(file string) error {
	var b strings.Builder
	b.WriteString("| who controls it | what it may run | read | decide | show | held by |\n| --- | --- | --- | --- | --- | --- |\n")
	for _, row := range trust.Line {
		var tests []string
		for _, name := range row.Tests {
			if !strings.HasPrefix(name, "\"") {
				name = "`" + name + "`"
			}
			tests = append(tests, name)
		}
		fmt.Fprintf(&b, "| %s | %s | %s | %s | %s | %s |\n", row.Who, row.Run, row.Read, row.Decide, row.Show, strings.Join(tests, ", "))
	}
	return between(file, "line", b.String())
}
