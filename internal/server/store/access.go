package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"time"

	"github.com/jmoiron/sqlx"
)

// Token is an access token without its secret.
type Token struct {
	ID         int64  `db:"id"`
	Name       string `db:"name"`
	Role       string `db:"role"`
	CreatedAt  string `db:"created_at"`
	LastUsedAt string `db:"last_used_at"`
	Machine    string `db:"machine"` // that a collector's token speaks for; empty until it has sent an inventory
}

const tokenColumns = `id, name, role, created_at, last_used_at, machine`

// Session is a signed-in console.
type Session struct {
	Name string `db:"name"`
	Role string `db:"role"`
	CSRF string `db:"csrf"`
}

// SessionLife is how long a console stays signed in.
const SessionLife = 12 * time.Hour

// Secret makes a new random secret of 160 bits.
func Secret(prefix string) string {
	b := make([]byte, 20)
	rand.Read(b) // never fails
	return prefix + hex.EncodeToString(b)
}

// hash is what is stored of a secret. Secrets are random and long, so a plain hash is enough.
func hash(secret string) string {
	sum := sha256.Sum256([]byte(secret))
	return hex.EncodeToString(sum[:])
}

// CreateToken makes a token and gives its secret, which is not stored. A collector's may
// be bound to a machine at once.
func (s *Store) CreateToken(ctx context.Context, name, role, machine string, now time.Time) (id int64, secret string, err error) {
	secret = Secret("wexo_")
	result, err := s.exec(ctx, `INSERT INTO tokens (name, role, hash, created_at, machine) VALUES (?, ?, ?, ?, ?)`, name, role, hash(secret), stamp(now), machine)
	if err != nil {
		return 0, "", err
	}
	id, err = result.LastInsertId()
	return id, secret, err
}

// Tokens lists tokens, oldest first.
func (s *Store) Tokens(ctx context.Context) ([]Token, error) {
	var out []Token
	err := s.db.SelectContext(ctx, &out, `SELECT `+tokenColumns+` FROM tokens ORDER BY id`)
	return out, err
}

// DeleteToken revokes a token and ends the sessions begun with it. The last owner's is kept.
func (s *Store) DeleteToken(ctx context.Context, id int64) error {
	err := removed(s.exec(ctx, `DELETE FROM tokens WHERE id = ?1 AND (role <> 'owner' OR
		EXISTS (SELECT 1 FROM tokens WHERE role = 'owner' AND id <> ?1))`, id))
	if !errors.Is(err, ErrNotFound) {
		return err
	}
	var there int
	if err := s.db.GetContext(ctx, &there, `SELECT COUNT(*) FROM tokens WHERE id = ?`, id); err != nil || there == 0 {
		return errors.Join(err, ErrNotFound)
	}
	return ErrLastOwner
}

// NewOwner makes an owner's token in place of those that were made at an earlier start and
// that nobody ever used: whoever started the service may never have seen them. made is
// false where an owner has been here.
func (s *Store) NewOwner(ctx context.Context, name string, now time.Time) (id int64, secret string, made bool, err error) {
	var used int
	err = s.db.GetContext(ctx, &used, `SELECT COUNT(*) FROM tokens t WHERE t.role = 'owner' AND
		(t.name <> ? OR t.last_used_at <> '' OR EXISTS (SELECT 1 FROM sessions WHERE token_id = t.id))`, name)
	if err != nil || used > 0 {
		return 0, "", false, err
	}
	if _, err := s.exec(ctx, `DELETE FROM tokens WHERE role = 'owner' AND name = ?`, name); err != nil {
		return 0, "", false, err
	}
	id, secret, err = s.CreateToken(ctx, name, "owner", "", now)
	return id, secret, err == nil, err
}

// BindToken binds a collector's token to the machine that it sends, where nobody holds that: no
// token speaks for it, and nobody has sent it. A token that speaks for a machine
// already stays with that one.
func (s *Store) BindToken(ctx context.Context, id int64, machine string) (bound string, err error) {
	err = s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		_, err := tx.ExecContext(ctx, `UPDATE tokens SET machine = ?2 WHERE id = ?1 AND machine = '' AND
			NOT EXISTS (SELECT 1 FROM tokens WHERE machine = ?2) AND NOT EXISTS (SELECT 1 FROM machines WHERE name = ?2)`, id, machine)
		if err != nil {
			return err
		}
		return tx.GetContext(ctx, &bound, `SELECT machine FROM tokens WHERE id = ?`, id)
	})
	if errors.Is(err, sql.ErrNoRows) {
		return "", ErrNotFound
	}
	return bound, err
}

