-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS job_waits (
  id BINARY(16) PRIMARY KEY COMMENT 'made by the client',
  job_id BINARY(16) NOT NULL,
  kind VARCHAR(16) NOT NULL COMMENT 'parts, cold_start, cure, customer, other',
  note VARCHAR(200) NOT NULL DEFAULT '',
  until_at DATETIME(6) NULL COMMENT 'null: nobody knows',
  created_at DATETIME(6) NOT NULL,
  created_by BINARY(16) NULL,
  ended_at DATETIME(6) NULL,
  KEY job_waits_job (job_id, ended_at),
  CONSTRAINT job_waits_job FOREIGN KEY (job_id) REFERENCES jobs (id)
) COMMENT 'what stands between a job and its next step';
ALTER TABLE jobs ADD COLUMN IF NOT EXISTS bench VARCHAR(60) NOT NULL DEFAULT '' COMMENT 'where it stands in the workshop';
ALTER TABLE jobs ADD COLUMN IF NOT EXISTS assigned_to BINARY(16) NULL COMMENT 'who it was given to';

-- +goose Down
ALTER TABLE jobs DROP COLUMN IF EXISTS assigned_to;
ALTER TABLE jobs DROP COLUMN IF EXISTS bench;
DROP TABLE IF EXISTS job_waits;
