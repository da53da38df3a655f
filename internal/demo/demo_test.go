package demo_test

import (
	"context"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/demo"
	"corriente/internal/password"
	"corriente/internal/store"
	"corriente/internal/testdb"
)

func TestMain(m *testing.M) { os.Exit(testdb.Main(m)) }

func rows(t *testing.T, st *store.Store) map[string]int {
	t.Helper()
	out := map[string]int{}
	for _, table := range []string{"users", "machines", "jobs", "evidence", "decisions", "outcomes", "parts"} {
		var n int
		require.NoError(t, st.DB.QueryRowContext(t.Context(), "SELECT COUNT(*) FROM "+table).Scan(&n), table)
		out[table] = n
	}
	return out
}

// The demo is one workshop, the same each time: loaded twice it is there once, its people
// can sign in, and every job of it can be read and fits its circuit.
func TestTheDemoIsWholeAndThereOnce(t *testing.T) {
	st := testdb.Open(t)
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	require.NoError(t, demo.Load(t.Context(), st, now))
	first := rows(t, st)
	for table, n := range first {
		assert.Positive(t, n, table)
	}
	require.NoError(t, demo.Load(t.Context(), st, now))
	assert.Equal(t, first, rows(t, st), "loaded again")
	for _, u := range demo.Users {
		got, err := st.UserByLogin(t.Context(), u[0])
		require.NoError(t, err)
		assert.Equal(t, u[2], got.Role)
		assert.True(t, password.Check(demo.Password, got.Hash))
	}
	ids, err := st.DB.QueryContext(t.Context(), "SELECT id FROM jobs")
	require.NoError(t, err)
	defer ids.Close()
	circuits := map[string]bool{}
	for ids.Next() {
		var id [16]byte
		var raw []byte
		require.NoError(t, ids.Scan(&raw))
		copy(id[:], raw)
		j, err := st.Job(context.Background(), id)
		require.NoError(t, err)
		circuits[j.Case.Circuit.ID] = true
		assert.False(t, j.OpenedAt.After(now), "%s opened in the future", j.Machine.Name)
		for _, text := range []string{j.Machine.Name, j.Complaint} {
			assert.NotRegexp(t, regexp.MustCompile(`(?i)lorem|test|foo|asdf|todo`), text)
			assert.Equal(t, strings.TrimSpace(text), text)
		}
	}
	require.NoError(t, ids.Err())
	assert.GreaterOrEqual(t, len(circuits), 5, "the demo shows more than starters")
}
