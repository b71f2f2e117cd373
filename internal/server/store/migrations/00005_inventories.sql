-- +goose Up
-- Inventories are long: an index of their own finds them without reading their texts.
CREATE TABLE kept (
  machine   TEXT NOT NULL REFERENCES machines(name) ON DELETE CASCADE,
  taken_at  TEXT NOT NULL,
  digest    TEXT NOT NULL, -- of all but the time
  inventory TEXT NOT NULL,
  PRIMARY KEY (machine, taken_at)
);
INSERT INTO kept SELECT machine, taken_at, digest, inventory FROM inventories;
DROP TABLE inventories;
ALTER TABLE kept RENAME TO inventories;

-- +goose Down
CREATE TABLE kept (
  machine   TEXT NOT NULL REFERENCES machines(name) ON DELETE CASCADE,
  taken_at  TEXT NOT NULL,
  digest    TEXT NOT NULL,
  inventory TEXT NOT NULL,
  PRIMARY KEY (machine, taken_at)
) WITHOUT ROWID;
INSERT INTO kept SELECT machine, taken_at, digest, inventory FROM inventories;
DROP TABLE inventories;
ALTER TABLE kept RENAME TO inventories;
