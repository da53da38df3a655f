package store_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/demo"
	"corriente/internal/password"
	"corriente/internal/store"
	"corriente/internal/testdb"
)

// The data of the version before people and settings, brought up to date: all of it is there, and everybody's password
// still holds. The way back is gone first, so that it is shown to be one.
func TestUpgradeFromBeforePeople(t *testing.T) {
	st := testdb.Open(t)
	require.NoError(t, demo.Load(t.Context(), st, time.Now()))
	rows := func() map[string]int {
		out := map[string]int{}
		for _, table := range []string{"users", "settings", "machines", "jobs", "evidence", "decisions", "proofs", "parts"} {
			var n int
			require.NoError(t, st.DB.QueryRow("SELECT COUNT(*) FROM "+table).Scan(&n))
			out[table] = n
		}
		return out
	}
	before := rows()
	require.NoError(t, st.DownTo(t.Context(), 32))
	_, err := st.Users(t.Context())
	require.Error(t, err, "the columns are gone")
	again, err := store.Open(t.Context(), testdb.DSNOf(t, st))
	require.NoError(t, err)
	defer again.Close()
	assert.Equal(t, before, rows())
	for _, u := range demo.Users {
		x, err := again.UserByLogin(t.Context(), u[0])
		require.NoError(t, err)
		assert.True(t, password.Check(demo.Password, x.Hash))
		assert.False(t, x.Suspended)
	}
	name, err := again.Setting(t.Context(), "workshop")
	require.NoError(t, err)
	assert.Contains(t, name, "orchard cooperative")
}

// Owners who suspend each other at the same moment leave one.
func TestTheLastOwnerStaysUnderARace(t *testing.T) {
	st := testdb.Open(t)
	a := store.User{ID: store.NewID(), Login: "ada", Name: "Ada", Role: "owner", Hash: "x"}
	b := store.User{ID: store.NewID(), Login: "bo", Name: "Bo", Role: "owner", Hash: "x"}
	for _, u := range []store.User{a, b} {
		require.NoError(t, st.AddUser(t.Context(), u, store.Act{}))
	}
	errs := make(chan error, 2)
	for _, u := range []store.User{a, b} {
		go func() { errs <- st.Suspend(context.WithoutCancel(t.Context()), u.ID, true, store.Act{}) }()
	}
	first, second := <-errs, <-errs
	assert.True(t, (first == nil) != (second == nil), "%v, %v", first, second)
	us, err := st.Users(t.Context())
	require.NoError(t, err)
	left := 0
	for _, u := range us {
		if !u.Suspended {
			left++
		}
	}
	assert.Equal(t, 1, left)
}
