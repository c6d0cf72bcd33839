-- +goose Up

-- A row names its team together with whatever it hangs on, so that a check forgotten
-- in the program cannot join two teams. Rows that already do cannot have come by any
-- screen and go first.
DELETE FROM attempts a USING athletes p WHERE p.id = a.athlete_id AND p.team_id <> a.team_id;
DELETE FROM clips c USING attempts a WHERE a.id = c.attempt_id AND a.team_id <> c.team_id;
DELETE FROM work_items w USING clips c WHERE c.id = w.clip_id AND c.attempt_id <> w.attempt_id;
DELETE FROM uploads x USING attempts a WHERE a.id = x.attempt_id AND a.team_id <> x.team_id;
DELETE FROM notes x USING athletes p WHERE p.id = x.athlete_id AND p.team_id <> x.team_id;
DELETE FROM shares x USING attempts a WHERE a.id = x.attempt_id AND a.team_id <> x.team_id;
DELETE FROM chapters x USING attempts a WHERE a.id = x.attempt_id AND a.team_id <> x.team_id;
DELETE FROM films x USING attempts a WHERE a.id = x.attempt_id AND a.team_id <> x.team_id;
DELETE FROM library x USING attempts a WHERE a.id = x.attempt_id AND a.team_id <> x.team_id;
DELETE FROM invitations x USING athletes p WHERE p.id = x.athlete_id AND p.team_id <> x.team_id;
DELETE FROM users x USING athletes p WHERE p.id = x.athlete_id AND p.team_id <> x.team_id;

ALTER TABLE athletes ADD CONSTRAINT athletes_of_team UNIQUE (team_id, id);
ALTER TABLE attempts ADD CONSTRAINT attempts_of_team UNIQUE (team_id, id);
ALTER TABLE clips ADD CONSTRAINT clips_of_team UNIQUE (team_id, id), ADD CONSTRAINT clips_of_attempt UNIQUE (attempt_id, id);

ALTER TABLE attempts DROP CONSTRAINT attempts_athlete_id_fkey, ADD CONSTRAINT attempts_athlete FOREIGN KEY (team_id, athlete_id) REFERENCES athletes (team_id, id) ON DELETE CASCADE;
ALTER TABLE clips DROP CONSTRAINT clips_attempt_id_fkey, ADD CONSTRAINT clips_attempt_of FOREIGN KEY (team_id, attempt_id) REFERENCES attempts (team_id, id) ON DELETE CASCADE;
ALTER TABLE uploads DROP CONSTRAINT uploads_attempt_id_fkey, ADD CONSTRAINT uploads_attempt FOREIGN KEY (team_id, attempt_id) REFERENCES attempts (team_id, id) ON DELETE CASCADE;
ALTER TABLE notes DROP CONSTRAINT notes_athlete_id_fkey, ADD CONSTRAINT notes_athlete_of FOREIGN KEY (team_id, athlete_id) REFERENCES athletes (team_id, id) ON DELETE CASCADE;
ALTER TABLE shares DROP CONSTRAINT shares_attempt_id_fkey, ADD CONSTRAINT shares_attempt_of FOREIGN KEY (team_id, attempt_id) REFERENCES attempts (team_id, id) ON DELETE CASCADE;
ALTER TABLE chapters DROP CONSTRAINT chapters_attempt_id_fkey, ADD CONSTRAINT chapters_attempt FOREIGN KEY (team_id, attempt_id) REFERENCES attempts (team_id, id) ON DELETE CASCADE;
ALTER TABLE films DROP CONSTRAINT films_attempt_id_fkey, ADD CONSTRAINT films_attempt FOREIGN KEY (team_id, attempt_id) REFERENCES attempts (team_id, id) ON DELETE CASCADE;
ALTER TABLE library DROP CONSTRAINT library_attempt_id_fkey, ADD CONSTRAINT library_attempt FOREIGN KEY (team_id, attempt_id) REFERENCES attempts (team_id, id) ON DELETE CASCADE;
ALTER TABLE users DROP CONSTRAINT users_athlete_id_fkey, ADD CONSTRAINT users_athlete FOREIGN KEY (team_id, athlete_id) REFERENCES athletes (team_id, id) ON DELETE CASCADE;

