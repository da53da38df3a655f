package fault

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
)

func model(t testing.TB) *Model {
	t.Helper()
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	n, err := circuit.Compile(c)
	require.NoError(t, err)
	m, err := NewModel(n)
	require.NoError(t, err)
	return m
}

// The severities of the case-file format, as written there.
func TestParseSeverities(t *testing.T) {
	m := model(t)
	cases := map[string]float64{
		"pos_clamp.high_resistance=0.021ohm": 0.021,
		"pos_clamp.high_resistance=21m":      0.021,
		"pos_clamp.high_resistance=0,021 Ω":  0.021,
		"motor.brushes_worn=2.1ohm":          2.1,
		"motor.brushes_worn=open":            Open,
		"battery.weak=x5.2":                  5.2,
		"drive.binding=x1.75":                1.75,
		"drive.binding=1.75":                 1.75,
		"battery.discharged=11.4V":           11.4,
		"motor.shorted_turns=0.6":            0.6,
		"motor.bearing_drag=x3":              3,
		"motor.seized":                       0,
	}
	for text, want := range cases {
		f, sev, assumed, err := m.Parse(text)
		require.NoError(t, err, text)
		assert.False(t, assumed, text)
		assert.InDelta(t, want, sev, 1e-9*math.Max(want, 1), text)
		assert.True(t, strings.HasPrefix(text, f.String()))
	}
	_, sev, assumed, err := m.Parse("battery.weak")
	require.NoError(t, err)
	assert.True(t, assumed, "a middling severity is taken, and said")
	assert.Equal(t, m.ScaleOf(Fault{"battery", "weak"}).Middle, sev)
}

func TestParseRefuses(t *testing.T) {
	m := model(t)
	for text, says := range map[string]string{
		"motor":                           "station.mode",
		"mast.broken":                     "no station",
		"motor.sleepy":                    "no fault",
		"motor.seized=3":                  "no degrees",
		"battery.weak=xx":                 "x1.75",
		"battery.weak=-2":                 "x1.75",
		"battery.discharged=11.4A":        "11.4V",
		"pos_clamp.high_resistance=0":     "0.021ohm",
		"pos_clamp.high_resistance=OL":    "0.021ohm",
		"motor.shorted_turns=1.5":         "share left",
		"pos_clamp.high_resistance=small": "0.021ohm",
	} {
		_, _, _, err := m.Parse(text)
		require.ErrorContains(t, err, says, text)
	}
}

// What Parse reads, FormatSeverity writes so that Parse reads it again.
func TestSeverityRoundTrip(t *testing.T) {
	m := model(t)
	for _, f := range m.Faults() {
		sc := m.ScaleOf(f)
		if sc == nil {
			continue
		}
		for _, s := range []float64{sc.Lo, sc.Middle, sc.Hi} {
			_, got, _, err := m.Parse(f.String() + "=" + sc.FormatSeverity(s))
			require.NoError(t, err, f)
			assert.InEpsilon(t, s, got, 0.01, f.String())
		}
		assert.Less(t, sc.Lo, sc.Middle, f.String())
		assert.Less(t, sc.Middle, sc.Hi, f.String())
	}
}

// Added resistance is scale-free: f times nominal voltage over the branch's
// normal current, f from 0.03 to 3.
func TestHighResistanceIsScaleFree(t *testing.T) {
	m := model(t)
	for _, st := range []string{"pos_clamp", "ignition_switch"} {
		k := m.Net.C.StationIndex(st)
		sc := m.ScaleOf(Fault{st, "high_resistance"})
		unit := 12 / m.Normal[k]
		assert.InEpsilon(t, 0.03*unit, sc.Lo, 1e-9)
		assert.InEpsilon(t, 3*unit, sc.Hi, 1e-9)
	}
	a, b := m.ScaleOf(Fault{"pos_clamp", "high_resistance"}), m.ScaleOf(Fault{"ignition_switch", "high_resistance"})
	assert.Greater(t, b.Lo, 5*a.Lo, "a thin wire's bad joint has more ohms than a cable's")
}

func solve(m *Model, state string, fs ...string) *circuit.Work {
	h, th := m.Net.SoundAll(), m.Net.Nominal()
	for _, t := range fs {
		f, sev, _, err := m.Parse(t)
		if err != nil {
			panic(err)
		}
		m.Apply(h, th, f, sev)
	}
	w := m.Net.NewWork()
	w.Solve(m.Net.StatePos(state), th, h)
	return w
}

