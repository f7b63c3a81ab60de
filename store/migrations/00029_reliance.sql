-- +goose Up
-- What consumers say or show that they rely on.
CREATE TABLE reliances (
  consumer TEXT NOT NULL REFERENCES consumers (name),
  api      TEXT NOT NULL REFERENCES apis (name),
  version  TEXT NOT NULL, -- for which it was built: a version or a line; '' where nobody says
  needs    TEXT NOT NULL, -- as its file says it, of this API alone
  said_at  TEXT NOT NULL,
  said_by  TEXT NOT NULL,
  PRIMARY KEY (consumer, api)
) STRICT;
CREATE INDEX reliances_by_api ON reliances (api);

CREATE TABLE recordings (
  consumer  TEXT NOT NULL REFERENCES consumers (name),
  api       TEXT NOT NULL REFERENCES apis (name),
  version   TEXT NOT NULL, -- that answered
  exchanges INTEGER NOT NULL,
  archive   BLOB NOT NULL, -- without credentials
  digest    TEXT NOT NULL, -- SHA-256 of it
  guards    INTEGER NOT NULL, -- whether the gate replays it
  added_at  TEXT NOT NULL,
  added_by  TEXT NOT NULL,
  PRIMARY KEY (consumer, api)
) STRICT;
CREATE INDEX recordings_by_api ON recordings (api);

-- +goose Down
DROP TABLE recordings;
DROP TABLE reliances;
