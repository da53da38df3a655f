package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"
)

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
		if err := tx.QueryRowContext(ctx, "SELECT name, kind, place, note, COALESCE(built, 0) FROM machines WHERE id = ? FOR UPDATE",
			m.ID[:]).Scan(&now.Name, &now.Kind, &now.Place, &now.Note, &now.Built); err != nil {
			return notFound(err)
		}
		// Sent again, it stands already as it is wanted.
		if since != "" && since != now.Revision() && m.Revision() != now.Revision() {
			return ErrStale
		}
		if _, err := tx.ExecContext(ctx, "UPDATE machines SET name = ?, kind = ?, place = ?, note = ?, built = NULLIF(?, 0) WHERE id = ?",
			m.Name, m.Kind, m.Place, m.Note, m.Built, m.ID[:]); err != nil {
			return err
		}
		if err := sum(ctx, tx, "machine_id", m.ID, -1); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, "UPDATE outcomes SET machine_kind = ?, age = IF(? = 0, NULL, GREATEST(0E0, "+
			"YEAR(at) - ? + 0E0)) WHERE machine_id = ?", m.Kind, m.Built, m.Built, m.ID[:]); err != nil {
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

// Visit is one job of a machine: which, and when what was done for a while is to be followed.
type Visit struct {
	Job        uuid.UUID
	OpenedAt   time.Time
	FollowUp   *time.Time
	FollowWhat string
}

// Visits lists a machine's jobs, the newest first.
func (s *Store) Visits(ctx context.Context, machine uuid.UUID, limit int) ([]Visit, error) {
	rows, err := s.DB.QueryContext(ctx,
		"SELECT id, opened_at, follow_up, follow_what FROM jobs WHERE machine_id = ? ORDER BY opened_at DESC, id LIMIT ?",
		machine[:], limit)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Visit{}
	for rows.Next() {
		var v Visit
		if err := rows.Scan(&v.Job, &v.OpenedAt, &v.FollowUp, &v.FollowWhat); err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, rows.Err()
}
