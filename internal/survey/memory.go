package survey

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jmoiron/sqlx"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"

	"wexo/internal/core/catalogue"
	"wexo/internal/core/userrule"
	"wexo/internal/host/repo"
)

// Memory keeps what repositories said, in one SQLite file: for each repository what it
// said as a whole, and what each of its files said. A repository that has not changed is
// not read again; in one that has, only the changed files are. Losing it costs time.
type Memory struct {
	File string
	Key  string // changes with everything but the repositories that a reading depends on
	Now  func() time.Time

	db      *sqlx.DB
	whole   *sqlx.Stmt // a repository's row but for what its files said
	files   *sqlx.Stmt
	mu      sync.Mutex
	pending []remembered
	writing sync.WaitGroup // what is pending no more and not written yet
	one     sync.Mutex     // is held while something is written
	damaged atomic.Bool
}

// remembered is what a repository said, and the state in which it said so.
type remembered struct {
	Repository string `db:"repository"`
	Key        string `db:"key"`
	Commit     string `db:"commit_name"`
	State      string `db:"state"`
	Ref        string `db:"ref"`
	Notice     string `db:"notice"`
	Reading    []byte `db:"reading"`
	Files      []byte `db:"files"`
	Kept       int64  `db:"kept"` // seconds since 1970
}

// memoryTables: the columns stand in the order in which they are needed, since SQLite
// reads a long row only as far as it is asked to.
const memoryTables = `CREATE TABLE IF NOT EXISTS reading (
	repository TEXT PRIMARY KEY, key TEXT NOT NULL, commit_name TEXT NOT NULL, ref TEXT NOT NULL,
	notice TEXT NOT NULL, kept INTEGER NOT NULL, state TEXT NOT NULL, reading BLOB NOT NULL, files BLOB NOT NULL);
	CREATE INDEX IF NOT EXISTS reading_kept ON reading (kept)`

const (
	// maxPending is how many readings are written together.
	maxPending = 64
	// forgetAfter is how long a reading is kept that nobody made anew.
	forgetAfter = 180 * 24 * time.Hour
)

// OpenMemory opens a file of readings, and makes it where it is missing or damaged.
// Readings hold for one version of Wexo, one catalogue and the rules by which repositories
// are read; what else the user decides does not matter to them.
func OpenMemory(file, version string, c *catalogue.Catalogue, rules userrule.Rules) (*Memory, error) {
	sum := sha256.Sum256([]byte(version + "\x00" + c.Digest() + "\x00" + rules.Digest))
	m := &Memory{File: file, Key: hex.EncodeToString(sum[:10]), Now: time.Now}
	if err := os.MkdirAll(filepath.Dir(file), 0o700); err != nil {
		return nil, fmt.Errorf("what repositories said cannot be remembered: %w", err)
	}
	// What repositories say is for the account alone; what lies beside the file follows it.
	if f, err := os.OpenFile(file, os.O_RDWR|os.O_CREATE, 0o600); err == nil {
		if info, err := f.Stat(); err == nil && info.Mode().IsRegular() {
			_ = f.Chmod(0o600)
		}
		_ = f.Close()
	}
	err := m.connect()
	if m.damages(err) {
		m.damaged.Store(false)
		err = errors.Join(m.remove(), m.connect())
	}
	if err != nil {
		return nil, fmt.Errorf("what repositories said cannot be remembered in %s: %w", file, err)
	}
	return m, nil
}

func (m *Memory) connect() error {
	// A reading lost in a power cut is made anew; waiting for the disk would cost more.
	query := url.Values{"_pragma": {"busy_timeout(2000)", "journal_mode(WAL)", "synchronous(OFF)"}, "_txlock": {"immediate"}}
	db, err := sqlx.Open("sqlite", "file:"+(&url.URL{Path: m.File}).EscapedPath()+"?"+query.Encode())
	if err != nil {
		return err
	}
	if _, err := db.Exec(memoryTables); err != nil {
		return errors.Join(err, db.Close())
	}
	m.db = db
	var wholeErr, filesErr error
	m.whole, wholeErr = db.Preparex(`SELECT key, commit_name, ref, notice, state, reading FROM reading WHERE repository = ?`)
	m.files, filesErr = db.Preparex(`SELECT files FROM reading WHERE repository = ?`)
	return errors.Join(wholeErr, filesErr)
}

