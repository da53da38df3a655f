package circuit_test

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
	"corriente/core/fault"
)

// rig is a family that can be put into states with faults and probed.
type rig struct {
	t testing.TB
	n *circuit.Network
	m *fault.Model
	w *circuit.Work
	h []circuit.Health
	p []float64
}

func newRig(t testing.TB, id string, faults ...string) *rig {
	n, m := load(t, id)
	r := &rig{t, n, m, n.NewWork(), n.SoundAll(), n.Nominal()}
	for _, f := range faults {
		x, sev, _, err := m.Parse(f)
		require.NoError(t, err)
		m.Apply(r.h, r.p, x, sev)
	}
	return r
}

func (r *rig) in(state string) *rig {
	require.GreaterOrEqual(r.t, r.n.StatePos(state), 0, state)
	r.w.Solve(r.n.StatePos(state), r.p, r.h)
	return r
}

func (r *rig) volts(a, b string) float64 {
	return r.w.V[r.n.C.NodeIndex(a)] - r.w.V[r.n.C.NodeIndex(b)]
}

func (r *rig) amps(station string) float64 { return r.w.I[r.n.C.StationIndex(station)] }

func (r *rig) ohms(a, b string) (float64, bool) {
	r.w.PrepareOhms(r.n.StatePos("isolated"), r.p, r.h)
	return r.w.Ohms(r.n.C.NodeIndex(a), r.n.C.NodeIndex(b))
}

// Every family's good machine, as a technician would find it (common practice):
// it runs in every state in which it is asked to, and no part loses more than the
// trade allows.
func TestGoodMachinesAreWhatATechnicianExpects(t *testing.T) {
	amps := map[string][2]float64{ // normal running current
		"starter": {80, 220}, "contactor_motor": {80, 220}, "blower_module": {10, 25}, "blower_resistor": {8, 20}, "wiper": {2, 6},
		"two_wire_motor": {6, 18}, "window": {4, 12}, "traction": {8, 40}, "actuator": {0.2, 2},
	}
	for id, want := range amps {
		r := newRig(t, id)
		for i := range r.n.C.States {
			st := &r.n.C.States[i]
			if !st.Commands {
				continue
			}
			r.in(st.ID)
			assert.Greater(t, r.w.Motor.W, 10.0, "%s %s", id, st.ID)
			for k := range r.n.C.Stations {
				s := &r.n.C.Stations[k]
				if s.AllowedDrop > 0 && s.Kind != circuit.Driver && r.n.Present(i, k) {
					a, b := r.n.Ends(i, k)
					assert.LessOrEqual(t, math.Abs(r.w.V[a]-r.w.V[b]), s.AllowedDrop, "%s %s: %s", id, st.ID, s.ID)
				}
			}
		}
		r.in(r.n.C.RunState)
		i := math.Abs(r.w.Motor.I)
		assert.True(t, i > want[0] && i < want[1], "%s: %g A", id, i)
	}
}

func TestTwoFusesInParallel(t *testing.T) {
	r := newRig(t, "blower_module").in("speed_high")
	assert.InDelta(t, r.amps("fuse_a"), r.amps("fuse_b"), 1e-6)
	both := r.amps("fuse_a") + r.amps("fuse_b")
	one := newRig(t, "blower_module", "fuse_a.open").in("speed_high")
	assert.InEpsilon(t, both, one.amps("fuse_b"), 0.01, "one open fuse moves volts by millivolts")
	ohm, ok := one.ohms("fuse_in", "fuse_out")
	assert.True(t, ok, "between the nodes the other still stands")
	assert.InDelta(t, 0.0033, ohm, 1e-6)
	one.w.PrepareOhms(one.n.StatePos("isolated"), one.p, one.h)
	_, ok = one.w.OhmsThrough(one.n.C.StationIndex("fuse_a"))
	assert.False(t, ok, "pulled, it shows")
}

