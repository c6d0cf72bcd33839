-- +goose Up
-- A season as a coach has entered it. Every change is a row, the newest holds: taking it away is undoing.
CREATE TABLE seasons (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    team_id    uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    athlete_id uuid NOT NULL,
    outline    jsonb NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT seasons_athlete FOREIGN KEY (team_id, athlete_id) REFERENCES athletes (team_id, id) ON DELETE CASCADE
);
CREATE INDEX seasons_by_athlete ON seasons (athlete_id, id DESC);

-- Rules of planning that are others in a team.
CREATE TABLE season_rules (
    team_id uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    rule    text NOT NULL,
    value   double precision NOT NULL,
    reason  text NOT NULL,
    PRIMARY KEY (team_id, rule)
);

-- What was done. The id is made where it was typed, so that sending it twice stores it once.
CREATE TABLE trainings (
    id         uuid PRIMARY KEY,
    team_id    uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    athlete_id uuid NOT NULL,
    attempt_id uuid,
    done_on    date NOT NULL,
    event      text NOT NULL,
    kind       text NOT NULL,
    tries      int NOT NULL,
    full_tries int NOT NULL,
    implements text NOT NULL DEFAULT '',
    effort     double precision NOT NULL,
    minutes    int NOT NULL,
    felt       text NOT NULL DEFAULT '',
    created_at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT trainings_athlete FOREIGN KEY (team_id, athlete_id) REFERENCES athletes (team_id, id) ON DELETE CASCADE,
    CONSTRAINT trainings_attempt FOREIGN KEY (team_id, attempt_id) REFERENCES attempts (team_id, id) ON DELETE SET NULL (attempt_id)
);
CREATE INDEX trainings_by_athlete ON trainings (athlete_id, done_on);

-- +goose Down
DROP TABLE trainings;
DROP TABLE season_rules;
DROP TABLE seasons;
