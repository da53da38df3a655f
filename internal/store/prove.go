package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"github.com/google/uuid"
)

// Proof is a repair as it was proved.
type Proof struct {
	ID      uuid.UUID
	Result  string // passed, remark or failed
	Remark  string
	Signed  string
	Counter string
	Checks  json.RawMessage
	Plan    json.RawMessage
	At      time.Time
	By      string
}

// Proofs lists a job's, latest last.
func (s *Store) Proofs(ctx context.Context, job uuid.UUID) ([]Proof, error) {
	rows, err := s.DB.QueryContext(ctx, "SELECT p.id, p.result, p.remark, p.signed, p.counter, p.checks, p.plan, p.at, COALESCE(u.name,'') FROM proofs p LEFT JOIN users u ON u.id = p.by_user WHERE job_id = ? ORDER BY p.at", job[:])
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Proof{}
	for rows.Next() {
		var p Proof
		var checks, plan []byte
		if err := rows.Scan(&p.ID, &p.Result, &p.Remark, &p.Signed, &p.Counter, &checks, &plan, &p.At, &p.By); err != nil {
			return nil, err
		}
		p.Checks, p.Plan = checks, plan
		out = append(out, p)
	}
	return out, rows.Err()
}

// Outcome is what a job turned out to be.
type Outcome struct {
	Station  string // "": nothing wrong
	Fault    string // station.mode; "": not known
	Option   string
	Said     string
	P        *float64
	Right    bool
	Readings int
	Minutes  *float64
	Excluded bool
	At       time.Time
}

// Prove records a proof, and with it what the job turned out to be; a job that passed is
// closed. The same id again changes nothing.
func (s *Store) Prove(ctx context.Context, job uuid.UUID, p Proof, o *Outcome, by uuid.UUID) error {
	_, err := s.Change(ctx, job, func(tx *sql.Tx, j *Job) (bool, error) {
		r, err := tx.ExecContext(ctx, "INSERT INTO proofs (id, job_id, result, remark, signed, counter, checks, plan, at, by_user) VALUES (?,?,?,?,?,?,?,?,UTC_TIMESTAMP(6),?) ON DUPLICATE KEY UPDATE id=id",
			p.ID[:], job[:], p.Result, p.Remark, p.Signed, p.Counter, string(p.Checks), string(p.Plan), by[:])
		if err != nil {
			return false, err
		}
		if n, _ := r.RowsAffected(); n == 0 {
			return false, nil
		}
		if o != nil {
			if err := putOutcome(ctx, tx, j, o); err != nil {
				return false, err
			}
		}
		if p.Result != "failed" {
			if _, err := tx.ExecContext(ctx, "UPDATE jobs SET closed_at = COALESCE(closed_at, UTC_TIMESTAMP(6)) WHERE id = ?", job[:]); err != nil {
				return false, err
			}
		}
		return true, index(ctx, tx, job)
	})
	return err
}

func putOutcome(ctx context.Context, tx *sql.Tx, j *Job, o *Outcome) error {
	at := o.At
	if at.IsZero() {
		at = time.Now().UTC()
	}
	if err := sum(ctx, tx, "job_id", j.ID, -1); err != nil {
		return err
	}
	var age any
	if years := j.Machine.Age(at); years >= 0 {
		age = years
	}
	_, err := tx.ExecContext(ctx, `INSERT INTO outcomes (job_id, circuit, machine_kind, machine_id, station, fault, option_id, said, p, was_right, readings, minutes, at, excluded, age)
		VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?) ON DUPLICATE KEY UPDATE station=VALUES(station), fault=VALUES(fault), option_id=VALUES(option_id), said=VALUES(said), p=VALUES(p), was_right=VALUES(was_right),
		readings=VALUES(readings), minutes=VALUES(minutes), at=VALUES(at), age=VALUES(age)`,
		j.ID[:], j.Case.CircuitID, j.Machine.Kind, j.Machine.ID[:], o.Station, o.Fault, o.Option, o.Said, o.P, o.Right, o.Readings, o.Minutes, at.UTC(), o.Excluded, age)
	if err != nil {
		return err
	}
	// What a person said of the way there; what stood there unchanged teaches nothing.
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
	return sum(ctx, tx, "job_id", j.ID, 1)
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
	_, err := s.Change(ctx, job, func(tx *sql.Tx, j *Job) (bool, error) { return true, putOutcome(ctx, tx, j, &o) })
	return err
}

// Outcome reads what a job turned out to be; nil while nobody said.
func (s *Store) Outcome(ctx context.Context, job uuid.UUID) (*Outcome, error) {
	o := &Outcome{}
	err := s.DB.QueryRowContext(ctx, "SELECT station, fault, option_id, said, p, was_right, readings, minutes, excluded, at FROM outcomes WHERE job_id = ?", job[:]).
		Scan(&o.Station, &o.Fault, &o.Option, &o.Said, &o.P, &o.Right, &o.Readings, &o.Minutes, &o.Excluded, &o.At)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	return o, err
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
	q, args := "INSERT INTO proof_ticks (job_id, name, value, at) VALUES (?,?,?,UTC_TIMESTAMP(6)) ON DUPLICATE KEY UPDATE value=VALUES(value)", []any{job[:], name, value}
	if value == "" {
		q, args = "DELETE FROM proof_ticks WHERE job_id = ? AND name = ?", []any{job[:], name}
	}
	_, err := s.DB.ExecContext(ctx, q, args...)
	return err
}

// Costs is what a job came to in the end.
type Costs struct {
	Parts   float64
	Minutes float64
	Price   float64
	Note    string
	At      time.Time
}

// Costs reads them; nil while nobody entered any.
func (s *Store) Costs(ctx context.Context, job uuid.UUID) (*Costs, error) {
	c := &Costs{}
	err := s.DB.QueryRowContext(ctx, "SELECT parts, minutes, price, note, at FROM job_costs WHERE job_id = ?", job[:]).Scan(&c.Parts, &c.Minutes, &c.Price, &c.Note, &c.At)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	return c, err
}

// PutCosts sets them.
func (s *Store) PutCosts(ctx context.Context, job uuid.UUID, c Costs, by uuid.UUID) error {
	_, err := s.DB.ExecContext(ctx, "INSERT INTO job_costs (job_id, parts, minutes, price, note, at, by_user) VALUES (?,?,?,?,?,UTC_TIMESTAMP(6),?) ON DUPLICATE KEY UPDATE parts=VALUES(parts), minutes=VALUES(minutes), price=VALUES(price), note=VALUES(note), at=VALUES(at)",
		job[:], c.Parts, c.Minutes, c.Price, c.Note, by[:])
	return err
}

// FollowUp sets the day by which something lasting is to follow, nil for none.
func (s *Store) FollowUp(ctx context.Context, job uuid.UUID, on *time.Time, what string) error {
	var day any
	if on != nil {
		day = on.Format(time.DateOnly)
	}
	_, err := s.DB.ExecContext(ctx, "UPDATE jobs SET follow_up = ?, follow_what = ? WHERE id = ?", day, what, job[:])
	return err
}

// FollowUpOf reads by when something is to follow, nil for never.
func (s *Store) FollowUpOf(ctx context.Context, job uuid.UUID) (on *time.Time, what string, err error) {
	err = s.DB.QueryRowContext(ctx, "SELECT follow_up, follow_what FROM jobs WHERE id = ?", job[:]).Scan(&on, &what)
	return on, what, notFound(err)
}
