package main

import (
	"context"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"os"
	"path/filepath"
	"runtime/debug"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"
	"github.com/soheilhy/cmux"

	"corriente/internal/authority"
	"corriente/internal/backup"
	"corriente/internal/demo"
	"corriente/internal/mariadb"
	"corriente/internal/meters"
	"corriente/internal/scpi"
	"corriente/internal/serialline"
	"corriente/internal/store"
	"corriente/internal/web"
	ui "corriente/web"
)

// encryption is how a server's address is kept private.
type encryption struct {
	tls     *tls.Config          // nil: plain HTTP, on this machine alone or behind a proxy
	own     *authority.Authority // nil: none of our own
	proxies []netip.Prefix
}

// secure tells whether browsers come over HTTPS, here or at the proxy.
func (e *encryption) secure() bool { return e.tls != nil || len(e.proxies) > 0 }

// loopback tells whether an address is this machine's own alone.
func loopback(addr string) bool {
	host, _, err := net.SplitHostPort(addr)
	if err != nil {
		return false
	}
	if host == "localhost" {
		return true
	}
	ip := net.ParseIP(host)
	return ip != nil && ip.IsLoopback()
}

// encrypt decides how an address is served: this machine's own as it is, a proxy's as it says, the network's over
// HTTPS always.
func (f *serveFlags) encrypt() (*encryption, error) {
	e := &encryption{}
	for _, p := range f.proxies {
		n, err := netip.ParsePrefix(p)
		if err != nil {
			var ip netip.Addr
			if ip, err = netip.ParseAddr(p); err == nil {
				n = netip.PrefixFrom(ip, ip.BitLen())
			}
		}
		if err != nil {
			return nil, fmt.Errorf("--behind-proxy: %q is no address: give the proxy's, such as 192.168.1.2 or 10.0.0.0/8", p)
		}
		e.proxies = append(e.proxies, n)
	}
	switch {
	case (f.tlsCert == "") != (f.tlsKey == ""):
		return nil, errors.New("--tls-cert and --tls-key belong together: give both or neither")
	case f.tlsCert != "" && len(e.proxies) > 0:
		return nil, errors.New("HTTPS ends here (--tls-cert) or at the proxy (--behind-proxy): give one of them")
	case f.tlsCert != "":
		c, err := given(f.tlsCert, f.tlsKey, time.Now())
		if err != nil {
			return nil, err
		}
		e.tls = &tls.Config{MinVersion: tls.VersionTLS12, Certificates: []tls.Certificate{*c}}
	case loopback(f.addr), len(e.proxies) > 0:
	case f.knownPasswords:
		return nil, fmt.Errorf("the demo's passwords are known to everybody: it is served on this machine alone, "+
			"not on %s; a workshop is started with corriente serve", f.addr)
	default:
		a, err := authority.Open(filepath.Join(f.data, "tls"), nil)
		if err != nil {
			return nil, err
		}
		e.own, e.tls = a, &tls.Config{MinVersion: tls.VersionTLS12, GetCertificate: a.Certificate}
	}
	return e, nil
}

// given reads a certificate that somebody else made, and says what is wrong with it before a browser does.
func given(cert, key string, now time.Time) (*tls.Certificate, error) {
	for _, f := range []string{cert, key} {
		if _, err := os.ReadFile(f); err != nil {
			return nil, fmt.Errorf("%s cannot be read: is the name right, and may this user read it?", f)
		}
	}
	c, err := tls.LoadX509KeyPair(cert, key)
	if err != nil {
		return nil, fmt.Errorf("the certificate %s and the key %s do not go together (%v): give the pair that was issued together",
			cert, key, err)
	}
	if c.Leaf == nil {
		if c.Leaf, err = x509.ParseCertificate(c.Certificate[0]); err != nil {
			return nil, fmt.Errorf("%s holds no certificate: %w", cert, err)
		}
	}
	if now.After(c.Leaf.NotAfter) {
		return nil, fmt.Errorf("the certificate %s ended on %s: have it renewed", cert, c.Leaf.NotAfter.Format("2 January 2006"))
	}
	return &c, nil
}

// meters says how and where instruments may be reached: never at the database, and never here.
func (f *serveFlags) meters(hosts []string) (meters.Set, error) {
	g := scpi.Gate{AnyPort: f.knownPasswords, Anywhere: f.metersAnywhere}
	for _, p := range f.meterPorts {
		n, err := strconv.ParseUint(p, 10, 16)
		if err != nil || n == 0 {
			return nil, fmt.Errorf("--meter-ports: %q is no port: give numbers such as 9001,9002", p)
		}
		g.Ports = append(g.Ports, int(n))
	}
	for _, at := range append([]string{f.addr}, hosts...) {
		if host, port, err := net.SplitHostPort(at); err == nil {
			ip, err := netip.ParseAddr(host)
			if err != nil {
				ip = netip.IPv4Unspecified()
			}
			if n, err := strconv.ParseUint(port, 10, 16); err == nil {
				g.Never = append(g.Never, netip.AddrPortFrom(ip, uint16(n)))
			}
		}
	}
	return meters.Set{scpi.Protocol{Gate: g}, serialline.Protocol{Simulated: f.knownPasswords}}, nil
}

