-- +goose Up
-- What was recorded stays: a content by its digest and entry, a revision for each recording of it, and a version that points to its newest one.
CREATE TABLE contents (
  digest TEXT NOT NULL,
  file   TEXT NOT NULL,
  text   BLOB NOT NULL,
  PRIMARY KEY (digest, file)
) STRICT;

CREATE TABLE content_files (
  digest  TEXT NOT NULL,
  file    TEXT NOT NULL,
  path    TEXT NOT NULL,
  content BLOB NOT NULL,
  PRIMARY KEY (digest, file, path),
  FOREIGN KEY (digest, file) REFERENCES contents (digest, file)
) STRICT;

CREATE TABLE revisions (
  id          INTEGER PRIMARY KEY,
  api         TEXT NOT NULL REFERENCES apis (name),
  number      TEXT NOT NULL,
  text        TEXT NOT NULL,
  title       TEXT NOT NULL,
  dialect     TEXT NOT NULL,
  file        TEXT NOT NULL,
  digest      TEXT NOT NULL,
  recorded_at TEXT NOT NULL,
  recorded_by TEXT NOT NULL,
  message     TEXT NOT NULL DEFAULT '',
  origin      TEXT NOT NULL DEFAULT '{}',
  FOREIGN KEY (digest, file) REFERENCES contents (digest, file)
) STRICT;
CREATE INDEX revisions_of ON revisions (api, number);

INSERT INTO contents (digest, file, text) SELECT digest, file, content FROM versions WHERE true ON CONFLICT DO NOTHING;
INSERT INTO content_files (digest, file, path, content)
  SELECT v.digest, v.file, f.path, f.content FROM files f JOIN versions v ON v.api = f.api AND v.number = f.number WHERE true ON CONFLICT DO NOTHING;
INSERT INTO revisions (id, api, number, text, title, dialect, file, digest, recorded_at, recorded_by)
  SELECT rowid, api, number, text, title, dialect, file, digest, recorded_at, recorded_by FROM versions ORDER BY rowid;

-- Where a version stands is one column.
ALTER TABLE versions ADD COLUMN revision INTEGER REFERENCES revisions (id);
ALTER TABLE versions ADD COLUMN stands TEXT NOT NULL DEFAULT 'draft' CHECK (stands IN ('draft', 'published', 'unpublished', 'retired'));
UPDATE versions SET revision = rowid, stands = CASE WHEN retired_at <> '' THEN 'retired' WHEN unpublished_at <> '' THEN 'unpublished' ELSE state END;
ALTER TABLE versions DROP COLUMN state;
ALTER TABLE versions RENAME COLUMN stands TO state;
ALTER TABLE versions DROP COLUMN text;
ALTER TABLE versions DROP COLUMN title;
ALTER TABLE versions DROP COLUMN dialect;
ALTER TABLE versions DROP COLUMN file;
ALTER TABLE versions DROP COLUMN content;
ALTER TABLE versions DROP COLUMN digest;
ALTER TABLE versions DROP COLUMN recorded_at;
ALTER TABLE versions DROP COLUMN recorded_by;
DROP TABLE files;

-- The title of an API is that of its newest version.
ALTER TABLE apis DROP COLUMN title;

CREATE TRIGGER revisions_never_change BEFORE UPDATE ON revisions BEGIN SELECT RAISE(ABORT, 'a revision never changes'); END;
CREATE TRIGGER contents_never_change BEFORE UPDATE ON contents BEGIN SELECT RAISE(ABORT, 'a content never changes'); END;
CREATE TRIGGER content_files_never_change BEFORE UPDATE ON content_files BEGIN SELECT RAISE(ABORT, 'a content never changes'); END;

-- What is asked for by API.
CREATE INDEX notices_of ON notices (api);
CREATE INDEX waivers_of ON waivers (api);

-- How often what is known of an API has changed, and of that what readers see; what concerns all APIs stands under ''.
CREATE TABLE generations (
  api   TEXT PRIMARY KEY,
  n     INTEGER NOT NULL,
  shown INTEGER NOT NULL
) STRICT;

-- What is written to find out whether something can be written.
CREATE TABLE pulse (
  id    INTEGER PRIMARY KEY CHECK (id = 1),
  beats BLOB NOT NULL
) STRICT;

-- Sessions and kept answers hold no secret any more: sessions go by a hash of their token, and begin anew.
DROP TABLE sessions;
CREATE TABLE sessions (
  hash    TEXT PRIMARY KEY,
  data    BLOB NOT NULL,
  ends_at TEXT NOT NULL
) STRICT;
DELETE FROM answers;

-- +goose Down
SELECT 1;
