-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS photo_parts (
  photo_id BINARY(16) NOT NULL,
  part INT UNSIGNED NOT NULL,
  data MEDIUMBLOB NOT NULL COMMENT 'at most 1 MiB',
  PRIMARY KEY (photo_id, part),
  CONSTRAINT photo_parts_photo FOREIGN KEY (photo_id) REFERENCES photos (id)
);

-- +goose Down
DROP TABLE IF EXISTS photo_parts;
