package circuit_test

import (
	"bufio"
	"bytes"
	"context"
	"fmt"
	"math"
	"math/cmplx"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
	"corriente/core/fault"
)

func load(t testing.TB, id string) (*circuit.Network, *fault.Model) {
	t.Helper()
	c, err := circuit.Family(id)
	require.NoError(t, err)
	n, err := circuit.Compile(c)
	require.NoError(t, err)
	m, err := fault.NewModel(n)
	require.NoError(t, err)
	return n, m
}

// A good starter, against the trade's figures (common practice): above 9.6 V at
// the posts while cranking, at most 0.5 V lost on the supply side and 0.3 V on
// the ground side, 100 to 200 A for a small engine.
func TestGoodStarterIsWhatATechnicianExpects(t *testing.T) {
	n, _ := load(t, "starter")
	w := n.NewWork()
	w.Solve(n.StatePos("crank"), n.Nominal(), n.SoundAll())
	v := func(id string) float64 { return w.V[n.C.NodeIndex(id)] }
	assert.Greater(t, v("bat_pos"), 10.5)
	assert.Less(t, v("bat_pos")-v("sol_m"), 0.5)
	assert.Less(t, v("case"), 0.3)
	assert.InDelta(t, 150, w.I[n.C.StationIndex("pos_cable")], 50)
	assert.False(t, w.Motor.Stalled)
	assert.InDelta(t, 3000, w.MotorSpeedRPM(), 1000)
	assert.True(t, w.Closed[n.C.StationIndex("main_contact")])
	for k := range n.C.Stations {
		if s := &n.C.Stations[k]; s.AllowedDrop > 0 && s.Side != "" {
			drop := math.Abs(w.V[n.C.NodeIndex(s.From)] - w.V[n.C.NodeIndex(s.To)])
			assert.Less(t, drop, s.AllowedDrop, "a good %s must keep within its own limit", s.ID)
		}
	}
}

func TestOpenGroundLiftsTheCaseThroughTheCoil(t *testing.T) {
	n, m := load(t, "starter")
	w, h, th := n.NewWork(), n.SoundAll(), n.Nominal()
	m.Apply(h, th, fault.Fault{Station: "gnd_cable", Mode: "open"}, 0)
	w.Solve(n.StatePos("crank"), th, h)
	assert.Greater(t, w.V[n.C.NodeIndex("case")], 11.5)
	assert.True(t, w.Held[n.C.NodeIndex("case")])
	assert.Less(t, w.Motor.W, 0.01)
}

func TestNullNodes(t *testing.T) {
	n, m := load(t, "starter")
	w, h, th := n.NewWork(), n.SoundAll(), n.Nominal()
	m.Apply(h, th, fault.Fault{Station: "start_fuse", Mode: "open"}, 0)
	w.Solve(n.StatePos("rest"), th, h)
	assert.False(t, w.Held[n.C.NodeIndex("fuse_out")], "between an open fuse and an open switch nothing holds the node")
	assert.True(t, w.Held[n.C.NodeIndex("ign_out")], "the coil holds it at ground")
	assert.InDelta(t, 0, w.V[n.C.NodeIndex("ign_out")], 1e-6)
}

func TestVeryWeakBatteryChatters(t *testing.T) {
	n, m := load(t, "starter")
	w, h, th := n.NewWork(), n.SoundAll(), n.Nominal()
	m.Apply(h, th, fault.Fault{Station: "battery", Mode: "weak"}, 40)
	w.Solve(n.StatePos("crank"), th, h)
	assert.True(t, w.Chatter, "a coil that pulls in alone and lets go under the motor's current chatters (common practice)")
}

// Kirchhoff's current law at every node but the posts, in every state and fault.
func TestCurrentsSumToZero(t *testing.T) {
	for _, id := range []string{"starter", "contactor_motor", "blower_resistor", "wiper", "two_wire_motor", "window"} {
		currentsSumToZero(t, id)
	}
}

