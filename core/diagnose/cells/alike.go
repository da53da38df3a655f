package cells

import (
	"math"

	"corriente/core/circuit"
)

// inHarness is a station's value with what is known of it; a part of a harness whose value
// nobody gave shares what is not known with the others.
func (a *Space) inHarness(s *circuit.Station, name string) circuit.Param {
	p, usual := s.Params[name], &a.Assumed.Prior
	if name != "resistance" || p.Alike != "" || p.Spread < usual.Unknown {
		return p
	}
	switch s.Kind {
	case circuit.Wire, circuit.Joint, circuit.Fuse, circuit.Contact:
		p.Alike, p.Common, p.Spread = "harness", usual.HarnessCommon, usual.HarnessOwn
		if s.Side == "control" {
			p.Alike = "control"
		}
	case circuit.Source:
		p.Spread = usual.BatterySpread
	}
	return p
}

// Alike is a group of uncertain values of parts that are made alike. Of n of them with
// a spread of their own each and one in common the covariance of the logarithms is
// own² I + common² 11ᵀ; its symmetric root is own I + (√(own² + n common²) - own)/n 11ᵀ.
type Alike struct {
	key         string
	U           []int // in unc
	Own, Common float64
}

// Mix turns slopes by each value's logarithm into slopes by independent standard
// deviations, in place; the root is symmetric, so it turns the latter into logarithms
// as well.
func Mix[F float32 | float64](a *Space, row []F) {
	for _, g := range a.Alike {
		n := float64(len(g.U))
		sum := 0.0
		for _, u := range g.U {
			sum += float64(row[u])
		}
		shared := sum * (math.Sqrt(g.Own*g.Own+n*g.Common*g.Common) - g.Own) / n
		for _, u := range g.U {
			row[u] = F(g.Own*float64(row[u]) + shared)
		}
	}
}

// Unmix takes [mix] back: slopes by independent standard deviations become slopes by
// each value's logarithm.
func Unmix(a *Space, row []float64) {
	for _, g := range a.Alike {
		n := float64(len(g.U))
		c := math.Sqrt(g.Own*g.Own+n*g.Common*g.Common) - g.Own
		sum := 0.0
		for _, u := range g.U {
			sum += row[u]
		}
		shared := sum / (g.Own + c) * c / n
		for _, u := range g.U {
			row[u] = (row[u] - shared) / g.Own
		}
	}
}
