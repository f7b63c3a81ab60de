-- +goose Up
-- The pictures of landing pages and footers: of an API, or of the house where api is ''.
CREATE TABLE pictures (
  api     TEXT NOT NULL,
  name    TEXT NOT NULL, -- "quay.png"
  bytes   BLOB NOT NULL,
  made_by TEXT NOT NULL,
  made_at TEXT NOT NULL,
  PRIMARY KEY (api, name)
) STRICT;

-- +goose Down
DROP TABLE pictures;
