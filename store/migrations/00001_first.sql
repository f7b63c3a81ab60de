-- +goose Up
CREATE TABLE apis (
  name       TEXT PRIMARY KEY,
  title      TEXT NOT NULL,
  team       TEXT NOT NULL DEFAULT '',
  promise    TEXT NOT NULL DEFAULT 'backward',
  created_at TEXT NOT NULL
) STRICT;

CREATE TABLE versions (
  api          TEXT NOT NULL REFERENCES apis (name),
  number       TEXT NOT NULL,
  text         TEXT NOT NULL,
  state        TEXT NOT NULL CHECK (state IN ('draft', 'published')),
  title        TEXT NOT NULL,
  dialect      TEXT NOT NULL,
  file         TEXT NOT NULL,
  content      BLOB NOT NULL,
  digest       TEXT NOT NULL,
  recorded_at  TEXT NOT NULL,
  recorded_by  TEXT NOT NULL,
  published_at TEXT NOT NULL DEFAULT '',
  published_by TEXT NOT NULL DEFAULT '',
  PRIMARY KEY (api, number)
) STRICT;

CREATE TABLE notices (
  id          INTEGER PRIMARY KEY,
  api         TEXT NOT NULL REFERENCES apis (name),
  line        TEXT NOT NULL DEFAULT '',
  version     TEXT NOT NULL DEFAULT '',
  operation   TEXT NOT NULL DEFAULT '',
  field       TEXT NOT NULL DEFAULT '',
  since       TEXT NOT NULL,
  sunset      TEXT NOT NULL DEFAULT '',
  replaced_by TEXT NOT NULL DEFAULT '',
  reason      TEXT NOT NULL,
  made_by     TEXT NOT NULL
) STRICT;

CREATE TABLE waivers (
  id      INTEGER PRIMARY KEY,
  api     TEXT NOT NULL,
  version TEXT NOT NULL,
  change  TEXT NOT NULL,
  kind    TEXT NOT NULL,
  title   TEXT NOT NULL,
  reason  TEXT NOT NULL,
  made_by TEXT NOT NULL,
  made_at TEXT NOT NULL,
  FOREIGN KEY (api, version) REFERENCES versions (api, number)
) STRICT;

CREATE TABLE journal (
  seq      INTEGER PRIMARY KEY,
  at       TEXT NOT NULL,
  actor    TEXT NOT NULL,
  act      TEXT NOT NULL,
  subject  TEXT NOT NULL,
  detail   TEXT NOT NULL,
  previous TEXT NOT NULL,
  hash     TEXT NOT NULL UNIQUE
) STRICT;

CREATE TRIGGER journal_is_not_rewritten BEFORE UPDATE ON journal BEGIN SELECT RAISE(ABORT, 'the journal is append-only'); END;
CREATE TRIGGER journal_is_not_shortened BEFORE DELETE ON journal BEGIN SELECT RAISE(ABORT, 'the journal is append-only'); END;

CREATE TABLE people (
  name     TEXT PRIMARY KEY,
  full     TEXT NOT NULL,
  role     TEXT NOT NULL CHECK (role IN ('admin', 'editor', 'reviewer', 'reader')),
  password TEXT NOT NULL
) STRICT;

CREATE TABLE tokens (
  hash    TEXT PRIMARY KEY,
  person  TEXT NOT NULL REFERENCES people (name),
  label   TEXT NOT NULL,
  made_at TEXT NOT NULL
) STRICT;

CREATE TABLE sessions (
  token  TEXT PRIMARY KEY,
  data   BLOB NOT NULL,
  expiry REAL NOT NULL
);
CREATE INDEX sessions_expiry ON sessions (expiry);

CREATE TABLE answers (
  key      TEXT NOT NULL,
  person   TEXT NOT NULL,
  request  TEXT NOT NULL,
  status   INTEGER NOT NULL,
  body     BLOB NOT NULL,
  made_at  TEXT NOT NULL,
  PRIMARY KEY (key, person)
) STRICT;

-- +goose Down
SELECT 1;
