package rpmdb

import (
	"context"
	"fmt"
	"net/url"

	"github.com/jmoiron/sqlx"
	_ "modernc.org/sqlite" // the driver
)

// readSQLite reads the one table that holds all. The file is read as if nobody could change
// it, or SQLite would write its own files beside it.
func readSQLite(ctx context.Context, file string, take func([]byte) error) error {
	query := url.Values{"mode": {"ro"}, "immutable": {"1"}, "_pragma": {"trusted_schema(0)"}}
	db, err := sqlx.ConnectContext(ctx, "sqlite", "file:"+(&url.URL{Path: file}).EscapedPath()+"?"+query.Encode())
	if err != nil {
		return fmt.Errorf("%w: %w", errTorn, err)
	}
	defer db.Close()
	var kind string
	if err := db.GetContext(ctx, &kind, `SELECT type FROM sqlite_master WHERE name = 'Packages'`); err != nil || kind != "table" {
		return ErrUnknown
	}
	rows, err := db.QueryContext(ctx, `SELECT blob FROM Packages WHERE length(blob) < ?`, maxHeader)
	if err != nil {
		return fmt.Errorf("%w: %w", errTorn, err)
	}
	defer rows.Close()
	for rows.Next() {
		var header []byte
		if err := rows.Scan(&header); err != nil {
			return err
		}
		if err := take(header); err != nil {
			return err
		}
	}
	return rows.Err()
}
