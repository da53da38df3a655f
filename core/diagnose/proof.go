package diagnose

import (
	"math"
	"slices"
	"sort"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/unit"
)

// Check is a reading or look that would show a repair to be good.
type Check struct {
	Measure string  `json:"measure,omitempty"`
	Observe string  `json:"observe,omitempty"`
	State   string  `json:"state"`
	From    string  `json:"from,omitempty"`
	To      string  `json:"to,omitempty"`
	Through string  `json:"through,omitempty"`
	Why     string  `json:"why"`
	Good    *Range  `json:"good,omitempty"`    // the band for this vehicle, SI
	GoodOL  bool    `json:"good_ol,omitempty"` // good shows OL
	Want    string  `json:"want,omitempty"`    // the word a good one answers
	Before  *int    `json:"before,omitempty"`  // index of the evidence taken before, from 0
	After   *int    `json:"after,omitempty"`   // and of the last taken after the repair
	Passed  *bool   `json:"passed,omitempty"`  // null while it was not taken after
	bits    float64 // how much the one before spoke for the part
}

// mostChecks is how many a proof asks for: enough to show it, few enough to be done.
const mostChecks = 6

// sure is how many standard deviations wide a band is on either side.
const sure = 2.2

// Proof names the few checks that would show the work on a station to be good: those that
// pointed to it before, and what the work could have disturbed: volts across it, at
// the motor, the motor's current, and that it does its work. op is what the evidence
// before the repair amounted to; after is what came since.
func (op *Opinion) Proof(station string, after []casefile.Evidence) []Check {
	a := op.a
	good := a.healthyView(op.post)
	var out []Check
	have := map[string]bool{}
	add := func(c Check) {
		e := c.evidence()
		k := a.askKey(&e)
		if have[k] {
			return
		}
		have[k] = true
		out = append(out, c)
	}
	var seen []Check
	for i := range op.job.Evidence {
		e := &op.job.Evidence[i]
		if e.Struck || i >= len(op.Result.Evidence) || a.C.State(e.State) == nil {
			continue
		}
		n := i
		c := Check{Measure: string(e.Measure), Observe: e.Observe, State: e.State, From: e.From, To: e.To, Through: e.Through, Before: &n, Why: "it pointed to the part before", bits: op.Result.Evidence[i].Bits[station]}
		if e.Observe == circuit.SwapHelps || slices.Contains(stripped(a.C), e.Observe) || c.bits < 0.2 {
			continue
		}
		seen = append(seen, c)
	}
	sort.SliceStable(seen, func(i, j int) bool { return seen[i].bits > seen[j].bits })
	run := a.C.RunState
	// That it does its work comes first: a word in the state the complaint shows in.
	for i := range a.C.Observations {
		o := &a.C.Observations[i]
		if slices.Contains([]string{"turning", "speed", "moves", "starts"}, o.Model) && slices.Contains(o.States, run) {
			add(Check{Observe: o.ID, State: run, Why: "it does its work"})
			break
		}
	}
	for _, c := range seen[:min(len(seen), 3)] {
		add(c)
	}
	if st := a.C.State(run); st != nil && st.Powered() && st.CanRead("voltage") {
		if s := a.C.Station(station); s != nil && s.From != "" && s.To != "" && s.Kind != circuit.Motor {
			add(Check{Measure: string(unit.Voltage), State: run, From: s.From, To: s.To, Why: "the work was done here, under load"})
		}
		if k := a.Net.MotorStation(); k >= 0 {
			m := &a.C.Stations[k]
			add(Check{Measure: string(unit.Voltage), State: run, From: m.From, To: m.To, Why: "what arrives at the motor"})
			if !slices.Contains(op.job.Known.Without, string(unit.Current)) {
				add(Check{Measure: string(unit.Current), State: run, Through: m.ID, Why: "what the motor draws"})
			}
		}
	}
	out = out[:min(len(out), mostChecks)]
	for i := range out {
		op.band(&out[i], good)
		for n := range after {
			if e := &after[n]; !e.Struck && same(e, &out[i]) {
				k := n
				out[i].After = &k
			}
		}
		if out[i].Before == nil {
			for n := range op.job.Evidence {
				if e := &op.job.Evidence[n]; !e.Struck && same(e, &out[i]) {
					k := n
					out[i].Before = &k
				}
			}
		}
		if k := out[i].After; k != nil {
			ok := out[i].holds(&after[*k])
			out[i].Passed = &ok
		}
	}
	return out
}

func stripped(c *circuit.Circuit) []string {
	var out []string
	for _, o := range c.Inside() {
		out = append(out, o.ID)
	}
	return out
}

func (c *Check) evidence() casefile.Evidence {
	return casefile.Evidence{Measure: unit.Measure(c.Measure), Observe: c.Observe, State: c.State, From: c.From, To: c.To, Through: c.Through}
}

// same reports whether a piece of evidence is this check, its probes either way round.
func same(e *casefile.Evidence, c *Check) bool {
	if string(e.Measure) != c.Measure || e.Observe != c.Observe || e.State != c.State || e.Through != c.Through {
		return false
	}
	return e.From == c.From && e.To == c.To || e.From == c.To && e.To == c.From
}

// holds reports whether what was taken lies in the band.
func (c *Check) holds(e *casefile.Evidence) bool {
	switch {
	case c.Observe != "":
		return e.Outcome == c.Want
	case e.Reading.Over || c.GoodOL:
		return e.Reading.Over == c.GoodOL
	case c.Good == nil:
		return false
	}
	v := e.Reading.Value
	if e.From != "" && e.From == c.To && e.To == c.From && e.Measure != unit.Resistance {
		v = -v
	}
	return v >= c.Good.Low && v <= c.Good.High
}

// band fills in what a good circuit of this vehicle shows.
func (op *Opinion) band(c *Check, good *healthyView) {
	a := op.a
	if c.Observe != "" {
		o := a.C.Observation(c.Observe)
		x := &observed{a: a, o: o, c: &a.cells[0], at: good.at}
		best := -1.0
		for i, p := range x.outcomes(a.Net.StatePos(c.State)) {
			if p > best {
				best, c.Want = p, o.Outcomes[i].ID
			}
		}
		return
	}
	e := c.evidence()
	r := a.prepare(&e, a.meterAtHand(&e, op.job), 0)
	m, sd, open := good.expect(&r)
	if open {
		c.GoodOL = true
		return
	}
	// The meter's own error at that value belongs to the band.
	sd = math.Hypot(sd, r.acc.Sigma(m))
	lo, hi := m-sure*sd, m+sure*sd
	s := a.C.Station(c.Through)
	if e.Measure == unit.Resistance || e.Measure == unit.Voltage && len(a.between(c.State, c.From, c.To)) == 1 && s == nil {
		lo = math.Max(lo, 0)
	}
	c.Good = ptr(a.possible(e.Measure, lo, hi, direction(e.Measure, m)))
}
