-- +goose NO TRANSACTION
-- +goose Up
-- A figure typed without its unit is found with it: "1.33 V" as well as "1.33".
UPDATE job_words w JOIN (
	SELECT e.job_id, GROUP_CONCAT(CONCAT(REPLACE(REPLACE(e.value_text, '.', '_'), ',', '_'),
		CASE e.measure WHEN 'voltage' THEN 'v' WHEN 'ac_voltage' THEN 'v' WHEN 'current' THEN 'a' WHEN 'resistance' THEN 'ohm' WHEN 'frequency' THEN 'hz' END) SEPARATOR ' ') AS figures
	FROM evidence e
	WHERE e.struck_at IS NULL AND e.value_text REGEXP '^[0-9.,]*[0-9]$' AND e.measure IN ('voltage', 'ac_voltage', 'current', 'resistance', 'frequency')
	GROUP BY e.job_id
) x ON x.job_id = w.job_id
SET w.words = LEFT(CONCAT(REPLACE(w.words, 'ω', 'ohm'), ' ', x.figures), 60000);

-- +goose Down
SELECT 1;
