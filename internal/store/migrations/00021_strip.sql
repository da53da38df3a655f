-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS strip_items (
  id BINARY(16) PRIMARY KEY COMMENT 'made by the client',
  job_id BINARY(16) NOT NULL,
  seq INT UNSIGNED NOT NULL COMMENT 'order in which it came off',
  text VARCHAR(300) NOT NULL COMMENT 'as typed',
  explained VARCHAR(300) NOT NULL DEFAULT '' COMMENT 'why it does not go back',
  created_at DATETIME(6) NOT NULL,
  created_by BINARY(16) NULL,
  back_at DATETIME(6) NULL COMMENT 'put back, ticked',
  back_by BINARY(16) NULL,
  struck_at DATETIME(6) NULL,
  UNIQUE KEY job_seq (job_id, seq),
  CONSTRAINT strip_items_job FOREIGN KEY (job_id) REFERENCES jobs (id)
);
CREATE TABLE IF NOT EXISTS strip_photos (
  item_id BINARY(16) NOT NULL,
  photo_id BINARY(16) NOT NULL,
  PRIMARY KEY (item_id, photo_id),
  CONSTRAINT strip_photos_item FOREIGN KEY (item_id) REFERENCES strip_items (id),
  CONSTRAINT strip_photos_photo FOREIGN KEY (photo_id) REFERENCES photos (id)
);
CREATE TABLE IF NOT EXISTS job_notes (
  id BINARY(16) PRIMARY KEY COMMENT 'made by the client',
  job_id BINARY(16) NOT NULL,
  text VARCHAR(1000) NOT NULL,
  detail MEDIUMTEXT NOT NULL COMMENT 'JSON: the calculation it came from, or {}',
  created_at DATETIME(6) NOT NULL,
  created_by BINARY(16) NULL,
  KEY job (job_id, created_at),
  CONSTRAINT job_notes_job FOREIGN KEY (job_id) REFERENCES jobs (id)
);
CREATE TABLE IF NOT EXISTS craft_notes (
  id BINARY(16) PRIMARY KEY COMMENT 'made by the client',
  words VARCHAR(200) NOT NULL COMMENT 'one of them stands in the entry it belongs to; separated by commas',
  text VARCHAR(600) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  created_by BINARY(16) NULL,
  dropped_at DATETIME(6) NULL
);

-- +goose Down
DROP TABLE IF EXISTS craft_notes;
DROP TABLE IF EXISTS job_notes;
DROP TABLE IF EXISTS strip_photos;
DROP TABLE IF EXISTS strip_items;
