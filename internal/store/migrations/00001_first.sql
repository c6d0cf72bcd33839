-- +goose Up
CREATE TABLE teams (
    id         uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    name       text NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE users (
    id            uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    team_id       uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    email         text NOT NULL,
    name          text NOT NULL,
    password_hash text NOT NULL,
    created_at    timestamptz NOT NULL DEFAULT now()
);
CREATE UNIQUE INDEX users_email ON users (lower(email));

-- Layout given by the session library.
CREATE TABLE sessions (
    token  text PRIMARY KEY,
    data   bytea NOT NULL,
    expiry timestamptz NOT NULL
);
CREATE INDEX sessions_expiry ON sessions (expiry);

CREATE TABLE athletes (
    id            uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    team_id       uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    name          text NOT NULL,
    born          int NOT NULL,
    sex           text NOT NULL CHECK (sex IN ('female', 'male')),
    height        double precision NOT NULL,
    mass          double precision NOT NULL,
    front_leg     text NOT NULL CHECK (front_leg IN ('left', 'right')),
    throwing_hand text NOT NULL CHECK (throwing_hand IN ('left', 'right')),
    takeoff_leg   text NOT NULL CHECK (takeoff_leg IN ('left', 'right')),
    created_at    timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX athletes_team ON athletes (team_id, name);

CREATE TABLE attempts (
    id            uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    team_id       uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    athlete_id    uuid NOT NULL REFERENCES athletes ON DELETE CASCADE,
    event         text NOT NULL,
    done_on       date NOT NULL,
    session       text NOT NULL,
    place         text NOT NULL,
    mark          text NOT NULL,
    implement     text NOT NULL,
    condition     text NOT NULL CHECK (condition IN ('fresh', 'tired')),
    setting       text NOT NULL CHECK (setting IN ('practice', 'competition')),
    coach_focus   text NOT NULL,
    injury_note   text NOT NULL,
    state         text NOT NULL DEFAULT 'new' CHECK (state IN ('new', 'in_work', 'ready', 'sent')),
    revision      int NOT NULL DEFAULT 0,
    created_at    timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX attempts_queue ON attempts (team_id, created_at DESC);
CREATE INDEX attempts_athlete ON attempts (athlete_id, event, done_on, created_at);

-- An upload in progress belongs to the team from its first byte.
CREATE TABLE uploads (
    id         uuid PRIMARY KEY,
    team_id    uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    attempt_id uuid NOT NULL REFERENCES attempts ON DELETE CASCADE,
    name       text NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE clips (
    id             uuid PRIMARY KEY,
    team_id        uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    attempt_id     uuid NOT NULL REFERENCES attempts ON DELETE CASCADE,
    name           text NOT NULL,
    bytes          bigint NOT NULL,
    sha256         text NOT NULL DEFAULT '',
    state          text NOT NULL CHECK (state IN ('waiting', 'importing', 'ready', 'failed', 'cancelled')),
    progress       double precision NOT NULL DEFAULT 0,
    problem        text NOT NULL DEFAULT '',
    job_id         bigint NOT NULL DEFAULT 0,
    width          int NOT NULL DEFAULT 0,
    height         int NOT NULL DEFAULT 0,
    proxy_scale    double precision NOT NULL DEFAULT 1,
    codec          text NOT NULL DEFAULT '',
    file_rate      double precision NOT NULL DEFAULT 0,
    capture_rate   double precision NOT NULL DEFAULT 0,
    rate_from      text NOT NULL DEFAULT 'unknown' CHECK (rate_from IN ('unknown', 'file', 'coach')),
    stamps         bigint[] NOT NULL DEFAULT '{}',
    view           text NOT NULL DEFAULT 'side' CHECK (view IN ('side', 'back', 'front', 'oblique', 'above')),
    direction      double precision NOT NULL DEFAULT 0,
    warnings       text[] NOT NULL DEFAULT '{}',
    created_at     timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX clips_attempt ON clips (attempt_id, created_at);
CREATE INDEX clips_same ON clips (team_id, sha256);

-- One row a landmark and clip; points is the array format of core/track.
CREATE TABLE tracks (
    clip_id  uuid NOT NULL REFERENCES clips ON DELETE CASCADE,
    landmark text NOT NULL,
    points   bytea NOT NULL,
    PRIMARY KEY (clip_id, landmark)
);

-- Everything else that the coach decided on an attempt: flags, scale, own
-- marks, findings accepted or refused, the advice given.
CREATE TABLE work_items (
    attempt_id uuid NOT NULL REFERENCES attempts ON DELETE CASCADE,
    clip_id    uuid REFERENCES clips ON DELETE CASCADE,
    kind       text NOT NULL,
    key        text NOT NULL,
    value      jsonb NOT NULL
);
CREATE UNIQUE INDEX work_items_key ON work_items (attempt_id, COALESCE(clip_id, '00000000-0000-0000-0000-000000000000'), kind, key);

-- Every saved change with what was there before, so that undo works over
-- sessions.
CREATE TABLE revisions (
    attempt_id uuid NOT NULL REFERENCES attempts ON DELETE CASCADE,
    n          int NOT NULL,
    user_id    uuid REFERENCES users ON DELETE SET NULL,
    edits      jsonb NOT NULL,
    state      text NOT NULL DEFAULT 'done' CHECK (state IN ('done', 'undone', 'dropped')),
    created_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (attempt_id, n)
);

-- +goose Down
DROP TABLE revisions, work_items, tracks, clips, uploads, attempts, athletes, sessions, users, teams;
