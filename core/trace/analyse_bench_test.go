package trace

import (
	"math/rand/v2"
	"testing"
)

func BenchmarkAnalyse(b *testing.B) {
	rng := rand.New(rand.NewPCG(1, 1))
	m := Motor{MeanA: 10, RPM: 2400, Bars: 12, Ripple: 0.06, Weak: map[int]float64{7: 0.85}, Drift: 0.1}
	x := m.Trace(Scope{Rate: 50e3, N: 2e6, Noise: 0.05}, rng)
	y := make([]float32, len(x))
	b.SetBytes(int64(4 * len(x)))
	for b.Loop() {
		copy(y, x)
		if _, err := Analyse(y, 1/50e3, Options{}); err != nil {
			b.Fatal(err)
		}
	}
}
