package trace

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"runtime"
	"strings"
	"testing"
	"testing/iotest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// long makes a file of many pieces; odd puts a line in that is not plain.
func long(rows int, odd func(i int) string) []byte {
	var b bytes.Buffer
	b.WriteString("Scope,9\nTime (s),Clamp (A),CH2 (V)\n")
	rng := rand.New(rand.NewPCG(7, 7))
	for i := range rows {
		if odd != nil {
			if l := odd(i); l != "" {
				b.WriteString(l + "\n")
				continue
			}
		}
		fmt.Fprintf(&b, "%.5f,%.3f,%.2f\n", float64(i)*2e-5, 80*rng.Float64(), 12+rng.Float64())
	}
	return b.Bytes()
}

// A large file read in pieces side by side is what it is read row by row: the same
// samples, marks, repeats and warnings, or the same refusal of the same line.
func TestPiecesSideBySide(t *testing.T) {
	if runtime.GOMAXPROCS(0) < 2 {
		t.Skip("one core reads row by row")
	}
	const rows = 300_000
	at := func(k int, line string) func(int) string {
		return func(i int) string {
			if i == k {
				return line
			}
			return ""
		}
	}
	for name, odd := range map[string]func(int) string{
		"plain": nil,
		"marks": func(i int) string {
			return map[bool]string{true: fmt.Sprintf("%.5f,OVER,12", float64(i)*2e-5)}[i%40_000 == 39_999]
		},
		"blank lines": func(i int) string { return map[bool]string{true: "  "}[i%70_001 == 5] },
		"repeats": func(i int) string {
			return map[bool]string{true: fmt.Sprintf("%.5f,1,2", float64(i-1)*2e-5)}[i%1000 == 999]
		},
		"cut short":    at(250_000, "5.00000,1"),
		"a word":       at(200_000, "4.00000,grinding,12"),
		"backwards":    at(150_000, "0.00001,1,12"),
		"no end":       at(100_000, strings.Repeat("7", 100_000)),
		"far exponent": at(120_000, "2.40000,1e-30,12"),
	} {
		t.Run(name, func(t *testing.T) {
			b := long(rows, odd)
			require.Greater(t, len(b), 20*pieceSize)
			want, werr := Read(bytes.NewReader(b))
			for _, r := range []io.Reader{bytes.NewReader(b), iotest.HalfReader(bytes.NewReader(b)),
				iotest.DataErrReader(bytes.NewReader(b))} {
				got, err := ReadSized(r, int64(len(b)))
				if werr != nil {
					require.EqualError(t, err, werr.Error())
					continue
				}
				require.NoError(t, err)
				require.Equal(t, want.N, got.N)
				assert.Equal(t, want.Repeats, got.Repeats)
				assert.Equal(t, want.Over, got.Over)
				assert.Equal(t, want.Dt, got.Dt)
				assert.Equal(t, want.Warnings, got.Warnings)
				for k := range want.Channels {
					assert.Equal(t, want.Channels[k], got.Channels[k])
				}
			}
		})
	}
	broken := errors.New("the line broke")
	b := long(rows, nil)
	_, err := ReadSized(io.MultiReader(bytes.NewReader(b[:4*pieceSize+5]), iotest.ErrReader(broken)), int64(len(b)))
	require.ErrorIs(t, err, broken)
}
