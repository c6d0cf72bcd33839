-- +goose Up

-- A revision is written whole and read whole: text packed by a quick method keeps
-- the saving of a draft short.
ALTER TABLE revisions ALTER edits TYPE json USING edits::json;
ALTER TABLE revisions ALTER edits SET COMPRESSION lz4;
ALTER TABLE tracks ALTER points SET COMPRESSION lz4;

-- +goose Down
ALTER TABLE tracks ALTER points SET COMPRESSION default;
ALTER TABLE revisions ALTER edits SET COMPRESSION default;
ALTER TABLE revisions ALTER edits TYPE jsonb USING edits::jsonb;
