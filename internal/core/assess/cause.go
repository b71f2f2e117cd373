package assess

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"path"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/resolve"
)

// Cause is what findings have in common that one act would mend, or one decision: the same
// missing version, the same line that has ended, the same variable.
type Cause struct {
	Class *Class
	Tool  *catalogue.Tool
	About string // what is asked for, or stands in the way; the same for all findings of the cause
}

// ID tells causes apart, in every report and on every day.
func (c Cause) ID() string {
	name := ""
	if c.Tool != nil {
		name = c.Tool.Name
	}
	sum := sha256.Sum256([]byte(c.Class.Name + "\x00" + name + "\x00" + c.About))
	return hex.EncodeToString(sum[:6])
}

// Cause is the cause of a finding.
func (f *Finding) Cause() Cause {
	if f.Problem == nil {
		return f.Verdict.Root
	}
	about := f.Problem.Reason
	if f.Class == &fileUnclaimed {
		about = path.Base(f.Problem.File)
	}
	return Cause{Class: f.Class, About: about}
}

// cause is what a verdict has in common with others of its tool.
func (k *check) cause(v *Verdict) Cause {
	c := Cause{Class: v.Class, Tool: k.Tool, About: v.Cause}
	switch {
	case v.Follows == &supportEnded:
		c.Class, c.About = v.Follows, v.Line.Line
	case v.Follows != nil:
		c.Class, c.About = v.Follows, k.asked(v, 0)
	case v.Class == &toolchainMissing && v.Kind == MissingPinned:
		pin := k.first()
		c.About = strings.Join([]string{v.Allowed.String(), pin.Vendor, pin.Variant, pin.Package, pin.Arch}, "\x00")
	case v.Class == &toolchainMissing && v.Kind == MissingVoid:
		c.About = v.Runs[0].Where
	case v.Class == &supportEnded || v.Class == &supportEnding:
		if where := v.Overriding(); where != "" {
			c.About += " " + where
		}
	case v.Class == &pinMissing, v.Class == &overrideLingering, v.Class == &toolchainMissing:
	case v.Class == &claimsDisagree, v.Class == &boundViolated:
		texts := []string{string(v.Kind)}
		for i := range v.Evidence {
			texts = append(texts, k.asked(v, i))
		}
		c.About = strings.Join(texts, "\x00")
	default:
		c.About = cmp.Or(k.asked(v, 0), v.Cause)
	}
	return c
}

// asked is what the n-th claim of the evidence says.
func (k *check) asked(v *Verdict, n int) string {
	if n >= len(v.Evidence) {
		return ""
	}
	var w *resolve.Want
	switch r := v.Evidence[n]; r.Of {
	case AtPin:
		w = k.Pins[r.N].Want
	case AtBound:
		w = k.Bounds[r.N].Want
	case AtSetup:
		return k.Case.Setups[r.N].Texts[r.Value]
	case AtWiring:
		return k.Case.Wirings[r.N].Raw
	case AtResidue:
		return k.Case.Residues[r.N].Raw
	default:
		return ""
	}
	if w.Raw == "" && w.Means == "" { // a lock file's
		return w.Set.Canonical()
	}
	return cmp.Or(w.Means, w.Raw)
}

// Caused is a cause with its findings, the one that tells most first.
type Caused struct {
	Cause
	Severity     Severity
	Findings     []*Finding
	Repositories int
	Machines     resolve.Machines
}

// Causes puts findings together by their causes: the worst first, of those the ones that
// touch the most repositories and machines. Findings that count apart have none. Those of one
// repository stand together in the list.
func Causes(list []*Finding) []*Caused {
	at := map[Cause]*Caused{}
	var out []*Caused
	for _, f := range list {
		if f.Apart {
			continue
		}
		key := f.Cause()
		c := at[key]
		if c == nil {
			c = &Caused{Cause: key, Severity: f.Severity}
			at[key] = c
			out = append(out, c)
		}
		if f.Severity.Rank() > c.Severity.Rank() {
			c.Severity = f.Severity
		}
		if n := len(c.Findings); f.Repository.Name == "" {
			// it is one of machines
		} else if n == 0 || c.Findings[n-1].Repository != f.Repository {
			c.Repositories++
		}
		c.Findings, c.Machines = append(c.Findings, f), c.Machines.And(f.Machines)
	}
	for _, c := range out {
		// Those that tell of the cause itself first.
		slices.SortStableFunc(c.Findings, func(a, b *Finding) int { return c.follower(a) - c.follower(b) })
	}
	slices.SortStableFunc(out, func(a, b *Caused) int {
		return cmp.Or(b.Severity.Rank()-a.Severity.Rank(), b.Repositories-a.Repositories, b.Machines.Len()-a.Machines.Len(),
			a.Class.Order-b.Class.Order, strings.Compare(a.toolName(), b.toolName()), strings.Compare(a.About, b.About))
	})
	return out
}

func (c *Caused) follower(f *Finding) int {
	if f.Class == c.Class {
		return 0
	}
	return 1
}

func (c Cause) toolName() string {
	if c.Tool == nil {
		return ""
	}
	return c.Tool.Name
}
