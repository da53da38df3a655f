package bench

import (
	"bufio"
	"context"
	"encoding/binary"
	"fmt"
	"math"
	"net"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
	"corriente/core/fault"
	"corriente/core/meter"
	"corriente/core/unit"
	"corriente/internal/meters"
	"corriente/internal/patience"
	"corriente/internal/scpi"
)

func open(t *testing.T, faults ...string) (*Bench, *scpi.Client, *scpi.Client, *scpi.Client) {
	t.Helper()
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	ctx := context.Background()
	b, err := New(ctx, Options{Circuit: c, Faults: faults, Seed: 3, Leads: 0.2})
	require.NoError(t, err)
	t.Cleanup(b.Close)
	m, cl, sc := b.Addrs()
	var cs [3]*scpi.Client
	for i, a := range []string{m, cl, sc} {
		cs[i], err = (&scpi.Gate{AnyPort: true}).Dial(ctx, a)
		require.NoError(t, err)
		t.Cleanup(func() { cs[i].Close() })
	}
	return b, cs[0], cs[1], cs[2]
}

// What the meter shows is what the solver says, within the meter's own limits.
func TestMeterShowsTheSolversVolts(t *testing.T) {
	_, m, cl, _ := open(t, "pos_clamp.high_resistance=0.02ohm")
	ctx := context.Background()
	c, _ := circuit.Family("starter")
	net, err := circuit.Compile(c)
	require.NoError(t, err)
	model, err := fault.NewModel(net)
	require.NoError(t, err)
	h, th, w := net.SoundAll(), net.Nominal(), net.NewWork()
	f, sev, _, err := model.Parse("pos_clamp.high_resistance=0.02ohm")
	require.NoError(t, err)
	model.Apply(h, th, f, sev)
	w.Solve(net.StatePos("crank"), th, h)

	require.NoError(t, m.Send(ctx, "SIM:STAT crank"))
	require.NoError(t, m.Configure(ctx, unit.Voltage))
	for _, node := range []string{"bat_pos", "pos_cable_start", "sol_b", "sol_m"} {
		require.NoError(t, m.Send(ctx, "SIMulate:PROBes "+node+",bat_neg"))
		want := w.V[c.NodeIndex(node)] - w.V[c.NodeIndex("bat_neg")]
		patience.Until(t, "the display settles on "+node, func() bool {
			v, over, err := m.Read(ctx)
			require.NoError(t, err)
			return !over && math.Abs(v-want) <= meter.Handheld().DCVoltage.Limit(want)+0.03
		})
	}
	require.NoError(t, cl.Send(ctx, "SIM:THR pos_cable"))
	want := w.I[c.StationIndex("pos_cable")]
	patience.Until(t, "the clamp settles", func() bool {
		s, err := cl.Ask(ctx, ":MEASURE:CURRENT:DC?")
		require.NoError(t, err)
		v, _, err := scpi.Number(s)
		require.NoError(t, err)
		return math.Abs(v-want) <= meter.Clamp().DCCurrent.Limit(want)+0.3
	})
}

func TestOhmsHaveLeadsAndOL(t *testing.T) {
	_, m, _, _ := open(t, "coil.open")
	ctx := context.Background()
	require.NoError(t, m.Send(ctx, "SIM:STAT isolated"))
	require.NoError(t, m.Configure(ctx, unit.Resistance))
	require.NoError(t, m.Send(ctx, "SIM:PROB sol_s,case"))
	patience.Until(t, "an open coil shows OL", func() bool {
		_, over, err := m.Read(ctx)
		require.NoError(t, err)
		return over
	})
	require.NoError(t, m.Send(ctx, "SIM:PROB bat_pos,pos_cable_start"))
	patience.Until(t, "what is left is the leads", func() bool {
		v, over, err := m.Read(ctx)
		require.NoError(t, err)
		return !over && math.Abs(v-0.2) <= 0.35
	})
}

