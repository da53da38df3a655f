package scpi_test

import (
	"bufio"
	"context"
	"fmt"
	"math"
	"net"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/unit"
	"corriente/internal/meters"
	"corriente/internal/scpi"
)

// instrument answers each line it is sent with what is set for it, and keeps the lines.
func instrument(t *testing.T, answers map[string]string) (*scpi.Client, *[]string) {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	var heard []string
	done := make(chan struct{})
	go func() {
		defer close(done)
		c, err := l.Accept()
		if err != nil {
			return
		}
		defer c.Close()
		for sc := bufio.NewScanner(c); sc.Scan(); {
			heard = append(heard, sc.Text())
			if a, ok := answers[sc.Text()]; ok {
				fmt.Fprint(c, a)
			}
		}
	}()
	c, err := (&scpi.Gate{AnyPort: true}).Dial(t.Context(), l.Addr().String())
	require.NoError(t, err)
	t.Cleanup(func() { c.Close(); l.Close(); <-done })
	return c, &heard
}

// Numbers as IEEE 488.2, 8.7 writes them, and the two that SCPI-99 (7.2.1.4 and 7.2.1.5)
// keeps for infinity and for no measurement.
func TestNumbers(t *testing.T) {
	for text, want := range map[string]float64{
		"12": 12, "-3": -3, "+7": 7, "12.60": 12.6, ".5": 0.5, "1.26E+01": 12.6, "-4.2e-3": -0.0042, " 9.8 ": 9.8,
		"1.5,VDC,0": 1.5, "0": 0, "-0.0": 0, "9.89E37": 9.89e37,
	} {
		v, over, err := scpi.Number(text)
		require.NoError(t, err, text)
		assert.False(t, over, text)
		assert.InDelta(t, want, v, 1e-12*math.Abs(want), text)
	}
	for _, text := range []string{"9.9E37", "+9.90000000E+37", "-9.9e37", "1e38"} {
		_, over, err := scpi.Number(text)
		require.NoError(t, err, text)
		assert.True(t, over, text)
	}
	for _, text := range []string{"", "OL", "HELLO", "12 V", "9.91E37", "NaN", "0x10p", "1..2", "--1", ",5",
		strings.Repeat("9", 5000) + "x"} {
		_, _, err := scpi.Number(text)
		var n meters.Nonsense
		require.ErrorAs(t, err, &n, text)
		assert.Less(t, len(n.Error()), 120, "what it said is quoted, not poured out")
	}
}

func FuzzNumber(f *testing.F) {
	for _, s := range []string{"1.2", "9.9E37", "OL", "-0", "1,2", "\x00", "1e999"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		v, over, err := scpi.Number(s)
		if err == nil && !over && (math.IsNaN(v) || math.Abs(v) >= scpi.Over) {
			t.Errorf("%q became %g", s, v)
		}
	})
}

func TestAConversation(t *testing.T) {
	c, heard := instrument(t, map[string]string{"*IDN?": "Orchard Works,Meter 1,007,1.0\r\n",
		"SYST:ERR?": "0,\"No error\"\n", "READ?": "1.2640E+01\n"})
	who, err := c.Identify(t.Context())
	require.NoError(t, err)
	assert.Equal(t, "Orchard Works,Meter 1,007,1.0", who)
	require.NoError(t, c.Configure(t.Context(), unit.Voltage))
	v, over, err := c.Read(t.Context())
	require.NoError(t, err)
	assert.False(t, over)
	assert.InDelta(t, 12.64, v, 1e-12)
	require.NoError(t, c.Close())
	assert.Equal(t, []string{"*IDN?", "CONF:VOLT:DC", "SYST:ERR?", "READ?"}, *heard)
}

// Every measure has its SCPI-99 function; what no instrument reads is refused before
// anything is sent.
func TestFunctions(t *testing.T) {
	for m, want := range map[unit.Measure]string{unit.Voltage: "VOLT:DC", unit.ACVoltage: "VOLT:AC",
		unit.Current: "CURR:DC", unit.Resistance: "RES", unit.Capacitance: "CAP", unit.Frequency: "FREQ"} {
		assert.Equal(t, want, scpi.Function(m))
	}
	assert.Empty(t, scpi.Function("mood"))
	c, heard := instrument(t, nil)
	assert.Error(t, c.Configure(t.Context(), "mood"))
	assert.Empty(t, *heard)
}

// The error queue is emptied and its first entry told; one that never ends is left.
func TestTheErrorQueue(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	queue := []string{`-113,"Undefined header"`, `-222,"Data out of range"`, `0,"No error"`}
	go func() {
		c, err := l.Accept()
		if err != nil {
			return
		}
		defer c.Close()
		for sc := bufio.NewScanner(c); sc.Scan(); {
			fmt.Fprintln(c, queue[0])
			if len(queue) > 1 {
				queue = queue[1:]
			}
		}
	}()
	c, err := (&scpi.Gate{AnyPort: true}).Dial(t.Context(), l.Addr().String())
	require.NoError(t, err)
	defer c.Close()
	var r meters.Refusal
	require.ErrorAs(t, c.Errors(t.Context()), &r)
	assert.Equal(t, meters.Refusal{Code: -113, Says: "Undefined header"}, r)
	assert.NoError(t, c.Errors(t.Context()))
	endless, _ := instrument(t, map[string]string{"SYST:ERR?": "-350,\"Queue overflow\"\n"})
	require.ErrorAs(t, endless.Errors(t.Context()), &r)
	assert.Equal(t, -350, r.Code)
	odd, _ := instrument(t, map[string]string{"SYST:ERR?": "all is well\n"})
	var n meters.Nonsense
	assert.ErrorAs(t, odd.Errors(t.Context()), &n)
}

// A block of definite length (IEEE 488.2, 8.7.9), and what is none.
func TestBlocks(t *testing.T) {
	data := string([]byte{0, '\n', 0xff, '#', 1})
	c, _ := instrument(t, map[string]string{"A?": "#15" + data + "\n", "B?": "#3005" + data + "\n", "C?": "#0" +
		data + "\n", "D?": "12.6\n"})
	for _, q := range []string{"A?", "B?"} {
		b, err := c.AskBlock(t.Context(), q)
		require.NoError(t, err, q)
		assert.Equal(t, data, string(b))
	}
	for _, q := range []string{"C?", "D?"} {
		one, _ := instrument(t, map[string]string{"C?": "#0" + data + "\n", "D?": "12.6\n"})
		_, err := one.AskBlock(t.Context(), q)
		var n meters.Nonsense
		assert.ErrorAs(t, err, &n, q)
	}
	huge, _ := instrument(t, map[string]string{"A?": "#9999999999"})
	_, err := huge.AskBlock(t.Context(), "A?")
	assert.Error(t, err, "a gigabyte is not waited for")
}

// Every wait has an end: an instrument that says nothing, a caller who goes, a line that
// never stops.
func TestWaitsEnd(t *testing.T) {
	dumb, _ := instrument(t, nil)
	ctx, cancel := context.WithTimeout(t.Context(), 60*time.Millisecond)
	defer cancel()
	_, _, err := dumb.Read(ctx)
	assert.Error(t, err)
	long, _ := instrument(t, map[string]string{"READ?": strings.Repeat("7", 1<<13)})
	_, _, err = long.Read(t.Context())
	var n meters.Nonsense
	assert.ErrorAs(t, err, &n)
	_, err = (&scpi.Gate{AnyPort: true}).Dial(t.Context(), "127.0.0.1:1")
	assert.Error(t, err, "nobody there")
}
