-- +goose NO TRANSACTION
-- +goose Up
ALTER TABLE evidence ADD COLUMN IF NOT EXISTS uncertainty_text VARCHAR(64) NOT NULL DEFAULT '' COMMENT 'the value''s own standard uncertainty, where it is no plain reading' AFTER leads_text;

-- +goose Down
ALTER TABLE evidence DROP COLUMN IF EXISTS uncertainty_text;
