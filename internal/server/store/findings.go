package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
)

// Sighting is a finding that a survey saw.
type Sighting struct {
	Repository  string
	Fingerprint string
	Former      string // the fingerprint that it had before repositories had identities
	Class       string
	Payload     string // what it says, as JSON
	Apart       bool   // it is in no count
}

// Sightings are what a survey saw.
type Sightings struct {
	Findings []Sighting
	Machines []Sighting      // of machines themselves, without a repository
	Same     map[string]bool // repositories whose findings are as they were last seen; Findings has none of them
}

// FindingKey tells the findings of all repositories apart.
type FindingKey struct {
	Repository  string `db:"repository"`
	Fingerprint string `db:"fingerprint"`
}

// kept is a finding as it is stored.
type kept struct {
	FindingKey
	Digest   string `db:"digest"`
	OpenedOn string `db:"opened_on"`
	ClosedOn string `db:"closed_on"`
	Apart    bool   `db:"apart"` // it was in no count
}

// Change is how many findings a survey opened and closed, but for those that are in no count.
type Change struct{ Opened, Closed int }

func (c *Change) open(f Sighting) {
	if !f.Apart {
		c.Opened++
	}
}

// Sight records which findings are there on a day: those that are new are opened, those
// that were closed came back, and all others are closed.
func (s *Store) Sight(ctx context.Context, day time.Time, seen Sightings) (Change, error) {
	var done Change
	known, err := s.findings(ctx)
	if err != nil {
		return done, err
	}
	former, err := s.formerSightings(ctx)
	if err != nil {
		return done, err
	}
	on := day.Format(time.DateOnly)
	var changes []func(tx *sqlx.Tx) error
	exec := func(query string, args ...any) {
		changes = append(changes, func(tx *sqlx.Tx) error {
			_, err := tx.ExecContext(ctx, query, args...)
			return err
		})
	}
	for _, f := range seen.Findings {
		key := FindingKey{f.Repository, f.Fingerprint}
		was, there := known[key]
		delete(known, key)
		sum := digestOf(f.Payload)
		switch {
		case !there:
			done.open(f)
			opened := on
			if first := former[f.Former]; first != "" {
				opened = first
			}
			exec(`INSERT INTO findings (repository, fingerprint, class, payload, digest, opened_on) SELECT ?1, ?2, ?3, ?4, ?5, ?6
				WHERE EXISTS (SELECT 1 FROM repositories WHERE name = ?1)`, f.Repository, f.Fingerprint, f.Class, f.Payload, sum, opened)
		case was.ClosedOn != "":
			done.open(f)
			exec(`INSERT OR IGNORE INTO earlier_intervals (repository, fingerprint, opened_on, closed_on) VALUES (?, ?, ?, ?)`, f.Repository, f.Fingerprint, was.OpenedOn, was.ClosedOn)
			exec(`UPDATE findings SET opened_on = ?, closed_on = '', returns = returns + 1, payload = ?, digest = ? WHERE repository = ? AND fingerprint = ?`, on, f.Payload, sum, f.Repository, f.Fingerprint)
		case was.Digest != sum:
			exec(`UPDATE findings SET payload = ?, digest = ? WHERE repository = ? AND fingerprint = ?`, f.Payload, sum, f.Repository, f.Fingerprint)
		}
	}
	for key, was := range known {
		if was.ClosedOn == "" && !seen.Same[key.Repository] {
			if !was.Apart {
				done.Closed++
			}
			exec(`UPDATE findings SET closed_on = ? WHERE repository = ? AND fingerprint = ?`, on, key.Repository, key.Fingerprint)
		}
	}
	of, err := s.sightMachines(ctx, on, seen.Machines, &done)
	if err != nil {
		return Change{}, err
	}
	err = s.inParts(ctx, append(changes, of...))
	if err == nil && len(former) > 0 {
		_, err = s.exec(ctx, `DELETE FROM sightings`)
	}
	return done, err
}

