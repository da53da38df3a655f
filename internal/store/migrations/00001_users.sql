-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS users (
  id BINARY(16) PRIMARY KEY,
  login VARCHAR(64) NOT NULL,
  name VARCHAR(120) NOT NULL,
  role ENUM('owner','technician','trainee','counter') NOT NULL,
  password_hash VARCHAR(255) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  UNIQUE KEY login (login)
);

-- +goose Down
DROP TABLE IF EXISTS users;
