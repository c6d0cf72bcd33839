-- +goose Up

-- A team's own versions of technique models, each whole and never changed: an
-- attempt keeps the one by which it was judged.
CREATE TABLE team_models (
    team_id    uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    event      text NOT NULL,
    n          int NOT NULL CHECK (n > 0),
    source     text NOT NULL,
    reason     text NOT NULL,
    shipped    int NOT NULL,
    user_id    uuid REFERENCES users ON DELETE SET NULL,
    created_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (team_id, event, n)
);

-- The style or school by which an attempt is judged, and the version of the team's
-- model: 0 is the shipped one.
ALTER TABLE attempts ADD variant text NOT NULL DEFAULT '';
ALTER TABLE attempts ADD model_n int NOT NULL DEFAULT 0;

-- How a user names directions seen from above.
ALTER TABLE users ADD directions text NOT NULL DEFAULT 'degrees' CHECK (directions IN ('degrees', 'clock-back', 'clock-throw'));

-- +goose Down
ALTER TABLE users DROP directions;
ALTER TABLE attempts DROP model_n, DROP variant;
DROP TABLE team_models;
