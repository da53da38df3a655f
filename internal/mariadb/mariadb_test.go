package mariadb

import (
	"database/sql"
	"net"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func folder(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("/tmp", "corriente-test-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { os.RemoveAll(dir) })
	return filepath.Join(dir, "db")
}

// What was written is found after a clean stop and a new start; two servers
// never share a folder; the port is on loopback alone.
func TestStartStopStart(t *testing.T) {
	dir := folder(t)
	s, err := Start(t.Context(), dir, 0)
	require.NoError(t, err)
	db, err := sql.Open("mysql", s.DSN())
	require.NoError(t, err)
	_, err = db.Exec("CREATE TABLE x (n INT)")
	require.NoError(t, err)
	_, err = db.Exec("INSERT INTO x VALUES (7)")
	require.NoError(t, err)
	db.Close()
	assert.True(t, Running(dir))
	_, err = Start(t.Context(), dir, 0)
	require.ErrorContains(t, err, "already running")
	s.Stop()
	assert.False(t, Running(dir))

	s, err = Start(t.Context(), dir, 0)
	require.NoError(t, err)
	defer s.Stop()
	db, err = sql.Open("mysql", s.DSN())
	require.NoError(t, err)
	defer db.Close()
	var n int
	require.NoError(t, db.QueryRow("SELECT n FROM x").Scan(&n))
	assert.Equal(t, 7, n)
}

func TestTakenPortIsSaidInOneLine(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	_, err = Start(t.Context(), folder(t), l.Addr().(*net.TCPAddr).Port)
	require.ErrorContains(t, err, "is taken")
	assert.NotContains(t, err.Error(), "\n")
}

// A second server's start leaves the first one's temporary tables alone: in one
// folder it clears what it takes for a crashed server's leftovers.
func TestServersKeepTheirTemporaryTables(t *testing.T) {
	first, err := Start(t.Context(), folder(t), 0)
	require.NoError(t, err)
	defer first.Stop()
	db, err := sql.Open("mysql", first.DSN())
	require.NoError(t, err)
	defer db.Close()
	conn, err := db.Conn(t.Context())
	require.NoError(t, err)
	defer conn.Close()
	_, err = conn.ExecContext(t.Context(), "CREATE TEMPORARY TABLE kept (words TEXT) ENGINE=Aria")
	require.NoError(t, err)
	second, err := Start(t.Context(), folder(t), 0)
	require.NoError(t, err)
	defer second.Stop()
	_, err = conn.ExecContext(t.Context(), "DROP TEMPORARY TABLE kept")
	require.NoError(t, err)
}
