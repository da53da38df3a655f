package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"corriente/core/casefile"
	"corriente/core/record"
	"corriente/core/work"
)

// What was chosen, done and signed of a job: see core/work for how they make its repairs.

// ErrSigned: what was done can be reworded until it is signed.
var ErrSigned = errors.New("this repair is signed: what was done stands as it is")

// Record puts a job's repairs together for the rules of the job.
func (j *Job) Record() *record.Record { return record.Of(j.Export()) }

// Repairs lists a job's repairs, the first begun first.
func (j *Job) Repairs() []work.Repair { return j.Record().Repairs }

// All lists the parts a decision is for.
func (d *Decision) All() []string {
	if len(d.Stations) > 0 {
		return d.Stations
	}
	return []string{d.Station}
}

func (d *Decision) file() casefile.Decision {
	out := casefile.Decision{ID: d.ID.String(), Option: d.Option, Station: d.Station, Price: d.Price,
		Reason: d.Reason, By: d.By, At: d.At.UTC().Format(time.RFC3339Nano),
		Stations: d.Stations, Label: d.Label, Who: d.Who, SetAside: d.SetAside, Found: d.Found,
		Temporary: d.Temporary, Limit: d.Limit, Life: d.Life, Warranty: d.Warranty}
	if d.Until != nil {
		out.Until = d.Until.UTC().Format(time.RFC3339Nano)
	}
	return out
}

// DecisionOf is a decision of a case file as it is kept.
func DecisionOf(d *casefile.Decision) Decision {
	x := Decision{ID: NewID(), Option: d.Option, Station: d.Station, Price: d.Price, Reason: d.Reason, By: d.By, At: parseTime(d.At),
		Stations: d.Stations, Label: d.Label, Who: d.Who, SetAside: d.SetAside, Found: d.Found,
		Temporary: d.Temporary || d.Option == work.Temporary, Limit: d.Limit, Life: d.Life, Warranty: d.Warranty}
	if id, err := uuid.Parse(d.ID); err == nil {
		x.ID = id
	}
	if d.Until != "" {
		t := parseTime(d.Until)
		x.Until = &t
	}
	return x
}

func (p *Proof) file() casefile.Proof {
	return casefile.Proof{ID: p.ID.String(), Of: p.Of, Result: p.Result, Remark: p.Remark, Signed: p.Signed,
		Counter: p.Counter, After: p.After, Was: p.Was, At: p.At.UTC().Format(time.RFC3339Nano), By: p.By}
}

// ProofOf is a proof of a case file as it is kept.
func ProofOf(p *casefile.Proof) Proof {
	x := Proof{ID: NewID(), Of: p.Of, Result: p.Result, Remark: p.Remark, Signed: p.Signed, Counter: p.Counter,
		After: p.After, Was: p.Was, At: parseTime(p.At), By: p.By}
	if id, err := uuid.Parse(p.ID); err == nil {
		x.ID = id
	}
	return x
}

// decision adds what was chosen at a revision of the job; one that is there stays.
func (x into) decision(ctx context.Context, revision int, d *Decision) error {
	var until any
	if d.Until != nil {
		until = d.Until.Format(time.DateOnly)
	}
	_, err := x.tx.ExecContext(ctx, `INSERT INTO decisions (id, job_id, option_id, station, price, reason, decided_by, revision, created_at, created_by, label, who, set_aside, expected,
		stations, found, is_temporary, until_day, limit_says, life_years, warranty_years)
		VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?) ON DUPLICATE KEY UPDATE id=id`,
		d.ID[:], x.job[:], d.Option, d.Station, d.Price, d.Reason, d.By, revision, d.At.UTC(), idOrNil(x.by), d.Label,
		d.Who, d.SetAside, d.Expected,
		strings.Join(d.Stations, ","), d.Found, d.Temporary, until, d.Limit, d.Life, d.Warranty)
	return err
}

