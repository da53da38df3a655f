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
	whole         []int16
}

func newTable(nodes, stations, values int) table {
	return table{nodes: nodes, values: values, all: make([]float32, (nodes+stations)*values), steps: make([]float32, 2*values)}
}

func (g *table) clear()                    { clear(g.all) }
func (g *table) v(node, u int) *float32    { return &g.all[node*g.values+u] }
func (g *table) i(station, u int) *float32 { return &g.all[(g.nodes+station)*g.values+u] }
func (g *table) rows() iter.Seq[[]float32] { return slices.Chunk(g.all, g.values) }

// packed is a table in a tenth to a third of its room: of what a bank holds, slopes are nearly all. Columns of
// nothing but zeros are left out, and rows that are the same stand once, as those of stations in series. What is
// left stands as whole multiples of a step, one for volts and one for amperes, that is a 32,767th of the column's
// largest: far below what any meter shows.
type packed struct {
	nodes int
	cols  []uint16  // the values that are there
	steps []float32 // of each column: V, A
	rows  []uint16  // of each node, then of each station: which of the rows that are there
	all   []int16
}

// finest is how many steps the largest slope of a column is.
const finest = math.MaxInt16

func (g *table) pack() packed {
	volts, amps := g.steps[:g.values], g.steps[g.values:]
	g.largest(volts, g.all[:g.nodes*g.values])
	g.largest(amps, g.all[g.nodes*g.values:])
	n := 0
	for u := range g.values {
		if volts[u] > 0 || amps[u] > 0 {
			n++
		}
	}
	rows := len(g.all) / g.values
	p := packed{nodes: g.nodes, cols: make([]uint16, 0, n), steps: make([]float32, 0, 2*n), rows: make([]uint16, rows)}
	for u := range g.values {
		if volts[u] > 0 || amps[u] > 0 {
			p.cols, p.steps = append(p.cols, uint16(u)), append(p.steps, volts[u], amps[u])
		}
	}
	g.whole = g.whole[:0]
	for r := range rows {
		row, at := g.all[r*g.values:(r+1)*g.values], len(g.whole)
		kind := 0
		if r >= g.nodes {
			kind = 1
		}
		for c, u := range p.cols {
			g.whole = append(g.whole, steps(row[u], p.steps[2*c+kind]))
		}
		p.rows[r] = uint16(at / max(n, 1))
		for had := range at / max(n, 1) {
			if slices.Equal(g.whole[had*n:(had+1)*n], g.whole[at:]) { // in steps, whatever these are
				g.whole, p.rows[r] = g.whole[:at], uint16(had)
				break
			}
		}
	}
	p.all = slices.Clone(g.whole)
	return p
}

// largest fills most with a step of each column of some rows: a share of its largest magnitude; what is not
// finite does not count.
func (g *table) largest(most []float32, rows []float32) {
	clear(most)
	for row := range slices.Chunk(rows, g.values) {
		for u, x := range row {
			if x < 0 {
				x = -x
			}
			if x > most[u] && x <= math.MaxFloat32 {
				most[u] = x
			}
		}
	}
	for u := range most {
		most[u] /= finest
	}
}

// steps is a slope in steps, the nearest whole number; nothing where it is not finite.
func steps(x, step float32) int16 {
	if x == 0 {
		return 0
	}
	q := x / step
	switch {
	case q >= 0 && q <= finest+0.5:
		return int16(min(q+0.5, finest))
	case q < 0 && q >= -finest-0.5:
		return int16(max(q-0.5, -finest))
	}
	return 0
}

// row is one of a table's rows, in steps.
func (p *packed) row(r int) []int16 {
	n, k := len(p.cols), int(p.rows[r])
	return p.all[k*n : (k+1)*n]
}

// VoltSlopes fills out with the slopes of the volts from one node to another, V per standard deviation of each
// value; to < 0 is the reference.
func (l *Solved) VoltSlopes(out []float64, from, to int) {
	clear(out)
	p := &l.slopes
	if len(p.cols) == 0 {
		return
	}
	one := p.row(from)
	if to < 0 {
		for c, u := range p.cols {
			out[u] = float64(p.steps[2*c]) * float64(one[c])
		}
		return
	}
	for c, x := range p.row(to) {
		out[p.cols[c]] = float64(p.steps[2*c]) * float64(int32(one[c])-int32(x))
	}
}

// AmpSlopes fills out with the slopes of a station's current, A per standard deviation of each value.
func (l *Solved) AmpSlopes(out []float64, station int) {
	clear(out)
	p := &l.slopes
	if len(p.cols) == 0 {
		return
	}
	for c, x := range p.row(p.nodes + station) {
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
