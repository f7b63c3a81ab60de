-- +goose Up
-- What a line promises where it promises something else than its API.
CREATE TABLE line_promises (
  api     TEXT NOT NULL REFERENCES apis (name),
  line    TEXT NOT NULL,
  promise TEXT NOT NULL CHECK (promise IN ('backward', 'both-ways', 'none')),
  PRIMARY KEY (api, line)
) STRICT;

-- +goose Down
DROP TABLE line_promises;
