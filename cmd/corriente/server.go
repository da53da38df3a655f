package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"corriente/internal/password"
	"corriente/internal/people"
	"corriente/internal/store"
	"corriente/internal/web"
)

type serveFlags struct {
	addr, data, dsn string
	verbose         bool
	tlsCert, tlsKey string
	proxies         []string
	plain, metrics  string
	backups         string
	meterPorts      []string
	metersAnywhere  bool
	knownPasswords  bool // the demo's: for this machine alone
}

func (f *serveFlags) add(c *cobra.Command, data string) {
	c.Flags().StringVar(&f.addr, "addr", or("CORRIENTE_ADDR", "127.0.0.1:8080"),
		"address to serve on; another than this machine's own is served over HTTPS")
	c.Flags().StringVar(&f.data, "data", or("CORRIENTE_DATA", dataDir(data)), "folder of the application's own database")
	c.Flags().StringVar(&f.dsn, "dsn", os.Getenv("CORRIENTE_DSN"), "use this MariaDB instead of an own one")
	c.Flags().BoolVar(&f.verbose, "verbose", false, "log every request")
	c.Flags().StringVar(&f.metrics, "metrics", os.Getenv("CORRIENTE_METRICS"), "serve Prometheus metrics on this address")
}

// addNetwork adds what a workshop's own network needs.
func (f *serveFlags) addNetwork(c *cobra.Command) {
	c.Flags().StringVar(&f.tlsCert, "tls-cert", os.Getenv("CORRIENTE_TLS_CERT"),
		"certificate chain, PEM; without it the workshop's own authority makes one")
	c.Flags().StringVar(&f.tlsKey, "tls-key", os.Getenv("CORRIENTE_TLS_KEY"), "its key, PEM")
	c.Flags().StringSliceVar(&f.proxies, "behind-proxy", list(os.Getenv("CORRIENTE_BEHIND_PROXY")),
		"HTTPS ends at a proxy at one of these addresses or networks, 192.168.1.2 or 10.0.0.0/8")
	c.Flags().StringVar(&f.plain, "plain", os.Getenv("CORRIENTE_PLAIN"),
		"address over plain HTTP that explains how a phone gets in; port 80 beside port 443")
	c.Flags().StringSliceVar(&f.meterPorts, "meter-ports", list(os.Getenv("CORRIENTE_METER_PORTS")),
		"ports at which meters may be reached, besides 5025, 5024 and 5555")
	c.Flags().BoolVar(&f.metersAnywhere, "meters-anywhere", os.Getenv("CORRIENTE_METERS_ANYWHERE") == "yes",
		"let meters be reached beyond private networks as well")
	c.Flags().StringVar(&f.backups, "backups", os.Getenv("CORRIENTE_BACKUPS"),
		"folder for daily backups; empty: backups beside the data; none: no backups")
}

// list reads what stands with commas or spaces between.
func list(s string) []string {
	return strings.FieldsFunc(s, func(r rune) bool { return r == ',' || r == ' ' })
}

// or is a variable of the environment, or something else where it is not set.
func or(name, otherwise string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return otherwise
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
	var sf serveFlags
	var owner string
	serveCmd := &cobra.Command{
		Use:   "serve",
		Short: "Serve the application",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return serve(cmd.Context(), sf, func(ctx context.Context, st *store.Store) error { return firstOwner(ctx, st, owner) })
		},
	}
	sf.add(serveCmd, "workshop")
	sf.addNetwork(serveCmd)
	serveCmd.Flags().StringVar(&owner, "owner", "",
		"on an empty database, make this login the owner; its password is read from CORRIENTE_OWNER_PASSWORD")
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
	return []*cobra.Command{serveCmd, demoCmd(), openapi, access}
}

// firstOwner gives an empty database its first user, where a login is given.
func firstOwner(ctx context.Context, st *store.Store, login string) error {
	empty, err := st.Empty(ctx)
	if err != nil || !empty {
		return err
	}
	if login == "" {
		return nil // set up in the browser
	}
	if login, err = people.CheckLogin(login); err != nil {
		return errInput{fmt.Errorf("--owner: %w", err)}
	}
	pw := os.Getenv("CORRIENTE_OWNER_PASSWORD")
	if err := people.CheckPassword(pw, login); err != nil {
		return errInput{fmt.Errorf("CORRIENTE_OWNER_PASSWORD: %w", err)}
	}
	h, err := password.Hash(pw)
	if err != nil {
		return err
	}
	return st.FirstOwner(ctx, store.User{ID: store.NewID(), Login: login, Name: login, Hash: h}, "")
}