func currentsSumToZero(t *testing.T, id string) {
	n, m := load(t, id)
	forEachCase(t, n, m, func(name string, state int, th []float64, h []circuit.Health) {
		for k := range h {
			if h[k].Shunt > 0 {
				return // its current leaves through no station
			}
		}
		if n.C.States[state].Supply != "battery" || len(n.C.States[state].Aids) > 0 {
			return // the current of an aid leaves through no station
		}
		w := n.NewWork()
		w.Solve(state, th, h)
		sum := make([]float64, len(n.C.Nodes))
		for k := range n.C.Stations {
			if s := &n.C.Stations[k]; s.From != "" {
				a, b := n.Ends(state, k)
				sum[a] -= w.I[k]
				sum[b] += w.I[k]
			}
		}
		for i, x := range sum {
			require.InDelta(t, 0, x, 1e-6, "%s: node %s", name, n.C.Nodes[i].ID)
		}
	})
}

func forEachCase(t testing.TB, n *circuit.Network, m *fault.Model, f func(name string, state int, th []float64, h []circuit.Health)) {
	t.Helper()
	th := n.Nominal()
	for st := range n.C.States {
		id := n.C.States[st].ID
		if sup := n.C.States[st].Supply; (sup == "running" || sup == "mains") != (n.MotorStation() < 0) {
			continue
		}
		f(id+" good", st, th, n.SoundAll())
		for _, ft := range m.Faults() {
			sevs := []float64{0}
			if sc := m.ScaleOf(ft); sc != nil {
				sevs = []float64{sc.Lo, sc.Middle, sc.Hi}
			}
			for _, s := range sevs {
				h := n.SoundAll()
				m.Apply(h, th, ft, s)
				f(fmt.Sprintf("%s %s=%g", id, ft, s), st, th, h)
			}
		}
	}
}

// Every state and every fault of every family, against ngspice solving the
// netlist that the product prints: 5 mV or 0.1 %.
func TestAgainstNgspice(t *testing.T) {
	bin, err := exec.LookPath("ngspice")
	if err != nil {
		t.Fatal("ngspice is missing: run make setup, which installs Debian's package")
	}
	for _, id := range circuit.Families() {
		t.Run(id, func(t *testing.T) {
			n, m := load(t, id)
			if n.MotorStation() < 0 {
				t.Skip("alternating current: see TestRunningStatesAgainstNgspice")
			}
			type want struct {
				name string
				v    map[string]float64
				rads float64
			}
			var wants []want
			dir := t.TempDir()
			var script bytes.Buffer
			forEachCase(t, n, m, func(name string, state int, th []float64, h []circuit.Health) {
				w := n.NewWork()
				w.Solve(state, th, h)
				x := want{name, map[string]float64{}, w.Motor.W}
				for i, nd := range n.C.Nodes {
					if w.Held[i] {
						x.v[nd.ID] = w.V[i]
					}
				}
				var net bytes.Buffer
				require.NoError(t, w.WriteNetlist(&net, name))
				// One process for all: strip each file's own control block and source them in turn.
				body, _, _ := strings.Cut(net.String(), ".control")
				file := filepath.Join(dir, fmt.Sprintf("c%04d.cir", len(wants)))
				require.NoError(t, os.WriteFile(file, []byte(body+".end\n"), 0o600))
				fmt.Fprintf(&script, "source %s\nop\necho case %d\nprint all\nremcirc\n", file, len(wants))
				wants = append(wants, x)
			})
			run := filepath.Join(dir, "run.cir")
			require.NoError(t, os.WriteFile(run,
				[]byte("* all cases\n.control\nset numdgt=9\n"+script.String()+"quit\n.endc\n.end\n"), 0o600))
			ctx, cancel := context.WithTimeout(context.Background(), 3*time.Minute)
			defer cancel()
			out, _ := exec.CommandContext(ctx, bin, "-b", run).Output()
			got := make([]map[string]float64, len(wants))
			cur := -1
			sc := bufio.NewScanner(bytes.NewReader(out))
			for sc.Scan() {
				f := strings.Fields(sc.Text())
				if len(f) == 2 && f[0] == "case" {
					cur, _ = strconv.Atoi(f[1])
					got[cur] = map[string]float64{}
				} else if len(f) == 3 && f[1] == "=" && cur >= 0 {
					if v, err := strconv.ParseFloat(f[2], 64); err == nil {
						got[cur][f[0]] = v
					}
				}
			}
			compared := 0
			for i, x := range wants {
				require.NotNil(t, got[i], "ngspice did not solve %s", x.name)
				for node, v := range x.v {
					if node == circuit.Ground {
						continue
					}
					g, ok := got[i][node]
					require.True(t, ok, "%s: ngspice printed no %s", x.name, node)
					assert.InDelta(t, g, v, math.Max(0.005, 0.001*math.Abs(g)), "%s: %s", x.name, node)
					compared++
				}
				if s, ok := got[i]["motor_speed"]; ok {
					assert.InDelta(t, math.Max(s, 0), x.rads, 0.5+0.001*math.Abs(s), "%s: speed", x.name)
				}
			}
			require.Greater(t, compared, 500)
			t.Logf("%d operating points, %d node voltages agree with ngspice", len(wants), compared)
		})
	}
}

