package mariadb

import (
	"database/sql"
	"log/slog"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/patience"
)

// A database that is killed comes back by itself, on the port it had and with what it held,
// twice; stopped, it stays away.
func TestAKilledDatabaseComesBack(t *testing.T) {
	dir := folder(t)
	k, err := Keep(t.Context(), dir, 0, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	defer k.Stop()
	dsn := k.DSN()
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.ExecContext(t.Context(), "CREATE TABLE kept (n INT PRIMARY KEY)")
	require.NoError(t, err)
	for n := range 2 {
		_, err = db.ExecContext(t.Context(), "INSERT INTO kept VALUES (?)", n)
		require.NoError(t, err)
		b, err := os.ReadFile(filepath.Join(dir, "pid"))
		require.NoError(t, err)
		pid, err := strconv.Atoi(strings.TrimSpace(string(b)))
		require.NoError(t, err)
		require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
		have := -1
		require.Eventually(t, func() bool {
			return db.QueryRowContext(t.Context(), "SELECT COUNT(*) FROM kept").Scan(&have) == nil
		}, patience.Limit(), 50*time.Millisecond)
		assert.Equal(t, n+1, have)
	}
	assert.Equal(t, dsn, k.DSN())
	k.Stop()
	assert.False(t, Running(dir))
}

// A start on a full disk says so at once, instead of hanging in the database's own start.
func TestAFullDiskIsSaidAtOnce(t *testing.T) {
	dir := t.TempDir()
	if err := syscall.Mount("tmpfs", dir, "tmpfs", 0, "size=16m"); err != nil {
		t.Skipf("a small disk cannot be made here: %v", err)
	}
	t.Cleanup(func() { _ = syscall.Unmount(dir, syscall.MNT_DETACH) })
	at := time.Now()
	_, err := Start(t.Context(), filepath.Join(dir, "workshop"), 0)
	require.ErrorContains(t, err, "is full (16 MB left, 300 MB are needed)")
	assert.Less(t, time.Since(at), 5*time.Second)
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left, "and nothing was begun")
}