// UseToken finds a token by its secret and notes that it was used, where that can be noted.
func (s *Store) UseToken(ctx context.Context, secret string, now time.Time) (Token, error) {
	var out Token
	err := s.db.GetContext(ctx, &out, `SELECT `+tokenColumns+` FROM tokens WHERE hash = ?`, hash(secret))
	if errors.Is(err, sql.ErrNoRows) {
		return out, ErrNotFound
	}
	if err != nil {
		return out, err
	}
	used := now.UTC().Truncate(time.Minute)
	if stamp(used) != out.LastUsedAt && s.writing.Load() == 0 { // at most one write a minute, and none that would wait
		brief, cancel := context.WithTimeout(ctx, noteLimit)
		defer cancel()
		_, _ = s.exec(brief, `UPDATE tokens SET last_used_at = ? WHERE id = ?`, stamp(used), out.ID)
	}
	return out, nil
}

// noteLimit is how long a reader waits for a note that only those who look back need.
const noteLimit = 250 * time.Millisecond

// CreateCode makes a one-time sign-in code. Its session ends with the token that it stands
// for, if it stands for one.
func (s *Store) CreateCode(ctx context.Context, token int64, name, role string, until time.Time) (string, error) {
	secret := Secret("")
	_, err := s.exec(ctx, `INSERT INTO codes (hash, token_id, name, role, expires_at) VALUES (?, NULLIF(?, 0), ?, ?, ?)`, hash(secret), token, name, role, stamp(until))
	return secret, err
}

// maxSessions is how many consoles may be signed in by one token.
const maxSessions = 100

// SignIn begins a session with a token or a one-time code, which is used up. Where a token
// has begun as many as it may, its oldest one ends.
func (s *Store) SignIn(ctx context.Context, token, code string, now time.Time) (secret string, session Session, err error) {
	var tokenID *int64
	session.CSRF = Secret("")
	if token != "" {
		t, err := s.UseToken(ctx, token, now)
		if err != nil {
			return "", session, err
		}
		tokenID, session.Name, session.Role = &t.ID, t.Name, t.Role
	}
	secret = Secret("")
	err = s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		if token == "" {
			var link struct {
				Session
				TokenID *int64 `db:"token_id"`
			}
			err := tx.GetContext(ctx, &link, `DELETE FROM codes WHERE hash = ? AND expires_at > ? RETURNING name, role, token_id`, hash(code), stamp(now))
			if errors.Is(err, sql.ErrNoRows) {
				return ErrNotFound
			}
			if err != nil {
				return err
			}
			tokenID, session.Name, session.Role = link.TokenID, link.Name, link.Role
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM sessions WHERE expires_at <= ?`, stamp(now)); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM sessions WHERE token_id = ?1 AND rowid NOT IN
			(SELECT rowid FROM sessions WHERE token_id = ?1 ORDER BY rowid DESC LIMIT ?2)`, tokenID, maxSessions-1); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO sessions (hash, token_id, name, role, csrf, created_at, expires_at) VALUES (?, ?, ?, ?, ?, ?, ?)`,
			hash(secret), tokenID, session.Name, session.Role, session.CSRF, stamp(now), stamp(now.Add(SessionLife)))
		return err
	})
	return secret, session, err
}

// UseSession finds a session that has not ended.
func (s *Store) UseSession(ctx context.Context, secret string, now time.Time) (Session, error) {
	var out Session
	err := s.db.GetContext(ctx, &out, `SELECT name, role, csrf FROM sessions WHERE hash = ? AND expires_at > ?`, hash(secret), stamp(now))
	if errors.Is(err, sql.ErrNoRows) {
		return out, ErrNotFound
	}
	return out, err
}

// EndSession signs a console out.
func (s *Store) EndSession(ctx context.Context, secret string) error {
	_, err := s.exec(ctx, `DELETE FROM sessions WHERE hash = ?`, hash(secret))
	return err
}

// OpenSession is a signed-in console as owners see it.
type OpenSession struct {
	ID        int64  `db:"id"`
	Name      string `db:"name"`
	Role      string `db:"role"`
	CreatedAt string `db:"created_at"`
	ExpiresAt string `db:"expires_at"`
	From      string `db:"came_from"` // the token's name, or empty for a sign-in link
}

// Sessions lists the consoles that are signed in, oldest first.
func (s *Store) Sessions(ctx context.Context, now time.Time) ([]OpenSession, error) {
	var out []OpenSession
	err := s.db.SelectContext(ctx, &out, `SELECT s.rowid AS id, s.name, s.role, s.created_at, s.expires_at, COALESCE(t.name, '') AS came_from
		FROM sessions s LEFT JOIN tokens t ON t.id = s.token_id WHERE s.expires_at > ? ORDER BY s.rowid`, stamp(now))
	return out, err
}

// DeleteSession signs a console out by its number.
func (s *Store) DeleteSession(ctx context.Context, id int64) error {
	return removed(s.exec(ctx, `DELETE FROM sessions WHERE rowid = ?`, id))
}
