package assess

import (
	"slices"
	"strings"
	"time"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/core/inventory"
	"wexo/internal/core/resolve"
)

// Policy is what a team asks for beyond the defaults. The zero value is not usable; start from DefaultPolicy.
type Policy struct {
	Horizon time.Duration // how long before a line's end it is reported
}

// DefaultPolicy reports a support end half a year ahead.
func DefaultPolicy() Policy { return Policy{Horizon: 183 * 24 * time.Hour} }

// Repository is what is known of one repository before it is assessed.
type Repository struct {
	Name   string
	Path   string
	Ref    string // what was read: a ref's name, or empty for a working tree
	Commit string
	claim.Reading
}

// Assessment is one repository judged.
type Assessment struct {
	Repository Repository
	Subjects   []Subject
	Findings   []Finding
}

// Subject is one folder and tool with its resolution on every machine.
type Subject struct {
	*resolve.Subject
	Resolutions []resolve.Resolution // in the order of the machines
}

// Inputs are the things that stay the same over a survey.
type Inputs struct {
	Catalogue *catalogue.Catalogue
	Machines  []*inventory.Machine
	Policy    Policy
	Day       time.Time // the day the verdicts hold for
}

// Assess resolves and judges one repository.
func Assess(repo Repository, in Inputs) Assessment {
	out := Assessment{Repository: repo}
	j := &judge{in: in, repo: repo, byPrint: map[string]int{}}
	for _, s := range resolve.Subjects(repo.Reading, in.Catalogue, in.Day) {
		subject := Subject{Subject: s}
		for _, m := range in.Machines {
			subject.Resolutions = append(subject.Resolutions, resolve.Resolve(s, m, in.Day))
		}
		j.subject(subject)
		out.Subjects = append(out.Subjects, subject)
	}
	j.pinMissing(out.Subjects)
	j.problems()
	out.Findings = j.findings
	sortFindings(out.Findings)
	return out
}

// judge collects the findings of one repository.
type judge struct {
	in       Inputs
	repo     Repository
	findings []Finding
	byPrint  map[string]int
}

// report adds a finding, or the machines of one that is already there.
func (j *judge) report(f Finding, cause string) {
	f.Repository = j.repo.Name
	f.Severity = severityOf(f.Class)
	f.Fingerprint = f.fingerprint(cause)
	if f.Machines == nil {
		f.Machines = []string{}
	}
	if f.Evidence == nil {
		f.Evidence = []Evidence{}
	}
	if at, seen := j.byPrint[f.Fingerprint]; seen {
		for _, m := range f.Machines {
			if !slices.Contains(j.findings[at].Machines, m) {
				j.findings[at].Machines = append(j.findings[at].Machines, m)
			}
		}
		return
	}
	j.byPrint[f.Fingerprint] = len(j.findings)
	j.findings = append(j.findings, f)
}

// problems turns what could not be read or attributed into findings.
func (j *judge) problems() {
	for _, p := range j.repo.Problems {
		f := Finding{Folder: p.Folder, Evidence: []Evidence{{p.File, p.Line, p.Column, p.Raw}}}
		where := place(p.File, p.Line)
		switch {
		case p.File == "" && p.Kind == claim.Partial:
			f.Class = FileUnreadable
			f.Message = "Only a part of the repository is read: " + p.Reason + ". What the rest asks for is not checked."
			f.Remedy = "See what was committed there, and by whom; leave what is not meant to be read out by a rule in .wexo.yaml."
		case p.File == "":
			f.Class = FileUnreadable
			f.Message = "The repository cannot be read: " + p.Reason + ". Nothing that it asks for is checked."
			f.Remedy = "Mend the repository, or name another folder or ref."
		case p.Kind == claim.Unclaimed:
			f.Class = FileUnclaimed
			f.Message = where + " looks like a version file, but " + p.Reason + ". What it asks for is not checked."
			f.Remedy = "Name the tool in the file (a line such as \"python 3.12\"), or name the file after the tool (.python-version), or write in .wexo.yaml:"
			if p.Stranger {
				f.Remedy = "Mend the tool's name if it is misspelt, or write in .wexo.yaml:"
			}
			f.Configuration = p.Settle
		case p.Kind == claim.Partial:
			f.Class = FileUnreadable
			f.Message = where + " is read only in part: " + p.Reason + ". What the rest asks for is not checked."
			f.Remedy = "Make the file shorter, or leave it out by a rule in .wexo.yaml where it is not meant to be read."
		default:
			f.Class = FileUnreadable
			f.Message = where + " cannot be read: " + p.Reason + ". What it asks for is not checked; the rest of the repository is."
			f.Remedy = "Mend the file, or remove it where it is not meant to be there."
		}
		j.report(f, p.Reason)
	}
}

// subject judges one folder and tool.
func (j *judge) subject(s Subject) {
	j.unknownVersions(s)
	j.floating(s)
	j.missing(s)
	j.disagree(s)
	j.setups(s)
	j.bounds(s)
	j.support(s)
	j.wirings(s)
	j.overrides(s)
}

func evidence(list ...resolve.Asked) []Evidence {
	out := make([]Evidence, 0, len(list))
	for _, a := range list {
		out = append(out, Evidence{a.File, a.Line, a.Column, a.Raw})
	}
	return out
}

// pinMissing reports tools that are used and pinned nowhere, once for the topmost folder.
func (j *judge) pinMissing(subjects []Subject) {
	reported := map[string][]string{} // tool to folders
	for _, s := range subjects {
		if j.repo.Settings.NeedsNoPin(s.Tool.Name, s.Folder) {
			continue
		}
		if len(s.Pins()) > 0 || len(s.Uses) == 0 || s.Tool.BoundsSuffice && len(s.Bounds()) > 0 {
			continue
		}
		if slices.ContainsFunc(reported[s.Tool.Name], func(above string) bool { return within(s.Folder, above) }) {
			continue
		}
		reported[s.Tool.Name] = append(reported[s.Tool.Name], s.Folder)
		j.report(j.unpinned(s), "")
	}
}

func within(folder, above string) bool {
	return above == "" || folder == above || strings.HasPrefix(folder, above+"/")
}
