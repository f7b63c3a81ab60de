-- +goose Up
-- To whom something is open beside its own team, as JSON lists of groups: an API; a part of one; or, where api is '', every API of which
-- nothing else is said. '' says nothing.
CREATE TABLE audiences (
  api       TEXT NOT NULL,
  part      TEXT NOT NULL DEFAULT '', -- 'operation bookBerth' or 'group Dues'; '' for all of it
  published TEXT NOT NULL DEFAULT '',
  drafts    TEXT NOT NULL DEFAULT '',
  PRIMARY KEY (api, part)
) STRICT;
-- Until now everybody read what was published.
INSERT INTO audiences (api, published) SELECT '', '["everyone"]' WHERE EXISTS (SELECT 1 FROM people);

-- Whoever has the key of one and its password reads an API that is open to those who hold a link.
CREATE TABLE links (
  hash     TEXT PRIMARY KEY, -- of its key
  api      TEXT NOT NULL REFERENCES apis (name),
  label    TEXT NOT NULL,
  password TEXT NOT NULL, -- argon2id
  made_at  TEXT NOT NULL,
  made_by  TEXT NOT NULL,
  ends_at  TEXT NOT NULL
) STRICT;
CREATE INDEX links_of ON links (api);

-- Whose browser remembers that the password was given.
CREATE TABLE openings (
  hash    TEXT PRIMARY KEY,
  link    TEXT NOT NULL REFERENCES links (hash),
  ends_at TEXT NOT NULL
) STRICT;
CREATE INDEX openings_of ON openings (link);

-- A card for each way in which an API is read. They are made anew where they are missing.
INSERT INTO entry_index (entry_index) VALUES ('delete-all');
DELETE FROM entries;
DROP TABLE cards;
CREATE TABLE cards (
  api     TEXT NOT NULL,
  lacks   TEXT NOT NULL, -- what is not for those who read it so; '' for nothing
  open    TEXT NOT NULL, -- who they are
  basis   TEXT NOT NULL, -- what it follows from
  number  TEXT NOT NULL,
  title   TEXT NOT NULL,
  summary TEXT NOT NULL,
  pages   TEXT NOT NULL,
  PRIMARY KEY (api, lacks)
) STRICT;
ALTER TABLE entries ADD COLUMN lacks TEXT NOT NULL DEFAULT '';

-- +goose Down
DROP TABLE openings;
DROP TABLE links;
DROP TABLE audiences;
