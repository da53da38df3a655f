package field

import (
	"math"

	"corriente/core/circuit"
)

// solve is one linear pass: the rest of the circuit as a source behind a resistance, the
// motor on it, and then every node.
func (n *net) solve() *point {
	m := n.m
	nn := len(m.C.Nodes)
	p := &point{i: make([]float64, len(m.C.Stations)), closed: n.closed}
	ground := m.node[circuit.Ground]
	g := make([][]float64, nn)
	for i := range g {
		g[i] = make([]float64, nn)
		g[i][i] = 1e-12
	}
	rhs := make([]float64, nn)
	for _, x := range n.parts {
		y := 1 / x.r
		g[x.a][x.a] += y
		g[x.b][x.b] += y
		g[x.a][x.b] -= y
		g[x.b][x.a] -= y
		rhs[x.a] += y * x.emf
		rhs[x.b] -= y * x.emf
	}
	for j := range g[ground] {
		g[ground][j] = 0
	}
	g[ground][ground], rhs[ground] = 1, 0
	k := m.motorAt()
	if !n.present(k) {
		p.v = gauss(g, rhs)
		n.currents(p)
		return p
	}
	a, b := n.ends(k)
	if n.st.Uses[m.C.Stations[k].ID] == "resistance_high" && m.C.Stations[k].Second != nil {
		a = m.node[m.C.Stations[k].Second.From]
	}
	probe := make([]float64, nn)
	if a != ground {
		probe[a]++
	}
	if b != ground {
		probe[b]--
	}
	v0, z := gauss(clone(g), append([]float64(nil), rhs...)), gauss(clone(g), probe)
	voc, rs := v0[a]-v0[b], math.Max(z[a]-z[b], 1e-9)
	i, w := n.turn(k, math.Abs(voc), rs)
	i = math.Copysign(i, voc)
	p.v = v0
	for j := range p.v {
		p.v[j] -= i * z[j]
	}
	n.currents(p)
	p.i[k], p.amps, p.speed, p.stalled = i, math.Abs(i), w, w == 0 && math.Abs(i) > 0.4*math.Max(m.normalOf(k), 0.1)
	return p
}

func (m *Machine) normalOf(k int) float64 {
	if m.normal == nil {
		return 0.1
	}
	return m.normal[k]
}

func (n *net) currents(p *point) {
	for _, x := range n.parts {
		if x.station >= 0 {
			p.i[x.station] += (p.v[x.a] - p.v[x.b] - x.emf) / x.r
		}
	}
	n.last = p.v
}

// shaft is what a motor is in one state: its winding and what holds it back.
type shaft struct {
	r, ke, brush, knee float64 // Ω, V s/rad, V, A
	run, hold          float64 // N m: Coulomb friction running, and what must be overcome to start
	load, expo, rated  float64
	viscous            float64 // N m s/rad
	locked             bool
}

func (n *net) shaft(k int) (s shaft, open bool) {
	m := n.m
	v := m.par[k]
	name, ke := "resistance", "ke"
	if n.st.Uses[m.C.Stations[k].ID] == "resistance_high" {
		name, ke = "resistance_high", "ke_high"
	}
	if _, ok := n.fault(k, "winding_open"); ok {
		return s, true
	}
	s = shaft{r: v[name], ke: v[ke], brush: v["brush_drop"], run: v["friction"], rated: v["rated_speed"]}
	s.r *= 1 + 0.0039*(m.warm-10)
	worn := []string{"brushes_worn", map[string]string{"resistance": "low_brush_worn", "resistance_high": "high_brush_worn"}[name]}
	if f, ok := n.fault(k, worn...); ok {
		if f.Severity >= openOhms {
			return s, true
		}
		s.r += f.Severity * n.noise[k]
	} else {
		s.r *= n.noise[k]
	}
	if f, ok := n.fault(k, "commutator_damaged"); ok {
		s.r += f.Severity
	}
	if f, ok := n.fault(k, "shorted_turns"); ok {
		s.r *= f.Severity
		s.ke *= f.Severity
		// The shorted coils brake as an eddy-current disc does.
		s.viscous = 0.3 * (1 - f.Severity) * v[ke] * v[ke] / v[name]
	}
	if f, ok := n.fault(k, "bearing_drag"); ok { // dry bearings: Coulomb friction, and some that grows with speed
		s.run *= 1 + 0.8*(f.Severity-1)
		s.viscous += 0.2 * (f.Severity - 1) * v["friction"] / s.rated
	}
	_, s.locked = n.fault(k, "seized")
	s.knee = 0.01 * math.Max(m.normalOf(k), 0.1)
	n.works(&s, v["load"])
	s.hold = m.stick * s.run
	if s.expo < 0.5 {
		s.hold = math.Max(s.hold, s.run+0.9*s.load)
	}
	return s, false
}

