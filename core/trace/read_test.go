package trace

import (
	"bufio"
	"bytes"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func read(t *testing.T, s string) *File {
	t.Helper()
	f, err := Read(strings.NewReader(s))
	require.NoError(t, err, "%.80q", s)
	return f
}

// Files as scopes write them.
func TestFilesAsScopesExportThem(t *testing.T) {
	for name, c := range map[string]struct {
		text     string
		dt       float64
		channels []string
		units    []string
		last     float64
	}{
		"plain": {"Time,CH1\n0,1\n0.001,2\n0.002,3\n", 1e-3, []string{"CH1"}, []string{""}, 3},
		"units row": {"Time,Clamp,Volts\ns,A,V\n0,1,12\n0.001,2,12\n0.002,3.5,11.9\n", 1e-3,
			[]string{"Clamp", "Volts"}, []string{"A", "V"}, 3.5},
		"units in names": {"Time (ms);Clamp [mV]\n0;1\n0.5;2\n1.0;-3\n", 5e-4, []string{"Clamp"}, []string{"mV"}, -3},
		"decimal comma": {"Zeit (s);Strom (A)\r\n0,000;1,5\r\n0,001;2,5\r\n0,002;3,25\r\n", 1e-3,
			[]string{"Strom"}, []string{"A"}, 3.25},
		"whole first row": {"Time (s);I (A)\n0;1\n0,001;2\n0,002;2,5\n", 1e-3, []string{"I"}, []string{"A"}, 2.5},
		"tabs":            {"t\tI/A\n0\t1\n1e-3\t2\n2e-3\t3\n", 1e-3, []string{"I"}, []string{"A"}, 3},
		"byte order mark": {"\xef\xbb\xbfTime (us),A1 (A)\n0,1\n10,2\n20,3\n", 1e-5, []string{"A1"}, []string{"A"}, 3},
		"metadata": {"Model,Bench scope\nSerial,0\nSample Interval,0.00002,s\n\nCH1\nA\n1\n2\n3\n", 2e-5,
			[]string{"CH1"}, []string{"A"}, 3},
		"interval in head": {"# Sample interval: 20 us\nCH1 (A);CH2 (A)\n1;5\n2;6\n3;7\n", 2e-5,
			[]string{"CH1", "CH2"}, []string{"A", "A"}, 3},
		"rate in head":    {"Sample rate: 50 kS/s\nClamp (A)\n1\n2\n4\n", 2e-5, []string{"Clamp"}, []string{"A"}, 4},
		"trailing blanks": {"Time,CH1 (A),\n0,1, \n0.001,2,\t\n0.002,3,  \n\n\n", 1e-3, []string{"CH1"}, []string{"A"}, 3},
		"no head":         {"0,1\n0.001,2\n0.002,3\n", 1e-3, []string{"CH1"}, []string{""}, 3},
	} {
		t.Run(name, func(t *testing.T) {
			f := read(t, c.text)
			assert.InEpsilon(t, c.dt, f.Dt, 1e-9)
			require.Len(t, f.Channels, len(c.channels))
			for i, ch := range f.Channels {
				assert.Equal(t, c.channels[i], ch.Name)
				assert.Equal(t, c.units[i], ch.Unit)
				assert.Len(t, ch.X, 3)
			}
			assert.InDelta(t, c.last, float64(f.Channels[0].X[2]), 1e-6)
		})
	}
}

func TestOverRangeAndRoundedTimes(t *testing.T) {
	f := read(t, "Time (s),I (A)\n0,1\n0,2\n0.001,OVER\n0.001,3\n0.002,-\n0.002,1\n")
	assert.Equal(t, 2, f.Over)
	assert.Equal(t, float32(2), f.Channels[0].X[2], "held at the greatest so far")
	assert.Equal(t, 3, f.Repeats)
	assert.Len(t, f.Warnings, 2)
}

func TestBadFilesAreRefusedWithTheLine(t *testing.T) {
	for name, c := range map[string][2]string{
		"empty":           {"", "empty"},
		"words":           {"hello\nworld\n", "no samples"},
		"one sample":      {"Time,CH1\n0,1\n", "single|no samples"},
		"backwards":       {"Time,CH1\n0,1\n0.001,2\n0.0005,3\n0.002,4\n", "line 4: time runs backwards"},
		"cut short":       {"Time,CH1\n0,1\n0.001,2\n0.002\n0.003,4\n", "line 4: this row is cut short"},
		"word in a row":   {"Time,CH1\n0,1\n0.001,2\n0.002,apple\n0.003,4\n", "line 4: \"apple\" is no number"},
		"no time":         {"CH1 (A);CH2 (A)\n1;2\n2;3\n3;4\n", "neither a time column nor a sample interval"},
		"time alone":      {"Time (s)\n0\n0.001\n0.002\n", "only a time column"},
		"all times alike": {"Time,CH1\n1,1\n1,2\n1,3\n", "all times are the same"},
		"binary":          {"PK\x03\x04\x00\x00\x00\x00", "no text|no samples"},
		"UTF-16":          {"\xff\xfeT\x00i\x00", "no samples"},
	} {
		_, err := Read(strings.NewReader(c[0]))
		require.Error(t, err, name)
		ok := false
		for _, w := range strings.Split(c[1], "|") {
			ok = ok || strings.Contains(err.Error(), w)
		}
		assert.True(t, ok, "%s: %v", name, err)
	}
}

func TestChannelChoice(t *testing.T) {
	text := "Time (s),Supply (V),Clamp (A)\n0,12,1\n0.001,11,2\n0.002,12,3\n"
	x, name, _, _, err := Amperes(read(t, text), Options{})
	require.NoError(t, err)
	assert.Equal(t, "Clamp", name)
	assert.Equal(t, []float32{1, 2, 3}, x)
	_, _, _, _, err = Amperes(read(t, text), Options{Channel: "Supply"})
	assert.ErrorContains(t, err, "clamp's scale")
	x, _, _, _, err = Amperes(read(t, text), Options{Channel: "supply", Scale: "100mV/A"})
	require.NoError(t, err)
	assert.InDelta(t, 120, float64(x[0]), 1e-4)
	_, _, _, _, err = Amperes(read(t, text), Options{Channel: "CH9"})
	assert.ErrorContains(t, err, "Supply, Clamp")
}

// What is written is read back, whatever the dialect.
func TestRoundTripOfDialects(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 8))
	for range 60 {
		sep := []string{",", ";", "\t"}[rng.IntN(3)]
		comma := sep != "," && rng.IntN(2) == 0
		end := []string{"\n", "\r\n"}[rng.IntN(2)]
		num := func(v float64) string {
			s := fmt.Sprintf([]string{"%.6f", "%.7e", "%g"}[rng.IntN(3)], v)
			if comma {
				s = strings.Replace(s, ".", ",", 1)
			}
			return s
		}
		var b bytes.Buffer
		fmt.Fprintf(&b, "Time%sCurrent%s%s%sA%s", sep, end, "ms", sep, end)
		n := 20 + rng.IntN(50)
		var want []float64
		for i := range n {
			v := 100 * rng.NormFloat64()
			want = append(want, v)
			fmt.Fprintf(&b, "%s%s%s%s", num(0.25*float64(i)), sep, num(v), end)
		}
		f := read(t, b.String())
		require.Equal(t, n, f.N)
		assert.InEpsilon(t, 2.5e-4, f.Dt, 1e-6)
		for i, v := range want {
			assert.InDelta(t, v, float64(f.Channels[0].X[i]), 1e-4*math.Abs(v)+1e-5)
		}
	}
}

