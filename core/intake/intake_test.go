package intake

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
)

// What people say at the counter (from memory) leads to the circuit a technician
// would open.
func TestComplaintsLeadToTheCircuit(t *testing.T) {
	for text, want := range map[string]string{
		"the heater fan is dead":                         "blower_",
		"cab blower only works on full speed":            "blower_",
		"starter only clicks":                            "starter",
		"engine does not crank, one clunk":               "starter",
		"wipers stop in the middle of the windscreen":    "wiper",
		"driver's window does not go up":                 "window",
		"bilge pump silent":                              "two_wire_motor",
		"radiator cooling fan does not run":              "two_wire_motor",
		"winch dead, contactor clicks":                   "contactor_motor",
		"pallet truck does not drive, controller blinks": "traction",
		"shift actuator flashes a code":                  "actuator",
		"alternator does not charge":                     "stator",
		"cold store fan on the mains hums":               "capacitor_fan",
	} {
		r := Suggest(text, nil)
		require.NotEmpty(t, r.Fits)
		assert.Contains(t, r.Fits[0].Circuit, want, text)
		assert.NotEmpty(t, r.Fits[0].Why)
	}
}

func TestQuestionsNarrow(t *testing.T) {
	r := Suggest("heater fan", nil)
	require.NotEmpty(t, r.Ask, "two kinds of blower: something must be asked")
	r = Suggest("heater fan", map[string]string{"control": "steps"})
	assert.Equal(t, "blower_resistor", r.Fits[0].Circuit)
	r = Suggest("heater fan", map[string]string{"control": "smooth"})
	assert.Equal(t, "blower_module", r.Fits[0].Circuit)
	e := Evidence("blower_resistor", map[string]string{"speeds": "full"})
	require.Len(t, e, 2)
	assert.Equal(t, "airflow", e[0].Observe)
	assert.Empty(t, Evidence("wiper", map[string]string{"speeds": "no such answer"}))
	assert.Empty(t, Evidence("no_family", nil))
}

func TestNothingSaidAsksWhatItIs(t *testing.T) {
	r := Suggest("", nil)
	require.Len(t, r.Fits, len(circuit.Families()))
	require.NotEmpty(t, r.Ask)
	assert.Equal(t, "moves", r.Ask[0].ID)
	sum := 0.0
	for _, s := range r.Fits {
		sum += s.Share
	}
	assert.InDelta(t, 1, sum, 0.01)
}

// Every piece of evidence an answer can prove fits its family.
func TestProofsFitTheirFamilies(t *testing.T) {
	for _, q := range questions {
		for _, a := range q.Answers {
			for id, es := range a.proof {
				c, err := circuit.Family(id)
				require.NoError(t, err)
				for _, e := range es {
					assert.Nil(t, e.Check(c, nil), "%s %s %s", q.ID, a.ID, id)
				}
			}
			for id := range a.speaks {
				_, err := circuit.Family(id)
				require.NoError(t, err)
			}
		}
	}
}
