-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS verdicts (
  job_id BINARY(16) NOT NULL,
  revision INT UNSIGNED NOT NULL COMMENT 'the revision of the job it was given on',
  reasoning VARCHAR(32) NOT NULL COMMENT 'version of the reasoning that gave it',
  status VARCHAR(32) NOT NULL,
  station VARCHAR(64) NULL,
  probability DOUBLE NOT NULL,
  says VARCHAR(2000) NOT NULL,
  result MEDIUMTEXT NOT NULL COMMENT 'the whole diagnosis, JSON',
  created_at DATETIME(6) NOT NULL,
  PRIMARY KEY (job_id, revision),
  CONSTRAINT verdicts_job FOREIGN KEY (job_id) REFERENCES jobs (id)
);

-- +goose Down
DROP TABLE IF EXISTS verdicts;
