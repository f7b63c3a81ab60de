-- +goose Up
-- The operation that a notice speaks of, as its author wrote it; '' for notices that are older.
ALTER TABLE notices ADD COLUMN written TEXT NOT NULL DEFAULT '';

-- +goose Down
SELECT 1;
