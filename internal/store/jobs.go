package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"corriente/core/casefile"
	"corriente/core/unit"
	"corriente/core/work"
)

// Job is one job with its evidence as a case.
type Job struct {
	ID          uuid.UUID
	Machine     Machine
	Case        *casefile.Case // evidence included, struck ones too
	TakenBy     []string       // who entered each piece of evidence, "" where nobody is known
	Complaint   string
	Revision    int
	Unreachable []string
	CautionsAt  *time.Time
	OpenedAt    time.Time
	ClosedAt    *time.Time
	Decisions   []Decision
	Proofs      []Proof // without their checks and plans
	Proved      bool    // the last proof was passed

	current bool // what a change did to it has been done to this copy as well
}

// Decision is what was chosen about a job.
type Decision struct {
	ID      uuid.UUID
	Option  string
	Station string
	Price   float64
	Reason  string
	By      string
	At      time.Time
	// Label is the option in words, Who the name of who decided, SetAside the veto that was
	// set aside and why. Expected is the expected cost as it was computed, nil where it was
	// not.
	Label, Who, SetAside string
	Expected             *float64
	// Stations are all parts the plan is for, Station the first. Found is what the verdict
	// said. Until and Limit are a temporary repair's; Life and Warranty, in years, are as
	// computed, 0 where nothing was said.
	Stations       []string
	Found          string
	Temporary      bool
	Until          *time.Time
	Limit          string
	Life, Warranty float64
}

// Verdict is a stored verdict.
type Verdict struct {
	Reasoning   string
	Status      string
	Station     *string
	Probability float64
	Says        string
	Result      []byte
}

// CreateJob adds a job with all of its case. The same id again returns nil when
// it is the same machine and circuit, ErrConflict when it is not.
func (s *Store) CreateJob(ctx context.Context, j *Job, by *uuid.UUID) error {
	return s.openJob(ctx, j, false, by)
}

// CreateJobOnNewMachine is CreateJob together with the job's machine, which may be there
// already: both are added, or neither.
func (s *Store) CreateJobOnNewMachine(ctx context.Context, j *Job, by *uuid.UUID) error {
	return s.openJob(ctx, j, true, by)
}

func (s *Store) openJob(ctx context.Context, j *Job, newMachine bool, by *uuid.UUID) error {
	head, err := headOf(j.Case)
	if err != nil {
		return err
	}
	unreach, err := json.Marshal(append([]string{}, j.Unreachable...))
	if err != nil {
		return err
	}
	err = s.tx(ctx, func(tx *sql.Tx) error {
		if newMachine {
			if err := putMachine(ctx, tx, &j.Machine); err != nil {
				return err
			}
		}
		r, err := tx.ExecContext(ctx, `INSERT INTO jobs (id, machine_id, circuit, head, complaint, revision, unreachable, opened_by, opened_at, closed_at)
			VALUES (?,?,?,?,?,1,?,?,?,?) ON DUPLICATE KEY UPDATE id=id`,
			j.ID[:], j.Machine.ID[:], j.Case.CircuitID, head, j.Complaint, string(unreach), idOrNil(by), j.OpenedAt.UTC(), j.ClosedAt)
		if err != nil {
			if says(err, noParent) {
				return ErrNotFound
			}
			return err
		}
		if n, _ := r.RowsAffected(); n == 0 {
			var machine uuid.UUID
			var circuit string
			if err := tx.QueryRowContext(ctx, "SELECT machine_id, circuit FROM jobs WHERE id = ?",
				j.ID[:]).Scan(&machine, &circuit); err != nil {
				return err
			}
			if machine != j.Machine.ID || circuit != j.Case.CircuitID {
				return ErrConflict
			}
			return nil
		}
		for i := range j.Case.Evidence {
			if err := (into{tx, j.ID, by}).evidence(ctx, &j.Case.Evidence[i], i+1); err != nil {
				return err
			}
		}
		for _, r := range j.Case.Repairs {
			id, err := uuid.Parse(r.ID)
			if err != nil {
				id = NewID()
			}
			if err := (into{tx, j.ID, by}).repair(ctx, id, r); err != nil {
				return err
			}
		}
		for i := range j.Decisions {
			if err := (into{tx, j.ID, by}).decision(ctx, 1, &j.Decisions[i]); err != nil {
				return err
			}
		}
		for i := range j.Proofs {
			if err := insertProof(ctx, tx, j.ID, &j.Proofs[i], by); err != nil {
				return err
			}
		}
		if err := followUp(ctx, tx, j); err != nil {
			return err
		}
		return index(ctx, tx, j.ID)
	})
	if err == nil && s.Changed != nil {
		s.Changed(j.ID)
	}
	return err
}

