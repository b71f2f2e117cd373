package reading

import (
	"io/fs"

	"wexo/internal/core/scan"
)

// Memory is what the files of one repository said when they were read before. It holds
// for one catalogue and one set of rules.
type Memory struct {
	// Stamp tells a file's state: the same stamp, the same bytes. An empty stamp is not remembered.
	Stamp func(file string, e fs.DirEntry) string `json:"-"`
	Files map[string]Remembered                   `json:"files"`
	next  map[string]Remembered
	reads int
}

// Remembered is what one file said, with the stamp it had then.
type Remembered struct {
	Stamp string     `json:"s"`
	Scan  *scan.Said `json:"r"`
}

// Read is how many files were read because they were new or had changed.
func (m *Memory) Read() int { return m.reads }

// Settle replaces what was remembered by what the last reading saw.
func (m *Memory) Settle() { m.Files, m.next = m.next, nil }

// remembered is what a file said before, if it is still the same and was read under the
// same rules, or what it says now.
func (p *pass) remembered(file string, e fs.DirEntry, under string, read func() *scan.Said) *scan.Said {
	m := p.Remember
	if m == nil || m.Stamp == nil {
		return read()
	}
	stamp := m.Stamp(file, e)
	if stamp != "" {
		stamp += under
	}
	if m.next == nil {
		m.next = map[string]Remembered{}
	}
	if old, ok := m.Files[file]; ok && stamp != "" && old.Stamp == stamp && old.Scan != nil {
		m.next[file] = old
		return old.Scan
	}
	m.reads++
	s := read()
	if stamp != "" && p.budget.Over() == nil {
		m.next[file] = Remembered{stamp, s}
	}
	return s
}
