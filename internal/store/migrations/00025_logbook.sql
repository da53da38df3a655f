-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS job_words (
  job_id BINARY(16) PRIMARY KEY,
  opened_at DATETIME(6) NOT NULL,
  words TEXT NOT NULL COMMENT 'all that a job is found by',
  KEY opened (opened_at),
  FULLTEXT KEY words (words),
  CONSTRAINT job_words_job FOREIGN KEY (job_id) REFERENCES jobs (id)
);
CREATE TABLE IF NOT EXISTS old_jobs (
  id BINARY(16) PRIMARY KEY,
  machine VARCHAR(120) NOT NULL,
  circuit VARCHAR(64) NOT NULL,
  fault VARCHAR(128) NOT NULL,
  what VARCHAR(600) NOT NULL,
  done VARCHAR(600) NOT NULL,
  on_date DATE NOT NULL,
  price DOUBLE NULL,
  imported_at DATETIME(6) NOT NULL,
  UNIQUE KEY same (machine, on_date, what(200)),
  KEY on_date (on_date),
  FULLTEXT KEY words (machine, what, done, fault)
);

-- +goose Down
DROP TABLE IF EXISTS old_jobs;
DROP TABLE IF EXISTS job_words;
