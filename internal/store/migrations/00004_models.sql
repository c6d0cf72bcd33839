-- +goose Up

-- The style or school of the technique model by which an attempt is judged.
ALTER TABLE attempts ADD variant text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE attempts DROP variant;
