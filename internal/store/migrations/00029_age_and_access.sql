-- +goose NO TRANSACTION
-- +goose Up
ALTER TABLE machines ADD COLUMN IF NOT EXISTS built SMALLINT UNSIGNED NULL COMMENT 'year';
ALTER TABLE outcomes ADD COLUMN IF NOT EXISTS age SMALLINT UNSIGNED NULL COMMENT 'of the machine then, years';
ALTER TABLE outcomes DROP KEY IF EXISTS learning;
ALTER TABLE outcomes ADD KEY IF NOT EXISTS learning_age (circuit, excluded, machine_kind, age, fault, at);
CREATE TABLE IF NOT EXISTS access_times (
  job_id BINARY(16) NOT NULL,
  access VARCHAR(64) NOT NULL COMMENT 'group of the circuit',
  minutes DOUBLE NOT NULL,
  PRIMARY KEY (job_id, access),
  CONSTRAINT access_times_job FOREIGN KEY (job_id) REFERENCES jobs (id)
) COMMENT 'how long getting there took, as a person said when it differed from what was expected';

-- +goose Down
DROP TABLE IF EXISTS access_times;
