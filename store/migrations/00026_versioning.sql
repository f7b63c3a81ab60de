-- +goose Up
-- How an API is called: how callers choose its version, and what its server does with input that is not declared.
ALTER TABLE apis ADD COLUMN versioning TEXT NOT NULL DEFAULT '';
ALTER TABLE apis ADD COLUMN undeclared TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE apis DROP COLUMN versioning;
ALTER TABLE apis DROP COLUMN undeclared;
