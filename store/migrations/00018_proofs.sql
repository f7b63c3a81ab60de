-- +goose Up
-- The hashes of the journal's tree, as golang.org/x/mod/sumdb/tlog numbers them; and what is made once for a ledger and told to nobody.
CREATE TABLE tree_hashes (
  id   INTEGER PRIMARY KEY,
  hash BLOB NOT NULL
) STRICT;
CREATE TABLE secrets (
  name  TEXT PRIMARY KEY,
  value TEXT NOT NULL
) STRICT;

-- +goose Down
DROP TABLE secrets;
DROP TABLE tree_hashes;
