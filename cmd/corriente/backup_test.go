package main

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"github.com/google/uuid"

	"corriente/internal/mariadb"
	"corriente/internal/store"
)

// Backup and restore bring a workshop's data elsewhere whole; a torn file, a foreign one
// and data that are there already leave everything as it was.
func TestBackupAndRestore(t *testing.T) {
	dir, err := os.MkdirTemp("/tmp", "corriente-backup-")
	require.NoError(t, err)
	t.Cleanup(func() { os.RemoveAll(dir) })
	require.NoError(t, os.Chmod(dir, 0o755))
	here, there := filepath.Join(dir, "here"), filepath.Join(dir, "there")
	file := filepath.Join(dir, "all.sql.gz")
	db, err := mariadb.Start(t.Context(), here, 0)
	require.NoError(t, err)
	st, err := store.Open(t.Context(), db.DSN())
	require.NoError(t, err)
	require.NoError(t, st.PutUser(t.Context(), store.User{ID: store.NewID(), Login: "ida", Name: "Ida", Role: "owner", Hash: "x"}))
	require.NoError(t, st.PutMachine(t.Context(), store.Machine{ID: store.NewID(), Name: "Punt “Ägir” 2½", Kind: "boat", Voltage: 12}))
	require.NoError(t, st.PutPhoto(t.Context(), store.NewID(), []byte{0, 0xff, '\'', '\n', 0x1a}, []byte{1}, uid(t, st)))
	// While it runs.
	require.Equal(t, 0, run(t.Context(), []string{"backup", file, "--data", here}))
	assert.Equal(t, 2, run(t.Context(), []string{"backup", file, "--data", here}), "never over another")
	assert.Equal(t, 2, run(t.Context(), []string{"restore", file, "--data", here}), "not while it runs")
	st.Close()
	db.Stop()
	assert.Equal(t, 2, run(t.Context(), []string{"restore", file, "--data", here}), "not over data")
	require.Equal(t, 0, run(t.Context(), []string{"restore", file, "--data", there}))

	check := func(data string) {
		db, err := mariadb.Start(t.Context(), data, 0)
		require.NoError(t, err)
		defer db.Stop()
		st, err := store.Open(t.Context(), db.DSN())
		require.NoError(t, err)
		defer st.Close()
		ms, err := st.Machines(t.Context())
		require.NoError(t, err)
		require.Len(t, ms, 1)
		assert.Equal(t, "Punt “Ägir” 2½", ms[0].Name)
		var n int
		require.NoError(t, st.DB.QueryRowContext(t.Context(), "SELECT COUNT(*) FROM blob_parts WHERE data = ?",
			[]byte{0, 0xff, '\'', '\n', 0x1a}).Scan(&n))
		assert.Equal(t, 1, n)
	}
	check(there)
	// Torn, foreign, missing: refused, and what is there stays.
	raw, err := os.ReadFile(file)
	require.NoError(t, err)
	torn := filepath.Join(dir, "torn.sql.gz")
	require.NoError(t, os.WriteFile(torn, raw[:len(raw)/2], 0o600))
	foreign := filepath.Join(dir, "foreign.sql.gz")
	require.NoError(t, os.WriteFile(foreign, []byte("not a backup"), 0o600))
	for _, f := range []string{torn, foreign, filepath.Join(dir, "none")} {
		assert.Equal(t, 2, run(t.Context(), []string{"restore", f, "--data", there, "--replace"}), f)
	}
	check(there)
}

func uid(t *testing.T, st *store.Store) uuid.UUID {
	t.Helper()
	var id uuid.UUID
	require.NoError(t, st.DB.QueryRowContext(t.Context(), "SELECT id FROM users LIMIT 1").Scan(&id))
	return id
}
