package diagnose_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/diagnose"
	"corriente/core/unit"
)

// BenchmarkOneMoreReading is what one more reading costs a job of so many entries, all
// between two points drawn at random, with its explanation and the next readings worked
// out; the memory is that of the whole.
func BenchmarkOneMoreReading(b *testing.B) {
	for _, n := range []int{11, 44, 140, 500} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			b.ReportAllocs()
			a := adviser(b)
			all := manyReadings(b, a, n+b.N)
			_, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: all[:n-1]})
			require.NoError(b, err)
			b.ResetTimer()
			for i := range b.N {
				_, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: all[:n+i]})
				require.NoError(b, err)
			}
		})
	}
}

// manyReadings are volts of a starter with a burnt contact, 2 % and 10 mV about.
func manyReadings(tb testing.TB, a *diagnose.Adviser, n int) []casefile.Evidence {
	rng := rand.New(rand.NewPCG(3, 3))
	crank := map[string]float64{"bat_pos": 11.6, "pos_cable_start": 11.57, "sol_b": 11.4, "sol_m": 9, "case": 0.15,
		"block": 0.13, "gnd_cable_end": 0.03, "bat_neg": 0,
		"fuse_out": 11.5, "ign_out": 11.4, "ilk_out": 11.3, "sol_s": 11.1}
	nodes := []string{"bat_pos", "pos_cable_start", "sol_b", "sol_m", "case", "block", "gnd_cable_end", "bat_neg",
		"fuse_out", "ign_out", "ilk_out", "sol_s"}
	var out []casefile.Evidence
	for len(out) < n {
		x, y := nodes[rng.IntN(len(nodes))], nodes[rng.IntN(len(nodes))]
		if x == y {
			continue
		}
		e := casefile.Evidence{Measure: unit.Voltage, State: "crank", From: x, To: y,
			Value: fmt.Sprintf("%.2f", (crank[x]-crank[y])*(1+0.02*rng.NormFloat64())+0.01*rng.NormFloat64())}
		if p := e.Check(a.C, nil); p != nil {
			tb.Fatal(p)
		}
		out = append(out, e)
	}
	return out
}
