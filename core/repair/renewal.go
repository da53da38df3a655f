package repair

import "math"

// Life is how long a repair lasts, in years: Weibull, with its median and shape. Shape 1
// fails at any age alike, above 1 wears out.
type Life struct {
	Median float64
	Shape  float64
}

// scale is the Weibull scale: median / (ln 2)^(1/shape).
func (l Life) scale() float64 { return l.Median / math.Pow(math.Ln2, 1/l.Shape) }

// CDF is the chance that it has failed by t years.
func (l Life) CDF(t float64) float64 {
	if t <= 0 || l.Median <= 0 {
		return 0
	}
	return 1 - math.Exp(-math.Pow(t/l.scale(), l.Shape))
}

// Quantile is the age by which a share p has failed.
func (l Life) Quantile(p float64) float64 {
	return l.scale() * math.Pow(-math.Log1p(-p), 1/l.Shape)
}

// renewalSteps divide the time the machine stays.
const renewalSteps = 240

// Renewals is the expected number of failures within t years when each is mended anew
// with the same life, and how many of them come within warranty years of the mend
// before. It solves the renewal equation M(t) = F(t) + ∫ M(t-x) dF(x) by the
// midpoint Riemann-Stieltjes sum (Xie, Commun. Statist. Simula. 18, 1989); the second is
// ∫ F(min(t-u, w)) d(1 + M(u)).
func (l Life) Renewals(t, warranty float64) (failures, covered float64) {
	if l.Median <= 0 || t <= 0 {
		return 0, 0
	}
	// A life far shorter than the time is renewed many times: steps must resolve it.
	n := int(math.Min(4000, math.Max(renewalSteps, 12*t/l.Median)))
	h := t / float64(n)
	half := make([]float64, n) // F((k+1/2) h)
	for k := range half {
		half[k] = l.CDF((float64(k) + 0.5) * h)
	}
	m := make([]float64, n+1)
	for i := 1; i <= n; i++ {
		s := l.CDF(float64(i) * h)
		for j := 1; j < i; j++ {
			s += half[i-j] * (m[j] - m[j-1])
		}
		s -= half[0] * m[i-1]
		m[i] = s / (1 - half[0])
	}
	if warranty > 0 {
		covered = l.CDF(math.Min(t, warranty))
		for j := 1; j <= n; j++ {
			covered += l.CDF(math.Min(t-(float64(j)-0.5)*h, warranty)) * (m[j] - m[j-1])
		}
	}
	return m[n], covered
}
