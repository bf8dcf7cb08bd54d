-- +goose Up
-- A studio's own movements. Versions are only added: a session names the version it was planned with
-- ("own-lean~2"), so that a later change never breaks it.
CREATE TABLE movements (
    studio_id   text        NOT NULL REFERENCES studios,
    movement_id text        NOT NULL,
    name        text        NOT NULL,
    version     integer     NOT NULL,
    hidden      boolean     NOT NULL DEFAULT false,
    updated_at  timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, movement_id)
);
CREATE TABLE movement_versions (
    studio_id   text        NOT NULL,
    movement_id text        NOT NULL,
    version     integer     NOT NULL,
    doc         jsonb       NOT NULL,
    teacher_id  text        NOT NULL,
    at          timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, movement_id, version)
);

-- What a studio changes of the shipped library: hide, rename, other words.
CREATE TABLE movement_changes (
    studio_id  text        NOT NULL REFERENCES studios,
    slug       text        NOT NULL,
    change     jsonb       NOT NULL,
    updated_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, slug)
);

-- Counts up with every change of a studio's library, so that every instance knows when to read it again.
ALTER TABLE studios ADD COLUMN library_rev integer NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE studios DROP COLUMN library_rev;
DROP TABLE movement_changes;
DROP TABLE movement_versions;
DROP TABLE movements;
