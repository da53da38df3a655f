package main

import (
	"bufio"
	"compress/gzip"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"strings"

	"github.com/go-sql-driver/mysql"
	"github.com/spf13/cobra"

	"corriente/internal/mariadb"
	"corriente/internal/store"
)

// backupMark is the first line of a backup: what is inside, and its version.
const backupMark = "-- corriente backup 1"

// backupCmds are backup and restore: all data of a workshop in one compressed file.
func backupCmds() []*cobra.Command {
	var bf, rf serveFlags
	var replace bool
	b := &cobra.Command{
		Use:   "backup FILE.sql.gz",
		Short: "Write all data into one file, while the application runs or not",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			cfg, stop, err := bf.database(cmd.Context())
			if err != nil {
				return err
			}
			defer stop()
			return backup(cmd.Context(), cfg, args[0])
		},
	}
	bf.addData(b, "workshop")
	r := &cobra.Command{
		Use:   "restore FILE.sql.gz",
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
	if cfg, err = mysql.ParseDSN(dsn); err != nil {
		stop()
		return nil, nil, errInput{fmt.Errorf("--dsn: %w", err)}
	}
	return cfg, stop, nil
}

// client is one of MariaDB's own programs on the database; the password goes by the
// environment, where no list of processes shows it.
func client(ctx context.Context, name string, cfg *mysql.Config, args ...string) (*exec.Cmd, error) {
	bin, err := exec.LookPath(name)
	if err != nil {
		return nil, errInput{fmt.Errorf("%s is missing: it comes with Debian's mariadb-client", name)}
	}
	host, port, ok := strings.Cut(cfg.Addr, ":")
	if !ok {
		return nil, errInput{fmt.Errorf("the database's address %q has no port", cfg.Addr)}
	}
	c := exec.CommandContext(ctx, bin, append([]string{"--no-defaults", "--protocol=tcp", "--host=" + host, "--port=" + port, "--user=" + cfg.User, "--default-character-set=utf8mb4"}, args...)...)
	c.Env = append(os.Environ(), "MYSQL_PWD="+cfg.Passwd)
	return c, nil
}

// backup writes FILE whole or not at all: one moment of the data, consistent.
func backup(ctx context.Context, cfg *mysql.Config, path string) (err error) {
	if _, err := os.Stat(path); err == nil {
		return errInput{fmt.Errorf("%s is there already: choose another name", path)}
	}
	part := path + ".part"
	f, err := os.OpenFile(part, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return errInput{fmt.Errorf("%s cannot be written: is the folder right, and no other backup under way?", part)}
	}
	defer func() {
		err = errors.Join(err, f.Close())
		if err == nil {
			err = os.Rename(part, path)
		}
		if err != nil {
			_ = os.Remove(part)
		}
	}()
	z := gzip.NewWriter(f)
	if _, err := fmt.Fprintln(z, backupMark); err != nil {
		return err
	}
	dump, err := client(ctx, "mariadb-dump", cfg, "--single-transaction", "--skip-lock-tables", "--no-tablespaces", "--hex-blob", "--ignore-table="+cfg.DBName+".sessions", cfg.DBName)
	if err != nil {
		return err
	}
	var said strings.Builder
	dump.Stdout, dump.Stderr = z, &said
	if err := dump.Run(); err != nil {
		return fmt.Errorf("the data could not be read: %s", strings.TrimSpace(said.String()))
	}
	if err := z.Close(); err != nil {
		return err
	}
	return f.Sync()
}

// restore puts a backup in place. It is tried in a database of its own first, so that a
// torn file leaves what is there untouched.
func restore(ctx context.Context, cfg *mysql.Config, path string, replace bool) error {
	if err := marked(path); err != nil {
		return err
	}
	st, err := store.Open(ctx, cfg.FormatDSN())
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
	db, err := sql.Open("mysql", cfg.FormatDSN())
	if err != nil {
		return err
	}
	defer db.Close()
	trial := *cfg
	trial.DBName = cfg.DBName + "_restore"
	for _, to := range []*mysql.Config{&trial, cfg} {
		for _, q := range []string{"DROP DATABASE IF EXISTS `" + to.DBName + "`", "CREATE DATABASE `" + to.DBName + "` CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"} {
			if _, err := db.ExecContext(ctx, q); err != nil {
				return err
			}
		}
		if err := load(ctx, to, path); err != nil {
			_, _ = db.ExecContext(ctx, "DROP DATABASE IF EXISTS `"+trial.DBName+"`")
			return errInput{fmt.Errorf("%s: %w; what was here is untouched", path, err)}
		}
		if to == &trial {
			_, _ = db.ExecContext(ctx, "DROP DATABASE `"+trial.DBName+"`")
		}
	}
	// What the application needs beyond the backup, such as later tables.
	if st, err = store.Open(ctx, cfg.FormatDSN()); err != nil {
		return err
	}
	defer st.Close()
	var jobs, readings int
	if err := st.DB.QueryRowContext(ctx, "SELECT (SELECT COUNT(*) FROM jobs), (SELECT COUNT(*) FROM evidence)").Scan(&jobs, &readings); err != nil {
		return err
	}
	fmt.Fprintf(os.Stderr, "Restored: %d jobs, %d readings and looks.\n", jobs, readings)
	return nil
}

func unpacked(path string) (io.ReadCloser, *bufio.Reader, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, nil, errInput{fmt.Errorf("%s cannot be opened: is the name right?", path)}
	}
	z, err := gzip.NewReader(f)
	if err != nil {
		_ = f.Close()
		return nil, nil, errInput{fmt.Errorf("%s is no backup: it is not compressed as one", path)}
	}
	return f, bufio.NewReader(z), nil
}

func marked(path string) error {
	f, r, err := unpacked(path)
	if err != nil {
		return err
	}
	defer f.Close()
	first, err := r.ReadString('\n')
	if err != nil || strings.TrimSpace(first) != backupMark {
		return errInput{fmt.Errorf("%s is no backup of this application: its first line is not %q", path, backupMark)}
	}
	return nil
}

func load(ctx context.Context, cfg *mysql.Config, path string) error {
	f, r, err := unpacked(path)
	if err != nil {
		return err
	}
	defer f.Close()
	c, err := client(ctx, "mariadb", cfg, cfg.DBName)
	if err != nil {
		return err
	}
	whole := &tail{r: r}
	var said strings.Builder
	c.Stdin, c.Stderr = whole, &said
	if err := c.Run(); err != nil {
		return fmt.Errorf("it cannot be read in: %s", strings.TrimSpace(said.String()))
	}
	if !strings.Contains(string(whole.last), "Dump completed") {
		return errors.New("it ends in the middle")
	}
	return nil
}

// tail remembers the end of what was read.
type tail struct {
	r    io.Reader
	last []byte
}

func (t *tail) Read(p []byte) (int, error) {
	n, err := t.r.Read(p)
	t.last = append(t.last, p[:n]...)
	if len(t.last) > 200 {
		t.last = append([]byte{}, t.last[len(t.last)-200:]...)
	}
	return n, err
}
