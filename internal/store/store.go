// Package store keeps users, machines, jobs, evidence, verdicts and decisions
// in MariaDB. Evidence is struck out, never deleted; every write carries an id
// made by the client, so sending it again changes nothing.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/google/uuid"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/database"
)

// Errors that callers tell apart.
var (
	ErrNotFound = errors.New("not found")
	// ErrConflict: the id is taken by something else.
	ErrConflict = errors.New("this id is already used for something else")
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is the database. It is safe for concurrent use.
type Store struct {
	DB *sql.DB
	// Changed, where set, is told of every job that was changed, after it was
	// stored.
	Changed func(job uuid.UUID)
}

// Latest is the version of the newest migration: a database of a later one is none of this
// program's.
func Latest() (int64, error) {
	names, err := fs.Glob(migrations, "migrations/*.sql")
	if err != nil {
		return 0, err
	}
	most := int64(0)
	for _, n := range names {
		v, err := goose.NumericComponent(n)
		if err != nil {
			return 0, err
		}
		most = max(most, v)
	}
	return most, nil
}

// Open connects and applies the migrations.
func Open(ctx context.Context, dsn string) (*Store, error) {
	s, err := open(ctx, dsn, 0)
	if err != nil {
		return nil, err
	}
	if err := s.reword(ctx); err != nil {
		s.DB.Close()
		return nil, fmt.Errorf("the logbook's words cannot be brought up to date: %w", err)
	}
	return s, nil
}

// OpenAt makes the tables of an empty database as they were at a version, for the data of that
// time.
func OpenAt(ctx context.Context, dsn string, version int64) (*Store, error) {
	return open(ctx, dsn, version)
}

// open connects and applies the migrations up to a version, or all where it is 0.
func open(ctx context.Context, dsn string, version int64) (*Store, error) {
	cfg, err := mysql.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("the database address cannot be read: %w", err)
	}
	cfg.ParseTime, cfg.Loc = true, time.UTC
	cfg.Timeout, cfg.ReadTimeout, cfg.WriteTimeout = 5*time.Second, 30*time.Second, 30*time.Second
	if cfg.Params == nil {
		cfg.Params = map[string]string{}
	}
	cfg.Params["time_zone"] = "'+00:00'"
	cfg.Params["sql_mode"] = "'STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION,ERROR_FOR_DIVISION_BY_ZERO'"
	cfg.Collation = "utf8mb4_unicode_ci"
	cfg.InterpolateParams = true // one round trip a statement instead of three
	conn, err := mysql.NewConnector(cfg)
	if err != nil {
		return nil, err
	}
	db := sql.OpenDB(conn)
	db.SetMaxOpenConns(20)
	db.SetMaxIdleConns(10)
	db.SetConnMaxLifetime(30 * time.Minute)
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	p, err := goose.NewProvider(database.DialectMySQL, db, sub)
	switch {
	case err != nil:
	case version > 0:
		_, err = p.UpTo(ctx, version)
	default:
		_, err = p.Up(ctx)
	}
	if err != nil {
		db.Close()
		return nil, fmt.Errorf("the database cannot be brought up to date: %w", err)
	}
	return &Store{DB: db}, nil
}

// Close closes the connections.
func (s *Store) Close() error { return s.DB.Close() }

// SweepSessions takes out sessions that have ended.
func (s *Store) SweepSessions(ctx context.Context) error {
	_, err := s.DB.ExecContext(ctx, "DELETE FROM sessions WHERE expiry < UTC_TIMESTAMP(6)")
	return err
}

// tx runs f in a transaction and tries again on a deadlock or a lock wait, at
// the commit too.
func (s *Store) tx(ctx context.Context, f func(tx *sql.Tx) error) error {
	for try := 0; ; try++ {
		err := func() error {
			tx, err := s.DB.BeginTx(ctx, nil)
			if err != nil {
				return err
			}
			if err := f(tx); err != nil {
				_ = tx.Rollback()
				return err
			}
			return tx.Commit()
		}()
		if err == nil || try >= 5 || !says(err, deadlock, lockWait) {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(time.Duration(10+rand.IntN(40)) * time.Millisecond << try):
		}
	}
}

// NewID makes a UUIDv7.
func NewID() uuid.UUID { return uuid.Must(uuid.NewV7()) }

func notFound(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}
