package blink

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
)

func traction(t testing.TB) *circuit.Circuit {
	c, err := circuit.Family("traction")
	require.NoError(t, err)
	return c
}

func TestTableRoundTrip(t *testing.T) {
	c := traction(t)
	for _, in := range []string{
		"code,meaning,faults\n3,Motor circuit open,motor.brushes_worn motor_connector.open\n5,\"Throttle, not at " +
			"rest\",throttle.out_of_neutral\n7,Too hot,\n",
		"\ufeffCode;Meaning;Faults\r\n3;Motor circuit open;motor.brushes_worn|motor_connector.open\r\n5;Throttle, " +
			"not at rest;throttle.out_of_neutral\r\n7;Too hot;\r\n",
	} {
		es, err := ReadCSV(strings.NewReader(in), c)
		require.NoError(t, err)
		require.Len(t, es, 3)
		assert.Equal(t, []string{"motor.brushes_worn", "motor_connector.open"}, es[0].Faults)
		var b bytes.Buffer
		require.NoError(t, WriteCSV(&b, c, es))
		again, err := ReadCSV(&b, c)
		require.NoError(t, err)
		assert.Equal(t, es, again)
	}
}

func TestBadTablesNameTheLine(t *testing.T) {
	c := traction(t)
	for in, says := range map[string]string{
		"3,Motor,motor.seized\n":                           "line 1",
		"code,meaning,faults\n99,Motor,motor.seized\n":     "line 2",
		"code,meaning,faults\n1,x,\n1,y,\n":                "line 3",
		"code,meaning,faults\n2,Motor,motor.melted\n":      "motor.melted",
		"code,meaning,faults\n2,\n":                        "line 2",
		"code,meaning,faults\n2,a,motor.seized,more\n":     "columns",
		"code,meaning,faults\n2,a,does not close\n":        "name the part too",
		"code,meaning,faults\n2,a,flux capacitor broken\n": "names no fault",
		"c\"0000":               "line 1",
		"code,meaning,faults\n": "no code",
		"code,meaning,faults\n2,\"open quote\n3,more,rows\n": "quotes",
	} {
		_, err := ReadCSV(strings.NewReader(in), c)
		assert.ErrorContains(t, err, says, in)
	}
}

// A table in plain words, as a person writes it, names the same faults; every fault of every
// circuit comes back from its own words.
func TestPlainWords(t *testing.T) {
	c := traction(t)
	es, err := ReadCSV(strings.NewReader("Code;Meaning;Part and fault\n2;Throttle not at rest;throttle: not at rest "+
		"when released\n3;Motor open;Drive motor: worn brushes | motor connector open\n4;Seat;interlock does not "+
		"close\n7;Brake;brake coil: open + Brake coil shorted turns\n"), c)
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"throttle.out_of_neutral"}, {"motor.brushes_worn", "motor_connector.open"},
		{"interlock.stuck_open"}, {"brake_coil.open", "brake_coil.shorted_turns"}},
		[][]string{es[0].Faults, es[1].Faults, es[2].Faults, es[3].Faults})
	for _, id := range circuit.Families() {
		c, err := circuit.Family(id)
		require.NoError(t, err)
		for _, s := range c.Stations {
			for mode := range s.Faults {
				f, err := plainFault(Plain(c, s.ID+"."+mode), c)
				if assert.NoError(t, err) {
					assert.Equal(t, s.ID+"."+mode, f, id)
				}
			}
		}
	}
}

// What a spreadsheet would run is written as text, and comes back as it was.
func TestFormulasAreText(t *testing.T) {
	c := traction(t)
	es := []Entry{{2, "=HYPERLINK(1)", []string{}}, {3, "'quoted", []string{}}, {4, "-1 V", []string{"motor.seized"}},
		{7, "plain", []string{}}}
	var b bytes.Buffer
	require.NoError(t, WriteCSV(&b, c, es))
	assert.NotContains(t, b.String(), ",=")
	again, err := ReadCSV(&b, c)
	require.NoError(t, err)
	assert.Equal(t, es, again)
}

func FuzzReadCSV(f *testing.F) {
	c := traction(f)
	f.Add("code,meaning,faults\n3,Motor,motor.seized\n")
	f.Add("code;meaning\n1;x")
	f.Add("c\"0000")
	f.Add("code,meaning,faults\n3,Motor,drive motor: worn brushes | brake")
	f.Fuzz(func(t *testing.T, s string) {
		es, err := ReadCSV(strings.NewReader(s), c)
		if err == nil && len(es) == 0 {
			t.Fatal("an empty table was accepted")
		}
	})
}

func TestTheMachinesOwnTableHolds(t *testing.T) {
	ts := []Table{{Controller: "Reed 24", Entries: []Entry{{3, "motor", []string{"motor.brushes_worn"}}}},
		{Controller: "Reed 24", Machine: "lift", Entries: []Entry{{3, "brake", []string{"brake_coil.open"}}}}}
	c := Choose(ts, "reed 24", "Lift")
	assert.Equal(t, "brake", c.Table.Entries[0].Says)
	assert.Equal(t, 1.0, c.Trust)
	c = Choose(ts, "Reed 24", "cart")
	assert.Equal(t, "motor", c.Table.Entries[0].Says)
	assert.Equal(t, WrongTable, c.Trust, "other machines give the codes other meanings")
	assert.Nil(t, Choose(ts, "Sedge", "cart").Table)
	assert.Empty(t, Choose(ts, "Sedge", "cart").Table.Codes())
}

func taps(rounds ...int) []float64 {
	var out []float64
	t := 0.0
	for _, n := range rounds {
		for range n {
			out = append(out, t)
			t += 0.5
		}
		t += 1.5
	}
	return out
}

func TestTwoEqualRoundsMakeACode(t *testing.T) {
	x := taps(6, 6)
	got := Group(x, x[len(x)-1]+2)
	assert.Equal(t, 6, got.Code)
	assert.Greater(t, got.Sure, 0.9)
	got = Group(x, x[len(x)-1]+0.2)
	assert.Zero(t, got.Code, "the second round may go on")
	y := taps(6, 5)
	assert.Zero(t, Group(y, y[len(y)-1]+2).Code, "rounds that differ are no code")
	z := taps(6, 5, 6)
	assert.Equal(t, 6, Group(z, z[len(z)-1]+2).Code)
	one := taps(1, 1, 1)
	assert.Equal(t, 1, Group(one, one[len(one)-1]+2.1).Code, "single flashes with pauses")
	assert.Zero(t, Group(nil, 0).Code)
}
