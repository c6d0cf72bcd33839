-- +goose Up
-- Who shows a team's queue hears of changes instead of asking for them.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION stamp_teams(teams uuid[]) RETURNS void LANGUAGE sql AS $$
    INSERT INTO team_stamps (team_id, n) SELECT t, nextval('team_stamps_n') FROM unnest(teams) AS t ON CONFLICT (team_id) DO UPDATE SET n = excluded.n;
    SELECT pg_notify('neokinema_teams', t::text) FROM unnest(teams) AS t;
$$;
-- +goose StatementEnd

-- Many lines of the queue ask what was told.
CREATE INDEX work_items_advice ON work_items (attempt_id) WHERE kind = 'advice' AND key = 'main';

-- +goose Down
DROP INDEX work_items_advice;
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION stamp_teams(teams uuid[]) RETURNS void LANGUAGE sql AS $$
    INSERT INTO team_stamps (team_id, n) SELECT t, nextval('team_stamps_n') FROM unnest(teams) AS t ON CONFLICT (team_id) DO UPDATE SET n = excluded.n;
$$;
-- +goose StatementEnd
