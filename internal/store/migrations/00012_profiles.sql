-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS profiles (
  machine_kind VARCHAR(120) NOT NULL COMMENT 'type of machine',
  circuit VARCHAR(64) NOT NULL,
  marks MEDIUMTEXT NOT NULL COMMENT 'JSON: what the wiring diagram says, by node and station',
  updated_at DATETIME(6) NOT NULL,
  updated_by BINARY(16) NULL,
  PRIMARY KEY (machine_kind, circuit),
  CONSTRAINT profiles_updated_by FOREIGN KEY (updated_by) REFERENCES users (id)
);

-- +goose Down
DROP TABLE IF EXISTS profiles;
