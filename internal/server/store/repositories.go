package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"wexo/internal/core/fact"
)

// Repository is a repository the service surveys.
type Repository struct {
	Name    string `db:"name"`
	Path    string `db:"path"`
	Kind    string `db:"kind"`
	AddedAt string `db:"added_at"`
}

// Reading is the newest reading of a repository that succeeded, and how a later one failed.
type Reading struct {
	Repository string `db:"repository"`
	Identity   string `db:"identity"`
	Path       string `db:"path"`
	ReadAt     string `db:"read_at"` // of the reading that succeeded; empty where none did
	Ref        string `db:"ref"`
	Commit     string `db:"commit_id"`
	Notice     string `db:"notice"`
	Digest     string `db:"digest"` // of what it says; empty where none succeeded
	FailedAt   string `db:"failed_at"`
	Failure    string `db:"failure"` // why the latest one failed; empty where it did not
	JSON       []byte `db:"-"`       // of a reading that is to be stored
	Forget     bool   `db:"forget"`  // of one that failed: it may not be read any more, and what it said is forgotten
}

// Repositories lists every repository by name.
func (s *Store) Repositories(ctx context.Context) ([]Repository, error) {
	var out []Repository
	err := s.db.SelectContext(ctx, &out, `SELECT name, path, kind, added_at FROM repositories ORDER BY name`)
	return out, err
}

// AddRepository adds a repository; one whose path is there already stays as it is.
func (s *Store) AddRepository(ctx context.Context, r Repository) error {
	_, err := s.execNamed(ctx, `INSERT INTO repositories (name, path, kind, added_at)
		VALUES (:name, :path, :kind, :added_at) ON CONFLICT (path) DO NOTHING`, r)
	s.changed()
	return err
}

// RemoveRepository forgets a repository with its reading.
func (s *Store) RemoveRepository(ctx context.Context, name string) error {
	err := removed(s.exec(ctx, `DELETE FROM repositories WHERE name = ?`, name))
	s.removals.Add(1)
	s.changed()
	return err
}

// Readings lists the newest readings by repository name, without what they say.
func (s *Store) Readings(ctx context.Context) ([]Reading, error) {
	var out []Reading
	err := s.db.SelectContext(ctx, &out, `SELECT n.repository, n.identity, r.path, n.read_at, n.ref, n.commit_id, n.notice, n.digest, n.failed_at, n.failure
		FROM readings n JOIN repositories r ON r.name = n.repository ORDER BY n.repository`)
	return out, err
}

// Contents gives what readings say, by digest, to do, one after another.
func (s *Store) Contents(ctx context.Context, digests []string, do func(digest string, r fact.Reading) error) error {
	get, err := s.db.PreparexContext(ctx, `SELECT reading FROM contents WHERE digest = ?`)
	if err != nil {
		return err
	}
	defer get.Close()
	for _, digest := range digests {
		var text []byte
		if err := get.GetContext(ctx, &text, digest); err != nil {
			return fmt.Errorf("stored reading %s: %w", digest, err)
		}
		var r fact.Reading
		if err := json.Unmarshal(text, &r); err != nil {
			return fmt.Errorf("stored reading %s: %w", digest, err)
		}
		if err := do(digest, r); err != nil {
			return err
		}
	}
	return nil
}

// Says reports whether two readings say the same of a repository; when they succeeded does
// not matter, when one failed does.
func (r Reading) Says(o Reading) bool {
	return r.Repository == o.Repository && r.Identity == o.Identity && r.Path == o.Path && r.Ref == o.Ref && r.Commit == o.Commit && r.Notice == o.Notice &&
		r.Digest == o.Digest && r.Failure == o.Failure && (r.Failure == "" || r.FailedAt == o.FailedAt && r.ReadAt == o.ReadAt)
}

// together is how many readings are stored in one transaction, which should be short.
const together = 500

// SaveReadings stores readings of repositories that are still there: a name may have been
// given to another one meanwhile. One that failed leaves the last that succeeded as it is.
// Those who show the data are told by Changed, once they may look.
func (s *Store) SaveReadings(ctx context.Context, list []Reading) error {
	for some := range slices.Chunk(list, together) {
		if err := s.inTransaction(ctx, func(tx *sqlx.Tx) error { return saveReadings(ctx, tx, some) }); err != nil {
			return err
		}
	}
	return s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		_, err := tx.ExecContext(ctx, `DELETE FROM contents WHERE NOT EXISTS (SELECT 1 FROM readings WHERE readings.digest = contents.digest)`)
		return err
	})
}

func saveReadings(ctx context.Context, tx *sqlx.Tx, list []Reading) error {
	contents, err := tx.PreparexContext(ctx, `INSERT INTO contents (digest, reading) VALUES (?, ?) ON CONFLICT DO NOTHING`)
	if err != nil {
		return err
	}
	defer contents.Close()
	reading, err := tx.PrepareNamedContext(ctx, `INSERT INTO readings (repository, identity, read_at, ref, commit_id, notice, digest, failed_at, failure)
			SELECT :repository, :identity, :read_at, :ref, :commit_id, :notice, :digest, :failed_at, :failure
			WHERE EXISTS (SELECT 1 FROM repositories WHERE name = :repository AND path = :path)
			ON CONFLICT (repository) DO UPDATE SET identity = excluded.identity, failed_at = excluded.failed_at, failure = excluded.failure,
				read_at = CASE WHEN excluded.failure = '' OR :forget THEN excluded.read_at ELSE read_at END,
				ref = CASE WHEN excluded.failure = '' OR digest = '' THEN excluded.ref ELSE ref END,
				commit_id = CASE WHEN excluded.failure = '' THEN excluded.commit_id ELSE commit_id END,
				notice = CASE WHEN excluded.failure = '' THEN excluded.notice ELSE notice END,
				digest = CASE WHEN excluded.failure = '' OR :forget THEN excluded.digest ELSE digest END`)
	if err != nil {
		return err
	}
	defer reading.Close()
	for _, r := range list {
		if r.Failure == "" {
			if _, err := contents.ExecContext(ctx, r.Digest, string(r.JSON)); err != nil {
				return err
			}
		}
		if _, err := reading.ExecContext(ctx, r); err != nil {
			return err
		}
	}
	return nil
}

// Saying makes a reading that succeeded, a fact.Reading as JSON, ready for storing.
func (r Reading) Saying(said []byte, at time.Time) Reading {
	sum := sha256.Sum256(said)
	r.ReadAt, r.JSON, r.Digest = stamp(at), said, hex.EncodeToString(sum[:16])
	return r
}

// Failing makes a reading that failed ready for storing.
func (r Reading) Failing(why string, at time.Time) Reading {
	r.FailedAt, r.Failure = stamp(at), why
	return r
}