// The analytic derivatives, against central finite differences, for every
// parameter in every powered state, good and with a few faults.
func TestSensitivitiesAgainstFiniteDifferences(t *testing.T) {
	for id, faults := range map[string][]fault.Fault{
		"starter": {{}, {Station: "main_contact", Mode: "high_resistance"}, {Station: "battery", Mode: "weak"},
			{Station: "motor", Mode: "seized"}, {Station: "gnd_cable", Mode: "open"}, {Station: "motor", Mode: "winding_grounded"}},
		"blower_module":   {{}, {Station: "motor_connector", Mode: "high_resistance"}, {Station: "module", Mode: "stuck_on"}},
		"blower_resistor": {{}, {Station: "resistor_pack", Mode: "open"}, {Station: "motor", Mode: "winding_grounded"}},
		"wiper":           {{}, {Station: "motor", Mode: "high_brush_worn"}},
		"window":          {{}, {Station: "jamb_wire_a", Mode: "high_resistance"}, {Station: "drive", Mode: "binding"}},
		"two_wire_motor":  {{}, {Station: "relay", Mode: "high_resistance"}},
		"traction":        {{}, {Station: "motor", Mode: "brushes_worn"}},
		"contactor_motor": {{}},
		"actuator":        {{}},
	} {
		sensitivities(t, id, faults)
	}
}

