-- +goose Up
-- What a reading says is kept once, however many repositories say it; a repository points at
-- the last that could be read. Where a later one could not, failed_at and failure say so.
CREATE TABLE contents (
  digest  TEXT PRIMARY KEY,
  reading TEXT NOT NULL
);
ALTER TABLE readings RENAME TO readings_before;
CREATE TABLE readings (
  repository TEXT PRIMARY KEY REFERENCES repositories(name) ON DELETE CASCADE,
  identity   TEXT NOT NULL DEFAULT '',
  read_at    TEXT NOT NULL,
  ref        TEXT NOT NULL,
  commit_id  TEXT NOT NULL,
  notice     TEXT NOT NULL,
  digest     TEXT NOT NULL DEFAULT '',
  failed_at  TEXT NOT NULL DEFAULT '',
  failure    TEXT NOT NULL DEFAULT ''
);
-- What was kept before has no digest of its own: the repository's name stands for it until
-- it is read again.
INSERT INTO contents (digest, reading) SELECT 'before ' || repository, reading FROM readings_before;
INSERT INTO readings (repository, read_at, ref, commit_id, notice, digest)
  SELECT repository, read_at, ref, commit_id, notice, 'before ' || repository FROM readings_before;
DROP TABLE readings_before;
CREATE INDEX readings_digest ON readings (digest);

-- Findings with what they said when they were last seen. A finding is open from a day on,
-- and again where it came back.
CREATE TABLE findings (
  repository  TEXT NOT NULL REFERENCES repositories(name) ON DELETE CASCADE,
  fingerprint TEXT NOT NULL,
  class       TEXT NOT NULL,
  payload     TEXT NOT NULL,
  digest      TEXT NOT NULL, -- of the payload
  opened_on   TEXT NOT NULL,
  closed_on   TEXT NOT NULL DEFAULT '',
  returns     INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (repository, fingerprint)
) WITHOUT ROWID;
CREATE TABLE earlier_intervals (
  repository  TEXT NOT NULL,
  fingerprint TEXT NOT NULL,
  opened_on   TEXT NOT NULL,
  closed_on   TEXT NOT NULL,
  PRIMARY KEY (repository, fingerprint, opened_on, closed_on),
  FOREIGN KEY (repository, fingerprint) REFERENCES findings(repository, fingerprint) ON DELETE CASCADE
) WITHOUT ROWID;

-- +goose Down
DROP TABLE earlier_intervals;
DROP TABLE findings;
CREATE TABLE readings_before (
  repository TEXT PRIMARY KEY REFERENCES repositories(name) ON DELETE CASCADE,
  read_at    TEXT NOT NULL,
  ref        TEXT NOT NULL,
  commit_id  TEXT NOT NULL,
  notice     TEXT NOT NULL,
  reading    TEXT NOT NULL
);
INSERT INTO readings_before SELECT r.repository, r.read_at, r.ref, r.commit_id, r.notice, c.reading
  FROM readings r JOIN contents c ON c.digest = r.digest;
DROP TABLE readings;
DROP TABLE contents;
ALTER TABLE readings_before RENAME TO readings;
