package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"
)

// How long the right to change tables is held without a sign of life, and how often it is given one. Who is
// killed with it leaves the next to wait so long.
const (
	leaseFor   = 30 * time.Second
	leaseBeat  = 10 * time.Second
	leaseAgain = 200 * time.Millisecond
)

// alone runs f while no other server changes the tables of this database. The right is a row, not the
// database's own named lock: that one is known to one node of a cluster alone.
func (s *Store) alone(ctx context.Context, f func(context.Context) error) error {
	if _, err := s.DB.ExecContext(ctx, "CREATE TABLE IF NOT EXISTS upkeep (one TINYINT NOT NULL PRIMARY KEY, holder "+
		"BINARY(16) NOT NULL, until DATETIME(3) NOT NULL)"); err != nil {
		return err
	}
	me := NewID()
	for {
		held, err := s.lease(ctx, me[:])
		if err != nil {
			return err
		}
		if held {
			break
		}
		select {
		case <-ctx.Done():
			return fmt.Errorf("another server is changing its tables: %w", ctx.Err())
		case <-time.After(leaseAgain):
		}
	}
	ctx, stop := context.WithCancelCause(ctx)
	done := make(chan struct{})
	go func() {
		defer close(done)
		t := time.NewTicker(leaseBeat)
		defer t.Stop()
		for {
			select {
			case <-ctx.Done():
				return
			case <-t.C:
			}
			if held, err := s.lease(ctx, me[:]); err == nil && !held {
				stop(errors.New("another server took over"))
				return
			}
		}
	}()
	err := f(ctx)
	stop(nil)
	<-done
	bg, cancel := context.WithTimeout(context.WithoutCancel(ctx), leaseBeat)
	defer cancel()
	_, end := s.DB.ExecContext(bg, "DELETE FROM upkeep WHERE holder = ?", me[:])
	return errors.Join(err, end)
}

// lease takes the right for me, or lengthens it; false: somebody else holds it.
func (s *Store) lease(ctx context.Context, me []byte) (held bool, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		var holder []byte
		var over bool
		err := tx.QueryRowContext(ctx, "SELECT holder, until < UTC_TIMESTAMP(3) FROM upkeep WHERE one = 1 FOR UPDATE").Scan(&holder, &over)
		if held = errors.Is(err, sql.ErrNoRows) || err == nil && (over || string(holder) == string(me)); !held {
			return notFound(err)
		}
		_, err = tx.ExecContext(ctx, "INSERT INTO upkeep (one, holder, until) VALUES (1, ?, UTC_TIMESTAMP(3) + "+
			"INTERVAL ? SECOND) ON DUPLICATE KEY UPDATE holder = VALUES(holder), until = VALUES(until)", me, int(leaseFor.Seconds()))
		return err
	})
	return held, err
}
