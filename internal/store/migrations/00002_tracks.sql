-- +goose Up
-- How the camera turned during the clip, as core/steady holds it; empty until it
-- was looked for.
ALTER TABLE clips ADD camera jsonb;
-- Contacts that the picture of the feet showed, as core/contact holds them.
ALTER TABLE clips ADD stands jsonb;
-- A change that belongs to the one before it (the next batch of a draft) is
-- undone with it.
ALTER TABLE revisions ADD joined boolean NOT NULL DEFAULT false;

-- +goose Down
ALTER TABLE revisions DROP joined;
ALTER TABLE clips DROP camera, DROP stands;
