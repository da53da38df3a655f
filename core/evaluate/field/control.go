package field

import (
	"math"

	"corriente/core/circuit"
)

// withheld says whether a controller's own checks keep its output back. Limits differ
// between makers, and now and then a check does not work.
func (n *net) withheld(k int) bool {
	m, s := n.m, &n.m.C.Stations[k]
	for i := range s.Guards {
		g := &s.Guards[i]
		if g.Code && !m.guardsOK[k] {
			continue
		}
		switch g.Kind {
		case "closed":
			c := m.C.StationIndex(g.Station)
			_, lost := n.fault(c, "open")
			if !n.isClosed(c) || lost {
				return true
			}
		case "neutral":
			if _, ok := n.fault(m.C.StationIndex(g.Station), "out_of_neutral"); ok {
				return true
			}
		default:
			r := m.loop(n.st, m.node[g.From], m.node[g.To])
			if math.IsInf(r, 1) || g.Max > 0 && r > g.Max*m.guardBy || r < g.Min*m.guardBy {
				return true
			}
		}
	}
	return false
}

// controller says whether a controller with checks is awake, and whether it withholds.
func (n *net) controller(p *point) (live, trips bool) {
	m := n.m
	for k := range m.C.Stations {
		s := &m.C.Stations[k]
		if len(s.Guards) == 0 || n.st.Supply != "battery" {
			continue
		}
		live = p.v[m.node[s.From]]-p.v[m.node[s.Returns]] > 0.7*m.C.NominalVoltage
		for i := range s.Guards {
			if g := &s.Guards[i]; g.Kind == "closed" && !g.Code && !n.isClosed(m.C.StationIndex(g.Station)) {
				live = false
			}
		}
		trips = live && m.guardsOK[k] && n.withheld(k)
	}
	return live, trips
}

// loop is what an ohmmeter sees between two nodes over the parts that lie between them,
// +Inf where there is no way. It takes the way with the fewest parts, and what lies
// parallel to one of them.
func (m *Machine) loop(st *circuit.State, from, to int) float64 {
	n := m.in(st)
	type branch struct {
		a, b int
		r    float64
	}
	var bs []branch
	for k := range m.C.Stations {
		s := &m.C.Stations[k]
		if !s.Kind.HasNodes() || !n.present(k) || s.Kind == circuit.Source || s.Kind == circuit.Charger ||
			s.Kind == circuit.Control || s.Kind == circuit.Driver {
			continue
		}
		a, b := n.ends(k)
		r, open := n.ohms(k)
		switch s.Kind {
		case circuit.Contact:
			open = open || !n.isClosed(k)
		case circuit.Throttle:
			r = 5000
		case circuit.Motor:
			sh, broken := n.shaft(k)
			r, open = sh.r, broken
			if s.Second != nil { // the other brush
				bs = append(bs, branch{m.node[s.Second.From], m.node[s.Second.To], m.par[k][s.Second.Param]})
			}
		}
		if f, ok := n.fault(k, "short_to_ground", "winding_grounded"); ok {
			end := m.node[circuit.Ground]
			if s.Kind == circuit.Motor {
				if end = b; s.Frame != "" {
					end = m.node[s.Frame]
				}
			}
			bs = append(bs, branch{a, end, f.Severity})
		}
		if open {
			r = math.Inf(1)
		}
		bs = append(bs, branch{a, b, r})
	}
	// Breadth first over whatever is wired, open or not: that is how a technician goes.
	before := map[int]int{from: -1}
	queue := []int{from}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		for _, x := range bs {
			for _, step := range [][2]int{{x.a, x.b}, {x.b, x.a}} {
				if _, seen := before[step[1]]; step[0] == at && !seen {
					before[step[1]] = at
					queue = append(queue, step[1])
				}
			}
		}
	}
	if _, ok := before[to]; !ok {
		return math.Inf(1)
	}
	total := 0.0
	for at := to; before[at] >= 0; at = before[at] {
		g := 0.0
		for _, x := range bs {
			if x.a == at && x.b == before[at] || x.b == at && x.a == before[at] {
				g += 1 / math.Max(x.r, 1e-6)
			}
		}
		if g == 0 {
			return math.Inf(1)
		}
		total += 1 / g
	}
	return total
}
