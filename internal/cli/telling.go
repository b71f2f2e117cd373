package cli

import (
	"io"

	"github.com/spf13/cobra"

	"wexo/internal/core/inventory"
	"wexo/internal/core/sentence"
	"wexo/internal/report"
	"wexo/internal/survey"
	"wexo/internal/terminal"
)

// tellSkipped names every folder that was not read, what was not understood in the files that
// were, and how much was remembered.
func tellSkipped(w io.Writer, read []survey.ReadRepository) {
	recalled, reread := 0, 0
	for _, r := range read {
		if r.Recalled {
			recalled++
		}
		reread += r.Reread
		for _, skipped := range r.Skipped {
			_ = terminal.Printf(w, "%s: not read: %s/ (%s)\n", r.Name, skipped.Folder, skipped.Why)
		}
		for _, m := range r.Mentions {
			_ = terminal.Printf(w, "%s: no claim: %s:%d:%d %s (%s)\n", r.Name, m.File, m.Line, m.Column, m.Raw, m.Reason)
		}
	}
	_ = terminal.Printf(w, "Unchanged since it was read before: %d of %s. Read elsewhere: %s.\n", recalled, sentence.Count(len(read), "repository", "repositories"), sentence.Count(reread, "file", "files"))
}

// tellIdle names the rules of the configuration that changed nothing in any repository.
func tellIdle(w io.Writer, got surveyed) {
	applied := map[string]bool{}
	for _, r := range got.read {
		for _, ref := range r.Applied {
			applied[ref] = true
		}
	}
	for _, at := range got.rules.Places() {
		if !applied[at.Ref()] {
			_ = terminal.Printf(w, "%s:%d: this rule changes nothing in any of the repositories\n", got.config, at.Line)
		}
	}
}

// tellPassedOver names executables that were found and are no installations, where the
// repositories ask for their tools: somebody may wonder why they do not count.
func tellPassedOver(w io.Writer, local *inventory.Machine) {
	if local == nil {
		return
	}
	const most = 3
	over := local.Inventory.PassedOver
	for _, one := range over[:min(len(over), most)] {
		_ = terminal.Printf(w, "wexo: %s is no installation here: %s\n", one.Path, one.Why)
	}
	if len(over) > most {
		_ = terminal.Printf(w, "wexo: and %d more (wexo inventory names those of the machine)\n", len(over)-most)
	}
}

// tellTaken tells what repositories' own rules take away, where the answer itself does not.
func tellTaken(cmd *cobra.Command, got surveyed) {
	if text := report.TakenOf(got.judge.Reads); text != "" {
		_ = terminal.Printf(cmd.ErrOrStderr(), "wexo: %s\n", text)
	}
}
