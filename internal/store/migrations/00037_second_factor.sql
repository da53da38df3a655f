-- +goose Up
ALTER TABLE users
  ADD COLUMN totp_secret VARCHAR(64) NOT NULL DEFAULT '' COMMENT 'base32, RFC 6238; empty: none',
  ADD COLUMN totp_step BIGINT NOT NULL DEFAULT 0 COMMENT 'of the last code that was used: each counts once';

CREATE TABLE spare_codes (
  user_id BINARY(16) NOT NULL,
  hash BINARY(32) NOT NULL COMMENT 'SHA-256: each counts once, and is taken out then',
  PRIMARY KEY (user_id, hash),
  CONSTRAINT spare_codes_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
);

-- +goose Down
DROP TABLE spare_codes;
ALTER TABLE users DROP COLUMN totp_secret, DROP COLUMN totp_step;
