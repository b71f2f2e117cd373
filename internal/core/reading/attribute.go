package reading

import (
	"fmt"
	"slices"
	"strings"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/document"
)

// shown is which tools the files of each folder show to be used.
type shown map[string][]*catalogue.Tool

func (p *pass) shown() shown {
	out := shown{}
	for _, use := range p.uses {
		if tool, ok := p.catalogue.Tool(use.Tool); ok && !slices.Contains(out[use.Folder], tool) {
			out[use.Folder] = append(out[use.Folder], tool)
		}
	}
	return out
}

// below are the tools of a folder's folders, itself left out.
func (s shown) below(folder string) []*catalogue.Tool {
	var out []*catalogue.Tool
	for at, tools := range s {
		if at == folder || folder != "" && !strings.HasPrefix(at, folder+"/") {
			continue
		}
		for _, t := range tools {
			if !slices.Contains(out, t) {
				out = append(out, t)
			}
		}
	}
	slices.SortFunc(out, catalogue.ByName)
	return out
}

// attribute gives a file with nothing but a version its tool: that of the pipeline that
// reads it, of the manifests beside it, of those in the folders below, or the only one of
// the repository that has such a version.
func (p *pass) attribute(s scanned, shown shown, pointed map[string]readBy) {
	if by, known := pointed[s.file]; known && claim.Fits(by.tool, s.Bare.Text) {
		p.attributed(s, by.tool, claim.High, fmt.Sprintf("%s reads it as the version of %s", by.By, by.tool.Title))
		return
	}
	if s.Bare.Else != "" {
		p.unattributed(s, s.Bare.Else, nil)
		return
	}
	ask := []struct {
		tools []*catalogue.Tool
		why   string
	}{
		{shown[s.folder], "%s is the only one beside it that has such a version"},
		{shown.below(s.folder), "%s is the only one in the folders below that has such a version"},
		{shown.below(""), "%s is the only one in the repository that has such a version"},
	}
	var several []*catalogue.Tool
	for _, one := range ask {
		fitting := fitting(one.tools, s.Bare.Text)
		if len(fitting) == 1 {
			if bound := p.refusing(s, fitting[0]); bound != nil {
				p.unattributed(s, fmt.Sprintf("%s:%d allows no such %s", bound.File, bound.Line, fitting[0].Title), nil)
				return
			}
			p.attributed(s, fitting[0], claim.Medium, "the file names no tool; "+fmt.Sprintf(one.why, fitting[0].Title))
			return
		}
		if len(fitting) > 1 {
			several = fitting
			break
		}
	}
	if len(several) == 0 && len(shown[s.folder]) > 0 {
		p.unattributed(s, fmt.Sprintf("most likely it is not of what is used beside it (%s)", titles(shown[s.folder])), nil)
		return
	}
	p.unattributed(s, "no manifest beside it says of which tool", several)
}

// fitting are the tools that have such a version. A word that many tools use is taken for
// the name of the one whose own name it is.
func fitting(tools []*catalogue.Tool, text string) []*catalogue.Tool {
	var out []*catalogue.Tool
	for _, tool := range tools {
		if claim.FitsAlone(tool, text) {
			out = append(out, tool)
		}
	}
	return out
}

// refusing is a bound beside a file that admits nothing of what the file would ask for: then it
// is most likely the version of something else.
func (p *pass) refusing(s scanned, tool *catalogue.Tool) *claim.Claim {
	w, err := claim.WantPlain(tool, s.Bare.Text)
	if err != nil || w.Alias != "" {
		return nil
	}
	for _, c := range p.boundsIn(tool.Name, s.folder) {
		p.budget.Spend(document.StepCost)
		if bound, err := c.Want(tool); err == nil && !bound.Kept && bound.Alias == "" && !bound.Set.Overlaps(w.Set) {
			return c
		}
	}
	return nil
}

// boundsIn are the bounds of a tool that stand for a folder.
func (p *pass) boundsIn(tool, folder string) []*claim.Claim {
	if p.bounds == nil {
		p.bounds = map[toolIn][]*claim.Claim{}
		for _, s := range p.scans {
			for i := range s.Claims {
				if c := &s.Claims[i]; c.Role == claim.Bound {
					key := toolIn{c.Tool, c.Folder}
					p.bounds[key] = append(p.bounds[key], c)
				}
			}
		}
	}
	return p.bounds[toolIn{tool, folder}]
}

func (p *pass) attributed(s scanned, tool *catalogue.Tool, certainty, why string) {
	p.reading.Claims = append(p.reading.Claims, claim.Claim{Tool: tool.Name, Role: claim.Pin, Raw: s.Bare.Text, Dialect: tool.Dialect, Folder: s.folder, File: s.file,
		Line: s.Bare.Line, Column: s.Bare.Column, Begin: s.Bare.Begin, End: s.Bare.End, Recognised: claim.Shape, Certainty: certainty, Why: why})
}

// unattributed tells of a file with nothing but a version that belongs to none of the tools, and
// why, or could belong to several.
func (p *pass) unattributed(s scanned, why string, several []*catalogue.Tool) {
	if !claim.NumberLike(s.Bare.Text) {
		return
	}
	reason := "it holds nothing but a version; " + why
	tool := "TOOL # the tool's name"
	if len(several) > 1 {
		reason = fmt.Sprintf("it holds nothing but a version, which could be of %s", titles(several))
		names := make([]string, 0, len(several))
		for _, t := range several {
			names = append(names, t.Name)
		}
		slices.Sort(names)
		tool = names[0] + " # or " + strings.Join(names[1:], ", ")
	}
	folder := s.folder
	if at := claim.Above(s.file); strings.Contains("/"+at, "/.") { // some program keeps it for itself
		folder = at
	}
	p.report(claim.Problem{Kind: claim.Unclaimed, Folder: folder, File: s.file, Line: s.Bare.Line, Column: s.Bare.Column,
		Raw: document.Clip(s.Bare.Text), Reason: reason, Settle: settle(s.file, tool)})
}
