-- +goose Up
-- What one server tells the others over the same database: a job was changed, or (no job) somebody was signed out.
CREATE TABLE IF NOT EXISTS told (
  id BINARY(16) NOT NULL PRIMARY KEY,
  server BINARY(16) NOT NULL,
  job BINARY(16) NULL,
  at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  KEY (at)
);

-- +goose Down
DROP TABLE IF EXISTS told;
