package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"strings"

	"github.com/google/uuid"

	"corriente/core/blink"
	"corriente/core/casefile"
	"corriente/core/circuit"
)

// What the workshop knows beyond one job: its own circuits, what wiring diagrams
// say of a type of machine, tables of blink codes, photos.

// Mark is what a wiring diagram says of one node or station.
type Mark struct {
	Colour    string  `json:"colour,omitempty" maxLength:"60"`
	Connector string  `json:"connector,omitempty" maxLength:"60"`
	Pin       string  `json:"pin,omitempty" maxLength:"30"`
	Place     string  `json:"place,omitempty" maxLength:"200"`
	Fuse      string  `json:"fuse,omitempty" maxLength:"60" doc:"position in the fuse block"`
	Photo     string  `json:"photo,omitempty" maxLength:"36"`
	X         float64 `json:"x,omitempty" minimum:"0" maximum:"1" doc:"the mark on the photo, share of its width"`
	Y         float64 `json:"y,omitempty" minimum:"0" maximum:"1"`
}

// Profile returns what is known of a type of machine; empty when nothing is.
func (s *Store) Profile(ctx context.Context, kind, circuit string) (map[string]Mark, error) {
	marks := map[string]Mark{}
	var b []byte
	err := s.DB.QueryRowContext(ctx, "SELECT marks FROM profiles WHERE machine_kind = ? AND circuit = ?", kind, circuit).Scan(&b)
	if errors.Is(err, sql.ErrNoRows) {
		return marks, nil
	}
	if err != nil {
		return nil, err
	}
	return marks, json.Unmarshal(b, &marks)
}

// MarkedPoint is a node or a station of a circuit as it is on one kind of machine.
type MarkedPoint struct{ Kind, Circuit, At string }

// PutMark sets the mark of one node or station; an empty one takes it away.
func (s *Store) PutMark(ctx context.Context, p MarkedPoint, m Mark, by uuid.UUID) (map[string]Mark, error) {
	kind, circuit, at := p.Kind, p.Circuit, p.At
	var marks map[string]Mark
	err := s.tx(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, `INSERT INTO profiles (machine_kind, circuit, marks, updated_at, updated_by) VALUES (?,?,'{}',UTC_TIMESTAMP(6),?)
			ON DUPLICATE KEY UPDATE machine_kind=machine_kind`, kind, circuit, by[:]); err != nil {
			return err
		}
		var b []byte
		if err := tx.QueryRowContext(ctx, "SELECT marks FROM profiles WHERE machine_kind = ? AND circuit = ? FOR UPDATE",
			kind, circuit).Scan(&b); err != nil {
			return err
		}
		marks = map[string]Mark{}
		if err := json.Unmarshal(b, &marks); err != nil {
			return err
		}
		if marks[at] = m; m == (Mark{}) {
			delete(marks, at)
		}
		b, err := json.Marshal(marks)
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, "UPDATE profiles SET marks = ?, updated_at = UTC_TIMESTAMP(6), updated_by = ? "+
			"WHERE machine_kind = ? AND circuit = ?", string(b), by[:], kind, circuit)
		return err
	})
	return marks, err
}

// CodeTables lists all tables of blink codes.
func (s *Store) CodeTables(ctx context.Context) ([]blink.Table, error) {
	rows, err := s.DB.QueryContext(ctx,
		"SELECT controller, machine_kind, circuit, entries FROM code_tables ORDER BY controller, machine_kind")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []blink.Table{}
	for rows.Next() {
		var t blink.Table
		var b []byte
		if err := rows.Scan(&t.Controller, &t.Machine, &t.Circuit, &b); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(b, &t.Entries); err != nil {
			return nil, err
		}
		out = append(out, t)
	}
	return out, rows.Err()
}

// PutCodeTable adds a table, or replaces the one of the same controller, machine
// and circuit whole.
func (s *Store) PutCodeTable(ctx context.Context, t blink.Table, by *uuid.UUID) error {
	b, err := json.Marshal(t.Entries)
	if err != nil {
		return err
	}
	_, err = s.exec(ctx, `INSERT INTO code_tables (controller, machine_kind, circuit, entries, updated_at, updated_by) VALUES (?,?,?,?,UTC_TIMESTAMP(6),?)
		ON DUPLICATE KEY UPDATE entries=VALUES(entries), updated_at=VALUES(updated_at), updated_by=VALUES(updated_by)`,
		t.Controller, t.Machine, t.Circuit, string(b), idOrNil(by))
	return err
}

