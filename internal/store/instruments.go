package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/google/uuid"

	"corriente/core/meter"
)

// Instrument is one of the workshop's meters.
type Instrument struct {
	ID       uuid.UUID
	Name     string
	Address  string // host:port of its SCPI socket; empty: read by eye
	Meter    meter.Instrument
	LeadsOhm float64 // what it reads with its leads held together, Ω
	ZeroA    float64 // what a clamp reads with no current in it, A
	ZeroedAt *time.Time
}

const instrumentCols = "id, name, kind, address, accuracy, leads_ohm, zero_a, zeroed_at"

func scanInstrument(scan func(...any) error) (in Instrument, err error) {
	var kind, acc string
	if err := scan(&in.ID, &in.Name, &kind, &in.Address, &acc, &in.LeadsOhm, &in.ZeroA, &in.ZeroedAt); err != nil {
		return in, err
	}
	if err := json.Unmarshal([]byte(acc), &in.Meter); err != nil {
		return in, err
	}
	in.Meter.Kind, in.Meter.Name = meter.Kind(kind), in.Name
	return in, nil
}

// Instruments lists the workshop's meters by name.
func (s *Store) Instruments(ctx context.Context) ([]Instrument, error) {
	rows, err := s.DB.QueryContext(ctx, "SELECT "+instrumentCols+" FROM instruments ORDER BY name")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Instrument
	for rows.Next() {
		in, err := scanInstrument(rows.Scan)
		if err != nil {
			return nil, err
		}
		out = append(out, in)
	}
	return out, rows.Err()
}

// Instrument returns one; ErrNotFound when there is none such.
func (s *Store) Instrument(ctx context.Context, id uuid.UUID) (Instrument, error) {
	in, err := scanInstrument(s.DB.QueryRowContext(ctx, "SELECT "+instrumentCols+" FROM instruments WHERE id = ?", id[:]).Scan)
	return in, notFound(err)
}

// PutInstrument adds or changes one.
func (s *Store) PutInstrument(ctx context.Context, in Instrument) error {
	acc, err := json.Marshal(in.Meter)
	if err != nil {
		return err
	}
	_, err = s.exec(ctx, `INSERT INTO instruments (id, name, kind, address, accuracy, leads_ohm, zero_a, zeroed_at, updated_at)
		VALUES (?,?,?,?,?,?,?,?,UTC_TIMESTAMP(6)) ON DUPLICATE KEY UPDATE name=VALUES(name), kind=VALUES(kind), address=VALUES(address),
		accuracy=VALUES(accuracy), leads_ohm=VALUES(leads_ohm), zero_a=VALUES(zero_a), zeroed_at=VALUES(zeroed_at), updated_at=VALUES(updated_at)`,
		in.ID[:], in.Name, string(in.Meter.Kind), in.Address, string(acc), in.LeadsOhm, in.ZeroA, in.ZeroedAt)
	return err
}

// DropInstrument forgets one; nothing happens where there is none.
func (s *Store) DropInstrument(ctx context.Context, id uuid.UUID) error {
	_, err := s.exec(ctx, "DELETE FROM instruments WHERE id = ?", id[:])
	return err
}
