package cells

import (
	"math"
	"slices"

	"corriente/core/circuit"
	"corriente/core/diagnose/gauss"
	"corriente/core/fault"
)

// gridPoint is one severity with the half-width it stands for.
type gridPoint struct{ sev, width float64 }

func grid(sc *fault.Scale, n int) []gridPoint {
	if sc == nil {
		return []gridPoint{{0, 0}}
	}
	var out []gridPoint
	lo, hi := sc.Lo, sc.Hi
	if sc.Log {
		lo, hi = math.Log(lo), math.Log(hi)
	}
	step := (hi - lo) / float64(n)
	for k := 0; k < n; k++ {
		x := lo + (float64(k)+0.5)*step
		if sc.Log {
			x = math.Exp(x)
		}
		// A Gaussian of this width in each slot adds up to nearly even cover.
		out = append(out, gridPoint{x, 0.6 * step})
	}
	if sc.ToOpen {
		out = append(out, gridPoint{fault.Open, 0})
	}
	return out
}

// enumerate lists the diagnoses and their cells, with priors: the family's
// rates, weighted by whether the fault at that severity would make anybody
// complain.
func (a *Space) enumerate(w *circuit.Work) {
	m, share := a.Model, &a.Assumed.Prior
	h := a.Net.SoundAll()
	total := 0.0
	for _, f := range a.faults() {
		total += m.Rate(f)
	}
	a.addDiag(nil, share.None)
	a.addCell(w, h, 0, [2]gridPoint{}, 1)
	for _, f := range a.faults() {
		d := a.addDiag([]fault.Fault{f}, (1-share.None-share.Pair)*m.Rate(f)/total)
		pts := grid(m.ScaleOf(f), 7)
		for _, p := range pts {
			a.addCell(w, h, d, [2]gridPoint{p}, 1/float64(len(pts)))
		}
	}
	// Pairs: two different stations; a fuse with what blew it as often as that blows one.
	fs := a.faults()
	var pairs [][2]fault.Fault
	var rates []float64
	blown := map[int]float64{} // a fuse with what blew it, and fuses side by side that one fault has blown: prior of the pair
	blowers := 0.0
	for _, f := range fs {
		if blows(f) {
			blowers += m.Rate(f)
		}
	}
	sum := 0.0
	for i, f := range fs {
		for _, g := range fs[i+1:] {
			if f.Station == g.Station || hides(f) && hides(g) || a.isCharger(f) && a.isCharger(g) {
				continue
			}
			r := m.Rate(f) * m.Rate(g) / total
			pairs = append(pairs, [2]fault.Fault{f, g})
			one := (1 - share.None - share.Pair) / total * share.Blows // of a rate of one: a cause and what follows of it
			if a.sideBySide(f, g) {
				blown[len(pairs)-1] = one * blowers
			} else if cause, ok := a.causes(f, g); ok {
				blown[len(pairs)-1] = one * m.Rate(cause)
			}
			if blown[len(pairs)-1] > 0 {
				r = 0
			}
			rates = append(rates, r)
			sum += r
		}
	}
	for k, p := range pairs {
		prior, caused := blown[k]
		if !caused {
			prior = share.Pair * rates[k] / sum
		}
		d := a.addDiag(p[:], prior)
		g0, g1 := grid(m.ScaleOf(p[0]), 2), grid(m.ScaleOf(p[1]), 2)
		each := 1 / float64(len(g0)*len(g1))
		for _, x := range g0 {
			for _, y := range g1 {
				a.addCell(w, h, d, [2]gridPoint{x, y}, each)
			}
		}
	}
	kept := a.Diags[:0]
	sum = 0
	for _, d := range a.Diags {
		if len(d.Cells) > 0 {
			for _, k := range d.Cells {
				a.Cells[k].Diagnosis = len(kept)
				sum += math.Exp(a.Cells[k].LogPrior)
			}
			kept = append(kept, d)
		}
	}
	a.Diags = kept
	for i := range a.Cells {
		a.Cells[i].LogPrior -= math.Log(sum)
		a.BasePrior = append(a.BasePrior, a.Cells[i].LogPrior)
	}
}

// hides marks faults of which two at once are not worth telling apart.
func hides(f fault.Fault) bool { return f.Mode == "welded" || f.Mode == "short_to_ground" }

// faults lists the faults that can be: a charger that is known to be missing has
// none.
func (a *Space) faults() []fault.Fault {
	k := a.Net.ChargerStation()
	if k < 0 || a.charger != nil || a.Theta[a.Net.ParamIndex(k, "present")] >= 0.5 {
		return a.Model.Faults()
	}
	var out []fault.Fault
	for _, f := range a.Model.Faults() {
		if !a.isCharger(f) {
			out = append(out, f)
		}
	}
	return out
}

func (a *Space) isCharger(f fault.Fault) bool {
	return a.C.Station(f.Station).Kind == circuit.Charger
}

