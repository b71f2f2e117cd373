-- +goose Up
-- What a machine had, whenever that differed from what it had before; the newest is that of
-- machines, which is older where nothing has changed since.
CREATE TABLE inventories (
  machine   TEXT NOT NULL REFERENCES machines(name) ON DELETE CASCADE,
  taken_at  TEXT NOT NULL,
  digest    TEXT NOT NULL, -- of all but the time
  inventory TEXT NOT NULL,
  PRIMARY KEY (machine, taken_at)
) WITHOUT ROWID;
INSERT INTO inventories (machine, taken_at, digest, inventory) SELECT name, taken_at, '', inventory FROM machines;

-- What is wrong with machines themselves, as findings is of repositories.
CREATE TABLE machine_findings (
  fingerprint TEXT PRIMARY KEY,
  class       TEXT NOT NULL,
  payload     TEXT NOT NULL,
  digest      TEXT NOT NULL,
  opened_on   TEXT NOT NULL,
  closed_on   TEXT NOT NULL DEFAULT '',
  returns     INTEGER NOT NULL DEFAULT 0
) WITHOUT ROWID;

-- +goose Down
DROP TABLE machine_findings;
DROP TABLE inventories;
