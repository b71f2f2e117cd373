// Package odb reads git's objects where they lie: loose files and packs of one repository
// and of those whose objects it shares. It starts no program, follows no path that its
// caller has not allowed, and inflates nothing whose size it has not asked for first.
//
// Starting git took half of the time of a survey of committed trees, and every setting by
// which a repository makes git run or reach something is one that only git obeys. The
// formats are those of git's own documentation (gitformat-pack, gitrepository-layout).
package odb

import (
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

// ID is an object's name as it is stored: 20 bytes, or 32 with SHA-256.
type ID string

// ParseID reads a name in hexadecimal.
func ParseID(text string) (ID, bool) {
	raw, err := hex.DecodeString(text)
	if err != nil || len(raw) != 20 && len(raw) != 32 {
		return "", false
	}
	return ID(raw), true
}

// String is the name in hexadecimal.
func (id ID) String() string { return hex.EncodeToString([]byte(id)) }

// Kind is what an object is.
type Kind uint8

// The kinds, numbered as in packs.
const (
	Commit Kind = 1
	Tree   Kind = 2
	Blob   Kind = 3
	Tag    Kind = 4

	offsetDelta Kind = 6
	nameDelta   Kind = 7
)

var kindNames = map[string]Kind{"commit": Commit, "tree": Tree, "blob": Blob, "tag": Tag}

// Errors of reading. ErrMissing is an object that the repository does not hold.
var (
	ErrMissing  = errors.New("the repository does not hold the object")
	ErrTooLarge = errors.New("the object is too large")
	ErrDamaged  = errors.New("the object is damaged")
	ErrWork     = errors.New("the object takes more work to put together than one may")
)

// maxPacks is how many packs are looked into; git itself repacks long before.
const maxPacks = 4096

// Store is the objects of one repository. It is not for several goroutines at once.
type Store struct {
	folders []*os.Root // that hold objects; no link below leads out of one
	packs   []*pack
	size    int // bytes of a name
	inflate inflater
	bases   bases
	work    int64         // steps that reading has taken
	dear    map[spot]bool // places at which putting an object together took more than one may
}

// What reading takes, in steps: a few nanoseconds each, whatever else the machine does.
const (
	copiedAStep = 8 // bytes of a delta's base that are copied; inflating takes a step a byte
	entrySteps  = 500
	// maxWork is what one object may take: more than the 50 deltas of a file of 8 MB that git puts
	// on each other.
	maxWork = 80_000_000
)

// Work is what all reading has taken until now, in steps of some nanoseconds. It depends on the
// objects alone.
func (s *Store) Work() int64 { return s.work }

// Open opens the folders that hold a repository's objects, its own first. Names have size
// bytes. Every folder must be one that may be read.
func Open(folders []string, size int) (*Store, error) {
	s := &Store{size: size}
	for _, folder := range folders {
		root, err := os.OpenRoot(folder)
		if err == nil {
			s.folders = append(s.folders, root)
			err = s.openPacks(root)
		}
		if err != nil {
			return nil, errors.Join(err, s.Close())
		}
	}
	return s, nil
}

// packFolder is where packs lie among the objects.
const packFolder = "pack"

func (s *Store) openPacks(root *os.Root) error {
	entries, err := fs.ReadDir(root.FS(), packFolder)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return fmt.Errorf("its packs cannot be listed: %w", err)
	}
	for _, e := range entries {
		name, isIndex := strings.CutSuffix(e.Name(), ".idx")
		if !isIndex || !e.Type().IsRegular() {
			continue
		}
		if len(s.packs) == maxPacks {
			return fmt.Errorf("it has more than %d packs; git gc makes them one", maxPacks)
		}
		p, err := openPack(root, filepath.Join(packFolder, name), s.size)
		if errors.Is(err, fs.ErrNotExist) { // git is repacking
			continue
		}
		if err != nil {
			return fmt.Errorf("its pack %s cannot be read: %w", name, err)
		}
		s.packs = append(s.packs, p)
	}
	return nil
}

// Close closes the packs.
func (s *Store) Close() error {
	var errs []error
	for _, p := range s.packs {
		errs = append(errs, p.close())
	}
	for _, root := range s.folders {
		errs = append(errs, root.Close())
	}
	return errors.Join(errs...)
}

// Stat tells an object's kind and its size in bytes, without reading it.
func (s *Store) Stat(id ID) (Kind, int64, error) {
	if p, offset, err := s.find(id); p != nil || err != nil {
		if err != nil {
			return 0, 0, err
		}
		return s.statPacked(p, offset)
	}
	var kind Kind
	var size int64
	err := s.loose(id, func(k Kind, n int64, _ io.Reader) error {
		kind, size = k, n
		return nil
	})
	return kind, size, err
}

// Read gives an object of at most limit bytes.
func (s *Store) Read(id ID, limit int64) (Kind, []byte, error) {
	if p, offset, err := s.find(id); p != nil || err != nil {
		if err != nil {
			return 0, nil, err
		}
		return s.readPacked(p, offset, limit)
	}
	var kind Kind
	var data []byte
	err := s.loose(id, func(k Kind, n int64, content io.Reader) error {
		if n > limit {
			return ErrTooLarge
		}
		s.work += n
		kind, data = k, make([]byte, n)
		if _, err := io.ReadFull(content, data); err != nil {
			return fmt.Errorf("%w: %w", ErrDamaged, err)
		}
		return nil
	})
	return kind, data, err
}

// Complete is the one object whose name begins so, in hexadecimal; ErrMissing where there is
// none, or more than one.
func (s *Store) Complete(short string) (ID, error) {
	found := map[ID]bool{}
	for _, p := range s.packs {
		if err := p.beginning(short, found); err != nil {
			return "", err
		}
	}
	for _, root := range s.folders {
		entries, err := fs.ReadDir(root.FS(), short[:2])
		if err != nil {
			continue // there are no loose objects of that name
		}
		for _, e := range entries {
			if id, ok := ParseID(short[:2] + e.Name()); ok && len(id) == s.size && strings.HasPrefix(e.Name(), short[2:]) {
				found[id] = true
			}
		}
	}
	if len(found) != 1 {
		return "", ErrMissing
	}
	for id := range found {
		return id, nil
	}
	return "", ErrMissing
}

// find looks for an object in the packs; the pack is nil where none holds it.
func (s *Store) find(id ID) (*pack, int64, error) {
	if len(id) != s.size {
		return nil, 0, ErrMissing
	}
	for i, p := range s.packs {
		offset, ok, err := p.offset(id)
		if err != nil {
			return nil, 0, err
		}
		if ok {
			if i > 0 { // what was found in a pack stands beside what is looked for next
				s.packs[0], s.packs[i] = s.packs[i], s.packs[0]
			}
			return p, offset, nil
		}
	}
	return nil, 0, nil
}

// openRegular opens a file unless it is something that could keep the opener waiting, or
// a link. Git makes neither here.
func openRegular(root *os.Root, name string) (*os.File, int64, error) {
	f, err := root.OpenFile(name, os.O_RDONLY|noWait, 0)
	if err != nil {
		return nil, 0, err
	}
	info, err := f.Stat()
	if err == nil && !info.Mode().IsRegular() {
		err = fmt.Errorf("%s is no regular file", filepath.Base(name))
	}
	if err != nil {
		return nil, 0, errors.Join(err, f.Close())
	}
	return f, info.Size(), nil
}
