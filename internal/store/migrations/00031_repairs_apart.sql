-- +goose NO TRANSACTION
-- +goose Up
ALTER TABLE decisions MODIFY option_id VARCHAR(200) NOT NULL COMMENT 'what is done; of a plan for several parts station.does joined by +';
ALTER TABLE decisions MODIFY label VARCHAR(400) NOT NULL DEFAULT '' COMMENT 'the option in words';
ALTER TABLE decisions ADD COLUMN IF NOT EXISTS stations VARCHAR(300) NOT NULL DEFAULT '' COMMENT 'the parts it is for, by commas; empty: station alone';
ALTER TABLE decisions ADD COLUMN IF NOT EXISTS found VARCHAR(400) NOT NULL DEFAULT '' COMMENT 'what the verdict said when it was taken';
ALTER TABLE decisions ADD COLUMN IF NOT EXISTS is_temporary BOOLEAN NOT NULL DEFAULT FALSE;
ALTER TABLE decisions ADD COLUMN IF NOT EXISTS until_day DATE NULL COMMENT 'of a temporary repair: when the lasting one is due';
ALTER TABLE decisions ADD COLUMN IF NOT EXISTS limit_says VARCHAR(300) NOT NULL DEFAULT '' COMMENT 'of a temporary repair';
ALTER TABLE decisions ADD COLUMN IF NOT EXISTS life_years DOUBLE NOT NULL DEFAULT 0 COMMENT 'how long such work usually lasts, as it was computed; 0: not said';
ALTER TABLE decisions ADD COLUMN IF NOT EXISTS warranty_years DOUBLE NOT NULL DEFAULT 0;
UPDATE decisions SET is_temporary = TRUE WHERE option_id = 'temporary';
UPDATE decisions d JOIN jobs j ON j.id = d.job_id SET d.until_day = j.follow_up, d.limit_says = TRIM(LEADING 'Temporary repair, ' FROM j.follow_what) WHERE d.is_temporary AND d.until_day IS NULL AND j.follow_up IS NOT NULL;
ALTER TABLE repairs ADD COLUMN IF NOT EXISTS decision_id BINARY(16) NULL COMMENT 'what it was done for; null: put right while measuring';
UPDATE repairs r SET decision_id = (SELECT d.id FROM decisions d WHERE d.job_id = r.job_id AND d.station = r.station AND d.created_at <= r.created_at ORDER BY d.created_at DESC LIMIT 1) WHERE r.decision_id IS NULL;
ALTER TABLE proofs ADD COLUMN IF NOT EXISTS covers TEXT NOT NULL DEFAULT '[]' COMMENT 'JSON: the repairs it is for; empty: all that were done by then';
ALTER TABLE proofs ADD COLUMN IF NOT EXISTS after_seq INT UNSIGNED NULL COMMENT 'pieces of evidence there were when it was signed';
ALTER TABLE proofs ADD COLUMN IF NOT EXISTS was TEXT NOT NULL DEFAULT '{}' COMMENT 'JSON: what it was, by repair, as signed';
UPDATE proofs p SET after_seq = (SELECT COUNT(*) FROM evidence e WHERE e.job_id = p.job_id AND e.taken_at <= p.at) WHERE p.after_seq IS NULL;
ALTER TABLE outcomes MODIFY machine_kind VARCHAR(120) NOT NULL;
ALTER TABLE outcomes MODIFY option_id VARCHAR(200) NOT NULL COMMENT 'what was done';
ALTER TABLE outcomes ADD COLUMN IF NOT EXISTS item SMALLINT UNSIGNED NOT NULL DEFAULT 0 COMMENT 'which of the job''s repairs, from 0';
ALTER TABLE outcomes DROP PRIMARY KEY, ADD PRIMARY KEY (job_id, item);
ALTER TABLE fault_sums MODIFY machine_kind VARCHAR(120) NOT NULL;
ALTER TABLE job_costs ADD COLUMN IF NOT EXISTS decision_id BINARY(16) NOT NULL DEFAULT 0x00000000000000000000000000000000 COMMENT 'of which decision; zeros: of the whole job';
ALTER TABLE job_costs DROP PRIMARY KEY, ADD PRIMARY KEY (job_id, decision_id);
UPDATE IGNORE job_costs c SET decision_id = COALESCE((SELECT d.id FROM decisions d WHERE d.job_id = c.job_id ORDER BY d.created_at DESC LIMIT 1), decision_id) WHERE decision_id = 0x00000000000000000000000000000000;
CREATE TABLE IF NOT EXISTS job_terms (
  job_id BINARY(16) PRIMARY KEY,
  wishes TEXT NOT NULL COMMENT 'JSON: what the customer wants',
  figures TEXT NOT NULL COMMENT 'JSON: prices, minutes, waits and lives as typed, by option',
  at DATETIME(6) NOT NULL,
  CONSTRAINT job_terms_job FOREIGN KEY (job_id) REFERENCES jobs (id)
) COMMENT 'what a job is decided by, besides its evidence';

-- +goose Down
DROP TABLE IF EXISTS job_terms;
