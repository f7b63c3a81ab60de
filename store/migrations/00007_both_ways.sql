-- +goose Up
-- The promise of both directions goes by the name that says so.
UPDATE apis SET promise = 'both-ways' WHERE promise = 'full';

-- +goose Down
UPDATE apis SET promise = 'full' WHERE promise = 'both-ways';
