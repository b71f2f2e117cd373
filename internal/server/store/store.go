// Package store keeps what the service knows in one SQLite file: repositories with
// their newest readings, machines, surveys, when findings were seen, and access.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"strings"
	"sync/atomic"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Errors of the store.
var (
	ErrNotFound  = errors.New("not found") // asked-for data that is not there
	ErrLastOwner = errors.New("it is the last owner's token")
)

// Store is the service's data. It may be used from several goroutines.
type Store struct {
	db         *sqlx.DB
	generation atomic.Int64
	removals   atomic.Int64
	writing    atomic.Int32  // transactions under way
	turn       chan struct{} // held by the one that writes
	// Whole is asked before anything is written; nil asks nobody. An error refuses it.
	Whole func() error
}

// Damaged is a data file whose pages contradict each other, or that is no database.
type Damaged struct {
	File, Why string
}

func (d *Damaged) Error() string {
	return fmt.Sprintf("the data file %s is damaged (%s); put a copy of it in its place, or move it away to begin anew", d.File, d.Why)
}

// Foreign is a file that is not the service's data but something of somebody's.
type Foreign struct{ File, Why string }

func (f *Foreign) Error() string {
	return fmt.Sprintf("%s %s; name a file of the service's own with --data", f.File, f.Why)
}

// Newer is a data file that a newer version has written.
type Newer struct{ File string }

func (n *Newer) Error() string {
	return fmt.Sprintf("the data file %s was written by a newer version of Wexo, and stays as it is; use that version, or give this one a file of its own with --data", n.File)
}

// Fits gives an error where a file is there that cannot be a service's data. What is in it
// stays as it is.
func Fits(ctx context.Context, file string) error {
	switch info, err := os.Stat(file); {
	case errors.Is(err, fs.ErrNotExist):
		return nil
	case err != nil:
		return fmt.Errorf("opening the data file %s: %w", file, err)
	case !info.Mode().IsRegular():
		return &Foreign{file, "is no ordinary file"}
	}
	db, err := connect(ctx, file, "busy_timeout(5000)")
	if err != nil {
		return opening(file, err)
	}
	defer db.Close()
	var others, mine int
	err = db.QueryRowxContext(ctx, `SELECT count(*), count(CASE WHEN name = 'sightings' THEN 1 END) FROM sqlite_master
		WHERE type = 'table' AND name <> 'goose_db_version' AND name NOT LIKE 'sqlite\_%' ESCAPE '\'`).Scan(&others, &mine)
	if err != nil {
		return opening(file, err)
	}
	if others > 0 && mine == 0 {
		return &Foreign{file, "holds the data of another program"}
	}
	return known(ctx, db, file)
}

// known gives an error where a newer version has brought the tables further than this one knows.
func known(ctx context.Context, db *sqlx.DB, file string) error {
	var tables int
	if err := db.GetContext(ctx, &tables, `SELECT count(*) FROM sqlite_master WHERE type = 'table' AND name = 'goose_db_version'`); err != nil {
		return opening(file, err)
	}
	if tables == 0 {
		return nil
	}
	var at int64
	if err := db.GetContext(ctx, &at, `SELECT coalesce(max(version_id), 0) FROM goose_db_version WHERE is_applied`); err != nil {
		return opening(file, err)
	}
	newest, err := newestMigration()
	if err == nil && at > newest {
		err = &Newer{file}
	}
	return err
}

// newestMigration is the number of the last migration that is known here.
func newestMigration() (int64, error) {
	names, err := fs.Glob(migrations, "migrations/*.sql")
	if err != nil {
		return 0, err
	}
	var newest int64
	for _, name := range names {
		n, err := goose.NumericComponent(name)
		if err != nil {
			return 0, err
		}
		newest = max(newest, n)
	}
	return newest, nil
}

// mostConnections is how many are opened and kept: to open one, SQLite may have to wait for
// who writes, which those who only read need not.
const mostConnections = 8

func connect(ctx context.Context, file string, pragmas ...string) (*sqlx.DB, error) {
	query := url.Values{"_pragma": pragmas, "_txlock": {"immediate"}}
	return sqlx.ConnectContext(ctx, "sqlite", "file:"+(&url.URL{Path: file}).EscapedPath()+"?"+query.Encode())
}

