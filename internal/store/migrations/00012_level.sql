-- +goose Up
-- How long somebody has done an event, what the season is for, and what a mark hangs on.
ALTER TABLE athletes ADD COLUMN begun jsonb NOT NULL DEFAULT '{}';
ALTER TABLE athletes ADD COLUMN aim text NOT NULL DEFAULT '';
ALTER TABLE attempts ADD COLUMN turns smallint;
ALTER TABLE attempts ADD COLUMN run_up smallint;
ALTER TABLE attempts ADD COLUMN goal text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE attempts DROP COLUMN goal;
ALTER TABLE attempts DROP COLUMN run_up;
ALTER TABLE attempts DROP COLUMN turns;
ALTER TABLE athletes DROP COLUMN aim;
ALTER TABLE athletes DROP COLUMN begun;
