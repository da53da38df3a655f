package store

import (
	"context"
	"database/sql"
	"strings"
	"time"

	"github.com/google/uuid"
)

// Told is what another server over the same database said: a job was changed, or, without one, somebody
// was signed out.
type Told struct {
	ID  uuid.UUID
	Job uuid.NullUUID
}

// keepTold is how long what servers say to one another is kept; who was away longer than that has nobody
// listening either.
const keepTold = 10 * time.Minute

// Tell says to the other servers which jobs were changed, and whether somebody was signed out.
func (s *Store) Tell(ctx context.Context, server uuid.UUID, jobs []uuid.UUID, left bool) error {
	const most = 500 // in one statement
	for len(jobs) > most {
		if err := s.Tell(ctx, server, jobs[:most], false); err != nil {
			return err
		}
		jobs = jobs[most:]
	}
	var rows []string
	var args []any
	add := func(job any) {
		id := NewID()
		rows, args = append(rows, "(?,?,?)"), append(args, id[:], server[:], job)
	}
	for _, j := range jobs {
		add(j[:])
	}
	if left {
		add(nil)
	}
	if len(rows) == 0 {
		return nil
	}
	return s.tx(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, "INSERT INTO told (id, server, job) VALUES "+strings.Join(rows, ","), args...)
		return err
	})
}

// ToldSince returns what other servers said in the time past. In a cluster rows do not come in the order of
// their times: who asks again looks back further than to the last time, and knows by the ids what is new.
func (s *Store) ToldSince(ctx context.Context, server uuid.UUID, past time.Duration) ([]Told, error) {
	rows, err := s.DB.QueryContext(ctx,
		"SELECT id, job FROM told WHERE at > CURRENT_TIMESTAMP(3) - INTERVAL ? SECOND AND server <> ?", int(past.Seconds()), server[:])
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Told
	for rows.Next() {
		var t Told
		if err := rows.Scan(&t.ID, &t.Job); err != nil {
			return nil, err
		}
		out = append(out, t)
	}
	return out, rows.Err()
}

// SweepTold takes out what every server has read.
func (s *Store) SweepTold(ctx context.Context) error {
	_, err := s.exec(ctx, "DELETE FROM told WHERE at < CURRENT_TIMESTAMP(3) - INTERVAL ? SECOND", int(keepTold.Seconds()))
	return err
}
