package gauss

import (
	"math"
)

// NormCDF is the standard normal distribution function.
func NormCDF(x float64) float64 { return 0.5 * math.Erfc(-x/math.Sqrt2) }

// Norm is the Euclidean norm.
func Norm(x []float64) float64 {
	s := 0.0
	for _, v := range x {
		s += v * v
	}
	return math.Sqrt(s)
}

// Round keeps six decimals: what is shown of a probability or of bits.
func Round(p float64) float64 { return math.Round(p*1e6) / 1e6 }

// Significant keeps four significant digits.
func Significant(x float64) float64 {
	if x == 0 || math.IsInf(x, 0) {
		return x
	}
	m := math.Pow(10, 3-math.Floor(math.Log10(math.Abs(x))))
	return math.Round(x*m) / m
}

// Plogp is p log2 p, zero at zero.
func Plogp(p float64) float64 {
	if p <= 0 {
		return 0
	}
	return p * math.Log2(p)
}

// Entropy is that of a distribution, bits.
func Entropy(p []float64) float64 {
	h := 0.0
	for _, x := range p {
		if x > 0 {
			h -= x * math.Log2(x)
		}
	}
	return h
}

// Divergence is the Kullback-Leibler divergence of post from prior, bits. Its
// mean over a reading's outcomes is the information the reading gives, and,
// unlike a difference of entropies, each sample of it is zero when the reading
// tells nothing.
func Divergence(post, prior []float64) float64 {
	d := 0.0
	for i, x := range post {
		if x > 0 && prior[i] > 0 {
			d += x * math.Log2(x/prior[i])
		}
	}
	return math.Max(d, 0)
}

// NormQuantile is the standard normal quantile (Beasley-Springer-Moro is not
// needed here: the inverse of erfc is in the library).
func NormQuantile(q float64) float64 { return -math.Sqrt2 * math.Erfcinv(2*q) }

// LogSumExp is ln Σ exp(x), without running out of range; of nothing it is -∞.
func LogSumExp(x []float64) float64 {
	m := math.Inf(-1)
	for _, v := range x {
		m = math.Max(m, v)
	}
	if math.IsInf(m, -1) {
		return m
	}
	s := 0.0
	for _, v := range x {
		s += math.Exp(v - m)
	}
	return m + math.Log(s)
}
