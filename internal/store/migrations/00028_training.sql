-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS attempts (
  id BINARY(16) PRIMARY KEY COMMENT 'made by the client',
  user_id BINARY(16) NOT NULL,
  exercise VARCHAR(64) NOT NULL COMMENT 'id of a course''s exercise, of an own one, or random',
  spec TEXT NOT NULL COMMENT 'JSON: the exercise as it was',
  moves MEDIUMTEXT NOT NULL COMMENT 'JSON: the moves; with the exercise they give the attempt again',
  started_at DATETIME(6) NOT NULL,
  over_at DATETIME(6) NULL,
  score INT NULL,
  right_part BOOLEAN NULL,
  debrief MEDIUMTEXT NULL COMMENT 'JSON',
  KEY user_started (user_id, started_at),
  CONSTRAINT attempts_user FOREIGN KEY (user_id) REFERENCES users (id)
);
CREATE TABLE IF NOT EXISTS exercises (
  id VARCHAR(64) PRIMARY KEY,
  spec TEXT NOT NULL COMMENT 'JSON',
  made_at DATETIME(6) NOT NULL,
  made_by BINARY(16) NULL
);
CREATE TABLE IF NOT EXISTS drills (
  id BINARY(16) PRIMARY KEY,
  user_id BINARY(16) NOT NULL,
  kind VARCHAR(16) NOT NULL,
  circuit VARCHAR(64) NOT NULL,
  was_right BOOLEAN NOT NULL,
  at DATETIME(6) NOT NULL,
  KEY user_at (user_id, at),
  CONSTRAINT drills_user FOREIGN KEY (user_id) REFERENCES users (id)
);

-- +goose Down
DROP TABLE IF EXISTS drills;
DROP TABLE IF EXISTS exercises;
DROP TABLE IF EXISTS attempts;
