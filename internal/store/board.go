package store

import (
	"context"
	"database/sql"
	"strings"
	"time"

	"github.com/google/uuid"
)

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
			&r.Status, &r.Station, &r.Probability, &r.Says, &r.OpenedAt, &r.ClosedAt, &r.FollowUp, &r.FollowWhat,
			&was, &r.Bench, &r.Person); err != nil {
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
