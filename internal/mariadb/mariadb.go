package mariadb

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"

	"corriente/internal/disk"
)

// Server is a running MariaDB.
type Server struct {
	cfg    *mysql.Config
	cmd    *exec.Cmd
	exited chan struct{}
	logTo  string
}

// startTimeout is how long a server may take until it answers; crash recovery
// included.
const startTimeout = 60 * time.Second

// leaveTimeout is how long an ending server on the same data is waited for.
const leaveTimeout = 8 * time.Second

// stopTimeout is how long a clean stop may take before it is forced.
const stopTimeout = 30 * time.Second

// What a database needs on its disk to start, in bytes: a new one lays out its log first.
const (
	roomFresh = 300 << 20
	roomAgain = 30 << 20
)

// layOut makes the folders of a database, where there is room for it.
func layOut(dir, data string, fresh bool) error {
	if err := room(dir, fresh); err != nil {
		return err
	}
	// The parents stay open to passers-by: the database's user must reach its own.
	if err := errors.Join(os.MkdirAll(dir, 0o755), os.MkdirAll(data, 0o750)); err != nil {
		return fmt.Errorf("the data folder cannot be made: %w", err)
	}
	return nil
}

// room refuses a start that would hang on a full disk.
func room(dir string, fresh bool) error {
	need := uint64(roomAgain)
	if fresh {
		need = roomFresh
	}
	r, err := disk.At(dir)
	if err != nil || r.Free >= need {
		return nil // a disk that cannot be asked is tried
	}
	return fmt.Errorf("the disk that holds %s is full (%s left, %d MB are needed): make room, or choose another folder with --data",
		dir, r, need>>20)
}

// Start starts a server with its data in dir, made at first use, on a loopback
// port (0: any free one), and waits until it answers.
func Start(ctx context.Context, dir string, port int) (*Server, error) {
	bin, err := find("mariadbd", "mysqld")
	if err != nil {
		return nil, err
	}
	if dir, err = filepath.Abs(dir); err != nil {
		return nil, err
	}
	if err := left(ctx, dir); err != nil {
		return nil, err
	}
	if port == 0 {
		port, err = freePort()
	} else {
		err = portFree(port)
	}
	if err != nil {
		return nil, err
	}
	h, err := prepare(ctx, dir, port)
	if err != nil {
		return nil, err
	}
	s := &Server{exited: make(chan struct{}), logTo: h.log()}
	if err := s.launch(bin, h); err != nil {
		return nil, err
	}
	s.cfg = mysql.NewConfig()
	s.cfg.Net, s.cfg.Addr, s.cfg.User, s.cfg.Passwd, s.cfg.DBName = "tcp", "127.0.0.1:"+strconv.Itoa(port),
		"corriente", h.secret, "corriente"
	if err := s.wait(ctx); err != nil {
		s.Stop()
		return nil, err
	}
	return s, nil
}

// left waits until no other copy runs on a folder: one that was just told to stop, or whose application was killed,
// needs a moment to end.
func left(ctx context.Context, dir string) error {
	for wait := time.Now().Add(leaveTimeout); Running(dir); time.Sleep(100 * time.Millisecond) {
		if ctx.Err() != nil || time.Now().After(wait) {
			return fmt.Errorf("another copy is already running on the data in %s: stop it, or choose another folder with --data", dir)
		}
	}
	return nil
}

// home is a folder with all that a server needs to start.
type home struct {
	dir    string
	port   int
	secret string // password of the application's own user
	asUser string // whom the server runs as; empty: whoever starts it
}

func (h *home) data() string { return filepath.Join(h.dir, "data") }
func (h *home) log() string  { return filepath.Join(h.dir, "mariadb.log") }
func (h *home) init() string { return filepath.Join(h.dir, "init.sql") }

// A server that starts clears the temporary tables it finds in its temporary folder:
// shared, that takes them from under another, and from a new database while it is made.
func (h *home) temporary() string { return filepath.Join(h.dir, "tmp") }

