package main

import (
	"context"
	"errors"
	"fmt"
	"os"

	"github.com/go-sql-driver/mysql"
	"github.com/spf13/cobra"

	"corriente/internal/backup"
	"corriente/internal/cluster"
	"corriente/internal/mariadb"
	"corriente/internal/store"
)

// backupCmds are backup and restore: all data of a workshop in one compressed file.
func backupCmds() []*cobra.Command {
	var bf, rf serveFlags
	var replace bool
	b := &cobra.Command{
		Use:   "backup FILE",
		Short: "Write all data into one file, while the application runs or not",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			cfg, stop, err := bf.database(cmd.Context())
			if err != nil {
				return err
			}
			defer stop()
			return write(cmd.Context(), cfg, args[0])
		},
	}
	bf.addData(b, "workshop")
	r := &cobra.Command{
		Use:   "restore FILE",
		Short: "Put a backup's data in place; the application must not run",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if rf.dsn == "" && mariadb.Running(rf.data) {
				return errInput{fmt.Errorf("the application on %s is running: stop it first", rf.data)}
			}
			cfg, stop, err := rf.database(cmd.Context())
			if err != nil {
				return err
			}
			defer stop()
			return restore(cmd.Context(), cfg, args[0], replace)
		},
	}
	rf.addData(r, "workshop")
	r.Flags().BoolVar(&replace, "replace", false, "throw away the data that is there")
	return []*cobra.Command{b, r}
}

func (f *serveFlags) addData(c *cobra.Command, data string) {
	c.Flags().StringVar(&f.data, "data", dataDir(data), "folder of the application's own database")
	c.Flags().StringVar(&f.dsn, "dsn", os.Getenv("CORRIENTE_DSN"), "use this MariaDB instead of an own one")
}

// database is where the data are: a MariaDB that runs, or one started for this.
func (f *serveFlags) database(ctx context.Context) (cfg *mysql.Config, stop func(), err error) {
	dsn, stop := f.dsn, func() {}
	if dsn == "" {
		if mariadb.Running(f.data) {
			if dsn, err = mariadb.Reach(f.data); err != nil {
				return nil, nil, errInput{err}
			}
		} else {
			db, err := mariadb.Start(ctx, f.data, 0)
			if err != nil {
				return nil, nil, errInput{err}
			}
			dsn, stop = db.DSN(), db.Stop
		}
	}
	hosts, err := cluster.Parse(dsn)
	if err != nil {
		stop()
		return nil, nil, errInput{fmt.Errorf("--dsn: %w", err)}
	}
	return hosts.Config(), stop, nil
}

// write writes FILE whole or not at all: one moment of the data, consistent.
func write(ctx context.Context, cfg *mysql.Config, path string) error {
	err := backup.WriteFile(ctx, cfg, path, progress("rows"))
	var no *backup.Refused
	if errors.As(err, &no) {
		return errInput{errors.New(no.Why)}
	}
	return err
}

// restore puts a file's data in place; what is there is thrown away only where replace says so, and
// only once the file's data are there whole.
func restore(ctx context.Context, cfg *mysql.Config, path string, replace bool) error {
	f, err := os.Open(path)
	if err != nil {
		return errInput{fmt.Errorf("%s cannot be opened: is the name right?", path)}
	}
	defer func() { _ = f.Close() }()
	st, err := store.OpenOn(ctx, cfg)
	if err != nil {
		return err
	}
	empty, err := st.Empty(ctx)
	st.Close()
	if err != nil {
		return err
	}
	if !empty && !replace {
		return errInput{errors.New("there are data here already: give --replace to throw them away, after a backup of their own")}
	}
	sum, err := backup.Restore(ctx, cfg, f, nil)
	var no *backup.Refused
	if errors.As(err, &no) {
		return errInput{fmt.Errorf("%s: %s; what was here is untouched", path, no.Why)}
	}
	if err != nil {
		return err
	}
	fmt.Fprintf(os.Stderr, "Restored: %d jobs, %d readings and looks, %d people.\n", sum.Jobs, sum.Readings, sum.People)
	return nil
}
