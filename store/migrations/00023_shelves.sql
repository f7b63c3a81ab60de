-- +goose Up
-- Named sets of APIs.
CREATE TABLE shelves (
  name     TEXT PRIMARY KEY,
  title    TEXT NOT NULL,
  audience TEXT NOT NULL, -- a JSON list of groups
  landing  TEXT NOT NULL, -- CommonMark
  host     TEXT NOT NULL, -- at which it is shown alone; '' for none
  made_at  TEXT NOT NULL,
  made_by  TEXT NOT NULL
) STRICT;
CREATE UNIQUE INDEX shelves_at ON shelves (host) WHERE host <> '';

-- What stands on them, in order.
CREATE TABLE stands (
  shelf    TEXT NOT NULL REFERENCES shelves (name),
  api      TEXT NOT NULL REFERENCES apis (name),
  place    INTEGER NOT NULL,
  versions TEXT NOT NULL, -- a JSON list of lines and numbers; an empty one is all
  PRIMARY KEY (shelf, api)
) STRICT;
CREATE INDEX stands_of ON stands (api);

-- Which versions of an API its pages lead to, as a JSON list of lines and numbers; '' is all.
ALTER TABLE apis ADD COLUMN switcher TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE apis DROP COLUMN switcher;
DROP TABLE stands;
DROP TABLE shelves;
