package picture

import (
	"fmt"
	"math"

	"corriente/core/casefile"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/explain"
	"corriente/core/diagnose/readings"
	"corriente/core/unit"
)

// Preview says how a reading that is being typed would be understood, before it
// is stored.
type Preview struct {
	Text     string             `json:"text"`
	Value    float64            `json:"value"`
	Over     bool               `json:"over"`
	Low      float64            `json:"low"`
	High     float64            `json:"high"`
	Good     *readings.Range    `json:"good,omitempty"`
	GoodOL   bool               `json:"good_ol,omitempty"`
	Verdict  string             `json:"verdict"` // good, bad, open or unclear
	Warnings []readings.Warning `json:"warnings"`
}

// Interpret interprets one checked piece of evidence against the opinion.
func Interpret(op *explain.Opinion, e *casefile.Evidence) Preview {
	a := op.Reasoner
	r := readings.Prepare(a.Space, e, casefile.MeterFor(e, op.Job.Instruments), 0)
	lim := r.Acc.Limit(r.Value)
	p := Preview{Text: e.Reading.String(e.Measure), Value: r.Value, Over: r.Over, Low: r.Value - lim,
		High: r.Value + lim, Verdict: "unclear", Warnings: []readings.Warning{}}
	m, sd, open := a.GoodCircuit(op.Posterior).Expect(&r)
	p.GoodOL = open
	switch {
	case open && r.Over:
		p.Verdict = "good"
	case open:
		p.Verdict = "bad"
	case r.Over:
		p.Verdict = "bad"
	default:
		lo, hi := m-1.645*sd, m+1.645*sd
		p.Good = new(readings.Possible(a.Space, e.Measure, lo, hi, readings.Direction(e.Measure, m)))
		p.Verdict = "good"
		if p.High < lo || p.Low > hi {
			p.Verdict = "bad"
		}
	}
	add := func(code, says string) { p.Warnings = append(p.Warnings, readings.Warning{Code: code, Says: says}) }
	if !r.Over && e.Measure == unit.Resistance && r.Acc.CannotTell(r.Value) {
		if open && r.Value == 0 {
			add("zero_or_ol", "Did the display show 0 or OL? A good circuit shows OL here.")
		} else {
			add("below_meter_resolution", "Under three counts: this meter cannot tell this from a short. Volts under load can.")
		}
	}
	if e.Measure == unit.Voltage && p.Verdict == "good" && !carries(a, e) {
		add("decides_nothing", "No current flows there in this state: full volts prove nothing.")
	}
	if says := tooCoarse(a, e, lim, p.Good); says != "" && !r.Over {
		add("too_coarse", says)
	}
	if p.Verdict == "bad" && !r.Over && !open {
		for _, slip := range []struct {
			f    float64
			what string
		}{{1e-3, "milli"}, {1e3, "kilo"}} {
			if v := r.Value * slip.f; p.Good != nil && v >= p.Good.Low && v <= p.Good.High && math.Abs(v) > 3*r.Acc.Count(v) {
				add("unit_slip", fmt.Sprintf("Was that %s? Read as %s it would fit a good circuit.", slip.what, unit.Format(v, e.Measure)))
			}
		}
		if v := -r.Value; e.Measure == unit.Voltage && p.Good != nil && v >= p.Good.Low && v <= p.Good.High && math.Abs(v) > 0.05 {
			add("swapped_leads", "The sign is the other way round: were the leads swapped?")
		}
	}
	return p
}

// tooCoarse says that a meter's range cannot decide here: it may be off by more
// than half of what is allowed across a station, or of the current a good circuit
// passes.
func tooCoarse(a *belief.Reasoner, e *casefile.Evidence, lim float64, good *readings.Range) string {
	switch e.Measure {
	case unit.Voltage:
		if on := a.Between(e.State, e.From, e.To); len(on) == 1 {
			if allowed := a.C.Station(on[0]).AllowedDrop; allowed > 0 && lim > allowed/2 {
				return fmt.Sprintf("This range may be off by %s, where %s is allowed: take a finer one.",
					unit.Format(lim, e.Measure), unit.Format(allowed, e.Measure))
			}
		}
	case unit.Current:
		if good != nil && lim > math.Abs(good.Low+good.High)/4 && good.High > 0 {
			return fmt.Sprintf("This clamp may be off by %s, where a good circuit passes some %s: it cannot decide. Use a finer one.",
				unit.Format(lim, e.Measure), unit.Format((good.Low+good.High)/2, e.Measure))
		}
	}
	return ""
}

// carries reports whether a good circuit passes current between the probes.
func carries(a *belief.Reasoner, e *casefile.Evidence) bool {
	w := a.Net.NewWork()
	w.Solve(a.Net.StatePos(e.State), a.Theta, a.Net.SoundAll())
	for _, id := range a.Between(e.State, e.From, e.To) {
		k := a.C.StationIndex(id)
		if math.Abs(w.I[k]) > 0.02*math.Max(a.Model.Normal[k], 1e-3) {
			return true
		}
	}
	return false
}
