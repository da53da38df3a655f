package store_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/unit"
	"corriente/internal/demo"
	"corriente/internal/store"
	"corriente/internal/testdb"
)

func TestMain(m *testing.M) { os.Exit(testdb.Main(m)) }

func newJob(t testing.TB, st *store.Store) (*store.Job, store.User) {
	t.Helper()
	u := store.User{ID: store.NewID(), Login: "t" + store.NewID().String()[24:], Name: "T", Role: "technician", Hash: "x"}
	require.NoError(t, st.PutUser(t.Context(), u))
	m := store.Machine{ID: store.NewID(), Name: "Punt", Voltage: 12}
	require.NoError(t, st.PutMachine(t.Context(), m))
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	j := &store.Job{ID: store.NewID(), Machine: m, Complaint: "only clicks", OpenedAt: time.Now(),
		Case: &casefile.Case{Circuit: f.Clone(), CircuitID: "starter", NominalVoltage: 12, AmbientC: 20}}
	require.NoError(t, st.CreateJob(t.Context(), j, &u.ID))
	return j, u
}

func volts(v string) casefile.Evidence {
	return casefile.Evidence{ID: store.NewID().String(), Measure: unit.Voltage, State: "crank", From: "bat_pos", To: "bat_neg", Value: v}
}

func TestMigrationsAreRepeatable(t *testing.T) {
	dsn := testdb.DSN(t)
	for range 3 {
		st, err := store.Open(t.Context(), dsn)
		require.NoError(t, err)
		require.NoError(t, st.Close())
	}
}

func TestSendingAgainDoublesNothing(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	e := volts("11,6 V")
	for range 3 {
		got, err := st.AddEvidence(t.Context(), j.ID, []casefile.Evidence{e}, u.ID)
		require.NoError(t, err)
		require.Len(t, got.Case.Evidence, 1)
		assert.Equal(t, 2, got.Revision, "a resend raises no revision")
	}
	d := store.Decision{ID: store.NewID(), Option: "repair", Station: "motor", Price: 12.5, By: "customer", At: time.Now()}
	for range 2 {
		got, err := st.Decide(t.Context(), j.ID, d, u.ID)
		require.NoError(t, err)
		assert.Len(t, got.Decisions, 1)
	}
	require.NoError(t, st.CreateJob(t.Context(), j, &u.ID), "opening it again is no error")
	other := *j
	other.Machine.ID = store.NewID()
	assert.ErrorIs(t, st.CreateJob(t.Context(), &other, &u.ID), store.ErrConflict, "the same id for another machine")
	other.ID = store.NewID()
	assert.ErrorIs(t, st.CreateJob(t.Context(), &other, &u.ID), store.ErrNotFound, "an unknown machine")
}

func TestTextAsTypedIsKept(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	e := casefile.Evidence{ID: store.NewID().String(), Measure: unit.Resistance, State: "isolated", From: "sol_s",
		To: "case", Value: "1,1 Ω", Leads: "0,2"}
	_, err := st.AddEvidence(t.Context(), j.ID, []casefile.Evidence{e}, u.ID)
	require.NoError(t, err)
	got, err := st.Job(t.Context(), j.ID)
	require.NoError(t, err)
	assert.Equal(t, "1,1 Ω", got.Case.Evidence[0].Value)
	assert.InDelta(t, 0.9, got.Case.Evidence[0].Reading.Value, 1e-9)
	var si float64
	require.NoError(t, st.DB.QueryRow("SELECT value_si FROM evidence").Scan(&si))
	assert.InDelta(t, 0.9, si, 1e-9, "SI beside the text, leads taken off")
}

