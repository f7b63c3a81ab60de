-- +goose Up
-- As whom somebody looks, who may say who reads; '' as themselves.
ALTER TABLE sessions ADD COLUMN seeing TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE sessions DROP COLUMN seeing;
