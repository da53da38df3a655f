-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS blobs (
  sha256 BINARY(32) PRIMARY KEY,
  mime VARCHAR(32) NOT NULL,
  size INT UNSIGNED NOT NULL COMMENT 'bytes'
);
CREATE TABLE IF NOT EXISTS blob_parts (
  sha256 BINARY(32) NOT NULL,
  part INT UNSIGNED NOT NULL,
  data MEDIUMBLOB NOT NULL COMMENT 'at most 1 MiB',
  PRIMARY KEY (sha256, part),
  CONSTRAINT blob_parts_blob FOREIGN KEY (sha256) REFERENCES blobs (sha256)
);
INSERT IGNORE INTO blobs (sha256, mime, size) SELECT sha256, mime, size FROM photos;
INSERT IGNORE INTO blob_parts (sha256, part, data) SELECT p.sha256, q.part, q.data FROM photo_parts q JOIN photos p ON p.id = q.photo_id;
ALTER TABLE photos ADD COLUMN IF NOT EXISTS thumb BINARY(32) NULL COMMENT 'content hash of its thumbnail' AFTER sha256;

-- +goose Down
DROP TABLE IF EXISTS blob_parts;
DROP TABLE IF EXISTS blobs;
