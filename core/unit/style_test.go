package unit_test

import (
	"encoding/json"
	"os"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/unit"
)

// The interface writes the same figures from the same examples: web/test/written.test.ts.
func TestStyle(t *testing.T) {
	b, err := os.ReadFile("testdata/written.json")
	require.NoError(t, err)
	var examples []struct{ Text, Imperial, Comma string }
	require.NoError(t, json.Unmarshal(b, &examples))
	require.NotEmpty(t, examples)
	for _, x := range examples {
		t.Run(x.Text, func(t *testing.T) {
			assert.Equal(t, x.Text, unit.Style{}.Write(x.Text), "metric with a point is as the core writes it")
			assert.Equal(t, x.Imperial, unit.Style{Imperial: true}.Write(x.Text))
			assert.Equal(t, x.Comma, unit.Style{Comma: true}.Write(x.Text))
		})
	}
}

// The gauges of ASTM B258 by their cross-sections in mm², as its table gives them (from memory).
func TestStyleKnowsTheGauges(t *testing.T) {
	for gauge, mm2 := range map[string]float64{"20": 0.518, "18": 0.823, "16": 1.31, "14": 2.08, "12": 3.31,
		"10": 5.26, "8": 8.37, "6": 13.3, "4": 21.2, "2": 33.6, "1": 42.4, "1/0": 53.5, "2/0": 67.4, "3/0": 85.0, "4/0": 107} {
		text := strconv.FormatFloat(mm2, 'f', -1, 64) + " mm²"
		assert.Equal(t, text+" (AWG "+gauge+")", unit.Style{Imperial: true}.Write(text))
	}
}

// Whatever is written, the figures that were there stay, and a point turned to a comma turns
// back.
func FuzzStyle(f *testing.F) {
	f.Add("80 to 100 °C, 2.5 mm², 0.05 mm, 45 Nm")
	f.Add("1e309 mm² -0.0 °C × 3 mm")
	f.Fuzz(func(t *testing.T, text string) {
		got := unit.Style{Imperial: true, Comma: true}.Write(text)
		assert.GreaterOrEqual(t, len(got), len(text))
		assert.NotContains(t, got, "NaN")
	})
}
