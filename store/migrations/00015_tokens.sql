-- +goose Up
-- What a token may do, for which teams, until when, and when it was used last. Those made before may what they could, for ever.
ALTER TABLE tokens ADD COLUMN scopes TEXT NOT NULL DEFAULT 'read record publish settle';
ALTER TABLE tokens ADD COLUMN teams TEXT NOT NULL DEFAULT '[]'; -- a JSON list; an empty one is all teams of its maker
ALTER TABLE tokens ADD COLUMN ends_at TEXT NOT NULL DEFAULT ''; -- '' for never
ALTER TABLE tokens ADD COLUMN used_at TEXT NOT NULL DEFAULT '';
CREATE INDEX tokens_of ON tokens (person);

-- +goose Down
DROP INDEX tokens_of;
ALTER TABLE tokens DROP COLUMN used_at;
ALTER TABLE tokens DROP COLUMN ends_at;
ALTER TABLE tokens DROP COLUMN teams;
ALTER TABLE tokens DROP COLUMN scopes;
