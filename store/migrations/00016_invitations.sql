-- +goose Up
-- By an invitation somebody chooses a password: the first one, or another.
CREATE TABLE invitations (
  hash    TEXT PRIMARY KEY,
  person  TEXT NOT NULL REFERENCES people (name),
  ends_at TEXT NOT NULL
) STRICT;
ALTER TABLE sessions ADD COLUMN person TEXT NOT NULL DEFAULT '';
ALTER TABLE sessions ADD COLUMN made_at TEXT NOT NULL DEFAULT '';
CREATE INDEX sessions_of ON sessions (person);

-- +goose Down
DROP INDEX sessions_of;
ALTER TABLE sessions DROP COLUMN made_at;
ALTER TABLE sessions DROP COLUMN person;
DROP TABLE invitations;
