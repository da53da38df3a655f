package winding

import (
	"errors"
	"fmt"
	"math"
	"slices"
)

// Conductor is what a winding is wound of.
type Conductor string

// The conductors of IEC 60034-1.
const (
	Copper    Conductor = "copper"
	Aluminium Conductor = "aluminium"
)

// k is the inferred temperature of zero resistance below 0 °C, K (IEC 60034-1,
// 8.6.2: 235 for copper, 225 for aluminium).
func (c Conductor) k() float64 {
	if c == Aluminium {
		return 225
	}
	return 235
}

// AtTemperature moves a resistance (Ω) from temperature t1 to t2 (°C):
// R2 = R1 (k + t2)/(k + t1), k = 235 for copper and 225 for aluminium (IEC 60034-1).
func (c Conductor) AtTemperature(r, t1, t2 float64) float64 { return r * (c.k() + t2) / (c.k() + t1) }

// Value is a quantity and its standard uncertainty, both SI.
type Value struct {
	X float64 `json:"x"`
	U float64 `json:"u"`
}

// Warmth is a winding's temperature while it is measured, and the one at which its resistance is wanted, °C.
type Warmth struct {
	Now, Wanted float64
	U           float64 // standard uncertainty of Now, K
}

// Corrected subtracts the leads (Ω, shown with the tips held together) from what
// the meter shows, and moves the rest to the temperature wanted.
func Corrected(shown, leads Value, c Conductor, t Warmth) (Value, error) {
	r := shown.X - leads.X
	u := math.Hypot(shown.U, leads.U)
	if r < -2*u {
		return Value{}, errors.New("the leads alone read more than the winding with its leads: hold the tips together and read both again")
	}
	r = math.Max(r, 0)
	f := c.AtTemperature(1, t.Now, t.Wanted)
	return Value{r * f, math.Hypot(u*f, r*f*t.U/(c.k()+t.Now))}, nil
}

// Verdict on a value against a range.
type Verdict string

// What can be said of it.
const (
	Good       Verdict = "good"
	Low        Verdict = "low"
	High       Verdict = "high"
	Open       Verdict = "open"
	CannotTell Verdict = "cannot_tell"
)

// Against judges v against a range, low to high: with 95 % confidence inside, or
// outside on one side; otherwise the meter cannot tell.
func Against(v Value, low, high float64) Verdict {
	const k = 1.96
	switch {
	case v.X+k*v.U < low:
		return Low
	case v.X-k*v.U > high:
		return High
	// Inside: the value may lie on the limit itself if its own uncertainty is small
	// against the range's width.
	case v.X >= low && v.X <= high && 2*k*v.U <= high-low:
		return Good
	}
	return CannotTell
}

// Pair is one reading of volts and amperes together.
type Pair struct {
	V, A float64
}

// Fit is a straight line through volts over amperes: V = Offset + R·A.
type Fit struct {
	R      Value // Ω; the slope and its standard error
	Offset Value // V; brush drop, or the voltmeter's zero; exactly zero where it was not fitted
	Rms    float64
	N      int
}

