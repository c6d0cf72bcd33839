-- +goose Up
-- What is noted of a try at the track.
ALTER TABLE attempts
    ADD COLUMN felt   int CHECK (felt BETWEEN 1 AND 5),
    ADD COLUMN kept   text NOT NULL DEFAULT '' CHECK (kept IN ('', 'kept', 'lost')),
    ADD COLUMN words  text NOT NULL DEFAULT '',
    ADD COLUMN indoor boolean NOT NULL DEFAULT false;

-- What phones wrote down at the track, as they wrote it. A try is an attempt of the same id.
CREATE TABLE track_notes (
    id         text NOT NULL,
    team_id    uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    attempt_id uuid NOT NULL,
    athlete_id uuid NOT NULL,
    phone      text NOT NULL,
    event      text NOT NULL,
    day        date NOT NULL,
    at         bigint NOT NULL,
    field      text NOT NULL,
    value      text NOT NULL,
    before     text NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (team_id, id),
    CONSTRAINT track_notes_attempt FOREIGN KEY (team_id, attempt_id) REFERENCES attempts (team_id, id) ON DELETE CASCADE,
    CONSTRAINT track_notes_athlete FOREIGN KEY (team_id, athlete_id) REFERENCES athletes (team_id, id) ON DELETE CASCADE
);
CREATE INDEX track_notes_by_day ON track_notes (team_id, day);
CREATE INDEX track_notes_by_attempt ON track_notes (attempt_id);

-- +goose Down
DROP TABLE track_notes;
ALTER TABLE attempts DROP COLUMN felt, DROP COLUMN kept, DROP COLUMN words, DROP COLUMN indoor;
