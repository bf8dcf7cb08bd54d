-- +goose Up
-- Roles; the number of a teacher's sign-ins that counts; teachers that were removed keep their row, so that what they
-- made keeps its name. The first teacher of a studio owns it.
ALTER TABLE teachers ADD COLUMN role text NOT NULL DEFAULT 'teacher' CHECK (role IN ('owner', 'teacher'));
ALTER TABLE teachers ADD COLUMN epoch integer NOT NULL DEFAULT 1;
ALTER TABLE teachers ADD COLUMN removed_at timestamptz;
UPDATE teachers SET role = 'owner' FROM (SELECT DISTINCT ON (studio_id) studio_id, teacher_id FROM teachers ORDER BY studio_id, created_at, teacher_id) f
    WHERE teachers.studio_id = f.studio_id AND teachers.teacher_id = f.teacher_id;
DROP INDEX teachers_email;
CREATE UNIQUE INDEX teachers_email ON teachers (lower(email)) WHERE removed_at IS NULL;

-- Tokens are stored as their hashes from here on: everybody signs in once more.
DELETE FROM sessions;

-- One-time links by which a teacher sets a password; one a teacher, a new one in the place of the one before.
CREATE TABLE door_links (
    studio_id  text        NOT NULL,
    teacher_id text        NOT NULL,
    token_hash bytea       NOT NULL UNIQUE,
    made_by    text        NOT NULL,
    made_at    timestamptz NOT NULL DEFAULT now(),
    expires_at timestamptz NOT NULL,
    PRIMARY KEY (studio_id, teacher_id),
    FOREIGN KEY (studio_id, teacher_id) REFERENCES teachers
);

-- Browsers from which a teacher has signed in: a stranger's tries elsewhere do not slow them down.
CREATE TABLE known_devices (
    studio_id   text        NOT NULL,
    teacher_id  text        NOT NULL,
    device_hash bytea       NOT NULL,
    seen_at     timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, teacher_id, device_hash),
    FOREIGN KEY (studio_id, teacher_id) REFERENCES teachers
);

-- Tries at the door by hashed key, shared by all instances: empty_at is when all that was taken has come back. It may be
-- lost with a crash of the server.
CREATE UNLOGGED TABLE tries (
    key      bytea       PRIMARY KEY,
    empty_at timestamptz NOT NULL
);
CREATE INDEX tries_empty ON tries (empty_at);

-- A studio's settings and the people it keeps have revisions, as documents have; those of a person go with the person.
ALTER TABLE studios ADD COLUMN rev integer NOT NULL DEFAULT 1;
CREATE TABLE house_revisions (
    studio_id  text        NOT NULL REFERENCES studios,
    rev        integer     NOT NULL,
    name       text        NOT NULL,
    zone       text        NOT NULL,
    house      jsonb       NOT NULL,
    says       text        NOT NULL,
    teacher_id text        NOT NULL,
    at         timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, rev)
);
INSERT INTO house_revisions (studio_id, rev, name, zone, house, says, teacher_id) SELECT studio_id, 1, name, zone, house, 'As it was', '' FROM studios;
ALTER TABLE movers ADD COLUMN rev integer NOT NULL DEFAULT 1;
CREATE TABLE mover_revisions (
    studio_id  text        NOT NULL,
    mover_id   text        NOT NULL,
    rev        integer     NOT NULL,
    name       text        NOT NULL,
    watch      text        NOT NULL,
    note       text        NOT NULL,
    level      integer     NOT NULL,
    teacher_id text        NOT NULL,
    at         timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, mover_id, rev),
    FOREIGN KEY (studio_id, mover_id) REFERENCES movers ON DELETE CASCADE
);
INSERT INTO mover_revisions (studio_id, mover_id, rev, name, watch, note, level, teacher_id) SELECT studio_id, mover_id, 1, name, watch, note, level, '' FROM movers;

-- How often a run has grown: its document is its history, each state the beginning of the next.
ALTER TABLE runs ADD COLUMN rev integer NOT NULL DEFAULT 1;

-- +goose Down
ALTER TABLE runs DROP COLUMN rev;
DROP TABLE mover_revisions;
ALTER TABLE movers DROP COLUMN rev;
DROP TABLE house_revisions;
ALTER TABLE studios DROP COLUMN rev;
DROP TABLE tries;
DROP TABLE known_devices;
DROP TABLE door_links;
DELETE FROM sessions;
UPDATE teachers SET email = teacher_id || '@removed.invalid', password_hash = '' WHERE removed_at IS NOT NULL;
ALTER TABLE teachers DROP COLUMN removed_at; -- and the index that looks at it
CREATE UNIQUE INDEX teachers_email ON teachers (lower(email));
ALTER TABLE teachers DROP COLUMN epoch;
ALTER TABLE teachers DROP COLUMN role;
