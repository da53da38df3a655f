package train

import (
	"fmt"
	"hash/fnv"
	"math"
	"math/rand/v2"
	"regexp"
	"slices"
	"strconv"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/fault"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/unit"
)

// Frame is what a display shows from a moment on. The last one stays.
type Frame struct {
	AtMs  int    `json:"at_ms"` // after the leads touch
	Shown string `json:"shown"`
}

// frameMs is how often the display changes: four readings a second, as handhelds do
// (common practice).
const frameMs = 250

// number is the figure at the beginning of what a display shows.
var number = regexp.MustCompile(`^-?\d+(\.\d+)?`)

// scaled is a display with its figure times k, of as many decimals.
func scaled(shown string, k float64) string {
	f := number.FindString(shown)
	v, err := strconv.ParseFloat(f, 64)
	if err != nil {
		return shown
	}
	d := 0
	if i := slices.Index([]byte(f), '.'); i >= 0 {
		d = len(f) - i - 1
	}
	return strconv.FormatFloat(v*k, 'f', d, 64) + shown[len(f):]
}

// settling is how a display comes to its reading: an autoranging meter climbs from its
// lowest range, showing OL until one holds the value; then the figure runs in. High ohms
// take longer, the input and the leads have to be charged through them.
func settling(shown string, value float64, over bool, dial string, full float64) []Frame {
	var out []Frame
	at := 0
	show := func(s string) {
		if len(out) == 0 || out[len(out)-1].Shown != s {
			out = append(out, Frame{at, s})
		}
		at += frameMs
	}
	if full == 0 {
		for _, r := range ranges[dial] {
			if !over && math.Abs(value) <= r {
				break
			}
			show("OL")
		}
	}
	steps := []float64{0.62, 0.95}
	if dial == Ohms && value > 1e5 {
		steps = []float64{0.4, 0.65, 0.8, 0.9, 0.96}
	}
	if !over {
		for _, k := range steps {
			show(scaled(shown, k))
		}
	}
	show(shown)
	return out
}

// peaks are the least and the most that the meter keeps from switching on to the steady
// reading: at first the motor stands, and draws what it draws standing still. Empty where
// nothing is switched on or nothing turns.
func (t *Attempt) peaks(m *machine.Machine, x casefile.Evidence, in meter.Instrument, steady string) (least, most string) {
	st := t.A.C.State(x.State)
	if st == nil || !st.Powered() || x.Measure != unit.Voltage && x.Measure != unit.Current {
		return "", ""
	}
	w := m.Work(x.State)
	k := m.Net.MotorStation()
	if k < 0 || w.Chatter || w.Motor.W < 1 {
		return "", ""
	}
	standing := machine.New(t.A.Model, m.Theta,
		append(slices.Clone(m.Hidden), machine.Hidden{Fault: fault.Fault{Station: t.A.C.Stations[k].ID, Mode: "seized"}}),
		rand.New(rand.NewPCG(t.Ex.Seed, uint64(len(t.Log)))))
	if standing.Measure(&x, in) != nil {
		return "", ""
	}
	t.unzeroed(&x)
	if x.Check(t.A.C, nil) != nil || x.Reading.Over {
		return "", ""
	}
	first := x.Reading.String(x.Measure)
	a, err1 := strconv.ParseFloat(number.FindString(first), 64)
	b, err2 := strconv.ParseFloat(number.FindString(steady), 64)
	if err1 != nil || err2 != nil {
		return "", ""
	}
	if a < b {
		return first, steady
	}
	return steady, first
}

// slipOf is one in how many readings by hand on a bare unfused terminal slips.
const slipOf = 12

// bare are the places that the battery feeds without a fuse: across them a slipped tip
// melts.
func (t *Attempt) bare(state string) map[string]bool {
	c := t.A.C
	out := map[string]bool{}
	for i := range c.Stations {
		if s := &c.Stations[i]; s.Kind == circuit.Source {
			for _, n := range []string{s.From, s.To} {
				if n != circuit.Ground && n != "" {
					out[n] = true
				}
			}
		}
	}
	for range c.Stations {
		for i := range c.Stations {
			s := &c.Stations[i]
			if s.Kind != circuit.Joint && s.Kind != circuit.Wire {
				continue
			}
			if out[s.From] != out[s.To] {
				out[s.From], out[s.To] = true, true
			}
		}
	}
	if st := c.State(state); st == nil || !st.Powered() || len(out) == len(c.Nodes) {
		return nil
	}
	return out
}

// slips reports whether a tip held by hand slips at this move. The first time it is a
// spark and a warning, the next time it is the end of the attempt.
func (t *Attempt) slips(e *Done) bool {
	if e.Clips || e.Dial == Clamp {
		return false
	}
	bare := t.bare(e.State)
	if !bare[e.From] && !bare[e.To] {
		return false
	}
	h := fnv.New64a()
	fmt.Fprint(h, t.Ex.Seed, "slip", e.N)
	if rand.New(rand.NewPCG(h.Sum64(), 3)).IntN(slipOf) != 0 {
		return false
	}
	e.Minutes = 0.5
	const caution = "Clip the leads on and take your hands away before the current flows; sleeve the tips; rings and watch off."
	for i := range t.Log {
		if t.Log[i].Slipped {
			e.Danger = &Danger{"The tip slipped again and lay across plus and metal: nothing but the cable limits " +
				"that current. The tip melts, the ring under it too.", caution}
			e.Shown, e.Says = "stop", e.Danger.What
			return true
		}
	}
	e.Slipped = true
	e.Shown, e.Says = "spark", "The tip slipped off and touched metal: a spark, and no reading. "+caution+" The next slip ends it."
	return true
}
