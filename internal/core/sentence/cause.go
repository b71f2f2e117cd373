package sentence

import (
	"fmt"
	"strings"

	"wexo/internal/core/assess"
)

// Cause says what is wrong with all the findings of a cause, how many repositories ask for
// it and on how many machines it is so: "Node.js 20.11.1: asked for by 412 repositories,
// missing on 21 machines".
func (t Teller) Cause(c *assess.Caused) string {
	f := c.Findings[0]
	if f.Problem != nil {
		return t.problems(c)
	}
	w := &words{Teller: t, f: f, v: f.Verdict, s: f.Subject}
	if f.View != nil {
		return w.together(c)
	}
	what := w.title()
	if len(f.Verdict.Evidence) > 0 {
		what = w.asks(0)
	}
	text := causes[c.Class.Name]
	if text == nil {
		return w.title() + ": " + strings.ToLower(c.Class.Title)
	}
	return text(w, what, c) + w.missing(c)
}

// missing adds that what the cause is about is missing too.
func (w *words) missing(c *assess.Caused) string {
	var where assess.Caused
	for _, f := range c.Findings {
		if f.Class != c.Class && f.Class.Name == "toolchain-missing" {
			where.Machines = where.Machines.And(f.Machines)
		}
	}
	if where.Machines.Len() == 0 {
		return ""
	}
	return ", and missing" + w.on(&where)
}

// in says which repository is meant, or how many are.
func in(c *assess.Caused) string {
	if c.Repositories == 1 {
		return c.Findings[0].Repository.Name
	}
	return Count(c.Repositories, "repository", "repositories")
}

// onMachines says on how many machines something is so; nothing where that is all or none.
func (t Teller) on(c *assess.Caused) string {
	switch n := c.Machines.Len(); {
	case len(t.Machines) < 2 || n == 0:
		return ""
	case n == len(t.Machines):
		return " on every machine"
	default:
		return " on " + Count(n, "machine", "machines")
	}
}

// causes are the titles of each class's causes.
var causes = map[string]func(w *words, what string, c *assess.Caused) string{
	"toolchain-missing": func(w *words, what string, c *assess.Caused) string {
		if w.v.Kind == assess.MissingPinned {
			return fmt.Sprintf("%s: asked for by %s, missing%s", what, in(c), w.on(c))
		}
		switch w.v.Kind {
		case assess.MissingStarts:
			return fmt.Sprintf("%s: older ones start and fetch what %s asks for%s", w.title(), in(c), w.on(c))
		case assess.MissingNowhere:
			return fmt.Sprintf("%s: needed by %s, and exists for %s alone", w.title(), in(c), systems(w.f.Tool.RunsOn))
		}
		if w.v.Kind == assess.MissingVoid {
			return fmt.Sprintf("%s: %s leads nowhere%s, needed by %s", w.title(), w.v.Runs[0].Where, w.on(c), in(c))
		}
		if len(w.v.Near) > 0 {
			return fmt.Sprintf("%s: needed by %s, and installed but not reached%s", w.title(), in(c), w.on(c))
		}
		return fmt.Sprintf("%s: needed by %s, and there is none%s", w.title(), in(c), w.on(c))
	},
	"end-of-life": func(w *words, _ string, c *assess.Caused) string {
		return fmt.Sprintf("%s %s: out of support since %s, in use in %s", w.title(), w.v.Line.Line, date(w.v.Line.End.Time), in(c)) + w.through(c)
	},
	"support-ending": func(w *words, _ string, c *assess.Caused) string {
		return fmt.Sprintf("%s %s: support ends on %s, in use in %s", w.title(), w.v.Line.Line, date(w.v.Line.End.Time), in(c)) + w.through(c)
	},
	"pin-missing": func(w *words, _ string, c *assess.Caused) string {
		if c.Repositories == 1 {
			return w.title() + ": used, and nothing pins its version"
		}
		return fmt.Sprintf("%s: used by %s that do not pin its version", w.title(), in(c))
	},
	"pin-floating": func(_ *words, what string, c *assess.Caused) string {
		return fmt.Sprintf("%s: asked for by %s, and names no version", what, in(c))
	},
	"version-unknown": func(w *words, what string, c *assess.Caused) string {
		if w.v.Kind == assess.UnknownHere {
			return fmt.Sprintf("%s: asked for by %s, and newer than what is known here", what, in(c))
		}
		return fmt.Sprintf("%s: asked for by %s, and no such version exists", what, in(c))
	},
	"claims-disagree": func(w *words, what string, c *assess.Caused) string {
		joint := "and elsewhere for"
		if w.v.Kind == assess.DisagreeSetup {
			joint = "but what is set up is"
		}
		other := w.asks(1)
		if texts := different(w.v.Near); w.v.Kind == assess.DisagreeSetup && len(texts) > 1 {
			other = list(texts)
		}
		return fmt.Sprintf("%s is asked for, %s %s: in %s", what, joint, strings.TrimPrefix(other, w.title()+" "), in(c))
	},
	"bound-violated": func(w *words, what string, c *assess.Caused) string {
		if w.v.Kind == assess.BoundSetup {
			return fmt.Sprintf("%s is allowed, but %s set up: in %s", what, strings.TrimPrefix(w.asks(1), w.title()+" "), in(c))
		}
		if w.v.Kind == assess.BoundNever {
			return fmt.Sprintf("%s is pinned, but only %s is allowed: in %s", w.asks(1), strings.TrimPrefix(what, w.title()+" "), in(c))
		}
		return fmt.Sprintf("%s is demanded by %s, and another version runs%s", what, in(c), w.on(c))
	},
	"interpreter-mismatch": func(w *words, _ string, c *assess.Caused) string {
		return fmt.Sprintf("%s: editors run another version than what is asked for, in %s", w.title(), in(c))
	},
	"interpreter-dangling": func(w *words, _ string, c *assess.Caused) string {
		return fmt.Sprintf("%s: editors are pointed at %s, which leads nowhere%s, in %s", w.title(), w.claim(0).Raw, w.on(c), in(c))
	},
	"override-lingering": func(w *words, _ string, c *assess.Caused) string {
		if w.v.Kind == assess.OverrideFolder {
			return fmt.Sprintf("%s: a setting for the folder beats the pin of %s%s", w.title(), w.v.Pinned[0].Name, w.on(c))
		}
		return fmt.Sprintf("%s: %s beats the pins of %s%s", w.title(), w.v.Cause, in(c), w.on(c))
	},
	"residue-stale": func(w *words, _ string, c *assess.Caused) string {
		return fmt.Sprintf("%s: what builds left was made by %s, in %s", w.title(), w.claim(0).Raw, in(c))
	},
	"default-mismatch": func(w *words, _ string, c *assess.Caused) string {
		return fmt.Sprintf("%s %s is what PATH runs%s, and %s another one", w.title(), w.v.Near[0].Version, w.on(c), pin(len(w.v.Pinned)))
	},
	"installation-broken": func(w *words, _ string, c *assess.Caused) string {
		return fmt.Sprintf("%s %s at %s does not work%s", w.title(), w.v.Near[0].Version, w.v.Near[0].Path, w.on(c))
	},
	"installation-unneeded": func(w *words, _ string, c *assess.Caused) string {
		return fmt.Sprintf("%s %s at %s serves no repository%s", w.title(), w.v.Near[0].Version, w.v.Near[0].Path, w.on(c))
	},
	"rules-undecided": func(w *words, _ string, c *assess.Caused) string {
		if r := w.v.Tied.Rule; r != nil {
			return fmt.Sprintf("The rule %s has too many choices to be weighed, in %s", r.Name, in(c))
		}
		return fmt.Sprintf("More is said of its tools than can be weighed together, in %s", in(c))
	},
	"file-unreadable": func(w *words, what string, c *assess.Caused) string {
		return fmt.Sprintf("%s: cannot be read as a range, in %s", what, in(c))
	},
}