// prepare lays out a folder, makes a new database where there is none, and writes what the server is to do first.
func prepare(ctx context.Context, dir string, port int) (*home, error) {
	h := &home{dir: dir, port: port}
	_, err := os.Stat(filepath.Join(h.data(), "mysql"))
	fresh := err != nil
	if err := layOut(dir, h.data(), fresh); err != nil {
		return nil, err
	}
	if h.secret, err = password(dir); err != nil {
		return nil, err
	}
	if err := os.MkdirAll(h.temporary(), 0o700); err != nil {
		return nil, err
	}
	// Root must not run a database: it drops to the user that Debian's package made.
	if os.Geteuid() == 0 {
		h.asUser = "mysql"
		if err := own(dir, h.asUser); err != nil {
			return nil, err
		}
	}
	if fresh {
		if err := install(ctx, h.data(), h.temporary(), h.asUser); err != nil {
			return nil, err
		}
	}
	if err := os.WriteFile(filepath.Join(dir, "port"), []byte(strconv.Itoa(port)+"\n"), 0o600); err != nil {
		return nil, err
	}
	sqlText := fmt.Sprintf("CREATE DATABASE IF NOT EXISTS corriente CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci;\n"+
		"CREATE USER IF NOT EXISTS 'corriente'@'127.0.0.1' IDENTIFIED BY '%[1]s';\nALTER USER "+
		"'corriente'@'127.0.0.1' IDENTIFIED BY '%[1]s';\n"+
		"GRANT ALL ON `corriente%%`.* TO 'corriente'@'127.0.0.1';\n", h.secret)
	if err := os.WriteFile(h.init(), []byte(sqlText), 0o600); err != nil {
		return nil, err
	}
	if h.asUser != "" {
		if err := own(dir, h.asUser); err != nil {
			return nil, err
		}
	}
	return h, nil
}

// launch starts the server's process; it ends with the application.
func (s *Server) launch(bin string, h *home) error {
	args := []string{"--no-defaults", "--datadir=" + h.data(), "--tmpdir=" + h.temporary(), "--bind-address=127.0.0.1",
		"--port=" + strconv.Itoa(h.port), "--socket=" + filepath.Join(h.dir, "sock"),
		"--pid-file=" + filepath.Join(h.dir, "pid"), "--log-error=" + h.log(), "--init-file=" + h.init(),
		"--character-set-server=utf8mb4", "--skip-name-resolve", "--innodb-buffer-pool-size=256M", "--max-allowed-packet=16M",
		"--sql-mode=STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION,ERROR_FOR_DIVISION_BY_ZERO"}
	attr := &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGTERM}
	if h.asUser != "" {
		// Not --user: a process that changes its own user loses the
		// parent-death signal.
		uid, gid, err := ids(h.asUser)
		if err != nil {
			return err
		}
		attr.Credential = &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}
	}
	started := make(chan error, 1)
	go func() {
		// The kernel sends the parent-death signal when the starting thread
		// ends, so this thread stays as long as the server runs: a killed
		// application then takes its database down cleanly.
		runtime.LockOSThread()
		defer runtime.UnlockOSThread()
		s.cmd = exec.Command(bin, args...)
		s.cmd.SysProcAttr = attr
		if err := s.cmd.Start(); err != nil {
			started <- err
			close(s.exited)
			return
		}
		started <- nil
		_ = s.cmd.Wait()
		close(s.exited)
	}()
	if err := <-started; err != nil {
		return fmt.Errorf("MariaDB does not start: %w", err)
	}
	return nil
}

// Reach is how the store reaches the server that runs on the data in dir.
func Reach(dir string) (string, error) {
	port, err := os.ReadFile(filepath.Join(dir, "port"))
	if err != nil || !Running(dir) {
		return "", fmt.Errorf("no database runs on %s", dir)
	}
	secret, err := password(dir)
	if err != nil {
		return "", err
	}
	cfg := mysql.NewConfig()
	cfg.Net, cfg.Addr, cfg.User, cfg.Passwd, cfg.DBName = "tcp", "127.0.0.1:"+strings.TrimSpace(string(port)),
		"corriente", secret, "corriente"
	return cfg.FormatDSN(), nil
}

// Running reports whether a server runs on the data in dir.
func Running(dir string) bool {
	b, err := os.ReadFile(filepath.Join(dir, "pid"))
	if err != nil {
		return false
	}
	pid, err := strconv.Atoi(strings.TrimSpace(string(b)))
	if err != nil {
		return false
	}
	comm, err := os.ReadFile(fmt.Sprintf("/proc/%d/comm", pid))
	return err == nil && strings.HasPrefix(string(comm), "maria")
}

// DSN is how the store reaches the server.
func (s *Server) DSN() string { return s.cfg.FormatDSN() }

// Exited is closed when the server has ended, for whatever reason.
func (s *Server) Exited() <-chan struct{} { return s.exited }

// Stop stops the server cleanly and waits for it.
func (s *Server) Stop() {
	select {
	case <-s.exited:
		return
	default:
	}
	_ = s.cmd.Process.Signal(syscall.SIGTERM)
	select {
	case <-s.exited:
	case <-time.After(stopTimeout):
		_ = s.cmd.Process.Kill()
		<-s.exited
	}
}

