-- +goose Up
-- A team keeps APIs; its members have a role in it.
CREATE TABLE teams (
  name    TEXT PRIMARY KEY,
  made_at TEXT NOT NULL,
  made_by TEXT NOT NULL
) STRICT;

CREATE TABLE members (
  team   TEXT NOT NULL REFERENCES teams (name),
  person TEXT NOT NULL REFERENCES people (name),
  role   TEXT NOT NULL CHECK (role IN ('lead', 'publisher', 'editor', 'reviewer', 'reader')),
  PRIMARY KEY (team, person)
) STRICT;
CREATE INDEX members_of ON members (person);

-- The teams that were only words until now. Who could write for all of them is a publisher in all of them.
INSERT INTO teams (name, made_at, made_by) SELECT team, min(created_at), '' FROM apis WHERE team <> '' GROUP BY team;
ALTER TABLE people ADD COLUMN everywhere TEXT NOT NULL DEFAULT ''
  CHECK (everywhere IN ('', 'admin', 'auditor', 'lead', 'publisher', 'editor', 'reviewer', 'reader'));
UPDATE people SET everywhere = CASE role WHEN 'editor' THEN 'publisher' ELSE role END;
ALTER TABLE people DROP COLUMN role;
ALTER TABLE people RENAME COLUMN everywhere TO role;
-- Who left cannot sign in, and leaves the name to nobody else.
ALTER TABLE people ADD COLUMN left_at TEXT NOT NULL DEFAULT '';
-- The team to which its own has offered an API; '' for none.
ALTER TABLE apis ADD COLUMN offered TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE apis DROP COLUMN offered;
ALTER TABLE people DROP COLUMN left_at;
DROP TABLE members;
DROP TABLE teams;
