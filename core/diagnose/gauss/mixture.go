package gauss

import (
	"math"
)

// Band90 is a 5 to 95 % range with its middle.
type Band90 struct {
	Low  float64 `json:"low"`
	Mid  float64 `json:"mid"`
	High float64 `json:"high"`
}

// wholly is how many standard deviations hold all of a part, for a figure of two digits.
const wholly = 5

// Part is one Gaussian of a mixture: its weight, its mean and its standard deviation.
type Part struct{ Weight, Mean, SD float64 }

// Mixture is where 5, 50 and 95 % of a mixture of Gaussians lie; the weights need not add up to 1.
func Mixture(parts []Part) Band90 {
	if len(parts) == 0 {
		return Band90{}
	}
	tot := 0.0
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, p := range parts {
		tot += p.Weight
		lo, hi = math.Min(lo, p.Mean-4*p.SD), math.Max(hi, p.Mean+4*p.SD)
	}
	live := make([]Part, len(parts))
	q := func(f float64) float64 {
		a, b := lo, hi
		// Parts that lie whole on one side of what is still searched count fully or not at all.
		live, below := live[:copy(live, parts)], 0.0
		for range 22 {
			m := (a + b) / 2
			s, n := below, 0
			for _, p := range live {
				sd := math.Max(p.SD, 1e-6)
				switch {
				case p.Mean+wholly*sd < a:
					below += p.Weight
					s += p.Weight
					continue
				case p.Mean-wholly*sd > b:
					continue
				}
				live[n] = p
				n++
				s += p.Weight * NormCDF((m-p.Mean)/sd)
			}
			if live = live[:n]; s < f*tot {
				a = m
			} else {
				b = m
			}
		}
		return (a + b) / 2
	}
	return Band90{q(0.05), q(0.5), q(0.95)}
}
