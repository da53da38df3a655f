package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"slices"
	"time"

	"github.com/google/uuid"

	"corriente/core/work"
)

// Proof is a signature under one repair or several.
type Proof struct {
	ID      uuid.UUID
	Of      []string // the repairs it is for; empty: all that were done by then
	Result  string   // passed, remark or failed
	Remark  string
	Signed  string
	Counter string
	After   int               // pieces of evidence there were
	Was     map[string]string // by repair: what it was, station.mode or none
	Checks  json.RawMessage   // what was ticked
	Plan    json.RawMessage   // before and after, as it was signed
	At      time.Time
	By      string
}

// Signed is what a proof was signed on: its checks before and after, and what was ticked.
type Signed struct{ Plan, Ticks json.RawMessage }

// Plans reads what each proof of a job was signed on.
func (s *Store) Plans(ctx context.Context, job uuid.UUID) (map[uuid.UUID]Signed, error) {
	rows, err := s.DB.QueryContext(ctx, "SELECT id, plan, checks FROM proofs WHERE job_id = ?", job[:])
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[uuid.UUID]Signed{}
	for rows.Next() {
		var id uuid.UUID
		var plan, ticks []byte
		if err := rows.Scan(&id, &plan, &ticks); err != nil {
			return nil, err
		}
		out[id] = Signed{plan, ticks}
	}
	return out, rows.Err()
}

// Outcome is what one repair of a job turned out to be for.
type Outcome struct {
	Item     int    // which of the job's repairs, from 0
	Station  string // "": nothing wrong
	Fault    string // station.mode; "": not known
	Option   string
	Said     string
	P        *float64
	Right    bool
	Readings int
	Minutes  *float64 // from the first entry to the last, breaks left out
	Advised  *float64 // what the same entries were reckoned with
	Excluded bool
	At       time.Time
}

// Prove records a proof, and with it what was wrong, one outcome a repair. A job whose
// repairs are all proved is closed. The same id again changes nothing.
func (s *Store) Prove(ctx context.Context, job uuid.UUID, p Proof, os []Outcome, by uuid.UUID) (*Job, error) {
	return s.Change(ctx, job, func(tx *sql.Tx, j *Job) (bool, error) {
		if slices.ContainsFunc(j.Proofs, func(x Proof) bool { return x.ID == p.ID }) {
			return false, nil
		}
		if p.At.IsZero() {
			p.At = time.Now().UTC()
		}
		if err := insertProof(ctx, tx, job, &p, &by); err != nil {
			return false, err
		}
		if len(os) > 0 {
			if err := putOutcomes(ctx, tx, j, os); err != nil {
				return false, err
			}
		}
		j.Proofs = append(j.Proofs, p)
		if p.Result != work.Failed && work.Finished(j.Repairs()) {
			if _, err := tx.ExecContext(ctx, "UPDATE jobs SET closed_at = COALESCE(closed_at, UTC_TIMESTAMP(6)) WHERE id = ?",
				job[:]); err != nil {
				return false, err
			}
		}
		return true, index(ctx, tx, job)
	})
}

func putOutcomes(ctx context.Context, tx *sql.Tx, j *Job, os []Outcome) error {
	if err := sum(ctx, tx, "job_id", j.ID, -1); err != nil {
		return err
	}
	for i := range os {
		if err := putOutcome(ctx, tx, j, &os[i]); err != nil {
			return err
		}
	}
	if err := putAccess(ctx, tx, j); err != nil {
		return err
	}
	return sum(ctx, tx, "job_id", j.ID, 1)
}

func putOutcome(ctx context.Context, tx *sql.Tx, j *Job, o *Outcome) error {
	at := o.At
	if at.IsZero() {
		at = time.Now().UTC()
	}
	var age any
	if years := j.Machine.Age(at); years >= 0 {
		age = years
	}
	_, err := tx.ExecContext(ctx, `INSERT INTO outcomes (job_id, item, circuit, machine_kind, machine_id, station, fault, option_id, said, p, was_right, readings, minutes, advised, at, excluded, age)
		VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?) ON DUPLICATE KEY UPDATE station=VALUES(station), fault=VALUES(fault), option_id=VALUES(option_id), said=VALUES(said), p=VALUES(p), was_right=VALUES(was_right),
		readings=VALUES(readings), minutes=VALUES(minutes), advised=VALUES(advised), at=VALUES(at), age=VALUES(age)`,
		j.ID[:], o.Item, j.Case.CircuitID, j.Machine.Kind, j.Machine.ID[:], o.Station, o.Fault, o.Option, o.Said, o.P,
		o.Right, o.Readings, o.Minutes, o.Advised, at.UTC(), o.Excluded, age)
	return err
}

