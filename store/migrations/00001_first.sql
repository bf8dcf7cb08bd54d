-- +goose Up
-- Every table has studio_id first in its primary key, so that a studio's data sits together.
CREATE TABLE studios (
    studio_id  text        PRIMARY KEY,
    name       text        NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
    zone       text        NOT NULL DEFAULT 'UTC',
    house      jsonb       NOT NULL DEFAULT '{}',
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE teachers (
    studio_id     text        NOT NULL REFERENCES studios,
    teacher_id    text        NOT NULL,
    email         text        NOT NULL CHECK (length(email) BETWEEN 3 AND 254),
    name          text        NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
    password_hash text        NOT NULL,
    created_at    timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, teacher_id)
);
CREATE UNIQUE INDEX teachers_email ON teachers (lower(email));

-- Server-side web sessions, in the form the session store expects.
CREATE TABLE sessions (
    token  text        PRIMARY KEY,
    data   bytea       NOT NULL,
    expiry timestamptz NOT NULL
);
CREATE INDEX sessions_expiry ON sessions (expiry);

-- Sessions to teach, as their documents, with an append-only history. state is the revision whose
-- document is in force: undo and redo append a revision that points at an older state.
CREATE TABLE plans (
    studio_id   text        NOT NULL REFERENCES studios,
    plan_id     text        NOT NULL,
    title       text        NOT NULL,
    rev         integer     NOT NULL,
    state       integer     NOT NULL,
    doc         jsonb       NOT NULL,
    updated_at  timestamptz NOT NULL DEFAULT now(),
    updated_by  text        NOT NULL,
    archived_at timestamptz,
    PRIMARY KEY (studio_id, plan_id)
);
CREATE TABLE plan_revisions (
    studio_id  text        NOT NULL,
    plan_id    text        NOT NULL,
    rev        integer     NOT NULL,
    state      integer     NOT NULL,
    before     integer     NOT NULL, -- the state this one was made from; 0 for the first
    doc        jsonb       NOT NULL,
    says       text        NOT NULL,
    teacher_id text        NOT NULL,
    at         timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, plan_id, rev)
);
CREATE INDEX plan_revisions_before ON plan_revisions (studio_id, plan_id, before);

-- Derived: which movement stands where, to answer when it was last used.
CREATE TABLE plan_rows (
    studio_id text    NOT NULL,
    plan_id   text    NOT NULL,
    rev       integer NOT NULL,
    ord       integer NOT NULL,
    movement  text    NOT NULL,
    level     integer NOT NULL,
    dose      text    NOT NULL,
    PRIMARY KEY (studio_id, plan_id, rev, ord)
);
CREATE INDEX plan_rows_movement ON plan_rows (studio_id, movement);

CREATE TABLE series (
    studio_id   text        NOT NULL REFERENCES studios,
    series_id   text        NOT NULL,
    title       text        NOT NULL,
    rev         integer     NOT NULL,
    state       integer     NOT NULL,
    doc         jsonb       NOT NULL,
    start_date  date        NOT NULL,
    days        integer     NOT NULL,
    updated_at  timestamptz NOT NULL DEFAULT now(),
    updated_by  text        NOT NULL,
    archived_at timestamptz,
    PRIMARY KEY (studio_id, series_id)
);
CREATE TABLE series_revisions (
    studio_id  text        NOT NULL,
    series_id  text        NOT NULL,
    rev        integer     NOT NULL,
    state      integer     NOT NULL,
    before     integer     NOT NULL,
    doc        jsonb       NOT NULL,
    says       text        NOT NULL,
    teacher_id text        NOT NULL,
    at         timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, series_id, rev)
);

-- Standalone classes on a day, besides those of a series.
CREATE TABLE slots (
    studio_id text NOT NULL REFERENCES studios,
    slot_id   text NOT NULL,
    plan_id   text NOT NULL,
    day       date NOT NULL,
    time      text NOT NULL,
    PRIMARY KEY (studio_id, slot_id),
    FOREIGN KEY (studio_id, plan_id) REFERENCES plans
);
CREATE INDEX slots_day ON slots (studio_id, day);

CREATE TABLE movers (
    studio_id text    NOT NULL REFERENCES studios,
    mover_id  text    NOT NULL,
    name      text    NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
    watch     text    NOT NULL DEFAULT '',
    note      text    NOT NULL DEFAULT '',
    level     integer NOT NULL DEFAULT 1 CHECK (level BETWEEN 1 AND 20),
    PRIMARY KEY (studio_id, mover_id)
);

-- A session as it was led. run_id comes from the player, so that sending it twice keeps one.
CREATE TABLE runs (
    studio_id   text        NOT NULL REFERENCES studios,
    run_id      text        NOT NULL,
    plan_id     text        NOT NULL,
    plan_rev    integer     NOT NULL,
    title       text        NOT NULL,
    teacher_id  text        NOT NULL,
    started_at  timestamptz NOT NULL,
    promised_ms bigint      NOT NULL,
    planned_ms  bigint      NOT NULL,
    taken_ms    bigint      NOT NULL,
    finished    boolean     NOT NULL,
    note        text        NOT NULL DEFAULT '',
    received_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, run_id)
);
CREATE INDEX runs_started ON runs (studio_id, started_at DESC);
CREATE TABLE run_rows (
    studio_id    text    NOT NULL,
    run_id       text    NOT NULL,
    ord          integer NOT NULL,
    place        text    NOT NULL,
    name         text    NOT NULL,
    side         text    NOT NULL,
    kind         text    NOT NULL,
    planned_ms   bigint  NOT NULL,
    taken_ms     bigint  NOT NULL,
    planned_reps integer NOT NULL,
    reps         integer NOT NULL,
    note         text    NOT NULL DEFAULT '',
    PRIMARY KEY (studio_id, run_id, ord),
    FOREIGN KEY (studio_id, run_id) REFERENCES runs ON DELETE CASCADE
);

-- +goose Down
DROP TABLE run_rows, runs, movers, slots, series_revisions, series, plan_rows, plan_revisions, plans, sessions, teachers, studios;
