package cli

import (
	"strings"

	"wexo/internal/core/reading"
	"wexo/internal/core/unseen"
	"wexo/internal/host/repo"
	"wexo/internal/report"
	"wexo/internal/terminal"
)

// found are repositories below the folders that a command was given, with what there was not
// looked into.
type found struct {
	locations []repo.Location
	gaps      []unseen.Gap
}

// discover finds the repositories of some folders. What was named and cannot be had is told at
// once, and is a gap of the answer.
func discover(s Streams, reader *reading.Reader, dirs []string) (found, error) {
	var out found
	locations, problems := repo.Discover(dirs, reader.Marks)
	out.locations, out.gaps = locations, repo.Gaps(problems)
	for _, g := range out.gaps {
		if g.Kind == unseen.Missing && g.File == "" {
			_ = terminal.Printf(s.Err, "wexo: %s\n", g.String())
		}
	}
	if len(out.locations) > 0 {
		return out, nil
	}
	tellGaps(s, out.gaps)
	if len(problems) > 0 {
		return out, &exitError{status: exitWork}
	}
	return out, failed("no repository found below %s; name a folder that is a repository or holds some", strings.Join(dirs, ", "))
}

// named reports whether all that was found was named itself, and not a folder above it.
func (f found) named() bool {
	for _, l := range f.locations {
		if !l.Named {
			return false
		}
	}
	return true
}

// tellGaps tells what was not seen on standard error, where the answer itself does not.
func tellGaps(s Streams, gaps []unseen.Gap) {
	for _, g := range gaps {
		if g.Kind != unseen.Missing || g.File != "" { // what was named is told already
			_ = terminal.Printf(s.Err, "wexo: %s\n", g.String())
		}
	}
}

// ending is the exit status that what was not seen calls for, behind an answer that would end
// with another one. What is lost outweighs what was found; where all is to pass, what is only open
// passes too.
func ending(gaps []unseen.Gap, answer error, passes bool) error {
	switch unseen.Heaviest(gaps) {
	case unseen.Lost:
		return &exitError{status: exitWork}
	case unseen.Open:
		if answer == nil && !passes {
			return &exitError{status: exitWork}
		}
	}
	return answer
}

// tellUnseen tells in one line that something was not seen, where the answer goes to a program.
func tellUnseen(s Streams, gaps []unseen.Gap) {
	if text := report.Unseen(gaps); text != "" {
		_ = terminal.Printf(s.Err, "%s\n", text)
	}
}
