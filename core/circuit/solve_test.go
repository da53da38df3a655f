package circuit_test

import (
	"bufio"
	"bytes"
	"context"
	"fmt"
	"math"
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
	assert.False(t, w.Motor.W > 0)
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
	n, m := load(t, "starter")
	forEachCase(t, n, m, func(name string, state int, th []float64, h []circuit.Health) {
		for k := range h {
			if h[k].Shunt > 0 {
				return // its current leaves through no station
			}
		}
		if n.C.States[state].Supply != "battery" {
			return
		}
		w := n.NewWork()
		w.Solve(state, th, h)
		sum := make([]float64, len(n.C.Nodes))
		for k := range n.C.Stations {
			if s := &n.C.Stations[k]; s.From != "" {
				sum[n.C.NodeIndex(s.From)] -= w.I[k]
				sum[n.C.NodeIndex(s.To)] += w.I[k]
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
			require.NoError(t, os.WriteFile(run, []byte("* all cases\n.control\nset numdgt=9\n"+script.String()+"quit\n.endc\n.end\n"), 0o600))
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
	n, m := load(t, "starter")
	for _, ft := range []fault.Fault{{}, {Station: "main_contact", Mode: "high_resistance"}, {Station: "battery", Mode: "weak"},
		{Station: "motor", Mode: "seized"}, {Station: "gnd_cable", Mode: "open"}, {Station: "motor", Mode: "winding_grounded"}} {
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
				if pr.Name == "rated_speed" || pr.Name == "surface_charge" {
					continue
				}
				w.DV(dv, p)
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
					require.InDelta(t, fd, dv[i], 2e-3*math.Abs(fd)+1e-4/math.Max(th[p], 1e-3)*0.01, "%s %s: dV(%s)/d%s.%s", n.C.States[st].ID, ft, n.C.Nodes[i].ID, n.C.Stations[pr.Station].ID, pr.Name)
				}
				for _, k := range []int{n.C.StationIndex("pos_cable"), n.MotorStation(), n.C.StationIndex("coil")} {
					fd := (upI[k] - w2.I[k]) / (2 * step)
					require.InDelta(t, fd, w.DI(k, p, dv), 2e-3*math.Abs(fd)+0.01/math.Max(th[p], 1e-3)*0.01, "%s %s: dI(%s)/d%s.%s", n.C.States[st].ID, ft, n.C.Stations[k].ID, n.C.Stations[pr.Station].ID, pr.Name)
				}
				fd := (upW - w2.Motor.W) / (2 * step)
				require.InDelta(t, fd, w.DW(p, dv), 2e-3*math.Abs(fd)+0.01/math.Max(th[p], 1e-3), "%s %s: dw/d%s.%s", n.C.States[st].ID, ft, n.C.Stations[pr.Station].ID, pr.Name)
			}
		}
	}
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
