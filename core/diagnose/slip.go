package diagnose

import (
	"context"
	"fmt"
	"math"

	"corriente/core/casefile"
	"corriente/core/unit"
)

// proposeSlip looks for the one slip that would resolve a contradiction: a unit,
// swapped leads, the state, 0 for OL or OL for 0. It leaves the verdict as it is
// and names the likeliest.
func (a *Adviser) proposeSlip(ctx context.Context, v *Verdict, j *Job, ep epoch) {
	best, says := math.Inf(-1), ""
	for _, n := range v.Clash {
		e := &j.Evidence[n-1]
		if e.Observe != "" || n-1 < ep.from {
			continue
		}
		for _, s := range a.slips(e) {
			alt := *j
			alt.Evidence = append([]casefile.Evidence{}, j.Evidence...)
			alt.Evidence[n-1] = s.as
			p, err := a.weigh(ctx, a.collect(&alt, ep.from, len(alt.Evidence)), ep.prior, ep.key, 6)
			if err != nil {
				return
			}
			if p.outlier < 0.3 && p.logZ+s.logRate > best {
				best, says = p.logZ+s.logRate, fmt.Sprintf("Reading %d would fit if %s.", n, s.what)
			}
		}
	}
	v.Slip = says
}

type slip struct {
	as      casefile.Evidence
	what    string
	logRate float64 // how often it is made, against the others
}

// slips lists what a reading may have been meant as.
func (a *Adviser) slips(e *casefile.Evidence) []slip {
	var out []slip
	add := func(change func(e *casefile.Evidence), rate float64, format string, args ...any) {
		x := *e
		change(&x)
		out = append(out, slip{x, fmt.Sprintf(format, args...), math.Log(rate)})
	}
	if e.Reading.Over {
		add(func(x *casefile.Evidence) { x.Reading = unit.Reading{Value: 0, Original: "0"} }, 1, "the display showed 0 (a short) and not OL")
		return out
	}
	if e.Reading.Value == 0 && e.Measure == unit.Resistance {
		add(func(x *casefile.Evidence) { x.Reading = unit.Reading{Over: true, Original: "OL"} }, 2, "the display showed OL and not 0")
	}
	if e.Reading.Value != 0 {
		for _, s := range []struct {
			f    float64
			name string
		}{{1e-3, "milli"}, {1e3, "kilo"}, {0.1, "a tenth"}, {10, "ten times"}} {
			v := e.Reading.Value * s.f
			word := "it was meant as " + unit.Format(v, e.Measure)
			rate := 1.0
			if s.f == 0.1 || s.f == 10 {
				word, rate = "the point stands wrong and it is "+unit.Format(v, e.Measure), 0.4
			}
			if s.f == 1e3 && e.Measure != unit.Resistance {
				continue
			}
			add(func(x *casefile.Evidence) { x.Reading.Value = v }, rate, "%s", word)
		}
	}
	if e.Measure == unit.Voltage && math.Abs(e.Reading.Value) > 0.05 {
		add(func(x *casefile.Evidence) { x.Reading.Value = -x.Reading.Value }, 1, "the leads were swapped")
	}
	if e.Measure == unit.Voltage || e.Measure == unit.Current {
		for i := range a.C.States {
			st := &a.C.States[i]
			if st.ID != e.State && st.Supply == "battery" && !st.Hidden {
				add(func(x *casefile.Evidence) { x.State = st.ID }, 0.7, "it was taken in another state (%s)", lower(st.Label))
			}
		}
	}
	return out
}