// What each fault does, by the trade's own rules (common practice): volts good
// and current near zero is brushes; current high and slow is drag; volts low at
// the motor is the path; volts low everywhere and current high is the battery
// pulled down by the motor.
func TestWhatEachFaultDoes(t *testing.T) {
	m := model(t)
	c := m.Net.C
	v := func(w *circuit.Work, a, b string) float64 { return w.V[c.NodeIndex(a)] - w.V[c.NodeIndex(b)] }
	good := solve(m, "crank")
	amps, speed, atMotor := good.Motor.I, good.Motor.W, v(good, "sol_m", "case")

	w := solve(m, "crank", "motor.brushes_worn=open")
	assert.Greater(t, v(w, "sol_m", "case"), 11.5)
	assert.Less(t, w.I[c.StationIndex("pos_cable")], 0.01)

	w = solve(m, "crank", "motor.bearing_drag=x10")
	assert.Greater(t, w.Motor.I, 1.2*amps)
	assert.Less(t, w.Motor.W, 0.9*speed)

	w = solve(m, "crank", "motor.shorted_turns=0.6")
	assert.Greater(t, w.Motor.I, 1.3*amps)

	w = solve(m, "crank", "drive.jammed")
	assert.Zero(t, w.Motor.W)
	assert.Greater(t, w.Motor.I, 2*amps, "a stalled starter draws several times its current")
	assert.Less(t, v(w, "bat_pos", "bat_neg"), 10.5, "and pulls the battery down")

	w = solve(m, "bench", "drive.jammed")
	assert.Greater(t, w.Motor.W, speed, "on the bench the jam is left behind")
	w = solve(m, "bench", "motor.seized")
	assert.Zero(t, w.Motor.W)

	w = solve(m, "crank", "gnd_cable.high_resistance=0.02ohm")
	assert.Greater(t, v(w, "block", "gnd_cable_end"), 1.0)
	assert.Less(t, v(w, "sol_m", "case"), atMotor-1)
	assert.Less(t, w.Motor.I, amps)

	w = solve(m, "rest", "battery.dead_cell")
	assert.InDelta(t, 12.6-2.1, v(w, "bat_pos", "bat_neg"), 0.05, "a cell missing costs about 2.1 V")

	w = solve(m, "crank", "drive.slipping")
	assert.Greater(t, w.Motor.W, 1.2*speed)
	assert.Less(t, w.Motor.I, 0.5*amps)

	w = solve(m, "rest", "main_contact.welded")
	assert.Greater(t, w.Motor.W, 0.8*speed, "a welded contact keeps it turning with the key off")
	assert.InDelta(t, 0, solve(m, "rest").Motor.W, 1e-3)

	w = solve(m, "crank", "coil.sticking")
	assert.Greater(t, v(w, "sol_s", "case"), 11.0, "fed, and does not pull")
	assert.False(t, w.Closed[c.StationIndex("main_contact")])

	w = solve(m, "crank", "motor.winding_grounded=0.03ohm")
	assert.Greater(t, w.I[c.StationIndex("pos_cable")], 1.5*amps)

	w = solve(m, "crank", "interlock.stuck_open")
	assert.InDelta(t, 0, v(w, "ilk_out", "case"), 1e-3)
	assert.Greater(t, v(w, "ign_out", "bat_neg"), 12.0)
}

// Worse is never better: more severity never makes the starter turn faster.
func TestMoreSeverityNeverHelps(t *testing.T) {
	m := model(t)
	for _, f := range m.Faults() {
		sc := m.ScaleOf(f)
		// A worse control wire spares the battery some of the coil's current,
		// and fewer turns run faster until the drag wins.
		if sc == nil || f.Station == "coil" || f.Mode == "shorted_turns" || m.Net.C.Station(f.Station).Side == "control" {
			continue
		}
		last := math.Inf(1)
		for k := 0; k <= 8; k++ {
			x := float64(k) / 8
			sev := sc.Lo + (sc.Hi-sc.Lo)*x
			if sc.Log {
				sev = sc.Lo * math.Pow(sc.Hi/sc.Lo, x)
			}
			if sc.Unit == "share" || sc.Unit == "V" || strings.HasSuffix(sc.Key, "shunt") {
				sev = sc.Lo + sc.Hi - sev // less is worse
				if strings.HasSuffix(sc.Key, "shunt") {
					sev = sc.Hi * math.Pow(sc.Lo/sc.Hi, x)
				}
			}
			h, th := m.Net.SoundAll(), m.Net.Nominal()
			m.Apply(h, th, f, sev)
			w := m.Net.NewWork()
			w.Solve(m.Net.StatePos("crank"), th, h)
			speed := w.Motor.W
			if w.Chatter {
				speed = 0
			}
			assert.LessOrEqual(t, speed, last+1e-6, "%s at %s", f, sc.FormatSeverity(sev))
			last = speed
		}
	}
}

func TestAStarterThatCannotRunIsRefused(t *testing.T) {
	f, err := circuit.Family("starter")
	require.NoError(t, err)
	c := f.Clone()
	require.NoError(t, c.SetParam("battery", "resistance", circuit.Param{Value: 5}))
	n, err := circuit.Compile(c)
	require.NoError(t, err)
	_, err = NewModel(n)
	require.ErrorContains(t, err, "does not turn its motor")
	require.ErrorContains(t, err, "stops it (the family ships with")
}

func TestEveryModeHasWords(t *testing.T) {
	for _, k := range []circuit.Kind{circuit.Source, circuit.Joint, circuit.Wire, circuit.Fuse, circuit.Contact,
		circuit.Coil, circuit.Motor, circuit.Drive} {
		for _, m := range circuit.KindModes(k) {
			assert.Contains(t, modeLabels, m)
			assert.NotContains(t, Label(m), "_")
		}
	}
}
