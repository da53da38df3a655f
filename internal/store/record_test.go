package store_test

import (
	"bytes"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/train"
	"corriente/internal/store"
	"corriente/internal/testdb"
)

func ptr[T any](v T) *T { return &v }

// A finding in the strip-down is evidence at once, follows its line's words, and goes with
// it; a resend of anything changes nothing.
func TestAFindingIsItsLinesEvidence(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	line := store.NewID()
	weighed := func() (out []string) {
		got, err := st.Job(t.Context(), j.ID)
		require.NoError(t, err)
		for _, e := range got.Case.Evidence {
			if !e.Struck {
				out = append(out, e.Observe+" "+e.Outcome)
			}
		}
		return out
	}
	change := func(c store.StripChange) {
		t.Helper()
		for range 2 {
			require.NoError(t, st.ChangeStrip(t.Context(), j.ID, line, c, u.ID))
		}
	}
	for range 2 {
		require.NoError(t, st.AddStrip(t.Context(), j.ID, store.NewLine{ID: line, Text: "brushes worn"}, u.ID))
	}
	assert.Equal(t, []string{"brushes_seen worn"}, weighed())
	change(store.StripChange{Text: ptr("brushes stuck")})
	assert.Equal(t, []string{"brushes_seen stuck"}, weighed())
	change(store.StripChange{Text: ptr("brush spring")})
	assert.Empty(t, weighed(), "nothing is found any more")
	change(store.StripChange{Text: ptr("brushes worn")})
	assert.Equal(t, []string{"brushes_seen worn"}, weighed(), "as it was, and once")
	change(store.StripChange{Struck: ptr(true)})
	assert.Empty(t, weighed())
	change(store.StripChange{Struck: ptr(false)})
	assert.Equal(t, []string{"brushes_seen worn"}, weighed())
	other, v := newJob(t, st)
	assert.ErrorIs(t, st.AddStrip(t.Context(), other.ID, store.NewLine{ID: line, Text: "bolt"}, v.ID),
		store.ErrConflict, "a line belongs to one job")
	assert.ErrorIs(t, st.ChangeStrip(t.Context(), other.ID, line, store.StripChange{Back: ptr(true)}, v.ID), store.ErrNotFound)
}

// Things go back in any order, and back off again; what does not is explained.
func TestPuttingBack(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	a, b := store.NewID(), store.NewID()
	require.NoError(t, st.AddStrip(t.Context(), j.ID, store.NewLine{ID: a, Text: "2x 8 mm bolt"}, u.ID))
	require.NoError(t, st.AddStrip(t.Context(), j.ID, store.NewLine{ID: b, Text: "cover"}, u.ID))
	require.NoError(t, st.ChangeStrip(t.Context(), j.ID, b, store.StripChange{Back: ptr(true)}, u.ID))
	list, err := st.Strip(t.Context(), j.ID)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, []string{"2x 8 mm bolt", "cover"}, []string{list[0].Text, list[1].Text}, "as they came off")
	require.NotNil(t, list[1].BackAt)
	assert.Equal(t, "T", list[1].BackBy)
	first := *list[1].BackAt
	require.NoError(t, st.ChangeStrip(t.Context(), j.ID, b, store.StripChange{Back: ptr(true)}, u.ID))
	list, err = st.Strip(t.Context(), j.ID)
	require.NoError(t, err)
	assert.Equal(t, first, *list[1].BackAt, "ticked again it keeps its time")
	require.NoError(t, st.ChangeStrip(t.Context(), j.ID, b, store.StripChange{Back: ptr(false)}, u.ID))
	require.NoError(t, st.ChangeStrip(t.Context(), j.ID, a, store.StripChange{Explained: ptr("new ones")}, u.ID))
	list, err = st.Strip(t.Context(), j.ID)
	require.NoError(t, err)
	assert.Nil(t, list[1].BackAt)
	assert.Equal(t, "new ones", list[0].Explained)
}