// sightMachines are the changes by which what is wrong with machines themselves is recorded.
func (s *Store) sightMachines(ctx context.Context, on string, seen []Sighting, done *Change) ([]func(tx *sqlx.Tx) error, error) {
	var rows []kept
	if err := s.db.SelectContext(ctx, &rows, `SELECT '' AS repository, fingerprint, digest, opened_on, closed_on FROM machine_findings`); err != nil {
		return nil, err
	}
	known := map[string]kept{}
	for _, k := range rows {
		known[k.Fingerprint] = k
	}
	var out []func(tx *sqlx.Tx) error
	exec := func(query string, args ...any) {
		out = append(out, func(tx *sqlx.Tx) error {
			_, err := tx.ExecContext(ctx, query, args...)
			return err
		})
	}
	for _, f := range seen {
		was, there := known[f.Fingerprint]
		delete(known, f.Fingerprint)
		sum := digestOf(f.Payload)
		switch {
		case !there:
			done.Opened++
			exec(`INSERT INTO machine_findings (fingerprint, class, payload, digest, opened_on) VALUES (?, ?, ?, ?, ?)`, f.Fingerprint, f.Class, f.Payload, sum, on)
		case was.ClosedOn != "":
			done.Opened++
			exec(`UPDATE machine_findings SET opened_on = ?, closed_on = '', returns = returns + 1, payload = ?, digest = ? WHERE fingerprint = ?`, on, f.Payload, sum, f.Fingerprint)
		case was.Digest != sum:
			exec(`UPDATE machine_findings SET payload = ?, digest = ? WHERE fingerprint = ?`, f.Payload, sum, f.Fingerprint)
		}
	}
	for fingerprint, was := range known {
		if was.ClosedOn == "" {
			done.Closed++
			exec(`UPDATE machine_findings SET closed_on = ? WHERE fingerprint = ?`, on, fingerprint)
		}
	}
	return out, nil
}

// inParts makes changes in transactions that are short.
func (s *Store) inParts(ctx context.Context, changes []func(tx *sqlx.Tx) error) error {
	for len(changes) > 0 {
		some := changes[:min(len(changes), 4*together)]
		changes = changes[len(some):]
		err := s.inTransaction(ctx, func(tx *sqlx.Tx) error {
			for _, change := range some {
				if err := change(tx); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	return nil
}

func digestOf(payload string) string {
	sum := sha256.Sum256([]byte(payload))
	return hex.EncodeToString(sum[:8])
}

// findings are all that were ever seen.
func (s *Store) findings(ctx context.Context) (map[FindingKey]kept, error) {
	rows, err := s.db.QueryxContext(ctx, `SELECT repository, fingerprint, digest, opened_on, closed_on, instr(payload, '"apart":true') > 0 AS apart FROM findings`)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[FindingKey]kept{}
	for rows.Next() {
		var k kept
		if err := rows.StructScan(&k); err != nil {
			return nil, err
		}
		out[k.FindingKey] = k
	}
	return out, rows.Err()
}

// formerSightings are what was noted before findings were kept, by former fingerprint.
func (s *Store) formerSightings(ctx context.Context) (map[string]string, error) {
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

// FirstSeen maps the findings that are open to the day since when they are.
func (s *Store) FirstSeen(ctx context.Context) (map[FindingKey]string, error) {
	var rows []struct {
		FindingKey
		OpenedOn string `db:"opened_on"`
	}
	if err := s.db.SelectContext(ctx, &rows, `SELECT repository, fingerprint, opened_on FROM findings WHERE closed_on = ''
		UNION ALL SELECT '', fingerprint, opened_on FROM machine_findings WHERE closed_on = ''`); err != nil {
		return nil, err
	}
	out := make(map[FindingKey]string, len(rows))
	days := map[string]string{} // few days, and many findings
	for _, r := range rows {
		if _, known := days[r.OpenedOn]; !known {
			days[r.OpenedOn] = strings.Clone(r.OpenedOn)
		}
		out[r.FindingKey] = days[r.OpenedOn]
	}
	return out, nil
}

// Interval is between which days a finding was open; ClosedOn is empty while it is.
type Interval struct {
	OpenedOn string `db:"opened_on"`
	ClosedOn string `db:"closed_on"`
}

// History is when a finding was open, oldest first, and what it said last.
func (s *Store) History(ctx context.Context, key FindingKey) (list []Interval, payload string, err error) {
	err = s.db.SelectContext(ctx, &list, `SELECT opened_on, closed_on FROM earlier_intervals WHERE repository = ?1 AND fingerprint = ?2
		UNION ALL SELECT opened_on, closed_on FROM findings WHERE repository = ?1 AND fingerprint = ?2 ORDER BY opened_on, closed_on`, key.Repository, key.Fingerprint)
	if err == nil && len(list) == 0 {
		return nil, "", ErrNotFound
	}
	if err == nil {
		err = s.db.GetContext(ctx, &payload, `SELECT payload FROM findings WHERE repository = ? AND fingerprint = ?`, key.Repository, key.Fingerprint)
	}
	return list, payload, err
}
