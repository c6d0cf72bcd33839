-- +goose Up
-- What the server drafts by itself: one row a clip, and its job.
CREATE TABLE drafts (
    clip_id    uuid PRIMARY KEY,
    team_id    uuid NOT NULL,
    state      text NOT NULL CHECK (state IN ('waiting', 'drafting', 'done', 'failed', 'cancelled')),
    progress   double precision NOT NULL DEFAULT 0,
    says       text NOT NULL DEFAULT '',
    wish       jsonb NOT NULL,
    result     jsonb NOT NULL DEFAULT '{}',
    job_id     bigint NOT NULL,
    changed_at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT drafts_clip FOREIGN KEY (team_id, clip_id) REFERENCES clips (team_id, id) ON DELETE CASCADE
);
CREATE INDEX drafts_open ON drafts (state) WHERE state IN ('waiting', 'drafting');
CREATE TRIGGER stamp_insert AFTER INSERT ON drafts FOR EACH ROW EXECUTE FUNCTION stamp_row();
CREATE TRIGGER stamp_update AFTER UPDATE ON drafts FOR EACH ROW
    WHEN ((NEW.state, floor(NEW.progress * 10)) IS DISTINCT FROM (OLD.state, floor(OLD.progress * 10)))
    EXECUTE FUNCTION stamp_row();

-- +goose Down
DROP TABLE drafts;
