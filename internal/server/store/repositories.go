package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"wexo/internal/core/claim"
)

// Repository is a repository the service surveys.
type Repository struct {
	Name    string `db:"name"`
	Path    string `db:"path"`
	Kind    string `db:"kind"`
	AddedAt string `db:"added_at"`
}

// Reading is the newest reading of a repository.
type Reading struct {
	Repository string `db:"repository"`
	Path       string `db:"path"`
	ReadAt     string `db:"read_at"`
	Ref        string `db:"ref"`
	Commit     string `db:"commit_id"`
	Notice     string `db:"notice"`
	JSON       string `db:"reading"`
}

// Claims reads the stored reading.
func (r Reading) Claims() (claim.Reading, error) {
	var out claim.Reading
	if err := json.Unmarshal([]byte(r.JSON), &out); err != nil {
		return out, fmt.Errorf("stored reading of %s: %w", r.Repository, err)
	}
	return out, nil
}

// Repositories lists every repository by name.
func (s *Store) Repositories(ctx context.Context) ([]Repository, error) {
	var out []Repository
	err := s.db.SelectContext(ctx, &out, `SELECT name, path, kind, added_at FROM repositories ORDER BY name`)
	return out, err
}

// AddRepository adds a repository; one whose path is there already stays as it is.
func (s *Store) AddRepository(ctx context.Context, r Repository) error {
	_, err := s.db.NamedExecContext(ctx, `INSERT INTO repositories (name, path, kind, added_at)
		VALUES (:name, :path, :kind, :added_at) ON CONFLICT (path) DO NOTHING`, r)
	s.changed()
	return err
}

// RemoveRepository forgets a repository with its reading.
func (s *Store) RemoveRepository(ctx context.Context, name string) error {
	err := removed(s.db.ExecContext(ctx, `DELETE FROM repositories WHERE name = ?`, name))
	s.changed()
	return err
}

// Readings lists the newest readings by repository name.
func (s *Store) Readings(ctx context.Context) ([]Reading, error) {
	var out []Reading
	err := s.db.SelectContext(ctx, &out, `SELECT n.repository, r.path, n.read_at, n.ref, n.commit_id, n.notice, n.reading
		FROM readings n JOIN repositories r ON r.name = n.repository ORDER BY n.repository`)
	return out, err
}

// SaveReadings stores readings of repositories that are still there, in one transaction: a
// name may have been given to another one meanwhile.
func (s *Store) SaveReadings(ctx context.Context, list []Reading) error {
	err := s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		for _, r := range list {
			_, err := tx.NamedExecContext(ctx, `INSERT INTO readings (repository, read_at, ref, commit_id, notice, reading)
				SELECT :repository, :read_at, :ref, :commit_id, :notice, :reading
				WHERE EXISTS (SELECT 1 FROM repositories WHERE name = :repository AND path = :path)
				ON CONFLICT (repository) DO UPDATE SET read_at = excluded.read_at, ref = excluded.ref,
					commit_id = excluded.commit_id, notice = excluded.notice, reading = excluded.reading`, r)
			if err != nil {
				return err
			}
		}
		return nil
	})
	s.changed()
	return err
}

// NewReading makes a reading ready for storing.
func NewReading(repository, path, ref, commit, notice string, at time.Time, r claim.Reading) (Reading, error) {
	data, err := json.Marshal(r)
	return Reading{Repository: repository, Path: path, ReadAt: stamp(at), Ref: ref, Commit: commit, Notice: notice, JSON: string(data)}, err
}
