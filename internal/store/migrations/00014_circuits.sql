-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS circuits (
  id VARCHAR(64) PRIMARY KEY,
  title VARCHAR(200) NOT NULL,
  body MEDIUMTEXT NOT NULL COMMENT 'corriente-circuit/1',
  updated_at DATETIME(6) NOT NULL,
  updated_by BINARY(16) NULL,
  CONSTRAINT circuits_updated_by FOREIGN KEY (updated_by) REFERENCES users (id)
);

-- +goose Down
DROP TABLE IF EXISTS circuits;
