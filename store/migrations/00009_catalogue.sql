-- +goose Up
-- What the shelf, the site map and the search over all APIs say of the newest published version of each: made from what readers see, and made anew
-- when its basis has passed.
CREATE TABLE cards (
  api     TEXT PRIMARY KEY REFERENCES apis (name),
  basis   TEXT NOT NULL,
  number  TEXT NOT NULL,
  title   TEXT NOT NULL,
  summary TEXT NOT NULL,
  pages   TEXT NOT NULL -- a JSON list of addresses below the version's
) STRICT;

-- What can be found. The words are taken apart and in lower case: those of the title, of what it belongs to, and of its text.
CREATE TABLE entries (
  id     INTEGER PRIMARY KEY,
  api    TEXT NOT NULL REFERENCES apis (name),
  kind   TEXT NOT NULL,
  title  TEXT NOT NULL,
  place  TEXT NOT NULL,
  path   TEXT NOT NULL,
  titles TEXT NOT NULL,
  places TEXT NOT NULL,
  words  TEXT NOT NULL
) STRICT;
CREATE INDEX entries_of ON entries (api);

-- The index of their words, and all words in it (FTS5). What is added and taken away is told to it in one statement for all entries of an API.
CREATE VIRTUAL TABLE entry_index USING fts5 (titles, places, words, content = 'entries', content_rowid = 'id', detail = 'column', tokenize = "unicode61 remove_diacritics 0");
CREATE VIRTUAL TABLE entry_words USING fts5vocab (entry_index, 'row');

-- +goose Down
SELECT 1;
