package store

import (
	"context"
	"database/sql"
	"time"

	"github.com/google/uuid"
)

// Wait is what stands between a job and its next step.
type Wait struct {
	ID    uuid.UUID
	Job   uuid.UUID
	Kind  string
	Note  string
	Until *time.Time // nil: nobody knows
	At    time.Time
	By    string
}

// Schedule is where a job stands and who it was given to.
type Schedule struct {
	Bench  string
	Person *uuid.UUID
	Name   string // of the person
}

// Waits lists what open waits there are, of one job or of all, what ends first before the rest.
func (s *Store) Waits(ctx context.Context, job *uuid.UUID) ([]Wait, error) {
	where, args := "w.ended_at IS NULL", []any{}
	if job != nil {
		where, args = where+" AND w.job_id = ?", append(args, job[:])
	}
	rows, err := s.DB.QueryContext(ctx, `SELECT w.id, w.job_id, w.kind, w.note, w.until_at, w.created_at, COALESCE(u.name,'')
		FROM job_waits w LEFT JOIN users u ON u.id = w.created_by WHERE `+where+` ORDER BY w.until_at IS NULL, w.until_at, w.created_at, w.id LIMIT 5000`, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Wait{}
	for rows.Next() {
		var w Wait
		if err := rows.Scan(&w.ID, &w.Job, &w.Kind, &w.Note, &w.Until, &w.At, &w.By); err != nil {
			return nil, err
		}
		out = append(out, w)
	}
	return out, rows.Err()
}

// PutWait keeps a wait; the same id again changes it. ErrConflict where the id is another job's.
func (s *Store) PutWait(ctx context.Context, w Wait, by uuid.UUID) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		if err := onlyOf(ctx, tx, w.Job, w.ID); err != nil {
			return err
		}
		var until any
		if w.Until != nil {
			until = w.Until.UTC()
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO job_waits (id, job_id, kind, note, until_at, created_at, created_by) VALUES (?,?,?,?,?,UTC_TIMESTAMP(6),?)
			ON DUPLICATE KEY UPDATE kind = VALUES(kind), note = VALUES(note), until_at = VALUES(until_at)`, w.ID[:], w.Job[:], w.Kind, w.Note, until, someone(by))
		return err
	})
}

// onlyOf refuses a job that is not there, and a wait that is another job's.
func onlyOf(ctx context.Context, tx *sql.Tx, job, wait uuid.UUID) error {
	var there int
	if err := tx.QueryRowContext(ctx, "SELECT COUNT(*) FROM jobs WHERE id = ?", job[:]).Scan(&there); err != nil {
		return err
	}
	if there == 0 {
		return ErrNotFound
	}
	if err := tx.QueryRowContext(ctx, "SELECT COUNT(*) FROM job_waits WHERE id = ? AND job_id <> ?", wait[:],
		job[:]).Scan(&there); err != nil {
		return err
	}
	if there > 0 {
		return ErrConflict
	}
	return nil
}

// EndWait ends a wait; ended again it stays ended.
func (s *Store) EndWait(ctx context.Context, job, id uuid.UUID) error {
	_, err := s.exec(ctx, "UPDATE job_waits SET ended_at = COALESCE(ended_at, UTC_TIMESTAMP(6)) WHERE id = ? AND job_id = ?", id[:], job[:])
	return err
}

// ScheduleOf reads where a job stands and who has it.
func (s *Store) ScheduleOf(ctx context.Context, job uuid.UUID) (Schedule, error) {
	var x Schedule
	var person []byte
	err := s.DB.QueryRowContext(ctx, "SELECT j.bench, j.assigned_to, COALESCE(u.name,'') FROM jobs j LEFT JOIN "+
		"users u ON u.id = j.assigned_to WHERE j.id = ?", job[:]).Scan(&x.Bench, &person, &x.Name)
	if len(person) == 16 {
		id := uuid.UUID(person)
		x.Person = &id
	}
	return x, notFound(err)
}

// PutSchedule keeps where a job stands and who has it.
func (s *Store) PutSchedule(ctx context.Context, job uuid.UUID, bench string, person *uuid.UUID) error {
	r, err := s.exec(ctx, "UPDATE jobs SET bench = ?, assigned_to = ? WHERE id = ?", bench, idOrNil(person), job[:])
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err == nil && n == 0 {
		var there int
		if err := s.DB.QueryRowContext(ctx, "SELECT COUNT(*) FROM jobs WHERE id = ?", job[:]).Scan(&there); err != nil || there == 0 {
			return ErrNotFound
		}
	}
	return nil
}
