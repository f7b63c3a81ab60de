-- +goose Up
-- When a notice was made and last changed; "" for what was made before this was kept.
ALTER TABLE notices ADD COLUMN made_at TEXT NOT NULL DEFAULT '';
ALTER TABLE notices ADD COLUMN changed_at TEXT NOT NULL DEFAULT '';

-- How many days a notice must come before its sunset; -1 is as the ledger has it.
ALTER TABLE apis ADD COLUMN notice_days INTEGER NOT NULL DEFAULT -1;

-- +goose Down
SELECT 1;
