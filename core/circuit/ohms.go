package circuit

import (
	"math"
	"slices"
)

// An ohmmeter in a disconnected circuit. A technician unplugs what lies beside
// the part, so a reading sees only the parts between the probes: those that join
// the two nodes directly, else the shortest string of parts from one to the
// other. A state with ohms "network" sees everything that is joined instead: a
// stator's phases cannot be unplugged from each other.

type ohmKey struct{ state, a, b int }

// ohmPath is what lies between two probes.
type ohmPath struct {
	stations []int
	nodes    []int // a string: one more than stations
	direct   bool  // the stations lie side by side
	second   int   // the parameter that counts, read at a part's second way in; 0: none
}

// ohmScratch holds the last reading that was worked out.
type ohmScratch struct {
	key    ohmKey
	ok     bool
	ohms   float64
	factor []float64 // station: ∂ohms/∂(its own ohms)
	r      []float64
	on     []bool
	net    bool
}

func (o *ohmScratch) init(nodes, stations int) {
	o.factor, o.r, o.on = make([]float64, stations), make([]float64, nodes+stations), make([]bool, stations)
	o.key.a = -1
}

// route returns the shortest string of stations from a to b in a state, nil
// when there is none. With loop set, nothing but plain parts counts: what a
// controller measures through its own terminals.
func (n *Network) route(state, a, b int, loop bool) []int {
	p := n.find(state, a, b, loop)
	if p == nil {
		return nil
	}
	return p.stations
}

func (n *Network) find(state, a, b int, loop bool) *ohmPath {
	na, nb := n.na[state], n.nb[state]
	usable := func(k int) bool {
		switch n.C.Stations[k].Kind {
		case Source, Charger, Control:
			return false
		case Driver, Throttle:
			if loop {
				return false
			}
		}
		return n.C.Stations[k].Kind.HasNodes() && n.presentIn[state][k]
	}
	p := &ohmPath{}
	for k := range na {
		if x := n.C.Stations[k].Second; x != nil && !loop && n.C.States[state].Supply == "none" {
			if f, t := n.C.nodeIndex[x.From], n.C.nodeIndex[x.To]; f == a && t == b || f == b && t == a {
				return &ohmPath{stations: []int{k}, direct: true, second: slices.Index(slotNames[:], x.Param)}
			}
		}
		if usable(k) && (na[k] == a && nb[k] == b || na[k] == b && nb[k] == a) {
			p.stations = append(p.stations, k)
		}
	}
	if len(p.stations) > 0 {
		p.direct = true
		return p
	}
	// Breadth first; a contact that rests open costs as much as any part.
	prev := make([]int, len(n.C.Nodes))
	via := make([]int, len(n.C.Nodes))
	for i := range prev {
		prev[i] = -1
	}
	prev[a] = a
	queue := []int{a}
	for len(queue) > 0 && prev[b] < 0 {
		x := queue[0]
		queue = queue[1:]
		for k := range na {
			if !usable(k) {
				continue
			}
			y := -1
			if na[k] == x {
				y = nb[k]
			} else if nb[k] == x {
				y = na[k]
			}
			if y >= 0 && prev[y] < 0 {
				prev[y], via[y] = x, k
				queue = append(queue, y)
			}
		}
	}
	if prev[b] < 0 {
		return nil
	}
	p.nodes = []int{b}
	for x := b; x != a; x = prev[x] {
		p.stations = append(p.stations, via[x])
		p.nodes = append(p.nodes, prev[x])
	}
	slices.Reverse(p.stations)
	slices.Reverse(p.nodes)
	return p
}

func (n *Network) between(key ohmKey) *ohmPath {
	if p, ok := n.paths.Load(key); ok {
		return p.(*ohmPath)
	}
	p := n.find(key.state, key.a, key.b, false)
	n.paths.Store(key, p)
	return p
}

// PrepareOhms sets an unpowered state for [Work.Ohms] and [Work.DOhms].
func (w *Work) PrepareOhms(state int, theta []float64, h []Health) {
	n := w.net
	w.st, w.theta, w.h, w.lin = state, theta, h, false
	w.a, w.b = n.na[state], n.nb[state]
	w.brake, w.second = false, 0
	for i := range w.coil {
		w.coil[i] = false
	}
	w.ohm.key.a = -1
	if w.ohm.net = n.C.States[state].Ohms == "network"; w.ohm.net {
		w.prepareNetwork()
	}
}

// Ohms returns the resistance between two nodes as an ohmmeter would see it,
// and false for an open line.
func (w *Work) Ohms(a, b int) (float64, bool) {
	if w.ohm.net {
		if w.find(a) != w.find(b) {
			return 0, false
		}
		return w.SourceOhms(a, b), true
	}
	w.string(a, b)
	return w.ohm.ohms, w.ohm.ok
}