func TestTheResistorPackFailsByTaps(t *testing.T) {
	for _, f := range []string{"resistor_pack.open", "resistor_pack.tap_2_open"} {
		for _, s := range []string{"speed_1", "speed_2", "speed_3", "speed_4"} {
			r := newRig(t, "blower_resistor", f).in(s)
			dead := s != "speed_4" && (f == "resistor_pack.open" || s == "speed_2")
			assert.Equal(t, dead, r.w.Motor.W < 1, "%s in %s", f, s)
		}
	}
	last := 0.0
	for _, s := range []string{"speed_1", "speed_2", "speed_3", "speed_4"} {
		w := newRig(t, "blower_resistor").in(s).w.Motor.W
		assert.Greater(t, w, last*1.1, s)
		last = w
	}
}

func TestTheModuleObeysItsCommand(t *testing.T) {
	low, high := newRig(t, "blower_module").in("speed_low").w.Motor.W, newRig(t, "blower_module").in("speed_high").w.Motor.W
	assert.Less(t, low, 0.7*high)
	assert.Less(t, newRig(t, "blower_module", "command.no_command").in("speed_high").w.Motor.W, 1.0)
	assert.InEpsilon(t, high, newRig(t, "blower_module", "module.stuck_on").in("speed_low").w.Motor.W, 0.01)
	assert.InDelta(t, 4.5, newRig(t, "blower_module").in("speed_high").volts("module_cmd", "module_gnd"), 0.01)
	assert.InDelta(t, 0, newRig(t, "blower_module").in("rest").volts("module_cmd", "module_gnd"), 1e-6)
}

func TestLampsInPlaceOfMotorAndFuse(t *testing.T) {
	r := newRig(t, "blower_module").in("lamp_load")
	assert.InDelta(t, 4.7, r.volts("plug_plus", "motor_minus")/2.6, 0.3, "a 55 W bulb draws about 4.6 A at 12 V")
	share := func(faults ...string) float64 {
		v := newRig(t, "two_wire_motor", faults...).in("fuse_lamp").volts("fuse_in", "fuse_out")
		return v * v / 144
	}
	assert.Greater(t, share("supply_wire.short_to_ground=0.05ohm"), 0.8, "a short behind it: bright")
	assert.Greater(t, share("motor.seized"), 0.5, "a held motor: bright")
	assert.Less(t, share("relay.stuck_open"), 0.01, "an open path: dark")
	good := share()
	assert.True(t, good > 0.05 && good < 0.6, "a good motor runs on it, slowly: %g", good)
}

func TestTheRelayBridged(t *testing.T) {
	for _, f := range []string{"relay.stuck_open", "relay_coil.open", "trigger_fuse.open", "trigger_switch.stuck_open"} {
		assert.Less(t, newRig(t, "two_wire_motor", f).in("run").w.Motor.W, 1.0, f)
		assert.Greater(t, newRig(t, "two_wire_motor", f).in("relay_bridged").w.Motor.W, 100.0, f)
	}
	assert.Less(t, newRig(t, "two_wire_motor", "ground_wire.open").in("relay_bridged").w.Motor.W, 1.0)
}

func TestTheWindowRunsBothWays(t *testing.T) {
	r := newRig(t, "window")
	up := r.in("up").amps("motor")
	down := r.in("down").amps("motor")
	assert.Greater(t, up, 1.0)
	assert.Less(t, down, -1.0, "the current turns round")
	assert.Less(t, math.Abs(down), up, "weight helps downward")
	for _, n := range []string{"motor_a", "motor_b"} {
		assert.InDelta(t, 0, r.in("rest").volts(n, "bat_neg"), 1e-3, "at rest both sides lie on ground")
	}
	ohm, ok := r.ohms("motor_a", "motor_b")
	require.True(t, ok)
	assert.InEpsilon(t, 0.52, ohm, 1e-6, "cut-out and motor; the harness is unplugged and no way round")
	open := newRig(t, "window", "thermal_cutout.stuck_open")
	_, ok = open.ohms("motor_a", "motor_b")
	assert.False(t, ok)
}