// Open opens the file, makes it where it is missing, and brings its tables up to date. It
// is readable by its owner alone, and its pages are checked. A file that holds anything
// else is left as it is.
func Open(ctx context.Context, file string) (*Store, error) {
	if err := Fits(ctx, file); err != nil {
		return nil, err
	}
	if err := private(file); err != nil {
		return nil, fmt.Errorf("opening the data file %s: %w", file, err)
	}
	db, err := connect(ctx, file, "busy_timeout(5000)", "journal_mode(WAL)", "foreign_keys(1)", "synchronous(NORMAL)")
	if err != nil {
		return nil, opening(file, err)
	}
	db.SetMaxOpenConns(mostConnections)
	db.SetMaxIdleConns(mostConnections)
	s := &Store{db: db, turn: make(chan struct{}, 1)}
	if err := s.check(ctx, file); err != nil {
		return nil, errors.Join(err, db.Close())
	}
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, errors.Join(err, db.Close())
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, db.DB, dir)
	if err != nil {
		return nil, errors.Join(err, db.Close())
	}
	if _, err := provider.Up(ctx); err != nil {
		return nil, errors.Join(fmt.Errorf("bringing the data file %s up to date: %w", file, err), db.Close())
	}
	return s, nil
}

// private makes the file where it is missing, for its owner alone, and takes it from others.
// It is closed again before the database is opened: closing it later would let go of the
// locks that SQLite holds on it.
func private(file string) error {
	f, err := os.OpenFile(file, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return err
	}
	return errors.Join(f.Chmod(0o600), f.Close())
}

func opening(file string, err error) error {
	var code *sqlite.Error
	if errors.As(err, &code) && (code.Code()&0xff == sqlite3.SQLITE_CORRUPT || code.Code()&0xff == sqlite3.SQLITE_NOTADB) {
		return &Damaged{file, err.Error()}
	}
	return fmt.Errorf("opening the data file %s: %w", file, err)
}

// check looks at every page, so that an overwritten one is told of now and not when it is
// needed.
func (s *Store) check(ctx context.Context, file string) error {
	var said []string
	if err := s.db.SelectContext(ctx, &said, `PRAGMA quick_check(1)`); err != nil {
		return opening(file, err)
	}
	if len(said) != 1 || said[0] != "ok" {
		why, _, _ := strings.Cut(strings.TrimSpace(strings.Join(said, " ")), "\n")
		return &Damaged{file, why}
	}
	return nil
}

// Close closes the file.
func (s *Store) Close() error { return s.db.Close() }

// Beat tells whether the file can be written, by writing to it.
func (s *Store) Beat(ctx context.Context) error {
	_, err := s.exec(ctx, `UPDATE pulse SET beats = beats + 1 WHERE id = 1`)
	return err
}

// Generation changes whenever repositories, readings or machines do.
func (s *Store) Generation() int64 { return s.generation.Load() }

// Removals counts the repositories that were removed, with all that was noted of them.
func (s *Store) Removals() int64 { return s.removals.Load() }

// Changed tells those who show the data that it has changed, and gives its generation.
func (s *Store) Changed() int64 { return s.generation.Add(1) }

func (s *Store) changed() { s.Changed() }

// stamp is a time as stored: RFC 3339, UTC, seconds.
func stamp(t time.Time) string { return t.UTC().Format(time.RFC3339) }

// exec runs a statement that writes.
func (s *Store) exec(ctx context.Context, query string, args ...any) (sql.Result, error) {
	if err := s.whole(); err != nil {
		return nil, err
	}
	return s.db.ExecContext(ctx, query, args...)
}

// execNamed is exec with the values of a struct.
func (s *Store) execNamed(ctx context.Context, query string, arg any) (sql.Result, error) {
	if err := s.whole(); err != nil {
		return nil, err
	}
	return s.db.NamedExecContext(ctx, query, arg)
}

func (s *Store) whole() error {
	if s.Whole == nil {
		return nil
	}
	return s.Whole()
}

// inTransaction runs do in one transaction.
func (s *Store) inTransaction(ctx context.Context, do func(tx *sqlx.Tx) error) error {
	if err := s.whole(); err != nil {
		return err
	}
	s.writing.Add(1)
	defer s.writing.Add(-1)
	defer s.takeTurn(ctx)()
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	if err := do(tx); err != nil {
		return errors.Join(err, tx.Rollback())
	}
	return tx.Commit()
}

// longestTurn is how long a transaction waits for those before it.
const longestTurn = 5 * time.Second

// takeTurn waits until those who came before have written: SQLite itself lets whoever waits
// sleep and try again, ever longer and in no order. Who has waited long goes on without a
// turn, for then it is another program that keeps the file, and SQLite says so.
func (s *Store) takeTurn(ctx context.Context) (done func()) {
	limit := time.NewTimer(longestTurn)
	defer limit.Stop()
	select {
	case s.turn <- struct{}{}:
		return func() { <-s.turn }
	case <-ctx.Done():
	case <-limit.C:
	}
	return func() {}
}

// removed turns "no row was changed" into ErrNotFound.
func removed(result interface{ RowsAffected() (int64, error) }, err error) error {
	if err != nil {
		return err
	}
	n, err := result.RowsAffected()
	if err == nil && n == 0 {
		return ErrNotFound
	}
	return err
}
