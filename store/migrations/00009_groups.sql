-- +goose Up
-- People who do a series from a date on. What is said of dates is a document; a group's calendar can be subscribed to by a secret address, of which only
-- the hash is kept.
CREATE TABLE series_groups (
    studio_id  text        NOT NULL,
    group_id   text        NOT NULL,
    series_id  text        NOT NULL,
    name       text        NOT NULL,
    rev        integer     NOT NULL DEFAULT 1,
    doc        jsonb       NOT NULL,
    start_date date        NOT NULL,
    token_hash bytea       UNIQUE,
    updated_at timestamptz NOT NULL DEFAULT now(),
    updated_by text        NOT NULL,
    PRIMARY KEY (studio_id, group_id),
    FOREIGN KEY (studio_id, series_id) REFERENCES series ON DELETE CASCADE
);
CREATE INDEX series_groups_series ON series_groups (studio_id, series_id);

-- +goose Down
DROP TABLE series_groups;