func TestTheWiper(t *testing.T) {
	r := newRig(t, "wiper")
	slow := r.in("low").w.Motor.W
	assert.Greater(t, r.in("high").w.Motor.W, 1.2*slow)
	assert.Greater(t, r.in("off_midstroke").w.Motor.W, 100.0, "it runs home")
	assert.Less(t, r.in("rest").w.Motor.W, 1.0)
	low := newRig(t, "wiper", "motor.low_brush_worn=open")
	assert.Less(t, low.in("low").w.Motor.W, 1.0)
	assert.Greater(t, low.in("high").w.Motor.W, 100.0)
	_, ok := low.ohms("low_brush", "motor_gnd")
	assert.False(t, ok)
	ohm, ok := low.ohms("high_brush", "motor_gnd")
	assert.True(t, ok)
	assert.InEpsilon(t, 0.5, ohm, 1e-6)
	for _, f := range []string{"park_wire.open", "park_switch.stuck_open"} {
		x := newRig(t, "wiper", f)
		assert.Less(t, x.in("off_midstroke").w.Motor.W, 1.0, f)
		assert.Greater(t, x.in("low").w.Motor.W, 100.0, f)
	}
	assert.Greater(t, newRig(t, "wiper", "park_switch.welded").in("rest").w.Motor.W, 100.0, "it never stops")
}

func TestTheControllerWithholds(t *testing.T) {
	r := newRig(t, "traction").in("drive")
	assert.Greater(t, r.w.Motor.W, 100.0)
	assert.InDelta(t, 25, r.volts("brake_a", "brake_b"), 1.5, "the brake is lifted")
	k := r.n.C.StationIndex("controller")
	for f, code := range map[string]bool{"brake_coil.open": true, "motor.winding_open": true,
		"motor.brushes_worn=30ohm": true, "throttle.out_of_neutral": true,
		"interlock.stuck_open": true, "key_switch.stuck_open": false} {
		x := newRig(t, "traction", f).in("drive")
		withheld, flashes := x.w.Guarded(k)
		assert.True(t, withheld, f)
		assert.Equal(t, code, flashes, f)
		assert.InDelta(t, 0, x.amps("controller"), 1e-6, "%s: no output", f)
		assert.InDelta(t, 0, x.amps("brake_coil"), 1e-6, "%s: nor the brake's", f)
	}
	held := newRig(t, "traction", "brake_coil.sticking").in("drive")
	assert.Less(t, held.w.Motor.W, 0.01, "a brake that stays on holds the drive")
	assert.Greater(t, held.w.Motor.I, 100.0, "and the motor stalls against it")
	un := newRig(t, "traction").in("motor_unplugged")
	withheld, _ := un.w.Guarded(k)
	assert.True(t, withheld)
	assert.InDelta(t, 4.4, r.in("drive").volts("throttle_v", "throttle_gnd"), 0.01)
	assert.InDelta(t, 0.4, r.in("key_on").volts("throttle_v", "throttle_gnd"), 0.01)
	assert.InDelta(t, 0.4, newRig(t, "traction", "throttle.no_command").in("drive").volts("throttle_v",
		"throttle_gnd"), 0.01, "it stays low")
	assert.InDelta(t, 5, r.in("key_on").volts("throttle_supply", "throttle_gnd"), 0.01)
}

func TestTheControlUnitTestsItsActuator(t *testing.T) {
	k := func(r *rig) (bool, bool) { return r.w.Guarded(r.n.C.StationIndex("control_unit")) }
	for _, f := range []string{"motor.winding_open", "harness_a.open", "motor.brushes_worn=80ohm"} {
		x := newRig(t, "actuator", f)
		withheld, code := k(x.in("key_on"))
		assert.True(t, withheld && code, f)
		assert.Less(t, x.in("command").w.Motor.W, 1.0, f)
		withheld, _ = k(x.in("known_good_fitted"))
		assert.Equal(t, strings.HasPrefix(f, "harness"), withheld, "%s: a known good motor clears its own faults only", f)
	}
	withheld, _ := k(newRig(t, "actuator").in("command"))
	assert.False(t, withheld)
}

func TestAFloatChargerHidesAWeakBattery(t *testing.T) {
	r := newRig(t, "contactor_motor", "battery.weak=x8")
	assert.InDelta(t, 12.6, r.in("rest").volts("bat_pos", "bat_neg"), 0.01)
	r.p[r.n.ParamIndex(r.n.C.StationIndex("charger"), "present")] = 1
	assert.InDelta(t, 13.8, r.in("rest").volts("bat_pos", "bat_neg"), 0.1, "held at rest")
	loaded := r.in("run").volts("bat_pos", "bat_neg")
	assert.Less(t, loaded, 9.6, "only a load tells")
	assert.InDelta(t, -6, r.amps("charger"), 0.01, "it gives no more than its limit")
	over := newRig(t, "contactor_motor", "charger.overcharging")
	over.p[over.n.ParamIndex(over.n.C.StationIndex("charger"), "present")] = 1
	assert.Greater(t, over.in("rest").volts("bat_pos", "bat_neg"), 14.8)
}

