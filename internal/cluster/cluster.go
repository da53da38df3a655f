package cluster

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"strings"
	"sync"
	"time"

	"github.com/go-sql-driver/mysql"
)

// How the hosts are watched. A dead host is left within lookEvery + lookFor, and what was asked of it fails then.
const (
	dialFor   = time.Second
	lookEvery = 300 * time.Millisecond
	lookFor   = time.Second
)

// defaultPort is where MariaDB listens where nothing else is said.
const defaultPort = "3306"

// Cluster is a database by its hosts. It is safe for concurrent use.
type Cluster struct {
	cfg   *mysql.Config
	hosts []string // HOST:PORT, in the order of the address

	mu   sync.Mutex
	at   int                // the host in use
	open map[*conn]struct{} // connections to any host
}

// conn is a connection that can be closed from outside, so that nobody waits for a host that is gone.
// It is a TCP connection still: the driver looks at its socket before it is used again.
type conn struct {
	*net.TCPConn
	host int
	left func(*conn)
}

func (c *conn) Close() error {
	c.left(c)
	return c.TCPConn.Close()
}

// Parse reads a database address, user:password@tcp(host:port)/name; several hosts stand in the
// parentheses with commas between.
func Parse(dsn string) (*Cluster, error) {
	c := &Cluster{open: map[*conn]struct{}{}}
	one := dsn
	// From the right: a password may hold anything.
	slash := strings.LastIndexByte(dsn, '/')
	if end := strings.LastIndexByte(dsn[:max(slash, 0)], ')'); end >= 0 {
		if begin := strings.LastIndex(dsn[:end], "@tcp("); begin >= 0 {
			begin += len("@tcp(")
			for h := range strings.SplitSeq(dsn[begin:end], ",") {
				h = strings.TrimSpace(h)
				if h == "" {
					return nil, errors.New("the database address names an empty host: give HOST:PORT with commas between")
				}
				if _, _, err := net.SplitHostPort(h); err != nil {
					h = net.JoinHostPort(strings.Trim(h, "[]"), defaultPort)
				}
				c.hosts = append(c.hosts, h)
			}
			one = dsn[:begin] + c.hosts[0] + dsn[end:]
		}
	}
	cfg, err := mysql.ParseDSN(one)
	if err != nil {
		return nil, fmt.Errorf("the database address cannot be read: %w: it is user:password@tcp(host:port)/name", err)
	}
	if len(c.hosts) == 0 {
		c.hosts = []string{cfg.Addr}
	}
	c.cfg = cfg
	if c.Several() {
		cfg.DialFunc = c.dial
	}
	return c, nil
}

// From is a database that somebody else's configuration reaches, by whatever hosts that has.
func From(cfg *mysql.Config) *Cluster { return &Cluster{cfg: cfg.Clone(), hosts: []string{cfg.Addr}} }

// Config is how the driver connects: to whichever host is in use then. The caller may change its copy.
func (c *Cluster) Config() *mysql.Config { return c.cfg.Clone() }

// Hosts are all the hosts, HOST:PORT.
func (c *Cluster) Hosts() []string { return c.hosts }

// Several reports whether there is another host to go to.
func (c *Cluster) Several() bool { return len(c.hosts) > 1 }

// dial connects to the host in use, or to the next one that answers.
func (c *Cluster) dial(ctx context.Context, network, _ string) (net.Conn, error) {
	c.mu.Lock()
	first := c.at
	c.mu.Unlock()
	var errs []error
	d := net.Dialer{Timeout: dialFor}
	for i := range c.hosts {
		h := (first + i) % len(c.hosts)
		x, err := d.DialContext(ctx, network, c.hosts[h])
		if err != nil {
			errs = append(errs, err)
			continue
		}
		t, ok := x.(*net.TCPConn)
		if !ok {
			return x, nil
		}
		k := &conn{TCPConn: t, host: h, left: c.left}
		c.mu.Lock()
		c.open[k] = struct{}{}
		c.mu.Unlock()
		return k, nil
	}
	return nil, fmt.Errorf("no host of the database answers (%s): %w", strings.Join(c.hosts, ", "), errs[0])
}

