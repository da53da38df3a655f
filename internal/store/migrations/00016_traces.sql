-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS traces (
  id BINARY(16) PRIMARY KEY,
  job_id BINARY(16) NOT NULL,
  name VARCHAR(120) NOT NULL COMMENT 'of the file, or of the scope',
  result MEDIUMTEXT NOT NULL COMMENT 'JSON: what the analysis said',
  points MEDIUMTEXT NOT NULL COMMENT 'JSON: the trace, decimated without losing peaks',
  created_at DATETIME(6) NOT NULL,
  created_by BINARY(16) NULL,
  KEY job (job_id, created_at),
  CONSTRAINT traces_job FOREIGN KEY (job_id) REFERENCES jobs (id),
  CONSTRAINT traces_created_by FOREIGN KEY (created_by) REFERENCES users (id)
);

-- +goose Down
DROP TABLE IF EXISTS traces;