func TestErrorsAreQueuedAndSaid(t *testing.T) {
	_, m, cl, _ := open(t)
	ctx := context.Background()
	who, err := m.Identify(ctx)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(who, Maker))
	var ref meters.Refusal
	require.ErrorAs(t, cl.Configure(ctx, unit.Resistance), &ref, "a clamp reads no ohms")
	assert.Equal(t, -113, ref.Code)
	assert.NoError(t, cl.Errors(ctx), "the queue is empty once read")
	require.NoError(t, m.Send(ctx, "SIM:STAT flying"))
	assert.ErrorContains(t, m.Errors(ctx), "no state flying")
	v, err := m.Ask(ctx, "SYST:VERS?")
	require.NoError(t, err)
	assert.Equal(t, "1999.0", v)
}

func TestScopeSendsABlock(t *testing.T) {
	_, m, _, sc := open(t)
	ctx := context.Background()
	require.NoError(t, m.Send(ctx, "SIM:STAT crank"))
	require.NoError(t, m.Errors(ctx))
	b, err := sc.AskBlock(ctx, "TRAC:DATA?")
	require.NoError(t, err)
	require.Len(t, b, 4*traceLen)
	at := func(i int) float64 { return float64(math.Float32frombits(binary.LittleEndian.Uint32(b[4*i:]))) }
	assert.Greater(t, at(10), 2*at(traceLen-1), "the rush of a standing motor is a multiple of what it then draws")
	_, err = sc.Ask(ctx, "*OPC?")
	assert.NoError(t, err, "the conversation goes on after a block")
}

// liar answers every line with the next of its answers.
func liar(t *testing.T, answers ...string) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { l.Close() })
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			go func() {
				defer c.Close()
				sc := bufio.NewScanner(c)
				for i := 0; sc.Scan() && i < len(answers); i++ {
					fmt.Fprint(c, answers[i])
				}
			}()
		}
	}()
	return l.Addr().String()
}

func TestNonsenseIsNoReading(t *testing.T) {
	for _, said := range []string{"hello\n", "\n", "NaN\n", "9.91E37\n", "1,2,x" + strings.Repeat("y", 9000) + "\n"} {
		c, err := (&scpi.Gate{AnyPort: true}).Dial(context.Background(), liar(t, said))
		require.NoError(t, err)
		_, _, err = c.Read(context.Background())
		var no meters.Nonsense
		assert.ErrorAs(t, err, &no, "%.20q", said)
		c.Close()
	}
	for said, want := range map[string]float64{"1.25\n": 1.25, "+1.2E+01\r\n": 12, " -3 ,V\n": -3} {
		c, err := (&scpi.Gate{AnyPort: true}).Dial(context.Background(), liar(t, said))
		require.NoError(t, err)
		v, over, err := c.Read(context.Background())
		require.NoError(t, err)
		assert.False(t, over)
		assert.Equal(t, want, v)
		c.Close()
	}
	for _, said := range []string{"#0abc\n", "#9999999999\n", "5\n", "#2xx\n"} {
		c, err := (&scpi.Gate{AnyPort: true}).Dial(context.Background(), liar(t, said))
		require.NoError(t, err)
		_, err = c.AskBlock(context.Background(), "TRAC:DATA?")
		assert.Error(t, err, "%q", said)
		c.Close()
	}
}

func TestASilentInstrumentIsNotWaitedForEver(t *testing.T) {
	c, err := (&scpi.Gate{AnyPort: true}).Dial(context.Background(), liar(t))
	require.NoError(t, err)
	defer c.Close()
	ctx, cancel := context.WithTimeout(context.Background(), 100*time.Millisecond)
	defer cancel()
	_, err = c.Ask(ctx, "READ?")
	assert.Error(t, err)
}

func FuzzNumber(f *testing.F) {
	for _, s := range []string{"1.0", "9.9E37", "-9.9E37", "9.91E37", "", "inf", "1e400", "0x1p3"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		v, over, err := scpi.Number(s)
		if err == nil && !over && (math.IsNaN(v) || math.IsInf(v, 0)) {
			t.Fatalf("%q became %v", s, v)
		}
	})
}
