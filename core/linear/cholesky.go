package linear

import "math"

// Cholesky is the lower factor L of a symmetric positive definite matrix A = L Lᵀ. Solving allocates nothing.
type Cholesky struct {
	n int
	l []float64 // row by row; what stands above the diagonal is left as it was
}

// Factor factors a matrix of n rows, given row by row, in its own place (G. H. Golub and C. F. Van Loan, Matrix
// Computations, 4.2). Only its lower triangle is read. ok is false where it is not positive definite.
func Factor(a []float64, n int) (c Cholesky, ok bool) { return factor(a, n, 0) }

// FactorAbove is [Factor] for a matrix that is positive definite by what it stands for: a pivot below least, above
// zero, is the arithmetic's own error and is taken as least.
func FactorAbove(a []float64, n int, least float64) Cholesky {
	c, _ := factor(a, n, least)
	return c
}

func factor(a []float64, n int, least float64) (Cholesky, bool) {
	for i := range n {
		ri := a[i*n : i*n+n]
		for j := 0; j <= i; j++ {
			rj := a[j*n : j*n+n]
			s := ri[j]
			for k := range j {
				s -= ri[k] * rj[k]
			}
			if i != j {
				ri[j] = s / rj[j]
				continue
			}
			if least > 0 {
				s = math.Max(s, least)
			} else if !(s > 0) {
				return Cholesky{}, false
			}
			ri[i] = math.Sqrt(s)
		}
	}
	return Cholesky{n, a}, true
}

// LogDet returns the natural logarithm of the determinant of A.
func (c Cholesky) LogDet() float64 {
	d := 0.0
	for i := range c.n {
		d += 2 * math.Log(c.l[i*c.n+i])
	}
	return d
}

// Solve solves A x = b in place.
func (c Cholesky) Solve(b []float64) {
	c.Forward(b, 0)
	c.Back(b)
}

// Forward solves L y = b in place, where b is zero before from.
func (c Cholesky) Forward(b []float64, from int) {
	for i := from; i < c.n; i++ {
		row := c.l[i*c.n : i*c.n+i+1]
		s := b[i]
		for k := from; k < i; k++ {
			s -= row[k] * b[k]
		}
		b[i] = s / row[i]
	}
}

// Back solves Lᵀ x = y in place.
func (c Cholesky) Back(b []float64) {
	for i := c.n - 1; i >= 0; i-- {
		s := b[i]
		for k := i + 1; k < c.n; k++ {
			s -= c.l[k*c.n+i] * b[k]
		}
		b[i] = s / c.l[i*c.n+i]
	}
}
