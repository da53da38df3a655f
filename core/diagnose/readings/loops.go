package readings

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"corriente/core/casefile"
	"corriente/core/diagnose/cells"
	"corriente/core/meter"
	"corriente/core/unit"
)

// Warning says what a reading cannot tell, or what looks wrong with it.
type Warning struct {
	Index int    `json:"index,omitempty"`
	Code  string `json:"code"`
	Says  string `json:"says"`
}

// Readings are checked before the machine is: the volts round a loop add up to nothing
// (Kirchhoff), whatever the circuit does. No model is asked.

// edge is a reading of volts between two places.
type edge struct {
	index    int // of the evidence
	from, to string
	v        float64
	sigma    float64
}

// Loops lists the loops of readings that do not add up, each once, as warnings on the last
// reading of each.
func Loops(a *cells.Space, evidence []casefile.Evidence, instruments map[string]meter.Instrument, from int) []Warning {
	byState := map[string][]edge{}
	for i := from; i < len(evidence); i++ {
		e := &evidence[i]
		if e.Struck || e.Measure != unit.Voltage || e.Reading.Over {
			continue
		}
		in := casefile.MeterFor(e, instruments)
		s := 0.0
		if acc := in.For(e.Measure); acc != nil {
			s = acc.Sigma(e.Reading.Value)
		}
		k := e.State + "|" + e.Condition
		byState[k] = append(byState[k], edge{i, e.From, e.To, e.Reading.Value, s})
	}
	var out []Warning
	for _, k := range sortedKeys(byState) {
		out = append(out, loopsOf(a, byState[k])...)
	}
	return out
}

func sortedKeys(m map[string][]edge) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// loopsOf lays readings one after the other: one whose ends are joined already closes a
// loop with those on the way between.
func loopsOf(a *cells.Space, es []edge) []Warning {
	var laid []edge
	var out []Warning
	miss := &a.Assumed.Reading
	for _, e := range es {
		way := between(laid, e.from, e.to)
		if way == nil {
			laid = append(laid, e)
			continue
		}
		sum, most, s2 := 0.0, math.Abs(e.v), e.sigma*e.sigma
		says := []string{}
		for _, w := range way {
			sum += w.v
			most = math.Max(most, math.Abs(w.v))
			s2 += w.sigma * w.sigma
			says = append(says, unit.Format(w.v, unit.Voltage))
		}
		if len(way) < 2 { // the same places again
			continue
		}
		allowed := miss.LoopSigmas*math.Sqrt(s2) + miss.LoopShare*most + miss.LoopVolts*a.C.NominalVoltage/12
		if math.Abs(sum-e.v) > allowed {
			out = append(out, Warning{Index: e.index + 1, Code: "loop",
				Says: fmt.Sprintf("%s here, but %s on the way between make %s: these cannot all be true at once. "+
					"Take them again in one state.",
					unit.Format(e.v, unit.Voltage), strings.Join(says, " and "), unit.Format(sum, unit.Voltage))})
		}
	}
	return out
}

// between finds the readings that lead from one place to another, each turned the way it
// is walked; nil where there is no way.
func between(laid []edge, from, to string) []edge {
	type step struct {
		at   string
		way  []edge
		seen map[string]bool
	}
	queue := []step{{from, nil, map[string]bool{from: true}}}
	for len(queue) > 0 {
		s := queue[0]
		queue = queue[1:]
		if s.at == to {
			return s.way
		}
		for _, e := range laid {
			next := e
			switch {
			case e.from == s.at && !s.seen[e.to]:
			case e.to == s.at && !s.seen[e.from]:
				next.from, next.to, next.v = e.to, e.from, -e.v
			default:
				continue
			}
			s.seen[next.to] = true
			queue = append(queue, step{next.to, append(slices.Clone(s.way), next), s.seen})
		}
	}
	return nil
}
