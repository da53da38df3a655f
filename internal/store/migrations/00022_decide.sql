-- +goose NO TRANSACTION
-- +goose Up
ALTER TABLE decisions ADD COLUMN IF NOT EXISTS label VARCHAR(200) NOT NULL DEFAULT '' COMMENT 'the option in words';
ALTER TABLE decisions ADD COLUMN IF NOT EXISTS who VARCHAR(120) NOT NULL DEFAULT '' COMMENT 'name of who decided';
ALTER TABLE decisions ADD COLUMN IF NOT EXISTS expected DOUBLE NULL COMMENT 'expected cost as it was computed';
ALTER TABLE decisions ADD COLUMN IF NOT EXISTS set_aside VARCHAR(400) NOT NULL DEFAULT '' COMMENT 'the veto that was set aside, and why';
ALTER TABLE jobs ADD COLUMN IF NOT EXISTS follow_up DATE NULL COMMENT 'when a temporary repair ends';
ALTER TABLE jobs ADD COLUMN IF NOT EXISTS follow_what VARCHAR(300) NOT NULL DEFAULT '' COMMENT 'what is to follow';
ALTER TABLE jobs ADD KEY IF NOT EXISTS machine_opened (machine_id, opened_at);
ALTER TABLE jobs ADD KEY IF NOT EXISTS follow_up (follow_up);
CREATE TABLE IF NOT EXISTS job_costs (
  job_id BINARY(16) PRIMARY KEY,
  parts DOUBLE NOT NULL,
  minutes DOUBLE NOT NULL,
  price DOUBLE NOT NULL COMMENT 'what was charged',
  note VARCHAR(400) NOT NULL,
  at DATETIME(6) NOT NULL,
  by_user BINARY(16) NULL,
  CONSTRAINT job_costs_job FOREIGN KEY (job_id) REFERENCES jobs (id)
);

-- +goose Down
DROP TABLE IF EXISTS job_costs;
