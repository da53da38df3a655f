// Package store keeps users, machines, jobs, evidence, verdicts and decisions
// in MariaDB. Evidence is struck out, never deleted; every write carries an id
// made by the client, so sending it again changes nothing.
package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"embed"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/google/uuid"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/database"

	"corriente/core/casefile"
	"corriente/core/unit"
	"corriente/core/work"
)

// Errors that callers tell apart.
var (
	ErrNotFound = errors.New("not found")
	// ErrConflict: the id is taken by something else.
	ErrConflict = errors.New("this id is already used for something else")
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is the database. It is safe for concurrent use.
type Store struct {
	DB *sql.DB
	// Changed, where set, is told of every job that was changed, after it was
	// stored.
	Changed func(job uuid.UUID)
}

// Latest is the version of the newest migration: a database of a later one is none of this
// program's.
func Latest() (int64, error) {
	names, err := fs.Glob(migrations, "migrations/*.sql")
	if err != nil {
		return 0, err
	}
	most := int64(0)
	for _, n := range names {
		v, err := goose.NumericComponent(n)
		if err != nil {
			return 0, err
		}
		most = max(most, v)
	}
	return most, nil
}

// Open connects and applies the migrations.
func Open(ctx context.Context, dsn string) (*Store, error) {
	s, err := open(ctx, dsn, 0)
	if err != nil {
		return nil, err
	}
	if err := s.reword(ctx); err != nil {
		s.DB.Close()
		return nil, fmt.Errorf("the logbook's words cannot be brought up to date: %w", err)
	}
	return s, nil
}

// OpenAt makes the tables of an empty database as they were at a version, for the data of that
// time.
func OpenAt(ctx context.Context, dsn string, version int64) (*Store, error) {
	return open(ctx, dsn, version)
}

// open connects and applies the migrations up to a version, or all where it is 0.
func open(ctx context.Context, dsn string, version int64) (*Store, error) {
	cfg, err := mysql.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("the database address cannot be read: %w", err)
	}
	cfg.ParseTime, cfg.Loc = true, time.UTC
	cfg.Timeout, cfg.ReadTimeout, cfg.WriteTimeout = 5*time.Second, 30*time.Second, 30*time.Second
	if cfg.Params == nil {
		cfg.Params = map[string]string{}
	}
	cfg.Params["time_zone"] = "'+00:00'"
	cfg.Params["sql_mode"] = "'STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION,ERROR_FOR_DIVISION_BY_ZERO'"
	cfg.Collation = "utf8mb4_unicode_ci"
	cfg.InterpolateParams = true // one round trip a statement instead of three
	conn, err := mysql.NewConnector(cfg)
	if err != nil {
		return nil, err
	}
	db := sql.OpenDB(conn)
	db.SetMaxOpenConns(20)
	db.SetMaxIdleConns(10)
	db.SetConnMaxLifetime(30 * time.Minute)
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	p, err := goose.NewProvider(database.DialectMySQL, db, sub)
	switch {
	case err != nil:
	case version > 0:
		_, err = p.UpTo(ctx, version)
	default:
		_, err = p.Up(ctx)
	}
	if err != nil {
		db.Close()
		return nil, fmt.Errorf("the database cannot be brought up to date: %w", err)
	}
	return &Store{DB: db}, nil
}

// tooLong is how the database says that a text does not fit its column.
var tooLong = regexp.MustCompile("Data too long for column '([a-z_]+)'")

// TooLong reports whether an error says that a text does not fit where it is kept, and
// which.
func TooLong(err error) (what string, ok bool) {
	var me *mysql.MySQLError
	if !errors.As(err, &me) || me.Number != 1406 {
		return "", false
	}
	if m := tooLong.FindStringSubmatch(me.Message); m != nil {
		return strings.ReplaceAll(m[1], "_", " "), true
	}
	return "text", true
}

// Close closes the connections.
func (s *Store) Close() error { return s.DB.Close() }

// SweepSessions takes out sessions that have ended.
func (s *Store) SweepSessions(ctx context.Context) error {
	_, err := s.DB.ExecContext(ctx, "DELETE FROM sessions WHERE expiry < UTC_TIMESTAMP(6)")
	return err
}

