-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS parts (
  id BINARY(16) PRIMARY KEY,
  kind VARCHAR(80) NOT NULL,
  name VARCHAR(200) NOT NULL,
  number VARCHAR(80) NOT NULL,
  sizes VARCHAR(200) NOT NULL COMMENT 'JSON list, mm',
  price DOUBLE NOT NULL,
  days DOUBLE NULL COMMENT 'null: not known',
  stock INT UNSIGNED NOT NULL,
  supplier VARCHAR(80) NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  UNIQUE KEY same (supplier, number, name),
  FULLTEXT KEY words (kind, name, number)
);
CREATE TABLE IF NOT EXISTS settings (
  name VARCHAR(64) PRIMARY KEY,
  value VARCHAR(400) NOT NULL
);

-- +goose Down
DROP TABLE IF EXISTS parts;
DROP TABLE IF EXISTS settings;
