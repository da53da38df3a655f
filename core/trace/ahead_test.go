package trace

import (
	"bytes"
	"errors"
	"io"
	"math/rand/v2"
	"testing"
	"testing/iotest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is read ahead is what was there, whole and in order, whatever the pieces; an error
// comes after the bytes before it; stopped early, it ends.
func TestReadAhead(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for _, n := range []int{0, 1, pieceSize - 1, pieceSize, pieceSize + 1, 5*pieceSize + 77} {
		b := make([]byte, n)
		for i := range b {
			b[i] = byte(rng.Uint32())
		}
		for _, r := range []io.Reader{bytes.NewReader(b), iotest.HalfReader(bytes.NewReader(b)), iotest.DataErrReader(bytes.NewReader(b))} {
			a := readAhead(r)
			got, err := io.ReadAll(a)
			a.close()
			require.NoError(t, err)
			assert.True(t, bytes.Equal(b, got), "%d bytes", n)
		}
	}
	broken := errors.New("the line broke")
	a := readAhead(io.MultiReader(bytes.NewReader(make([]byte, 3*pieceSize+5)), iotest.ErrReader(broken)))
	got, err := io.ReadAll(a)
	a.close()
	assert.ErrorIs(t, err, broken)
	assert.Len(t, got, 3*pieceSize+5)
	a = readAhead(bytes.NewReader(make([]byte, 50*pieceSize)))
	_, err = a.Read(make([]byte, 10))
	require.NoError(t, err)
	a.close()
}
