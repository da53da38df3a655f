package patience_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"corriente/internal/patience"
)

func TestFactor(t *testing.T) {
	for said, want := range map[string]float64{"": 1, "4": 4, "2.5": 2.5, "0": 1, "-3": 1, "much": 1, "NaN": 1, "1e9": 1} {
		t.Setenv("CORRIENTE_PATIENCE", said)
		assert.Equal(t, want, patience.Factor(), "%q", said)
	}
	t.Setenv("CORRIENTE_PATIENCE", "1")
	one := patience.Limit()
	t.Setenv("CORRIENTE_PATIENCE", "3")
	assert.Equal(t, 3*one, patience.Limit())
	assert.GreaterOrEqual(t, one, time.Minute)
}

func TestUntilLooksAgain(t *testing.T) {
	n := 0
	patience.Until(t, "three looks", func() bool { n++; return n == 3 })
	assert.Equal(t, 3, n)
}
