package evaluate

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"corriente/core/circuit"
	"corriente/core/diagnose"
)

func TestZZ(t *testing.T) {
	w := strings.Split(os.Getenv("ZZ"), ",") // circuit,seed,world,i,i,i
	c, _ := circuit.Family(w[0])
	a, _ := diagnose.NewAdviser(c)
	var seed uint64
	fmt.Sscan(w[1], &seed)
	for _, s := range w[3:] {
		var i uint64
		fmt.Sscan(s, &i)
		rng := rand.New(rand.NewPCG(seed, i))
		x, err := work(context.Background(), a, Options{Circuit: w[0], Seed: seed, Spread: 0.3, Most: 40, Policy: "adviser", Machines: w[2]}, rng)
		if err != nil {
			t.Fatal(err)
		}
		fmt.Printf("#%d truth %v verdict %s %s after %d, %.1f min\n", i, x.Truth, x.Verdict, x.Station, x.Readings, x.Minutes)
		op, _ := a.Weigh(context.Background(), &diagnose.Job{Evidence: x.Case, Instruments: x.Instruments})
		for k, e := range x.Case {
			says := ""
			if k < len(op.Evidence) {
				says = op.Evidence[k].Says
				if g := op.Evidence[k].ExpectedIfGood; g != nil {
					says += fmt.Sprintf(" good %.3g..%.3g", g.Low, g.High)
				}
			}
			fmt.Printf("    %s%s %s %s%s%s = %s%s   [%s] | %s\n", e.Measure, e.Observe, e.State, e.From+" ", e.To, e.Through, e.Value, e.Outcome, e.Instrument, says)
		}
		for k, d := range op.Diagnoses {
			if k < 5 {
				fmt.Printf("      %.3f %s %v\n", d.Probability, d.Label, d.Severity)
			}
		}
		for _, wn := range op.Warnings {
			fmt.Println("      !", wn.Says)
		}
	}
}
