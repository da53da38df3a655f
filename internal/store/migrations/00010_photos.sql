-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS photos (
  id BINARY(16) PRIMARY KEY,
  mime VARCHAR(32) NOT NULL,
  size INT UNSIGNED NOT NULL COMMENT 'bytes',
  sha256 BINARY(32) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  created_by BINARY(16) NULL,
  CONSTRAINT photos_created_by FOREIGN KEY (created_by) REFERENCES users (id)
);

-- +goose Down
DROP TABLE IF EXISTS photos;