// Between reports whether a station lies between two probes in a disconnected
// state.
func (n *Network) Between(state, a, b, k int) bool {
	p := n.between(ohmKey{state, a, b})
	return p != nil && slices.Contains(p.stations, k)
}

// OhmsThrough returns the resistance of one station pulled for the reading.
func (w *Work) OhmsThrough(k int) (float64, bool) {
	r := w.stationOhms(k)
	return r, !math.IsInf(r, 1)
}

// string works out a reading over the parts between the probes.
func (w *Work) string(a, b int) {
	o := &w.ohm
	if o.key.state == w.st && o.key.a == a && o.key.b == b {
		return
	}
	o.key = ohmKey{w.st, a, b}
	clear(o.factor)
	p := w.net.between(o.key)
	w.second = 0
	if p != nil {
		w.second = p.second
	}
	switch {
	case p == nil:
		g := w.shuntBetween(a, b)
		o.ok = g > 0
		o.ohms = 1 / math.Max(g, 1e-30)
		return
	case p.direct:
		g := w.shuntBetween(a, b)
		for _, k := range p.stations {
			g += 1 / math.Max(w.stationOhms(k), 1e-12)
		}
		if o.ok = g > 0; !o.ok {
			return
		}
		o.ohms = 1 / g
		for _, k := range p.stations {
			if r := w.stationOhms(k); !math.IsInf(r, 1) {
				o.factor[k] = o.ohms / r * o.ohms / r
			}
		}
		return
	}
	r := o.r[:len(p.stations)]
	for i, k := range p.stations {
		r[i] = w.stationOhms(k)
		o.factor[k] = 1
	}
	// Faults to the body bridge a stretch of the string when both of their ends
	// lie on it.
	for k := range w.h {
		if w.h[k].Shunt <= 0 {
			continue
		}
		i, j := slices.Index(p.nodes, w.a[k]), slices.Index(p.nodes, w.shuntTo(k))
		if i > j {
			i, j = j, i
		}
		if i < 0 || i == j {
			continue
		}
		seg := 0.0
		for x := i; x < j; x++ {
			seg += r[x]
		}
		f := 0.0
		par := w.h[k].Shunt
		if !math.IsInf(seg, 1) {
			f = par / (par + seg)
			par = par * seg / (par + seg)
		}
		for x := i; x < j; x++ {
			o.factor[p.stations[x]] *= f * f
			r[x] = par / float64(j-i)
		}
	}
	o.ohms = 0
	for _, x := range r {
		o.ohms += x
	}
	o.ok = !math.IsInf(o.ohms, 1)
}

// shuntBetween is the conductance of faults that join two nodes directly.
func (w *Work) shuntBetween(a, b int) float64 {
	g := 0.0
	for k := range w.h {
		if w.h[k].Shunt > 0 {
			if x, y := w.a[k], w.shuntTo(k); x == a && y == b || x == b && y == a {
				g += 1 / w.h[k].Shunt
			}
		}
	}
	return g
}

// prepareNetwork factors the passive network.
func (w *Work) prepareNetwork() {
	w.build(true)
	// An ohmmeter's OL stands for every open, so opens are left out; each
	// island is tied to ground at one node, which carries no current.
	k := 0
	for i := range w.el {
		if !w.isOp[i] {
			w.el[k] = w.el[i]
			k++
		}
	}
	w.el, w.isOp = w.el[:k], w.isOp[:k]
	for i := range w.isOp {
		w.isOp[i] = false
	}
	w.connect()
	gr := w.find(w.net.ground)
	for i := range w.uf {
		if w.find(i) == i && i != gr {
			w.el = append(w.el, element{-1, i, w.net.ground, 1})
			w.isOp = append(w.isOp, false)
		}
	}
	w.assemble()
	n := w.n
	for c := 0; c < n; c++ {
		col := w.z[c*n : c*n+n]
		clear(col)
		col[c] = 1
		w.factor.Solve(col)
	}
}

// DOhms returns ∂(resistance between a and b)/∂parameter, Ω per unit.
func (w *Work) DOhms(a, b, p int) float64 {
	pr := w.net.Params[p]
	k := pr.Station
	if ParamUnit(pr.Name) != "ohm" {
		return 0
	}
	if !w.ohm.net {
		w.string(a, b)
		if pr.slot != w.slotOf(k) {
			return 0
		}
		return w.ohm.factor[k] * w.h[k].R
	}
	if pr.slot != w.slotOf(k) {
		return 0
	}
	for _, e := range w.el {
		if e.station != k {
			continue
		}
		// u: voltage across the element when 1 A flows from a to b.
		u := 0.0
		if r := w.row[e.a]; r >= 0 {
			u += w.zAt(r, a) - w.zAt(r, b)
		}
		if r := w.row[e.b]; r >= 0 {
			u -= w.zAt(r, a) - w.zAt(r, b)
		}
		i := u * e.g // current through the element
		return i * i * w.h[k].R
	}
	return 0
}
