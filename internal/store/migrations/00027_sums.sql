-- +goose NO TRANSACTION
-- +goose Up
CREATE TABLE IF NOT EXISTS claim_sums (
  p100 SMALLINT NOT NULL COMMENT 'stated probability, whole per cent',
  was_right BOOLEAN NOT NULL,
  n INT NOT NULL,
  p DOUBLE NOT NULL COMMENT 'sum',
  readings DOUBLE NOT NULL COMMENT 'sum',
  minutes DOUBLE NOT NULL COMMENT 'sum',
  PRIMARY KEY (p100, was_right)
) COMMENT 'outcomes that count, summed up as they are written';
REPLACE INTO claim_sums SELECT FLOOR(p * 100), was_right, COUNT(*), SUM(p), SUM(readings), COALESCE(SUM(minutes), 0) FROM outcomes WHERE excluded = 0 AND p IS NOT NULL GROUP BY FLOOR(p * 100), was_right;
ALTER TABLE outcomes DROP KEY IF EXISTS reliability;
ALTER TABLE outcomes DROP KEY IF EXISTS learning;
ALTER TABLE outcomes ADD KEY IF NOT EXISTS learning (circuit, excluded, machine_kind, fault, at);

-- +goose Down
DROP TABLE IF EXISTS claim_sums;
