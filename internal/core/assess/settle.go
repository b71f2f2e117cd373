package assess

import (
	"slices"

	"wexo/internal/core/catalogue"
)

// settle says which tool a verdict is of, what would mend it, and what it has in common with
// others.
func (v *viewCheck) settle(out *Verdict) {
	b := out.Tied
	j := v.joint()
	b.Decided, b.Best = j.Decided, j.Choices
	tools := b.tools()
	for _, c := range j.Choices {
		if (len(c.Claims) > 0 || b.runsOutside(c)) && v.tied(c.Tool, tools) {
			b.Moves = append(b.Moves, c)
		}
	}
	out.First = v.first(b, tools)
	out.Root = Cause{Class: out.Class, Tool: out.First, About: v.about(out)}
}

// about is what a verdict has in common with those that the same change of the same claims
// mends, or where none does, with those of the same rule on the same claims.
func (v *viewCheck) about(out *Verdict) string {
	b := out.Tied
	about := ""
	for _, m := range b.Moves {
		for _, n := range m.Claims {
			about += v.Tools[m.Tool].Tool.Name + " " + v.tools[m.Tool].Resolved.At(n).Set.Canonical() + " " + m.Text + "\x00"
		}
	}
	if about != "" && b.Pack == nil {
		return about
	}
	about = out.Cause
	for _, e := range b.Ends {
		if e.Of == OfTool && len(e.Claims) > 0 {
			about += "\x00" + v.tools[e.N].Resolved.At(e.Claims[0]).Set.Canonical()
		}
	}
	return about
}

// runsOutside reports whether what would run of a tool is not what is chosen for it.
func (b *Broken) runsOutside(c Chosen) bool {
	return slices.ContainsFunc(b.Ends, func(e BrokenEnd) bool {
		return e.Of == OfTool && e.N == c.Tool && slices.ContainsFunc(e.Runs, func(r Run) bool {
			number, err := c.Set.Scheme().Parse(r.Version)
			return err == nil && !c.Set.Contains(number)
		})
	})
}

// tools are the places of those that are broken.
func (b *Broken) tools() []int {
	var out []int
	for _, e := range b.Ends {
		if (e.Of == OfTool || e.Of == OfLabel) && !slices.Contains(out, e.N) {
			out = append(out, e.N)
		}
	}
	return out
}

// tied reports whether a tool is one of some, or rules tie it to one of them.
func (v *viewCheck) tied(tool int, among []int) bool {
	reach := slices.Clone(among)
	for grown := true; grown && !slices.Contains(reach, tool); {
		grown = false
		for i := range v.Ties {
			touches := slices.ContainsFunc(v.Ties[i].Ends, func(e TieEnd) bool { return e.Of == OfTool && slices.Contains(reach, e.N) })
			for _, e := range v.Ties[i].Ends {
				if touches && e.Of == OfTool && !slices.Contains(reach, e.N) {
					reach, grown = append(reach, e.N), true
				}
			}
		}
	}
	return slices.Contains(reach, tool)
}

// first is the tool to change first: one that the answer changes, or the last that is broken.
func (v *viewCheck) first(b *Broken, tools []int) *catalogue.Tool {
	for _, m := range b.Moves {
		if slices.Contains(tools, m.Tool) {
			return v.Tools[m.Tool].Tool
		}
	}
	if len(b.Moves) > 0 {
		return v.Tools[b.Moves[0].Tool].Tool
	}
	if len(tools) > 0 {
		return v.Tools[tools[len(tools)-1]].Tool
	}
	for _, e := range b.Ends {
		if e.Of == OfPart {
			if t, known := v.book.Catalogue.ToolOf(v.Parts[e.N].Name); known {
				return t
			}
		}
	}
	return nil
}
