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
	examples := map[string]struct {
		in     map[string]string
		says   string
		judged string
	}{
		"winding": {map[string]string{"shown": "0.4", "leads": "0.2", "low": "0.25", "high": "0.37"},
			"cannot be told", "cannot_tell"},
		"four_wire": {map[string]string{"pairs": "0.152 5.0\n0.301 10.0\n0.455 15.1", "low": "0.025 ohm",
			"high": "0.035 ohm"}, "within", "good"},
		"bars":              {map[string]string{"drops": "21 22 21 2 21 22 20 21"}, "bar pair 4 to 5", "bad"},
		"insulation":        {map[string]string{"shown": "120 ohm"}, "touches the frame", "bad"},
		"stator":            {map[string]string{"ab": "0.6", "bc": "0.5", "ca": "0.6", "leads": "0.2"}, "cannot be judged", "cannot_tell"},
		"stator_volts":      {map[string]string{"ab": "21", "bc": "20.6", "ca": "14"}, "differ", "bad"},
		"capacitor":         {map[string]string{"shown": "4.1", "marked": "7.5"}, "under its mark", "bad"},
		"capacitor_current": {map[string]string{"volts": "24", "amperes": "0.0565", "marked": "7.5"}, "Within", "good"},
		"discharge":         {map[string]string{"farad": "7.5", "volts": "400"}, "1 s", "near"},
		"replacement":       {map[string]string{"old": "7.5", "new": "10"}, "No:", "bad"},
		"brush":             {map[string]string{"new": "16", "now": "11", "min": "6", "hours": "600"}, "50 % left", "good"},
		"commutator":        {map[string]string{"looks": "ridged", "runout": "0.12"}, "Run-out of 0.12", "bad"},
		"bearing":           {map[string]string{"bore": "20", "outside": "47.02", "width": "14"}, "6204", "good"},
		"bench_run":         {map[string]string{"runs": "12 3 2850\n4 40 0"}, "constants", "none"},
		"genset":            {map[string]string{"nominal": "60", "no_load": "62", "full_load": "60"}, "3.3 % droop", "good"},
		"cable":             {map[string]string{"amperes": "20", "metres": "6", "celsius": "20"}, "16 mm²", "good"},
		"wire":              {map[string]string{"size": "AWG 10", "metres": "1", "amperes": "20"}, "3.28 mΩ", "none"},
		"relay_gain":        {map[string]string{"battery": "12.4", "motor": "10.4", "amperes": "5"}, "more speed", "good"},
		"joint":             {map[string]string{"amperes": "120", "ohm": "5 mohm"}, "72 W", "bad"},
		"splice":            {map[string]string{"size": "2.5"}, "2.5 mm²", "good"},
		"strands":           {map[string]string{"size": "2.5", "broken": "60", "amperes": "8", "fuse": "20"}, "fire hazard", "bad"},
	}
	for _, k := range All() {
		x, ok := examples[k.ID]
		require.True(t, ok, "%s has no example", k.ID)
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