ALTER TABLE work_items ADD team_id uuid;
UPDATE work_items w SET team_id = a.team_id FROM attempts a WHERE a.id = w.attempt_id;
ALTER TABLE work_items ALTER team_id SET NOT NULL, DROP CONSTRAINT work_items_attempt_id_fkey, DROP CONSTRAINT work_items_clip_id_fkey,
    ADD CONSTRAINT work_items_attempt FOREIGN KEY (team_id, attempt_id) REFERENCES attempts (team_id, id) ON DELETE CASCADE,
    ADD CONSTRAINT work_items_clip FOREIGN KEY (attempt_id, clip_id) REFERENCES clips (attempt_id, id) ON DELETE CASCADE;
ALTER TABLE tracks ADD team_id uuid;
UPDATE tracks t SET team_id = c.team_id FROM clips c WHERE c.id = t.clip_id;
ALTER TABLE tracks ALTER team_id SET NOT NULL, DROP CONSTRAINT tracks_clip_id_fkey,
    ADD CONSTRAINT tracks_clip FOREIGN KEY (team_id, clip_id) REFERENCES clips (team_id, id) ON DELETE CASCADE;

-- What somebody may do in a team. The first coach of a team owns it.
ALTER TABLE users ADD role text NOT NULL DEFAULT 'coach' CHECK (role IN ('owner', 'coach', 'assistant', 'athlete'));
UPDATE users SET role = 'athlete' WHERE athlete_id IS NOT NULL;
UPDATE users SET role = 'owner' WHERE id IN (SELECT DISTINCT ON (team_id) id FROM users WHERE athlete_id IS NULL ORDER BY team_id, created_at, id);
ALTER TABLE users ADD CONSTRAINT users_role_athlete CHECK ((role = 'athlete') = (athlete_id IS NOT NULL));

-- An invitation is to an athlete's account, or to work in the team.
ALTER TABLE invitations DROP CONSTRAINT invitations_athlete_id_fkey, ALTER athlete_id DROP NOT NULL,
    ADD id uuid NOT NULL DEFAULT gen_random_uuid() UNIQUE,
    ADD role text NOT NULL DEFAULT 'athlete' CHECK (role IN ('coach', 'assistant', 'athlete')),
    ADD email text NOT NULL DEFAULT '',
    ADD created_at timestamptz NOT NULL DEFAULT now(),
    ADD CONSTRAINT invitations_athlete FOREIGN KEY (team_id, athlete_id) REFERENCES athletes (team_id, id) ON DELETE CASCADE,
    ADD CONSTRAINT invitations_role CHECK ((role = 'athlete') = (athlete_id IS NOT NULL));

-- Where somebody is signed in; a session without its row here is over.
CREATE TABLE signins (
    id         uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    user_id    uuid NOT NULL REFERENCES users ON DELETE CASCADE,
    created_at timestamptz NOT NULL DEFAULT now(),
    seen_at    timestamptz NOT NULL DEFAULT now(),
    address    text NOT NULL,
    agent      text NOT NULL
);
CREATE INDEX signins_user ON signins (user_id, seen_at DESC);

-- A way back for somebody who forgot the password: used once, soon over.
CREATE TABLE resets (
    secret_hash bytea PRIMARY KEY,
    user_id     uuid NOT NULL REFERENCES users ON DELETE CASCADE,
    expires_at  timestamptz NOT NULL
);

-- Letters of a server without a mail server of its own, such as the demo.
CREATE TABLE letters (
    id         uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    created_at timestamptz NOT NULL DEFAULT now(),
    addressee  text NOT NULL,
    subject    text NOT NULL,
    body       text NOT NULL
);

-- Who came in and what left the house. Names of athletes do not stand here; a row
-- outlives the account and the team that it tells of.
CREATE TABLE audit (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    at      timestamptz NOT NULL DEFAULT now(),
    team_id uuid,
    user_id uuid,
    what    text NOT NULL,
    about   text NOT NULL DEFAULT '',
    address text NOT NULL DEFAULT '',
    request text NOT NULL DEFAULT ''
);
CREATE INDEX audit_team ON audit (team_id, at DESC);
CREATE INDEX audit_at ON audit (at);

