-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS code_tables (
  controller VARCHAR(120) NOT NULL,
  machine_kind VARCHAR(120) NOT NULL COMMENT 'empty: the controller\'s own',
  circuit VARCHAR(64) NOT NULL,
  entries MEDIUMTEXT NOT NULL COMMENT 'JSON',
  updated_at DATETIME(6) NOT NULL,
  updated_by BINARY(16) NULL,
  PRIMARY KEY (controller, machine_kind, circuit),
  CONSTRAINT code_tables_updated_by FOREIGN KEY (updated_by) REFERENCES users (id)
);

-- +goose Down
DROP TABLE IF EXISTS code_tables;