func (s *Server) wait(ctx context.Context) error {
	db, err := sql.Open("mysql", s.DSN())
	if err != nil {
		return err
	}
	defer db.Close()
	ctx, cancel := context.WithTimeout(ctx, startTimeout)
	defer cancel()
	for {
		p, c := context.WithTimeout(ctx, time.Second)
		err := db.PingContext(p)
		c()
		if err == nil {
			return nil
		}
		select {
		case <-s.exited:
			return fmt.Errorf("MariaDB ended at once: %s (its log: %s)", s.lastError(), s.logTo)
		case <-ctx.Done():
			return fmt.Errorf("MariaDB does not answer within %s: %w (its log: %s)", startTimeout, err, s.logTo)
		case <-time.After(100 * time.Millisecond):
		}
	}
}

func (s *Server) lastError() string {
	b, err := os.ReadFile(s.logTo)
	if err != nil {
		return "no log"
	}
	lines := strings.Split(string(b), "\n")
	for i := len(lines) - 1; i >= 0; i-- {
		if strings.Contains(lines[i], "[ERROR]") {
			_, msg, _ := strings.Cut(lines[i], "[ERROR]")
			if strings.Contains(msg, "lock") {
				return "another copy is already running on this data folder"
			}
			return strings.TrimSpace(msg)
		}
	}
	return "no error in its log"
}

func find(names ...string) (string, error) {
	for _, n := range names {
		if p, err := exec.LookPath(n); err == nil {
			return p, nil
		}
		for _, dir := range []string{"/usr/sbin", "/usr/local/sbin"} {
			if p := filepath.Join(dir, n); exec.Command(p, "--version").Run() == nil {
				return p, nil
			}
		}
	}
	return "", fmt.Errorf("%s is missing: install Debian's mariadb-server (apt-get install mariadb-server)", names[0])
}

func install(ctx context.Context, data, temporary, asUser string) error {
	bin, err := find("mariadb-install-db", "mysql_install_db")
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(ctx, 2*time.Minute)
	defer cancel()
	args := []string{"--no-defaults", "--datadir=" + data, "--tmpdir=" + temporary, "--skip-test-db",
		"--auth-root-authentication-method=socket"}
	if asUser != "" {
		args = append(args, "--user="+asUser)
	}
	if out, err := exec.CommandContext(ctx, bin, args...).CombinedOutput(); err != nil {
		return fmt.Errorf("the new database cannot be made in %s: %w: %s", data, err, cause(out))
	}
	return nil
}

// cause is the first line that says what went wrong, or the last there is: what follows it is where to ask for help.
func cause(b []byte) string {
	for l := range strings.Lines(string(b)) {
		if strings.Contains(l, "[ERROR]") || strings.HasPrefix(l, "FATAL") || strings.HasPrefix(l, "ERROR") {
			return strings.TrimSpace(l)
		}
	}
	return lastLine(b)
}

func lastLine(b []byte) string {
	l := strings.Split(strings.TrimSpace(string(b)), "\n")
	return l[len(l)-1]
}

func password(dir string) (string, error) {
	file := filepath.Join(dir, "password")
	if b, err := os.ReadFile(file); err == nil {
		return strings.TrimSpace(string(b)), nil
	}
	b := make([]byte, 24)
	if _, err := rand.Read(b); err != nil {
		return "", err
	}
	p := hex.EncodeToString(b)
	return p, os.WriteFile(file, []byte(p+"\n"), 0o600)
}

func ids(name string) (uid, gid int, err error) {
	u, err := user.Lookup(name)
	if err != nil {
		return 0, 0, fmt.Errorf("there is no user %q: install Debian's mariadb-server, which makes it", name)
	}
	uid, err1 := strconv.Atoi(u.Uid)
	gid, err2 := strconv.Atoi(u.Gid)
	return uid, gid, errors.Join(err1, err2)
}

// own gives the folder to the database's user. Its parents must let that user
// through.
func own(dir, name string) error {
	uid, gid, err := ids(name)
	if err != nil {
		return err
	}
	for p := filepath.Dir(dir); p != "/" && p != "."; p = filepath.Dir(p) {
		if st, err := os.Stat(p); err == nil && st.Mode().Perm()&0o001 == 0 {
			return fmt.Errorf("the user %s cannot pass through %s: choose another data folder with --data", name, p)
		}
	}
	return filepath.WalkDir(dir, func(p string, _ os.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if err := os.Lchown(p, uid, gid); err != nil && !errors.Is(err, os.ErrNotExist) {
			return err
		}
		return nil
	})
}

func portFree(port int) error {
	l, err := net.Listen("tcp", "127.0.0.1:"+strconv.Itoa(port))
	if err != nil {
		return fmt.Errorf("port %d on 127.0.0.1 is taken: stop what uses it or choose another", port)
	}
	return l.Close()
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}
