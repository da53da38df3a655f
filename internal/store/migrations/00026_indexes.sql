-- +goose NO TRANSACTION
-- +goose Up
ALTER TABLE jobs ADD KEY IF NOT EXISTS closed_opened (closed_at, opened_at);
ALTER TABLE outcomes ADD KEY IF NOT EXISTS reliability (excluded, p, was_right, readings, minutes);
ALTER TABLE outcomes ADD KEY IF NOT EXISTS wrong (was_right, at);
ALTER TABLE outcomes ADD KEY IF NOT EXISTS lives (circuit, station, machine_id, at, option_id);
INSERT IGNORE INTO job_words (job_id, opened_at, words)
  SELECT j.id, j.opened_at, LOWER(REGEXP_REPLACE(CONCAT_WS(' ', m.name, m.kind, m.place, REPLACE(j.circuit, '_', ' '), j.complaint), '[^\\p{L}\\p{N}]+', ' ')) FROM jobs j JOIN machines m ON m.id = j.machine_id;

-- +goose Down
SELECT 1;
