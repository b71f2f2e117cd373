package probe

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync"
)

// Said is what executables said of themselves, remembered by path, size and time, so that
// each is asked once. Nil remembers nothing. It may be used from several goroutines.
type Said struct {
	file  string
	mu    sync.Mutex
	all   map[string]saying
	fresh bool // something is remembered that is not in the file
}

type saying struct {
	Size  int64  `json:"size"`
	Time  int64  `json:"time"` // of the file's last change, in nanoseconds since 1970
	Words string `json:"words"`
}

const (
	// mostSaid is how many sayings are remembered.
	mostSaid = 2_000
	// maxSaidFile is up to which size the file of sayings is read, in bytes.
	maxSaidFile = 8 << 20
)

// OpenSaid reads what is remembered in a file; a file that is not there, or that cannot be
// understood, remembers nothing.
func OpenSaid(file string) *Said {
	s := &Said{file: file, all: map[string]saying{}}
	info, err := os.Lstat(file)
	if err != nil || !info.Mode().IsRegular() || info.Size() > maxSaidFile {
		return s
	}
	data, err := os.ReadFile(file)
	if err != nil || json.Unmarshal(data, &s.all) != nil || s.all == nil {
		s.all = map[string]saying{}
	}
	return s
}

func sayingKey(at string, args []string) string { return at + "\x00" + strings.Join(args, "\x00") }

func (s *Said) of(at string, args []string) (string, bool) {
	if s == nil {
		return "", false
	}
	info, err := os.Stat(at)
	if err != nil {
		return "", false
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	was, known := s.all[sayingKey(at, args)]
	if !known || was.Size != info.Size() || was.Time != info.ModTime().UnixNano() {
		return "", false
	}
	return was.Words, true
}

func (s *Said) keep(at string, args []string, words string) {
	if s == nil {
		return
	}
	info, err := os.Stat(at)
	if err != nil {
		return
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.all) >= mostSaid {
		s.all = map[string]saying{}
	}
	s.all[sayingKey(at, args)] = saying{info.Size(), info.ModTime().UnixNano(), words}
	s.fresh = true
}

// Close writes what is new, for the account alone.
func (s *Said) Close() error {
	if s == nil {
		return nil
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if !s.fresh {
		return nil
	}
	data, err := json.Marshal(s.all)
	if err == nil {
		err = os.MkdirAll(filepath.Dir(s.file), 0o700)
	}
	var next *os.File
	if err == nil {
		next, err = os.CreateTemp(filepath.Dir(s.file), ".said-")
	}
	if err != nil {
		return fmt.Errorf("what toolchains said cannot be remembered: %w", err)
	}
	_, err = next.Write(data)
	err = errors.Join(err, next.Close())
	if err == nil {
		err = os.Rename(next.Name(), s.file)
	}
	if err != nil {
		if gone := os.Remove(next.Name()); gone != nil && !errors.Is(gone, fs.ErrNotExist) {
			err = errors.Join(err, gone)
		}
		return fmt.Errorf("what toolchains said cannot be remembered: %w", err)
	}
	s.fresh = false
	return nil
}
