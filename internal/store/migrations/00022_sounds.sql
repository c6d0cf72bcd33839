-- +goose Up
-- How loud a clip is in each millisecond of its file; empty for one without sound.
CREATE TABLE sounds (
    team_id  uuid NOT NULL,
    clip_id  uuid PRIMARY KEY,
    loudness bytea NOT NULL,
    FOREIGN KEY (team_id, clip_id) REFERENCES clips (team_id, id) ON DELETE CASCADE
);
CREATE INDEX sounds_team ON sounds (team_id);

-- +goose Down
DROP TABLE sounds;
