package survey

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/claim"
	"wexo/internal/host/repo"
)

// Memory keeps what repositories said in a folder, a file for each repository: a line with
// what it said as a whole, and one with what each of its files said. A repository that has not changed
// is not read again; in one that has, only the changed files are. Losing it costs time.
type Memory struct {
	Dir string
	Key string // changes with everything but the repositories that a reading depends on
	Now func() time.Time
}

// NewMemory remembers in a folder. Readings hold for one version of Wexo, one catalogue
// and one file of rules.
func NewMemory(dir, version string, c *catalogue.Catalogue, rules []byte) *Memory {
	sum := sha256.Sum256(append([]byte(version+"\x00"+c.Digest()+"\x00"), rules...))
	return &Memory{Dir: dir, Key: hex.EncodeToString(sum[:10]), Now: time.Now}
}

// whole is what a repository said, and the state in which it said so.
type whole struct {
	Key     string        `json:"key"`
	Path    string        `json:"path"`
	Commit  string        `json:"commit,omitempty"`
	State   string        `json:"state,omitempty"`
	Ref     string        `json:"ref,omitempty"`
	Notice  string        `json:"notice,omitempty"`
	Reading claim.Reading `json:"reading"`
}

func (m *Memory) file(l repo.Location, how repo.Reading) string {
	sum := sha256.Sum256([]byte(l.Path + "\x00" + l.Name + "\x00" + how.Ref + "\x00" + map[bool]string{true: "worktree"}[how.Worktree]))
	return filepath.Join(m.Dir, hex.EncodeToString(sum[:10])+".json")
}

// recall gives what a repository said before, if it is still in the same state; what its
// files said otherwise.
func (m *Memory) recall(l repo.Location, how repo.Reading) (ReadRepository, *claim.Memory, bool) {
	if m == nil {
		return ReadRepository{}, nil, false
	}
	nothing := &claim.Memory{}
	data, err := os.ReadFile(m.file(l, how))
	if err != nil {
		return ReadRepository{}, nothing, false
	}
	first, second, _ := bytes.Cut(data, []byte{'\n'})
	var w whole
	if json.Unmarshal(first, &w) != nil || w.Key != m.Key || w.Path != l.Path {
		return ReadRepository{}, nothing, false
	}
	if m.same(l, how, w) {
		out := ReadRepository{Notice: w.Notice, Recalled: true}
		out.Name, out.Path, out.Ref, out.Commit, out.Reading = l.Name, l.Path, w.Ref, w.Commit, w.Reading
		return out, nil, true
	}
	var files claim.Memory
	if json.Unmarshal(second, &files) != nil {
		return ReadRepository{}, nothing, false
	}
	return ReadRepository{}, &files, false
}

func (m *Memory) same(l repo.Location, how repo.Reading, w whole) bool {
	if w.Commit != "" {
		return repo.CommitOf(l, how.Ref) == w.Commit
	}
	return repo.Same(l.Path, w.State)
}

// keep writes down what a repository said. What cannot be written is read again next time.
func (m *Memory) keep(l repo.Location, how repo.Reading, read ReadRepository, state string, files *claim.Memory) {
	// A git repository without commits is read as it lies there until it has one.
	lasting := read.Commit != "" || state != "" && (how.Worktree || l.Kind == repo.Plain)
	if m == nil || !lasting {
		return
	}
	files.Settle()
	first, err := json.Marshal(whole{m.Key, l.Path, read.Commit, state, read.Ref, read.Notice, read.Reading})
	if err != nil {
		return
	}
	second, err := json.Marshal(files)
	if err != nil {
		return
	}
	_ = store(m.file(l, how), append(append(first, '\n'), second...)) // read anew next time
}

// store writes a file so that no reader ever sees half of it.
func store(file string, data []byte) error {
	if err := os.MkdirAll(filepath.Dir(file), 0o700); err != nil {
		return err
	}
	temporary, err := os.CreateTemp(filepath.Dir(file), ".new-*")
	if err != nil {
		return err
	}
	defer os.Remove(temporary.Name())
	_, err = temporary.Write(data)
	if closeErr := temporary.Close(); err == nil {
		err = closeErr
	}
	if err != nil {
		return err
	}
	return os.Rename(temporary.Name(), file)
}

// stamps tell the state of a tree's files: git's object names, or what the disk says.
func stamps(watched *repo.Watched) func(string, fs.DirEntry) string {
	return func(file string, e fs.DirEntry) string {
		if named, ok := e.(interface{ Object() string }); ok {
			return named.Object()
		}
		if watched == nil {
			return ""
		}
		return watched.Stamp(file)
	}
}
