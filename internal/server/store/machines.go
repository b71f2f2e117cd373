package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"wexo/internal/core/inventory"
)

// Older is an inventory that is not taken since a newer one of its machine is held.
type Older struct {
	Machine string
	Held    time.Time // when the newer one was taken
}

func (o *Older) Error() string {
	return fmt.Sprintf("a newer inventory of %s is held, taken at %s", o.Machine, stamp(o.Held))
}

// mostKept is how many inventories that differ are kept of one machine.
const mostKept = 400

// SaveInventory stores a machine's inventory, unless a newer one is there already. Where it
// differs from the one before, both are kept.
func (s *Store) SaveInventory(ctx context.Context, inv inventory.Inventory, now time.Time) error {
	data, err := json.Marshal(inv)
	if err != nil {
		return err
	}
	digest := digestOfInventory(string(data), inv.TakenAt)
	name, taken := inv.Machine.Name, stamp(inv.TakenAt)
	err = s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		err := removed(tx.ExecContext(ctx, `INSERT INTO machines (name, taken_at, received_at, inventory) VALUES (?, ?, ?, ?)
			ON CONFLICT (name) DO UPDATE SET taken_at = excluded.taken_at, received_at = excluded.received_at, inventory = excluded.inventory
			WHERE excluded.taken_at >= machines.taken_at`, name, taken, stamp(now), string(data)))
		if err != nil {
			return err
		}
		var last string
		err = tx.GetContext(ctx, &last, `SELECT digest FROM inventories WHERE machine = ? ORDER BY taken_at DESC LIMIT 1`, name)
		if err == nil && last == digest {
			return nil
		}
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT OR REPLACE INTO inventories (machine, taken_at, digest, inventory) VALUES (?, ?, ?, ?)`, name, taken, digest, string(data)); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `DELETE FROM inventories WHERE machine = ?1 AND taken_at NOT IN
			(SELECT taken_at FROM inventories WHERE machine = ?1 ORDER BY taken_at DESC LIMIT ?2)`, name, mostKept)
		return err
	})
	if errors.Is(err, ErrNotFound) {
		held, heldErr := s.Inventory(ctx, inv.Machine.Name)
		return errors.Join(heldErr, &Older{inv.Machine.Name, held.TakenAt})
	}
	s.changed()
	return err
}

// digestOfInventory is of all that an inventory says but for when it was taken.
func digestOfInventory(text string, taken time.Time) string {
	when := `"takenAt":"` + taken.Format(time.RFC3339Nano) + `"`
	return digestOf(strings.Replace(text, when, "", 1)) // the first is no part of a text, where quotes are escaped
}

// Kept tells when the inventories of a machine were taken that differ from the one before,
// the newest first.
func (s *Store) Kept(ctx context.Context, name string) ([]string, error) {
	out := []string{}
	err := s.db.SelectContext(ctx, &out, `SELECT taken_at FROM inventories WHERE machine = ? ORDER BY taken_at DESC`, name)
	return out, err
}

// InventoryAt is what a machine had at a time: the newest inventory that is not newer;
// ErrNotFound where there is none.
func (s *Store) InventoryAt(ctx context.Context, name string, at time.Time) (inventory.Inventory, error) {
	var row []byte
	err := s.db.GetContext(ctx, &row, `SELECT inventory FROM inventories WHERE machine = ? AND taken_at <= ? ORDER BY taken_at DESC LIMIT 1`, name, stamp(at))
	return stored(row, err)
}

// RemoveMachine forgets a machine with its inventory.
func (s *Store) RemoveMachine(ctx context.Context, name string) error {
	err := removed(s.exec(ctx, `DELETE FROM machines WHERE name = ?`, name))
	s.changed()
	return err
}

// Inventories lists the newest inventory of each machine, by name. What was taken once is
// not judged by later rules of what an inventory should hold.
func (s *Store) Inventories(ctx context.Context) ([]inventory.Inventory, error) {
	var rows [][]byte
	if err := s.db.SelectContext(ctx, &rows, `SELECT inventory FROM machines ORDER BY name`); err != nil {
		return nil, err
	}
	var out []inventory.Inventory
	for _, row := range rows {
		var inv inventory.Inventory
		if err := json.Unmarshal(row, &inv); err != nil {
			return nil, fmt.Errorf("stored inventory: %w", err)
		}
		out = append(out, inv)
	}
	return out, nil
}

// Inventory is the newest inventory of one machine.
func (s *Store) Inventory(ctx context.Context, name string) (inventory.Inventory, error) {
	var row []byte
	err := s.db.GetContext(ctx, &row, `SELECT inventory FROM machines WHERE name = ?`, name)
	return stored(row, err)
}

// stored is the inventory of a row.
func stored(row []byte, err error) (inventory.Inventory, error) {
	var inv inventory.Inventory
	switch {
	case errors.Is(err, sql.ErrNoRows):
		return inv, ErrNotFound
	case err != nil:
		return inv, err
	}
	return inv, json.Unmarshal(row, &inv)
}
