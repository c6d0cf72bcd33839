-- +goose Up
-- What was reckoned in the workshop and kept with an athlete: a question with up to four variants
-- of its inputs.
CREATE TABLE calculations (
    id         uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    team_id    uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    athlete_id uuid NOT NULL,
    attempt_id uuid,
    event      text NOT NULL,
    question   text NOT NULL,
    name       text NOT NULL,
    variants   jsonb NOT NULL,
    chosen     int NOT NULL DEFAULT 0,
    on_page    boolean NOT NULL DEFAULT false,
    made_on    date NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT calculations_athlete FOREIGN KEY (team_id, athlete_id) REFERENCES athletes (team_id, id) ON DELETE CASCADE,
    CONSTRAINT calculations_attempt FOREIGN KEY (team_id, attempt_id) REFERENCES attempts (team_id, id) ON DELETE SET NULL (attempt_id)
);
CREATE INDEX calculations_by_athlete ON calculations (athlete_id, created_at DESC);
CREATE INDEX calculations_by_attempt ON calculations (attempt_id) WHERE on_page;

-- +goose Down
DROP TABLE calculations;