func FuzzRead(f *testing.F) {
	for _, s := range []string{"Time,CH1\n0,1\n1,2\n", "a;b\n1,5;2\n2,5;3\n", "\xef\xbb\xbf0\t1\n1\t2\n",
		"1e400,2\n3,4\n", ",,,\n,,,\n", "0 1\n1 2\n2 3\n"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		file, err := Read(strings.NewReader(s))
		if err != nil {
			return
		}
		if file.N < 2 || !(file.Dt > 0) || len(file.Channels) == 0 {
			t.Fatalf("a file without samples passed: %+v", file)
		}
		for _, c := range file.Channels {
			if len(c.X) != file.N {
				t.Fatalf("%d of %d samples", len(c.X), file.N)
			}
		}
		if x, _, _, _, err := Amperes(file, Options{}); err == nil {
			_, _ = Analyse(x, file.Dt, Options{Bars: 12})
		}
	})
}

func FuzzNumber(f *testing.F) {
	for _, s := range []string{"1", "-1.5e-3", "1,5", "000123456789012345678901234567890", "1e", "+.5", "9.9E37"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		v, over, ok := number([]byte(s), false)
		if ok && !over && (math.IsNaN(v) || math.IsInf(v, 0)) {
			t.Fatalf("%q became %v", s, v)
		}
	})
}

// BenchmarkRead parses a file of some 70 MB, and beside it reads the same file and looks at
// every byte.
func BenchmarkRead(b *testing.B) {
	name := filepath.Join(b.TempDir(), "long.csv")
	f, err := os.Create(name)
	require.NoError(b, err)
	w := bufio.NewWriter(f)
	fmt.Fprintln(w, "Time (s),Clamp (A)")
	rng := rand.New(rand.NewPCG(1, 1))
	for i := range 4_000_000 {
		fmt.Fprintf(w, "%.6f,%.4f\n", float64(i)*2e-5, 10+rng.NormFloat64())
	}
	require.NoError(b, w.Flush())
	require.NoError(b, f.Close())
	st, err := os.Stat(name)
	require.NoError(b, err)
	b.Run("parse", func(b *testing.B) {
		b.SetBytes(st.Size())
		for b.Loop() {
			f, err := os.Open(name)
			require.NoError(b, err)
			if _, err := ReadSized(f, st.Size()); err != nil {
				b.Fatal(err)
			}
			f.Close()
		}
	})
	b.Run("scan", func(b *testing.B) {
		b.SetBytes(st.Size())
		buf := make([]byte, 1<<20)
		n := 0
		for b.Loop() {
			f, err := os.Open(name)
			require.NoError(b, err)
			for {
				m, err := f.Read(buf)
				for _, c := range buf[:m] {
					if c == '\n' {
						n++
					}
				}
				if err != nil {
					break
				}
			}
			f.Close()
		}
		_ = n
	})
}
