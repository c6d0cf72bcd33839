-- +goose Up

-- What a log wants to know of an attempt beside its mark.
ALTER TABLE attempts ADD wind double precision;
ALTER TABLE attempts ADD foul text NOT NULL DEFAULT '';
ALTER TABLE attempts ADD note text NOT NULL DEFAULT '';
ALTER TABLE attempts ADD taken_at timestamptz;
-- A mark that was typed in waits for no coach until a clip comes.
ALTER TABLE attempts DROP CONSTRAINT attempts_state_check;
ALTER TABLE attempts ADD CONSTRAINT attempts_state_check CHECK (state IN ('logged', 'new', 'in_work', 'ready', 'sent'));
CREATE INDEX attempts_by_day ON attempts (team_id, done_on DESC, created_at DESC);

-- When the camera says it made the clip.
ALTER TABLE clips ADD taken_at timestamptz;

-- Who allowed that clips of a minor are shared, and since when.
ALTER TABLE athletes ADD consent_by text NOT NULL DEFAULT '';
ALTER TABLE athletes ADD consent_on date;

-- An account with an athlete is that athlete's: it sees what was sent, and no more.
ALTER TABLE users ADD athlete_id uuid REFERENCES athletes ON DELETE CASCADE;

CREATE TABLE notes (
    id         uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    team_id    uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    athlete_id uuid NOT NULL REFERENCES athletes ON DELETE CASCADE,
    kind       text NOT NULL CHECK (kind IN ('note', 'pain')),
    noted_on   date NOT NULL,
    says       text NOT NULL,
    over_on    date,
    created_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX notes_athlete ON notes (athlete_id, noted_on DESC);

-- A link or, for an athlete's account, the sending itself; only a hash of the
-- link's secret is kept.
CREATE TABLE shares (
    id           uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    team_id      uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    attempt_id   uuid NOT NULL REFERENCES attempts ON DELETE CASCADE,
    secret_hash  bytea NOT NULL UNIQUE,
    created_at   timestamptz NOT NULL DEFAULT now(),
    expires_at   timestamptz NOT NULL,
    withdrawn_at timestamptz,
    seen_at      timestamptz,
    seen_times   int NOT NULL DEFAULT 0,
    answer       text NOT NULL DEFAULT '',
    answered_at  timestamptz
);
CREATE INDEX shares_attempt ON shares (attempt_id, created_at);

-- An invitation to an athlete to make an account of his own.
CREATE TABLE invitations (
    secret_hash bytea PRIMARY KEY,
    team_id     uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    athlete_id  uuid NOT NULL REFERENCES athletes ON DELETE CASCADE,
    expires_at  timestamptz NOT NULL
);

-- Attempts that the team holds others against.
CREATE TABLE library (
    attempt_id uuid PRIMARY KEY REFERENCES attempts ON DELETE CASCADE,
    team_id    uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    name       text NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now()
);

-- A coach's own phrases, and how long each attempt took by hand: nobody else's
-- business.
CREATE TABLE phrases (
    id      uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    user_id uuid NOT NULL REFERENCES users ON DELETE CASCADE,
    says    text NOT NULL,
    UNIQUE (user_id, says)
);
CREATE TABLE hand_time (
    user_id    uuid NOT NULL REFERENCES users ON DELETE CASCADE,
    attempt_id uuid NOT NULL REFERENCES attempts ON DELETE CASCADE,
    seconds    int NOT NULL,
    PRIMARY KEY (user_id, attempt_id)
);

-- What was computed of an attempt, kept so that a log of many opens at once. The
-- stamp says what it was computed from; another stamp makes it worthless.
CREATE TABLE summaries (
    attempt_id uuid PRIMARY KEY REFERENCES attempts ON DELETE CASCADE,
    stamp      text NOT NULL,
    value      jsonb NOT NULL
);

-- What was deleted for good, without saying whose it was.
CREATE TABLE deletions (
    id         uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    team_id    uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    what       text NOT NULL CHECK (what IN ('attempt', 'athlete', 'clip')),
    attempts   int NOT NULL,
    clips      int NOT NULL,
    files      int NOT NULL,
    bytes      bigint NOT NULL,
    left_over  int NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now()
);

-- +goose Down
DROP TABLE deletions, summaries, hand_time, phrases, library, invitations, shares, notes;
ALTER TABLE users DROP athlete_id;
ALTER TABLE athletes DROP consent_on, DROP consent_by;
ALTER TABLE clips DROP taken_at;
DROP INDEX attempts_by_day;
UPDATE attempts SET state = 'new' WHERE state = 'logged';
ALTER TABLE attempts DROP CONSTRAINT attempts_state_check;
ALTER TABLE attempts ADD CONSTRAINT attempts_state_check CHECK (state IN ('new', 'in_work', 'ready', 'sent'));
ALTER TABLE attempts DROP taken_at, DROP note, DROP foul, DROP wind;
