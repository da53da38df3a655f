-- +goose NO TRANSACTION
-- +goose Up
ALTER TABLE job_words MODIFY words TEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL COMMENT 'all that a job is found by: small letters without accents, a blank before each word';

-- +goose Down
SELECT 1;
