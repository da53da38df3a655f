package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"corriente/core/circuit"
	"corriente/internal/bench"
	"corriente/internal/demo"
	"corriente/internal/mariadb"
	"corriente/internal/password"
	"corriente/internal/store"
	"corriente/internal/supplier"
	"corriente/internal/web"
	ui "corriente/web"
)

type serveFlags struct {
	addr, data, dsn string
	verbose         bool
}

func (f *serveFlags) add(c *cobra.Command, data string) {
	c.Flags().StringVar(&f.addr, "addr", "127.0.0.1:8080", "address to serve on")
	c.Flags().StringVar(&f.data, "data", dataDir(data), "folder of the application's own database")
	c.Flags().StringVar(&f.dsn, "dsn", os.Getenv("CORRIENTE_DSN"), "use this MariaDB instead of an own one")
	c.Flags().BoolVar(&f.verbose, "verbose", false, "log every request")
}

// dataDir is where data is kept by default. Root's home is closed to the
// database's user, so root keeps it under /var/lib.
func dataDir(name string) string {
	if os.Geteuid() == 0 {
		return filepath.Join("/var/lib/corriente", name)
	}
	if d := os.Getenv("XDG_DATA_HOME"); d != "" {
		return filepath.Join(d, "corriente", name)
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return filepath.Join(os.TempDir(), "corriente", name)
	}
	return filepath.Join(home, ".local/share/corriente", name)
}

func serverCmds() []*cobra.Command {
	var sf, df serveFlags
	var owner string
	var reset bool
	var mood string
	serveCmd := &cobra.Command{
		Use:   "serve",
		Short: "Serve the application",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return serve(cmd.Context(), sf, func(ctx context.Context, st *store.Store) error { return firstOwner(ctx, st, owner) })
		},
	}
	sf.add(serveCmd, "workshop")
	serveCmd.Flags().StringVar(&owner, "owner", "", "on an empty database, make this login the owner; its password is read from CORRIENTE_OWNER_PASSWORD")
	demoCmd := &cobra.Command{
		Use:   "demo",
		Short: "Serve the application with the demo workshop",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if reset {
				if err := forget(df.data); err != nil {
					return errInput{err}
				}
			}
			f, err := circuit.Family("starter")
			if err != nil {
				return err
			}
			b, err := bench.New(cmd.Context(), bench.Options{Circuit: f, Faults: []string{demo.BenchFault}, Seed: 4, Spread: 0.1, Leads: 0.2})
			if err != nil {
				return err
			}
			defer b.Close()
			// A parts supplier that is not there, for prices and days.
			shop, err := net.Listen("tcp", "127.0.0.1:0")
			if err != nil {
				return err
			}
			seller := &http.Server{Handler: supplier.Simulated{Mood: func() string { return mood }}, ReadHeaderTimeout: 5 * time.Second}
			go func() { _ = seller.Serve(shop) }()
			defer func() { _ = seller.Close() }()
			return serve(cmd.Context(), df, func(ctx context.Context, st *store.Store) error {
				fmt.Println("The demo workshop: the orchard cooperative by the lake, and its ferry.")
				empty, err := st.Empty(ctx)
				if err != nil {
					return err
				}
				if empty {
					fmt.Println("Loading the demo data ...")
					if err := demo.Load(ctx, st, time.Now()); err != nil {
						return err
					}
				}
				meter, clamp, scope := b.Addrs()
				if err := demo.Instruments(ctx, st, meter, clamp, scope); err != nil {
					return err
				}
				if err := demo.Supplier(ctx, st, "http://"+shop.Addr().String()); err != nil {
					return err
				}
				fmt.Printf("A simulated bench is on: meter %s, clamp %s, scope %s, on a starter with a hidden fault.\n", meter, clamp, scope)
				fmt.Printf("Sign in as %q (technician), %q (owner), %q (apprentice) or %q (reads only); the password is %q.\n",
					demo.Users[1][0], demo.Users[0][0], demo.Users[2][0], demo.Users[3][0], demo.Password)
				return nil
			})
		},
	}
	demoCmd.Flags().StringVar(&mood, "supplier", "", "mood of the simulated parts supplier: slow, down, nonsense")
	df.add(demoCmd, "demo")
	demoCmd.Flags().BoolVar(&reset, "reset", false, "throw the demo's data away and start over")
	var out string
	openapi := &cobra.Command{
		Use:    "openapi",
		Short:  "Write the API's OpenAPI document",
		Hidden: true,
		Args:   cobra.NoArgs,
		RunE: func(_ *cobra.Command, _ []string) error {
			b, err := web.Document()
			if err != nil {
				return err
			}
			return os.WriteFile(out, append(b, '\n'), 0o644)
		},
	}
	openapi.Flags().StringVar(&out, "out", "openapi.json", "file to write")
	access := &cobra.Command{
		Use:    "access",
		Short:  "Print who may do what, as it stands in docs/access.md",
		Hidden: true,
		Args:   cobra.NoArgs,
		Run:    func(*cobra.Command, []string) { fmt.Print(web.AccessMarkdown()) },
	}
	return []*cobra.Command{serveCmd, demoCmd, openapi, access}
}