func loadDecisions(ctx context.Context, tx *sql.Tx, job uuid.UUID) ([]Decision, error) {
	rows, err := tx.QueryContext(ctx, `SELECT id, option_id, station, price, reason, decided_by, created_at, label, who, set_aside, expected,
		stations, found, is_temporary, until_day, limit_says, life_years, warranty_years FROM decisions WHERE job_id = ? ORDER BY created_at, id`, job[:])
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Decision
	for rows.Next() {
		var d Decision
		var stations string
		if err := rows.Scan(&d.ID, &d.Option, &d.Station, &d.Price, &d.Reason, &d.By, &d.At, &d.Label, &d.Who, &d.SetAside, &d.Expected,
			&stations, &d.Found, &d.Temporary, &d.Until, &d.Limit, &d.Life, &d.Warranty); err != nil {
			return nil, err
		}
		if stations != "" {
			d.Stations = strings.Split(stations, ",")
		}
		out = append(out, d)
	}
	return out, rows.Err()
}

// Decide records a decision; the same id again changes nothing. A job that was closed is
// open again where there is work to do, and a temporary repair comes back on the board by
// its day, all in one transaction.
func (s *Store) Decide(ctx context.Context, job uuid.UUID, d Decision, by uuid.UUID) (*Job, error) {
	return s.Change(ctx, job, func(tx *sql.Tx, j *Job) (bool, error) {
		for i := range j.Decisions {
			if j.Decisions[i].ID == d.ID {
				return false, nil
			}
		}
		if err := (into{tx, job, &by}).decision(ctx, j.Revision, &d); err != nil {
			return false, err
		}
		if d.Option != work.Leave {
			if _, err := tx.ExecContext(ctx, "UPDATE jobs SET closed_at = NULL WHERE id = ?", job[:]); err != nil {
				return false, err
			}
		}
		j.Decisions = append(j.Decisions, d)
		if err := followUp(ctx, tx, j); err != nil {
			return false, err
		}
		return true, index(ctx, tx, job)
	})
}

// followUp sets the day by which something lasting is to follow: the first one of the
// temporary repairs that no lasting one has followed.
func followUp(ctx context.Context, tx *sql.Tx, j *Job) error {
	var day any
	what, first := "", time.Time{}
	rs := j.Repairs()
	for i := range rs {
		r := &rs[i]
		if !r.Temporary || r.Decision < 0 || r.Status == work.Changed || r.Status == work.Succeeded {
			continue
		}
		d := &j.Decisions[r.Decision]
		if d.Until != nil && (first.IsZero() || d.Until.Before(first)) {
			first, day, what = *d.Until, d.Until.Format(time.DateOnly), "Temporary repair, "+d.Limit
		}
	}
	_, err := tx.ExecContext(ctx, "UPDATE jobs SET follow_up = ?, follow_what = ? WHERE id = ?", day, what, j.ID[:])
	return err
}

// Repair records that parts were put right, after all evidence so far, or, told late, after
// what was taken by then. The same ids again
// change nothing; one of another job is refused with [ErrConflict].
func (s *Store) Repair(ctx context.Context, job uuid.UUID, rs []casefile.Repair, late bool, by uuid.UUID) (*Job, error) {
	return s.Change(ctx, job, func(tx *sql.Tx, j *Job) (bool, error) {
		changed := false
		for _, r := range rs {
			id, err := uuid.Parse(r.ID)
			if err != nil {
				return false, ErrConflict
			}
			if slices.ContainsFunc(j.Case.Repairs, func(x casefile.Repair) bool { return x.ID == r.ID }) {
				continue
			}
			if r.After = len(j.Case.Evidence); late {
				r.After = record.TakenBy(j.Case.Evidence, parseTime(r.At))
			}
			err = (into{tx, job, &by}).repair(ctx, id, r)
			if says(err, duplicate) {
				return false, ErrConflict
			}
			if err != nil {
				return false, err
			}
			j.Case.Repairs = append(j.Case.Repairs, r)
			changed = true
		}
		if !changed {
			return false, nil
		}
		if err := followUp(ctx, tx, j); err != nil {
			return false, err
		}
		return true, index(ctx, tx, job)
	})
}

