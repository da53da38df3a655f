-- +goose NO TRANSACTION
-- +goose Up
DROP TABLE IF EXISTS photo_parts;

-- +goose Down
SELECT 1;
