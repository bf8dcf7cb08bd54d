-- +goose Up
-- What is known of a mover besides their name: the topics that were confirmed (null: nobody has looked, what their words say holds), where to write to them, whether they want to be
-- reminded. A usual level of 0 is "as planned".
ALTER TABLE movers DROP CONSTRAINT movers_level_check;
ALTER TABLE movers ADD CONSTRAINT movers_level_check CHECK (level BETWEEN 0 AND 20);
ALTER TABLE movers ADD COLUMN topics jsonb;
ALTER TABLE movers ADD COLUMN email text NOT NULL DEFAULT '' CHECK (length(email) <= 254);
ALTER TABLE movers ADD COLUMN remind boolean NOT NULL DEFAULT false;
ALTER TABLE movers ADD COLUMN erase_asked timestamptz; -- they want everything of them erased
ALTER TABLE mover_revisions ADD COLUMN topics jsonb;
ALTER TABLE mover_revisions ADD COLUMN email text NOT NULL DEFAULT '';
ALTER TABLE mover_revisions ADD COLUMN remind boolean NOT NULL DEFAULT false;

-- Everything below goes with the mover: nothing of a person is left when they are erased.
CREATE TABLE group_movers (
    studio_id text        NOT NULL,
    group_id  text        NOT NULL,
    mover_id  text        NOT NULL,
    joined_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, group_id, mover_id),
    FOREIGN KEY (studio_id, group_id) REFERENCES series_groups ON DELETE CASCADE,
    FOREIGN KEY (studio_id, mover_id) REFERENCES movers ON DELETE CASCADE
);
CREATE INDEX group_movers_mover ON group_movers (studio_id, mover_id);

-- Personal links, by the hashes of their tokens.
CREATE TABLE mover_links (
    studio_id  text        NOT NULL,
    mover_id   text        NOT NULL,
    link_id    text        NOT NULL,
    token_hash bytea       NOT NULL UNIQUE,
    made_by    text        NOT NULL,
    made_at    timestamptz NOT NULL DEFAULT now(),
    opened_at  timestamptz,
    PRIMARY KEY (studio_id, mover_id, link_id),
    FOREIGN KEY (studio_id, mover_id) REFERENCES movers ON DELETE CASCADE
);

-- What movers said of their days. Only added to: a later word stands beside the first. checkin_id comes from the phone, so that sending it twice keeps one.
CREATE TABLE checkins (
    studio_id  text        NOT NULL,
    checkin_id text        NOT NULL,
    mover_id   text        NOT NULL,
    group_id   text        NOT NULL,
    series_id  text        NOT NULL,
    day        integer     NOT NULL,
    doc        jsonb       NOT NULL,
    seq        bigint      GENERATED ALWAYS AS IDENTITY,
    stored_at  timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, checkin_id),
    FOREIGN KEY (studio_id, mover_id) REFERENCES movers ON DELETE CASCADE
);
CREATE INDEX checkins_group ON checkins (studio_id, group_id, mover_id, day, seq);
CREATE INDEX checkins_stored ON checkins (studio_id, stored_at);

-- What movers chose to do about days they missed.
CREATE TABLE mover_choices (
    studio_id text        NOT NULL,
    choice_id text        NOT NULL,
    mover_id  text        NOT NULL,
    group_id  text        NOT NULL,
    doc       jsonb       NOT NULL,
    seq       bigint      GENERATED ALWAYS AS IDENTITY,
    at        timestamptz NOT NULL DEFAULT now(),
    undone_at timestamptz,
    PRIMARY KEY (studio_id, choice_id),
    FOREIGN KEY (studio_id, mover_id) REFERENCES movers ON DELETE CASCADE
);
CREATE INDEX mover_choices_group ON mover_choices (studio_id, group_id, mover_id, seq);

