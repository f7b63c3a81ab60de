-- +goose Up
-- Who calls which operations, how often: counted from logs, of which nothing else is kept.
CREATE TABLE consumers (
  name     TEXT PRIMARY KEY,
  title    TEXT NOT NULL,
  note     TEXT NOT NULL, -- what it is for
  team     TEXT NOT NULL, -- whose it is; '' where it is one person's
  person   TEXT NOT NULL, -- whose it is, where it is no team's
  contacts TEXT NOT NULL, -- a JSON list of addresses
  made_at  TEXT NOT NULL,
  made_by  TEXT NOT NULL
) STRICT;

-- By what consumers are recognised.
CREATE TABLE signs (
  team     TEXT NOT NULL, -- for whose APIs it holds; '' for all
  kind     TEXT NOT NULL, -- credential, header, agent
  value    TEXT NOT NULL, -- a * stands for any text; of a header 'name: value'
  consumer TEXT NOT NULL REFERENCES consumers (name),
  PRIMARY KEY (team, kind, value)
) STRICT;
CREATE INDEX signs_by_consumer ON signs (consumer);

-- Who called, as logs tell it.
CREATE TABLE callers (
  id         INTEGER PRIMARY KEY,
  credential TEXT NOT NULL,
  header     TEXT NOT NULL,
  agent      TEXT NOT NULL,
  UNIQUE (credential, header, agent)
) STRICT;

-- What was called.
CREATE TABLE targets (
  id        INTEGER PRIMARY KEY,
  api       TEXT NOT NULL REFERENCES apis (name),
  version   TEXT NOT NULL,
  operation TEXT NOT NULL, -- as its author wrote it
  UNIQUE (api, version, operation)
) STRICT;

CREATE TABLE calls (
  api    TEXT NOT NULL,
  month  INTEGER NOT NULL, -- since January 1970
  target INTEGER NOT NULL REFERENCES targets (id),
  caller INTEGER NOT NULL REFERENCES callers (id),
  class  INTEGER NOT NULL, -- of the status: 2 for 204; 0 where no log held it
  days   TEXT NOT NULL,    -- how many on each day of the month, in UTC: '0,12,…'
  PRIMARY KEY (api, month, target, caller, class)
) STRICT, WITHOUT ROWID;

-- Who calls an API, as whom the ledger knows them there.
CREATE TABLE uses (
  caller    INTEGER NOT NULL REFERENCES callers (id),
  api       TEXT NOT NULL REFERENCES apis (name),
  consumer  TEXT NOT NULL, -- '' for nobody known
  first_day INTEGER NOT NULL, -- since 1970
  last_day  INTEGER NOT NULL,
  calls     INTEGER NOT NULL,
  PRIMARY KEY (caller, api)
) STRICT, WITHOUT ROWID;
CREATE INDEX uses_by_api ON uses (api);
CREATE INDEX uses_by_consumer ON uses (consumer, api);

-- The logs that were counted.
CREATE TABLE logs (
  id        INTEGER PRIMARY KEY,
  name      TEXT NOT NULL,
  added_at  TEXT NOT NULL,
  added_by  TEXT NOT NULL,
  length    INTEGER NOT NULL, -- of its text, in bytes
  digest    TEXT NOT NULL,    -- SHA-256 of it
  head      TEXT NOT NULL,    -- of its first 64 KB
  apis      TEXT NOT NULL,    -- for which it was counted: a JSON list
  lines     INTEGER NOT NULL,
  repeated  INTEGER NOT NULL, -- lines that had been counted before
  calls     INTEGER NOT NULL,
  unmatched INTEGER NOT NULL,
  bad       INTEGER NOT NULL,
  first_day INTEGER NOT NULL, -- since 1970; of the calls
  last_day  INTEGER NOT NULL
) STRICT;

-- The days of which logs tell.
CREATE TABLE covered (
  api   TEXT NOT NULL REFERENCES apis (name),
  month INTEGER NOT NULL,
  days  INTEGER NOT NULL, -- a bit for each day of the month
  PRIMARY KEY (api, month)
) STRICT, WITHOUT ROWID;

-- Calls of no operation that is described.
CREATE TABLE unmatched (
  reason    TEXT NOT NULL, -- path, method, version, untold
  api       TEXT NOT NULL, -- whose path it is; '' for nobody's
  method    TEXT NOT NULL,
  path      TEXT NOT NULL, -- '' for those beyond the paths that are kept
  calls     INTEGER NOT NULL,
  last_day  INTEGER NOT NULL,
  PRIMARY KEY (reason, api, method, path)
) STRICT, WITHOUT ROWID;

-- +goose Down
DROP TABLE unmatched;
DROP TABLE covered;
DROP TABLE logs;
DROP TABLE uses;
DROP TABLE calls;
DROP TABLE targets;
DROP TABLE callers;
DROP TABLE signs;
DROP TABLE consumers;