// damages notes whether an error says that the file is no sound database.
func (m *Memory) damages(err error) bool {
	var code *sqlite.Error
	if errors.As(err, &code) && (code.Code()&0xff == sqlite3.SQLITE_CORRUPT || code.Code()&0xff == sqlite3.SQLITE_NOTADB) {
		m.damaged.Store(true)
	}
	return m.damaged.Load()
}

func (m *Memory) remove() error {
	for _, suffix := range []string{"", "-wal", "-shm"} {
		if err := os.Remove(m.File + suffix); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	return nil
}

// Close writes what is not written yet. A memory that turned out to be damaged is forgotten.
func (m *Memory) Close() error {
	if m == nil {
		return nil
	}
	m.flush()
	err := m.db.Close()
	if m.damaged.Load() {
		err = errors.Join(err, m.remove())
	}
	return err
}

func identity(l repo.Location, how repo.Reading) string {
	lens := "ref " + how.Ref
	if how.Worktree {
		lens = "worktree"
	}
	return l.Path + "\x00" + l.Name + "\x00" + lens
}

// recall gives what a repository said before, if it is still in the same state; what its
// files said otherwise.
func (m *Memory) recall(l repo.Location, how repo.Reading, undecoded bool) (ReadRepository, []byte, bool) {
	if m == nil {
		return ReadRepository{}, nil, false
	}
	id := identity(l, how)
	var was remembered
	err := m.whole.Get(&was, id)
	if err != nil || was.Key != m.Key {
		m.damages(err)
		return ReadRepository{}, nil, false
	}
	if was.holds(l, how) {
		out := ReadRepository{Notice: was.Notice, Recalled: true}
		out.Name, out.Identity, out.Path, out.Ref, out.Commit = l.Name, repo.Identity(l), l.Path, was.Ref, was.Commit
		if out.hear(was.Reading, undecoded) == nil {
			return out, nil, true
		}
	}
	if err := m.files.Get(&was.Files, id); err != nil {
		m.damages(err)
		return ReadRepository{}, nil, false
	}
	return ReadRepository{}, was.Files, false
}

// holds tells whether a repository is still in the state in which it was read, and may
// still be read.
func (r remembered) holds(l repo.Location, how repo.Reading) bool {
	if r.Commit != "" {
		return repo.CommitOf(l, how) == r.Commit
	}
	return repo.Same(l, how, r.State)
}

// keep remembers what a repository said.
func (m *Memory) keep(l repo.Location, how repo.Reading, said Said) {
	// A git repository without commits is read as it lies there until it has one.
	lasting := said.Commit != "" || said.State != "" && (how.Worktree || l.Kind == repo.Plain)
	if m == nil || !lasting || said.Files == nil {
		return
	}
	row := remembered{Repository: identity(l, how), Key: m.Key, Commit: said.Commit, State: said.State, Ref: said.Ref, Notice: said.Notice, Kept: m.Now().Unix(),
		Reading: said.Reading, Files: said.Files}
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.pending = append(m.pending, row); len(m.pending) >= maxPending {
		m.writePending()
	}
}

// writePending begins to write the pending readings in one transaction; reading goes on
// meanwhile. What cannot be written is read anew next time. The caller holds the lock.
func (m *Memory) writePending() {
	rows := m.pending
	m.pending = nil
	m.writing.Go(func() {
		m.one.Lock()
		defer m.one.Unlock()
		m.damages(m.write(rows))
	})
}

// flush writes the pending readings, and waits until all are written.
func (m *Memory) flush() {
	if m == nil {
		return
	}
	m.mu.Lock()
	if len(m.pending) > 0 {
		m.writePending()
	}
	m.mu.Unlock()
	m.writing.Wait()
}

func (m *Memory) write(rows []remembered) error {
	tx, err := m.db.Beginx()
	if err != nil {
		return err
	}
	defer tx.Rollback() // after a commit it does nothing
	insert, err := tx.PrepareNamed(`INSERT OR REPLACE INTO reading (repository, key, commit_name, ref, notice, kept, state, reading, files)
		VALUES (:repository, :key, :commit_name, :ref, :notice, :kept, :state, :reading, :files)`)
	if err != nil {
		return err
	}
	for _, row := range rows {
		if _, err := insert.Exec(row); err != nil {
			return err
		}
	}
	if _, err := tx.Exec(`DELETE FROM reading WHERE kept < ?`, m.Now().Add(-forgetAfter).Unix()); err != nil {
		return err
	}
	return tx.Commit()
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
