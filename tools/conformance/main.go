// Command conformance compares how Wexo reads versions and ranges with the reference
// implementation of each, in its own language: the same generated questions to both,
// with fixed seeds. It exits with status 1 where an answer differs.
//
// Each reference is a small program in references/ that answers lines, or a Go library
// called in process. Where Wexo decides otherwise on purpose, decisions.go says so, and
// the questions that a decision covers are counted.
package main

import (
	"flag"
	"fmt"
	"os"
	"slices"
	"strings"
	"time"
)

func main() {
	pairs := flag.Int("pairs", 200_000, "questions a reference")
	seed := flag.Uint64("seed", 1, "where the generator starts")
	only := flag.String("only", "", "only the references whose names begin so, separated by commas")
	show := flag.Int("show", 20, "differing answers to show a reference")
	flag.Parse()
	failed := false
	fmt.Printf("%-34s %9s %9s %9s %9s %8s\n", "reference", "questions", "yes or <>", "refused", "decided", "differ")
	for _, r := range all() {
		if *only != "" && !slices.ContainsFunc(strings.Split(*only, ","), func(name string) bool { return strings.HasPrefix(r.name, name) }) {
			continue
		}
		start := time.Now()
		result, err := r.run(*pairs, *seed)
		if err != nil {
			fmt.Fprintf(os.Stderr, "%s: %v\n", r.name, err)
			failed = true
			continue
		}
		fmt.Printf("%-34s %9d %9d %9d %9d %8d   %.1f s\n", r.name, result.asked, result.telling, result.refused, result.decidedCount(), len(result.differ), time.Since(start).Seconds())
		for _, reason := range result.reasons() {
			fmt.Printf("    %6d decided: %s; for example %s\n", len(result.decided[reason]), reason, result.decided[reason][0])
		}
		for _, d := range result.differ[:min(*show, len(result.differ))] {
			fmt.Println("   ", d)
		}
		failed = failed || len(result.differ) > 0
	}
	if failed {
		os.Exit(1)
	}
}
