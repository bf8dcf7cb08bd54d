-- +goose Up
-- The date on which somebody came into a group: days before it were not missed. Null: from the beginning.
ALTER TABLE group_movers ADD COLUMN joined_on date;

-- +goose Down
ALTER TABLE group_movers DROP COLUMN joined_on;