func (c *Cluster) left(k *conn) {
	c.mu.Lock()
	delete(c.open, k)
	c.mu.Unlock()
}

// Watch looks after the host in use until ctx ends, and goes on with another that takes reads and
// writes when it does not. With one host there is nothing to watch.
func (c *Cluster) Watch(ctx context.Context, log *slog.Logger) {
	if !c.Several() {
		return
	}
	looks := make([]*sql.DB, len(c.hosts))
	for i, h := range c.hosts {
		cfg := c.cfg.Clone()
		cfg.Addr, cfg.DialFunc = h, nil
		cfg.Timeout, cfg.ReadTimeout, cfg.WriteTimeout = lookFor, lookFor, lookFor
		cfg.Logger = &mysql.NopLogger{} // a host that is gone is said once, below
		k, err := mysql.NewConnector(cfg)
		if err != nil {
			log.Error("a database host cannot be watched", "host", h, "err", err)
			return
		}
		looks[i] = sql.OpenDB(k)
		looks[i].SetMaxOpenConns(1)
		defer looks[i].Close()
	}
	t := time.NewTicker(lookEvery)
	defer t.Stop()
	alone := false
	for {
		select {
		case <-ctx.Done():
			return
		case <-t.C:
		}
		c.mu.Lock()
		at := c.at
		c.mu.Unlock()
		if Ready(ctx, looks[at]) == nil {
			c.keep(at)
			alone = false
			continue
		}
		next := c.another(ctx, looks, at)
		if next < 0 {
			if !alone && ctx.Err() == nil {
				log.Error("no database host takes reads and writes", "hosts", len(c.hosts))
			}
			alone = true
			continue
		}
		log.Warn("a database host is left for another", "from", c.hosts[at], "to", c.hosts[next])
		c.mu.Lock()
		c.at = next
		c.mu.Unlock()
		c.keep(next)
		alone = false
	}
}

// another asks all the other hosts at once and returns the first in order that is ready; -1: none is.
func (c *Cluster) another(ctx context.Context, looks []*sql.DB, at int) int {
	ready := make([]bool, len(looks))
	var wg sync.WaitGroup
	for i := range looks {
		if i != at {
			wg.Go(func() { ready[i] = Ready(ctx, looks[i]) == nil })
		}
	}
	wg.Wait()
	for i := 1; i < len(looks); i++ {
		if k := (at + i) % len(looks); ready[k] {
			return k
		}
	}
	return -1
}

// keep closes the connections to every host but one: who waits on them fails now, and asks again.
func (c *Cluster) keep(host int) {
	var gone []*conn
	c.mu.Lock()
	for k := range c.open {
		if k.host != host {
			gone = append(gone, k)
		}
	}
	c.mu.Unlock()
	for _, k := range gone {
		_ = k.TCPConn.Close() // the driver closes its own side when it meets that
	}
}

// errNoQuorum: a node that lost the others holds data which may be old, and takes no writes.
var errNoQuorum = errors.New("the database node is not part of a cluster with a quorum")

// Ready asks a database whether it takes reads and writes: that it answers, and, as a node of a
// Galera cluster, that it is ready (wsrep_ready, Galera status variables). It takes a second at most.
func Ready(ctx context.Context, db *sql.DB) error {
	ctx, cancel := context.WithTimeout(ctx, lookFor)
	defer cancel()
	var name, value string
	err := db.QueryRowContext(ctx, "SHOW GLOBAL STATUS LIKE 'wsrep_ready'").Scan(&name, &value)
	if errors.Is(err, sql.ErrNoRows) {
		return nil // no node of a cluster
	}
	if err != nil {
		return err
	}
	var on string
	if err := db.QueryRowContext(ctx, "SHOW GLOBAL VARIABLES LIKE 'wsrep_on'").Scan(&name, &on); err != nil {
		return err
	}
	if strings.EqualFold(on, "ON") && !strings.EqualFold(value, "ON") {
		return errNoQuorum
	}
	return nil
}