// A photo arrives in pieces: in order, each once however often it is sent, on from where the
// line broke; a gap is refused and nothing is lost by it. Kept, it is found by its content.
func TestAPhotoInPieces(t *testing.T) {
	st := testdb.Open(t)
	_, u := newJob(t, st)
	id := store.NewID()
	whole := bytes.Repeat([]byte("apple "), 1000)
	piece := func(from, to int) (int, []byte, error) {
		return st.AddPart(t.Context(), store.Piece{Of: id, Size: len(whole), At: from, Data: whole[from:to]}, u.ID)
	}
	have, got, err := piece(0, 2500)
	require.NoError(t, err)
	assert.Equal(t, 2500, have)
	assert.Nil(t, got)
	have, _, err = piece(0, 2500)
	require.NoError(t, err)
	assert.Equal(t, 2500, have, "sent again")
	_, _, err = piece(4000, 5000)
	assert.ErrorIs(t, err, store.ErrGap)
	_, _, err = st.AddPart(t.Context(), store.Piece{Of: id, Size: len(whole) + 1, At: 2500, Data: whole[2500:3000]}, u.ID)
	assert.ErrorIs(t, err, store.ErrGap, "another photo's size")
	at, done, err := st.Upload(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, 2500, at)
	assert.False(t, done)
	_, got, err = piece(2500, len(whole))
	require.NoError(t, err)
	assert.Equal(t, whole, got)
	for range 2 {
		require.NoError(t, st.PutPhoto(t.Context(), id, whole, []byte("small"), u.ID))
	}
	twin := store.NewID()
	require.NoError(t, st.PutPhoto(t.Context(), twin, whole, []byte("small"), u.ID))
	for _, x := range [][16]byte{id, twin} {
		mime, data, err := st.Photo(t.Context(), x, false)
		require.NoError(t, err)
		assert.Equal(t, "image/jpeg", mime)
		assert.Equal(t, whole, data)
	}
	var blobs int
	require.NoError(t, st.DB.QueryRowContext(t.Context(), "SELECT COUNT(*) FROM blobs").Scan(&blobs))
	assert.Equal(t, 2, blobs, "one content is kept once: the photo and its thumbnail")
	_, _, err = st.Photo(t.Context(), store.NewID(), true)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, done, err = st.Upload(t.Context(), id)
	require.NoError(t, err)
	assert.True(t, done)
}

// A move of the trainer is taken once and in its turn; two pages open on one attempt cannot
// both make the second.
func TestMovesComeInTurn(t *testing.T) {
	st := testdb.Open(t)
	_, u := newJob(t, st)
	id := store.NewID()
	ex := train.Exercise{ID: "random", Circuit: "starter", Seed: 7}
	for range 2 {
		_, err := st.StartAttempt(t.Context(), id, u.ID, ex)
		require.NoError(t, err)
	}
	played := 0
	play := func(a *store.Attempt) (bool, error) { played++; return len(a.Moves) == 2, nil }
	look := train.Move{Kind: "look", State: "crank", Observe: "click"}
	for range 3 {
		a, err := st.Move(t.Context(), store.Turn{Attempt: id, User: u.ID, N: 1}, look, play)
		require.NoError(t, err)
		assert.Len(t, a.Moves, 1)
	}
	assert.Equal(t, 1, played, "sent again it is not played again")
	_, err := st.Move(t.Context(), store.Turn{Attempt: id, User: u.ID, N: 1}, train.Move{Kind: "hint"}, play)
	assert.ErrorIs(t, err, store.ErrLate, "another move was the first")
	_, err = st.Move(t.Context(), store.Turn{Attempt: id, User: u.ID, N: 3}, look, play)
	assert.ErrorIs(t, err, store.ErrLate, "the second is missing")
	_, v := newJob(t, st)
	_, err = st.Move(t.Context(), store.Turn{Attempt: id, User: v.ID, N: 2}, look, play)
	assert.ErrorIs(t, err, store.ErrNotFound, "somebody else's")
	a, err := st.Move(t.Context(), store.Turn{Attempt: id, User: u.ID, N: 2}, train.Move{Kind: "verdict", Station: "motor"}, play)
	require.NoError(t, err)
	assert.Len(t, a.Moves, 2)
	list, _, err := st.Attempts(t.Context(), &u.ID, 10)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.NotNil(t, list[0].OverAt)
}

// What the workshop keeps beside its jobs: settings, ticks, costs, a day to follow up.
func TestSmallThingsAreKept(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	none, err := st.Setting(t.Context(), "colour")
	require.NoError(t, err)
	assert.Empty(t, none)
	for _, v := range []string{"green", "copper"} {
		require.NoError(t, st.PutSetting(t.Context(), "colour", v))
	}
	now, err := st.Setting(t.Context(), "colour")
	require.NoError(t, err)
	assert.Equal(t, "copper", now)

	require.NoError(t, st.PutTick(t.Context(), j.ID, "cycles", "5"))
	require.NoError(t, st.PutTick(t.Context(), j.ID, "cold", "yes"))
	require.NoError(t, st.PutTick(t.Context(), j.ID, "cycles", ""))
	ticks, err := st.Ticks(t.Context(), j.ID)
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"cold": "yes"}, ticks, "taken back it is gone")

	c, err := st.Costs(t.Context(), j.ID)
	require.NoError(t, err)
	assert.Empty(t, c)
	of := store.NewID()
	require.NoError(t, st.PutCosts(t.Context(), j.ID, of, store.Costs{Parts: 12, Minutes: 40, Price: 60}, u.ID))
	require.NoError(t, st.PutCosts(t.Context(), j.ID, of, store.Costs{Parts: 14, Minutes: 40, Price: 62}, u.ID))
	c, err = st.Costs(t.Context(), j.ID)
	require.NoError(t, err)
	require.Len(t, c, 1)
	assert.Equal(t, 62.0, c[of].Price)
}