// headOf writes the case without evidence, decisions and the columns the jobs
// table has of its own.
func headOf(c *casefile.Case) (string, error) {
	h := *c
	h.Evidence, h.Known.Unreachable, h.Repairs = nil, nil, nil
	if c.Job != nil {
		j := *c.Job
		j.Decisions, j.Proofs = nil, nil
		j.ID, j.Machine, j.Complaint, j.OpenedAt, j.ClosedAt = "", "", "", "", ""
		h.Job = &j
	}
	var b writer
	err := h.Write(&b)
	return string(b), err
}

type writer []byte

func (w *writer) Write(p []byte) (int, error) { *w = append(*w, p...); return len(p), nil }

func idOrNil(id *uuid.UUID) any {
	if id == nil || *id == uuid.Nil {
		return nil
	}
	return id[:]
}

// Job loads one job whole; ErrNotFound when there is none.
func (s *Store) Job(ctx context.Context, id uuid.UUID) (*Job, error) {
	var j *Job
	err := s.tx(ctx, func(tx *sql.Tx) (err error) {
		j, err = loadJob(ctx, tx, id, false)
		return err
	})
	return j, err
}

func loadJob(ctx context.Context, tx *sql.Tx, id uuid.UUID, lock bool) (*Job, error) {
	j := &Job{}
	var head, unreach string
	q := "SELECT j.id, j.head, j.complaint, j.revision, j.unreachable, j.cautions_at, j.opened_at, j.closed_at, " + machineCols +
		" FROM jobs j JOIN machines m ON m.id = j.machine_id WHERE j.id = ?"
	if lock {
		q += " FOR UPDATE"
	}
	dest := append([]any{&j.ID, &head, &j.Complaint, &j.Revision, &unreach, &j.CautionsAt, &j.OpenedAt, &j.ClosedAt}, j.Machine.dest()...)
	if err := tx.QueryRowContext(ctx, q, id[:]).Scan(dest...); err != nil {
		return nil, notFound(err)
	}
	if err := json.Unmarshal([]byte(unreach), &j.Unreachable); err != nil {
		return nil, err
	}
	c, err := casefile.Read(strings.NewReader(head))
	if err != nil {
		return nil, fmt.Errorf("job %s as stored cannot be read: %w", id, err)
	}
	j.Case = c
	rows, err := tx.QueryContext(ctx, `SELECT e.id, measure, observe, state, node_from, node_to, through, value_text, outcome, instrument, leads_text, uncertainty_text,
		circumstance, symptom, taken_at, struck_at IS NOT NULL, COALESCE(u.name, '')
		FROM evidence e LEFT JOIN users u ON u.id = e.taken_by WHERE job_id = ? ORDER BY seq`, id[:])
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var e casefile.Evidence
		var eid uuid.UUID
		var measure string
		var at time.Time
		var by string
		if err := rows.Scan(&eid, &measure, &e.Observe, &e.State, &e.From, &e.To, &e.Through, &e.Value, &e.Outcome,
			&e.Instrument, &e.Leads, &e.Uncertainty,
			&e.Condition, &e.Symptom, &at, &e.Struck, &by); err != nil {
			return nil, err
		}
		e.ID, e.Measure, e.TakenAt = eid.String(), unit.Measure(measure), at.UTC().Format(time.RFC3339Nano)
		if p := e.Check(c.Circuit, c.Instruments); p != nil {
			return nil, fmt.Errorf("evidence %s as stored does not fit its circuit: %w", e.ID, p)
		}
		c.Evidence = append(c.Evidence, e)
		j.TakenBy = append(j.TakenBy, by)
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	if c.Repairs, err = loadRepairs(ctx, tx, id); err != nil {
		return nil, err
	}
	if j.Decisions, err = loadDecisions(ctx, tx, id); err != nil {
		return nil, err
	}
	if j.Proofs, err = loadProofs(ctx, tx, id); err != nil {
		return nil, err
	}
	if n := len(j.Proofs); n > 0 {
		j.Proved = j.Proofs[n-1].Result != work.Failed
	}
	return j, nil
}

