-- +goose Up
-- The house style, of the house, of teams and of APIs: every version of it.
CREATE TABLE styles (
  scope   TEXT NOT NULL, -- '' of the house, 'team NAME', 'api NAME'
  version INTEGER NOT NULL,
  text    TEXT NOT NULL, -- a style file; '' where it was taken away
  reason  TEXT NOT NULL,
  made_at TEXT NOT NULL,
  made_by TEXT NOT NULL,
  PRIMARY KEY (scope, version)
) STRICT;

-- +goose Down
DROP TABLE styles;