// FourWire fits volts over amperes by ordinary least squares: a line through zero
// from one or two pairs, a line with offset from three or more. The slope's standard
// error is s/√Σ(A-Ā)², s² = Σ residual²/(n-2) (Draper and Smith, Applied Regression
// Analysis, 1.4). One pair has no residual: its error is that of the meters alone.
// Amperes must differ by a fifth where an offset is fitted.
func FourWire(ps []Pair) (Fit, error) {
	n := float64(len(ps))
	if n == 0 {
		return Fit{}, errors.New("give at least one pair of volts and amperes")
	}
	var sa, sv float64
	for i, p := range ps {
		if !(p.A > 0) || math.IsInf(p.A, 0) || math.IsNaN(p.V) || math.IsInf(p.V, 0) {
			return Fit{}, fmt.Errorf("pair %d: amperes above zero are needed to tell a resistance", i+1)
		}
		sa, sv = sa+p.A, sv+p.V
	}
	f := Fit{N: len(ps)}
	if len(ps) < 3 {
		var xx, xy float64
		for _, p := range ps {
			xx, xy = xx+p.A*p.A, xy+p.A*p.V
		}
		f.R.X = xy / xx
		ss := 0.0
		for _, p := range ps {
			d := p.V - f.R.X*p.A
			ss += d * d
		}
		f.Rms = math.Sqrt(ss / n)
		if len(ps) == 2 {
			f.R.U = math.Sqrt(ss / xx)
		}
		return f, nil
	}
	ma, mv := sa/n, sv/n
	var xx, xy float64
	for _, p := range ps {
		xx, xy = xx+(p.A-ma)*(p.A-ma), xy+(p.A-ma)*(p.V-mv)
	}
	if math.Sqrt(xx/n) < 0.05*ma {
		return Fit{}, errors.New("the amperes hardly differ: take the pairs at clearly different currents, or give one pair alone")
	}
	f.R.X = xy / xx
	f.Offset.X = mv - f.R.X*ma
	ss := 0.0
	for _, p := range ps {
		d := p.V - f.Offset.X - f.R.X*p.A
		ss += d * d
	}
	s2 := ss / (n - 2)
	f.Rms = math.Sqrt(ss / n)
	f.R.U = math.Sqrt(s2 / xx)
	f.Offset.U = math.Sqrt(s2 * (1/n + ma*ma/xx))
	return f, nil
}

// Feed is how the commutator is fed for a drop test.
type Feed string

// Across: current through the whole armature from two opposite bars, volts from bar to
// bar. Adjacent: the current itself goes in and out at the two bars measured.
const (
	Across   Feed = "across"
	Adjacent Feed = "adjacent"
)

// Bars is what a bar-to-bar test says.
type Bars struct {
	Pattern string  `json:"pattern"` // even, open_coil, short, poor_joint, ground, cannot_tell
	Places  []int   `json:"places"`  // bar pairs that stand out, from 1
	Median  float64 `json:"median"`
	Spread  float64 `json:"spread"` // of the others, per cent of the median
	Says    string  `json:"says"`
}

// BarToBar judges drops (any one unit, >= 0) taken bar by bar once around the
// commutator by their pattern (common practice). resolution is one count of the meter in
// that unit. With the current across the armature, a broken coil leaves its whole
// half dead but for the place of the break, which shows the full drop. With adjacent
// bars fed, a broken coil shows as a drop several times the others. A shorted coil
// or two bars in contact show little or nothing.
func BarToBar(drops []float64, resolution float64, feed Feed) (Bars, error) {
	n := len(drops)
	if n < 3 {
		return Bars{}, errors.New("a pattern needs the whole way round: give at least three bar pairs")
	}
	for i, d := range drops {
		if !(d >= 0) || math.IsInf(d, 0) {
			return Bars{}, fmt.Errorf("bar pair %d: %g is no drop: give zero or more", i+1, d)
		}
	}
	b := Bars{Places: []int{}}
	sorted := slices.Clone(drops)
	slices.Sort(sorted)
	b.Median = (sorted[(n-1)/2] + sorted[n/2]) / 2
	most := sorted[n-1]
	if most < 3*resolution {
		b.Pattern = "cannot_tell"
		b.Says = "All the drops are below three counts of the meter: feed more current, or use a millivolt range."
		return b, nil
	}
	if feed == Across && b.halfDead(drops, resolution) {
		return b, nil
	}
	b.compare(drops, resolution)
	return b, nil
}

// halfDead judges a feed at two opposite bars of which one half carries no current; false where both do.
func (b *Bars) halfDead(drops []float64, resolution float64) bool {
	most := slices.Max(drops)
	floor := math.Max(0.05*most, resolution)
	dead := 0
	for _, d := range drops {
		if d < floor {
			dead++
		}
	}
	if dead < len(drops)/4 || dead <= 1 {
		return false
	}
	for i, d := range drops {
		if d > 0.05*most && neighboursDead(drops, i, floor) {
			b.Places = append(b.Places, i+1)
		}
	}
	b.Pattern = "open_coil"
	b.Says = "One half of the armature carries no current but for one place: the coil between those bars is open."
	if len(b.Places) == 0 {
		b.Says = "A whole stretch carries no current: a coil in it is open, or the feed does not reach its bars."
	}
	return true
}

