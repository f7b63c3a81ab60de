-- +goose Up
-- What the author of something that can be found says of it, for the sentence that an answer shows. What is kept is made anew.
ALTER TABLE entries ADD COLUMN said TEXT NOT NULL DEFAULT '';
INSERT INTO entry_index (entry_index) VALUES ('delete-all');
DELETE FROM entries;
DELETE FROM cards;

-- +goose Down
SELECT 1;
