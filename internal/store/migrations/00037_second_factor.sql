-- +goose Up
ALTER TABLE users
  ADD COLUMN IF NOT EXISTS totp_secret VARCHAR(64) NOT NULL DEFAULT '' COMMENT 'base32, RFC 6238; empty: none',
  ADD COLUMN IF NOT EXISTS totp_step BIGINT NOT NULL DEFAULT 0 COMMENT 'of the last code that was used: each counts once';

CREATE TABLE IF NOT EXISTS spare_codes (
  user_id BINARY(16) NOT NULL,
  hash BINARY(32) NOT NULL COMMENT 'SHA-256: each counts once, and is taken out then',
  PRIMARY KEY (user_id, hash),
  CONSTRAINT spare_codes_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
);

-- +goose Down
DROP TABLE IF EXISTS spare_codes;
ALTER TABLE users DROP COLUMN IF EXISTS totp_secret, DROP COLUMN IF EXISTS totp_step;
