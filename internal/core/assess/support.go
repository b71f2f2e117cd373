package assess

import (
	"fmt"
	"time"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/resolve"
)

// support reports chosen lines that are out of support on the day, or will be soon.
// The line is the pin's where it names one, otherwise that of what would run.
func (j *judge) support(s Subject) {
	pins := s.Pins()
	if len(pins) > 0 && pins[0].Err == nil && !pins[0].Floating {
		if l := s.Tool.LineFor(pins[0].Set); l != nil {
			j.line(s, l, s.Resolutions)
			return
		}
	}
	var order []*catalogue.Line
	running := map[*catalogue.Line][]resolve.Resolution{}
	for _, r := range s.Resolutions {
		if r.Number.IsZero() || len(pins) == 0 && len(s.Uses) == 0 {
			continue
		}
		l := s.Tool.LineOf(r.Number)
		if l == nil && s.Tool.EndedBefore(r.Number, j.in.Day) {
			l = s.Tool.Lines[0]
		}
		if l == nil {
			continue
		}
		if running[l] == nil {
			order = append(order, l)
		}
		running[l] = append(running[l], r)
	}
	for _, l := range order {
		j.line(s, l, running[l])
	}
}

func (j *judge) ending(l *catalogue.Line) bool {
	return !l.End.IsZero() && !l.EndedOn(j.in.Day) && (l.End.Before(j.in.Day.Add(j.in.Policy.Horizon)) || l.EndedOn(j.plannedEnd()))
}

// plannedEnd is the day until which the repository is meant to live; zero where none is planned.
func (j *judge) plannedEnd() time.Time {
	day, err := time.Parse(time.DateOnly, j.repo.Settings.PlannedEnd)
	if err != nil {
		return time.Time{}
	}
	return day
}

func (j *judge) line(s Subject, l *catalogue.Line, where []resolve.Resolution) {
	ended := l.EndedOn(j.in.Day)
	if !ended && !j.ending(l) {
		return
	}
	f := Finding{Class: SupportEnded, Folder: s.Folder, Tool: s.Tool.Name, Machines: names(where)}
	asked := ""
	if pins := s.Pins(); len(pins) > 0 {
		f.Folder, f.Evidence = s.PinFolder, evidence(pins[0])
		asked = fmt.Sprintf("%s asks for %s", at(pins[0]), asks(s, pins[0]))
	} else {
		f.Folder, f.Evidence = s.Folder, s.proof()
		asked = fmt.Sprintf("Nothing pins %s", s.Tool.Title)
	}
	var running []resolve.Resolution
	for _, r := range where {
		if r.Version != "" {
			running = append(running, r)
		}
	}
	if len(running) > 0 {
		asked += fmt.Sprintf(", and %s would run", j.runs(running))
	}
	title := s.Tool.Title + " " + l.Line
	if ended {
		f.Message = fmt.Sprintf("%s. Support for %s ended on %s: security faults found since then are not mended.", asked, title, date(l.End.Time))
	} else {
		f.Class = SupportEnding
		days := int(l.End.Sub(j.in.Day).Hours() / 24)
		f.Message = fmt.Sprintf("%s; support for %s ends on %s, in %d days. After that, security faults are not mended.", asked, title, date(l.End.Time), days)
		if end := j.plannedEnd(); l.EndedOn(end) {
			f.Message += fmt.Sprintf(" The repository is planned to live until %s.", date(end))
		}
	}
	f.Remedy = j.move(s)
	j.report(f, l.Line)
}

// move says where to go from a line that ends.
func (j *judge) move(s Subject) string {
	l := j.recommended(s)
	if l == nil {
		if len(s.Bounds()) > 0 {
			return fmt.Sprintf("No supported line fits %s; widen it and move to a supported line.", at(s.Bounds()[0]))
		}
		return "Move to a supported line."
	}
	until := ""
	if !l.End.IsZero() {
		until = fmt.Sprintf(", supported until %s", date(l.End.Time))
	}
	if pins := s.Pins(); len(pins) > 0 {
		return fmt.Sprintf("Move to %s %s%s: change %s.", s.Tool.Title, l.Line, until, at(pins[0]))
	}
	return fmt.Sprintf("Pin %s %s%s.", s.Tool.Title, l.Line, until)
}

// proof is the subject's own evidence where nothing pins the tool.
func (s Subject) proof() []Evidence {
	if bounds := s.Bounds(); len(bounds) > 0 {
		return evidence(bounds[0])
	}
	if len(s.Uses) > 0 {
		return []Evidence{{File: s.Uses[0].File}}
	}
	return nil
}
