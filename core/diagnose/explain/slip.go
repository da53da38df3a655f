package explain

import (
	"context"
	"fmt"
	"math"

	"corriente/core/casefile"
	"corriente/core/diagnose/belief"
	"corriente/core/phrase"
	"corriente/core/unit"
)

// proposeSlip names the slip that would resolve a contradiction, of those that take a weighing of their own: the
// state, or 0 for OL and OL for 0. It leaves the verdict as it is.
func proposeSlip(ctx context.Context, a *belief.Reasoner, v *Verdict, j *belief.Job, ep belief.Epoch) {
	best, says := math.Inf(-1), ""
	for _, n := range v.Clash {
		e := &j.Evidence[n-1]
		if e.Observe != "" || n-1 < ep.From {
			continue
		}
		for _, s := range others(a, e) {
			alt := *j
			alt.Evidence = append([]casefile.Evidence{}, j.Evidence...)
			alt.Evidence[n-1] = s.as
			p, err := a.Weigh(ctx, a.Collect(&alt, ep.From, len(alt.Evidence)), ep.Prior, ep.Key, 6)
			if err != nil {
				return
			}
			if p.Outlier < 0.3 && p.LogZ+s.logRate > best {
				best, says = p.LogZ+s.logRate, fmt.Sprintf("Reading %d would fit if %s.", n, s.what)
			}
		}
	}
	v.Slip = says
}

// anotherReading is a slip that takes a weighing of its own.
type anotherReading struct {
	as      casefile.Evidence
	what    string
	logRate float64 // how often it is made, against the others
}

// others lists what a reading may have been meant as that is no other value of the same
// reading.
func others(a *belief.Reasoner, e *casefile.Evidence) []anotherReading {
	var out []anotherReading
	add := func(change func(e *casefile.Evidence), rate float64, format string, args ...any) {
		x := *e
		change(&x)
		out = append(out, anotherReading{x, fmt.Sprintf(format, args...), math.Log(rate)})
	}
	if e.Reading.Over {
		add(func(x *casefile.Evidence) { x.Reading = unit.Reading{Value: 0, Original: "0"} },
			a.Assumed.Slip.OLForZero, "the display showed 0 (a short) and not OL")
		return out
	}
	if e.Reading.Value == 0 && e.Measure == unit.Resistance {
		add(func(x *casefile.Evidence) { x.Reading = unit.Reading{Over: true, Original: "OL"} },
			a.Assumed.Slip.ZeroForOL, "the display showed OL and not 0")
	}
	if e.Measure == unit.Voltage || e.Measure == unit.Current {
		for i := range a.C.States {
			st := &a.C.States[i]
			if st.ID != e.State && st.Supply == "battery" && !st.Hidden {
				add(func(x *casefile.Evidence) { x.State = st.ID }, a.Assumed.Slip.State,
					"it was taken in another state (%s)", phrase.Lower(st.Label))
			}
		}
	}
	return out
}
