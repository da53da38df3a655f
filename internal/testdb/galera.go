package testdb

import (
	"bytes"
	"context"
	"database/sql"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"

	"github.com/go-sql-driver/mysql"

	"corriente/internal/mariadb"
	"corriente/internal/patience"
)

// provider is where Debian's galera-4 puts its library; mariadb-server depends on it.
const provider = "/usr/lib/galera/libgalera_smm.so"

// Node is one of the servers of a cluster.
type Node struct {
	Addr string // HOST:PORT

	t    testing.TB
	cfg  *mysql.Config
	cmd  *exec.Cmd
	done chan struct{}
}

// Cluster starts so many nodes of a Galera cluster on loopback, and returns them with the address that
// names them all. CORRIENTE_GALERA are more of its provider's options, to measure with other times than
// the usual ones.
func Cluster(t testing.TB, n int) (nodes []*Node, dsn string) {
	t.Helper()
	dir, err := os.MkdirTemp("/tmp", "corriente-galera-")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	if err := os.Chmod(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	// A plain server makes the database and its user; each node begins with a copy.
	first, err := mariadb.Start(t.Context(), filepath.Join(dir, "0"), 0)
	if err != nil {
		t.Fatal(err)
	}
	cfg, err := mysql.ParseDSN(first.DSN())
	first.Stop()
	if err != nil {
		t.Fatal(err)
	}
	var addrs []string
	group := ports(t, 4*n)
	for i := range n {
		at := filepath.Join(dir, strconv.Itoa(i))
		if i > 0 {
			if out, err := exec.Command("cp", "-a", filepath.Join(dir, "0"), at).CombinedOutput(); err != nil {
				t.Fatalf("%v: %s", err, out)
			}
		}
	}
	for i := range n {
		x := &Node{t: t, cfg: cfg.Clone(), done: make(chan struct{})}
		x.Addr = fmt.Sprint("127.0.0.1:", group[4*i])
		x.cfg.Addr = x.Addr
		join := "gcomm://"
		if i > 0 {
			join = fmt.Sprint("gcomm://127.0.0.1:", group[1])
		}
		x.start(filepath.Join(dir, strconv.Itoa(i)), i, join, group[4*i:4*i+4])
		nodes, addrs = append(nodes, x), append(addrs, x.Addr)
	}
	all := strings.Join(addrs, ",")
	return nodes, strings.Replace(nodes[0].cfg.FormatDSN(), addrs[0], all, 1)
}

// start starts a node on the data in dir and waits until it is ready.
func (x *Node) start(dir string, i int, join string, ports []int) {
	x.t.Helper()
	args := []string{"--no-defaults", "--datadir=" + filepath.Join(dir, "data"), "--tmpdir=" +
		filepath.Join(dir, "tmp"), "--bind-address=127.0.0.1", fmt.Sprint("--port=", ports[0]),
		"--socket=" + filepath.Join(dir, "sock"), "--pid-file=" + filepath.Join(dir, "pid"), "--log-error=" +
			filepath.Join(dir, "galera.err"), "--skip-name-resolve", "--innodb-buffer-pool-size=64M",
		"--character-set-server=utf8mb4", "--max-allowed-packet=16M", "--binlog-format=ROW",
		"--innodb-autoinc-lock-mode=2", "--innodb-flush-log-at-trx-commit=0",
		"--wsrep-on=ON", "--wsrep-provider=" + provider, "--wsrep-cluster-name=corriente-test",
		"--wsrep-cluster-address=" + join, "--wsrep-node-address=127.0.0.1", fmt.Sprint("--wsrep-node-name=node", i),
		"--wsrep-sst-method=rsync", fmt.Sprint("--wsrep-sst-receive-address=127.0.0.1:", ports[3]),
		fmt.Sprintf("--wsrep-provider-options=base_port=%[1]d;gmcast.listen_addr=tcp://127.0.0.1:%[1]d;"+
			"ist.recv_addr=127.0.0.1:%[2]d;gcache.size=16M;%[3]s",
			ports[1], ports[2], os.Getenv("CORRIENTE_GALERA"))}
	if os.Geteuid() == 0 {
		args = append(args, "--user=mysql")
	}
	bin, err := exec.LookPath("mariadbd")
	if err != nil {
		bin = "/usr/sbin/mariadbd"
	}
	x.cmd = exec.Command(bin, args...)
	x.cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true} // with the scripts that copy its data
	if err := x.cmd.Start(); err != nil {
		x.t.Fatal(err)
	}
	go func() {
		_ = x.cmd.Wait()
		close(x.done)
	}()
	x.t.Cleanup(x.Kill)
	c := x.cfg.Clone()
	c.Logger = &mysql.NopLogger{}
	k, err := mysql.NewConnector(c)
	if err != nil {
		x.t.Fatal(err)
	}
	db := sql.OpenDB(k)
	defer db.Close()
	patience.Until(x.t, fmt.Sprint("node ", i, " of the cluster"), func() bool {
		select {
		case <-x.done:
			log, _ := os.ReadFile(filepath.Join(dir, "galera.err"))
			x.t.Fatalf("the node ended: %s", log[bytes.LastIndex(log[:max(len(log)-1500, 0)], []byte("\n"))+1:])
		default:
		}
		ctx, cancel := context.WithTimeout(x.t.Context(), patience.Limit()/20)
		defer cancel()
		var name, ready string
		return db.QueryRowContext(ctx, "SHOW STATUS LIKE 'wsrep_ready'").Scan(&name, &ready) == nil && ready == "ON"
	})
}

// Kill ends the node as a power cut would.
func (x *Node) Kill() {
	_ = syscall.Kill(-x.cmd.Process.Pid, syscall.SIGKILL)
	<-x.done
}

// ports are so many free ones.
func ports(t testing.TB, n int) []int {
	t.Helper()
	var out []int
	for range n {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			t.Fatal(err)
		}
		defer l.Close()
		out = append(out, l.Addr().(*net.TCPAddr).Port)
	}
	return out
}
