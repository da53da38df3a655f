package trace

import (
	"fmt"
	"math"
	"strings"
)

// Comparison is one trace against another, brought into step: the old motor
// against the new one, or before against after.
type Comparison struct {
	MeanPercent   float64   `json:"mean_percent"`  // this mean against the other's, per cent more
	RipplePoints  float64   `json:"ripple_points"` // this ripple less the other's, percentage points
	SpeedPercent  *float64  `json:"speed_percent"` // null where either speed is not known
	Shift         *int      `json:"shift"`         // humps by which the other was turned to bring both into step
	BarsPercent   []float64 `json:"bars_percent"`  // per hump: this level against the other's, each against its own mean
	WorstHump     *int      `json:"worst_hump"`    // where they differ most
	Says          string    `json:"says"`
	OtherIsBetter bool      `json:"other_is_better"`
}

// Compare sets a trace against another. Revolutions are laid over each other
// where they agree best, since a trace begins anywhere.
func Compare(a, b *Analysis) *Comparison {
	c := &Comparison{BarsPercent: []float64{}}
	if b.MeanA != 0 {
		c.MeanPercent = 100 * (a.MeanA/b.MeanA - 1)
	}
	c.RipplePoints = a.RipplePercent - b.RipplePercent
	if a.RPM != nil && b.RPM != nil {
		v := 100 * (*a.RPM/(*b.RPM) - 1)
		c.SpeedPercent = &v
	}
	if n := len(a.BarLevels); n > 0 && n == len(b.BarLevels) {
		best, shift := math.Inf(1), 0
		for s := range n {
			d := 0.0
			for i := range n {
				d += math.Pow(a.BarLevels[i]/a.MeanA-b.BarLevels[(i+s)%n]/b.MeanA, 2)
			}
			if d < best-1e-15 {
				best, shift = d, s
			}
		}
		c.Shift = &shift
		worst := 0
		for i := range n {
			c.BarsPercent = append(c.BarsPercent, 100*(a.BarLevels[i]/a.MeanA-b.BarLevels[(i+shift)%n]/b.MeanA))
			if math.Abs(c.BarsPercent[i]) > math.Abs(c.BarsPercent[worst]) {
				worst = i
			}
		}
		c.WorstHump = &worst
	}
	c.say(a, b)
	return c
}

func weak(r *Analysis) int {
	if r.WeakBars == nil {
		return 0
	}
	return len(*r.WeakBars)
}

func (c *Comparison) say(a, b *Analysis) {
	var parts []string
	more := func(v float64, what string) string {
		if v < 0 {
			return fmt.Sprintf("%.0f %% less %s", -v, what)
		}
		return fmt.Sprintf("%.0f %% more %s", v, what)
	}
	if math.Abs(c.MeanPercent) >= 5 {
		parts = append(parts, more(c.MeanPercent, "current"))
	}
	if c.SpeedPercent != nil && math.Abs(*c.SpeedPercent) >= 3 {
		parts = append(parts, more(*c.SpeedPercent, "speed"))
	}
	switch wa, wb := weak(a), weak(b); {
	case wa > wb:
		parts = append(parts, fmt.Sprintf("%d weak against %d", wa, wb))
	case wa < wb:
		parts = append(parts, fmt.Sprintf("%d weak bars fewer", wb-wa))
	}
	if d := a.Dropouts - b.Dropouts; d != 0 {
		parts = append(parts, fmt.Sprintf("%d dropouts against %d", a.Dropouts, b.Dropouts))
	}
	if math.Abs(c.RipplePoints) >= 3 {
		parts = append(parts, fmt.Sprintf("ripple %.0f %% against %.0f %%", a.RipplePercent, b.RipplePercent))
	}
	sound := func(r *Analysis) bool { return weak(r) == 0 && r.Dropouts == 0 && r.DragPercent == 0 }
	c.OtherIsBetter = sound(b) && !sound(a)
	end := "; both are sound by what a trace can tell"
	switch {
	case sound(b) && !sound(a):
		end = "; the other one is sound, this one is not"
	case !sound(b) && sound(a):
		end = "; this one is sound, the other one is not"
	case !sound(b):
		end = "; neither is sound"
	}
	if len(parts) == 0 {
		c.Says = "No difference worth the name" + end + "."
		return
	}
	c.Says = "Against the other: " + strings.Join(parts, ", ") + end + "."
}

// Point is one column of a decimated trace: least and greatest of its samples.
type Point struct {
	T    float64 `json:"t"` // s, of the column's first sample
	Low  float32 `json:"low"`
	High float32 `json:"high"`
}

// Decimate cuts samples from to to into at most columns pieces without losing a
// peak.
func Decimate(x []float32, dt float64, from, to, columns int) []Point {
	from, to = max(from, 0), min(to, len(x))
	if to <= from || columns < 1 {
		return []Point{}
	}
	n := min(columns, to-from)
	out := make([]Point, n)
	for k := range out {
		a, b := from+(to-from)*k/n, from+(to-from)*(k+1)/n
		lo, hi := x[a], x[a]
		for _, v := range x[a:b] {
			lo, hi = min(lo, v), max(hi, v)
		}
		out[k] = Point{float64(a) * dt, lo, hi}
	}
	return out
}
