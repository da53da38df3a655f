-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS proofs (
  id BINARY(16) PRIMARY KEY,
  job_id BINARY(16) NOT NULL,
  result VARCHAR(16) NOT NULL COMMENT 'passed, remark or failed',
  remark VARCHAR(400) NOT NULL,
  signed VARCHAR(120) NOT NULL COMMENT 'name',
  counter VARCHAR(40) NOT NULL COMMENT 'hours or mileage, as read',
  checks TEXT NOT NULL COMMENT 'JSON: what was ticked',
  plan MEDIUMTEXT NOT NULL COMMENT 'JSON: before and after',
  at DATETIME(6) NOT NULL,
  by_user BINARY(16) NULL,
  KEY job (job_id, at),
  CONSTRAINT proofs_job FOREIGN KEY (job_id) REFERENCES jobs (id)
);
CREATE TABLE IF NOT EXISTS proof_ticks (
  job_id BINARY(16) NOT NULL,
  name VARCHAR(64) NOT NULL,
  value VARCHAR(200) NOT NULL,
  at DATETIME(6) NOT NULL,
  PRIMARY KEY (job_id, name),
  CONSTRAINT proof_ticks_job FOREIGN KEY (job_id) REFERENCES jobs (id)
);
CREATE TABLE IF NOT EXISTS outcomes (
  job_id BINARY(16) PRIMARY KEY,
  circuit VARCHAR(64) NOT NULL,
  machine_kind VARCHAR(60) NOT NULL,
  machine_id BINARY(16) NOT NULL,
  station VARCHAR(64) NOT NULL COMMENT 'what it was; empty: nothing wrong',
  fault VARCHAR(128) NOT NULL COMMENT 'station.mode; empty where not known',
  option_id VARCHAR(32) NOT NULL COMMENT 'what was done',
  said VARCHAR(64) NOT NULL COMMENT 'the station the verdict named',
  p DOUBLE NULL COMMENT 'its stated probability; null: no verdict',
  was_right BOOLEAN NOT NULL,
  readings INT UNSIGNED NOT NULL,
  minutes DOUBLE NULL,
  at DATETIME(6) NOT NULL,
  excluded BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'kept out of learning',
  KEY learning (circuit, excluded, fault),
  KEY machine (machine_id, at),
  KEY claims (said, p),
  CONSTRAINT outcomes_job FOREIGN KEY (job_id) REFERENCES jobs (id)
);

-- +goose Down
DROP TABLE IF EXISTS outcomes;
DROP TABLE IF EXISTS proof_ticks;
DROP TABLE IF EXISTS proofs;
