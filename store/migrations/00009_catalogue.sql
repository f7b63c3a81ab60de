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

-- The index of their words, and all words in it (FTS5).
CREATE VIRTUAL TABLE entry_index USING fts5 (titles, places, words, content = 'entries', content_rowid = 'id', tokenize = "unicode61 remove_diacritics 0", prefix = '2 3');
CREATE VIRTUAL TABLE entry_words USING fts5vocab (entry_index, 'row');
-- +goose StatementBegin
CREATE TRIGGER entries_indexed AFTER INSERT ON entries BEGIN
  INSERT INTO entry_index (rowid, titles, places, words) VALUES (new.id, new.titles, new.places, new.words);
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER entries_gone AFTER DELETE ON entries BEGIN
  INSERT INTO entry_index (entry_index, rowid, titles, places, words) VALUES ('delete', old.id, old.titles, old.places, old.words);
END;
-- +goose StatementEnd

-- +goose Down
SELECT 1;
