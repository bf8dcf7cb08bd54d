-- +goose Up
-- Series that are kept without dates, to be started again: a series document.
CREATE TABLE patterns (
    studio_id  text        NOT NULL REFERENCES studios,
    pattern_id text        NOT NULL,
    title      text        NOT NULL CHECK (length(title) BETWEEN 1 AND 200),
    doc        jsonb       NOT NULL,
    teacher_id text        NOT NULL,
    updated_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, pattern_id)
);

-- +goose Down
DROP TABLE patterns;
