-- +goose Up
-- By its key, a person's feed reader and calendar read what the person reads.
CREATE TABLE feeds (
  person  TEXT PRIMARY KEY REFERENCES people (name),
  hash    TEXT NOT NULL UNIQUE,
  made_at TEXT NOT NULL
) STRICT;

-- +goose Down
DROP TABLE feeds;
