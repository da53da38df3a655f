package machine

import (
	"math"
	"math/rand/v2"
	"slices"

	"corriente/core/circuit"
	"corriente/core/fault"
)

// Faults says how many faults a machine has, from a number drawn evenly between 0 and 1.
type Faults func(x float64) int

// AsBrought is how machines come in: one in ten sound, one in ten with two faults.
func AsBrought(x float64) int {
	switch {
	case x < 0.1:
		return 0
	case x < 0.2:
		return 2
	}
	return 1
}

// Two is always two faults.
func Two(float64) int { return 2 }

// Brought hides faults in a machine as a customer would bring it: drawn by the family's rates, and
// kept as likely as anybody would complain of them. spread is that of its true values, see [Spread].
func Brought(m *fault.Model, spread float64, faults Faults, rng *rand.Rand) *Machine {
	net, c := m.Net, m.Net.C
	for {
		th := Spread(m, spread, rng)
		if k := net.ChargerStation(); k >= 0 && rng.Float64() < 0.3 {
			th[net.ParamIndex(k, "present")] = 1
		}
		n := faults(rng.Float64())
		var hidden []Hidden
		for len(hidden) < n {
			f := pick(m, rng)
			if c.Station(f.Station).Kind == circuit.Charger && th[net.ParamIndex(c.StationIndex(f.Station), "present")] < 0.5 {
				continue
			}
			if slices.ContainsFunc(hidden, func(h Hidden) bool { return h.Fault.Station == f.Station }) {
				continue
			}
			hidden = append(hidden, Hidden{Fault: f, Severity: severity(m.ScaleOf(f), rng)})
		}
		mc := New(m, th, hidden, rng)
		if n == 0 {
			return mc
		}
		if !mc.Matters() {
			continue
		}
		// Nobody brings a machine that works.
		complain := 0.03 + 0.97/(1+math.Exp(-((1-mc.Speed())-0.2)/0.03))
		for _, h := range hidden {
			switch h.Fault.Mode {
			case "welded", "slipping", "stuck_on":
				complain = 1
			}
		}
		if rng.Float64() < complain {
			return mc
		}
	}
}

// Draw hides n faults, 1 or 2, in a machine as a customer would bring it.
func Draw(m *fault.Model, n int, rng *rand.Rand) *Machine {
	faults := AsBrought
	if n == 2 {
		faults = Two
	}
	for {
		if mc := Brought(m, 0.2, faults, rng); len(mc.Hidden) == n {
			return mc
		}
	}
}

// pick draws a fault by the rates.
func pick(m *fault.Model, rng *rand.Rand) fault.Fault {
	total := 0.0
	for _, f := range m.Faults() {
		total += m.Rate(f)
	}
	x := rng.Float64() * total
	for _, f := range m.Faults() {
		if x -= m.Rate(f); x <= 0 {
			return f
		}
	}
	return m.Faults()[0]
}

// severity draws how bad a fault is, evenly along its scale.
func severity(sc *fault.Scale, rng *rand.Rand) float64 {
	switch {
	case sc == nil:
		return 0
	case sc.ToOpen && rng.Float64() < 0.125:
		return fault.Open
	case sc.Log:
		return sc.Lo * math.Pow(sc.Hi/sc.Lo, rng.Float64())
	}
	return sc.Lo + (sc.Hi-sc.Lo)*rng.Float64()
}
