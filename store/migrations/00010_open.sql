-- +goose Up
-- A series can be opened to anybody by a secret address, of which only the hash is kept.
ALTER TABLE series ADD COLUMN open_hash bytea UNIQUE;

-- +goose Down
ALTER TABLE series DROP COLUMN open_hash;
