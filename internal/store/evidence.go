package store

import (
	"context"
	"database/sql"
	"errors"
	"slices"
	"time"

	"github.com/google/uuid"

	"corriente/core/casefile"
)

// into is where something is added: a job, within a transaction, by a person; nil: nobody is known.
type into struct {
	tx  *sql.Tx
	job uuid.UUID
	by  *uuid.UUID
}

// evidence adds a piece at a place in the order; one without an id gets one.
func (x into) evidence(ctx context.Context, e *casefile.Evidence, seq int) error {
	id, err := uuid.Parse(e.ID)
	if err != nil {
		id = NewID()
		e.ID = id.String()
	}
	at := parseTime(e.TakenAt)
	var si any
	if e.Measure != "" && !e.Reading.Over {
		si = e.Reading.Value
	}
	var struck any
	if e.Struck {
		struck = at
	}
	_, err = x.tx.ExecContext(ctx, `INSERT INTO evidence (id, job_id, seq, measure, observe, state, node_from, node_to, through, value_text, value_si, over_limit,
		outcome, instrument, leads_text, uncertainty_text, circumstance, symptom, taken_at, taken_by, struck_at) VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)`,
		id[:], x.job[:], seq, string(e.Measure), e.Observe, e.State, e.From, e.To, e.Through, e.Value, si, e.Reading.Over,
		e.Outcome, e.Instrument, e.Leads, e.Uncertainty, e.Condition, e.Symptom, at, idOrNil(x.by), struck)
	return err
}

// parseTime reads when something was taken. A device whose clock has lost its year says what cannot
// be: the reading is kept, at the time it arrives.
func parseTime(s string) time.Time {
	now := time.Now().UTC()
	t, err := time.Parse(time.RFC3339Nano, s)
	if err != nil || t.Year() < 2000 || t.After(now.AddDate(0, 0, 1)) {
		return now
	}
	return t.UTC()
}

// When reads when something was done that is sent later; now where nothing is said, or what
// cannot be.
func When(at string) time.Time { return parseTime(at) }

// AddEvidence adds evidence to a job, each piece at its place in time: what was
// taken without a connection, or by somebody else meanwhile, may come late.
// Evidence whose id is already there is left as it is.
func (s *Store) AddEvidence(ctx context.Context, job uuid.UUID, es []casefile.Evidence, by uuid.UUID) (*Job, error) {
	return s.Change(ctx, job, func(tx *sql.Tx, j *Job) (bool, error) {
		have := map[string]bool{}
		for i := range j.Case.Evidence {
			have[j.Case.Evidence[i].ID] = true
		}
		had, name := len(j.Case.Evidence), ""
		if err := tx.QueryRowContext(ctx, "SELECT name FROM users WHERE id = ?", by[:]).Scan(&name); err != nil &&
			!errors.Is(err, sql.ErrNoRows) {
			return false, err
		}
		for i := range es {
			// As it will be read again.
			if id, err := uuid.Parse(es[i].ID); err == nil {
				es[i].ID = id.String()
			}
			es[i].TakenAt = parseTime(es[i].TakenAt).Truncate(time.Microsecond).Format(time.RFC3339Nano)
			if have[es[i].ID] {
				continue
			}
			if len(j.Case.Evidence) >= casefile.MaxEvidence {
				return false, &Full{"readings and looks", casefile.MaxEvidence, ofThisJob}
			}
			// The job is locked: what was checked before may be checked again against it.
			if p := es[i].Check(j.Case.Circuit, j.Case.Instruments); p != nil {
				return false, p
			}
			if err := (into{tx, job, &by}).evidence(ctx, &es[i], len(j.Case.Evidence)+1); err != nil {
				if says(err, duplicate) {
					return false, ErrConflict // the id belongs to another job
				}
				return false, err
			}
			have[es[i].ID] = true
			j.Case.Evidence, j.TakenBy = append(j.Case.Evidence, es[i]), append(j.TakenBy, name)
		}
		if len(j.Case.Evidence) == had {
			return false, nil
		}
		late, err := inTime(ctx, tx, j, had)
		j.current = !late
		return true, err
	})
}

// inTime moves evidence that was added after the first had pieces, by the time
// it was taken, and repairs with it. It says whether anything moved.
func inTime(ctx context.Context, tx *sql.Tx, j *Job, had int) (late bool, err error) {
	es, reps := j.Case.Evidence, j.Case.Repairs
	order := slices.Clone(es[:had])
	for _, e := range es[had:] {
		at := parseTime(e.TakenAt)
		pos := len(order)
		for pos > 0 && parseTime(order[pos-1].TakenAt).After(at) {
			pos--
		}
		for k := range reps {
			r := &reps[k]
			if before := parseTime(r.At).After(at); r.After > pos || r.After == pos && before {
				r.After++
				late = true
			}
		}
		for k := range j.Proofs { // what was read before it was signed belongs before the signature
			if p := &j.Proofs[k]; p.At.After(at) {
				p.After++
				late = true
			}
		}
		late = late || pos < len(order)
		order = slices.Insert(order, pos, e)
	}
	if !late {
		return false, nil
	}
	if _, err := tx.ExecContext(ctx, "UPDATE evidence SET seq = seq + 1000000 WHERE job_id = ?", j.ID[:]); err != nil {
		return late, err
	}
	for i := range order {
		id, err := uuid.Parse(order[i].ID)
		if err != nil {
			return late, err
		}
		if _, err := tx.ExecContext(ctx, "UPDATE evidence SET seq = ? WHERE id = ?", i+1, id[:]); err != nil {
			return late, err
		}
	}
	for i := range j.Proofs {
		if _, err := tx.ExecContext(ctx, "UPDATE proofs SET after_seq = ? WHERE id = ?", j.Proofs[i].After, j.Proofs[i].ID[:]); err != nil {
			return late, err
		}
	}
	for _, r := range reps {
		id, err := uuid.Parse(r.ID)
		if err != nil {
			return late, err
		}
		if _, err := tx.ExecContext(ctx, "UPDATE repairs SET after_seq = ? WHERE id = ?", r.After, id[:]); err != nil {
			return late, err
		}
	}
	return late, nil
}

// Strike strikes evidence out, or back in. ErrNotFound when the job has none
// such.
func (s *Store) Strike(ctx context.Context, job, evidence uuid.UUID, out bool, by uuid.UUID) (*Job, error) {
	return s.Change(ctx, job, func(tx *sql.Tx, j *Job) (bool, error) {
		for i := range j.Case.Evidence {
			if e := &j.Case.Evidence[i]; e.ID == evidence.String() {
				if e.Struck == out {
					return false, nil
				}
				q, args := "UPDATE evidence SET struck_at = NULL, struck_by = NULL WHERE id = ?", []any{evidence[:]}
				if out {
					q, args = "UPDATE evidence SET struck_at = UTC_TIMESTAMP(6), struck_by = ? WHERE id = ?", []any{by[:], evidence[:]}
				}
				_, err := tx.ExecContext(ctx, q, args...)
				return true, err
			}
		}
		return false, ErrNotFound
	})
}
