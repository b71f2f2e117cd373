package store

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"github.com/jmoiron/sqlx"
)

// Survey is one pass over the repositories. State is running, finished, failed or stopped.
type Survey struct {
	ID         int64  `db:"id" json:"id"`
	State      string `db:"state" json:"state"`
	AsOf       string `db:"as_of" json:"asOf"`
	StartedAt  string `db:"started_at" json:"startedAt"`
	FinishedAt string `db:"finished_at" json:"finishedAt"`
	Total      int    `db:"total" json:"total"`
	Done       int    `db:"done" json:"done"`
	Message    string `db:"message" json:"message"`
}

const surveyColumns = `id, state, as_of, started_at, finished_at, total, done, message`

// StartSurvey records a new survey.
func (s *Store) StartSurvey(ctx context.Context, asOf, now time.Time, total int) (Survey, error) {
	out := Survey{State: "running", AsOf: asOf.Format(time.DateOnly), StartedAt: stamp(now), Total: total}
	result, err := s.db.NamedExecContext(ctx, `INSERT INTO surveys (state, as_of, started_at, total) VALUES (:state, :as_of, :started_at, :total)`, out)
	if err != nil {
		return out, err
	}
	out.ID, err = result.LastInsertId()
	return out, err
}

// EndSurvey records how a survey ended.
func (s *Store) EndSurvey(ctx context.Context, survey Survey, now time.Time) (Survey, error) {
	survey.FinishedAt = stamp(now)
	_, err := s.db.NamedExecContext(ctx, `UPDATE surveys SET state = :state, finished_at = :finished_at, done = :done, message = :message WHERE id = :id`, survey)
	return survey, err
}

// StopLeftOver ends the surveys that an earlier process left running.
func (s *Store) StopLeftOver(ctx context.Context, now time.Time) error {
	_, err := s.db.ExecContext(ctx, `UPDATE surveys SET state = 'stopped', finished_at = ?, message = 'the service was stopped' WHERE state = 'running'`, stamp(now))
	return err
}

// Surveys lists the newest surveys, newest first.
func (s *Store) Surveys(ctx context.Context, most int) ([]Survey, error) {
	var out []Survey
	err := s.db.SelectContext(ctx, &out, `SELECT `+surveyColumns+` FROM surveys ORDER BY id DESC LIMIT ?`, most)
	return out, err
}

// Survey is one survey.
func (s *Store) Survey(ctx context.Context, id int64) (Survey, error) {
	var out Survey
	err := s.db.GetContext(ctx, &out, `SELECT `+surveyColumns+` FROM surveys WHERE id = ?`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return out, ErrNotFound
	}
	return out, err
}

// Sight records which findings a survey saw on a day, and that the others are gone.
func (s *Store) Sight(ctx context.Context, survey int64, day time.Time, fingerprints []string) error {
	on := day.Format(time.DateOnly)
	err := s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		seen, err := tx.PreparexContext(ctx, `INSERT INTO sightings (fingerprint, first_seen, last_seen, last_survey) VALUES (?1, ?2, ?2, ?3)
			ON CONFLICT (fingerprint) DO UPDATE SET last_seen = ?2, last_survey = ?3, gone_on = '',
				first_seen = CASE WHEN gone_on = '' THEN first_seen ELSE ?2 END`)
		if err != nil {
			return err
		}
		defer seen.Close()
		for _, f := range fingerprints {
			if _, err := seen.ExecContext(ctx, f, on, survey); err != nil {
				return err
			}
		}
		_, err = tx.ExecContext(ctx, `UPDATE sightings SET gone_on = ?1 WHERE last_survey < ?2 AND gone_on = ''`, on, survey)
		return err
	})
	s.changed()
	return err
}

// FirstSeen maps the fingerprints of findings that are not gone to the day they were first seen.
func (s *Store) FirstSeen(ctx context.Context) (map[string]string, error) {
	var rows []struct {
		Fingerprint string `db:"fingerprint"`
		FirstSeen   string `db:"first_seen"`
	}
	if err := s.db.SelectContext(ctx, &rows, `SELECT fingerprint, first_seen FROM sightings WHERE gone_on = ''`); err != nil {
		return nil, err
	}
	out := make(map[string]string, len(rows))
	for _, r := range rows {
		out[r.Fingerprint] = r.FirstSeen
	}
	return out, nil
}
