-- +goose Up
-- For which APIs a token acts, as a JSON list; an empty one is all of its teams.
ALTER TABLE tokens ADD COLUMN apis TEXT NOT NULL DEFAULT '[]';

-- +goose Down
ALTER TABLE tokens DROP COLUMN apis;
