package sentence

import (
	"fmt"
	"strings"

	"wexo/internal/core/assess"
	"wexo/internal/core/claim"
	"wexo/internal/core/resolve"
)

func (w *words) boundViolated() (message, remedy string) {
	switch w.v.Kind {
	case assess.BoundNever:
		message = fmt.Sprintf("%s asks for %s, but %s allows only %s: the pin can never meet the bound", w.at(1), w.asks(1), w.at(0), w.asks(0))
		if len(w.v.Runs) > 0 {
			message += fmt.Sprintf(" (%s would run)", w.runs(w.v.Runs))
		}
		message += ", so the project will not run as its manifest says."
		a := w.v.Advice
		if bound := w.claim(0); a.Line != nil && bound.Folder != w.claim(1).Folder && bound.Folder != "" {
			return message, fmt.Sprintf("Pin %s in %s/, or change %s to it.%s", w.advised(), bound.Folder, w.places(w.v.Evidence[1]), w.install())
		}
		if a.Line != nil {
			return message, fmt.Sprintf("Change %s to %s%s.%s", w.places(w.v.Evidence[1]), w.advised(), w.because(), w.install())
		}
		return message, fmt.Sprintf("Widen %s to allow %s, or pin a version that it allows in %s.", w.at(0), w.asks(1), nearer(w.claim(0)))
	case assess.BoundPinned:
		message = fmt.Sprintf("%s allows only %s, but %s %s would run, which the project does not support.", w.at(0), w.asks(0), w.deciding(), w.runs(w.v.Runs))
		return message, w.intoBound()
	}
	if w.v.Kind == assess.BoundSetup {
		return w.setUpOutside()
	}
	message = fmt.Sprintf("%s allows only %s, but nothing pins it and %s would run, which the project does not support%s.", w.at(0), w.asks(0), w.runs(w.v.Runs), w.keptFrom())
	if w.v.Allowed.IsEmpty() {
		return message, fmt.Sprintf("No version satisfies all that is demanded here; loosen %s, or what contradicts it.", w.at(0))
	}
	if a := w.v.Advice; a.Line != nil && w.s.Case.Used && !w.s.Case.Free {
		return message, fmt.Sprintf("Pinning %s, as said under pin missing, mends this too.", w.advised())
	}
	return message, fmt.Sprintf("Let %s %s run on %s.", w.title(), w.v.Allowed, w.some(w.v.Machines))
}

// setUpOutside tells what is set up although it is not allowed.
func (w *words) setUpOutside() (message, remedy string) {
	what := w.asks(1)
	if texts := different(w.v.Near); len(texts) > 1 {
		what = w.title() + " " + list(texts)
	}
	message = fmt.Sprintf("%s allows only %s, but %s sets up %s", w.at(0), w.asks(0), w.at(1), what)
	if w.v.Severity == assess.Warning {
		message += ": it has to fetch another one there each time, or fails where it may not."
	} else {
		message += ": what is built and tested there is not what the project supports."
	}
	if w.v.Follows != nil {
		return message, "Setting up a supported line there, as said under end of life, mends this too."
	}
	if a := w.v.Advice; a.Line != nil {
		return message, fmt.Sprintf("Set up %s%s: change %s.", w.advised(), w.because(), w.at(1))
	}
	return message, fmt.Sprintf("Set up %s %s in %s.", w.title(), w.v.Allowed, w.at(1))
}

// keptFrom says what keeps a tool from fetching what is asked for; nothing where nothing does.
func (w *words) keptFrom() string {
	if w.v.Reason == "" {
		return ""
	}
	return ": " + w.v.Reason + " keeps it from fetching another"
}

// deciding says what decides: the pin, unless a variable on the machines does everywhere.
func (w *words) deciding() string {
	byVariable := 0
	for _, r := range w.v.Runs {
		if r.By == resolve.ByOverride {
			byVariable++
		}
	}
	if byVariable == len(w.v.Runs) {
		return "a variable beats the pin and"
	}
	return "with the pin in " + w.at(1)
}

