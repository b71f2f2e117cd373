package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

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

// SaveInventory stores a machine's inventory, unless a newer one is there already.
func (s *Store) SaveInventory(ctx context.Context, inv inventory.Inventory, now time.Time) error {
	data, err := json.Marshal(inv)
	if err != nil {
		return err
	}
	err = removed(s.db.ExecContext(ctx, `INSERT INTO machines (name, taken_at, received_at, inventory) VALUES (?, ?, ?, ?)
		ON CONFLICT (name) DO UPDATE SET taken_at = excluded.taken_at, received_at = excluded.received_at, inventory = excluded.inventory
		WHERE excluded.taken_at >= machines.taken_at`, inv.Machine.Name, stamp(inv.TakenAt), stamp(now), string(data)))
	if errors.Is(err, ErrNotFound) {
		held, heldErr := s.Inventory(ctx, inv.Machine.Name)
		return errors.Join(heldErr, &Older{inv.Machine.Name, held.TakenAt})
	}
	s.changed()
	return err
}

// RemoveMachine forgets a machine with its inventory.
func (s *Store) RemoveMachine(ctx context.Context, name string) error {
	err := removed(s.db.ExecContext(ctx, `DELETE FROM machines WHERE name = ?`, name))
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
	var inv inventory.Inventory
	var row []byte
	err := s.db.GetContext(ctx, &row, `SELECT inventory FROM machines WHERE name = ?`, name)
	switch {
	case errors.Is(err, sql.ErrNoRows):
		return inv, ErrNotFound
	case err != nil:
		return inv, err
	}
	return inv, json.Unmarshal(row, &inv)
}
