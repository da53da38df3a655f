package evaluate

import (
	"bytes"
	"context"
	"encoding/xml"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/policy"
)

// A run that was stopped goes on where it stood, and ends as if it never had.
func TestARunResumes(t *testing.T) {
	dir := t.TempDir()
	o := Options{Circuit: "actuator", Faults: 8, Seed: 5, Store: filepath.Join(dir, "actuator.jsonl")}
	whole, err := Run(context.Background(), o)
	require.NoError(t, err)
	b, err := os.ReadFile(o.Store)
	require.NoError(t, err)
	lines := strings.SplitAfter(string(b), "\n")
	require.Len(t, lines, 10, "a head, eight machines, and nothing after")
	cut := strings.Join(lines[:4], "") + lines[4][:len(lines[4])/2] // stopped in the middle of a line
	require.NoError(t, os.WriteFile(o.Store, []byte(cut+"\n"), 0o600))
	again, err := Run(context.Background(), o)
	require.NoError(t, err)
	assert.Equal(t, whole.Right, again.Right)
	assert.InDelta(t, whole.Minutes, again.Minutes, 1e-9)
	o.Seed = 6
	_, err = Run(context.Background(), o)
	require.ErrorContains(t, err, "other options")

	var table, plot bytes.Buffer
	require.NoError(t, Table(&table, dir))
	assert.Contains(t, table.String(), "| actuator | 8 |")
	require.NoError(t, PlotDir(&plot, dir))
	d := xml.NewDecoder(&plot)
	for {
		if _, err := d.Token(); err == io.EOF {
			break
		} else {
			require.NoError(t, err, "the plot is well-formed")
		}
	}
}

// The textbook begins with looking, then the battery, then volts along the path,
// and leaves what must be taken off for the end.
func TestTextbookOrder(t *testing.T) {
	for _, id := range circuit.Families() {
		c, err := circuit.Family(id)
		require.NoError(t, err)
		a, err := diagnose.NewAdviser(c)
		require.NoError(t, err)
		list := policy.TextbookOrder(a)
		require.Len(t, list, len(a.Candidates()), "every reading once")
		if c.State("bench") != nil {
			last := list[len(list)-1]
			assert.Equal(t, "bench", last.State, id)
		}
		if first := list[0]; complaint(c) != "" {
			assert.NotEmpty(t, first.Observe, id)
			assert.Equal(t, c.RunState, first.State, id)
		}
	}
}

// Wilson's interval, against the worked example of R. G. Newcombe (1998): 81 of
// 263 gives 0.2553 to 0.3662.
func TestWilson(t *testing.T) {
	lo, hi := Wilson(81.0/263, 263)
	assert.InDelta(t, 0.2553, lo, 0.0001)
	assert.InDelta(t, 0.3662, hi, 0.0001)
	lo, hi = Wilson(0, 0)
	assert.Equal(t, []float64{0, 1}, []float64{lo, hi})
}

// Slips and wrong words do not stop a run, and three entries of one reading are
// worked through.
func TestRunsWithThingsGoingWrong(t *testing.T) {
	for _, o := range []Options{{Slips: 0.2, Wrong: 0.2}, {Triple: true}, {Second: true}, {Policy: policy.Random},
		{Policy: policy.Textbook}} {
		o.Circuit, o.Faults, o.Seed = "two_wire_motor", 6, 9
		r, err := Run(context.Background(), o)
		require.NoError(t, err, "%+v", o)
		assert.Equal(t, 6, r.N)
	}
}
