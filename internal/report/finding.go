package report

import (
	"wexo/internal/core/assess"
	"wexo/internal/core/resolve"
	"wexo/internal/core/sentence"
)

// Finding is one problem in words, as every output has it.
type Finding struct {
	Fingerprint string            `json:"fingerprint"`
	Class       string            `json:"class"`
	Severity    assess.Severity   `json:"severity"`
	Repository  string            `json:"repository"`
	Folder      string            `json:"folder"`
	Tool        string            `json:"tool"`
	Tools       []string          `json:"tools"` // all that it is about, the one to change first
	Machines    []string          `json:"machines"`
	Among       int               `json:"among"` // how many machines matter to its repository
	Message     string            `json:"message"`
	Evidence    []assess.Evidence `json:"evidence"`
	Remedy      string            `json:"remedy"`
	// Configuration is lines of .wexo.yaml that would settle the finding; empty where none can.
	Configuration string `json:"configuration,omitempty"`
	Waived        bool   `json:"waived"`
	Apart         bool   `json:"apart"` // in a folder of test data, examples or vendored code: it counts nowhere
	Cause         string `json:"cause"` // the id of its cause
}

// Wording puts findings into words for one fleet and day.
type Wording struct {
	Fleet  *resolve.Fleet
	Teller sentence.Teller
}

// Finding is a finding in words.
func (w Wording) Finding(f *assess.Finding) Finding {
	out := Finding{Fingerprint: f.Fingerprint, Class: f.Class.Name, Severity: f.Severity, Repository: f.Repository.Name, Folder: f.Folder,
		Tools: f.Tools(), Machines: w.Fleet.Names(f.Machines), Among: f.Among.Len(), Evidence: f.Evidence, Configuration: sentence.Configuration(f), Apart: f.Apart, Cause: f.Cause().ID()}
	if f.Tool != nil {
		out.Tool = f.Tool.Name
	}
	if out.Evidence == nil {
		out.Evidence = []assess.Evidence{}
	}
	out.Message, out.Remedy = w.Teller.Tell(f)
	return out
}

// Findings are findings in words.
func (w Wording) Findings(list []*assess.Finding) []Finding {
	out := make([]Finding, 0, len(list))
	for _, f := range list {
		out = append(out, w.Finding(f))
	}
	return out
}

// finding writes what Finding gives.
func (l *line) finding(w Wording, f *assess.Finding) {
	message, remedy := w.Teller.Tell(f)
	tool := ""
	if f.Tool != nil {
		tool = f.Tool.Name
	}
	l.open('{')
	l.text("fingerprint", f.Fingerprint)
	l.text("class", f.Class.Name)
	l.text("severity", string(f.Severity))
	l.text("repository", f.Repository.Name)
	l.text("folder", f.Folder)
	l.text("tool", tool)
	l.texts("tools", f.Tools())
	l.machines("machines", f.Machines)
	l.number("among", f.Among.Len())
	l.text("message", message)
	l.evidence(f.Evidence)
	l.text("remedy", remedy)
	l.some("configuration", sentence.Configuration(f))
	l.truth("waived", false)
	l.truth("apart", f.Apart)
	l.text("cause", f.Cause().ID())
	l.close('}')
}
