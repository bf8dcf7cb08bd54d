-- +goose Up
-- A teacher's own pace, learnt from the classes they led: each sees lengths at theirs. Until now one
-- pace counted for the whole studio; each of its teachers starts with that.
CREATE TABLE teacher_paces (
    studio_id  text             NOT NULL,
    teacher_id text             NOT NULL,
    slug       text             NOT NULL,
    pace       double precision NOT NULL CHECK (pace >= 0 AND pace < 100),
    runs       integer          NOT NULL,
    since      timestamptz      NOT NULL,
    PRIMARY KEY (studio_id, teacher_id, slug),
    FOREIGN KEY (studio_id, teacher_id) REFERENCES teachers
);
INSERT INTO teacher_paces (studio_id, teacher_id, slug, pace, runs, since)
    SELECT c.studio_id, t.teacher_id, c.slug, coalesce((c.change ->> 'pace')::double precision, 0), coalesce((c.change ->> 'runs')::integer, 0), (c.change ->> 'since')::timestamptz
    FROM movement_changes c JOIN teachers t USING (studio_id) WHERE c.change ? 'since';
UPDATE movement_changes SET change = change - 'pace' - 'runs' - 'since';
DELETE FROM movement_changes WHERE change = '{}';

-- +goose Down
DROP TABLE teacher_paces;
