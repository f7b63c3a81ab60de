-- +goose Up
-- How the reference of a version reads beyond its description: an overlay, as it is shown and as it is being edited.
CREATE TABLE overlays (
  api     TEXT NOT NULL,
  number  TEXT NOT NULL,
  state   TEXT NOT NULL CHECK (state IN ('draft', 'shown')),
  text    BLOB NOT NULL,
  made_by TEXT NOT NULL,
  made_at TEXT NOT NULL,
  PRIMARY KEY (api, number, state),
  FOREIGN KEY (api, number) REFERENCES versions (api, number)
) STRICT;

-- How the reference of an API looks; of all that have no looks of their own where api is ''.
CREATE TABLE looks (
  api      TEXT PRIMARY KEY,
  settings TEXT NOT NULL,
  made_by  TEXT NOT NULL,
  made_at  TEXT NOT NULL
) STRICT;

-- Addresses at which a version can be read before it is published. Only the hash of an address is kept.
CREATE TABLE previews (
  hash       TEXT PRIMARY KEY,
  api        TEXT NOT NULL,
  number     TEXT NOT NULL,
  made_by    TEXT NOT NULL,
  made_at    TEXT NOT NULL,
  expires_at TEXT NOT NULL,
  FOREIGN KEY (api, number) REFERENCES versions (api, number)
) STRICT;

-- What looks like a credential and was allowed to be published.
CREATE TABLE allowances (
  api     TEXT NOT NULL,
  version TEXT NOT NULL,
  finding TEXT NOT NULL,
  what    TEXT NOT NULL,
  reason  TEXT NOT NULL,
  made_by TEXT NOT NULL,
  made_at TEXT NOT NULL,
  PRIMARY KEY (api, version, finding)
) STRICT;

-- A published version whose reference was taken back, and one that is retired for good.
ALTER TABLE versions ADD COLUMN unpublished_at TEXT NOT NULL DEFAULT '';
ALTER TABLE versions ADD COLUMN retired_at TEXT NOT NULL DEFAULT '';

-- +goose Down
SELECT 1;
