-- +goose Up
-- What the frames of a clip hold (a letter each), and the capture rate that follows.
ALTER TABLE clips ADD COLUMN pictures text NOT NULL DEFAULT '';
ALTER TABLE clips ADD COLUMN rate_offer jsonb;

-- +goose Down
ALTER TABLE clips DROP COLUMN rate_offer;
ALTER TABLE clips DROP COLUMN pictures;
