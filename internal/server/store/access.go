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
}

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

// CreateToken makes a token and gives its secret, which is not stored.
func (s *Store) CreateToken(ctx context.Context, name, role string, now time.Time) (id int64, secret string, err error) {
	secret = Secret("wexo_")
	result, err := s.db.ExecContext(ctx, `INSERT INTO tokens (name, role, hash, created_at) VALUES (?, ?, ?, ?)`, name, role, hash(secret), stamp(now))
	if err != nil {
		return 0, "", err
	}
	id, err = result.LastInsertId()
	return id, secret, err
}

// Tokens lists tokens, oldest first.
func (s *Store) Tokens(ctx context.Context) ([]Token, error) {
	var out []Token
	err := s.db.SelectContext(ctx, &out, `SELECT id, name, role, created_at, last_used_at FROM tokens ORDER BY id`)
	return out, err
}

// DeleteToken revokes a token and ends the sessions begun with it.
func (s *Store) DeleteToken(ctx context.Context, id int64) error {
	return removed(s.db.ExecContext(ctx, `DELETE FROM tokens WHERE id = ?`, id))
}

// UseToken finds a token by its secret and notes that it was used.
func (s *Store) UseToken(ctx context.Context, secret string, now time.Time) (Token, error) {
	var out Token
	err := s.db.GetContext(ctx, &out, `SELECT id, name, role, created_at, last_used_at FROM tokens WHERE hash = ?`, hash(secret))
	if errors.Is(err, sql.ErrNoRows) {
		return out, ErrNotFound
	}
	if err != nil {
		return out, err
	}
	used := now.UTC().Truncate(time.Minute)
	if stamp(used) != out.LastUsedAt { // at most one write a minute
		_, err = s.db.ExecContext(ctx, `UPDATE tokens SET last_used_at = ? WHERE id = ?`, stamp(used), out.ID)
	}
	return out, err
}

// CreateCode makes a one-time sign-in code.
func (s *Store) CreateCode(ctx context.Context, name, role string, until time.Time) (string, error) {
	secret := Secret("")
	_, err := s.db.ExecContext(ctx, `INSERT INTO codes (hash, name, role, expires_at) VALUES (?, ?, ?, ?)`, hash(secret), name, role, stamp(until))
	return secret, err
}

// SignIn begins a session with a token or a one-time code, which is used up.
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
			err := tx.GetContext(ctx, &session, `DELETE FROM codes WHERE hash = ? AND expires_at > ? RETURNING name, role`, hash(code), stamp(now))
			if errors.Is(err, sql.ErrNoRows) {
				return ErrNotFound
			}
			if err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM sessions WHERE expires_at <= ?`, stamp(now)); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO sessions (hash, token_id, name, role, csrf, expires_at) VALUES (?, ?, ?, ?, ?, ?)`,
			hash(secret), tokenID, session.Name, session.Role, session.CSRF, stamp(now.Add(SessionLife)))
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
	_, err := s.db.ExecContext(ctx, `DELETE FROM sessions WHERE hash = ?`, hash(secret))
	return err
}
