package field

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/unit"
)

// families are those that have a brushed motor on direct current.
func families() []string {
	var out []string
	for _, id := range circuit.Families() {
		if c, err := circuit.Family(id); err == nil && !c.Mains && id != "stator" {
			out = append(out, id)
		}
	}
	return out
}

// Without anything that varies, a sound machine does what the family's own model says,
// roughly: the equations differ, the machine does not.
func TestASoundMachineIsTheFamilys(t *testing.T) {
	for _, id := range families() {
		c, err := circuit.Family(id)
		require.NoError(t, err)
		net, err := circuit.Compile(c)
		require.NoError(t, err)
		m := build(c, Settings{Guard: -1}, rand.New(rand.NewPCG(1, 1)))
		m.soc, m.surface, m.rest, m.polar, m.guardBy, m.stick, m.twoCoils = 0.9, 0, 1, 0, 1, 1, false
		require.True(t, m.runs(), id)
		m.pinned = true
		w := net.NewWork()
		for i := range c.States {
			st := &c.States[i]
			if st.Supply == "none" {
				continue
			}
			w.Solve(i, net.Nominal(), net.SoundAll())
			p := m.point(st)
			for n := range c.Nodes {
				if w.Held[n] && !c.Nodes[n].Hidden {
					assert.InDelta(t, w.V[n], p.v[n], 0.06*c.NominalVoltage, "%s %s at %s", id, st.ID, c.Nodes[n].ID)
				}
			}
			if w.Motor.W > 0.05*m.rated() && len(st.Aids) == 0 { // a filament is not what a fixed lamp is
				assert.InEpsilon(t, w.Motor.W, p.speed, 0.12, "%s %s turns", id, st.ID)
			}
		}
	}
}

func TestGaussSolves(t *testing.T) {
	x := gauss([][]float64{{0, 2, 1}, {1, -1, 0}, {3, 0, -1}}, []float64{5, -1, 0})
	assert.InDeltaSlice(t, []float64{0.6, 1.6, 1.8}, x, 1e-9)
}

// A worn contact is another one at each closing, and a burnt one's volts differ by more
// than any meter's limit: that is what these machines are for.
func TestABurntContactDiffersFromClosingToClosing(t *testing.T) {
	c, err := circuit.Family("starter")
	require.NoError(t, err)
	m, err := Draw(c, Tuning(), 0, rand.New(rand.NewPCG(4, 2)))
	require.NoError(t, err)
	m.Faults = []Fault{{Station: "main_contact", Mode: "high_resistance", Severity: 0.02}}
	lo, hi := math.Inf(1), math.Inf(-1)
	for range 12 {
		e := casefile.Evidence{Measure: unit.Voltage, State: "crank", From: "sol_b", To: "sol_m"}
		require.NoError(t, m.Measure(&e))
		r, err := unit.Parse(e.Value, unit.Voltage)
		require.NoError(t, err)
		lo, hi = math.Min(lo, r.Value), math.Max(hi, r.Value)
	}
	assert.Greater(t, lo, 0.3)
	assert.Greater(t, hi/lo, 1.2)
}

func hidden(c *circuit.Circuit, node string) bool { return c.Node(node).Hidden }

// Every machine that is drawn can be asked everything, and answers what the application
// takes.
func TestMachinesAnswerWhatCanBeAsked(t *testing.T) {
	for _, id := range families() {
		c, err := circuit.Family(id)
		require.NoError(t, err)
		for seed := range uint64(12) {
			rng := rand.New(rand.NewPCG(7, seed))
			m, err := Draw(c, Reporting(), int(seed%3), rng)
			require.NoError(t, err)
			assert.GreaterOrEqual(t, len(m.Faults), int(seed%3), id)
			for i := range c.States {
				st := &c.States[i]
				if st.Hidden {
					continue
				}
				for _, s := range c.Stations {
					if s.From == "" || hidden(c, s.From) || hidden(c, s.To) {
						continue
					}
					e := casefile.Evidence{Measure: unit.Voltage, State: st.ID, From: s.From, To: s.To}
					if st.Supply == "none" {
						e.Measure = unit.Resistance
					}
					if !st.CanRead(string(e.Measure)) {
						continue
					}
					require.NoError(t, m.Measure(&e), "%s %s %s", id, st.ID, s.ID)
					if p := e.Check(c, nil); p != nil {
						t.Fatalf("%s, %s across %s shows %q: %v", id, st.ID, s.ID, e.Value, p)
					}
				}
			}
			for _, o := range c.Observations {
				for _, st := range o.States {
					e := casefile.Evidence{Observe: o.ID, State: st, Outcome: m.Answer(o.ID, st, "")}
					if p := e.Check(c, nil); p != nil {
						t.Errorf("%s: %v", id, p)
					}
				}
			}
		}
	}
}
