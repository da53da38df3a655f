package main

import (
	"context"
	"errors"
	"fmt"
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
	"corriente/internal/store"
	"corriente/internal/supplier"
)

// demoCmd serves the application with the demo workshop: its passwords are known to everybody, so it serves this
// machine alone.
func demoCmd() *cobra.Command {
	var df serveFlags
	var reset bool
	var mood string
	c := &cobra.Command{
		Use:   "demo",
		Short: "Serve the application with the demo workshop",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			df.knownPasswords = true
			if reset {
				if err := forget(df.data); err != nil {
					return errInput{err}
				}
			}
			f, err := circuit.Family("starter")
			if err != nil {
				return err
			}
			b, err := bench.New(cmd.Context(), bench.Options{Circuit: f, Faults: []string{demo.BenchFault}, Seed: 4,
				Spread: 0.1, Leads: 0.2})
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
				fmt.Printf("A simulated bench is on: meter %s, clamp %s, scope %s, on a starter with a hidden fault.\n",
					meter, clamp, scope)
				fmt.Printf("Sign in as %q (technician), %q (owner), %q (apprentice) or %q (reads only); the password is %q.\n",
					demo.Users[1][0], demo.Users[0][0], demo.Users[2][0], demo.Users[3][0], demo.Password)
				return nil
			})
		},
	}
	c.Flags().StringVar(&mood, "supplier", "", "mood of the simulated parts supplier: slow, down, nonsense")
	df.add(c, "demo")
	c.Flags().BoolVar(&reset, "reset", false, "throw the demo's data away and start over")
	return c
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