func sensitivities(t *testing.T, id string, faults []fault.Fault) {
	n, m := load(t, id)
	for _, ft := range faults {
		for st := range n.C.States {
			if !n.C.States[st].Powered() {
				continue
			}
			th := n.Nominal()
			h := n.SoundAll()
			if ft.Mode != "" {
				sev := 0.0
				if sc := m.ScaleOf(ft); sc != nil {
					sev = sc.Middle
				}
				m.Apply(h, th, ft, sev)
			}
			w, w2 := n.NewWork(), n.NewWork()
			w.Solve(st, th, h)
			w.Linearize()
			dv := make([]float64, len(n.C.Nodes))
			for p, pr := range n.Params {
				if pr.Name == "rated_speed" || pr.Name == "surface_charge" || pr.Name == "supply" || pr.Name == "present" {
					continue
				}
				w.DV(dv, p)
				// The brush knee is held constant: below it, it moves millivolts.
				knee := 0.0
				if pr.Name == "ke" || pr.Name == "ke_high" || pr.Name == "friction" || pr.Name == "load" {
					knee = 3e-3 / th[p]
				}
				step := math.Max(1e-4*th[p], 1e-9)
				alt := append([]float64(nil), th...)
				alt[p] = th[p] + step
				w2.Solve(st, alt, h)
				up, upI, upW := append([]float64(nil), w2.V...), append([]float64(nil), w2.I...), w2.Motor.W
				alt[p] = th[p] - step
				w2.Solve(st, alt, h)
				for i := range dv {
					if !w.Held[i] {
						continue
					}
					fd := (up[i] - w2.V[i]) / (2 * step)
					require.InDelta(t, fd, dv[i], 2e-3*math.Abs(fd)+knee+1e-4/math.Max(th[p], 1e-3)*0.01,
						"%s %s: dV(%s)/d%s.%s", n.C.States[st].ID, ft, n.C.Nodes[i].ID, n.C.Stations[pr.Station].ID, pr.Name)
				}
				for k := range n.C.Stations {
					if !n.C.Stations[k].Kind.HasNodes() || !n.Present(st, k) {
						continue
					}
					fd := (upI[k] - w2.I[k]) / (2 * step)
					require.InDelta(t, fd, w.DI(k, p, dv), 2e-3*math.Abs(fd)+knee+0.01/math.Max(th[p], 1e-3)*0.01,
						"%s %s: dI(%s)/d%s.%s", n.C.States[st].ID, ft, n.C.Stations[k].ID, n.C.Stations[pr.Station].ID, pr.Name)
				}
				fd := (upW - w2.Motor.W) / (2 * step)
				require.InDelta(t, fd, w.DW(p, dv), 5e-3*math.Abs(fd)+100*knee+0.01/math.Max(th[p], 1e-3),
					"%s %s: dw/d%s.%s", n.C.States[st].ID, ft, n.C.Stations[pr.Station].ID, pr.Name)
			}
		}
	}
}

// Running states, against ngspice's AC analysis of the printed netlist, and the
// star and delta formulas of any text on three-phase circuits.
func TestRunningStatesAgainstNgspice(t *testing.T) {
	bin, err := exec.LookPath("ngspice")
	if err != nil {
		t.Fatal("ngspice is missing: run make setup, which installs Debian's package")
	}
	for _, id := range []string{"stator", "capacitor_fan"} {
		for _, word := range []string{"wye", "delta"} {
			f, err := circuit.Family(id)
			require.NoError(t, err)
			c := f.Clone()
			if id == "stator" {
				require.NoError(t, c.SetVariant("stator.connection", word))
			} else if word == "delta" {
				continue
			}
			n, err := circuit.Compile(c)
			require.NoError(t, err)
			m, err := fault.NewModel(n)
			require.NoError(t, err)
			compared := 0
			forEachCase(t, n, m, func(name string, state int, th []float64, h []circuit.Health) {
				w := n.NewWork()
				w.Solve(state, th, h)
				var net bytes.Buffer
				require.NoError(t, w.WriteNetlist(&net, name))
				ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
				defer cancel()
				cmd := exec.CommandContext(ctx, bin, "-b", "/dev/stdin")
				cmd.Stdin = &net
				out, _ := cmd.Output()
				got := map[string]complex128{}
				for _, line := range strings.Split(string(out), "\n") {
					var node string
					var re, im float64
					if fs := strings.Fields(line); len(fs) == 3 && fs[1] == "=" {
						v, err := strconv.ParseFloat(fs[2], 64)
						if err != nil {
							continue
						}
						node = strings.TrimSuffix(fs[0][3:], ")")
						if re = v; fs[0][:2] == "vi" {
							re, im = 0, v
						}
						got[node] += complex(re, im)
					}
				}
				for i := range n.C.Nodes {
					for k := range i {
						v, ok := w.ACVolts(i, k)
						if !ok {
							continue
						}
						want := cmplx.Abs(got[n.C.Nodes[i].ID] - got[n.C.Nodes[k].ID])
						require.InDelta(t, want, v, 0.005+0.001*want, "%s %s: %s to %s", word, name, n.C.Nodes[i].ID, n.C.Nodes[k].ID)
						compared++
					}
				}
			})
			require.Greater(t, compared, 100)
			t.Logf("%s %s: %d voltages", id, word, compared)
		}
	}
}