// codeLetters are those that are not taken for one another.
const codeLetters = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"

// setupCode makes the code that lets whoever reads it set an empty installation up: 40 bits.
func setupCode() (string, error) {
	b := make([]byte, 8)
	if _, err := rand.Read(b); err != nil {
		return "", err
	}
	for i := range b {
		b[i] = codeLetters[int(b[i])%len(codeLetters)]
	}
	return string(b[:4]) + "-" + string(b[4:]), nil
}

func serve(ctx context.Context, f serveFlags, prepare func(context.Context, *store.Store) error) error {
	level := slog.LevelInfo
	if f.verbose {
		level = slog.LevelDebug
	}
	log := slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: level}))
	if f.knownPasswords && !loopback(f.addr) {
		_, err := f.encrypt()
		return errInput{err}
	}
	// The port first: a taken one should not cost a database start.
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", f.addr)
	if err != nil {
		return errInput{fmt.Errorf("%s is taken or cannot be used: stop what uses it, or choose another with --addr (make demo PORT=8090)",
			f.addr)}
	}
	defer l.Close()
	dsn := f.dsn
	if dsn == "" {
		db, err := mariadb.Keep(ctx, f.data, 0, log)
		if err != nil {
			return errInput{err}
		}
		defer db.Stop()
		dsn = db.DSN()
	}
	// After the database has made its folder, whose owner may be another.
	enc, err := f.encrypt()
	if err != nil {
		return errInput{err}
	}
	st, err := store.Open(ctx, dsn)
	if err != nil {
		return err
	}
	defer st.Close()
	if err := prepare(ctx, st); err != nil {
		return err
	}
	reg := prometheus.NewRegistry()
	o, keeper, err := f.options(ctx, st, enc, log)
	if err != nil {
		return err
	}
	o.Metrics = reg
	bg, stopBeside := context.WithCancel(ctx)
	var beside sync.WaitGroup
	defer beside.Wait()
	defer stopBeside()
	beside.Go(func() { st.Watch(bg, log) })
	if keeper != nil {
		beside.Go(func() { keeper.Run(bg) })
	}
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(web.Memory)
	}
	ws := web.New(st, o)
	defer ws.Close()
	go func() {
		if err := ws.Warm(ctx, "starter"); err != nil && ctx.Err() == nil {
			log.Error("warm", "err", err)
		}
	}()
	failed := make(chan error, 4)
	stop, err := (&serving{f: &f, enc: enc, metrics: reg, failed: failed}).listen(ctx, l, ws)
	if err != nil {
		return errInput{err}
	}
	f.announce(l.Addr(), enc, o.SetupCode)
	select {
	case <-ctx.Done():
		fmt.Println("Stopping ...")
		ws.Close() // streams would hold the shutdown up
		return stop()
	case err := <-failed:
		return err
	}
}

// options are how the server is set, and what keeps its backups; nil where nothing does.
func (f *serveFlags) options(ctx context.Context, st *store.Store, enc *encryption, log *slog.Logger) (o web.Options,
	keeper *backup.Keeper, err error) {
	spoken, err := f.meters(st.Hosts())
	if err != nil {
		return o, nil, errInput{err}
	}
	o = web.Options{UI: ui.Files(), Log: log, Secure: enc.secure(), Proxies: enc.proxies, Meters: spoken}
	o.Shared = f.dsn != "" // other servers may work over it
	if f.dsn == "" {
		o.Data = f.data
	}
	if !f.knownPasswords {
		o.Demo = web.Demo{Load: demo.LoadForLook, People: demo.People()}
	}
	if o.UI == nil {
		fmt.Fprintln(os.Stderr, "corriente: the interface is not built: run make web")
	}
	cfg := st.Address()
	o.Restore = func(ctx context.Context, r io.Reader) (*backup.Summary, error) {
		return backup.Restore(ctx, cfg, r, nil)
	}
	empty, err := st.Empty(ctx)
	if err != nil {
		return o, nil, err
	}
	if empty {
		if o.SetupCode, err = setupCode(); err != nil {
			return o, nil, err
		}
	}
	if keeper, err = f.keeper(cfg, log); err != nil {
		return o, nil, errInput{err}
	}
	if keeper != nil { // a nil pointer in the interface would be a keeper
		o.Backups = keeper
	}
	return o, keeper, nil
}

// announce says where the application is, and what a new installation needs.
func (f *serveFlags) announce(at net.Addr, enc *encryption, code string) {
	scheme := "http"
	if enc.tls != nil {
		scheme = "https"
	}
	if code != "" {
		fmt.Printf("This workshop is not set up yet. Open the address below and give this code: %s\n", code)
	}
	if enc.own != nil {
		_, port, _ := net.SplitHostPort(at.String())
		fmt.Printf("This machine is called: %s\n", strings.Join(enc.own.Covered(), ", "))
		fmt.Printf("A phone that comes for the first time opens http://ADDRESS:%s, which explains how it learns to trust this workshop.\n",
			port)
	}
	fmt.Printf("Corriente is ready at %s://%s (Ctrl-C stops it)\n", scheme, reachable(at, enc))
}

