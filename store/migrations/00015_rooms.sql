-- +goose Up
-- A class that is being led now, as a screen in the room follows it. The code opens it to anybody in the room, for as long as the class lasts.
CREATE TABLE rooms (
    code       text PRIMARY KEY,
    studio_id  text NOT NULL REFERENCES studios ON DELETE CASCADE,
    teacher_id text NOT NULL,
    session_id text NOT NULL,
    leader     text NOT NULL,              -- the page that leads: it alone may tell
    class      jsonb NOT NULL,             -- what the screen needs of the class
    state      jsonb NOT NULL DEFAULT '{}',
    seq        bigint NOT NULL DEFAULT 0,  -- counts what was told
    told_at    timestamptz NOT NULL DEFAULT now(),
    ended_at   timestamptz
);
CREATE INDEX rooms_of ON rooms (studio_id, session_id) WHERE ended_at IS NULL;

-- What somebody was corrected in, while a class was led: shown the next time they are on the list. It goes with the person, and with the run.
CREATE TABLE corrections (
    studio_id text        NOT NULL,
    run_id    text        NOT NULL,
    mover_id  text        NOT NULL,
    slug      text        NOT NULL,
    fault     text        NOT NULL,
    at        timestamptz NOT NULL,
    FOREIGN KEY (studio_id, run_id) REFERENCES runs ON DELETE CASCADE,
    FOREIGN KEY (studio_id, mover_id) REFERENCES movers ON DELETE CASCADE
);
CREATE INDEX corrections_of ON corrections (studio_id, mover_id, at DESC);
CREATE INDEX corrections_run ON corrections (studio_id, run_id);

-- +goose Down
DROP TABLE corrections;
DROP TABLE rooms;
