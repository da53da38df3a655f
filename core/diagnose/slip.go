package diagnose

import (
	"context"
	"fmt"
	"math"

	"corriente/core/casefile"
	"corriente/core/phrase"
	"corriente/core/unit"
)

// A slip is a mistake of whoever reads or types: the wrong unit, the point misplaced, the
// leads swapped, 0 for OL. Each is a discrete alternative to a reading, weighed like a fault
// with a prior of its own: under a cell, a reading is what it says, or what it would have
// been without the slip, or a mistake of no kind.

// alternative is what a reading may have been meant as.
type alternative struct {
	value float64 // SI
	u     float64 // on the warped scale
	rate  float64 // logarithm of its rate, with what the scale is stretched by
	what  string  // how it reads
	leads bool    // the leads were swapped
}

// alternatives lists what a reading may have been meant as, with its chance.
func (a *Space) alternatives(r *reading) []alternative {
	if r.over || r.value == 0 {
		return nil
	}
	var out []alternative
	rates := &a.assumed.Slip
	scale := func(f, rate float64) {
		v := r.value * f
		if r.measure == unit.Voltage && math.Abs(v) > aboveNominal*a.C.NominalVoltage || r.measure == unit.Current && math.Abs(v) > a.mostAmps() {
			return
		}
		// The density of what was typed is that of what was meant, stretched by the factor.
		stretch := math.Log(f * r.slope(v) / r.slope(r.value))
		out = append(out, alternative{value: v, u: r.warp(v), rate: math.Log(rate) + stretch, what: unit.Format(v, r.measure)})
	}
	scale(1e3, rates.Unit)
	scale(1e-3, rates.Unit)
	scale(10, rates.Point)
	scale(0.1, rates.Point)
	if (r.measure == unit.Voltage || r.measure == unit.Current) && math.Abs(r.value)*r.slope(r.value) > rates.LeastSign {
		out = append(out, alternative{value: -r.value, u: r.warp(-r.value), rate: math.Log(rates.Leads), what: unit.Format(-r.value, r.measure), leads: true})
	}
	return out
}

// slipKey names an alternative of a reading.
type slipKey struct{ index, alternative int }

// slipWords is a slip as it is asked about.
func slipWords(index int, e *casefile.Evidence, alt *alternative) string {
	if alt.leads {
		return fmt.Sprintf("Reading %d, %s: were the leads swapped? %s would fit the others.", index+1, e.Reading.String(e.Measure), alt.what)
	}
	return fmt.Sprintf("Reading %d, %s: did you mean %s? It would fit the others.", index+1, e.Reading.String(e.Measure), alt.what)
}

// namedSlips lists the slips that are likely, each reading once.
func (p *posterior) namedSlips(j *Job) []Warning {
	best := map[int]slipKey{}
	sum := map[int]float64{}
	for k, w := range p.slips {
		sum[k.index] += w
		if b, ok := best[k.index]; !ok || w > p.slips[b] {
			best[k.index] = k
		}
	}
	var out []Warning
	for i := range j.Evidence {
		if k, ok := best[i]; ok && sum[i] >= p.a.assumed.Slip.Named {
			r := p.a.prepare(&j.Evidence[i], casefile.MeterFor(&j.Evidence[i], j.Instruments), i)
			out = append(out, Warning{Index: i + 1, Code: "slip", Says: slipWords(i, &j.Evidence[i], &p.a.alternatives(&r)[k.alternative])})
		}
	}
	return out
}

// proposeSlip names the slip that would resolve a contradiction: the likeliest of those
// weighed already, else the state, or 0 for OL and OL for 0. It leaves the verdict as it is.
func (a *Adviser) proposeSlip(ctx context.Context, v *Verdict, j *Job, ep epoch, p *posterior) {
	if ws := p.namedSlips(j); len(ws) > 0 {
		v.Slip = ws[0].Says
		return
	}
	best, says := math.Inf(-1), ""
	for _, n := range v.Clash {
		e := &j.Evidence[n-1]
		if e.Observe != "" || n-1 < ep.from {
			continue
		}
		for _, s := range a.others(e) {
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

// anotherReading is a slip that takes a weighing of its own.
type anotherReading struct {
	as      casefile.Evidence
	what    string
	logRate float64 // how often it is made, against the others
}

// others lists what a reading may have been meant as that is no other value of the same
// reading.
func (a *Adviser) others(e *casefile.Evidence) []anotherReading {
	var out []anotherReading
	add := func(change func(e *casefile.Evidence), rate float64, format string, args ...any) {
		x := *e
		change(&x)
		out = append(out, anotherReading{x, fmt.Sprintf(format, args...), math.Log(rate)})
	}
	if e.Reading.Over {
		add(func(x *casefile.Evidence) { x.Reading = unit.Reading{Value: 0, Original: "0"} }, a.assumed.Slip.OLForZero, "the display showed 0 (a short) and not OL")
		return out
	}
	if e.Reading.Value == 0 && e.Measure == unit.Resistance {
		add(func(x *casefile.Evidence) { x.Reading = unit.Reading{Over: true, Original: "OL"} }, a.assumed.Slip.ZeroForOL, "the display showed OL and not 0")
	}
	if e.Measure == unit.Voltage || e.Measure == unit.Current {
		for i := range a.C.States {
			st := &a.C.States[i]
			if st.ID != e.State && st.Supply == "battery" && !st.Hidden {
				add(func(x *casefile.Evidence) { x.State = st.ID }, a.assumed.Slip.State, "it was taken in another state (%s)", phrase.Lower(st.Label))
			}
		}
	}
	return out
}
