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
		j := &store.Job{ID: store.NewID(), Machine: m,
			Complaint: fmt.Sprintf("slow-cranking in the morning, visit %d", i), OpenedAt: now.Add(-time.Duration(i) * time.Hour),
			Case: &casefile.Case{Circuit: c, CircuitID: c.ID, NominalVoltage: 12, AmbientC: 10, Job: &casefile.Job{}}}
		if i == 40 {
			j.Complaint = "blue smoke from the dash! Fumée bleue."
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
	assert.Equal(t, 1, find("fumee bleue"), "accents do not matter")
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
	list := []parts.Part{{Kind: "bearing", Name: "Ball bearing 6204", Number: "A1", Sizes: []float64{20, 47, 14},
		Price: 8, Days: &d, Supplier: "x"},
		{Kind: "brush set", Name: "Brush set", Number: "A2", Sizes: []float64{7, 11, 16}, Price: 20, Supplier: "x"}}
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

// A job is found by its readings as they were written, by its observations, and by a name
// given to its machine later.
func TestReadingsAreFound(t *testing.T) {
	st := testdb.Open(t)
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	m := store.Machine{ID: store.NewID(), Name: "Plum cart", Kind: "cart", Voltage: 12}
	require.NoError(t, st.PutMachine(t.Context(), m))
	for i, v := range []string{"9.87 V", "10.87 V", "9.8 V"} {
		j := &store.Job{ID: store.NewID(), Machine: m, OpenedAt: time.Now().UTC().Add(time.Duration(-i) * time.Hour),
			Case: &casefile.Case{Circuit: c, CircuitID: c.ID, NominalVoltage: 12, AmbientC: 10, Job: &casefile.Job{},
				Evidence: []casefile.Evidence{
					{ID: store.NewID().String(), TakenAt: time.Now().UTC().Format(time.RFC3339Nano), Measure: "voltage",
						State: "crank", From: "bat_pos", To: "bat_neg", Value: v},
					{ID: store.NewID().String(), TakenAt: time.Now().UTC().Format(time.RFC3339Nano), Observe: "click",
						State: "crank", Outcome: "chatter"}}}}
		require.NoError(t, st.CreateJob(t.Context(), j, nil))
	}
	find := func(q string) int {
		es, err := st.Logbook(t.Context(), store.Search{Words: q})
		require.NoError(t, err, q)
		return len(es)
	}
	assert.Equal(t, 1, find("9.87"))
	assert.Equal(t, 1, find("9,87 V"), "with a decimal comma and its unit")
	assert.Equal(t, 2, find("9.8"), "a number is found by its beginning")
	assert.Equal(t, 3, find("chatter"))
	assert.Equal(t, 0, find("quince"))
	m.Name, m.Built = "Quince cart", 2015
	require.NoError(t, st.ChangeMachine(t.Context(), m, ""))
	assert.Equal(t, 3, find("quince 2026 chatter")+find("quince chatter"))
	require.ErrorIs(t, st.ChangeMachine(t.Context(), store.Machine{ID: store.NewID(), Name: "nobody's"}, ""), store.ErrNotFound)
}

// Outcomes are counted by kind and age of the machine, and teach how long the way takes
// where a person said so; a job kept out teaches nothing.
func TestOutcomesTeachByKindAndAge(t *testing.T) {
	st := testdb.Open(t)
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	year := time.Now().Year()
	var last store.Job
	for i, x := range []struct {
		kind    string
		built   int
		minutes float64
		taught  float64
	}{{"cart", year - 2, 20, 0}, {"cart", year - 20, 30, 0}, {"cart", 0, 40, 40}, {"boat", year - 2, 50, 0}} {
		m := store.Machine{ID: store.NewID(), Name: fmt.Sprint("machine ", i), Kind: x.kind, Voltage: 12, Built: x.built}
		require.NoError(t, st.PutMachine(t.Context(), m))
		cs := &casefile.Case{Circuit: c, CircuitID: c.ID, NominalVoltage: 12, AmbientC: 10, Job: &casefile.Job{},
			AccessMinutes: map[string]float64{"motor": x.minutes}}
		if x.taught > 0 { // as the workshop's own figure said: nothing new
			cs.Known.Access = map[string]casefile.LearnedMinutes{"motor": {Minutes: x.taught, N: 2}}
		}
		last = store.Job{ID: store.NewID(), Machine: m, OpenedAt: time.Now().UTC(), Case: cs}
		require.NoError(t, st.CreateJob(t.Context(), &last, nil))
		require.NoError(t, st.PutOutcome(t.Context(), last.ID, store.Outcome{Station: "motor", Fault: "motor.brushes_worn", Readings: 3}))
	}
	groups, err := st.Counts(t.Context(), "starter", "cart", 3, time.Unix(0, 0))
	require.NoError(t, err)
	total := func(k int) (n int) {
		for _, c := range groups[k] {
			n += c.N
		}
		return n
	}
	assert.Equal(t, []int{1, 2, 1}, []int{total(0), total(1), total(2)}, "other kinds, carts of another or no age, young carts")
	others, own, err := st.AccessTimes(t.Context(), "starter", "cart", time.Unix(0, 0))
	require.NoError(t, err)
	assert.Equal(t, []float64{50}, others["motor"])
	assert.ElementsMatch(t, []float64{20, 30}, own["motor"])
	require.NoError(t, st.Exclude(t.Context(), last.ID, true))
	others, _, err = st.AccessTimes(t.Context(), "starter", "cart", time.Unix(0, 0))
	require.NoError(t, err)
	assert.Empty(t, others)
	last.Machine.Kind, last.Machine.Built = "cart", year-3
	require.NoError(t, st.Exclude(t.Context(), last.ID, false))
	require.NoError(t, st.ChangeMachine(t.Context(), last.Machine, ""))
	groups, err = st.Counts(t.Context(), "starter", "cart", 3, time.Unix(0, 0))
	require.NoError(t, err)
	assert.Equal(t, []int{0, 2, 2}, []int{total(0), total(1), total(2)}, "a mended kind and year count from then on")
	summed := groups
	groups, err = st.Counts(t.Context(), "starter", "cart", 3, time.Now().AddDate(-1, 0, 0))
	require.NoError(t, err)
	for k := range summed {
		n := total(k)
		groups[k] = summed[k]
		assert.Equal(t, total(k), n, "the sums are what counting gives")
	}
}
