package evaluate

import (
	"math/rand/v2"
	"slices"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/unit"
)

// Policies by which the next reading is chosen. All stop by the same rule: at a
// verdict, or when the adviser finds no reading worth its minutes.
const (
	Adviser  = "adviser"
	Textbook = "textbook"
	Random   = "random"
)

// Policies lists them.
func Policies() []string { return []string{Adviser, Textbook, Random} }

// TextbookOrder is the fixed order a textbook gives, the same rule for every
// family: look and listen while it is asked to work; the battery at rest and
// under load; volts across the motor under load; then along the supply side from
// the battery to the motor, along the ground side back, along the control path;
// the current; what must be opened for looking; ohms part by part; last the motor
// fed direct and on the bench (common practice; written before any tuning).
func TextbookOrder(a *diagnose.Adviser) []casefile.Evidence {
	c := a.C
	key := func(e *casefile.Evidence) int {
		st := c.State(e.State)
		run := e.State == c.RunState
		asked := st.Commands
		rank := 0
		switch {
		case e.Observe != "" && run && c.Observation(e.Observe).Access == "":
			rank = 0
		case e.Observe != "" && asked && c.Observation(e.Observe).Access == "":
			rank = 100
		case e.Measure == unit.Voltage && e.State == "rest" && e.From == "bat_pos" && e.To == circuit.Ground:
			rank = 200
		case e.Measure == unit.Voltage && run && e.From == "bat_pos" && e.To == circuit.Ground:
			rank = 210
		case e.Measure == unit.Voltage && run && motorVolts(c, e):
			rank = 220
		case e.Measure == unit.Voltage && asked && e.To == circuit.Ground:
			rank = 300 + pathRank(c, e)
			if !run {
				rank += 150
			}
		case e.Measure == unit.Voltage && asked:
			rank = 600 + pathRank(c, e)
			if !run {
				rank += 150
			}
		case e.Measure == unit.Current && run:
			rank = 250
		case e.Measure == unit.Current && asked:
			rank = 590
		case e.Measure == unit.Voltage && st.Supply == "running", e.Measure == unit.ACVoltage:
			rank = 310
		case e.Observe != "" && st.Supply != "feed":
			rank = 900
		case e.Measure == unit.Resistance, e.Measure == unit.Capacitance:
			rank = 1000 + pathRank(c, e)
		case st.Supply == "battery":
			rank = 1300
		case e.State == "direct_feed":
			rank = 1500
		default:
			rank = 1600
		}
		return rank
	}
	list := a.Candidates()
	slices.SortStableFunc(list, func(x, y casefile.Evidence) int { return key(&x) - key(&y) })
	return list
}

// motorVolts reports whether a reading lies across the motor's own terminals.
func motorVolts(c *circuit.Circuit, e *casefile.Evidence) bool {
	for i := range c.States {
		if f := c.States[i].Feed; f != nil {
			return e.From == f.Plus && e.To == f.Minus
		}
	}
	return false
}

// pathRank is how far along its path a reading lies.
func pathRank(c *circuit.Circuit, e *casefile.Evidence) int {
	for i := range c.Paths {
		nodes, _, ok := c.Walk(&c.Paths[i], e.State)
		if !ok || !c.Paths[i].In(e.State) {
			continue
		}
		if k := slices.Index(nodes, e.From); k >= 0 {
			return min(30*i+k, 140)
		}
	}
	return 145
}

// chooser picks the next reading of a machine.
type chooser struct {
	policy string
	order  []casefile.Evidence
	at     int
	rng    *rand.Rand
}

func newChooser(policy string, a *diagnose.Adviser, rng *rand.Rand) *chooser {
	c := &chooser{policy: policy, rng: rng}
	switch policy {
	case Textbook:
		c.order = TextbookOrder(a)
	case Random:
		c.order = a.Candidates()
		rng.Shuffle(len(c.order), func(i, j int) { c.order[i], c.order[j] = c.order[j], c.order[i] })
	}
	return c
}

func (c *chooser) next(op *diagnose.Opinion, taken []casefile.Evidence) (casefile.Evidence, bool) {
	if len(op.Next) == 0 {
		return casefile.Evidence{}, false
	}
	if c.policy == Adviser || c.policy == "" {
		n := op.Next[0]
		return casefile.Evidence{Measure: unit.Measure(n.Measure), Observe: n.Observe, State: n.State, From: n.From, To: n.To, Through: n.Through}, true
	}
	for c.at < len(c.order) {
		e := c.order[c.at]
		c.at++
		if !slices.ContainsFunc(taken, func(t casefile.Evidence) bool {
			return t.Measure == e.Measure && t.Observe == e.Observe && t.State == e.State && t.From == e.From && t.To == e.To && t.Through == e.Through
		}) {
			return e, true
		}
	}
	return casefile.Evidence{}, false
}
