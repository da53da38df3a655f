-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS uploads (
  id BINARY(16) PRIMARY KEY COMMENT 'of the photo it will be',
  size INT UNSIGNED NOT NULL COMMENT 'bytes in all',
  created_at DATETIME(6) NOT NULL,
  created_by BINARY(16) NOT NULL,
  CONSTRAINT uploads_created_by FOREIGN KEY (created_by) REFERENCES users (id)
);
CREATE TABLE IF NOT EXISTS upload_parts (
  upload_id BINARY(16) NOT NULL,
  at INT UNSIGNED NOT NULL COMMENT 'bytes before it',
  data MEDIUMBLOB NOT NULL,
  PRIMARY KEY (upload_id, at),
  CONSTRAINT upload_parts_upload FOREIGN KEY (upload_id) REFERENCES uploads (id) ON DELETE CASCADE
);

-- +goose Down
DROP TABLE IF EXISTS upload_parts;
DROP TABLE IF EXISTS uploads;