-- Programs that work on this database. One that is not heard of any more has died, and
-- its jobs are taken over.
CREATE TABLE servers (
    id         text PRIMARY KEY,
    started_at timestamptz NOT NULL DEFAULT now(),
    seen_at    timestamptz NOT NULL DEFAULT now(),
    version    text NOT NULL,
    host       text NOT NULL
);

-- Limits of a team that the operator sets: bytes of media (0: none), and days after
-- which clips go by themselves (0: never).
ALTER TABLE teams ADD quota_bytes bigint NOT NULL DEFAULT 0 CHECK (quota_bytes >= 0), ADD keep_days int NOT NULL DEFAULT 0 CHECK (keep_days >= 0);

-- How large an upload is to be, and through which link it comes.
ALTER TABLE uploads ADD bytes bigint NOT NULL DEFAULT 0, ADD share_id uuid REFERENCES shares ON DELETE CASCADE;
CREATE INDEX uploads_team ON uploads (team_id, created_at);
-- An attempt that a guest made room for by a link.
ALTER TABLE attempts ADD share_id uuid REFERENCES shares ON DELETE SET NULL;
CREATE INDEX attempts_share ON attempts (share_id) WHERE share_id IS NOT NULL;

-- How much of the media is there, for quotas and metrics; 0 while not known.
ALTER TABLE clips ADD media_bytes bigint NOT NULL DEFAULT 0;

-- A number that is another after every change of what a team's queue shows, so that the
-- queue is put together anew only then. A point that is moved changes none of it.
CREATE SEQUENCE team_stamps_n;
CREATE TABLE team_stamps (
    team_id uuid PRIMARY KEY,
    n       bigint NOT NULL
);
-- +goose StatementBegin
CREATE FUNCTION stamp_teams(teams uuid[]) RETURNS void LANGUAGE sql AS $$
    INSERT INTO team_stamps (team_id, n) SELECT t, nextval('team_stamps_n') FROM unnest(teams) AS t ON CONFLICT (team_id) DO UPDATE SET n = excluded.n;
$$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION stamp_rows() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM stamp_teams(ARRAY(SELECT DISTINCT team_id FROM changed));
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION stamp_of_attempts() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM stamp_teams(ARRAY(SELECT DISTINCT a.team_id FROM changed c JOIN attempts a ON a.id = c.attempt_id));
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION stamp_advice() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM stamp_teams(ARRAY(SELECT DISTINCT team_id FROM changed WHERE kind = 'advice'));
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION stamp_attempts() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM stamp_teams(ARRAY(SELECT DISTINCT n.team_id FROM changed n JOIN before o USING (id)
        WHERE (n.state, n.athlete_id, n.event, n.done_on, n.session, n.mark, n.foul) IS DISTINCT FROM (o.state, o.athlete_id, o.event, o.done_on, o.session, o.mark, o.foul)));
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION stamp_clips() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM stamp_teams(ARRAY(SELECT DISTINCT n.team_id FROM changed n JOIN before o USING (id)
        WHERE (n.state, n.capture_rate, n.width) IS DISTINCT FROM (o.state, o.capture_rate, o.width)));
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
DO $$
DECLARE
    t text;
    f text;
BEGIN
    FOREACH t IN ARRAY ARRAY['athletes', 'attempts', 'clips', 'work_items', 'shares', 'summaries', 'hand_time'] LOOP
        f := CASE WHEN t IN ('summaries', 'hand_time') THEN 'stamp_of_attempts' WHEN t = 'work_items' THEN 'stamp_advice' ELSE 'stamp_rows' END;
        EXECUTE format('CREATE TRIGGER stamp_insert AFTER INSERT ON %I REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION %I()', t, f);
        EXECUTE format('CREATE TRIGGER stamp_delete AFTER DELETE ON %I REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION %I()', t, f);
        IF t IN ('attempts', 'clips') THEN
            EXECUTE format('CREATE TRIGGER stamp_update AFTER UPDATE ON %I REFERENCING NEW TABLE AS changed OLD TABLE AS before FOR EACH STATEMENT EXECUTE FUNCTION %I()', t, 'stamp_' || t);
        ELSE
            EXECUTE format('CREATE TRIGGER stamp_update AFTER UPDATE ON %I REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION %I()', t, f);
        END IF;
    END LOOP;
