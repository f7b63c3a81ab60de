-- +goose Up
-- The response header and the listed value that a notice speaks of, "" for none; and the guide that it names: "1.2.0..2.0.0".
ALTER TABLE notices ADD COLUMN header TEXT NOT NULL DEFAULT '';
ALTER TABLE notices ADD COLUMN value TEXT NOT NULL DEFAULT '';
ALTER TABLE notices ADD COLUMN guide TEXT NOT NULL DEFAULT '';

-- What authors wrote into guides: to the change whose fingerprint is the anchor, or to the introduction (intro) and the end (end).
CREATE TABLE guide_texts (
  api     TEXT NOT NULL,
  pair    TEXT NOT NULL, -- of the guide in which it was written: "1.2.0..2.0.0", without what follows the numbers
  anchor  TEXT NOT NULL,
  title   TEXT NOT NULL, -- of the step when it was written
  text    TEXT NOT NULL, -- CommonMark
  made_by TEXT NOT NULL,
  made_at TEXT NOT NULL,
  PRIMARY KEY (api, pair, anchor)
) STRICT;

-- +goose Down
DROP TABLE guide_texts;
