-- +goose Up
-- On which terms an API is used, who asked for it, and who may.
CREATE TABLE plans (
  api      TEXT NOT NULL REFERENCES apis (name),
  name     TEXT NOT NULL,
  quota    INTEGER NOT NULL, -- calls in a time; 0 for as many as one likes
  per      TEXT NOT NULL,    -- second, minute, hour, day, month; '' without a quota
  terms    TEXT NOT NULL,    -- CommonMark
  asks     TEXT NOT NULL,    -- what whoever asks is asked: a JSON list
  audience TEXT NOT NULL,    -- who may ask: a JSON list of groups
  issues   INTEGER NOT NULL, -- whether the ledger issues credentials
  PRIMARY KEY (api, name)
) STRICT;

CREATE TABLE requests (
  id       INTEGER PRIMARY KEY,
  consumer TEXT NOT NULL REFERENCES consumers (name),
  asked_by TEXT NOT NULL,
  asked_at TEXT NOT NULL,
  purpose  TEXT NOT NULL
) STRICT;

-- What a request asks for: each API is its team's to decide.
CREATE TABLE request_items (
  request    INTEGER NOT NULL REFERENCES requests (id),
  api        TEXT NOT NULL REFERENCES apis (name),
  line       TEXT NOT NULL,
  plan       TEXT NOT NULL,
  answers    TEXT NOT NULL, -- to what the plan asks: a JSON list, in its order
  state      TEXT NOT NULL, -- asked, approved, refused, withdrawn
  decided_by TEXT NOT NULL,
  decided_at TEXT NOT NULL,
  reason     TEXT NOT NULL,
  PRIMARY KEY (request, api, line)
) STRICT;
CREATE INDEX request_items_by_api ON request_items (api);

-- What consumers may use.
CREATE TABLE grants (
  consumer TEXT NOT NULL REFERENCES consumers (name),
  api      TEXT NOT NULL REFERENCES apis (name),
  line     TEXT NOT NULL,
  plan     TEXT NOT NULL,
  since    TEXT NOT NULL,
  by       TEXT NOT NULL,
  PRIMARY KEY (consumer, api, line)
) STRICT;
CREATE INDEX grants_by_api ON grants (api);

CREATE TABLE credentials (
  id       TEXT PRIMARY KEY, -- as logs have it
  hash     TEXT NOT NULL,    -- SHA-256 of all of it
  consumer TEXT NOT NULL REFERENCES consumers (name),
  api      TEXT NOT NULL REFERENCES apis (name),
  made_at  TEXT NOT NULL,
  made_by  TEXT NOT NULL,
  ends_at  TEXT NOT NULL     -- '' for never
) STRICT;
CREATE INDEX credentials_by_consumer ON credentials (consumer, api);

-- Which steps of a guide a consumer has done.
CREATE TABLE ticks (
  consumer TEXT NOT NULL REFERENCES consumers (name),
  api      TEXT NOT NULL REFERENCES apis (name),
  pair     TEXT NOT NULL, -- '1.2.0..2.0.0'
  step     TEXT NOT NULL, -- the change that it is about
  done_at  TEXT NOT NULL,
  done_by  TEXT NOT NULL,
  PRIMARY KEY (consumer, api, pair, step)
) STRICT;

-- +goose Down
DROP TABLE ticks;
DROP TABLE credentials;
DROP TABLE grants;
DROP TABLE request_items;
DROP TABLE requests;
DROP TABLE plans;
