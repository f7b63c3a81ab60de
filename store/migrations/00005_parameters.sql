-- +goose Up
-- The parameter of its operation that a notice speaks of, with its place: "query limit"; "" for none.
ALTER TABLE notices ADD COLUMN parameter TEXT NOT NULL DEFAULT '';

-- +goose Down
SELECT 1;
