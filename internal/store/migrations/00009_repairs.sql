-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS repairs (
  id BINARY(16) PRIMARY KEY,
  job_id BINARY(16) NOT NULL,
  station VARCHAR(64) NOT NULL,
  after_seq INT UNSIGNED NOT NULL COMMENT 'pieces of evidence taken before it',
  what VARCHAR(400) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  created_by BINARY(16) NULL,
  KEY job_after (job_id, after_seq),
  CONSTRAINT repairs_job FOREIGN KEY (job_id) REFERENCES jobs (id),
  CONSTRAINT repairs_created_by FOREIGN KEY (created_by) REFERENCES users (id)
);

-- +goose Down
DROP TABLE IF EXISTS repairs;
