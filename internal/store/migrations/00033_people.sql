-- +goose NO TRANSACTION
-- +goose Up
ALTER TABLE users
  ADD COLUMN IF NOT EXISTS suspended_at DATETIME(6) NULL,
  ADD COLUMN IF NOT EXISTS pin_hash VARCHAR(255) NOT NULL DEFAULT '' COMMENT 'argon2id; empty: no PIN',
  ADD COLUMN IF NOT EXISTS preferences VARCHAR(2000) NOT NULL DEFAULT '' COMMENT 'JSON';

CREATE TABLE IF NOT EXISTS sign_ins (
  id BINARY(16) PRIMARY KEY,
  user_id BINARY(16) NOT NULL,
  device VARCHAR(120) NOT NULL COMMENT 'what the browser calls itself, in words',
  created_at DATETIME(6) NOT NULL,
  seen_at DATETIME(6) NOT NULL,
  KEY user_id (user_id),
  CONSTRAINT sign_ins_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
);

CREATE TABLE IF NOT EXISTS invitations (
  hash BINARY(32) PRIMARY KEY COMMENT 'SHA-256 of what stands in the link: the link itself is kept nowhere',
  user_id BINARY(16) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  expires_at DATETIME(6) NOT NULL,
  used_at DATETIME(6) NULL,
  KEY user_id (user_id),
  CONSTRAINT invitations_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
);

CREATE TABLE IF NOT EXISTS shared_devices (
  id BINARY(16) PRIMARY KEY,
  hash BINARY(32) NOT NULL COMMENT 'SHA-256 of the cookie it carries',
  name VARCHAR(80) NOT NULL,
  admitted_at DATETIME(6) NOT NULL,
  admitted_by BINARY(16) NOT NULL,
  UNIQUE KEY hash (hash),
  CONSTRAINT shared_devices_admitted_by FOREIGN KEY (admitted_by) REFERENCES users (id)
);

CREATE TABLE IF NOT EXISTS acts (
  id BINARY(16) PRIMARY KEY,
  at DATETIME(6) NOT NULL,
  by_name VARCHAR(120) NOT NULL COMMENT 'as the person was called then',
  kind VARCHAR(32) NOT NULL,
  says VARCHAR(400) NOT NULL,
  KEY at (at)
);

ALTER TABLE settings
  MODIFY COLUMN value TEXT NOT NULL,
  ADD COLUMN IF NOT EXISTS revision INT NOT NULL DEFAULT 1;

-- +goose Down
ALTER TABLE settings DROP COLUMN IF EXISTS revision;
DROP TABLE IF EXISTS acts;
DROP TABLE IF EXISTS shared_devices;
DROP TABLE IF EXISTS invitations;
DROP TABLE IF EXISTS sign_ins;
ALTER TABLE users DROP COLUMN IF EXISTS preferences, DROP COLUMN IF EXISTS pin_hash, DROP COLUMN IF EXISTS suspended_at;
