-- +goose Up
-- Pieces of a class that a studio keeps: a session document with the rows.
CREATE TABLE templates (
    studio_id   text        NOT NULL REFERENCES studios,
    template_id text        NOT NULL,
    title       text        NOT NULL CHECK (length(title) BETWEEN 1 AND 200),
    doc         jsonb       NOT NULL,
    teacher_id  text        NOT NULL,
    updated_at  timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, template_id)
);

-- +goose Down
DROP TABLE templates;
