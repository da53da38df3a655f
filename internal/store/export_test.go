package store

import (
	"context"
	"io/fs"

	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/database"
)

// DownTo takes migrations back to a version.
func (s *Store) DownTo(ctx context.Context, version int64) error {
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(database.DialectMySQL, s.DB, sub)
	if err != nil {
		return err
	}
	_, err = p.DownTo(ctx, version)
	return err
}
