package store

import (
	"context"
	"database/sql"
	"strings"
	"time"

	"github.com/google/uuid"

	"corriente/core/learn"
)

// index renews the words that a job is found by.
func index(ctx context.Context, tx *sql.Tx, job uuid.UUID) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO job_words (job_id, opened_at, words)
		SELECT j.id, j.opened_at, LEFT(CONCAT_WS(' ', m.name, m.kind, m.place, REPLACE(j.circuit, '_', ' '), j.complaint, v.says, REPLACE(REPLACE(o.fault, '_', ' '), '.', ' '),
			(SELECT GROUP_CONCAT(CONCAT_WS(' ', d.label, d.reason, d.who) SEPARATOR ' ') FROM decisions d WHERE d.job_id = j.id)), 60000)
		FROM jobs j JOIN machines m ON m.id = j.machine_id LEFT JOIN verdicts v ON v.job_id = j.id AND v.revision = j.verdict_revision LEFT JOIN outcomes o ON o.job_id = j.id
		WHERE j.id = ? ON DUPLICATE KEY UPDATE words = VALUES(words)`, job[:])
	return err
}

// Entry is one line of the logbook.
type Entry struct {
	ID        uuid.UUID
	Old       bool // from an imported list: there is no job behind it
	Machine   string
	MachineID uuid.UUID
	Circuit   string
	Complaint string
	Says      string // the verdict, or what the old list says was found
	Station   string // what it turned out to be
	Fault     string
	Option    string
	Price     *float64
	OpenedAt  time.Time
	ClosedAt  *time.Time
	Readings  int
}

// Search is what is looked for; empty fields match all.
type Search struct {
	Words    string
	Machine  *uuid.UUID
	Circuit  string
	From, To *time.Time
	Before   *time.Time // only what was opened earlier: the next page
	Limit    int
}

const entryCols = `j.id, m.name, m.id, j.circuit, j.complaint, COALESCE(v.says,''), COALESCE(o.station, ''), COALESCE(o.fault,''), COALESCE(o.option_id,''), c.price, j.opened_at, j.closed_at, COALESCE(o.readings, 0)`

const entryJoins = ` JOIN machines m ON m.id = j.machine_id LEFT JOIN verdicts v ON v.job_id = j.id AND v.revision = j.verdict_revision
	LEFT JOIN outcomes o ON o.job_id = j.id LEFT JOIN job_costs c ON c.job_id = j.id`

func (x *Search) where(words string, args []any) (string, []any) {
	q := " WHERE 1=1"
	if x.Machine != nil {
		q, args = q+" AND j.machine_id = ?", append(args, x.Machine[:])
	}
	if x.Circuit != "" {
		q, args = q+" AND j.circuit = ?", append(args, x.Circuit)
	}
	for _, t := range []struct {
		cond string
		at   *time.Time
	}{{" AND j.opened_at >= ?", x.From}, {" AND j.opened_at < ?", x.To}, {" AND j.opened_at < ?", x.Before}} {
		if t.at != nil {
			q, args = q+t.cond, append(args, t.at.UTC())
		}
	}
	return q + words, args
}

// Logbook lists what matches, newest first: every word of the question as the beginning
// of a word of the job.
func (s *Store) Logbook(ctx context.Context, x Search) ([]Entry, error) {
	limit := x.Limit
	if limit <= 0 || limit > 500 {
		limit = 50
	}
	out := []Entry{}
	err := s.entries(ctx, x, limit, func(e *Entry) error { out = append(out, *e); return nil })
	return out, err
}

// entries hands each matching entry on as it comes.
func (s *Store) entries(ctx context.Context, x Search, limit int, f func(*Entry) error) error {
	match := boolean(strings.Fields(strings.ToLower(x.Words)))
	if strings.TrimSpace(x.Words) != "" && match == "" {
		return nil
	}
	// The words are looked up first and sorted by the date kept beside them; only the page
	// itself is joined to the rest.
	var args []any
	q := "SELECT " + entryCols + " FROM jobs j" + entryJoins
	if match != "" {
		in := "SELECT job_id FROM job_words WHERE MATCH (words) AGAINST (? IN BOOLEAN MODE)"
		args = append(args, match)
		if x.Before != nil {
			in, args = in+" AND opened_at < ?", append(args, x.Before.UTC())
		}
		in += " ORDER BY opened_at DESC LIMIT 5000"
		q = "SELECT " + entryCols + " FROM (" + in + ") w JOIN jobs j ON j.id = w.job_id" + entryJoins
	}
	where, args := x.where("", args)
	q += where + " ORDER BY j.opened_at DESC, j.id DESC"
	if limit > 0 {
		q, args = q+" LIMIT ?", append(args, limit)
	}
	rows, err := s.DB.QueryContext(ctx, q, args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var e Entry
		if err := rows.Scan(&e.ID, &e.Machine, &e.MachineID, &e.Circuit, &e.Complaint, &e.Says, &e.Station, &e.Fault, &e.Option, &e.Price, &e.OpenedAt, &e.ClosedAt, &e.Readings); err != nil {
			return err
		}
		if err := f(&e); err != nil {
			return err
		}
	}
	return rows.Err()
}

// Every hands on every matching entry, newest first, in constant memory.
func (s *Store) Every(ctx context.Context, x Search, f func(*Entry) error) error {
	return s.entries(ctx, x, 0, f)
}

// OldJob is a line of a list that was kept before.
type OldJob struct {
	Machine, Circuit, Fault, What, Done string
	On                                  time.Time
	Price                               *float64
}

// PutOldJobs keeps the lines of an old list, all or none; those that are there already
// are left.
func (s *Store) PutOldJobs(ctx context.Context, list []OldJob) (added int, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		q, err := tx.PrepareContext(ctx, "INSERT IGNORE INTO old_jobs (id, machine, circuit, fault, what, done, on_date, price, imported_at) VALUES (?,?,?,?,?,?,?,?,UTC_TIMESTAMP(6))")
		if err != nil {
			return err
		}
		defer q.Close()
		for _, o := range list {
			id := NewID()
			r, err := q.ExecContext(ctx, id[:], o.Machine, o.Circuit, o.Fault, o.What, o.Done, o.On.Format(time.DateOnly), o.Price)
			if err != nil {
				return err
			}
			n, _ := r.RowsAffected()
			added += int(n)
		}
		return nil
	})
	return added, err
}

// OldJobs lists lines of old lists that match.
func (s *Store) OldJobs(ctx context.Context, x Search) ([]Entry, error) {
	q, args := "SELECT id, machine, circuit, what, done, fault, price, on_date FROM old_jobs WHERE 1=1", []any{}
	if m := boolean(strings.Fields(strings.ToLower(x.Words))); m != "" {
		q, args = q+" AND MATCH (machine, what, done, fault) AGAINST (? IN BOOLEAN MODE)", append(args, m)
	} else if strings.TrimSpace(x.Words) != "" {
		return []Entry{}, nil
	}
	if x.Circuit != "" {
		q, args = q+" AND circuit = ?", append(args, x.Circuit)
	}
	for _, t := range []struct {
		cond string
		at   *time.Time
	}{{" AND on_date >= ?", x.From}, {" AND on_date < ?", x.To}, {" AND on_date < ?", x.Before}} {
		if t.at != nil {
			q, args = q+t.cond, append(args, t.at.UTC())
		}
	}
	rows, err := s.DB.QueryContext(ctx, q+" ORDER BY on_date DESC LIMIT 50", args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Entry{}
	for rows.Next() {
		e := Entry{Old: true}
		if err := rows.Scan(&e.ID, &e.Machine, &e.Circuit, &e.Complaint, &e.Says, &e.Fault, &e.Price, &e.OpenedAt); err != nil {
			return nil, err
		}
		out = append(out, e)
	}
	return out, rows.Err()
}

// Counts lists how often each fault was confirmed on a circuit, on machines of one kind
// or on all others.
func (s *Store) Counts(ctx context.Context, circuit, kind string, others bool, since time.Time) ([]learn.Count, error) {
	q := "SELECT fault, COUNT(*) FROM outcomes WHERE circuit = ? AND excluded = 0 AND fault <> '' AND at >= ?"
	args := []any{circuit, since.UTC()}
	if kind != "" {
		if others {
			q += " AND machine_kind <> ?"
		} else {
			q += " AND machine_kind = ?"
		}
		args = append(args, kind)
	}
	rows, err := s.DB.QueryContext(ctx, q+" GROUP BY fault", args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []learn.Count
	for rows.Next() {
		var c learn.Count
		if err := rows.Scan(&c.Fault, &c.N); err != nil {
			return nil, err
		}
		out = append(out, c)
	}
	return out, rows.Err()
}

// Done is one repair in a machine's life.
type Done struct {
	Machine uuid.UUID
	Option  string
	At      time.Time
}

// Lives lists the repairs of one station on one circuit, machine by machine.
func (s *Store) Lives(ctx context.Context, circuit, station string) ([]Done, error) {
	rows, err := s.DB.QueryContext(ctx, "SELECT machine_id, option_id, at FROM outcomes WHERE circuit = ? AND station = ? ORDER BY machine_id, at LIMIT 20000", circuit, station)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Done
	for rows.Next() {
		var d Done
		if err := rows.Scan(&d.Machine, &d.Option, &d.At); err != nil {
			return nil, err
		}
		out = append(out, d)
	}
	return out, rows.Err()
}

// Reliability is how the verdicts did.
type Reliability struct {
	Claims   []learn.Claim
	Jobs     int
	Readings float64 // mean
	Minutes  float64 // mean
}

// Reliability sums up the confirmed jobs.
func (s *Store) Reliability(ctx context.Context) (*Reliability, error) {
	r := &Reliability{}
	rows, err := s.DB.QueryContext(ctx, "SELECT ROUND(p, 2), was_right, COUNT(*), SUM(p) FROM outcomes WHERE excluded = 0 AND p IS NOT NULL GROUP BY ROUND(p, 2), was_right")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var p, sum float64
		var right bool
		var n int
		if err := rows.Scan(&p, &right, &n, &sum); err != nil {
			return nil, err
		}
		r.Claims = append(r.Claims, learn.Claim{P: sum / float64(n), Right: right, N: n})
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	err = s.DB.QueryRowContext(ctx, "SELECT COUNT(*), COALESCE(AVG(readings), 0), COALESCE(AVG(minutes), 0) FROM outcomes WHERE excluded = 0 AND p IS NOT NULL").Scan(&r.Jobs, &r.Readings, &r.Minutes)
	return r, err
}

// Wrong lists the latest jobs whose verdict was wrong.
func (s *Store) Wrong(ctx context.Context, n int) ([]Entry, error) {
	rows, err := s.DB.QueryContext(ctx, "SELECT "+entryCols+" FROM (SELECT job_id FROM outcomes WHERE was_right = 0 AND p IS NOT NULL ORDER BY at DESC LIMIT ?) w JOIN jobs j ON j.id = w.job_id"+entryJoins, n)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Entry{}
	for rows.Next() {
		var e Entry
		if err := rows.Scan(&e.ID, &e.Machine, &e.MachineID, &e.Circuit, &e.Complaint, &e.Says, &e.Station, &e.Fault, &e.Option, &e.Price, &e.OpenedAt, &e.ClosedAt, &e.Readings); err != nil {
			return nil, err
		}
		out = append(out, e)
	}
	return out, rows.Err()
}

// MachineKind reads what kind of machine it is.
func (s *Store) MachineKind(ctx context.Context, id uuid.UUID) (kind string, err error) {
	err = s.DB.QueryRowContext(ctx, "SELECT kind FROM machines WHERE id = ?", id[:]).Scan(&kind)
	return kind, notFound(err)
}
