package belief_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/choice"
	"corriente/core/diagnose/explain"
)

// What customers say moves the prior: of a machine that does not do its work, "nothing
// wrong" does not lead, and the words leave what they name (facts of the trade).
func TestTheComplaintIsEvidence(t *testing.T) {
	advisers := map[string]*belief.Reasoner{}
	for _, x := range []struct {
		circuit, text string
		says          []string
		none          float64 // nothing wrong is at most
		first         []string
	}{
		{"starter", "Does not crank at all", []string{"does not turn"}, 0.1, nil},
		{"starter", "Won't start", nil, 1, nil}, // the engine, perhaps
		{"starter", "Starter whirrs, engine stands still.", []string{"spins free"}, 0.2, []string{"drive"}},
		{"starter", "One clunk, nothing turns", []string{"clicks", "does not turn"}, 0.1, nil},
		{"starter", "Chatters, then nothing.", []string{"chatters", "does not turn"}, 0.1, nil},
		{"starter", "Cranks slowly, worse with passengers waiting.", []string{"slow or weak"}, 0.2, nil},
		{"starter", "Totaly dead, no click", []string{"does not turn", "no click"}, 0.05, nil},
		{"contactor_motor", "contactor clicks but the motor doesnt turn", []string{"clicks", "does not turn"}, 0.1, nil},
		{"blower_resistor", "heater fan dead at every speed", []string{"does not turn"}, 0.1, nil},
		{"two_wire_motor", "Bilge pump keeps blowing its fuse", []string{"blows its fuse"}, 0.2, nil},
		{"wiper", "The wipers do not park, they stop anywhere", []string{"does not park"}, 0.1, nil},
		{"window", "the glass doesn’t move", []string{"does not turn"}, 0.1, nil},
		{"traction", "Cart stands still, no reaction", []string{"does not turn"}, 0.1, nil},
		{"capacitor_fan", "only hums", []string{"hums and does not turn"}, 0.1, []string{"capacitor", "start_winding", "bearing"}},
		{"starter", "Customer says it cranked slowly once.", []string{"slow or weak"}, 0.35, nil},
		{"starter", "The seat is torn", nil, 1, nil},
	} {
		a := advisers[x.circuit]
		if a == nil {
			f, err := circuit.Family(x.circuit)
			require.NoError(t, err)
			a, err = belief.New(f)
			require.NoError(t, err)
			advisers[x.circuit] = a
		}
		op, err := explain.Glance(t.Context(), a, &belief.Job{Complaint: x.text})
		require.NoError(t, err)
		assert.ElementsMatch(t, x.says, op.Complaint, x.text)
		_, none := op.Posterior.Stations()
		assert.LessOrEqual(t, none, x.none, x.text)
		if x.first != nil {
			assert.Contains(t, x.first, op.Stations[0].Station, x.text)
		}
	}
}

// A look takes the place of what was said: it is not counted twice.
func TestALookTakesTheComplaintsPlace(t *testing.T) {
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	a, err := belief.New(f)
	require.NoError(t, err)
	es := []casefile.Evidence{{Observe: "turning", State: "crank", Outcome: "none"}}
	require.Nil(t, es[0].Check(f, nil))
	with, err := explain.Glance(t.Context(), a, &belief.Job{Complaint: "does not turn", Evidence: es})
	require.NoError(t, err)
	without, err := explain.Glance(t.Context(), a, &belief.Job{Evidence: es})
	require.NoError(t, err)
	assert.Equal(t, without.Stations, with.Stations)
	assert.Empty(t, with.Complaint)
	// A sound starter is proved sound against what was said.
	es[0].Outcome = "normal"
	sound, err := explain.Glance(t.Context(), a, &belief.Job{Complaint: "does not turn", Evidence: es})
	require.NoError(t, err)
	_, none := sound.Posterior.Stations()
	assert.Greater(t, none, 0.3)
}

// What the complaint has said is not the next thing asked; where it comes and goes, it is.
func TestWhatWasSaidIsNotAskedAgain(t *testing.T) {
	f, err := circuit.Family("window")
	require.NoError(t, err)
	a, err := belief.New(f)
	require.NoError(t, err)
	asks := func(text string) bool {
		op, err := explain.Weigh(t.Context(), a, &belief.Job{Complaint: text})
		require.NoError(t, err)
		up := func(l choice.Suggestion) bool { return l.Observe == "glass_moves" && l.State == "up" }
		assert.True(t, slices.ContainsFunc(op.Looks, up), "it may still be answered")
		return slices.ContainsFunc(op.Next, up)
	}
	assert.True(t, asks(""), "with nothing said, it is asked")
	assert.False(t, asks("the glass does not move at all"))
	assert.True(t, asks("sometimes the glass does not move"))
}
