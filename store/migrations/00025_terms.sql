-- +goose Up
-- What an API promises whose journal does not say it is what the house style says.
UPDATE apis SET promise = '' WHERE promise = 'backward' AND name NOT IN (
  SELECT subject FROM journal WHERE act = 'promise.set' AND json_extract(detail, '$.line') IS NULL
);

-- +goose Down
UPDATE apis SET promise = 'backward' WHERE promise = '';