func TestAPhaseOfTheStatorOpens(t *testing.T) {
	for word, want := range map[string]bool{"wye": false, "delta": true} {
		f, err := circuit.Family("stator")
		require.NoError(t, err)
		c := f.Clone()
		require.NoError(t, c.SetVariant("stator.connection", word))
		n, err := circuit.Compile(c)
		require.NoError(t, err)
		m, err := fault.NewModel(n)
		require.NoError(t, err)
		h, th := n.SoundAll(), n.Nominal()
		m.Apply(h, th, fault.Fault{Station: "phase_1", Mode: "open"}, 0)
		w := n.NewWork()
		w.Solve(n.StatePos("idle_unloaded"), th, h)
		v, ok := w.ACVolts(c.NodeIndex("y1"), c.NodeIndex("y2"))
		assert.Equal(t, want, ok && v > 10, "%s: an open delta still gives its volts unloaded, an open star does not", word)
	}
}

// What a file can get wrong is refused with the place.
func TestNewPartsOfACircuitFileAreChecked(t *testing.T) {
	for what, edit := range map[string]func(c *circuit.Circuit){
		"/stations/3/commanded_by": func(c *circuit.Circuit) { c.Stations[3].CommandedBy = "battery" },
		"/stations/3/returns":      func(c *circuit.Circuit) { c.Stations[3].Returns = "" },
		"/guards/0/station":        func(c *circuit.Circuit) { c.Stations[3].Guards[0].Station = "motor" },
		"/joins/0":                 func(c *circuit.Circuit) { c.Joins[0].Ohms = 0 },
		"/uses/throttle":           func(c *circuit.Circuit) { c.States[1].Uses["throttle"] = "half" },
		"names \"ghost\"":          func(c *circuit.Circuit) { c.States[5].Absent = []string{"ghost"} },
		"/observations/1/of":       func(c *circuit.Circuit) { c.Observations[1].Of = "ghost" },
		"/load_factor":             func(c *circuit.Circuit) { c.States[2].LoadFactor = -1 },
	} {
		f, err := circuit.Family("traction")
		require.NoError(t, err)
		c, err := f.Copy("own", "Own")
		require.NoError(t, err)
		edit(c)
		assert.ErrorContains(t, c.Solvable(), what)
	}
}

func FuzzReadCircuit(f *testing.F) {
	f.Add([]byte(`{"format":"corriente-circuit/1","id":"x","nominal_voltage":12,"nodes":[{"id":"bat_neg","access":"battery"}]}`))
	f.Add([]byte(`{"format":"corriente-circuit/1"}`))
	f.Fuzz(func(t *testing.T, b []byte) {
		c, err := circuit.Read(strings.NewReader(string(b)))
		if err != nil {
			return
		}
		if n, err := circuit.Compile(c); err == nil {
			w := n.NewWork()
			for i := range c.States {
				w.Solve(i, n.Nominal(), n.SoundAll())
				for _, v := range w.V {
					if math.IsNaN(v) {
						t.Fatal("a circuit that was accepted solves to NaN")
					}
				}
			}
		}
	})
}

// A contact of a circuit on alternating current says how it stands as any other does.
func TestContactsOnAlternatingCurrent(t *testing.T) {
	n, m := load(t, "capacitor_fan")
	k := n.C.StationIndex("speed_switch")
	closed := func(state, what string) bool {
		h, w := n.SoundAll(), n.NewWork()
		if what != "" {
			f, sev, _, err := m.Parse(what)
			require.NoError(t, err)
			m.Apply(h, n.Nominal(), f, sev)
		}
		w.Solve(n.StatePos(state), n.Nominal(), h)
		return w.Closed[k]
	}
	assert.True(t, closed("powered_observe", ""), "switched on")
	assert.False(t, closed("powered_observe", "speed_switch.stuck_open"))
	assert.False(t, closed("isolated", ""), "off")
}
