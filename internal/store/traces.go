package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"github.com/google/uuid"

	"corriente/core/trace"
)

// Trace is a current trace that was kept with a job: what it told, and its
// picture. The samples stay where they came from.
type Trace struct {
	ID     uuid.UUID
	Name   string
	Result trace.Analysis
	Points []trace.Point
	At     time.Time
}

// Traces lists a job's, oldest first.
func (s *Store) Traces(ctx context.Context, job uuid.UUID) ([]Trace, error) {
	rows, err := s.DB.QueryContext(ctx,
		"SELECT id, name, result, points, created_at FROM traces WHERE job_id = ? ORDER BY created_at, id", job[:])
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Trace
	for rows.Next() {
		var t Trace
		var res, pts []byte
		if err := rows.Scan(&t.ID, &t.Name, &res, &pts, &t.At); err != nil {
			return nil, err
		}
		if err := errors.Join(json.Unmarshal(res, &t.Result), json.Unmarshal(pts, &t.Points)); err != nil {
			return nil, err
		}
		out = append(out, t)
	}
	return out, rows.Err()
}

// PutTrace keeps one; the same id again changes nothing. ErrNotFound when there is
// no such job.
func (s *Store) PutTrace(ctx context.Context, job uuid.UUID, t Trace, by uuid.UUID) error {
	res, err1 := json.Marshal(&t.Result)
	pts, err2 := json.Marshal(t.Points)
	if err := errors.Join(err1, err2); err != nil {
		return err
	}
	err := s.tx(ctx, func(tx *sql.Tx) error {
		if err := room(ctx, tx, Full{"traces", mostTraces, ofThisJob},
			"SELECT COUNT(*) FROM traces WHERE job_id = ? AND id <> ?", job[:], t.ID[:]); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, "INSERT INTO traces (id, job_id, name, result, points, created_at, "+
			"created_by) VALUES (?,?,?,?,?,UTC_TIMESTAMP(6),?) ON DUPLICATE KEY UPDATE id=id",
			t.ID[:], job[:], t.Name, string(res), string(pts), by[:])
		return err
	})
	if says(err, noParent) {
		return ErrNotFound
	}
	return err
}

// DropTrace forgets one of a job's traces.
func (s *Store) DropTrace(ctx context.Context, job, id uuid.UUID) error {
	_, err := s.exec(ctx, "DELETE FROM traces WHERE id = ? AND job_id = ?", id[:], job[:])
	return err
}