END $$;
-- +goose StatementEnd

ALTER TABLE deletions DROP CONSTRAINT deletions_what_check, ADD CONSTRAINT deletions_what_check CHECK (what IN ('attempt', 'athlete', 'clip', 'old clips'));

-- +goose Down
DROP FUNCTION stamp_rows, stamp_of_attempts, stamp_advice, stamp_attempts, stamp_clips CASCADE;
DROP FUNCTION stamp_teams;
DROP TABLE team_stamps;
DROP SEQUENCE team_stamps_n;
ALTER TABLE deletions DROP CONSTRAINT deletions_what_check;
DELETE FROM deletions WHERE what = 'old clips';
ALTER TABLE deletions ADD CONSTRAINT deletions_what_check CHECK (what IN ('attempt', 'athlete', 'clip'));
ALTER TABLE clips DROP media_bytes;
ALTER TABLE attempts DROP share_id;
DROP INDEX uploads_team;
ALTER TABLE uploads DROP share_id, DROP bytes;
ALTER TABLE teams DROP keep_days, DROP quota_bytes;
DROP TABLE servers, audit, letters, resets, signins;
DELETE FROM invitations WHERE athlete_id IS NULL;
ALTER TABLE invitations DROP CONSTRAINT invitations_role, DROP CONSTRAINT invitations_athlete, DROP created_at, DROP email, DROP role, DROP id,
    ALTER athlete_id SET NOT NULL, ADD FOREIGN KEY (athlete_id) REFERENCES athletes ON DELETE CASCADE;
ALTER TABLE users DROP CONSTRAINT users_role_athlete, DROP role, DROP CONSTRAINT users_athlete, ADD FOREIGN KEY (athlete_id) REFERENCES athletes ON DELETE CASCADE;
ALTER TABLE tracks DROP CONSTRAINT tracks_clip, DROP team_id, ADD FOREIGN KEY (clip_id) REFERENCES clips ON DELETE CASCADE;
ALTER TABLE work_items DROP CONSTRAINT work_items_clip, DROP CONSTRAINT work_items_attempt, DROP team_id,
    ADD FOREIGN KEY (attempt_id) REFERENCES attempts ON DELETE CASCADE, ADD FOREIGN KEY (clip_id) REFERENCES clips ON DELETE CASCADE;
ALTER TABLE library DROP CONSTRAINT library_attempt, ADD FOREIGN KEY (attempt_id) REFERENCES attempts ON DELETE CASCADE;
ALTER TABLE films DROP CONSTRAINT films_attempt, ADD FOREIGN KEY (attempt_id) REFERENCES attempts ON DELETE CASCADE;
ALTER TABLE chapters DROP CONSTRAINT chapters_attempt, ADD FOREIGN KEY (attempt_id) REFERENCES attempts ON DELETE CASCADE;
ALTER TABLE shares DROP CONSTRAINT shares_attempt_of, ADD FOREIGN KEY (attempt_id) REFERENCES attempts ON DELETE CASCADE;
ALTER TABLE notes DROP CONSTRAINT notes_athlete_of, ADD FOREIGN KEY (athlete_id) REFERENCES athletes ON DELETE CASCADE;
ALTER TABLE uploads DROP CONSTRAINT uploads_attempt, ADD FOREIGN KEY (attempt_id) REFERENCES attempts ON DELETE CASCADE;
ALTER TABLE clips DROP CONSTRAINT clips_attempt_of, ADD FOREIGN KEY (attempt_id) REFERENCES attempts ON DELETE CASCADE;
ALTER TABLE attempts DROP CONSTRAINT attempts_athlete, ADD FOREIGN KEY (athlete_id) REFERENCES athletes ON DELETE CASCADE;
ALTER TABLE clips DROP CONSTRAINT clips_of_attempt, DROP CONSTRAINT clips_of_team;
ALTER TABLE attempts DROP CONSTRAINT attempts_of_team;
ALTER TABLE athletes DROP CONSTRAINT athletes_of_team;
