package circuit

import (
	"math"
	"math/cmplx"
)

// Alternating current: a stator turned by its engine, and the windings of a
// capacitor motor. Both are small linear networks at one frequency, solved as
// phasors: each winding is its own EMF behind R + jωL.

// acPoint is a solved network at one frequency.
type acPoint struct {
	v    []complex128 // V rms against the ground node
	i    []complex128 // A rms through stations, from → to
	live []int        // union-find root of each node; nodes of one root are joined
	g    []complex128
	rhs  []complex128
}

// phaseOf is the angle of each winding's EMF in the order of the stations:
// 0, -120 and +120 degrees.
func phaseOf(n int) complex128 { return cmplx.Rect(1, -2*math.Pi/3*float64(n)) }

// solveRunning solves a state in which an engine turns the generator, or mains
// feeds a motor.
func (w *Work) solveRunning() {
	n := w.net
	nn, ns := len(n.C.Nodes), len(n.C.Stations)
	if w.ac.v == nil {
		w.ac = acPoint{v: make([]complex128, nn), i: make([]complex128, ns), live: make([]int, nn),
			g: make([]complex128, nn*nn), rhs: make([]complex128, nn)}
	}
	clear(w.V)
	clear(w.I)
	clear(w.Held)
	for i := range w.uf {
		w.uf[i], w.Island[i] = i, i
	}
	w.hasM = false
	ac := &w.ac
	clear(ac.g)
	clear(ac.rhs)
	clear(ac.i)
	st := &n.C.States[w.st]
	for i := range nn {
		ac.g[i*nn+i] = 1e-9 // keeps a floating stator's equations solvable
	}
	ac.g[n.ground*nn+n.ground] = 1e9
	add := func(a, b int, y, emf complex128) {
		ac.g[a*nn+a] += y
		ac.g[b*nn+b] += y
		ac.g[a*nn+b] -= y
		ac.g[b*nn+a] -= y
		ac.rhs[a] += y * emf
		ac.rhs[b] -= y * emf
		w.uf[w.find(a)] = w.find(b)
	}
	phase := 0
	for k := range n.C.Stations {
		w.Closed[k] = n.C.Stations[k].Kind == Contact && n.presentIn[w.st][k] && w.contactClosed(k)
		if y, emf, ok := w.admittance(k, &phase); ok {
			add(w.a[k], w.b[k], y, emf)
		}
		if s := w.h[k].Shunt; s > 0 && n.presentIn[w.st][k] && w.shuntTo(k) != w.a[k] {
			add(w.a[k], w.shuntTo(k), complex(1/s, 0), 0)
		}
	}
	if st.Feed != nil {
		add(n.feedP[w.st], n.fdM[w.st], 1e3, complex(n.C.NominalVoltage, 0))
	}
	solveComplex(ac.g, ac.rhs, nn)
	copy(ac.v, ac.rhs)
	for i := range ac.live {
		ac.live[i] = w.find(i)
	}
	phase = 0
	for k := range n.C.Stations {
		if y, emf, ok := w.admittance(k, &phase); ok {
			ac.i[k] = y * (ac.v[w.a[k]] - ac.v[w.b[k]] - emf)
			w.I[k] = cmplx.Abs(ac.i[k])
		}
	}
	w.charging()
}

// admittance returns what a station is to alternating current, its EMF, and
// false for what does not carry any here. phase counts the generating windings.
func (w *Work) admittance(k int, phase *int) (y, emf complex128, ok bool) {
	n, h := w.net, &w.h[k]
	s := &n.C.Stations[k]
	omega := 2 * math.Pi * n.C.Frequency
	ph := *phase
	if s.Kind == Winding && n.pi[k][slotEMF] >= 0 {
		*phase++
	}
	if !n.presentIn[w.st][k] || h.Open {
		return 0, 0, false
	}
	switch s.Kind {
	case Winding:
		r := w.param(k, slotR)*h.R + h.Extra
		// Inductance goes with the square of the turns that are left.
		z := complex(r, omega*w.param(k, slotInductance)*h.R*h.R)
		return 1 / z, complex(w.param(k, slotEMF)*h.Ke, 0) * phaseOf(ph), true
	case Capacitor:
		if h.Short {
			return 1 / complex(0.1, 0), 0, true
		}
		return complex(0, omega*w.param(k, slotCapacitance)*h.Cap), 0, true
	case Contact:
		if !w.contactClosed(k) {
			return 0, 0, false
		}
		return complex(1/(w.param(k, slotR)*h.R+h.Extra), 0), 0, true
	}
	return 0, 0, false
}

