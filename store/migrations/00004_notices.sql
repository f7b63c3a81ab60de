-- +goose Up
-- When a notice was made and last changed; "" for what was made before this was kept.
ALTER TABLE notices ADD COLUMN made_at TEXT NOT NULL DEFAULT '';
ALTER TABLE notices ADD COLUMN changed_at TEXT NOT NULL DEFAULT '';

-- +goose Down
SELECT 1;
