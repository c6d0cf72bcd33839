-- +goose Up
-- On which rung of a ladder of technique a coach sees an athlete.
CREATE TABLE ladder_places (
    team_id    uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    athlete_id uuid NOT NULL,
    ladder     text NOT NULL,
    rung       int NOT NULL CHECK (rung >= 0),
    since      date NOT NULL DEFAULT CURRENT_DATE,
    PRIMARY KEY (team_id, athlete_id, ladder),
    CONSTRAINT ladder_places_athlete FOREIGN KEY (team_id, athlete_id) REFERENCES athletes (team_id, id) ON DELETE CASCADE
);

-- +goose Down
DROP TABLE ladder_places;
