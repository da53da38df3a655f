-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS sign_in_attempts (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  who BINARY(32) NOT NULL COMMENT 'hash of login and address: no personal data',
  at DATETIME(6) NOT NULL,
  KEY who_at (who, at)
);

-- +goose Down
DROP TABLE IF EXISTS sign_in_attempts;
