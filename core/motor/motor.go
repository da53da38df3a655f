package motor

import "math"

// Params of a motor in SI units. The zero value of the fault fields (Extra,
// Drag, Seized) means a sound motor.
type Params struct {
	Resistance float64 // Ω, armature and leads
	BrushDrop  float64 // V, both brushes together
	Ke         float64 // V s/rad = N m/A; the limit at high current when series-wound
	Friction   float64 // N m
	Load       float64 // N m at RatedSpeed
	RatedSpeed float64 // rad/s
	LoadPower  int     // 0 constant, 1 linear, 2 square
	Series     bool    // series-wound instead of permanent magnet
	SatCurrent float64 // A, series-wound only
	Drag       float64 // N m s/rad, added by circulating current in shorted turns
	Seized     bool    // the shaft cannot turn
	BrushKnee  float64 // A, i0; 0.2 % of the normal running current
	SpeedKnee  float64 // rad/s, w0; 1 % of RatedSpeed
}

// Point is a solved operating point of a motor.
type Point struct {
	I, W    float64 // A from plus to minus, rad/s
	Stalled bool    // W is 0
}

func (p *Params) flux(i float64) (phi, dphi float64) {
	if !p.Series {
		return 1, 0
	}
	s2 := p.SatCurrent * p.SatCurrent
	q := i*i + s2
	if q == 0 {
		return 0, 0
	}
	r := math.Sqrt(q)
	return math.Abs(i) / r, math.Copysign(s2/(q*r), i)
}

// loadTorque returns the torque that opposes rotation at speed w >= 0 and its
// slope.
func (p *Params) loadTorque(w float64) (t, dt float64) {
	th := math.Tanh(w / p.SpeedKnee)
	t = p.Friction*th + p.Drag*w
	dt = p.Friction*(1-th*th)/p.SpeedKnee + p.Drag
	switch p.LoadPower {
	case 0:
		t += p.Load
	case 1:
		t += p.Load * w / p.RatedSpeed
		dt += p.Load / p.RatedSpeed
	default:
		x := w / p.RatedSpeed
		t += p.Load * x * x
		dt += 2 * p.Load * x / p.RatedSpeed
	}
	return t, dt
}

// currentFor returns the current that gives torque t >= 0.
func (p *Params) currentFor(t float64) float64 {
	if !p.Series {
		return t / p.Ke
	}
	s2, k2, t2 := p.SatCurrent*p.SatCurrent, p.Ke*p.Ke, t*t
	return math.Sqrt((t2 + math.Sqrt(t2*t2+4*k2*t2*s2)) / (2 * k2))
}

func (p *Params) brush(i float64) (v, dv float64) {
	if p.BrushDrop == 0 {
		return 0, 0
	}
	th := math.Tanh(i / p.BrushKnee)
	return p.BrushDrop * th, p.BrushDrop * (1 - th*th) / p.BrushKnee
}

// standstill solves voc = (R+rs) i + Vb tanh(i/i0) for i.
func (p *Params) standstill(voc, rs float64) float64 {
	r := p.Resistance + rs
	s := math.Copysign(1, voc)
	v := math.Abs(voc)
	lo, hi := 0.0, v/r
	i := math.Max((v-p.BrushDrop)/r, 0)
	for k := 0; k < 100; k++ {
		b, db := p.brush(i)
		f := r*i + b - v
		if f > 0 {
			hi = i
		} else {
			lo = i
		}
		n := i - f/(r+db)
		if !(n > lo && n < hi) {
			n = (lo + hi) / 2
		}
		if math.Abs(n-i) <= 1e-15*v/r {
			i = n
			break
		}
		i = n
	}
	return s * i
}

// Solve finds the operating point behind a supply of open-circuit voltage voc
// (V, plus against minus) and source resistance rs (Ω, >= 0). The functions
// involved are monotone, so a bracketed Newton iteration always converges.
func (p *Params) Solve(voc, rs float64) Point {
	t0, _ := p.loadTorque(0)
	i0 := p.currentFor(t0)
	b0, _ := p.brush(i0)
	r := p.Resistance + rs
	if p.Seized || voc <= 0 || voc <= r*i0+b0 {
		return Point{I: p.standstill(voc, rs), Stalled: true}
	}
	f := func(w float64) float64 {
		t, _ := p.loadTorque(w)
		i := p.currentFor(t)
		b, _ := p.brush(i)
		phi, _ := p.flux(i)
		return r*i + b + p.Ke*phi*w - voc
	}
	lo, hi := 0.0, voc/p.Ke
	for k := 0; k < 60 && f(hi) < 0; k++ { // a series-wound motor runs above voc/ke
		lo, hi = hi, hi*2
	}
	w := (lo + hi) / 2
	for k := 0; k < 200; k++ {
		fw := f(w)
		if fw > 0 {
			hi = w
		} else {
			lo = w
		}
		t, dt := p.loadTorque(w)
		i := p.currentFor(t)
		a, b, c := p.partials(i, w)
		// df/dw along i(w): di/dw = dt/c, df = (a + rs) di + b dw
		slope := (a+rs)*dt/c + b
		n := w - fw/slope
		if !(n > lo && n < hi) {
			n = (lo + hi) / 2
		}
		if math.Abs(n-w) <= 1e-13*hi {
			w = n
			break
		}
		w = n
	}
	t, _ := p.loadTorque(w)
	return Point{I: p.currentFor(t), W: w}
}

// partials returns ∂v/∂i, ∂v/∂w and ∂torque/∂i at a point.
func (p *Params) partials(i, w float64) (a, b, c float64) {
	_, db := p.brush(i)
	phi, dphi := p.flux(i)
	a = p.Resistance + db + dphi*p.Ke*w
	b = phi * p.Ke
	c = p.Ke * (phi + dphi*i)
	return a, b, c
}

// Slopes of a motor at an operating point, all at constant terminal voltage
// unless said.
type Slopes struct {
	DIDV, DWDV                     float64 // per volt at the terminals
	IR, IVb, IKe, IFriction, ILoad float64 // ∂i/∂parameter
	WR, WVb, WKe, WFriction, WLoad float64 // ∂w/∂parameter
}

// Linearize returns the implicit derivatives at a solved point; the brush knee
// is held constant.
func (p *Params) Linearize(pt Point) Slopes {
	i, w := pt.I, pt.W
	a, b, c := p.partials(i, w)
	thb := 0.0
	if p.BrushKnee > 0 {
		thb = math.Tanh(i / p.BrushKnee)
	}
	phi, _ := p.flux(i)
	var s Slopes
	if pt.Stalled {
		s.DIDV = 1 / a
		s.IR, s.IVb = -i/a, -thb/a
		return s
	}
	_, d := p.loadTorque(w)
	den := a*d + b*c
	// J = [[a, b], [c, -d]]; J [di dw]ᵀ = -[F1p, F2p]ᵀ; F1 = v(i,w) - v, F2 = torque(i) - T(w)
	solve := func(f1, f2 float64) (di, dw float64) {
		return -(d*f1 + b*f2) / den, (-c*f1 + a*f2) / den
	}
	s.DIDV, s.DWDV = d/den, c/den
	s.IR, s.WR = solve(i, 0)
	s.IVb, s.WVb = solve(thb, 0)
	s.IKe, s.WKe = solve(phi*w, phi*i)
	s.IFriction, s.WFriction = solve(0, -math.Tanh(w/p.SpeedKnee))
	x := 1.0
	for k := 0; k < p.LoadPower; k++ {
		x *= w / p.RatedSpeed
	}
	s.ILoad, s.WLoad = solve(0, -x)
	return s
}
