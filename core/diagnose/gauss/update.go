package gauss

import (
	"corriente/core/linear"
	"math"
)

// Sum adds up.
func Sum(x []float64) float64 {
	s := 0.0
	for _, v := range x {
		s += v
	}
	return s
}

// Update is the linear-Gaussian update of a cell: readings y = J z + noise with standard
// normal z and independent noise. With fewer readings than values it works on the
// covariance of the readings, S = D + J Jᵀ; with more on the precision of the values,
// A = I + Jᵀ D⁻¹ J, by which S⁻¹ = D⁻¹ - D⁻¹ J A⁻¹ Jᵀ D⁻¹ and |S| = |D| |A| (the
// Woodbury identity; N. J. Higham, Accuracy and Stability of Numerical Algorithms): what
// one more reading costs grows with the readings, not with their cube.
type Update struct {
	rows    [][]float64 // J, readings × values
	ByValue bool
	f       linear.Cholesky // of A where byValue, else of S
}

// Solution is what follows of residuals r.
type Solution struct {
	Y            []float64 // S⁻¹ r
	Inv          []float64 // the diagonal of S⁻¹
	Quad, Logdet float64   // rᵀ S⁻¹ r, ln |S|
}

// NewUpdate factors the update; ok is false where a number has run out of range.
func NewUpdate(rows [][]float64, noise, res []float64, q int) (*Update, Solution, bool) {
	u := &Update{rows: rows, ByValue: len(rows) > q}
	if u.ByValue {
		s, ok := u.throughValues(noise, res, q)
		return u, s, ok
	}
	s, ok := u.throughReadings(noise, res)
	return u, s, ok
}

func (u *Update) throughReadings(noise, res []float64) (Solution, bool) {
	n := len(u.rows)
	s := make([]float64, n*n)
	for i := range n {
		for j := 0; j <= i; j++ {
			x := Dot(u.rows[i], u.rows[j])
			if i == j {
				x += noise[i]
			}
			s[i*n+j], s[j*n+i] = x, x
		}
	}
	var ok bool
	if u.f, ok = linear.Factor(s, n); !ok {
		return Solution{}, false
	}
	out := Solution{Y: append([]float64(nil), res...), Inv: make([]float64, n)}
	u.f.Forward(out.Y, 0)
	for _, v := range out.Y {
		out.Quad += v * v
	}
	out.Logdet = u.f.LogDet()
	u.f.Back(out.Y)
	e := make([]float64, n)
	for i := range n {
		clear(e[i:])
		e[i] = 1
		u.f.Forward(e, i)
		out.Inv[i] = Dot(e[i:], e[i:])
	}
	return out, true
}

func (u *Update) throughValues(noise, res []float64, q int) (Solution, bool) {
	a, b := make([]float64, q*q), make([]float64, q)
	out := Solution{Y: make([]float64, len(res)), Inv: make([]float64, len(res))}
	for i, row := range u.rows {
		w := 1 / noise[i]
		out.Quad += res[i] * res[i] * w
		out.Logdet += math.Log(noise[i])
		for k, x := range row {
			if x == 0 {
				continue
			}
			x *= w
			b[k] += x * res[i]
			for m := 0; m <= k; m++ {
				a[k*q+m] += x * row[m]
			}
		}
	}
	for k := range q {
		a[k*q+k]++
		for m := range k {
			a[m*q+k] = a[k*q+m]
		}
	}
	var ok bool
	if u.f, ok = linear.Factor(a, q); !ok {
		return Solution{}, false
	}
	z := append([]float64(nil), b...)
	u.f.Forward(z, 0)
	out.Quad -= Dot(z, z)
	out.Logdet += u.f.LogDet()
	u.f.Back(z)
	h := make([]float64, q)
	for i, row := range u.rows {
		out.Y[i] = (res[i] - Dot(row, z)) / noise[i]
		copy(h, row)
		u.f.Forward(h, 0)
		out.Inv[i] = math.Max((1-Dot(h, h)/noise[i])/noise[i], 1e-12)
	}
	return out, true
}

// Variance is what is left of the variance of jᵀz once the readings are known, 0 or more.
func (u *Update) Variance(j []float64) float64 {
	if u == nil || len(u.rows) == 0 {
		return Dot(j, j)
	}
	if u.ByValue {
		h := append([]float64(nil), j...)
		u.f.Forward(h, 0)
		return Dot(h, h)
	}
	b := make([]float64, len(u.rows))
	for i, row := range u.rows {
		b[i] = Dot(row, j)
	}
	u.f.Forward(b, 0)
	return math.Max(Dot(j, j)-Dot(b, b), 0)
}

// Dot is the scalar product of two vectors of one length.
func Dot(x, y []float64) float64 {
	s := 0.0
	for i, v := range x {
		s += v * y[i]
	}
	return s
}
