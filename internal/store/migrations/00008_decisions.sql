-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS decisions (
  id BINARY(16) PRIMARY KEY,
  job_id BINARY(16) NOT NULL,
  option_id VARCHAR(32) NOT NULL,
  station VARCHAR(64) NOT NULL,
  price DECIMAL(12,2) NOT NULL,
  reason VARCHAR(400) NOT NULL,
  decided_by VARCHAR(32) NOT NULL COMMENT 'customer or workshop',
  revision INT UNSIGNED NOT NULL COMMENT 'the revision of the job it was taken on',
  created_at DATETIME(6) NOT NULL,
  created_by BINARY(16) NULL,
  KEY job_created (job_id, created_at),
  CONSTRAINT decisions_job FOREIGN KEY (job_id) REFERENCES jobs (id),
  CONSTRAINT decisions_created_by FOREIGN KEY (created_by) REFERENCES users (id)
);

-- +goose Down
DROP TABLE IF EXISTS decisions;
