package diagnose

import (
	"math"
	"runtime"
	"sync"

	"corriente/core/circuit"
	"corriente/core/fault"
)

// share splits work over the cores: f does every step-th piece, beginning with
// from.
func share(n int, f func(from, step int)) {
	workers := max(1, min(8, runtime.GOMAXPROCS(0), n))
	var wg sync.WaitGroup
	for k := range workers {
		wg.Go(func() { f(k, workers) })
	}
	wg.Wait()
}

// lapse is the share of answers that are simply mistaken, spread over all words.
const lapse = 0.02

func logistic(x float64) float64 { return 1 / (1 + math.Exp(-x)) }

// outcomes returns the probability of each answer to an observation under a
// solved cell. Where physics decides, the answer follows from the solution;
// where it does not, from the family's rates. It never returns a zero.
func (a *Adviser) outcomes(o *circuit.Observation, state int, c *cell, l *linear, sev [2]float64) []float64 {
	p := make([]float64, len(o.Outcomes))
	set := func(id string, x float64) {
		for i := range o.Outcomes {
			if o.Outcomes[i].ID == id {
				p[i] += x
			}
		}
	}
	switch o.Model {
	case "click":
		a.click(o, c, l, set)
	case "turning":
		a.turning(state, c, l, set)
	case "lamps_dim":
		y := a.dim(l)
		set("yes", y)
		set("no", 1-y)
	case "turn_by_hand":
		a.byHand(state, c, sev, set)
	case "rates":
		a.rates(o, c, set)
	}
	t := 0.0
	for _, x := range p {
		t += x
	}
	for i := range p {
		if t <= 0 {
			p[i] = 1 / float64(len(p))
			continue
		}
		p[i] = (1-lapse)*p[i]/t + lapse/float64(len(p))
	}
	return p
}

func (a *Adviser) click(o *circuit.Observation, c *cell, l *linear, set func(string, float64)) {
	if l.chat {
		set("chatter", 0.75)
		set("single", 0.2)
		set("none", 0.05)
		return
	}
	coil := a.C.StationIndex(o.Coil)
	for _, f := range a.diags[c.diag].faults {
		if f.Station == o.Coil && f.Mode == "sticking" {
			// Energised but held: now and then a dull knock.
			set("none", 0.96)
			set("single", 0.04)
			return
		}
	}
	if l.pull {
		// A motor that then turns drowns the clunk for some ears.
		none := 0.03
		if l.ratio > 0.5 {
			none = 0.15
		}
		set("single", 0.95-none)
		set("none", none)
		set("chatter", 0.03)
		return
	}
	near := logistic((l.coilV/a.theta[a.Net.ParamIndex(coil, "pull_in")] - 0.9) / 0.06)
	set("none", 0.97-0.25*near)
	set("single", 0.02+0.2*near)
	set("chatter", 0.01+0.05*near)
}

func (a *Adviser) turning(state int, c *cell, l *linear, set func(string, float64)) {
	free := false
	for _, f := range a.diags[c.diag].faults {
		if f.Mode == "slipping" {
			free = true
		}
	}
	st := &a.C.States[state]
	switch {
	case l.chat:
		set("none", 0.75)
		set("slow", 0.25)
		return
	case !l.spin || !l.fed:
		set("none", 1)
		return
	case free && st.Load != "free":
		set("free_spin", 0.85)
		set("none", 0.1) // the engine does not turn, and that is what some look at
		set("normal", 0.05)
		return
	}
	width := math.Hypot(0.05, l.rsd)
	normal := logistic((l.ratio - 0.8) / width)
	none := logistic((0.08 - l.ratio) / 0.02)
	rest := 1 - none
	set("none", none)
	set("slow", rest*(1-normal))
	if st.Load == "free" {
		set("free_spin", rest*normal*0.45)
		normal *= 0.55
	}
	set("normal", rest*normal)
}

// dim is the chance that headlamps are seen to dim. They hang on the battery,
// on some machines at its clamps, so both are weighed.
func (a *Adviser) dim(l *linear) float64 {
	emf := a.theta[a.Net.ParamIndex(a.batteryIndex(), "emf")]
	n := a.C.NominalVoltage / 12
	see := func(v float64) float64 { return logistic((emf - v - 1.6*n) / (0.4 * n)) }
	posts := float64(l.v[a.C.NodeIndex("bat_pos")])
	p := see(posts)
	if len(a.C.Paths) > 0 {
		m := a.C.Paths[0].Stations
		head, tail := a.C.Station(m[0]), a.C.Station(m[len(m)-1])
		clamps := float64(l.v[a.C.NodeIndex(head.To)]) - float64(l.v[a.C.NodeIndex(tail.From)])
		p = 0.6*p + 0.4*see(clamps)
	}
	return p
}

func (a *Adviser) byHand(state int, c *cell, sev [2]float64, set func(string, float64)) {
	locked, stiff := 0.01, 0.05
	coupled := a.C.States[state].Load != "free"
	for k, f := range a.diags[c.diag].faults {
		l, s := 0.0, 0.0
		switch f.Mode {
		case "seized":
			l, s = 0.88, 0.1
			if coupled {
				// On a starter the pinion rests out of mesh: the engine turns
				// though the motor is seized.
				l, s = 0.5, 0.1
			}
		case "jammed":
			if coupled {
				l, s = 0.88, 0.1
			}
		case "binding":
			if coupled {
				l, s = 0.05, logistic((sev[k]-1.7)/0.35)*0.9
			}
		case "bearing_drag":
			s = logistic((sev[k]-4)/1.5) * 0.85
			if coupled {
				s *= 0.4
			}
		}
		locked, stiff = math.Max(locked, l), math.Max(stiff, s)
	}
	if locked+stiff > 0.98 {
		stiff = 0.98 - locked
	}
	set("locked", locked)
	set("stiff", stiff)
	set("free", 1-locked-stiff)
}

func (a *Adviser) rates(o *circuit.Observation, c *cell, set func(string, float64)) {
	base := o.Rates["*"]
	var tables []map[string]float64
	for _, f := range a.diags[c.diag].faults {
		if t, ok := o.Rates[f.String()]; ok {
			tables = append(tables, t)
		}
	}
	if len(tables) == 0 {
		for id, x := range base {
			set(id, x)
		}
		return
	}
	for _, t := range tables {
		for id, x := range t {
			set(id, x/float64(len(tables)))
		}
	}
}

// label writes a diagnosis for people.
func (a *Adviser) label(fs []fault.Fault) string {
	if len(fs) == 0 {
		return "nothing wrong"
	}
	s := ""
	for i, f := range fs {
		if i > 0 {
			s += ", and "
		}
		s += a.C.Station(f.Station).Label + ": " + fault.Label(f.Mode)
	}
	return s
}
