package main

import (
	"context"
	"crypto/x509"
	"encoding/pem"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"corriente/internal/backup"
	"corriente/internal/disk"
	"corriente/internal/mariadb"
	"corriente/internal/people"
	"corriente/internal/store"
	ui "corriente/web"
)

// spaceWanted is how much room a disk should have left, in bytes.
const spaceWanted = 2 << 30

// finding is one thing the doctor looked at; wrong is empty where it is well.
type finding struct{ what, wrong string }

// doctorCmd says what is wrong with an installation, in sentences.
func doctorCmd() *cobra.Command {
	var f serveFlags
	c := &cobra.Command{
		Use:   "doctor",
		Short: "Say what is wrong with this installation",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			bad := 0
			for _, x := range f.examine(cmd.Context()) {
				if x.wrong == "" {
					fmt.Println("well   " + x.what)
					continue
				}
				bad++
				fmt.Println("WRONG  " + x.what + ": " + x.wrong)
			}
			if bad > 0 {
				return errInput{fmt.Errorf("%d of these want mending", bad)}
			}
			return nil
		},
	}
	c.Flags().StringVar(&f.data, "data", or("CORRIENTE_DATA", dataDir("workshop")), "folder of the application's own database")
	c.Flags().StringVar(&f.dsn, "dsn", os.Getenv("CORRIENTE_DSN"), "the MariaDB that is used instead of an own one")
	c.Flags().StringVar(&f.backups, "backups", os.Getenv("CORRIENTE_BACKUPS"),
		"folder for daily backups; empty: backups beside the data; none: no backups")
	return c
}

// examine looks at all that an installation needs. It starts no database and changes nothing.
func (f *serveFlags) examine(ctx context.Context) []finding {
	var out []finding
	note := func(what string, err error) {
		x := finding{what: what}
		if err != nil {
			x.wrong = err.Error()
		}
		out = append(out, x)
	}
	var noUI error
	if ui.Files() == nil {
		noUI = errors.New("it is not in this program: build with make web first")
	}
	note("the interface", noUI)
	if f.dsn == "" {
		_, err := exec.LookPath("mariadbd")
		if err != nil {
			if _, err = os.Stat("/usr/sbin/mariadbd"); err != nil {
				err = errors.New("it is missing: apt-get install mariadb-server")
			}
		}
		note("the database program", err)
		note("the data folder "+f.data, folder(f.data))
		note("room on its disk", room(f.data))
	}
	note("this workshop's own certificate", rooted(filepath.Join(f.data, "tls", "authority.pem"), time.Now()))
	switch {
	case f.dsn == "" && !mariadb.Running(f.data):
		note("the application", errors.New("it does not run on this folder: people and backups were not looked at; "+
			"start it, or see journalctl -u corriente"))
	default:
		note("the database", f.withStore(ctx, func(ctx context.Context, st *store.Store) error {
			us, err := st.Users(ctx)
			if err != nil {
				return err
			}
			owners := 0
			for _, u := range us {
				if u.Role == people.Owner && !u.Suspended && u.Hash != "" {
					owners++
				}
			}
			if owners == 0 {
				return errors.New("no owner can sign in: open the application to set it up, or corriente user add LOGIN --role owner")
			}
			return nil
		}))
	}
	if dir := f.backupDir(); dir != "" {
		note("the last backup in "+dir, fresh(dir, time.Now()))
	}
	return out
}

func folder(dir string) error {
	i, err := os.Stat(dir)
	switch {
	case errors.Is(err, os.ErrNotExist):
		return errors.New("it is not there yet: the first start makes it")
	case err != nil:
		return fmt.Errorf("it cannot be looked into: run this as the user the application runs as (%w)", err)
	case !i.IsDir():
		return errors.New("it is a file: give another with --data")
	}
	return nil
}

func room(dir string) error {
	r, err := disk.At(dir)
	if err != nil {
		return nil // the folder itself was looked at above
	}
	if r.Free < spaceWanted || r.Level() != "" {
		return fmt.Errorf("%s are left: make room, or move the data", r)
	}
	return nil
}

func rooted(file string, now time.Time) error {
	b, err := os.ReadFile(file)
	if errors.Is(err, os.ErrNotExist) {
		return nil // none is needed on this machine alone, or behind a proxy
	}
	if err != nil {
		return fmt.Errorf("it cannot be read: run this as root or as the user the application runs as")
	}
	p, _ := pem.Decode(b)
	if p == nil {
		return errors.New(file + " is torn: put it and its key back from a copy")
	}
	c, err := x509.ParseCertificate(p.Bytes)
	if err != nil {
		return errors.New(file + " is torn: put it and its key back from a copy")
	}
	if left := c.NotAfter.Sub(now); left < 90*24*time.Hour {
		return fmt.Errorf("it ends on %s: remove it then to make a new one, which every phone has to be given",
			c.NotAfter.Format("2 January 2006"))
	}
	return nil
}

func fresh(dir string, now time.Time) error {
	s := backup.StateOf(dir)
	switch {
	case s.Last.IsZero():
		return errors.New("there is none")
	case now.Sub(s.Last) > 3*24*time.Hour:
		return fmt.Errorf("it is of %s: see what the owner's page says of backups", s.Last.Format("2 January 2006"))
	}
	return nil
}
