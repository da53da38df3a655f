-- +goose NO TRANSACTION
-- +goose Up
ALTER TABLE outcomes ADD COLUMN IF NOT EXISTS advised DOUBLE NULL COMMENT 'minutes that the entries were reckoned with; null: not known';
ALTER TABLE outcomes ADD KEY IF NOT EXISTS outcomes_times (excluded, at);

-- +goose Down
ALTER TABLE outcomes DROP KEY IF EXISTS outcomes_times;
ALTER TABLE outcomes DROP COLUMN IF EXISTS advised;