// through names the variable that alone leads to what runs.
func (w *words) through(c *assess.Caused) string {
	if where := c.Findings[0].Verdict.Overriding(); where != "" {
		return " through " + where + w.on(c)
	}
	return ""
}

// problems are files that cannot be read or attributed.
func (t Teller) problems(c *assess.Caused) string {
	p := c.Findings[0].Problem
	n := len(c.Findings)
	switch {
	case p.File == "":
		return fmt.Sprintf("%s cannot be read, or not all of it: %s", capital(in(c)), p.Reason)
	case c.Class.Name == "file-unclaimed":
		return fmt.Sprintf("%s: looks like a version file and belongs to no known tool, in %s", c.About, in(c))
	case c.Class.Name == "claims-disagree":
		return "Two package managers at work in " + in(c)
	case c.Class.Name == "rules-mistaken" && n == 1:
		return fmt.Sprintf("%s cannot be understood as a rule: %s", place(p.File, p.Line), p.Reason)
	case c.Class.Name == "rule-idle" && c.Findings[0].Repository.Name == "" && n == 1:
		return fmt.Sprintf("%s matches nothing: %s", place(p.File, p.Line), p.Reason)
	case c.Class.Name == "rule-idle" && c.Findings[0].Repository.Name == "":
		return fmt.Sprintf("%s: %s", p.File, Count(n, "entry matches nothing", "entries match nothing"))
	case c.Class.Name == "rule-idle" && n == 1:
		return fmt.Sprintf("%s changes nothing: %s", place(p.File, p.Line), p.Reason)
	case c.Class.Name == "rules-mistaken":
		return fmt.Sprintf("%s: %s cannot be understood, in %s", p.File, Count(n, "rule", "rules"), in(c))
	case c.Class.Name == "rule-idle":
		return fmt.Sprintf("%s: %s, in %s", p.File, Count(n, "rule changes nothing", "rules change nothing"), in(c))
	case n == 1:
		return p.File + " cannot be read: " + p.Reason
	}
	return fmt.Sprintf("%d files cannot be read: %s", n, p.Reason)
}

// pin says how many repositories pin something.
func pin(n int) string {
	return Count(n, "repository pins", "repositories pin")
}
