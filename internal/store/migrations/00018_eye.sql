-- +goose Up
-- What somebody answered to an exercise for the eye, as it was judged then. Scores and what comes next
-- follow from these rows.
CREATE TABLE eye_answers (
    id       uuid PRIMARY KEY,
    team_id  uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    user_id  uuid NOT NULL REFERENCES users ON DELETE CASCADE,
    exercise text NOT NULL,
    kind     text NOT NULL,
    event    text NOT NULL,
    fault    text NOT NULL,
    view     text NOT NULL,
    size     double precision NOT NULL,
    there    boolean NOT NULL,
    yes      boolean NOT NULL,
    off      double precision NOT NULL,
    correct  boolean NOT NULL,
    took_ms  int NOT NULL,
    at       timestamptz NOT NULL
);
CREATE INDEX eye_answers_by_user ON eye_answers (user_id, at);

-- +goose Down
DROP TABLE eye_answers;
