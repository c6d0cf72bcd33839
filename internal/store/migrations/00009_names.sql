-- +goose Up
-- The field's words for what is stored: kinds of decisions, the contacts of a clip, and
-- codes where sentences stood. internal/archive/older.go does the same to old archives.
ALTER TABLE clips RENAME stands TO contacts;
UPDATE work_items SET kind = 'annotation' WHERE kind = 'show';
UPDATE work_items SET kind = 'answer' WHERE kind = 'mark';
UPDATE work_items SET kind = 'followup' WHERE kind = 'course';
UPDATE work_items SET kind = 'outcome', value = CASE value #>> '{}' WHEN 'not taken' THEN '"not_taken"'::jsonb ELSE value END WHERE kind = 'eye';
UPDATE work_items SET key = 'points' WHERE kind = 'ground' AND key = 'marks';
-- Revisions are undone and done again by name.
UPDATE revisions SET edits = regexp_replace(regexp_replace(regexp_replace(regexp_replace(regexp_replace(regexp_replace(regexp_replace(edits::text,
    '"kind":"show","', '"kind":"annotation","', 'g'), '"kind":"mark","', '"kind":"answer","', 'g'), '"kind":"course","', '"kind":"followup","', 'g'),
    '"kind":"eye","', '"kind":"outcome","', 'g'), '"not taken"', '"not_taken"', 'g'), '"over":true', '"override":true', 'g'), '"key":"marks"', '"key":"points"', 'g')::json
    WHERE edits::text ~ '"kind":"(show|mark|course|eye|ground)","|"over":true';
ALTER TABLE deletions DROP CONSTRAINT deletions_what_check;
UPDATE deletions SET what = 'old_clips' WHERE what = 'old clips';
ALTER TABLE deletions ADD CONSTRAINT deletions_what_check CHECK (what IN ('attempt', 'athlete', 'clip', 'old_clips'));

-- +goose Down
ALTER TABLE deletions DROP CONSTRAINT deletions_what_check;
UPDATE deletions SET what = 'old clips' WHERE what = 'old_clips';
ALTER TABLE deletions ADD CONSTRAINT deletions_what_check CHECK (what IN ('attempt', 'athlete', 'clip', 'old clips'));
UPDATE revisions SET edits = regexp_replace(regexp_replace(regexp_replace(regexp_replace(regexp_replace(regexp_replace(regexp_replace(edits::text,
    '"kind":"annotation","', '"kind":"show","', 'g'), '"kind":"answer","', '"kind":"mark","', 'g'), '"kind":"followup","', '"kind":"course","', 'g'),
    '"kind":"outcome","', '"kind":"eye","', 'g'), '"not_taken"', '"not taken"', 'g'), '"override":true', '"over":true', 'g'), '"key":"points"', '"key":"marks"', 'g')::json
    WHERE edits::text ~ '"kind":"(annotation|answer|followup|outcome|ground)","|"override":true';
UPDATE work_items SET key = 'marks' WHERE kind = 'ground' AND key = 'points';
UPDATE work_items SET kind = 'eye', value = CASE value #>> '{}' WHEN 'not_taken' THEN '"not taken"'::jsonb ELSE value END WHERE kind = 'outcome';
UPDATE work_items SET kind = 'course' WHERE kind = 'followup';
UPDATE work_items SET kind = 'mark' WHERE kind = 'answer';
UPDATE work_items SET kind = 'show' WHERE kind = 'annotation';
ALTER TABLE clips RENAME contacts TO stands;
