package diagnose

import "math"

// update is the linear-Gaussian update of a cell: readings y = J z + noise with standard
// normal z and independent noise. With fewer readings than values it works on the
// covariance of the readings, S = D + J Jᵀ; with more on the precision of the values,
// A = I + Jᵀ D⁻¹ J, by which S⁻¹ = D⁻¹ - D⁻¹ J A⁻¹ Jᵀ D⁻¹ and |S| = |D| |A| (the
// Woodbury identity; N. J. Higham, Accuracy and Stability of Numerical Algorithms): what
// one more reading costs grows with the readings, not with their cube.
type update struct {
	rows    [][]float64 // J, readings × values
	byValue bool
	f       chol // of A where byValue, else of S
}

// solved is what follows of residuals r.
type solved struct {
	y            []float64 // S⁻¹ r
	inv          []float64 // the diagonal of S⁻¹
	quad, logdet float64   // rᵀ S⁻¹ r, ln |S|
}

// newUpdate factors the update; ok is false where a number has run out of range.
func newUpdate(rows [][]float64, noise, res []float64, q int) (*update, solved, bool) {
	u := &update{rows: rows, byValue: len(rows) > q}
	if u.byValue {
		s, ok := u.throughValues(noise, res, q)
		return u, s, ok
	}
	s, ok := u.throughReadings(noise, res)
	return u, s, ok
}

func (u *update) throughReadings(noise, res []float64) (solved, bool) {
	n := len(u.rows)
	s := make([]float64, n*n)
	for i := range n {
		for j := 0; j <= i; j++ {
			x := dot(u.rows[i], u.rows[j])
			if i == j {
				x += noise[i]
			}
			s[i*n+j], s[j*n+i] = x, x
		}
	}
	var ok bool
	if u.f, ok = cholesky(s, n); !ok {
		return solved{}, false
	}
	out := solved{y: append([]float64(nil), res...), inv: make([]float64, n)}
	u.f.forward(out.y)
	for i, v := range out.y {
		out.quad += v * v
		out.logdet += 2 * math.Log(u.f.l[i*n+i])
	}
	u.f.back(out.y)
	e := make([]float64, n)
	for i := range n {
		clear(e[i:])
		e[i] = 1
		u.f.forwardFrom(e, i)
		out.inv[i] = dot(e[i:], e[i:])
	}
	return out, true
}

func (u *update) throughValues(noise, res []float64, q int) (solved, bool) {
	a, b := make([]float64, q*q), make([]float64, q)
	out := solved{y: make([]float64, len(res)), inv: make([]float64, len(res))}
	for i, row := range u.rows {
		w := 1 / noise[i]
		out.quad += res[i] * res[i] * w
		out.logdet += math.Log(noise[i])
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
	if u.f, ok = cholesky(a, q); !ok {
		return solved{}, false
	}
	z := append([]float64(nil), b...)
	u.f.forward(z)
	out.quad -= dot(z, z)
	for k := range q {
		out.logdet += 2 * math.Log(u.f.l[k*q+k])
	}
	u.f.back(z)
	h := make([]float64, q)
	for i, row := range u.rows {
		out.y[i] = (res[i] - dot(row, z)) / noise[i]
		copy(h, row)
		u.f.forward(h)
		out.inv[i] = math.Max((1-dot(h, h)/noise[i])/noise[i], 1e-12)
	}
	return out, true
}

// variance is what is left of the variance of jᵀz once the readings are known, 0 or more.
func (u *update) variance(j []float64) float64 {
	if u == nil || len(u.rows) == 0 {
		return dot(j, j)
	}
	if u.byValue {
		h := append([]float64(nil), j...)
		u.f.forward(h)
		return dot(h, h)
	}
	b := make([]float64, len(u.rows))
	for i, row := range u.rows {
		b[i] = dot(row, j)
	}
	u.f.forward(b)
	return math.Max(dot(j, j)-dot(b, b), 0)
}

func dot(x, y []float64) float64 {
	s := 0.0
	for i, v := range x {
		s += v * y[i]
	}
	return s
}
