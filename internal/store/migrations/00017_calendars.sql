-- +goose Up
-- The address under which an athlete's calendar keeps itself up to date. Of its secret the hash alone is
-- kept; a new one puts the old one out of use.
CREATE TABLE calendars (
    athlete_id  uuid PRIMARY KEY,
    team_id     uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    secret_hash bytea NOT NULL UNIQUE,
    created_at  timestamptz NOT NULL DEFAULT now(),
    seen_at     timestamptz,
    CONSTRAINT calendars_athlete FOREIGN KEY (team_id, athlete_id) REFERENCES athletes (team_id, id) ON DELETE CASCADE
);

-- +goose Down
DROP TABLE calendars;
