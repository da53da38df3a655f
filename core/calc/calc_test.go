package calc

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
	"corriente/core/unit"
)

func TestParseTakesWhatPeopleType(t *testing.T) {
	for _, c := range []struct {
		text, unit string
		want       float64
	}{{"12,5", "mm", 0.0125}, {"0.5 in", "mm", 0.0127}, {`1/2"`, "mm", 0.0127}, {"68 F", "°C", 20}, {"20", "°C", 20},
		{"21 mV", "mV", 0.021}, {"21", "mV", 0.021}, {"20k", "Ω", 20e3},
		{"7.5", "F", 7.5e-6}, {"3 m", "m", 3}, {"20 mm", "m", 0.02}, {"50 %", "%", 50}, {"1.2 kW", "W", 1200},
		{"600 h", "h", 600}, {"2850 rpm", "rpm", 2850}} {
		v, err := Parse(c.text, c.unit)
		require.NoError(t, err, c.text)
		assert.InEpsilon(t, c.want, v, 1e-9, c.text)
	}
	v, err := Parse("OL", "Ω")
	require.NoError(t, err)
	assert.True(t, math.IsInf(v, 1))
	_, err = Parse("long", "mm")
	assert.ErrorContains(t, err, "not mm")
	_, err = Parse("NaN", "mm")
	assert.Error(t, err)
}

// Every calculator names formula, source and units, answers its own example, and
// refuses nonsense by the input's name.
func TestEveryCalculator(t *testing.T) {
	for _, k := range All() {
		x := k.example
		require.NotEmpty(t, x.in, "%s has no example", k.ID)
		assert.NotEmpty(t, k.Formula, k.ID)
		assert.NotEmpty(t, k.Source, k.ID)
		assert.NotEmpty(t, k.Answers, k.ID)
		r, err := Run(k.ID, x.in, nil, "")
		require.NoError(t, err, k.ID)
		assert.Contains(t, r.Says, x.says, k.ID)
		assert.Equal(t, x.judged, r.Judged, k.ID)
		assert.Contains(t, r.Note, k.Title)
		for _, i := range k.Inputs {
			if i.Kind == Choice {
				continue
			}
			bad := map[string]string{}
			for n, v := range x.in {
				bad[n] = v
			}
			bad[i.ID] = "squirrel"
			_, err := Run(k.ID, bad, nil, "")
			require.Error(t, err, "%s.%s", k.ID, i.ID)
			assert.Contains(t, err.Error(), i.Label, "%s.%s", k.ID, i.ID)
			assert.False(t, strings.Contains(err.Error(), "panic"))
		}
	}
	_, err := Run("nothing", nil, nil, "")
	assert.ErrorContains(t, err, "no calculator")
	_, err = Run("cable", map[string]string{"amps": "2"}, nil, "")
	assert.ErrorContains(t, err, `no "amps"`)
	_, err = Run("capacitor_current", map[string]string{"volts": "48", "amperes": "0.136", "hertz": "60"}, nil, "")
	assert.ErrorContains(t, err, "never from the mains")
}

// What a calculator would put into a job is what the job takes.
func TestResultsBecomeEvidence(t *testing.T) {
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	r, err := Run("four_wire", map[string]string{"pairs": "0.152 5.0\n0.301 10.0\n0.455 15.1"}, c, "motor")
	require.NoError(t, err)
	require.Len(t, r.Evidence, 1)
	e := r.Evidence[0]
	assert.Equal(t, unit.Resistance, e.Measure)
	assert.NotEmpty(t, e.Uncertainty)
	require.Nil(t, e.Check(c, nil))
	assert.InDelta(t, 0.030, e.Reading.Value, 0.001)
	r, err = Run("bars", map[string]string{"drops": "21 22 21 2 21 22 20 21"}, c, "motor")
	require.NoError(t, err)
	require.Len(t, r.Evidence, 1)
	assert.Equal(t, "short", r.Evidence[0].Outcome)
	r, err = Run("brush", map[string]string{"new": "16", "now": "6", "motor": "starter"}, c, "")
	require.NoError(t, err)
	require.Len(t, r.Evidence, 1)
	assert.Equal(t, "worn", r.Evidence[0].Outcome)
	_, err = Run("winding", map[string]string{"shown": "1"}, c, "wing")
	assert.ErrorContains(t, err, `"wing"`)
}
