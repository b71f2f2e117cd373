-- +goose Up
CREATE TABLE repositories (
  name      TEXT PRIMARY KEY,
  path      TEXT NOT NULL UNIQUE,
  kind      TEXT NOT NULL,
  added_at  TEXT NOT NULL
);

-- The newest reading of each repository; claims, uses and problems as JSON.
CREATE TABLE readings (
  repository TEXT PRIMARY KEY REFERENCES repositories(name) ON DELETE CASCADE,
  read_at    TEXT NOT NULL,
  ref        TEXT NOT NULL,
  commit_id  TEXT NOT NULL,
  notice     TEXT NOT NULL,
  reading    TEXT NOT NULL
);

CREATE TABLE machines (
  name        TEXT PRIMARY KEY,
  taken_at    TEXT NOT NULL,
  received_at TEXT NOT NULL,
  inventory   TEXT NOT NULL
);

CREATE TABLE surveys (
  id          INTEGER PRIMARY KEY AUTOINCREMENT,
  state       TEXT NOT NULL,
  as_of       TEXT NOT NULL,
  started_at  TEXT NOT NULL,
  finished_at TEXT NOT NULL DEFAULT '',
  total       INTEGER NOT NULL DEFAULT 0,
  done        INTEGER NOT NULL DEFAULT 0,
  message     TEXT NOT NULL DEFAULT ''
);

-- When a finding was first and last seen; gone_on is the day of the first survey that missed it.
CREATE TABLE sightings (
  fingerprint TEXT PRIMARY KEY,
  first_seen  TEXT NOT NULL,
  last_seen   TEXT NOT NULL,
  last_survey INTEGER NOT NULL,
  gone_on     TEXT NOT NULL DEFAULT ''
);

CREATE TABLE tokens (
  id           INTEGER PRIMARY KEY AUTOINCREMENT,
  name         TEXT NOT NULL,
  role         TEXT NOT NULL,
  hash         TEXT NOT NULL UNIQUE,
  created_at   TEXT NOT NULL,
  last_used_at TEXT NOT NULL DEFAULT ''
);

-- One-time sign-in codes and console sessions; secrets are kept as hashes only.
CREATE TABLE codes (
  hash       TEXT PRIMARY KEY,
  name       TEXT NOT NULL,
  role       TEXT NOT NULL,
  expires_at TEXT NOT NULL
);
CREATE TABLE sessions (
  hash       TEXT PRIMARY KEY,
  token_id   INTEGER REFERENCES tokens(id) ON DELETE CASCADE,
  name       TEXT NOT NULL,
  role       TEXT NOT NULL,
  csrf       TEXT NOT NULL,
  expires_at TEXT NOT NULL
);

-- +goose Down
DROP TABLE sessions;
DROP TABLE codes;
DROP TABLE tokens;
DROP TABLE sightings;
DROP TABLE surveys;
DROP TABLE machines;
DROP TABLE readings;
DROP TABLE repositories;
