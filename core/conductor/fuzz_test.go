package conductor_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"corriente/core/conductor"
)

// A size that is read is an area that a cable can have.
func FuzzParseSize(f *testing.F) {
	for _, s := range []string{"35 mm²", "35mm2", "AWG 4", "awg 0000", "4/0", "2.5", "1e9", "-3 mm2", "NaN", ""} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		area, err := conductor.ParseSize(text)
		if err != nil {
			assert.NotEmpty(t, err.Error())
			return
		}
		assert.False(t, math.IsNaN(area) || math.IsInf(area, 0), "%q is %g mm²", text, area)
		assert.Positive(t, area, "%q", text)
	})
}
