// Package store keeps what the service knows in one SQLite file: repositories with
// their newest readings, machines, surveys, when findings were seen, and access.
package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"sync/atomic"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrNotFound is asked-for data that is not there.
var ErrNotFound = errors.New("not found")

// Store is the service's data. It may be used from several goroutines.
type Store struct {
	db         *sqlx.DB
	generation atomic.Int64
}

// Open opens the file, makes it where it is missing and brings its tables up to date.
func Open(ctx context.Context, file string) (*Store, error) {
	query := url.Values{"_pragma": {"journal_mode(WAL)", "busy_timeout(5000)", "foreign_keys(1)", "synchronous(NORMAL)"}, "_txlock": {"immediate"}}
	db, err := sqlx.ConnectContext(ctx, "sqlite", "file:"+(&url.URL{Path: file}).EscapedPath()+"?"+query.Encode())
	if err != nil {
		return nil, fmt.Errorf("opening the data file %s: %w", file, err)
	}
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, db.DB, dir)
	if err != nil {
		return nil, errors.Join(err, db.Close())
	}
	if _, err := provider.Up(ctx); err != nil {
		return nil, errors.Join(fmt.Errorf("bringing the data file %s up to date: %w", file, err), db.Close())
	}
	return &Store{db: db}, nil
}

// Close closes the file.
func (s *Store) Close() error { return s.db.Close() }

// Ping tells whether the file answers.
func (s *Store) Ping(ctx context.Context) error { return s.db.PingContext(ctx) }

// Generation changes whenever repositories, readings or machines do.
func (s *Store) Generation() int64 { return s.generation.Load() }

func (s *Store) changed() { s.generation.Add(1) }

// stamp is a time as stored: RFC 3339, UTC, seconds.
func stamp(t time.Time) string { return t.UTC().Format(time.RFC3339) }

// inTransaction runs do in one transaction.
func (s *Store) inTransaction(ctx context.Context, do func(tx *sqlx.Tx) error) error {
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	if err := do(tx); err != nil {
		return errors.Join(err, tx.Rollback())
	}
	return tx.Commit()
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