// solveComplex solves g x = b in place by Gaussian elimination with pivoting.
func solveComplex(g, b []complex128, n int) {
	for c := range n {
		p := c
		for r := c + 1; r < n; r++ {
			if cmplx.Abs(g[r*n+c]) > cmplx.Abs(g[p*n+c]) {
				p = r
			}
		}
		if p != c {
			for k := range n {
				g[c*n+k], g[p*n+k] = g[p*n+k], g[c*n+k]
			}
			b[c], b[p] = b[p], b[c]
		}
		for r := c + 1; r < n; r++ {
			f := g[r*n+c] / g[c*n+c]
			if f == 0 {
				continue
			}
			for k := c; k < n; k++ {
				g[r*n+k] -= f * g[c*n+k]
			}
			b[r] -= f * b[c]
		}
	}
	for r := n - 1; r >= 0; r-- {
		for k := r + 1; k < n; k++ {
			b[r] -= g[r*n+k] * b[k]
		}
		b[r] /= g[r*n+r]
	}
}

// ACVolts returns the rms voltage between two nodes of a running state, and
// false where nothing joins them, so that a meter shows a ghost.
func (w *Work) ACVolts(a, b int) (float64, bool) {
	if w.ac.v == nil {
		return 0, false
	}
	if w.ac.live[a] != w.ac.live[b] {
		return 0, false
	}
	return cmplx.Abs(w.ac.v[a] - w.ac.v[b]), true
}

// rectifierDiodes is the drop of the two diodes in the path, V (common practice).
const rectifierDiodes = 1.4

// singlePhaseLoss is how far a regulator that lives on one pair of lines falls
// short at idle, V (from memory).
const singlePhaseLoss = 0.6

// charging sets the battery's voltage in a running state from what the
// rectifier is offered: 1.35 times the line voltage of three phases, 0.9 times
// of one pair (mean of the rectified sine; any text on power electronics).
func (w *Work) charging() {
	n := w.net
	if n.battery < 0 {
		return
	}
	bp, bn := w.a[n.battery], w.b[n.battery]
	hb := &w.h[n.battery]
	v := w.param(n.battery, slotEMF) + hb.EMF
	for k := range n.C.Stations {
		if n.C.Stations[k].Kind != Rectifier || !n.presentIn[w.st][k] || w.h[k].Silent || w.h[k].Short {
			continue
		}
		var lines []float64
		var nodes []int
		for i := range n.C.Stations {
			if n.C.Stations[i].Kind == Winding {
				nodes = append(nodes, w.a[i])
			}
		}
		for i := range nodes {
			for j := i + 1; j < len(nodes); j++ {
				if x, ok := w.ACVolts(nodes[i], nodes[j]); ok && x > 1 && !w.cut(nodes[i]) && !w.cut(nodes[j]) {
					lines = append(lines, x)
				}
			}
		}
		if len(lines) == 0 {
			continue
		}
		mean, least := 0.0, math.Inf(1)
		for _, x := range lines {
			mean += x / float64(len(lines))
			least = math.Min(least, x)
		}
		want := w.param(k, slotVoltage)
		offered := 1.35*mean - rectifierDiodes
		if len(lines) < 3 || least < 0.6*mean {
			offered = 0.9*mean - rectifierDiodes
			want -= singlePhaseLoss
		}
		v = math.Max(v, math.Min(want, offered))
	}
	w.V[bp], w.V[bn] = v, 0
	w.Held[bp], w.Held[bn] = true, true
	w.Island[bp] = w.Island[bn]
}

// cut reports whether a plug on a line is open or too poor to pass current.
func (w *Work) cut(node int) bool {
	for k := range w.net.C.Stations {
		if w.net.C.Stations[k].Kind == Joint && w.a[k] == node && (w.h[k].Open || w.h[k].Extra > 1) {
			return true
		}
	}
	return false
}

// StartTorque returns the product |I_run| |I_start| sin(angle) of a capacitor
// motor at standstill, A²: its starting torque but for a constant (two-phase
// theory of the induction motor). Zero without both windings alive.
func (w *Work) StartTorque() float64 {
	var i []complex128
	for k := range w.net.C.Stations {
		if w.net.C.Stations[k].Kind == Winding {
			i = append(i, w.ac.i[k])
		}
	}
	if len(i) != 2 {
		return 0
	}
	return math.Abs(imag(cmplx.Conj(i[0]) * i[1]))
}

// WindingAmps returns the rms current through a station of a running state.
func (w *Work) WindingAmps(k int) float64 { return cmplx.Abs(w.ac.i[k]) }
