package motor

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Points that the motor's own model gives are turned back into its constants.
func TestFitFindsTheMotor(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := Params{Resistance: rapid.Float64Range(0.01, 2).Draw(t, "r"), BrushDrop: 0.6,
			Ke: rapid.Float64Range(0.005, 0.1).Draw(t, "ke"), BrushKnee: 1e-4, SpeedKnee: 0.01, RatedSpeed: 300}
		p.Friction = p.Ke * rapid.Float64Range(0.02, 0.15).Draw(t, "share") * 10 / p.Resistance
		var runs []Run
		for _, v := range []float64{6, 9, 12} {
			q := p.Solve(v, 0)
			runs = append(runs, Run{v, q.I, q.W})
		}
		held := p
		held.Seized = true
		q := held.Solve(3, 0)
		runs = append(runs, Run{3, q.I, 0})
		f, err := Fit(runs, 0.6)
		require.NoError(t, err)
		assert.InEpsilon(t, p.Resistance, f.R, 0.01)
		assert.InEpsilon(t, p.Ke, f.Ke, 0.01)
		assert.InEpsilon(t, p.Friction, f.Friction, 0.02)
	})
}

func TestFitRefusesWhatTellsNothing(t *testing.T) {
	for _, runs := range [][]Run{
		{{12, 3, 300}},
		{{12, 30, 0}, {6, 15, 0}},
		{{12, 3, 300}, {12, 3, 300}},
		{{12, -3, 300}, {12, 30, 0}},
		{{0.3, 3, 300}, {12, 30, 0}},
	} {
		_, err := Fit(runs, 0.6)
		assert.Error(t, err, "%v", runs)
	}
}