// Change loads a job under a lock, lets f change it, and raises its revision.
// f writes through tx and says whether it changed anything; if not, the revision
// stays. What f changed is read again, unless it has brought the job it was given up to
// date itself and marked it current.
func (s *Store) Change(ctx context.Context, id uuid.UUID, f func(tx *sql.Tx, j *Job) (changed bool, err error)) (*Job, error) {
	var out *Job
	raised := false
	err := s.tx(ctx, func(tx *sql.Tx) error {
		j, err := loadJob(ctx, tx, id, true)
		if err != nil {
			return err
		}
		changed, err := f(tx, j)
		if err != nil {
			return err
		}
		if changed {
			if _, err := tx.ExecContext(ctx, "UPDATE jobs SET revision = revision + 1 WHERE id = ?", id[:]); err != nil {
				return err
			}
			j.Revision++
			if !j.current {
				if j, err = loadJob(ctx, tx, id, false); err != nil {
					return err
				}
			}
		}
		out, raised = j, changed
		return nil
	})
	if err == nil && raised && s.Changed != nil {
		s.Changed(id)
	}
	return out, err
}

// Update changes what the job says around its evidence.
func (s *Store) Update(ctx context.Context, job uuid.UUID, f func(j *Job) error) (*Job, error) {
	return s.Change(ctx, job, func(tx *sql.Tx, j *Job) (bool, error) {
		if err := f(j); err != nil {
			return false, err
		}
		var err error
		if j.Case, err = rewrite(j.Case); err != nil {
			return false, err
		}
		head, err := headOf(j.Case)
		if err != nil {
			return false, err
		}
		unreach, err := json.Marshal(append([]string{}, j.Unreachable...))
		if err != nil {
			return false, err
		}
		_, err = tx.ExecContext(ctx, "UPDATE jobs SET head = ?, complaint = ?, unreachable = ?, cautions_at = ?, "+
			"closed_at = ? WHERE id = ?",
			head, j.Complaint, string(unreach), j.CautionsAt, j.ClosedAt, job[:])
		return true, err
	})
}

// PutVerdict stores the verdict given on a revision, and lets it stand if no
// later one does.
func (s *Store) PutVerdict(ctx context.Context, job uuid.UUID, revision int, v Verdict) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, `INSERT INTO verdicts (job_id, revision, reasoning, status, station, probability, says, result, created_at)
			VALUES (?,?,?,?,?,?,?,?,UTC_TIMESTAMP(6)) ON DUPLICATE KEY UPDATE job_id=job_id`,
			job[:], revision, v.Reasoning, v.Status, v.Station, v.Probability, v.Says, string(v.Result)); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, "UPDATE jobs SET verdict_revision = ? WHERE id = ? AND (verdict_revision "+
			"IS NULL OR verdict_revision < ?)", revision, job[:], revision); err != nil {
			return err
		}
		return index(ctx, tx, job)
	})
}

// Export gives the job as a case file, with all that is needed to import it
// elsewhere without loss.
func (j *Job) Export() *casefile.Case {
	c := *j.Case
	c.Known.Unreachable = j.Unreachable
	job := casefile.Job{}
	if c.Job != nil {
		job = *c.Job
	}
	job.ID, job.Machine, job.Complaint = j.ID.String(), j.Machine.Name, j.Complaint
	job.OpenedAt = j.OpenedAt.UTC().Format(time.RFC3339Nano)
	if j.ClosedAt != nil {
		job.ClosedAt = j.ClosedAt.UTC().Format(time.RFC3339Nano)
	}
	job.Decisions, job.Proofs = nil, nil
	for i := range j.Decisions {
		job.Decisions = append(job.Decisions, j.Decisions[i].file())
	}
	for i := range j.Proofs {
		job.Proofs = append(job.Proofs, j.Proofs[i].file())
	}
	c.Job = &job
	return &c
}

// FromCase makes a job of a case file. Ids in the file are kept; what has none
// gets a new one.
func FromCase(c *casefile.Case, fallback uuid.UUID) *Job {
	j := &Job{ID: fallback, Case: c, OpenedAt: time.Now().UTC()}
	if c.Job == nil {
		c.Job = &casefile.Job{}
	}
	if id, err := uuid.Parse(c.Job.ID); err == nil {
		j.ID = id
	}
	j.Complaint = c.Job.Complaint
	j.Unreachable = c.Known.Unreachable
	if c.Job.OpenedAt != "" {
		j.OpenedAt = parseTime(c.Job.OpenedAt)
	}
	if c.Job.ClosedAt != "" {
		t := parseTime(c.Job.ClosedAt)
		j.ClosedAt = &t
	}
	for i := range c.Job.Decisions {
		j.Decisions = append(j.Decisions, DecisionOf(&c.Job.Decisions[i]))
	}
	for i := range c.Job.Proofs {
		j.Proofs = append(j.Proofs, ProofOf(&c.Job.Proofs[i]))
	}
	return j
}
