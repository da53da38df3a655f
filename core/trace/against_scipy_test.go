package trace

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// debianPython is Debian's own interpreter, for which numpy and scipy are
// installed.
const debianPython = "/usr/bin/python3"

const inScipy = `
import sys, json, numpy as np
from scipy import signal
d = np.loadtxt(sys.argv[1], delimiter=',', skiprows=1)
t, x = d[:, 0], d[:, 1]
fs = (len(t) - 1) / (t[-1] - t[0])
p = np.percentile(x, [5, 95])
f, P = signal.welch(np.diff(x), fs, nperseg=16384)
k = np.argmax(P[4:len(P) * 2 // 3]) + 4
print(json.dumps({"mean": x.mean(), "rms": float(np.sqrt(np.mean(x ** 2))), "peak": x.max(),
  "ripple": 100 * (p[1] - p[0]) / x.mean(), "hz": float(f[k]), "df": float(f[1])}))
`

func csvFile(t testing.TB, m Motor, s Scope) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "trace.csv")
	f, err := os.Create(path)
	require.NoError(t, err)
	defer f.Close()
	fmt.Fprintln(f, "Time (s),Clamp (A)")
	for i, v := range m.Trace(s, rand.New(rand.NewPCG(21, 21))) {
		fmt.Fprintf(f, "%.6f,%.4f\n", float64(i)/s.Rate, v)
	}
	return path
}

// Statistics and spectrum against numpy and scipy, from Debian.
func TestAgainstScipy(t *testing.T) {
	if testing.Short() {
		t.Skip("many machines: nothing more for the race detector")
	}
	for i, m := range []Motor{
		{MeanA: 12, RPM: 1500, Bars: 16, Ripple: 0.08},
		{MeanA: 40, RPM: 3600, Bars: 11, Ripple: 0.05, Weak: map[int]float64{3: 0.8}},
		{MeanA: 5, RPM: 900, Bars: 24, Ripple: 0.06, Drag: 0.04},
	} {
		path := csvFile(t, m, Scope{Rate: 40000, N: 160000, Noise: 0.01 * m.MeanA})
		out, err := exec.Command(debianPython, "-c", inScipy, path).CombinedOutput()
		require.NoError(t, err, "is python3-scipy installed? run scripts/setup.sh test: %s", out)
		var want struct{ Mean, RMS, Peak, Ripple, Hz, DF float64 }
		require.NoError(t, json.Unmarshal(out, &want))
		f, err := os.Open(path)
		require.NoError(t, err)
		v, err := Open(f, 0, Options{Bars: m.Bars})
		f.Close()
		require.NoError(t, err)
		r := v.Result
		assert.InEpsilon(t, want.Mean, r.MeanA, 1e-5, i)
		assert.InEpsilon(t, want.RMS, r.RMSA, 1e-5, i)
		assert.InEpsilon(t, want.Peak, r.PeakA, 1e-5, i)
		assert.InEpsilon(t, want.Ripple, r.RipplePercent, 1e-3, i)
		require.NotNil(t, r.RippleHz)
		assert.InDelta(t, want.Hz, *r.RippleHz, want.DF, i)
	}
}

// BenchmarkTenMillionSamples reads and analyses a two-column CSV of ten million
// samples, beside loading and the plain statistics alone in numpy.
func BenchmarkTenMillionSamples(b *testing.B) {
	if testing.Short() {
		b.Skip("writes 180 MB")
	}
	m := Motor{MeanA: 10, RPM: 2400, Bars: 12, Ripple: 0.06, Weak: map[int]float64{7: 0.85}, Drift: 0.1}
	path := csvFile(b, m, Scope{Rate: 50000, N: 1e7, Noise: 0.05})
	st, err := os.Stat(path)
	require.NoError(b, err)
	b.Run("here", func(b *testing.B) {
		for b.Loop() {
			f, err := os.Open(path)
			require.NoError(b, err)
			_, err = Open(f, st.Size(), Options{})
			f.Close()
			require.NoError(b, err)
		}
	})
	b.Run("numpy", func(b *testing.B) {
		for b.Loop() {
			out, err := exec.Command(debianPython, "-c", inScipy, path).CombinedOutput()
			require.NoError(b, err, string(out))
		}
	})
}
