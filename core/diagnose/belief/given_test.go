package belief_test

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/explain"
	"corriente/core/diagnose/readings"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/unit"
)

// The volts round a loop add up, or it is said that they do not, without asking a model.
func TestLoopsAreSummed(t *testing.T) {
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	a, err := belief.New(f)
	require.NoError(t, err)
	v := func(from, to, value string) casefile.Evidence {
		e := casefile.Evidence{Measure: unit.Voltage, State: "crank", From: from, To: to, Value: value}
		require.Nil(t, e.Check(f, nil))
		return e
	}
	for _, x := range []struct {
		es   []casefile.Evidence
		says string
	}{
		{[]casefile.Evidence{v("sol_b", "bat_neg", "12.2"), v("sol_m", "bat_neg", "0.4"), v("sol_b", "sol_m", "3.1")},
			"3.10 V here, but 12.20 V and -0.40 V on the way between make 11.80 V"},
		// within what two tries differ by
		{[]casefile.Evidence{v("sol_b", "bat_neg", "11.2"), v("sol_m", "bat_neg", "8.4"), v("sol_m", "sol_b", "-3.1")}, ""},
		// the same place again is no loop
		{[]casefile.Evidence{v("sol_b", "sol_m", "3.1"), v("sol_b", "sol_m", "4.4")}, ""},
		{[]casefile.Evidence{v("bat_pos", "sol_b", "0.2"), v("sol_b", "sol_m", "0.3"), v("sol_m", "case", "9.9"),
			v("case", "bat_neg", "0.3"), v("bat_pos", "bat_neg", "7.0")}, "make 10.70 V"},
	} {
		op, err := explain.Glance(t.Context(), a, &belief.Job{Evidence: x.es})
		require.NoError(t, err)
		got := ""
		for _, w := range op.Warnings {
			if w.Code == "loop" {
				got += w.Says
				assert.Equal(t, len(x.es), w.Index)
			}
		}
		if x.says == "" {
			assert.Empty(t, got)
		} else {
			assert.Contains(t, got, x.says)
		}
	}
	// In another state the same places may read otherwise.
	rest := v("sol_b", "sol_m", "3.1")
	rest.State = "rest"
	assert.Empty(t, readings.Loops(a.Space, []casefile.Evidence{v("sol_b", "bat_neg", "12.2"), v("sol_m", "bat_neg", "0.4"), rest}, nil, 0))
}

// A given value that is half as much again as the machine's own is found out in most jobs;
// one that is right is hardly ever doubted.
func TestAWrongGivenValueIsFoundOut(t *testing.T) {
	told := func(factor float64) (n, of, sure int) {
		f, err := circuit.Family("two_wire_motor")
		require.NoError(t, err)
		good, err := belief.New(f.Clone())
		require.NoError(t, err)
		c := f.Clone()
		true0 := c.Station("relay_coil").Params["resistance"].Value
		require.NoError(t, c.SetParam("relay_coil", "resistance", circuit.Param{Value: true0 * factor, Spread: 0.05}))
		a, err := belief.New(c)
		require.NoError(t, err)
		for seed := range uint64(12) {
			rng := rand.New(rand.NewPCG(seed, 9))
			m := machine.New(good.Model, machine.Spread(good.Model, 0.03, rng), nil, rng)
			j := &belief.Job{Given: []string{"relay_coil.resistance"}}
			for _, e := range []casefile.Evidence{{Measure: unit.Resistance, State: "isolated", From: "coil_plus",
				To: "coil_minus"}, {Measure: unit.Voltage, State: "run", From: "motor_plus", To: "motor_minus"},
				{Observe: "turning", State: "run"}} {
				if e.Observe != "" {
					e.Outcome = "normal"
				} else {
					require.NoError(t, m.Measure(&e, meter.Default(e.Measure)))
				}
				require.Nil(t, e.Check(c, nil))
				j.Evidence = append(j.Evidence, e)
			}
			op, err := explain.Glance(t.Context(), a, j)
			require.NoError(t, err)
			of++
			if op.Verdict.Status == explain.Isolated {
				sure++
			}
			for _, w := range op.Warnings {
				if w.Code == "given" {
					n++
					assert.True(t, strings.HasPrefix(w.Says, "Relay coil: its resistance is given as "), w.Says)
				}
			}
		}
		return n, of, sure
	}
	n, of, _ := told(1)
	assert.Zero(t, n, "of %d", of)
	n, of, _ = told(0.67)
	assert.GreaterOrEqual(t, n, of*2/3, "of %d", of)
	// Given too high, the coil reads as one with shorted turns would: said now and then, and
	// never condemned for certain.
	n, of, sure := told(1.5)
	assert.Positive(t, n, "of %d", of)
	assert.Zero(t, sure, "of %d", of)
}
