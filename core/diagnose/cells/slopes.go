package cells

import (
	"iter"
	"math"
	"slices"
)

// table is a solver's room for slopes: a row for each node, V, and for each station, A, with a column for each
// uncertain value and severity, per standard deviation.
type table struct {
	nodes, values int
	all           []float32 // rows of nodes, then rows of stations
	steps         []float32 // room for packing
}

func newTable(nodes, stations, values int) table {
	return table{nodes, values, make([]float32, (nodes+stations)*values), make([]float32, 2*values)}
}

func (g *table) clear()                    { clear(g.all) }
func (g *table) v(node, u int) *float32    { return &g.all[node*g.values+u] }
func (g *table) i(station, u int) *float32 { return &g.all[(g.nodes+station)*g.values+u] }
func (g *table) rows() iter.Seq[[]float32] { return slices.Chunk(g.all, g.values) }

// packed is a table in a quarter to a half of its room: of what a bank holds, slopes are nearly all. Columns of
// nothing but zeros are left out, and the others stand as whole multiples of a step, one for volts and one for
// amperes, that is a 32,767th of the column's largest: far below what any meter shows.
type packed struct {
	nodes int
	cols  []uint16  // the values that are there
	steps []float32 // of each column: V, A
	all   []int16
}

// finest is how many steps the largest slope of a column is.
const finest = math.MaxInt16

func (g *table) pack() packed {
	p := packed{nodes: g.nodes}
	volts, amps := g.steps[:g.values], g.steps[g.values:]
	n := 0
	for u := range g.values {
		v, a := g.largest(u, 0, g.nodes), g.largest(u, g.nodes, len(g.all)/g.values)
		if volts[u], amps[u] = v/finest, a/finest; volts[u] > 0 || amps[u] > 0 {
			n++
		}
	}
	p.cols, p.steps = make([]uint16, 0, n), make([]float32, 0, 2*n)
	for u := range g.values {
		if volts[u] > 0 || amps[u] > 0 {
			p.cols, p.steps = append(p.cols, uint16(u)), append(p.steps, volts[u], amps[u])
		}
	}
	p.all = make([]int16, 0, n*len(g.all)/g.values)
	for r := range len(g.all) / g.values {
		for c, u := range p.cols {
			step := p.steps[2*c]
			if r >= g.nodes {
				step = p.steps[2*c+1]
			}
			p.all = append(p.all, steps(g.all[r*g.values+int(u)], step))
		}
	}
	return p
}

// largest is the largest magnitude in a column, between two rows; what is not finite does not count.
func (g *table) largest(u, from, to int) float32 {
	most := float32(0)
	for r := from; r < to; r++ {
		if x := g.all[r*g.values+u]; x > most && x <= math.MaxFloat32 {
			most = x
		} else if -x > most && -x <= math.MaxFloat32 {
			most = -x
		}
	}
	return most
}

// steps is a slope in steps, the nearest whole number; nothing where it is not finite.
func steps(x, step float32) int16 {
	q := x / step
	switch {
	case q >= 0 && q <= finest+0.5:
		return int16(min(q+0.5, finest))
	case q < 0 && q >= -finest-0.5:
		return int16(max(q-0.5, -finest))
	}
	return 0
}

// VoltSlopes fills out with the slopes of the volts from one node to another, V per standard deviation of each
// value; to < 0 is the reference.
func (l *Solved) VoltSlopes(out []float64, from, to int) {
	clear(out)
	p := &l.slopes
	n := len(p.cols)
	if n == 0 {
		return
	}
	one := p.all[from*n : (from+1)*n]
	if to < 0 {
		for c, u := range p.cols {
			out[u] = float64(p.steps[2*c]) * float64(one[c])
		}
		return
	}
	for c, x := range p.all[to*n : (to+1)*n] {
		out[p.cols[c]] = float64(p.steps[2*c]) * float64(int32(one[c])-int32(x))
	}
}

// AmpSlopes fills out with the slopes of a station's current, A per standard deviation of each value.
func (l *Solved) AmpSlopes(out []float64, station int) {
	clear(out)
	p := &l.slopes
	n := len(p.cols)
	if n == 0 {
		return
	}
	r := p.nodes + station
	for c, x := range p.all[r*n : (r+1)*n] {
		out[p.cols[c]] = float64(p.steps[2*c+1]) * float64(x)
	}
}

// RatioSlopes returns the slopes of the share of the speed per standard deviation of each value, nil where only
// [Solved.RatioSD] is known.
func (l *Solved) RatioSlopes() []float64 {
	if l.dratio == nil {
		return nil
	}
	out := make([]float64, len(l.dratio))
	for u, d := range l.dratio {
		out[u] = float64(d)
	}
	return out
}
