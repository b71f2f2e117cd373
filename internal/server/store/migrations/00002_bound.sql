-- +goose Up
-- The machine that a collector's token speaks for; empty until it has sent an inventory.
ALTER TABLE tokens ADD COLUMN machine TEXT NOT NULL DEFAULT '';
-- The token that a sign-in link stands for: the link's sessions end with it.
ALTER TABLE codes ADD COLUMN token_id INTEGER REFERENCES tokens(id) ON DELETE CASCADE;
ALTER TABLE sessions ADD COLUMN created_at TEXT NOT NULL DEFAULT '';
-- One row that is written to tell whether anything can be.
CREATE TABLE pulse (id INTEGER PRIMARY KEY CHECK (id = 1), beats INTEGER NOT NULL);
INSERT INTO pulse (id, beats) VALUES (1, 0);

-- +goose Down
DROP TABLE pulse;
ALTER TABLE sessions DROP COLUMN created_at;
ALTER TABLE codes DROP COLUMN token_id;
ALTER TABLE tokens DROP COLUMN machine;
