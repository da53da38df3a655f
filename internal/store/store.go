package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"math/rand/v2"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/google/uuid"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/database"

	"corriente/internal/cluster"
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

	hosts *cluster.Cluster
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
	hosts, err := cluster.Parse(dsn)
	if err != nil {
		return nil, err
	}
	return open(ctx, hosts, 0)
}

// OpenOn is [Open] for whoever has the configuration of a connection.
func OpenOn(ctx context.Context, cfg *mysql.Config) (*Store, error) {
	return open(ctx, cluster.From(cfg), 0)
}

// OpenAt makes the tables of an empty database as they were at a version, for the data of that
// time.
func OpenAt(ctx context.Context, cfg *mysql.Config, version int64) (*Store, error) {
	return open(ctx, cluster.From(cfg), version)
}

// open connects and applies the migrations up to a version, or all where it is 0.
func open(ctx context.Context, hosts *cluster.Cluster, version int64) (*Store, error) {
	cfg := hosts.Config()
	cfg.ParseTime, cfg.Loc = true, time.UTC
	cfg.Timeout, cfg.ReadTimeout, cfg.WriteTimeout = 5*time.Second, 30*time.Second, 30*time.Second
	if cfg.Params == nil {
		cfg.Params = map[string]string{}
	}
	cfg.Params["time_zone"] = "'+00:00'"
	cfg.Params["sql_mode"] = "'STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION,ERROR_FOR_DIVISION_BY_ZERO'"
	cfg.Collation = "utf8mb4_unicode_ci"
	cfg.InterpolateParams = true    // one round trip a statement instead of three
	cfg.Logger = &mysql.NopLogger{} // what goes wrong comes back as an error, and is logged where it is met
	conn, err := mysql.NewConnector(cfg)
	if err != nil {
		return nil, err
	}
	db := sql.OpenDB(conn)
	db.SetMaxOpenConns(20)
	db.SetMaxIdleConns(10)
	db.SetConnMaxLifetime(30 * time.Minute)
	s := &Store{DB: db, hosts: hosts}
	// Several servers may start over one database at once.
	if err := s.alone(ctx, func(ctx context.Context) error { return s.bringUp(ctx, version) }); err != nil {
		db.Close()
		return nil, fmt.Errorf("the database cannot be brought up to date: %w", err)
	}
	return s, nil
}

// bringUp applies the migrations up to a version, or all where it is 0, and what belongs to the newest.
func (s *Store) bringUp(ctx context.Context, version int64) error {
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(database.DialectMySQL, s.DB, sub)
	if err != nil {
		return err
	}
	if version > 0 {
		_, err = p.UpTo(ctx, version)
		return err
	}
	if _, err = p.Up(ctx); err != nil {
		return err
	}
	if err := s.reword(ctx); err != nil {
		return fmt.Errorf("the logbook's words: %w", err)
	}
	return nil
}

// Address is how the database is reached, for what connects by itself: on whichever of its hosts is in use.
func (s *Store) Address() *mysql.Config { return s.hosts.Config() }

// Hosts are all the hosts of the database, HOST:PORT.
func (s *Store) Hosts() []string { return s.hosts.Hosts() }

// Watch goes on with another host of the database when the one in use is gone, until ctx ends.
func (s *Store) Watch(ctx context.Context, log *slog.Logger) { s.hosts.Watch(ctx, log) }

// Ready reports whether the database takes reads and writes.
func (s *Store) Ready(ctx context.Context) error { return cluster.Ready(ctx, s.DB) }

// Close closes the connections.
func (s *Store) Close() error { return s.DB.Close() }

// SweepSessions takes out sessions that have ended.
func (s *Store) SweepSessions(ctx context.Context) error {
	_, err := s.exec(ctx, "DELETE FROM sessions WHERE expiry < UTC_TIMESTAMP(6)")
	return err
}

// mostTries is how often a transaction is tried again: with pauses of 10 to 800 ms that is some five seconds.
// At one row of a cluster, whoever was quicker at another node wins, and six people at one job lose to one
// another many times in a row.
const mostTries = 15

// tx runs f in a transaction and tries again on a deadlock or a lock wait, at the commit too; and where
// the database has another host, when the one in use goes away before the commit. After it nobody knows
// whether it was stored: whoever asked sends the same again.
func (s *Store) tx(ctx context.Context, f func(tx *sql.Tx) error) error {
	for try := 0; ; try++ {
		committing := false
		err := func() error {
			tx, err := s.DB.BeginTx(ctx, nil)
			if err != nil {
				return err
			}
			if err := f(tx); err != nil {
				_ = tx.Rollback()
				return err
			}
			committing = true
			return tx.Commit()
		}()
		away := s.hosts.Several() && !committing && Away(err)
		if try == mostTries || !away && !says(err, deadlock, lockWait) {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(time.Duration(10+rand.IntN(40)) * time.Millisecond << min(try, 4)):
		}
	}
}

// exec executes one statement, and again on a deadlock: a node of a cluster says so of any write that
// another node was quicker with.
func (s *Store) exec(ctx context.Context, statement string, args ...any) (r sql.Result, err error) {
	err = s.tx(ctx, func(tx *sql.Tx) error {
		r, err = tx.ExecContext(ctx, statement, args...)
		return err
	})
	return r, err
}

// NewID makes a UUIDv7.
func NewID() uuid.UUID { return uuid.Must(uuid.NewV7()) }

func notFound(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}
