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

// SaveInventory stores a machine's inventory; an older one than is there already is refused.
func (s *Store) SaveInventory(ctx context.Context, inv inventory.Inventory, now time.Time) error {
	data, err := json.Marshal(inv)
	if err != nil {
		return err
	}
	_, err = s.db.ExecContext(ctx, `INSERT INTO machines (name, taken_at, received_at, inventory) VALUES (?, ?, ?, ?)
		ON CONFLICT (name) DO UPDATE SET taken_at = excluded.taken_at, received_at = excluded.received_at, inventory = excluded.inventory
		WHERE excluded.taken_at >= machines.taken_at`, inv.Machine.Name, stamp(inv.TakenAt), stamp(now), string(data))
	s.changed()
	return err
}

// Inventories lists the newest inventory of each machine, by name.
func (s *Store) Inventories(ctx context.Context) ([]inventory.Inventory, error) {
	var rows []string
	if err := s.db.SelectContext(ctx, &rows, `SELECT inventory FROM machines ORDER BY name`); err != nil {
		return nil, err
	}
	var out []inventory.Inventory
	for _, row := range rows {
		inv, err := inventory.Parse([]byte(row))
		if err != nil {
			return nil, fmt.Errorf("stored inventory: %w", err)
		}
		out = append(out, inv)
	}
	return out, nil
}

// Inventory is the newest inventory of one machine.
func (s *Store) Inventory(ctx context.Context, name string) (inventory.Inventory, error) {
	var row string
	err := s.db.GetContext(ctx, &row, `SELECT inventory FROM machines WHERE name = ?`, name)
	if errors.Is(err, sql.ErrNoRows) {
		return inventory.Inventory{}, ErrNotFound
	}
	if err != nil {
		return inventory.Inventory{}, err
	}
	return inventory.Parse([]byte(row))
}
