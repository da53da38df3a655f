-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS instruments (
  id BINARY(16) PRIMARY KEY,
  name VARCHAR(64) NOT NULL,
  kind VARCHAR(16) NOT NULL COMMENT 'multimeter, dc_clamp or scope',
  address VARCHAR(120) NOT NULL COMMENT 'host:port of its SCPI socket; empty: read by eye',
  accuracy MEDIUMTEXT NOT NULL COMMENT 'JSON: what its maker promises, by measure',
  leads_ohm DOUBLE NOT NULL COMMENT 'what it reads with its leads held together',
  zero_a DOUBLE NOT NULL COMMENT 'what a clamp reads with no current in it',
  zeroed_at DATETIME(6) NULL,
  updated_at DATETIME(6) NOT NULL
);

-- +goose Down
DROP TABLE IF EXISTS instruments;