// reachable is an address a person can type: where the server listens on all, this machine's own name.
func reachable(at net.Addr, enc *encryption) string {
	host, port, err := net.SplitHostPort(at.String())
	if err != nil {
		return at.String()
	}
	if ip := net.ParseIP(host); ip != nil && ip.IsUnspecified() {
		if h, err := os.Hostname(); err == nil && (enc.own == nil || slices.Contains(enc.own.Covered(), strings.ToLower(h))) {
			return net.JoinHostPort(h, port)
		}
	}
	return at.String()
}

// serving is what the application listens with.
type serving struct {
	f       *serveFlags
	enc     *encryption
	metrics *prometheus.Registry
	failed  chan<- error // a listener that ended by itself
}

// listen serves on the network; the function it returns ends that.
func (v *serving) listen(ctx context.Context, l net.Listener, ws http.Handler) (stop func() error, err error) {
	f, enc, reg, failed := v.f, v.enc, v.metrics, v.failed
	var servers []*http.Server
	start := func(h http.Handler, serve func(*http.Server) error) {
		srv := &http.Server{Handler: h, TLSConfig: enc.tls, ReadHeaderTimeout: 5 * time.Second,
			ReadTimeout: 30 * time.Second, WriteTimeout: 60 * time.Second, IdleTimeout: 2 * time.Minute,
			ErrorLog: slog.NewLogLogger(slog.DiscardHandler, slog.LevelDebug)} // a phone that does not trust us yet is no error of ours
		servers = append(servers, srv)
		go func() {
			if err := serve(srv); err != nil && !errors.Is(err, http.ErrServerClosed) &&
				!errors.Is(err, net.ErrClosed) && !errors.Is(err, cmux.ErrServerClosed) && !errors.Is(err, cmux.ErrListenerClosed) {
				failed <- err
			}
		}()
	}
	var door http.Handler
	if enc.own != nil {
		door = &web.Door{Root: enc.own.Root(), Port: portOf(l.Addr().String())}
	}
	switch {
	case enc.tls == nil:
		start(ws, func(s *http.Server) error { return s.Serve(l) })
	case door == nil:
		start(ws, func(s *http.Server) error { return s.ServeTLS(l, "", "") })
	default: // one port for both: what is not HTTPS is shown how to come in
		m := cmux.New(l)
		m.SetReadTimeout(5 * time.Second)
		over, plain := m.Match(cmux.TLS()), m.Match(cmux.Any())
		start(ws, func(s *http.Server) error { return s.ServeTLS(over, "", "") })
		start(door, func(s *http.Server) error { return s.Serve(plain) })
		go func() { _ = m.Serve() }()
	}
	if at := f.plainAddr(l.Addr().String()); door != nil && at != "" {
		p, err := (&net.ListenConfig{}).Listen(ctx, "tcp", at)
		switch {
		case err == nil:
			start(door, func(s *http.Server) error { return s.Serve(p) })
		case f.plain != "":
			return nil, fmt.Errorf("--plain: %s is taken or cannot be used", at)
		}
	}
	if f.metrics != "" {
		p, err := (&net.ListenConfig{}).Listen(ctx, "tcp", f.metrics)
		if err != nil {
			return nil, fmt.Errorf("--metrics: %s is taken or cannot be used", f.metrics)
		}
		reg.MustRegister(collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
		start(promhttp.HandlerFor(reg, promhttp.HandlerOpts{}), func(s *http.Server) error { s.TLSConfig = nil; return s.Serve(p) })
	}
	return func() error {
		sctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
		defer cancel()
		var wg sync.WaitGroup
		errs := make([]error, len(servers))
		for i, s := range servers {
			wg.Go(func() {
				if err := s.Shutdown(sctx); !errors.Is(err, net.ErrClosed) { // two servers share a port
					errs[i] = err
				}
			})
		}
		wg.Wait()
		return errors.Join(errs...)
	}, nil
}

func portOf(addr string) string {
	_, port, err := net.SplitHostPort(addr)
	if err != nil {
		return ""
	}
	return port
}

// plainAddr is where the page over plain HTTP stands besides the port that serves HTTPS.
func (f *serveFlags) plainAddr(at string) string {
	if f.plain != "" {
		return f.plain
	}
	if host, port, err := net.SplitHostPort(f.addr); err == nil && port == "443" && portOf(at) == "443" {
		return net.JoinHostPort(host, "80")
	}
	return ""
}

// backupDir is where daily backups go; empty: nowhere.
func (f *serveFlags) backupDir() string {
	switch f.backups {
	case "none":
		return ""
	case "":
		return filepath.Join(f.data, "backups")
	}
	return f.backups
}

// keeper keeps daily backups; nil where none are wanted. The demo's data are made up and need none.
func (f *serveFlags) keeper(cfg *mysql.Config, log *slog.Logger) (*backup.Keeper, error) {
	dir := f.backupDir()
	if dir == "" || f.knownPasswords {
		return nil, nil
	}
	return backup.NewKeeper(dir, cfg, log)
}
