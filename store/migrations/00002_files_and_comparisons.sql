-- +goose Up
-- The files of a version beside its entry, which stands in versions.
CREATE TABLE files (
  api     TEXT NOT NULL,
  number  TEXT NOT NULL,
  path    TEXT NOT NULL,
  content BLOB NOT NULL,
  PRIMARY KEY (api, number, path),
  FOREIGN KEY (api, number) REFERENCES versions (api, number)
) STRICT;

-- Comparisons of two recorded versions, as they were last computed: they hold as long as contents and engine are the same.
CREATE TABLE comparisons (
  old     TEXT NOT NULL,
  new     TEXT NOT NULL,
  reading TEXT NOT NULL,
  basis   TEXT NOT NULL,
  result  BLOB NOT NULL,
  PRIMARY KEY (old, new, reading)
) STRICT;

-- +goose Down
SELECT 1;