// compare judges each drop against the median, or, where most bars are dead, against the greatest.
func (b *Bars) compare(drops []float64, resolution float64) {
	n := len(drops)
	ref := b.Median
	if ref < resolution { // most are dead: judge by the live ones
		ref = slices.Max(drops)
	}
	var open, poor, short []int
	var rest []float64
	for i, d := range drops {
		switch {
		case d > 2.5*ref:
			open = append(open, i+1)
		case d > 1.3*ref:
			poor = append(poor, i+1)
		case d < 0.6*ref:
			short = append(short, i+1)
		default:
			rest = append(rest, d)
		}
	}
	if len(rest) > 0 && ref > 0 {
		b.Spread = 100 * (slices.Max(rest) - slices.Min(rest)) / ref
	}
	switch {
	case len(open) > 0:
		b.Pattern, b.Places = "open_coil", open
		b.Says = fmt.Sprintf("The drop at %s is far above the others: that coil is open, or its joint at the bar is.", pairs(open))
		if len(open) == 2 && n%2 == 0 && open[1]-open[0] == n/2 {
			b.Says = fmt.Sprintf("The drops at %s, half a turn apart, are far above the others: one coil of a wave winding is open.",
				pairs(open))
		}
	case len(short) > 0:
		b.Pattern, b.Places = "short", short
		b.Says = fmt.Sprintf("The drop at %s is far below the others: those bars touch, or the coil between them is "+
			"shorted. Clean the slot between the bars and take it again.", pairs(short))
	case len(poor) > 0:
		b.Pattern, b.Places = "poor_joint", poor
		b.Says = fmt.Sprintf("The drop at %s is somewhat high: a poor joint where the wire meets the bar.", pairs(poor))
	default:
		b.Pattern = "even"
		b.Says = fmt.Sprintf("All %d drops are alike within %.0f %%: no open coil and no short between bars.", n, b.Spread)
	}
}

func neighboursDead(d []float64, i int, limit float64) bool {
	n := len(d)
	return d[(i+n-1)%n] < limit && d[(i+1)%n] < limit
}

func pairs(p []int) string {
	s := "bar pair "
	for i, k := range p {
		if i > 0 {
			s += " and "
		}
		s += fmt.Sprintf("%d to %d", k, k+1)
	}
	return s
}

// Floor is the least insulation resistance to frame, Ω, and its source. power is the
// rated power, W; 0 where it is not known.
func Floor(power float64, armature bool) (ohm float64, source string) {
	switch {
	case power >= 750 && armature:
		return 100e6, "IEEE 43 (DC armatures of 750 W and more)"
	case power >= 750:
		return 5e6, "IEEE 43 (random-wound, under 1 kV, 750 W and more)"
	}
	return 1e6, "common practice for small low-voltage machines"
}

// Unbalance is 100 × the greatest deviation from the mean / the mean, per cent
// (NEMA MG 1, 14.36).
func Unbalance(x ...float64) float64 {
	m := 0.0
	for _, v := range x {
		m += v
	}
	m /= float64(len(x))
	if m == 0 {
		return 0
	}
	d := 0.0
	for _, v := range x {
		d = math.Max(d, math.Abs(v-m))
	}
	return 100 * d / m
}

// Phases are the three phase resistances behind three line-to-line ones, Ω: ab, bc,
// ca. In wye phase a = (ab + ca - bc)/2; in delta the star's arms are turned into the
// triangle: ra rb + rb rc + rc ra over the arm opposite. In delta the first is the
// one between a and b.
func Phases(ab, bc, ca float64, delta bool) ([3]float64, error) {
	a, b, c := (ab+ca-bc)/2, (ab+bc-ca)/2, (bc+ca-ab)/2
	if !(a > 0 && b > 0 && c > 0) {
		return [3]float64{}, errors.New("three such readings cannot belong to one stator, one is more than the " +
			"other two together: take them again")
	}
	if !delta {
		return [3]float64{a, b, c}, nil
	}
	s := a*b + b*c + c*a
	return [3]float64{s / c, s / a, s / b}, nil
}
