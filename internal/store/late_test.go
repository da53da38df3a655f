package store_test

import (
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/meter"
	"corriente/core/unit"
	"corriente/internal/store"
	"corriente/internal/testdb"
)

// Two people, one without a connection: what comes late takes its place in time,
// and a repair keeps what was before it before it.
func TestLateEvidenceTakesItsPlaceInTime(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	noon := time.Now().UTC().Add(-time.Hour).Truncate(time.Second)
	at := func(min int, v string) casefile.Evidence {
		e := volts(v)
		e.TakenAt = noon.Add(time.Duration(min) * time.Minute).Format(time.RFC3339Nano)
		return e
	}
	add := func(es ...casefile.Evidence) *store.Job {
		got, err := st.AddEvidence(t.Context(), j.ID, es, u.ID)
		require.NoError(t, err)
		return got
	}
	values := func(j *store.Job) (out []string) {
		for _, e := range j.Case.Evidence {
			out = append(out, e.Value)
		}
		return out
	}
	add(at(0, "12.0"), at(10, "12.1"))
	// now: an hour later
	_, err := st.Repair(t.Context(), j.ID,
		[]casefile.Repair{{ID: store.NewID().String(), Station: "battery", What: "charged"}}, false, u.ID)
	require.NoError(t, err)
	got := add(at(5, "12.05"), at(70, "12.7"))
	assert.Equal(t, []string{"12.0", "12.05", "12.1", "12.7"}, values(got))
	require.Len(t, got.Case.Repairs, 1)
	assert.Equal(t, 3, got.Case.Repairs[0].After, "the late reading was taken before the repair")
	assert.Equal(t, []string{"T", "T", "T", "T"}, got.TakenBy)
	again := add(at(5, "12.06")) // another reading of the same minute comes after it
	assert.Equal(t, []string{"12.0", "12.05", "12.06", "12.1", "12.7"}, values(again))
}

// What a write answers with is what a reader finds afterwards, to the letter.
func TestAWriteAnswersWithWhatIsStored(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	odd := volts("12,05 V")
	odd.ID = strings.ToUpper(odd.ID)
	odd.TakenAt = "2026-03-01T09:30:00.123456789+01:00"
	looked := casefile.Evidence{ID: store.NewID().String(), Observe: "turning", State: "crank", Outcome: "slow", Condition: "cold"}
	ohms := casefile.Evidence{ID: store.NewID().String(), Measure: unit.Resistance, State: "isolated", From: "sol_s",
		To: "case", Value: "1,1 Ω", Leads: "0,2"}
	for _, es := range [][]casefile.Evidence{{odd}, {looked, ohms, looked}, {odd, volts("11.9")}} {
		wrote, err := st.AddEvidence(t.Context(), j.ID, es, u.ID)
		require.NoError(t, err)
		read, err := st.Job(t.Context(), j.ID)
		require.NoError(t, err)
		assert.Equal(t, read.Case, wrote.Case)
		assert.Equal(t, read.TakenBy, wrote.TakenBy)
		assert.Equal(t, read.Revision, wrote.Revision)
	}
}

