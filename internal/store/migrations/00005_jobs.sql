-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS jobs (
  id BINARY(16) PRIMARY KEY,
  machine_id BINARY(16) NOT NULL,
  circuit VARCHAR(64) NOT NULL,
  head MEDIUMTEXT NOT NULL COMMENT 'the case file without its evidence',
  complaint VARCHAR(2000) NOT NULL,
  revision INT UNSIGNED NOT NULL COMMENT 'raised with every change',
  verdict_revision INT UNSIGNED NULL COMMENT 'revision of the verdict that stands',
  unreachable VARCHAR(4000) NOT NULL COMMENT 'JSON list of what cannot be reached',
  cautions_at DATETIME(6) NULL COMMENT 'when the cautions were acknowledged',
  opened_by BINARY(16) NULL,
  opened_at DATETIME(6) NOT NULL,
  closed_at DATETIME(6) NULL,
  KEY opened_at (opened_at),
  CONSTRAINT jobs_machine FOREIGN KEY (machine_id) REFERENCES machines (id),
  CONSTRAINT jobs_opened_by FOREIGN KEY (opened_by) REFERENCES users (id)
);

-- +goose Down
DROP TABLE IF EXISTS jobs;