// Reword changes what is said to have been done in a repair, by the id of its decision or
// of its work; [ErrSigned] once it is proved, [ErrNotFound] while nothing was done.
func (s *Store) Reword(ctx context.Context, job uuid.UUID, repair, what string) (*Job, error) {
	return s.Change(ctx, job, func(tx *sql.Tx, j *Job) (bool, error) {
		rs := j.Repairs()
		i := slices.IndexFunc(rs, func(r work.Repair) bool { return r.ID == repair && len(r.Done) > 0 })
		switch {
		case i < 0:
			return false, ErrNotFound
		case rs[i].Status != work.Worked && rs[i].Status != work.NotGood:
			return false, ErrSigned
		}
		changed := false
		for _, k := range rs[i].Done {
			id, err := uuid.Parse(j.Case.Repairs[k].ID)
			if err != nil {
				return false, err
			}
			if j.Case.Repairs[k].What == what {
				continue
			}
			if _, err := tx.ExecContext(ctx, "UPDATE repairs SET what = ? WHERE id = ?", what, id[:]); err != nil {
				return false, err
			}
			changed = true
		}
		if !changed {
			return false, nil
		}
		return true, index(ctx, tx, job)
	})
}

// repair adds a part that was put right.
func (x into) repair(ctx context.Context, id uuid.UUID, r casefile.Repair) error {
	var decision any
	if d, err := uuid.Parse(r.Decision); err == nil {
		decision = d[:]
	}
	_, err := x.tx.ExecContext(ctx, "INSERT INTO repairs (id, job_id, station, after_seq, what, created_at, "+
		"created_by, decision_id) VALUES (?,?,?,?,?,?,?,?)",
		id[:], x.job[:], r.Station, r.After, r.What, parseTime(r.At), idOrNil(x.by), decision)
	return err
}

func loadRepairs(ctx context.Context, tx *sql.Tx, job uuid.UUID) ([]casefile.Repair, error) {
	rows, err := tx.QueryContext(ctx, `SELECT r.id, r.station, r.after_seq, r.what, r.created_at, r.decision_id, COALESCE(u.name, '') FROM repairs r LEFT JOIN users u ON u.id = r.created_by
		WHERE r.job_id = ? ORDER BY r.after_seq, r.created_at, r.id`, job[:])
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []casefile.Repair
	for rows.Next() {
		var r casefile.Repair
		var id uuid.UUID
		var decision uuid.NullUUID
		var at time.Time
		if err := rows.Scan(&id, &r.Station, &r.After, &r.What, &at, &decision, &r.By); err != nil {
			return nil, err
		}
		r.ID, r.At = id.String(), at.UTC().Format(time.RFC3339Nano)
		if decision.Valid {
			r.Decision = decision.UUID.String()
		}
		out = append(out, r)
	}
	return out, rows.Err()
}

func insertProof(ctx context.Context, tx *sql.Tx, job uuid.UUID, p *Proof, by *uuid.UUID) error {
	of, err := json.Marshal(append([]string{}, p.Of...))
	if err != nil {
		return err
	}
	was := p.Was
	if was == nil {
		was = map[string]string{}
	}
	say, err := json.Marshal(was)
	if err != nil {
		return err
	}
	text := func(b json.RawMessage) string {
		if len(b) == 0 {
			return "[]"
		}
		return string(b)
	}
	at := p.At
	if at.IsZero() {
		at = time.Now().UTC()
	}
	_, err = tx.ExecContext(ctx, "INSERT INTO proofs (id, job_id, result, remark, signed, counter, checks, plan, "+
		"at, by_user, covers, after_seq, was) VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?)",
		p.ID[:], job[:], p.Result, p.Remark, p.Signed, p.Counter, text(p.Checks), text(p.Plan), at.UTC(), idOrNil(by),
		string(of), p.After, string(say))
	return err
}