// causes returns which of two faults is the cause of the other: a blown fuse has one, and a seized
// or grounded motor is such.
func (a *Space) causes(f, g fault.Fault) (fault.Fault, bool) {
	switch {
	case a.blown(f) && blows(g) && !a.doubled(f):
		return g, true
	case a.blown(g) && blows(f) && !a.doubled(g):
		return f, true
	}
	return fault.Fault{}, false
}

func (a *Space) blown(f fault.Fault) bool {
	return f.Mode == "open" && a.C.Station(f.Station).Kind == circuit.Fuse
}

// sideBySide reports two blown fuses between the same points: what blows one blows the other at once.
func (a *Space) sideBySide(f, g fault.Fault) bool {
	x, y := a.C.Station(f.Station), a.C.Station(g.Station)
	return a.blown(f) && a.blown(g) && (x.From == y.From && x.To == y.To || x.From == y.To && x.To == y.From)
}

// doubled reports a fuse with another beside it.
func (a *Space) doubled(f fault.Fault) bool {
	for i := range a.C.Stations {
		if g := (fault.Fault{Station: a.C.Stations[i].ID, Mode: "open"}); g.Station != f.Station && a.sideBySide(f, g) {
			return true
		}
	}
	return false
}

// blows marks what draws more than a fuse carries.
func blows(f fault.Fault) bool {
	switch f.Mode {
	case "short_to_ground", "seized", "jammed", "winding_grounded", "shorted_turns":
		return true
	}
	return false
}

func (a *Space) addDiag(fs []fault.Fault, prior float64) int {
	key := ""
	for i, f := range fs {
		if i > 0 {
			key += "+"
		}
		key += f.Station
	}
	cls, ok := a.clsOf[key]
	if !ok {
		cls = len(a.Classes)
		a.clsOf[key] = cls
		a.Classes = append(a.Classes, key)
	}
	a.Diags = append(a.Diags, Diagnosis{Faults: fs, Class: cls, prior: prior})
	return len(a.Diags) - 1
}

// addCell adds a diagnosis at one severity, once without and once with a float
// charger where that is not known.
func (a *Space) addCell(w *circuit.Work, h []circuit.Health, d int, g [2]gridPoint, share float64) {
	fs := a.Diags[d].Faults
	charged, battery := false, len(fs) < 2
	for _, f := range fs {
		charged = charged || a.isCharger(f)
		battery = battery || a.C.Station(f.Station).Kind == circuit.Source
	}
	c := Cell{Diagnosis: d, Severity: [2]float64{g[0].sev, g[1].sev}, Width: [2]float64{g[0].width, g[1].width}}
	on := c
	on.Charged = true
	switch {
	case a.charger == nil:
		a.addPhases(w, h, c, share)
	case charged:
		a.addPhases(w, h, on, share*a.Assumed.Prior.Charger)
	case battery:
		a.addPhases(w, h, c, share*(1-a.Assumed.Prior.Charger))
		a.addPhases(w, h, on, share*a.Assumed.Prior.Charger)
	default: // two faults elsewhere: a charger would not change the choice between them
		a.addPhases(w, h, c, share*(1-a.Assumed.Prior.Charger))
	}
}

// addPhases adds cells for a controller whose own checks hold, and, where they would find the fault,
// for one whose checks do not.
func (a *Space) addPhases(w *circuit.Work, h []circuit.Health, c Cell, share float64) {
	if theta := a.nominal(&c); a.withholds(w, theta, h, &c) {
		w.Unwatched, c.Unwatched = true, true
		a.addWays(w, h, c, share*a.Assumed.Prior.GuardFails)
		w.Unwatched, c.Unwatched = false, false
		share *= 1 - a.Assumed.Prior.GuardFails
	}
	a.addWays(w, h, c, share)
}

// withholds reports whether a driver's own checks, those it flashes a code for, keep its output back where the
// machine is asked to work.
func (a *Space) withholds(w *circuit.Work, theta []float64, h []circuit.Health, c *Cell) bool {
	a.Health(h, theta, c.Diagnosis, c.Severity)
	for k := range a.C.Stations {
		if len(a.C.Stations[k].Guards) == 0 || h[k].Force != circuit.AsCommanded {
			continue
		}
		for _, st := range a.Asked {
			w.Solve(st, theta, h)
			if _, code := w.Guarded(k); code {
				return true
			}
		}
	}
	return false
}

