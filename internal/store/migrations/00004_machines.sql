-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS machines (
  id BINARY(16) PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  kind VARCHAR(120) NOT NULL,
  place VARCHAR(120) NOT NULL,
  nominal_voltage DOUBLE NOT NULL COMMENT 'V DC',
  note VARCHAR(2000) NOT NULL,
  created_at DATETIME(6) NOT NULL
);

-- +goose Down
DROP TABLE IF EXISTS machines;