// forget removes a demo's data. It removes only what is a database of ours.
func forget(dir string) error {
	if _, err := os.Stat(dir); errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if _, err := os.Stat(filepath.Join(dir, "data", "mysql")); err != nil {
		return fmt.Errorf("%s holds no demo data and is left alone", dir)
	}
	if mariadb.Running(dir) {
		return fmt.Errorf("the demo in %s is still running: stop it first (Ctrl-C)", dir)
	}
	return os.RemoveAll(dir)
}

// firstOwner gives an empty database its first user.
func firstOwner(ctx context.Context, st *store.Store, login string) error {
	empty, err := st.Empty(ctx)
	if err != nil || !empty {
		return err
	}
	pw := os.Getenv("CORRIENTE_OWNER_PASSWORD")
	if login == "" || len(pw) < 10 {
		return errInput{errors.New("this database has no users yet: start once with --owner NAME and CORRIENTE_OWNER_PASSWORD set to ten characters or more")}
	}
	h, err := password.Hash(pw)
	if err != nil {
		return err
	}
	return st.PutUser(ctx, store.User{ID: store.NewID(), Login: login, Name: login, Role: "owner", Hash: h})
}

func serve(ctx context.Context, f serveFlags, prepare func(context.Context, *store.Store) error) error {
	level := slog.LevelInfo
	if f.verbose {
		level = slog.LevelDebug
	}
	log := slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: level}))
	// The port first: a taken one should not cost a database start.
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", f.addr)
	if err != nil {
		return errInput{fmt.Errorf("%s is taken or cannot be used: stop what uses it, or choose another with --addr (make demo PORT=8090)", f.addr)}
	}
	defer l.Close()
	ended := make(<-chan struct{})
	dsn := f.dsn
	if dsn == "" {
		db, err := mariadb.Start(ctx, f.data, 0)
		if err != nil {
			return errInput{err}
		}
		defer db.Stop()
		dsn, ended = db.DSN(), db.Exited()
	}
	st, err := store.Open(ctx, dsn)
	if err != nil {
		return err
	}
	defer st.Close()
	if err := prepare(ctx, st); err != nil {
		return err
	}
	files := ui.Files()
	if files == nil {
		fmt.Fprintln(os.Stderr, "corriente: the interface is not built: run make web")
	}
	ws := web.New(st, web.Options{UI: files, Log: log})
	defer ws.Close()
	go func() {
		if err := ws.Warm(ctx, "starter"); err != nil && ctx.Err() == nil {
			log.Error("warm", "err", err)
		}
	}()
	srv := &http.Server{Handler: ws, ReadHeaderTimeout: 5 * time.Second, ReadTimeout: 30 * time.Second, WriteTimeout: 60 * time.Second, IdleTimeout: 2 * time.Minute}
	failed := make(chan error, 1)
	go func() { failed <- srv.Serve(l) }()
	fmt.Printf("Corriente is ready at http://%s (Ctrl-C stops it)\n", l.Addr())
	select {
	case <-ctx.Done():
		fmt.Println("Stopping ...")
		ws.Close() // streams would hold the shutdown up
		sctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
		defer cancel()
		return srv.Shutdown(sctx)
	case <-ended:
		return errors.New("the database ended; its log stands in " + filepath.Join(f.data, "mariadb.log"))
	case err := <-failed:
		return err
	}
}
