package store_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/parts"
	"corriente/internal/store"
	"corriente/internal/testdb"
)

// Every word of the question begins a word of the job, whatever stands around it; pages
// follow on each other; nothing hostile breaks it.
func TestTheLogbookFindsJobsByTheirWords(t *testing.T) {
	st := testdb.Open(t)
	ctx := t.Context()
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	m := store.Machine{ID: store.NewID(), Name: "Reed boat (old) №7", Kind: "boat", Voltage: 12}
	require.NoError(t, st.PutMachine(ctx, m))
	now := time.Now().UTC().Truncate(time.Second)
	for i := range 60 {
		j := &store.Job{ID: store.NewID(), Machine: m, Complaint: fmt.Sprintf("slow-cranking in the morning, visit %d", i), OpenedAt: now.Add(-time.Duration(i) * time.Hour),
			Case: &casefile.Case{Circuit: c, CircuitID: c.ID, NominalVoltage: 12, AmbientC: 10, Job: &casefile.Job{}}}
		if i == 40 {
			j.Complaint = "blue smoke from the dash!"
		}
		require.NoError(t, st.CreateJob(ctx, j, nil))
	}
	find := func(q string) int {
		es, err := st.Logbook(ctx, store.Search{Words: q, Limit: 500})
		require.NoError(t, err, q)
		return len(es)
	}
	assert.Equal(t, 60, find("reed"))
	assert.Equal(t, 1, find("SMOKE dash"))
	assert.Equal(t, 1, find("smo das"), "beginnings are enough")
	assert.Equal(t, 0, find("moke"), "the middle of a word is not")
	assert.Equal(t, 59, find("cranking"), "a hyphen parts words")
	assert.Equal(t, 60, find("old boat"))
	assert.Equal(t, 0, find("submarine"))
	for _, q := range []string{`"`, "%", "_", "+-><()~*@", "'; DROP TABLE jobs; --", "\\", "🙂"} {
		_, err := st.Logbook(ctx, store.Search{Words: q})
		assert.NoError(t, err, q)
	}
	first, err := st.Logbook(ctx, store.Search{Words: "reed", Limit: 50})
	require.NoError(t, err)
	require.Len(t, first, 50)
	rest, err := st.Logbook(ctx, store.Search{Words: "reed", Limit: 50, Before: &first[49].OpenedAt})
	require.NoError(t, err)
	assert.Len(t, rest, 10)
	n := 0
	require.NoError(t, st.Every(ctx, store.Search{Words: "reed"}, func(*store.Entry) error { n++; return nil }))
	assert.Equal(t, 60, n, "an export holds them all")
}

func TestPartsComeFromTheirLists(t *testing.T) {
	st := testdb.Open(t)
	d := 4.0
	list := []parts.Part{{Kind: "bearing", Name: "Ball bearing 6204", Number: "A1", Sizes: []float64{20, 47, 14}, Price: 8, Days: &d, Supplier: "x"}, {Kind: "brush set", Name: "Brush set", Number: "A2", Sizes: []float64{7, 11, 16}, Price: 20, Supplier: "x"}}
	require.NoError(t, st.PutParts(t.Context(), list))
	list[0].Price = 9
	require.NoError(t, st.PutParts(t.Context(), list), "the next list replaces the last")
	got, err := st.FindParts(t.Context(), "bearing 20x47x14", 10)
	require.NoError(t, err)
	require.Len(t, got, 1)
	assert.Equal(t, 9.0, got[0].Price)
	assert.Equal(t, 4.0, *got[0].Days)
	got, err = st.FindParts(t.Context(), "brushes", 10)
	require.NoError(t, err)
	require.Len(t, got, 1)
	assert.Nil(t, got[0].Days)
}