// works adds what the motor turns.
func (n *net) works(s *shaft, load float64) {
	m := n.m
	if n.st.Load == "free" {
		return
	}
	d, k := -1, m.motorAt()
	for i := range m.C.Stations {
		if m.C.Stations[i].Kind == circuit.Drive {
			d = i
		}
	}
	s.load = load * n.factor
	if n.st.LoadFactor > 0 {
		s.load *= n.st.LoadFactor
	}
	switch m.C.Stations[k].LoadLaw {
	case "linear":
		s.expo = math.Max(1+m.expo, 0.3)
	case "square":
		s.expo = math.Max(2+2*m.expo, 0.8)
	default:
		s.expo = math.Min(math.Abs(m.expo), 0.3)
	}
	if d < 0 {
		return
	}
	if n.held {
		s.locked = true
	}
	if _, ok := n.fault(d, "jammed"); ok {
		s.locked = true
	}
	if _, ok := n.fault(d, "slipping"); ok {
		s.load *= 0.03
	}
	if f, ok := n.fault(d, "binding"); ok { // dry pivots rub: friction, whatever the speed
		s.run += (f.Severity - 1) * load
	}
}

func (s *shaft) torque(w float64) float64 {
	return s.run + s.viscous*w + s.load*math.Pow(w/s.rated, s.expo)
}

// drop is the brushes' share: it rises fast at first and then slowly with current.
func (s *shaft) drop(i float64) float64 {
	return s.brush * (i / (i + s.knee)) * (0.85 + 0.1*math.Log1p(i/(s.knee*100)))
}

// amps is the current at a speed behind a source.
func (s *shaft) amps(voc, rs, w float64) float64 {
	v := voc - s.ke*w
	if v <= 0 {
		return 0
	}
	lo, hi := 0.0, v/(s.r+rs)
	for range 60 {
		mid := (lo + hi) / 2
		if (s.r+rs)*mid+s.drop(mid) > v {
			hi = mid
		} else {
			lo = mid
		}
	}
	return lo
}

// turn finds current and speed by bisection on the speed: torque falls as it rises.
func (n *net) turn(k int, voc, rs float64) (i, w float64) {
	s, open := n.shaft(k)
	if open {
		return 0, 0
	}
	i0 := s.amps(voc, rs, 0)
	if s.locked || s.ke*i0 <= s.hold {
		return i0, 0
	}
	lo, hi := 0.0, voc/s.ke
	for range 60 {
		mid := (lo + hi) / 2
		if s.ke*s.amps(voc, rs, mid) > s.torque(mid) {
			lo = mid
		} else {
			hi = mid
		}
	}
	if lo < 0.004*s.rated {
		return i0, 0
	}
	return s.amps(voc, rs, lo), lo
}

func clone(g [][]float64) [][]float64 {
	out := make([][]float64, len(g))
	for i := range g {
		out[i] = append([]float64(nil), g[i]...)
	}
	return out
}

// gauss solves g x = b by elimination with pivoting; both are used up.
func gauss(g [][]float64, b []float64) []float64 {
	n := len(b)
	for c := range n {
		p := c
		for r := c + 1; r < n; r++ {
			if math.Abs(g[r][c]) > math.Abs(g[p][c]) {
				p = r
			}
		}
		g[c], g[p], b[c], b[p] = g[p], g[c], b[p], b[c]
		for r := c + 1; r < n; r++ {
			if f := g[r][c] / g[c][c]; f != 0 {
				for j := c; j < n; j++ {
					g[r][j] -= f * g[c][j]
				}
				b[r] -= f * b[c]
			}
		}
	}
	for c := n - 1; c >= 0; c-- {
		for j := c + 1; j < n; j++ {
			b[c] -= g[c][j] * b[j]
		}
		b[c] /= g[c][c]
	}
	return b
}
