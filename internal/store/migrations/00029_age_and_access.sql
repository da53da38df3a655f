-- +goose NO TRANSACTION
-- +goose Up
ALTER TABLE machines ADD COLUMN IF NOT EXISTS built SMALLINT UNSIGNED NULL COMMENT 'year';
ALTER TABLE outcomes ADD COLUMN IF NOT EXISTS age SMALLINT UNSIGNED NULL COMMENT 'of the machine then, years';
ALTER TABLE outcomes DROP KEY IF EXISTS learning;
ALTER TABLE outcomes ADD KEY IF NOT EXISTS learning_since (circuit, at);
CREATE TABLE IF NOT EXISTS fault_sums (
  circuit VARCHAR(64) NOT NULL,
  machine_kind VARCHAR(60) NOT NULL,
  age SMALLINT NOT NULL COMMENT 'years; -1: not known',
  fault VARCHAR(128) NOT NULL,
  n INT NOT NULL,
  PRIMARY KEY (circuit, machine_kind, age, fault)
) COMMENT 'outcomes that count, summed up as they are written';
REPLACE INTO fault_sums SELECT circuit, machine_kind, COALESCE(age, -1), fault, COUNT(*) FROM outcomes WHERE excluded = 0 AND fault <> '' GROUP BY circuit, machine_kind, COALESCE(age, -1), fault;
CREATE TABLE IF NOT EXISTS access_times (
  job_id BINARY(16) NOT NULL,
  access VARCHAR(64) NOT NULL COMMENT 'group of the circuit',
  minutes DOUBLE NOT NULL,
  PRIMARY KEY (job_id, access),
  CONSTRAINT access_times_job FOREIGN KEY (job_id) REFERENCES jobs (id)
) COMMENT 'how long getting there took, as a person said when it differed from what was expected';

-- +goose Down
DROP TABLE IF EXISTS fault_sums;
DROP TABLE IF EXISTS access_times;