// Line to line, a star reads two phases and a delta two thirds of one; open
// circuit, a star gives √3 of a phase's EMF and a delta the EMF itself.
func TestStarAndDelta(t *testing.T) {
	f, err := circuit.Family("stator")
	require.NoError(t, err)
	for word, want := range map[string]struct{ ohms, volts float64 }{"wye": {2 * 0.31, math.Sqrt(3) * 12}, "delta": {0.31 * 2 / 3, 12}} {
		c := f.Clone()
		require.NoError(t, c.SetVariant("stator.connection", word))
		n, err := circuit.Compile(c)
		require.NoError(t, err)
		w, th, h := n.NewWork(), n.Nominal(), n.SoundAll()
		w.PrepareOhms(n.StatePos("isolated"), th, h)
		r, ok := w.Ohms(c.NodeIndex("y1"), c.NodeIndex("y2"))
		require.True(t, ok)
		assert.InEpsilon(t, want.ohms, r, 1e-6, word)
		_, ok = w.Ohms(c.NodeIndex("y1"), c.NodeIndex("engine_ground"))
		assert.False(t, ok, "a good winding has no path to the core")
		w.Solve(n.StatePos("idle_unloaded"), th, h)
		v, ok := w.ACVolts(c.NodeIndex("y1"), c.NodeIndex("y2"))
		require.True(t, ok)
		assert.InEpsilon(t, want.volts, v, 1e-6, word)
	}
	require.Error(t, f.Clone().SetVariant("stator.connection", "zigzag"))
}

// The current of a run capacitor: I = 2 pi f C V; 7.5 uF on 120 V, 60 Hz passes
// 0.339 A (IEC 60252-1).
func TestCapacitorCurrent(t *testing.T) {
	n, _ := load(t, "capacitor_fan")
	w, th := n.NewWork(), n.Nominal()
	k := n.C.StationIndex("start_winding")
	th[n.ParamIndex(k, "resistance")], th[n.ParamIndex(k, "inductance")] = 1e-3, 0
	w.Solve(n.StatePos("powered_observe"), th, n.SoundAll())
	assert.InDelta(t, 0.339, w.WindingAmps(n.C.StationIndex("capacitor")), 0.001)
}

func TestOhms(t *testing.T) {
	n, m := load(t, "starter")
	w, th, h := n.NewWork(), n.Nominal(), n.SoundAll()
	iso := n.StatePos("isolated")
	at := n.C.NodeIndex
	w.PrepareOhms(iso, th, h)
	r, ok := w.Ohms(at("sol_s"), at("case"))
	assert.True(t, ok)
	assert.InEpsilon(t, 0.9, r, 1e-9)
	r, ok = w.Ohms(at("sol_m"), at("case"))
	assert.True(t, ok)
	assert.InEpsilon(t, 0.018, r, 1e-6)
	_, ok = w.Ohms(at("sol_b"), at("sol_m"))
	assert.False(t, ok, "the solenoid's contact rests open")
	assert.InEpsilon(t, 1.0, w.DOhms(at("sol_s"), at("case"), n.ParamIndex(n.C.StationIndex("coil"), "resistance")), 1e-9)

	m.Apply(h, th, fault.Fault{Station: "coil", Mode: "open"}, 0)
	w.PrepareOhms(iso, th, h)
	_, ok = w.Ohms(at("sol_s"), at("case"))
	assert.False(t, ok)
}

