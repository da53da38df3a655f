package conductor

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// NBS Handbook 100, tables of copper wire at 20 °C: AWG 10 3.277, AWG 4 0.815, AWG 2/0 0.256 mΩ/m.
func TestAWGAgainstHandbook(t *testing.T) {
	for n, want := range map[int]float64{10: 3.277e-3, 4: 0.815e-3, -1: 0.256e-3} {
		r, err := Resistance(AWGArea(n), 1, 20)
		require.NoError(t, err)
		assert.InEpsilon(t, want, r, 0.002, "AWG %d", n)
	}
}

// ISO 6722-1 maximum resistances (from memory) sit 5 to 11 % above pure copper of the same area.
func TestVehicleCableAgainstISO6722(t *testing.T) {
	for mm2, max := range map[float64]float64{0.5: 37.1, 1.5: 12.7, 6: 3.14, 25: 0.743, 50: 0.368} {
		r, err := Resistance(mm2, 1, 20)
		require.NoError(t, err)
		assert.Greater(t, max, r*1e3*1.04)
		assert.Less(t, max, r*1e3*1.12)
	}
}

// IEC 60034-1: 20 to 75 °C on copper is a factor of 1.216.
func TestTemperatureFactor(t *testing.T) {
	assert.InDelta(t, 1.216, AtTemperature(1, 20, 75), 0.0005)
}

func TestImpossibleWireIsRefused(t *testing.T) {
	for _, c := range [][3]float64{{0, 1, 20}, {-1, 1, 20}, {1, -1, 20}, {1, 1, 900}} {
		_, err := Resistance(c[0], c[1], c[2])
		assert.Error(t, err)
	}
}

func TestSizesAsTheyAreWritten(t *testing.T) {
	for text, want := range map[string]float64{"35": 35, "35 mm2": 35, "2,5 mm²": 2.5, "AWG 4": 21.15, "4 awg": 21.15,
		"AWG 2/0": 67.43, "awg 1/0": 53.48} {
		got, err := ParseSize(text)
		require.NoError(t, err, text)
		assert.InEpsilon(t, want, got, 0.002, text)
	}
	for _, text := range []string{"", "thick", "AWG", "AWG 9/0", "-3 mm2", "5000", "AWG 77"} {
		_, err := ParseSize(text)
		assert.ErrorContains(t, err, "mm2", text)
	}
}
