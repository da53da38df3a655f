package store

import (
	"context"
	"database/sql"
	"slices"

	"github.com/google/uuid"
)

// stays is what is left when all work is taken out of a workshop: people, settings, meters and the record.
var stays = []string{"users", "settings", "sign_ins", "sessions", "invitations", "shared_devices", "acts",
	"sign_in_attempts", "instruments", "goose_db_version"}

// HasWork tells whether there is a job, a machine or a price list yet.
func (s *Store) HasWork(ctx context.Context) (bool, error) {
	var n int
	err := s.DB.QueryRowContext(ctx, "SELECT (SELECT COUNT(*) FROM jobs) + (SELECT COUNT(*) FROM machines) + "+
		"(SELECT COUNT(*) FROM parts)").Scan(&n)
	return n > 0, err
}

// TakeOutWork takes every job and machine out, with all that belongs to them, and the people named. All or nothing.
func (s *Store) TakeOutWork(ctx context.Context, people []uuid.UUID, a Act) error {
	tables, err := list(ctx, s.DB, func(t *string) []any { return []any{t} },
		"SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE'")
	if err != nil {
		return err
	}
	return s.tx(ctx, func(tx *sql.Tx) error {
		// Everything goes at once: the order of what refers to what is of no matter.
		if _, err := tx.ExecContext(ctx, "SET FOREIGN_KEY_CHECKS = 0"); err != nil {
			return err
		}
		defer func() { _, _ = tx.ExecContext(context.WithoutCancel(ctx), "SET FOREIGN_KEY_CHECKS = 1") }()
		for _, t := range tables {
			if slices.Contains(stays, t) {
				continue
			}
			if _, err := tx.ExecContext(ctx, "DELETE FROM `"+t+"`"); err != nil {
				return err
			}
		}
		for _, id := range people {
			if _, err := tx.ExecContext(ctx, "DELETE FROM users WHERE id = ?", id[:]); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, "DELETE FROM settings WHERE name IN ('demo', 'workshop', 'supplier', "+
			"'learning_since')"); err != nil {
			return err
		}
		return addAct(ctx, tx, a)
	})
}