func TestStruckEvidenceStays(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	e := volts("11.6")
	_, err := st.AddEvidence(t.Context(), j.ID, []casefile.Evidence{e}, u.ID)
	require.NoError(t, err)
	got, err := st.Strike(t.Context(), j.ID, uuid.MustParse(e.ID), true, u.ID)
	require.NoError(t, err)
	require.Len(t, got.Case.Evidence, 1)
	assert.True(t, got.Case.Evidence[0].Struck)
	got, err = st.Strike(t.Context(), j.ID, uuid.MustParse(e.ID), false, u.ID)
	require.NoError(t, err)
	assert.False(t, got.Case.Evidence[0].Struck)
	_, err = st.Strike(t.Context(), j.ID, store.NewID(), true, u.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestBadEvidenceLeavesNothingHalfWritten(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	bad := volts("11.6")
	bad.From = "nowhere"
	_, err := st.AddEvidence(t.Context(), j.ID, []casefile.Evidence{volts("11.7"), bad}, u.ID)
	var p *casefile.Problem
	require.True(t, errors.As(err, &p))
	got, err := st.Job(t.Context(), j.ID)
	require.NoError(t, err)
	assert.Empty(t, got.Case.Evidence)
	assert.Equal(t, 1, got.Revision)
}

// Many people on one job at once: every reading arrives once, in one order.
func TestConcurrentReadingsAllArrive(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	const n = 24
	var wg sync.WaitGroup
	errs := make([]error, n)
	for i := range n {
		wg.Go(func() {
			_, errs[i] = st.AddEvidence(context.Background(), j.ID, []casefile.Evidence{volts(fmt.Sprintf("11.%02d", i))}, u.ID)
		})
	}
	wg.Wait()
	for _, err := range errs {
		require.NoError(t, err)
	}
	got, err := st.Job(t.Context(), j.ID)
	require.NoError(t, err)
	assert.Len(t, got.Case.Evidence, n)
	assert.Equal(t, n+1, got.Revision)
}

// A job exported as a case file and imported into another database is the same
// job, to the byte of its next export.
func TestExportImportWithoutLoss(t *testing.T) {
	a, b := testdb.Open(t), testdb.Open(t)
	require.NoError(t, demo.Load(t.Context(), a, time.Now()))
	rows, err := a.Board(t.Context(), true)
	require.NoError(t, err)
	require.NotEmpty(t, rows)
	for _, r := range rows {
		j, err := a.Job(t.Context(), r.ID)
		require.NoError(t, err)
		var first bytes.Buffer
		require.NoError(t, j.Export().Write(&first))
		c, err := casefile.Read(bytes.NewReader(first.Bytes()))
		require.NoError(t, err, r.Machine)
		k := store.FromCase(c, store.NewID())
		k.Machine = j.Machine
		require.NoError(t, b.PutMachine(t.Context(), k.Machine))
		require.NoError(t, b.CreateJob(t.Context(), k, nil))
		again, err := b.Job(t.Context(), j.ID)
		require.NoError(t, err)
		var second bytes.Buffer
		require.NoError(t, again.Export().Write(&second))
		assert.Equal(t, first.String(), second.String(), r.Machine)
	}
}

func TestDemoHasEveryStageAndLoadsTwiceAsOnce(t *testing.T) {
	st := testdb.Open(t)
	now := time.Now()
	var jobs, machines int
	for range 2 {
		require.NoError(t, demo.Load(t.Context(), st, now))
		rows, err := st.Board(t.Context(), true)
		require.NoError(t, err)
		ms, err := st.Machines(t.Context())
		require.NoError(t, err)
		if jobs > 0 {
			assert.Len(t, rows, jobs)
			assert.Len(t, ms, machines)
		}
		jobs, machines = len(rows), len(ms)
	}
	assert.Greater(t, jobs, 30)
	assert.Greater(t, machines, 20)
	rows, err := st.Board(t.Context(), true)
	require.NoError(t, err)
	status := map[string]int{}
	decided, closed := 0, 0
	for _, r := range rows {
		status[r.Status.String]++
		if r.Decided {
			decided++
		}
		if r.ClosedAt != nil {
			closed++
		}
	}
	assert.Positive(t, status["isolated"])
	assert.Positive(t, status["undecided"])
	assert.Positive(t, status["nothing_wrong"])
	assert.Positive(t, decided)
	assert.Positive(t, closed)
}

func TestVerdictOfAnOlderRevisionDoesNotStand(t *testing.T) {
	st := testdb.Open(t)
	j, _ := newJob(t, st)
	require.NoError(t, st.PutVerdict(t.Context(), j.ID, 3, store.Verdict{Reasoning: "x", Status: "isolated", Result: []byte("{}")}))
	require.NoError(t, st.PutVerdict(t.Context(), j.ID, 2, store.Verdict{Reasoning: "x", Status: "undecided", Result: []byte("{}")}))
	rows, err := st.Board(t.Context(), false)
	require.NoError(t, err)
	assert.Equal(t, "isolated", rows[0].Status.String)
}

// Sessions that have ended are swept, those that last are not.
func TestSweepSessions(t *testing.T) {
	st := testdb.Open(t)
	for _, q := range []string{
		"INSERT INTO sessions (token, data, expiry) VALUES ('over', '', UTC_TIMESTAMP(6) - INTERVAL 1 MINUTE)",
		"INSERT INTO sessions (token, data, expiry) VALUES ('lasts', '', UTC_TIMESTAMP(6) + INTERVAL 1 HOUR)",
	} {
		_, err := st.DB.ExecContext(t.Context(), q)
		require.NoError(t, err)
	}
	require.NoError(t, st.SweepSessions(t.Context()))
	var left string
	require.NoError(t, st.DB.QueryRowContext(t.Context(), "SELECT GROUP_CONCAT(token) FROM sessions").Scan(&left))
	assert.Equal(t, "lasts", left)
}
