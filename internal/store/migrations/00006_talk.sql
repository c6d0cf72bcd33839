-- +goose Up

-- What a coach says to an attempt: each chapter is a voice and what happened on the
-- stage while it was recorded.
CREATE TABLE chapters (
    id         uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    team_id    uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    attempt_id uuid NOT NULL REFERENCES attempts ON DELETE CASCADE,
    place      int NOT NULL,
    name       text NOT NULL,
    finding    text NOT NULL DEFAULT '',
    seconds    double precision NOT NULL,
    starts     double precision NOT NULL,
    ends       double precision NOT NULL,
    stage      jsonb NOT NULL,
    voice      bytea NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now(),
    CHECK (starts >= 0 AND ends > starts AND ends <= seconds)
);
CREATE INDEX chapters_of ON chapters (attempt_id, place);

-- Films that are drawn in the background; the file lies with the media.
CREATE TABLE films (
    id         uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    team_id    uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    attempt_id uuid NOT NULL REFERENCES attempts ON DELETE CASCADE,
    kind       text NOT NULL CHECK (kind IN ('talk', 'beside')),
    ask        jsonb NOT NULL,
    state      text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'drawing', 'ready', 'failed', 'cancelled')),
    progress   double precision NOT NULL DEFAULT 0,
    problem    text NOT NULL DEFAULT '',
    job_id     bigint NOT NULL DEFAULT 0,
    bytes      bigint NOT NULL DEFAULT 0,
    created_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX films_of ON films (attempt_id, created_at);

-- +goose Down
DROP TABLE films, chapters;
