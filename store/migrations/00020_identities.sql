-- +goose Up
-- Who somebody is by the word of a provider of identities.
CREATE TABLE identities (
  issuer  TEXT NOT NULL,
  subject TEXT NOT NULL,
  person  TEXT NOT NULL UNIQUE REFERENCES people (name),
  seen_at TEXT NOT NULL,
  PRIMARY KEY (issuer, subject)
) STRICT;

-- +goose Down
DROP TABLE identities;