-- What teachers decided about a mover's rungs, with the evidence they saw.
CREATE TABLE mover_steps (
    studio_id  text        NOT NULL,
    step_id    text        NOT NULL,
    mover_id   text        NOT NULL,
    group_id   text        NOT NULL,
    movement   text        NOT NULL,
    does       text        NOT NULL CHECK (does IN ('up', 'stay', 'back', 'stop')),
    rungs      integer     NOT NULL DEFAULT 0,
    until_date date        NOT NULL,
    doc        jsonb       NOT NULL,
    teacher_id text        NOT NULL,
    seq        bigint      GENERATED ALWAYS AS IDENTITY,
    at         timestamptz NOT NULL DEFAULT now(),
    undone_at  timestamptz,
    cleared_at timestamptz,
    PRIMARY KEY (studio_id, step_id),
    FOREIGN KEY (studio_id, mover_id) REFERENCES movers ON DELETE CASCADE
);
CREATE INDEX mover_steps_group ON mover_steps (studio_id, group_id, mover_id, seq);

-- Notes on a mover, with date and author.
CREATE TABLE mover_notes (
    studio_id  text        NOT NULL,
    note_id    text        NOT NULL,
    mover_id   text        NOT NULL,
    words      text        NOT NULL CHECK (length(words) BETWEEN 1 AND 2000),
    teacher_id text        NOT NULL,
    at         timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, note_id),
    FOREIGN KEY (studio_id, mover_id) REFERENCES movers ON DELETE CASCADE
);
CREATE INDEX mover_notes_mover ON mover_notes (studio_id, mover_id, at);

-- Letters to movers, waiting, sent or held back. once names what is written once only ("day 5 of group x"); its words hold {link} where the link goes, and the link's token is sealed
-- beside it with a key that is not in the database.
CREATE TABLE letters (
    studio_id  text        NOT NULL,
    letter_id  text        NOT NULL,
    mover_id   text        NOT NULL,
    once       text        NOT NULL,
    kind       text        NOT NULL,
    to_name    text        NOT NULL,
    to_address text        NOT NULL,
    subject    text        NOT NULL,
    words      text        NOT NULL,
    sealed     bytea,
    state      text        NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'sending', 'sent', 'failed', 'unsure')),
    tries      integer     NOT NULL DEFAULT 0,
    next_at    timestamptz NOT NULL DEFAULT now(),
    says       text        NOT NULL DEFAULT '',
    made_at    timestamptz NOT NULL DEFAULT now(),
    sent_at    timestamptz,
    PRIMARY KEY (studio_id, letter_id),
    UNIQUE (studio_id, mover_id, once),
    FOREIGN KEY (studio_id, mover_id) REFERENCES movers ON DELETE CASCADE
);
CREATE INDEX letters_waiting ON letters (next_at) WHERE state IN ('waiting', 'sending');
CREATE INDEX letters_made ON letters (studio_id, made_at);

-- Of an open series only counts of a day are known: nobody has a name. word_id comes from the device, so that sending it twice counts once.
CREATE TABLE open_words (
    studio_id text        NOT NULL,
    series_id text        NOT NULL,
    word_id   text        NOT NULL,
    day       integer     NOT NULL,
    doc       jsonb       NOT NULL,
    at        timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (studio_id, series_id, word_id),
    FOREIGN KEY (studio_id, series_id) REFERENCES series ON DELETE CASCADE
);

-- +goose Down
DROP TABLE open_words;
DROP TABLE letters;
DROP TABLE mover_notes;
DROP TABLE mover_steps;
DROP TABLE mover_choices;
DROP TABLE checkins;
DROP TABLE mover_links;
DROP TABLE group_movers;
ALTER TABLE mover_revisions DROP COLUMN remind;
ALTER TABLE mover_revisions DROP COLUMN email;
ALTER TABLE mover_revisions DROP COLUMN topics;
ALTER TABLE movers DROP COLUMN erase_asked;
ALTER TABLE movers DROP COLUMN remind;
ALTER TABLE movers DROP COLUMN email;
ALTER TABLE movers DROP COLUMN topics;
UPDATE movers SET level = 1 WHERE level = 0;
ALTER TABLE movers DROP CONSTRAINT movers_level_check;
ALTER TABLE movers ADD CONSTRAINT movers_level_check CHECK (level BETWEEN 1 AND 20);