// loadProofs reads a job's proofs without their checks and plans, latest last.
func loadProofs(ctx context.Context, tx *sql.Tx, job uuid.UUID) ([]Proof, error) {
	rows, err := tx.QueryContext(ctx, `SELECT p.id, p.result, p.remark, p.signed, p.counter, p.at, COALESCE(u.name,''), p.covers, COALESCE(p.after_seq, 0), p.was
		FROM proofs p LEFT JOIN users u ON u.id = p.by_user WHERE p.job_id = ? ORDER BY p.at, p.id`, job[:])
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Proof
	for rows.Next() {
		var p Proof
		var of, was []byte
		if err := rows.Scan(&p.ID, &p.Result, &p.Remark, &p.Signed, &p.Counter, &p.At, &p.By, &of, &p.After, &was); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(of, &p.Of); err != nil {
			return nil, fmt.Errorf("proof %s as stored cannot be read: %w", p.ID, err)
		}
		if err := json.Unmarshal(was, &p.Was); err != nil {
			return nil, fmt.Errorf("proof %s as stored cannot be read: %w", p.ID, err)
		}
		out = append(out, p)
	}
	return out, rows.Err()
}

// Costs is what one repair came to in the end.
type Costs struct {
	Parts   float64
	Minutes float64
	Price   float64
	Note    string
	At      time.Time
}

// Costs reads what was entered, by decision; the zero id is of the whole job.
func (s *Store) Costs(ctx context.Context, job uuid.UUID) (map[uuid.UUID]Costs, error) {
	rows, err := s.DB.QueryContext(ctx, "SELECT decision_id, parts, minutes, price, note, at FROM job_costs WHERE job_id = ?", job[:])
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[uuid.UUID]Costs{}
	for rows.Next() {
		var id uuid.UUID
		var c Costs
		if err := rows.Scan(&id, &c.Parts, &c.Minutes, &c.Price, &c.Note, &c.At); err != nil {
			return nil, err
		}
		out[id] = c
	}
	return out, rows.Err()
}

// PutCosts sets what one decision came to.
func (s *Store) PutCosts(ctx context.Context, job, decision uuid.UUID, c Costs, by uuid.UUID) error {
	_, err := s.exec(ctx, "INSERT INTO job_costs (job_id, decision_id, parts, minutes, price, note, at, by_user) "+
		"VALUES (?,?,?,?,?,?,UTC_TIMESTAMP(6),?) ON DUPLICATE KEY UPDATE parts=VALUES(parts), "+
		"minutes=VALUES(minutes), price=VALUES(price), note=VALUES(note), at=VALUES(at)",
		job[:], decision[:], c.Parts, c.Minutes, c.Price, c.Note, idOrNil(&by))
	return err
}

// Terms reads what a job is decided by besides its evidence, as JSON: the customer's wishes
// and the figures that were typed. Empty where nothing was kept.
func (s *Store) Terms(ctx context.Context, job uuid.UUID) (wishes, figures json.RawMessage, err error) {
	var w, f []byte
	err = s.DB.QueryRowContext(ctx, "SELECT wishes, figures FROM job_terms WHERE job_id = ?", job[:]).Scan(&w, &f)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil, nil
	}
	return w, f, err
}

// PutTerms keeps them.
func (s *Store) PutTerms(ctx context.Context, job uuid.UUID, wishes, figures json.RawMessage) error {
	_, err := s.exec(ctx, "INSERT INTO job_terms (job_id, wishes, figures, at) VALUES (?,?,?,UTC_TIMESTAMP(6)) ON "+
		"DUPLICATE KEY UPDATE wishes=VALUES(wishes), figures=VALUES(figures), at=VALUES(at)",
		job[:], string(wishes), string(figures))
	return err
}
