-- +goose Up
-- Drills of a team's own; a stretch of one of its clips shows how.
CREATE TABLE own_drills (
    id         uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    team_id    uuid NOT NULL REFERENCES teams ON DELETE CASCADE,
    told       jsonb NOT NULL,
    clip_id    uuid,
    first      int NOT NULL DEFAULT 0 CHECK (first >= 0),
    last       int NOT NULL DEFAULT 0 CHECK (last >= first),
    created_at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT own_drills_clip FOREIGN KEY (team_id, clip_id) REFERENCES clips (team_id, id) ON DELETE SET NULL (clip_id)
);
CREATE INDEX own_drills_team ON own_drills (team_id, created_at);
CREATE INDEX own_drills_clip ON own_drills (clip_id);

-- +goose Down
DROP TABLE own_drills;