// A temporary repair is on the board by its day until a lasting one of the same part is
// done; the earliest of several days counts.
func TestATemporaryRepairComesBackByItsDay(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	day := func() (on, what string) {
		rows, err := st.Board(t.Context(), true)
		require.NoError(t, err)
		for _, r := range rows {
			if r.ID == j.ID && r.FollowUp != nil {
				return r.FollowUp.Format(time.DateOnly), r.FollowWhat
			}
		}
		return "", ""
	}
	at := time.Now().UTC()
	choose := func(option, station string, until string) uuid.UUID {
		at = at.Add(time.Second)
		d := store.Decision{ID: store.NewID(), Option: option, Station: station, Stations: []string{station},
			By: "customer", At: at, Temporary: until != "", Limit: "at most 14 days"}
		if until != "" {
			on, err := time.Parse(time.DateOnly, until)
			require.NoError(t, err)
			d.Until = &on
		}
		_, err := st.Decide(t.Context(), j.ID, d, u.ID)
		require.NoError(t, err)
		return d.ID
	}
	do := func(of uuid.UUID, station string) {
		at = at.Add(time.Second)
		_, err := st.Repair(t.Context(), j.ID,
			[]casefile.Repair{{ID: store.NewID().String(), Station: station, What: "done", Decision: of.String(),
				At: at.Format(time.RFC3339Nano)}}, false, u.ID)
		require.NoError(t, err)
	}
	do(choose("temporary", "motor", "2026-12-20"), "motor")
	do(choose("terminal", "pos_clamp", "2026-12-09"), "pos_clamp")
	on, what := day()
	assert.Equal(t, "2026-12-09", on)
	assert.Equal(t, "Temporary repair, at most 14 days", what)
	do(choose("replace", "pos_clamp", ""), "pos_clamp")
	on, _ = day()
	assert.Equal(t, "2026-12-20", on, "the other one still stands")
	do(choose("replace", "motor", ""), "motor")
	on, what = day()
	assert.Empty(t, on+what)
}

// What was done can be reworded until it is signed, and not after.
func TestWhatWasDoneStandsOnceItIsSigned(t *testing.T) {
	st := testdb.Open(t)
	j, u := newJob(t, st)
	d := store.Decision{ID: store.NewID(), Option: "repair", Station: "motor", By: "customer", At: time.Now().UTC()}
	_, err := st.Decide(t.Context(), j.ID, d, u.ID)
	require.NoError(t, err)
	_, err = st.Reword(t.Context(), j.ID, d.ID.String(), "new brushes")
	require.ErrorIs(t, err, store.ErrNotFound, "nothing was done yet")
	_, err = st.Repair(t.Context(), j.ID,
		[]casefile.Repair{{ID: store.NewID().String(), Station: "motor", What: "brushes", Decision: d.ID.String(),
			At: time.Now().UTC().Format(time.RFC3339Nano)}}, false, u.ID)
	require.NoError(t, err)
	got, err := st.Reword(t.Context(), j.ID, d.ID.String(), "new brushes, springs")
	require.NoError(t, err)
	assert.Equal(t, "new brushes, springs", got.Case.Repairs[0].What)
	assert.Equal(t, "T", got.Case.Repairs[0].By)
	p := store.Proof{ID: store.NewID(), Of: []string{d.ID.String()}, Result: "passed", Signed: "T",
		Was: map[string]string{d.ID.String(): "motor.brushes_worn"}}
	for range 2 {
		got, err = st.Prove(t.Context(), j.ID, p, []store.Outcome{{Station: "motor", Fault: "motor.brushes_worn"}}, u.ID)
		require.NoError(t, err)
		require.Len(t, got.Proofs, 1)
		assert.NotNil(t, got.ClosedAt, "all is proved: the job is closed")
	}
	_, err = st.Reword(t.Context(), j.ID, d.ID.String(), "something else")
	require.ErrorIs(t, err, store.ErrSigned)
	// The case file carries it all, and brings it back.
	again := store.FromCase(got.Export(), store.NewID())
	require.Len(t, again.Proofs, 1)
	assert.Equal(t, got.Proofs[0].Was, again.Proofs[0].Was)
	assert.Equal(t, got.Repairs()[0].Status, again.Repairs()[0].Status)
}