func TestBadCircuitsAreRefusedWithThePlace(t *testing.T) {
	good, err := os.ReadFile("families/starter.json")
	require.NoError(t, err)
	cases := map[string][2]string{
		"/nominal_voltage":       {`"nominal_voltage": 12`, `"nominal_voltage": 96`},
		"/stations/2/to":         {`"to": "sol_b"`, `"to": "nowhere"`},
		"is not a circuit file":  {`"nodes"`, `"knots"`},
		"/run_state":             {`"run_state": "crank"`, `"run_state": "fly"`},
		"/stations/0/kind":       {`"kind": "source"`, `"kind": "sauce"`},
		"/states/0/supply":       {`"supply": "battery"`, `"supply": "mains"`},
		"/stations/0/params/emf": {`"value": 12.6`, `"value": -1`},
	}
	for want, edit := range cases {
		t.Run(want, func(t *testing.T) {
			bad := strings.Replace(string(good), edit[0], edit[1], 1)
			require.NotEqual(t, string(good), bad)
			_, err := circuit.Read(strings.NewReader(bad))
			require.ErrorContains(t, err, want)
		})
	}
}

func BenchmarkSolveStarterCrank(b *testing.B) {
	n, m := load(b, "starter")
	w, th, h := n.NewWork(), n.Nominal(), n.SoundAll()
	m.Apply(h, th, fault.Fault{Station: "main_contact", Mode: "high_resistance"}, 0.02)
	st := n.StatePos("crank")
	b.ReportAllocs()
	for b.Loop() {
		w.Solve(st, th, h)
	}
}

func BenchmarkSolveAndLinearize(b *testing.B) {
	n, _ := load(b, "starter")
	w, th, h := n.NewWork(), n.Nominal(), n.SoundAll()
	st := n.StatePos("crank")
	dv := make([]float64, len(n.C.Nodes))
	b.ReportAllocs()
	for b.Loop() {
		w.Solve(st, th, h)
		w.Linearize()
		for p := range n.Params {
			w.DV(dv, p)
		}
	}
}

// One operating point of every family, in its run state, with a fault.
func BenchmarkSolve(b *testing.B) {
	for _, id := range circuit.Families() {
		n, m := load(b, id)
		if n.MotorStation() < 0 {
			continue
		}
		b.Run(id, func(b *testing.B) {
			w, th, h := n.NewWork(), n.Nominal(), n.SoundAll()
			m.Apply(h, th, m.Faults()[0], 0.5)
			st := n.StatePos(n.C.RunState)
			b.ReportAllocs()
			for b.Loop() {
				w.Solve(st, th, h)
			}
		})
	}
}

// The same points of the largest family, solved here and by ngspice in one
// process that is given all of them; both are reported per point.
func BenchmarkAgainstNgspice(b *testing.B) {
	bin, err := exec.LookPath("ngspice")
	if err != nil {
		b.Skip("ngspice is missing")
	}
	n, m := load(b, "traction")
	dir := b.TempDir()
	var script bytes.Buffer
	points := 0
	forEachCase(b, n, m, func(name string, state int, th []float64, h []circuit.Health) {
		w := n.NewWork()
		w.Solve(state, th, h)
		var net bytes.Buffer
		require.NoError(b, w.WriteNetlist(&net, name))
		body, _, _ := strings.Cut(net.String(), ".control")
		file := filepath.Join(dir, fmt.Sprintf("c%04d.cir", points))
		require.NoError(b, os.WriteFile(file, []byte(body+".end\n"), 0o600))
		fmt.Fprintf(&script, "source %s\nop\nremcirc\n", file)
		points++
	})
	run := filepath.Join(dir, "run.cir")
	require.NoError(b, os.WriteFile(run, []byte("* all\n.control\n"+script.String()+"quit\n.endc\n.end\n"), 0o600))
	b.Run("ngspice", func(b *testing.B) {
		for b.Loop() {
			_ = exec.Command(bin, "-b", run).Run()
		}
		b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N*points), "ns/point")
	})
	b.Run("here", func(b *testing.B) {
		w := n.NewWork()
		for b.Loop() {
			forEachCase(b, n, m, func(_ string, state int, th []float64, h []circuit.Health) { w.Solve(state, th, h) })
		}
		b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N*points), "ns/point")
	})
}
