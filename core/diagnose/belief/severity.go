package belief

import (
	"math"
	"slices"

	"corriente/core/diagnose/gauss"
	"corriente/core/fault"
)

// Estimate is how bad a fault is, with a 5 to 95 % range.
type Estimate struct {
	Estimate float64 `json:"estimate"`
	Low      float64 `json:"low"`
	High     float64 `json:"high"`
	Unit     string  `json:"unit"`
}

// Severity gives the posterior of fault k of diagnosis d: the mixture of its
// cells, 5, 50 and 95 %.
func (p *Posterior) Severity(d, k int) (Estimate, bool) {
	type part struct{ w, mid, sd float64 }
	var parts []part
	sc := p.a.Model.ScaleOf(p.a.Diags[d].Faults[k])
	tot := 0.0
	for i := range p.Cells {
		c := &p.Cells[i]
		cl := &p.a.Cells[c.Cell]
		if cl.Diagnosis != d || cl.Severity[k] >= fault.Open {
			continue
		}
		m := cl.Severity[k]
		if sc.Log {
			m = math.Log(m)
		}
		u := len(p.a.Uncertain) + k
		z, v := 0.0, 1.0
		if c.z != nil {
			z = c.z[u]
			v = c.variance(u)
		}
		parts = append(parts, part{c.Weight, m + z*cl.Width[k], math.Max(math.Sqrt(v)*cl.Width[k], 1e-6)})
		tot += c.Weight
	}
	if tot <= 0 {
		return Estimate{}, false
	}
	quantile := func(q float64) float64 {
		lo, hi := math.Inf(1), math.Inf(-1)
		for _, x := range parts {
			lo, hi = math.Min(lo, x.mid-5*x.sd), math.Max(hi, x.mid+5*x.sd)
		}
		for range 60 {
			m := (lo + hi) / 2
			s := 0.0
			for _, x := range parts {
				s += x.w * gauss.NormCDF((m-x.mid)/x.sd)
			}
			if s < q*tot {
				lo = m
			} else {
				hi = m
			}
		}
		// Beyond what is worth considering slopes say nothing any more.
		least, most := sc.Lo/beyondScale, sc.Hi*beyondScale
		if !sc.Log {
			least, most = sc.Lo-(sc.Hi-sc.Lo)/2, sc.Hi+(sc.Hi-sc.Lo)/2
			if sc.Unit == "share" {
				least, most = 0, 1
			}
		} else {
			lo = math.Exp(lo)
		}
		return math.Min(math.Max(lo, least), most)
	}
	return Estimate{Estimate: gauss.Significant(quantile(0.5)), Low: gauss.Significant(quantile(0.05)),
		High: gauss.Significant(quantile(0.95))}, true
}

// beyondScale is how far beyond its usual range a severity is told.
const beyondScale = 5

// variance is the posterior variance of one standardised parameter.
func (c *Scored) variance(u int) float64 {
	if c.up == nil {
		return 1
	}
	col := make([]float64, len(c.z))
	col[u] = 1
	return math.Max(c.up.Variance(col), 1e-9)
}

// Within is the probability that a station, or one built into the same part, is
// at fault: no probe parts them, and one repair cures both.
func (p *Posterior) Within(station string) float64 {
	part := func(id string) string {
		if s := p.a.C.Station(id); s != nil && s.Within != "" {
			return s.Within
		}
		return id
	}
	sum := 0.0
	for d, w := range p.Diag {
		if slices.ContainsFunc(p.a.Diags[d].Faults, func(f fault.Fault) bool { return part(f.Station) == part(station) }) {
			sum += w
		}
	}
	return math.Min(sum, 1)
}

// Project returns the posterior mean and variance of jᵀz.
func (c *Scored) Project(j []float64) (mean, v float64) {
	if c.z != nil {
		mean = gauss.Dot(j, c.z)
	}
	return mean, c.up.Variance(j)
}

// ProjectAround is [Scored.Project] around a mean; a cell that was moved stands at its own best values already.
func (c *Scored) ProjectAround(j []float64, mean float64) (float64, float64) {
	m, v := c.Project(j)
	if c.Theta == nil {
		mean += m
	}
	return mean, v
}