// putAccess keeps what a person said of the way there; what stood there unchanged teaches
// nothing.
func putAccess(ctx context.Context, tx *sql.Tx, j *Job) error {
	if _, err := tx.ExecContext(ctx, "DELETE FROM access_times WHERE job_id = ?", j.ID[:]); err != nil {
		return err
	}
	for g, m := range j.Case.AccessMinutes {
		if l, ok := j.Case.Known.Access[g]; ok && l.Minutes == m {
			continue
		}
		if _, err := tx.ExecContext(ctx, "INSERT INTO access_times (job_id, access, minutes) VALUES (?,?,?)", j.ID[:], g, m); err != nil {
			return err
		}
	}
	return nil
}

// sum adds outcomes to the sums that the reliability page and learning read, or takes them
// out, where they count. of names a column of theirs and its value: a job or a machine.
func sum(ctx context.Context, tx *sql.Tx, of string, id uuid.UUID, sign int) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO claim_sums (p100, was_right, n, p, readings, minutes)
		SELECT * FROM (SELECT FLOOR(p * 100) b, was_right r, ? * COUNT(*) n, ? * SUM(p) p, ? * SUM(readings + 0E0) k, ? * SUM(COALESCE(minutes, 0E0)) m
			FROM outcomes WHERE `+of+` = ? AND excluded = 0 AND p IS NOT NULL GROUP BY b, r) x
		ON DUPLICATE KEY UPDATE n = claim_sums.n + VALUES(n), p = claim_sums.p + VALUES(p), readings = claim_sums.readings + VALUES(readings), minutes = claim_sums.minutes + VALUES(minutes)`,
		sign, sign, sign, sign, id[:])
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO fault_sums (circuit, machine_kind, age, fault, n)
		SELECT * FROM (SELECT circuit, machine_kind, COALESCE(age + 0E0, -1) a, fault, ? * COUNT(*) n FROM outcomes WHERE `+of+` = ? AND excluded = 0 AND fault <> '' GROUP BY circuit, machine_kind, a, fault) x
		ON DUPLICATE KEY UPDATE n = fault_sums.n + VALUES(n)`, sign, id[:])
	return err
}

// PutOutcome records what a job turned out to be.
func (s *Store) PutOutcome(ctx context.Context, job uuid.UUID, o Outcome) error {
	_, err := s.Change(ctx, job, func(tx *sql.Tx, j *Job) (bool, error) { return true, putOutcomes(ctx, tx, j, []Outcome{o}) })
	return err
}

// Outcomes reads what a job's repairs turned out to be for, by which repair it was.
func (s *Store) Outcomes(ctx context.Context, job uuid.UUID) (map[int]Outcome, error) {
	rows, err := s.DB.QueryContext(ctx,
		"SELECT item, station, fault, option_id, said, p, was_right, readings, minutes, advised, excluded, at FROM "+
			"outcomes WHERE job_id = ? ORDER BY item", job[:])
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int]Outcome{}
	for rows.Next() {
		var o Outcome
		if err := rows.Scan(&o.Item, &o.Station, &o.Fault, &o.Option, &o.Said, &o.P, &o.Right, &o.Readings,
			&o.Minutes, &o.Advised, &o.Excluded, &o.At); err != nil {
			return nil, err
		}
		out[o.Item] = o
	}
	return out, rows.Err()
}

// Exclude keeps a job out of learning, or takes it in again.
func (s *Store) Exclude(ctx context.Context, job uuid.UUID, out bool) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		var n int
		if err := tx.QueryRowContext(ctx, "SELECT 1 FROM outcomes WHERE job_id = ? FOR UPDATE", job[:]).Scan(&n); err != nil {
			return notFound(err)
		}
		if err := sum(ctx, tx, "job_id", job, -1); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, "UPDATE outcomes SET excluded = ? WHERE job_id = ?", out, job[:]); err != nil {
			return err
		}
		return sum(ctx, tx, "job_id", job, 1)
	})
}

// Ticks reads what was ticked towards a job's proof, and the values given.
func (s *Store) Ticks(ctx context.Context, job uuid.UUID) (map[string]string, error) {
	rows, err := s.DB.QueryContext(ctx, "SELECT name, value FROM proof_ticks WHERE job_id = ?", job[:])
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string]string{}
	for rows.Next() {
		var k, v string
		if err := rows.Scan(&k, &v); err != nil {
			return nil, err
		}
		out[k] = v
	}
	return out, rows.Err()
}

// PutTick ticks something, or takes the tick away with an empty value.
func (s *Store) PutTick(ctx context.Context, job uuid.UUID, name, value string) error {
	q, args := "INSERT INTO proof_ticks (job_id, name, value, at) VALUES (?,?,?,UTC_TIMESTAMP(6)) ON DUPLICATE KEY "+
		"UPDATE value=VALUES(value)", []any{job[:], name, value}
	if value == "" {
		q, args = "DELETE FROM proof_ticks WHERE job_id = ? AND name = ?", []any{job[:], name}
	}
	_, err := s.exec(ctx, q, args...)
	return err
}