// intoBound says how what runs by a pin comes into the bound.
func (w *words) intoBound() string {
	var acts []string
	seen := map[string]bool{}
	pinned := resolve.Machines{}
	for _, r := range w.v.Runs {
		if r.By != resolve.ByOverride {
			pinned = pinned.And(r.Machines)
			continue
		}
		act := fmt.Sprintf("unset %s on %s, or point it at a version inside the bound", r.Where, w.some(r.Machines))
		if !seen[act] {
			acts, seen[act] = append(acts, act), true
		}
	}
	switch {
	case pinned.Len() == 0:
	case w.v.Allowed.IsEmpty():
		acts = append(acts, fmt.Sprintf("no version satisfies all that is demanded here: loosen %s, or what contradicts it", w.at(0)))
	default:
		acts = append(acts, fmt.Sprintf("narrow the pin in %s to %s, or install a version inside it", w.at(1), w.v.Allowed))
	}
	text := strings.Join(acts, "; ") + "."
	return strings.ToUpper(text[:1]) + text[1:]
}

// nearer is the folder of a bound, in words.
func nearer(c claim.Claim) string {
	if c.Folder == "" {
		return "the root folder"
	}
	return c.Folder + "/"
}

func (w *words) fileUnreadable() (message, remedy string) {
	reason := w.v.Reason
	if i := strings.LastIndex(reason, ": "); i >= 0 {
		reason = reason[i+2:]
	}
	return fmt.Sprintf("%s restricts %s with %q, which cannot be read as a range: %s. It is not checked.", w.at(0), w.title(), w.claim(0).Raw, reason), "Correct the range."
}

// named is a folder, in words.
func named(folder string) string {
	if folder == "" {
		return "the root folder"
	}
	return folder + "/"
}

// problem tells of a file that could not be read or attributed.
func (w *words) problem(p *claim.Problem) (message, remedy string) {
	where := place(p.File, p.Line)
	switch {
	case p.File == "" && p.Kind == claim.Partial:
		return "Only a part of the repository is read: " + p.Reason + ". What the rest asks for is not checked.",
			"See what was committed there, and by whom; leave what is not meant to be read out by a rule in .wexo.yaml."
	case p.Kind == claim.Stale:
		return "The repository cannot be read any more: " + p.Reason + ". What it said when it was last read still counts.", "Mend the repository or the way to it, or remove it where it is not meant to be surveyed."
	case p.File == "":
		return "The repository cannot be read: " + p.Reason + ". Nothing that it asks for is checked.", "Mend the repository, or name another folder or ref."
	case p.Kind == claim.Rival:
		return "Two package managers are at work in " + named(p.Folder) + ": " + p.Reason + ". What one installs the other does not know of.",
			"Keep the one that the team uses, and remove what the other wrote."
	case p.Kind == claim.Unclaimed:
		remedy = "Say in .wexo.yaml whose version it is; the file itself stays as its own reader wants it:"
		if p.Stranger {
			remedy = "Mend the tool's name if it is misspelt; describe a tool of your own in a catalogue folder (wexo catalogue --help); or say in .wexo.yaml that the file is none of ours:"
		}
		return where + " looks like a version file, but " + p.Reason + ". What it asks for is not checked.", remedy
	case p.Kind == claim.Mistaken && strings.HasPrefix(p.Reason, "broken YAML"):
		return where + " cannot be read: " + p.Reason + ". None of its rules holds.", "Mend the file."
	case p.Kind == claim.Mistaken:
		return where + " cannot be understood as a rule: " + p.Reason + ". It changes nothing; the other rules hold.", "Mend the line."
	case p.Kind == claim.Idle && w.f.Repository.Name == "":
		if p.Raw != "" {
			where += " (" + p.Raw + ")"
		}
		return where + " matches nothing: " + p.Reason + ".", "Correct the entry, or remove it."
	case p.Kind == claim.Idle && p.Line == 0:
		return where + " changes nothing: " + p.Reason + ".", "Move what it says to .wexo.yaml in the root folder, or remove the file."
	case p.Kind == claim.Idle:
		return "The rule at " + where + " changes nothing: " + p.Reason + ".", "Correct the rule, or remove it. Names are those from the repository's root; a name without a slash is meant in every folder."
	case p.Kind == claim.Partial:
		return where + " is read only in part: " + p.Reason + ". What the rest asks for is not checked.",
			"Make the file shorter, or leave it out by a rule in .wexo.yaml where it is not meant to be read."
	}
	return where + " cannot be read: " + p.Reason + ". What it asks for is not checked; the rest of the repository is.", "Mend the file, or remove it where it is not meant to be there."
}
