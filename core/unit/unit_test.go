package unit

import (
	"errors"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestParseAsPeopleWrite(t *testing.T) {
	cases := []struct {
		text string
		m    Measure
		want float64
		over bool
	}{
		{"11.9", Voltage, 11.9, false},
		{"11,9 V", Voltage, 11.9, false},
		{"250m", Voltage, 0.25, false},
		{"250 mV", Voltage, 0.25, false},
		{"-0.2V", Voltage, -0.2, false},
		{"−0,02", Voltage, -0.02, false},
		{" 12 volts ", Voltage, 12, false},
		{"24,5 A", Current, 24.5, false},
		{"24.5 amps", Current, 24.5, false},
		{"0.3 Ω", Resistance, 0.3, false},
		{"0.3 Ω", Resistance, 0.3, false}, // U+2126, the ohm sign
		{"0.3 ohm", Resistance, 0.3, false},
		{"10k", Resistance, 10e3, false},
		{"4k7", Resistance, 4700, false},
		{"1.2 M", Resistance, 1.2e6, false},
		{"0", Resistance, 0, false},
		{".5", Voltage, 0.5, false},
		{"12.", Voltage, 12, false},
		{"1.2E-3", Current, 1.2e-3, false},
		{"7.5", Capacitance, 7.5e-6, false},
		{"7.5 uF", Capacitance, 7.5e-6, false},
		{"7,5 µF", Capacitance, 7.5e-6, false},
		{"50hz", Frequency, 50, false},
		{"OL", Resistance, 0, true},
		{"o.l", Resistance, 0, true},
		{"0L", Resistance, 0, true},
		{"-OL", Voltage, 0, true},
	}
	for _, c := range cases {
		t.Run(c.text, func(t *testing.T) {
			r, err := Parse(c.text, c.m)
			require.NoError(t, err)
			assert.Equal(t, c.over, r.Over)
			assert.InDelta(t, c.want, r.Value, math.Abs(c.want)*1e-12)
			assert.Equal(t, c.text, r.Original)
		})
	}
}

func TestParseRefusesWithPlaceAndMend(t *testing.T) {
	cases := []struct {
		text string
		m    Measure
		at   int
		has  string
	}{
		{"", Voltage, 1, "nothing was typed"},
		{"12 A", Voltage, 4, "amperes do not fit"},
		{"12 V", Resistance, 4, "volts do not fit"},
		{"12.3.4", Voltage, 5, "second decimal mark"},
		{"1,234.5", Voltage, 6, "comma and a point"},
		{"12 furlongs", Voltage, 4, "not a unit"},
		{"volts", Voltage, 1, "no number"},
		{"12 13", Voltage, 4, "two numbers"},
		{"-3 ohm", Resistance, 2, "below zero"},
		{"400 V", Voltage, 1, "above 60 V DC"},
		{"9000 A", Current, 1, "3000 A"},
		{"NaN", Voltage, 1, "no number"},
		{"Inf", Voltage, 1, "no number"},
		{"\xff\xfe", Voltage, 1, "not readable"},
	}
	for _, c := range cases {
		t.Run(c.text, func(t *testing.T) {
			_, err := Parse(c.text, c.m)
			var e *Error
			require.True(t, errors.As(err, &e), "%v", err)
			assert.Equal(t, c.at, e.At, err.Error())
			assert.Contains(t, err.Error(), c.has)
			assert.NotEmpty(t, e.Mend)
		})
	}
}

func TestFormat(t *testing.T) {
	assert.Equal(t, "11.90 V", Format(11.9, Voltage))
	assert.Equal(t, "40.0 mV", Format(0.04, Voltage))
	assert.Equal(t, "0.25 V", Format(0.25, Voltage))
	assert.Equal(t, "142 A", Format(142, Current))
	assert.Equal(t, "3.30 mΩ", Format(0.0033, Resistance))
	assert.Equal(t, "10.0 kΩ", Format(10e3, Resistance))
	assert.Equal(t, "7.50 µF", Format(7.5e-6, Capacitance))
	assert.Equal(t, "0 Ω", Format(0, Resistance))
}

// What Format writes, Parse reads back within the digits it printed.
func TestFormatParseRoundTrip(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := rapid.SampledFrom([]Measure{Voltage, Current, Resistance, Capacitance}).Draw(t, "measure")
		lim := map[Measure][2]float64{Voltage: {-2, 1.7}, Current: {-3, 3}, Resistance: {-4, 8}, Capacitance: {-8, -2}}[m]
		v := math.Pow(10, rapid.Float64Range(lim[0], lim[1]).Draw(t, "log"))
		r, err := Parse(Format(v, m), m)
		if err != nil {
			t.Fatal(err)
		}
		if math.Abs(r.Value-v) > 0.006*v+0.0051*boolTo(m == Voltage || m == Resistance && v > 0.09) {
			t.Fatalf("%g written %q read %g", v, Format(v, m), r.Value)
		}
	})
}

func boolTo(b bool) float64 {
	if b {
		return 1
	}
	return 0
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"11.9", "250m", "24,5 A", "OL", "0.3 Ω", "10k", "4k7", "1e5", "- 3", "1e99"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		for _, m := range Measures() {
			r, err := Parse(s, m)
			if err == nil && (math.IsNaN(r.Value) || math.IsInf(r.Value, 0)) {
				t.Fatalf("%q as %s gave %g", s, m, r.Value)
			}
		}
	})
}