// Circuits lists the workshop's own circuits.
func (s *Store) Circuits(ctx context.Context) ([]*circuit.Circuit, error) {
	rows, err := s.DB.QueryContext(ctx, "SELECT body FROM circuits ORDER BY title")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []*circuit.Circuit
	for rows.Next() {
		var b []byte
		if err := rows.Scan(&b); err != nil {
			return nil, err
		}
		c, err := circuit.Read(bytes.NewReader(b))
		if err != nil {
			return nil, err
		}
		out = append(out, c)
	}
	return out, rows.Err()
}

// Circuit finds a family, or one of the workshop's own circuits; ErrNotFound when
// there is neither. own tells which.
func (s *Store) Circuit(ctx context.Context, id string) (c *circuit.Circuit, own bool, err error) {
	if f, err := circuit.Family(id); err == nil {
		return f.Clone(), false, nil
	}
	var b []byte
	if err := s.DB.QueryRowContext(ctx, "SELECT body FROM circuits WHERE id = ?", id).Scan(&b); err != nil {
		return nil, false, notFound(err)
	}
	c, err = circuit.Read(bytes.NewReader(b))
	return c, true, err
}

// CircuitRevision tells two states of a circuit apart.
func CircuitRevision(c *circuit.Circuit) (string, error) {
	b, err := json.Marshal(c)
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:8]), err
}

// PutCircuit adds one of the workshop's own circuits, or replaces it. Jobs that use it keep their copy. since is the
// revision that was read, and ErrStale says that it is another by now; empty replaces whatever stands there.
func (s *Store) PutCircuit(ctx context.Context, c *circuit.Circuit, since string, by uuid.UUID) error {
	b, err := json.Marshal(c)
	if err != nil {
		return err
	}
	return s.tx(ctx, func(tx *sql.Tx) error {
		if since != "" {
			if err := sameCircuit(ctx, tx, c, since); err != nil {
				return err
			}
		}
		return putCircuit(ctx, tx, c, b, by)
	})
}

// sameCircuit holds a circuit and sees that it is as it was read, or already as it is wanted.
func sameCircuit(ctx context.Context, tx *sql.Tx, c *circuit.Circuit, since string) error {
	var was []byte
	err := tx.QueryRowContext(ctx, "SELECT body FROM circuits WHERE id = ? FOR UPDATE", c.ID).Scan(&was)
	if errors.Is(err, sql.ErrNoRows) {
		return nil
	}
	if err != nil {
		return err
	}
	now, err := circuit.Read(bytes.NewReader(was))
	if err != nil {
		return err
	}
	stands, err1 := CircuitRevision(now)
	wanted, err2 := CircuitRevision(c)
	if err := errors.Join(err1, err2); err != nil {
		return err
	}
	if stands != since && stands != wanted {
		return ErrStale
	}
	return nil
}

func putCircuit(ctx context.Context, tx *sql.Tx, c *circuit.Circuit, b []byte, by uuid.UUID) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO circuits (id, title, body, updated_at, updated_by) VALUES (?,?,?,UTC_TIMESTAMP(6),?)
		ON DUPLICATE KEY UPDATE title=VALUES(title), body=VALUES(body), updated_at=VALUES(updated_at), updated_by=VALUES(updated_by)`,
		c.ID, c.Title, string(b), by[:])
	return err
}

// rewrite checks a changed case by writing and reading it again, so that a job
// never holds what a case file could not.
func rewrite(c *casefile.Case) (*casefile.Case, error) {
	head, err := headOf(c)
	if err != nil {
		return nil, err
	}
	n, err := casefile.Read(strings.NewReader(head))
	if err != nil {
		return nil, err
	}
	if err := n.Circuit.Solvable(); err != nil {
		var inv *circuit.Invalid
		if errors.As(err, &inv) {
			return nil, &casefile.Problem{Pointer: "/parameters", What: inv.What}
		}
		return nil, err
	}
	n.Repairs = c.Repairs
	for i := range c.Evidence {
		e := c.Evidence[i]
		if p := e.Check(n.Circuit, n.Instruments); p != nil {
			return nil, p
		}
		n.Evidence = append(n.Evidence, e)
	}
	return n, nil
}
