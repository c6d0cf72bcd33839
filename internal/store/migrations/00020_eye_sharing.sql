-- +goose Up
-- What an athlete's eye is worth is shown to the coach when both want it.
CREATE TABLE eye_sharing (
    team_id    uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    athlete_id uuid NOT NULL,
    asked      boolean NOT NULL DEFAULT false,
    agreed     boolean NOT NULL DEFAULT false,
    PRIMARY KEY (team_id, athlete_id),
    CONSTRAINT eye_sharing_athlete FOREIGN KEY (team_id, athlete_id) REFERENCES athletes (team_id, id) ON DELETE CASCADE
);

-- +goose Down
DROP TABLE eye_sharing;