// A new machine and its first job are there together or not at all.
func TestAJobThatIsRefusedLeavesNoMachine(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	taken := *j
	taken.Machine = store.Machine{ID: store.NewID(), Name: "Reed cutter", Kind: "boat", Voltage: 12}
	assert.ErrorIs(t, st.CreateJobOnNewMachine(t.Context(), &taken, &u.ID), store.ErrConflict, "the job's id belongs to another machine")
	_, err := st.Machine(t.Context(), taken.Machine.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	taken.ID = store.NewID()
	for range 2 {
		require.NoError(t, st.CreateJobOnNewMachine(t.Context(), &taken, &u.ID))
	}
	got, err := st.Job(t.Context(), taken.ID)
	require.NoError(t, err)
	assert.Equal(t, "Reed cutter", got.Machine.Name)
}

// A reading of before a repair belongs before it, also where it is the last there is.
func TestTheLastReadingOfBeforeARepairStaysBeforeIt(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	early := volts("11.2")
	early.TakenAt = time.Now().UTC().Add(-time.Hour).Format(time.RFC3339Nano)
	_, err := st.Repair(t.Context(), j.ID,
		[]casefile.Repair{{ID: store.NewID().String(), Station: "battery", What: "charged"}}, false, u.ID)
	require.NoError(t, err)
	for range 2 { // sent again it moves nothing twice
		got, err := st.AddEvidence(t.Context(), j.ID, []casefile.Evidence{early}, u.ID)
		require.NoError(t, err)
		require.Len(t, got.Case.Repairs, 1)
		assert.Equal(t, 1, got.Case.Repairs[0].After)
	}
	got, err := st.AddEvidence(t.Context(), j.ID, []casefile.Evidence{volts("12.6")}, u.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, got.Case.Repairs[0].After, "what is read now comes after it")
}

func TestInstruments(t *testing.T) {
	st := testdb.Open(t)
	in := store.Instrument{ID: store.NewID(), Name: "Good meter", Meter: meter.Handheld(), LeadsOhm: 0.3}
	in.Meter.DCVoltage.Percent = 0.05
	require.NoError(t, st.PutInstrument(t.Context(), in))
	got, err := st.Instrument(t.Context(), in.ID)
	require.NoError(t, err)
	assert.Equal(t, 0.05, got.Meter.DCVoltage.Percent)
	assert.Equal(t, 0.3, got.LeadsOhm)
	assert.Equal(t, meter.Multimeter, got.Meter.Kind)
	in.Name = "Better meter"
	require.NoError(t, st.PutInstrument(t.Context(), in))
	all, err := st.Instruments(t.Context())
	require.NoError(t, err)
	require.Len(t, all, 1)
	assert.Equal(t, "Better meter", all[0].Name)
	require.NoError(t, st.DropInstrument(t.Context(), in.ID))
	_, err = st.Instrument(t.Context(), in.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestChangesAreTold(t *testing.T) {
	st := testdb.Open(t)
	told := 0
	j, u := newJob(t, st)
	st.Changed = func(uuid.UUID) { told++ }
	e := volts("11.9")
	_, err := st.AddEvidence(t.Context(), j.ID, []casefile.Evidence{e}, u.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, told)
	_, err = st.AddEvidence(t.Context(), j.ID, []casefile.Evidence{e}, u.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, told, "a resend changes nothing and tells nothing")
}

// Work that is told later, since there was no connection, stands where it was done: what was
// read by then was read before it, what was read since after it; a finding of then as well.
func TestWorkToldLaterStandsWhereItWasDone(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	now := time.Now().UTC()
	at := func(minutes int) string {
		return now.Add(time.Duration(minutes) * time.Minute).Format(time.RFC3339Nano)
	}
	reading := func(minutes int, v string) casefile.Evidence {
		e := volts(v)
		e.TakenAt = at(minutes)
		return e
	}
	_, err := st.AddEvidence(t.Context(), j.ID, []casefile.Evidence{reading(-50, "12.0"), reading(-10, "12.5")}, u.ID)
	require.NoError(t, err)
	got, err := st.Repair(t.Context(), j.ID,
		[]casefile.Repair{{ID: store.NewID().String(), Station: "battery", What: "charged", At: at(-30)}}, true, u.ID)
	require.NoError(t, err)
	require.Len(t, got.Case.Repairs, 1)
	assert.Equal(t, 1, got.Case.Repairs[0].After)
	require.NoError(t, st.AddStrip(t.Context(), j.ID, store.NewLine{ID: store.NewID(), Text: "bearing rough", At: at(-40)}, u.ID))
	got, err = st.Job(t.Context(), j.ID)
	require.NoError(t, err)
	require.Len(t, got.Case.Evidence, 3)
	assert.Equal(t, "bearing_feel", got.Case.Evidence[1].Observe)
	assert.Equal(t, 2, got.Case.Repairs[0].After, "the finding was made before the work")
}
