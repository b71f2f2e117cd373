// Trial draws source trees that nobody prepared, and compares what was read in them by people
// with what Wexo reads: the proof that verdicts are true on trees nobody thought of.
//
//	trial draw -seed 27 -npm npm.tsv -sources Sources > trees.txt     the trees, by a seed
//	trial fetch -into DIR < trees.txt                                 each as a repository
//	trial compare -labels labels.txt -report report.json              after one run of Wexo
//
// Labels are written by reading and committed before the program is run on the trees.
package main

import (
	"flag"
	"fmt"
	"io"
	"os"
)

func main() {
	if err := run(os.Args[1:], os.Stdin, os.Stdout); err != nil {
		fmt.Fprintln(os.Stderr, "trial:", err)
		os.Exit(1)
	}
}

func run(args []string, in io.Reader, out io.Writer) error {
	if len(args) == 0 {
		return fmt.Errorf("name what to do: draw, fetch or compare")
	}
	flags := flag.NewFlagSet(args[0], flag.ContinueOnError)
	seed := flags.String("seed", "", "what the draw follows from")
	npm := flags.String("npm", "", "list of npm packages, name and version apart by tabs")
	sources := flags.String("sources", "", "index of Debian's source packages")
	modules := flags.Int("modules", 60, "how many Go modules are drawn")
	into := flags.String("into", "", "folder for the trees")
	labels := flags.String("labels", "", "what was read by people")
	report := flags.String("report", "", "what Wexo reported, as JSON")
	if err := flags.Parse(args[1:]); err != nil {
		return err
	}
	switch args[0] {
	case "draw":
		return draw(out, *seed, *npm, *sources, *modules)
	case "fetch":
		return fetch(in, *into)
	case "compare":
		return compare(out, *labels, *report)
	}
	return fmt.Errorf("%q is none of draw, fetch and compare", args[0])
}