// addWays solves the states in which the machine is asked to work, splits the
// cell where a coil is near its pull-in, and drops what is too mild to matter.
func (a *Space) addWays(w *circuit.Work, h []circuit.Health, c Cell, share float64) {
	d, theta := c.Diagnosis, a.nominal(&c)
	a.Health(h, theta, d, c.Severity)
	pullP, holdP, driven := 1.0, 1.0, false
	for k := range a.C.Stations {
		coil := a.C.StationIndex(a.C.Stations[k].ClosedBy)
		if a.C.Stations[k].ClosedBy == "" || coil < 0 {
			continue
		}
		driven = true
		w.SolvePhase(a.Run, theta, h, false)
		need := theta[a.Net.ParamIndex(coil, "pull_in")]
		sd := math.Hypot(need*a.C.Stations[coil].Params["pull_in"].Spread, a.Assumed.Prior.PullInSpread*a.C.NominalVoltage)
		pullP = gauss.NormCDF((w.CoilVolts(coil) - need) / sd)
		if h[coil].NoPull || h[coil].Open {
			pullP = 0
		}
		if c, _ := a.Net.Solenoid(); c == coil && h[a.Net.MotorStation()].Open {
			pullP *= a.Assumed.Prior.PullsWithoutMotor
		}
		if h[k].Force != circuit.AsCommanded {
			driven = false // what the coil does moves nothing
			continue
		}
		w.SolvePhase(a.Run, theta, h, true)
		holdSD := circuit.DropOut*sd + a.Assumed.Prior.HoldSpread*a.C.NominalVoltage
		holdP = gauss.NormCDF((w.CoilVolts(coil) - circuit.DropOut*need) / holdSD)
	}
	type variant struct {
		ph phase
		p  float64
	}
	guards := []guarding{carries}
	if a.overloaded(w, theta, h) >= 0 {
		guards = []guarding{carries, Trips, limits, limitsHigh, Wavers}
	}
	vs := []variant{{settle, 1}}
	if driven {
		vs = []variant{{open, 1 - pullP}, {closed, pullP * holdP}, {Chatter, pullP * (1 - holdP)}}
	}
	for _, v := range vs {
		if v.p < 0.02 && driven {
			continue
		}
		weight := 1.0
		if fs := a.Diags[d].Faults; len(fs) > 0 && !slices.ContainsFunc(fs, a.loud) {
			lost, within := a.lost(w, theta, h, v.ph)
			if lost < a.Assumed.Prior.Mild && within && !slices.ContainsFunc(fs, a.isCharger) {
				continue // so mild that it belongs to nothing wrong
			}
			weight = a.Assumed.Prior.Complaint.Of(lost)
		}
		c.LogPrior, c.Phase = math.Log(a.Diags[d].prior*share*weight*v.p/float64(len(guards))), v.ph
		for _, g := range guards {
			c.Guarded, c.Windings = g, false
			switch g {
			case Trips, limits, limitsHigh:
				c.Ways[g-Trips] = len(a.Cells)
			}
			if v.ph != closed && a.twoWindings(h) {
				one := c
				one.LogPrior += math.Log(1 - a.Assumed.Prior.PullIn)
				a.keepCell(d, one)
				c.Windings = true
				two := c
				two.LogPrior += math.Log(a.Assumed.Prior.PullIn)
				a.keepCell(d, two)
				continue
			}
			a.keepCell(d, c)
		}
	}
}

// loud marks faults that are always ones, whatever the speed: an open, what runs
// when it should not, and those of parts that turn nothing.
func (a *Space) loud(f fault.Fault) bool {
	switch f.Mode {
	case "welded", "slipping", "open", "short_to_ground", "stuck_on":
		return true
	}
	switch a.C.Station(f.Station).Kind {
	case circuit.Winding, circuit.Rectifier, circuit.Capacitor, circuit.Bearing:
		return true
	}
	return a.Net.MotorStation() < 0
}

// lost is the greatest share of speed lost in a state in which the machine is
// asked to work, and whether every station keeps within its allowed drop.
func (a *Space) lost(w *circuit.Work, theta []float64, h []circuit.Health, ph phase) (lost float64, within bool) {
	within = true
	for _, st := range a.Asked {
		switch {
		case ph == settle || len(a.C.States[st].Closed) == 0:
			w.Solve(st, theta, h)
		case ph == closed:
			w.SolvePhase(st, theta, h, true)
		default:
			return 1, false
		}
		if a.Moves[st] {
			lost = math.Max(lost, 1-w.Motor.W/a.Spin[st])
		}
		for k := range a.C.Stations {
			s := &a.C.Stations[k]
			if s.AllowedDrop > 0 && a.Net.Present(st, k) && s.Kind != circuit.Driver {
				x, y := a.Net.Ends(st, k)
				within = within && math.Abs(w.V[x]-w.V[y]) <= s.AllowedDrop
			}
		}
	}
	return lost, within
}

// twoWindings reports whether it shows how many windings a shift solenoid has: while its
// contact is open and it is fed.
func (a *Space) twoWindings(h []circuit.Health) bool {
	coil, _ := a.Net.Solenoid()
	return coil >= 0 && !h[coil].Open
}

func (a *Space) keepCell(d int, c Cell) {
	a.Diags[d].Cells = append(a.Diags[d].Cells, len(a.Cells))
	a.Cells = append(a.Cells, c)
}

// overloaded returns the driver that carries more than its share where a machine is asked
// to work, -1 where none does.
func (a *Space) overloaded(w *circuit.Work, theta []float64, h []circuit.Health) int {
	for k := range a.C.Stations {
		if a.C.Stations[k].Kind != circuit.Driver || h[k].Force != circuit.AsCommanded {
			continue
		}
		for _, st := range a.Asked {
			w.Solve(st, theta, h)
			if w.Closed[k] && math.Abs(w.I[k]) > a.Assumed.Prior.Overload*math.Max(a.Model.Normal[k], 0.1) {
				return k
			}
		}
	}
	return -1
}
