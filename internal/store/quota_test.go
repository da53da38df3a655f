package store_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/internal/store"
	"corriente/internal/testdb"
)

// A job holds so much and no more; what is there already is no more when it is sent again.
func TestAJobIsNotFilledWithoutEnd(t *testing.T) {
	st := testdb.Open(t)
	ctx := t.Context()
	j, u := newJob(t, st)
	full := func(err error, what string) {
		t.Helper()
		var f *store.Full
		require.ErrorAs(t, err, &f)
		assert.Equal(t, what, f.What)
	}

	var es []casefile.Evidence
	for range casefile.MaxEvidence {
		es = append(es, volts("12.5"))
	}
	_, err := st.AddEvidence(ctx, j.ID, es, u.ID)
	require.NoError(t, err)
	_, err = st.AddEvidence(ctx, j.ID, es[:3], u.ID)
	require.NoError(t, err, "sent again")
	_, err = st.AddEvidence(ctx, j.ID, []casefile.Evidence{volts("12.5")}, u.ID)
	full(err, "readings and looks")

	first := store.Note{ID: store.NewID(), Text: "note"}
	require.NoError(t, st.AddNote(ctx, j.ID, first, u.ID))
	for i := range 299 {
		require.NoError(t, st.AddNote(ctx, j.ID, store.Note{ID: store.NewID(), Text: fmt.Sprint("note ", i)}, u.ID))
	}
	full(st.AddNote(ctx, j.ID, store.Note{ID: store.NewID(), Text: "one more"}, u.ID), "notes")
	require.NoError(t, st.AddNote(ctx, j.ID, first, u.ID), "sent again")

	kept := store.Trace{ID: store.NewID(), Name: "start"}
	require.NoError(t, st.PutTrace(ctx, j.ID, kept, u.ID))
	for range 49 {
		require.NoError(t, st.PutTrace(ctx, j.ID, store.Trace{ID: store.NewID(), Name: "start"}, u.ID))
	}
	full(st.PutTrace(ctx, j.ID, store.Trace{ID: store.NewID(), Name: "start"}, u.ID), "traces")
	require.NoError(t, st.PutTrace(ctx, j.ID, kept, u.ID), "sent again")
	require.NoError(t, st.DropTrace(ctx, j.ID, kept.ID))
	require.NoError(t, st.PutTrace(ctx, j.ID, store.Trace{ID: store.NewID(), Name: "start"}, u.ID), "there is room again")
}
