package policy

import (
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
	list := a.Candidates()
	slices.SortStableFunc(list, func(x, y casefile.Evidence) int { return rank(a.C, &x) - rank(a.C, &y) })
	return list
}

// rank is where a reading or a check stands in the textbook's order, the least first.
func rank(c *circuit.Circuit, e *casefile.Evidence) int {
	st := c.State(e.State)
	switch {
	case e.Observe != "":
		return rankCheck(c, e)
	case e.Measure == unit.Voltage && (st.Commands || e.State == "rest" || e.State == c.RunState):
		if r := rankVolts(c, e); r > 0 {
			return r
		}
	case e.Measure == unit.Current && e.State == c.RunState:
		return 250
	case e.Measure == unit.Current && st.Commands:
		return 590
	}
	switch {
	case e.Measure == unit.Voltage && st.Supply == "running", e.Measure == unit.ACVoltage:
		return 310
	case e.Measure == unit.Resistance, e.Measure == unit.Capacitance:
		return 1000 + pathRank(c, e)
	}
	return rankLast(c, e)
}

// rankCheck is [rank] of what is looked at or listened to.
func rankCheck(c *circuit.Circuit, e *casefile.Evidence) int {
	st := c.State(e.State)
	open := c.Observation(e.Observe).Access == ""
	switch {
	case open && e.State == c.RunState:
		return 0
	case open && st.Commands:
		return 100
	case st.Supply != "feed":
		return 900
	}
	return rankLast(c, e)
}

// rankVolts is [rank] of volts on the vehicle's own supply, 0 for those that come later.
func rankVolts(c *circuit.Circuit, e *casefile.Evidence) int {
	run, asked := e.State == c.RunState, c.State(e.State).Commands
	battery := e.From == "bat_pos" && e.To == circuit.Ground
	later := 150
	if run {
		later = 0
	}
	switch {
	case battery && e.State == "rest":
		return 200
	case battery && run:
		return 210
	case run && motorVolts(c, e):
		return 220
	case asked && e.To == circuit.Ground:
		return 300 + pathRank(c, e) + later
	case asked:
		return 600 + pathRank(c, e) + later
	}
	return 0
}

// rankLast is [rank] of what comes last: the motor fed direct, and on the bench.
func rankLast(c *circuit.Circuit, e *casefile.Evidence) int {
	switch {
	case c.State(e.State).Supply == "battery":
		return 1300
	case e.State == "direct_feed":
		return 1500
	}
	return 1600
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
