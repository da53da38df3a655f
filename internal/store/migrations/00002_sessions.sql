-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS sessions (
  token CHAR(43) PRIMARY KEY,
  data BLOB NOT NULL,
  expiry TIMESTAMP(6) NOT NULL,
  KEY expiry (expiry)
);

-- +goose Down
DROP TABLE IF EXISTS sessions;
