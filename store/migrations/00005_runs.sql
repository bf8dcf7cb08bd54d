-- +goose Up
-- A run is its planned steps and what happened, as a document; the rows beside it follow from it. Runs of the
-- versions before have no document: their rows were worked out from planned times.
ALTER TABLE runs ADD COLUMN doc jsonb;
ALTER TABLE runs ADD COLUMN paused_ms bigint NOT NULL DEFAULT 0;
ALTER TABLE runs ADD COLUMN remembered boolean NOT NULL DEFAULT false;
ALTER TABLE run_rows ADD COLUMN slug text NOT NULL DEFAULT '';
ALTER TABLE run_rows ADD COLUMN how text NOT NULL DEFAULT ''; -- where the repetitions come from

-- Talk and changes are learnt apart now: what was taken for both stands for each.
INSERT INTO teacher_paces (studio_id, teacher_id, slug, pace, runs, since)
    SELECT studio_id, teacher_id, '~changes', pace, runs, since FROM teacher_paces WHERE slug = '~talk';

-- +goose Down
DELETE FROM teacher_paces WHERE slug IN ('~changes', '~tempo');
ALTER TABLE run_rows DROP COLUMN how;
ALTER TABLE run_rows DROP COLUMN slug;
ALTER TABLE runs DROP COLUMN remembered;
ALTER TABLE runs DROP COLUMN paused_ms;
ALTER TABLE runs DROP COLUMN doc;
