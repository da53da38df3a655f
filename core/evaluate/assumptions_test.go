package evaluate

import (
	"context"
	"fmt"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/diagnose/assume"
)

// No verdict hangs on one guess: whichever of the assumed numbers is a third off, no sure verdict
// comes to be sure of another part. A sample of the numbers and two machines of two circuits here;
// all of them with CORRIENTE_ASSUMPTIONS=machines (or "corriente evaluate assumptions").
func TestHowFarAssumptionsMatter(t *testing.T) {
	o := AssumptionOptions{Circuits: []string{"starter", "window"}, Machines: 2, Seed: 71}
	n := 0
	o.Only = func(e assume.Entry) bool { n++; return n%24 == 1 || e.Name == "Reading.Reproduce" }
	if s := os.Getenv("CORRIENTE_ASSUMPTIONS"); s != "" {
		_, err := fmt.Sscan(s, &o.Machines)
		require.NoError(t, err)
		o.Only = nil
		o.Circuits, err = FieldFamilies()
		require.NoError(t, err)
	}
	all, err := Assumptions(context.Background(), o)
	require.NoError(t, err)
	require.NotEmpty(t, all)
	assert.Positive(t, all[0].Moved, "nothing moves anything: the table is not what the reasoning uses")
	for _, in := range all {
		assert.Zero(t, in.Turned, "%s (%g, %s) turns verdicts", in.Name, in.Value, in.From)
		t.Logf("%-36s %-8.4g mean %.4f most %.3f stood %d next %d of %d", in.Name, in.Value, in.Mean, in.Moved, in.Stood, in.Next, in.Jobs)
	}
}
