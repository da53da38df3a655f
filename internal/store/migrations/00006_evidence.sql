-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS evidence (
  id BINARY(16) PRIMARY KEY,
  job_id BINARY(16) NOT NULL,
  seq INT UNSIGNED NOT NULL COMMENT 'order in which it was taken',
  measure VARCHAR(16) NOT NULL,
  observe VARCHAR(64) NOT NULL,
  state VARCHAR(64) NOT NULL,
  node_from VARCHAR(64) NOT NULL,
  node_to VARCHAR(64) NOT NULL,
  through VARCHAR(64) NOT NULL,
  value_text VARCHAR(64) NOT NULL COMMENT 'as typed',
  value_si DOUBLE NULL COMMENT 'SI, leads taken off; null for an outcome or OL',
  over_limit BOOLEAN NOT NULL COMMENT 'the display said OL',
  outcome VARCHAR(64) NOT NULL,
  instrument VARCHAR(64) NOT NULL,
  leads_text VARCHAR(64) NOT NULL,
  circumstance VARCHAR(16) NOT NULL COMMENT 'hot, cold, wiggle, after_tap',
  symptom VARCHAR(16) NOT NULL,
  taken_at DATETIME(6) NOT NULL,
  taken_by BINARY(16) NULL,
  struck_at DATETIME(6) NULL COMMENT 'struck out, never deleted',
  struck_by BINARY(16) NULL,
  UNIQUE KEY job_seq (job_id, seq),
  CONSTRAINT evidence_job FOREIGN KEY (job_id) REFERENCES jobs (id),
  CONSTRAINT evidence_taken_by FOREIGN KEY (taken_by) REFERENCES users (id),
  CONSTRAINT evidence_struck_by FOREIGN KEY (struck_by) REFERENCES users (id)
);

-- +goose Down
DROP TABLE IF EXISTS evidence;