// tx runs f in a transaction and tries again on a deadlock or a lock wait, at
// the commit too.
func (s *Store) tx(ctx context.Context, f func(tx *sql.Tx) error) error {
	for try := 0; ; try++ {
		err := func() error {
			tx, err := s.DB.BeginTx(ctx, nil)
			if err != nil {
				return err
			}
			if err := f(tx); err != nil {
				_ = tx.Rollback()
				return err
			}
			return tx.Commit()
		}()
		var me *mysql.MySQLError
		if err == nil || try >= 5 || !errors.As(err, &me) || me.Number != 1213 && me.Number != 1205 {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(time.Duration(10+rand.IntN(40)) * time.Millisecond << try):
		}
	}
}

// NewID makes a UUIDv7.
func NewID() uuid.UUID { return uuid.Must(uuid.NewV7()) }

func notFound(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// Machine is something that is brought in.
type Machine struct {
	ID      uuid.UUID
	Name    string
	Kind    string
	Place   string
	Voltage float64
	Note    string
	Built   int // year; 0: not known
}

// Revision tells two states of what is said of a machine apart.
func (m *Machine) Revision() string {
	sum := sha256.Sum256([]byte(strings.Join([]string{m.Name, m.Kind, m.Place, m.Note, strconv.Itoa(m.Built)}, "\x00")))
	return hex.EncodeToString(sum[:8])
}

// PutMachine adds a machine; the same id again changes nothing.
func (s *Store) PutMachine(ctx context.Context, m Machine) error {
	return s.tx(ctx, func(tx *sql.Tx) error { return putMachine(ctx, tx, &m) })
}

func putMachine(ctx context.Context, tx *sql.Tx, m *Machine) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO machines (id, name, kind, place, nominal_voltage, note, built, created_at) VALUES (?,?,?,?,?,?,NULLIF(?, 0),UTC_TIMESTAMP(6))
		ON DUPLICATE KEY UPDATE id=id`, m.ID[:], m.Name, m.Kind, m.Place, m.Voltage, m.Note, m.Built)
	return err
}

// ChangeMachine sets what is said of a machine; its jobs are found by the new words and
// learned from as of its kind and age.
// since is the revision that was read, and ErrStale says that it is another by now; empty changes whatever stands there.
func (s *Store) ChangeMachine(ctx context.Context, m Machine, since string) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		var now Machine
		if err := tx.QueryRowContext(ctx, "SELECT name, kind, place, note, COALESCE(built, 0) FROM machines WHERE id = ? FOR UPDATE", m.ID[:]).Scan(&now.Name, &now.Kind, &now.Place, &now.Note, &now.Built); err != nil {
			return notFound(err)
		}
		// Sent again, it stands already as it is wanted.
		if since != "" && since != now.Revision() && m.Revision() != now.Revision() {
			return ErrStale
		}
		if _, err := tx.ExecContext(ctx, "UPDATE machines SET name = ?, kind = ?, place = ?, note = ?, built = NULLIF(?, 0) WHERE id = ?", m.Name, m.Kind, m.Place, m.Note, m.Built, m.ID[:]); err != nil {
			return err
		}
		if err := sum(ctx, tx, "machine_id", m.ID, -1); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, "UPDATE outcomes SET machine_kind = ?, age = IF(? = 0, NULL, GREATEST(0E0, YEAR(at) - ? + 0E0)) WHERE machine_id = ?", m.Kind, m.Built, m.Built, m.ID[:]); err != nil {
			return err
		}
		if err := sum(ctx, tx, "machine_id", m.ID, 1); err != nil {
			return err
		}
		rows, err := tx.QueryContext(ctx, "SELECT id FROM jobs WHERE machine_id = ?", m.ID[:])
		if err != nil {
			return err
		}
		defer rows.Close()
		var jobs []uuid.UUID
		for rows.Next() {
			var id uuid.UUID
			if err := rows.Scan(&id); err != nil {
				return err
			}
			jobs = append(jobs, id)
		}
		if err := rows.Err(); err != nil {
			return err
		}
		for _, id := range jobs {
			if err := index(ctx, tx, id); err != nil {
				return err
			}
		}
		return nil
	})
}

// Age is how many years old a machine is; -1: not known.
func (m *Machine) Age(now time.Time) int {
	if m.Built == 0 {
		return -1
	}
	return max(0, now.Year()-m.Built)
}

// Kinds lists the kinds of machines there are.
func (s *Store) Kinds(ctx context.Context) ([]string, error) {
	rows, err := s.DB.QueryContext(ctx, "SELECT DISTINCT kind FROM machines WHERE kind <> '' ORDER BY kind")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []string{}
	for rows.Next() {
		var k string
		if err := rows.Scan(&k); err != nil {
			return nil, err
		}
		out = append(out, k)
	}
	return out, rows.Err()
}

// Machine reads one.
func (s *Store) Machine(ctx context.Context, id uuid.UUID) (*Machine, error) {
	m := &Machine{}
	err := s.DB.QueryRowContext(ctx, "SELECT "+machineCols+" FROM machines m WHERE m.id = ?", id[:]).Scan(m.dest()...)
	return m, notFound(err)
}

const machineCols = "m.id, m.name, m.kind, m.place, m.nominal_voltage, m.note, COALESCE(m.built, 0)"

func (m *Machine) dest() []any {
	return []any{&m.ID, &m.Name, &m.Kind, &m.Place, &m.Voltage, &m.Note, &m.Built}
}

// Machines lists all machines by name.
func (s *Store) Machines(ctx context.Context) ([]Machine, error) {
	rows, err := s.DB.QueryContext(ctx, "SELECT "+machineCols+" FROM machines m ORDER BY m.name")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Machine
	for rows.Next() {
		var m Machine
		if err := rows.Scan(m.dest()...); err != nil {
			return nil, err
		}
		out = append(out, m)
	}
	return out, rows.Err()
}

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
			var me *mysql.MySQLError
			if errors.As(err, &me) && me.Number == 1452 {
				return ErrNotFound
			}
			return err
		}
		if n, _ := r.RowsAffected(); n == 0 {
			var machine uuid.UUID
			var circuit string
			if err := tx.QueryRowContext(ctx, "SELECT machine_id, circuit FROM jobs WHERE id = ?", j.ID[:]).Scan(&machine, &circuit); err != nil {
				return err
			}
			if machine != j.Machine.ID || circuit != j.Case.CircuitID {
				return ErrConflict
			}
			return nil
		}
		for i := range j.Case.Evidence {
			if err := insertEvidence(ctx, tx, j.ID, &j.Case.Evidence[i], i+1, by); err != nil {
				return err
			}
		}
		for _, r := range j.Case.Repairs {
			id, err := uuid.Parse(r.ID)
			if err != nil {
				id = NewID()
			}
			if err := insertRepair(ctx, tx, j.ID, id, r, by); err != nil {
				return err
			}
		}
		for i := range j.Decisions {
			if err := insertDecision(ctx, tx, j.ID, 1, &j.Decisions[i], by); err != nil {
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

func insertEvidence(ctx context.Context, tx *sql.Tx, job uuid.UUID, e *casefile.Evidence, seq int, by *uuid.UUID) error {
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
	_, err = tx.ExecContext(ctx, `INSERT INTO evidence (id, job_id, seq, measure, observe, state, node_from, node_to, through, value_text, value_si, over_limit,
		outcome, instrument, leads_text, uncertainty_text, circumstance, symptom, taken_at, taken_by, struck_at) VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)`,
		id[:], job[:], seq, string(e.Measure), e.Observe, e.State, e.From, e.To, e.Through, e.Value, si, e.Reading.Over,
		e.Outcome, e.Instrument, e.Leads, e.Uncertainty, e.Condition, e.Symptom, at, idOrNil(by), struck)
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
		if err := rows.Scan(&eid, &measure, &e.Observe, &e.State, &e.From, &e.To, &e.Through, &e.Value, &e.Outcome, &e.Instrument, &e.Leads, &e.Uncertainty,
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
		if err := tx.QueryRowContext(ctx, "SELECT name FROM users WHERE id = ?", by[:]).Scan(&name); err != nil && !errors.Is(err, sql.ErrNoRows) {
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
			// The job is locked: what was checked before may be checked again against it.
			if p := es[i].Check(j.Case.Circuit, j.Case.Instruments); p != nil {
				return false, p
			}
			if err := insertEvidence(ctx, tx, job, &es[i], len(j.Case.Evidence)+1, &by); err != nil {
				var me *mysql.MySQLError
				if errors.As(err, &me) && me.Number == 1062 {
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
		_, err = tx.ExecContext(ctx, "UPDATE jobs SET head = ?, complaint = ?, unreachable = ?, cautions_at = ?, closed_at = ? WHERE id = ?",
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
		if _, err := tx.ExecContext(ctx, "UPDATE jobs SET verdict_revision = ? WHERE id = ? AND (verdict_revision IS NULL OR verdict_revision < ?)", revision, job[:], revision); err != nil {
			return err
		}
		return index(ctx, tx, job)
	})
}

// Row is one line of the board.
type Row struct {
	ID          uuid.UUID
	Machine     string
	Kind        string
	Place       string
	Circuit     string
	Complaint   string
	Readings    int
	Looks       int
	Decided     bool
	Status      sql.NullString
	Station     sql.NullString
	Probability sql.NullFloat64
	Says        sql.NullString
	OpenedAt    time.Time
	ClosedAt    *time.Time
	FollowUp    *time.Time // when a temporary repair ends
	FollowWhat  string
	Was         []string // what its repairs turned out to be for, as signed
	Bench       string
	Person      string // who has it, by name
	Waits       []Wait
}

// Board lists jobs, the open ones or all, at most 500: what is due first, then the newest.
func (s *Store) Board(ctx context.Context, all bool) ([]Row, error) {
	where := "WHERE j.closed_at IS NULL OR j.follow_up IS NOT NULL"
	if all {
		where = ""
	}
	rows, err := s.DB.QueryContext(ctx, `SELECT j.id, m.name, m.kind, m.place, j.circuit, j.complaint,
		(SELECT COUNT(*) FROM evidence e WHERE e.job_id = j.id AND e.struck_at IS NULL AND e.measure <> ''),
		(SELECT COUNT(*) FROM evidence e WHERE e.job_id = j.id AND e.struck_at IS NULL AND e.observe <> ''),
		EXISTS (SELECT 1 FROM decisions d WHERE d.job_id = j.id),
		v.status, v.station, v.probability, v.says, j.opened_at, j.closed_at, j.follow_up, j.follow_what,
		(SELECT GROUP_CONCAT(IF(x.station = '', 'none', x.fault) ORDER BY x.item SEPARATOR ' ') FROM outcomes x WHERE x.job_id = j.id),
		j.bench, COALESCE(p.name, '')
		FROM jobs j JOIN machines m ON m.id = j.machine_id LEFT JOIN users p ON p.id = j.assigned_to
		LEFT JOIN verdicts v ON v.job_id = j.id AND v.revision = j.verdict_revision `+where+`
		ORDER BY (j.follow_up IS NOT NULL OR EXISTS (SELECT 1 FROM job_waits w WHERE w.job_id = j.id AND w.ended_at IS NULL)) DESC, j.opened_at DESC, j.id LIMIT 500`)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Row{}
	for rows.Next() {
		var r Row
		var was sql.NullString
		if err := rows.Scan(&r.ID, &r.Machine, &r.Kind, &r.Place, &r.Circuit, &r.Complaint, &r.Readings, &r.Looks, &r.Decided,
			&r.Status, &r.Station, &r.Probability, &r.Says, &r.OpenedAt, &r.ClosedAt, &r.FollowUp, &r.FollowWhat, &was, &r.Bench, &r.Person); err != nil {
			return nil, err
		}
		r.Was = strings.Fields(was.String)
		out = append(out, r)
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	waits, err := s.Waits(ctx, nil)
	if err != nil {
		return nil, err
	}
	at := map[uuid.UUID]int{}
	for i := range out {
		at[out[i].ID] = i
	}
	for _, w := range waits {
		if i, ok := at[w.Job]; ok {
			out[i].Waits = append(out[i].Waits, w)
		}
	}
	return out, nil
}

// Empty reports whether there is no user yet.
func (s *Store) Empty(ctx context.Context) (bool, error) {
	var n int
	err := s.DB.QueryRowContext(ctx, "SELECT COUNT(*) FROM users").Scan(&n)
	return n == 0, err
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
		j.Decisions = append(j.Decisions, decisionOf(&c.Job.Decisions[i]))
	}
	for i := range c.Job.Proofs {
		j.Proofs = append(j.Proofs, proofOf(&c.Job.Proofs[i]))
	}
	return j
}
