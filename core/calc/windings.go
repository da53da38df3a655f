package calc

import (
	"fmt"
	"math"

	"corriente/core/unit"
	"corriente/core/winding"
)

// windings lists the calculators of windings and stators.
func windings() []Calculator {
	return []Calculator{
		{ID: "winding", Group: "Windings", Title: "Winding by ohmmeter",
			Answers: "Is this winding's resistance what it should be, and can this meter tell?",
			Formula: "R = (shown − leads) · (k + t₂)/(k + t₁), k = 235 copper, 225 aluminium",
			Source:  "IEC 60034-1 (temperature); JCGM 100 (uncertainty)",
			Inputs: []Input{q("shown", "The meter shows", "Ω", ""),
				hint(q("leads", "Leads held together", "Ω", "0"), "zero them first, every day"),
				hint(q("resolution", "One count of the meter", "Ω", "0.1"), "0.1 Ω on an ordinary handheld"),
				q("at", "Winding's temperature", "°C", "20"), q("to", "The specification holds at", "°C", "20"), metal,
				opt(q("low", "Specification, from", "Ω", "")), opt(q("high", "to", "Ω", "")),
				opt(hint(q("good", "or: a known good part shows", "Ω", ""), "same meter, same leads"))},
			example: example{map[string]string{"shown": "0.4", "leads": "0.2", "low": "0.25", "high": "0.37"},
				"cannot be told", "cannot_tell"},
			run: ohmmeter},
		{ID: "four_wire", Group: "Windings", Title: "Four-wire resistance", Answers: "What is a resistance too small for an ohmmeter?",
			Formula: "V = V₀ + R·I by least squares; s(R) = s/√Σ(I−Ī)²",
			Source:  "Draper and Smith, Applied Regression Analysis, 1.4; JCGM 100",
			Caution: "Fused lead. The part gets warm: short readings.",
			Inputs: []Input{{ID: "pairs", Label: "Volts across the winding itself, and amperes", Kind: Rows,
				Columns: []string{"volts in V", "amperes in A"},
				Hint:    "one pair a line: 0.152 4.98; three pairs also find the brushes' drop"},
				q("at", "Winding's temperature", "°C", "20"), q("to", "The specification holds at", "°C", "20"),
				metal, hint(q("meters", "Both meters together may be off by", "%", "2"), "the clamp's error counts most"),
				opt(q("low", "Specification, from", "Ω", "")), opt(q("high", "to", "Ω", ""))},
			example: example{map[string]string{"pairs": "0.152 5.0\n0.301 10.0\n0.455 15.1", "low": "0.025 ohm",
				"high": "0.035 ohm"}, "within", "good"},
			run: fourWire},
		{ID: "bars", Group: "Windings", Title: "Bar to bar", Answers: "Is a coil of the armature open, or are two bars shorted?",
			Formula: "each drop against the median of all", Source: "common practice",
			Inputs: []Input{{ID: "drops", Label: "Drop from bar to bar, once round", Kind: List, Unit: "mV",
				Hint: "in millivolts, with blanks between: 21 22 21 …"},
				pick("feed", "Current goes in", "across", "across", "at two opposite bars", "adjacent",
					"at the two bars measured"), hint(q("resolution", "One count of the meter", "mV", "0.1"),
					"0.1 mV on the lowest range")},
			example: example{map[string]string{"drops": "21 22 21 2 21 22 20 21"}, "bar pair 4 to 5", "bad"},
			run:     bars},
		{ID: "insulation", Group: "Windings", Title: "Insulation to frame", Answers: "Does the winding touch the frame?",
			Formula: "R ≥ floor", Source: "1 MΩ: common practice for small low-voltage machines; IEEE 43 from 750 W",
			Inputs: []Input{hint(q("shown", "Winding to bare frame", "Ω", ""), "OL is a value too"),
				hint(q("volts", "Tested with", "V (tester)", "1"), "an ohmmeter tests with about 1 V"),
				opt(q("power", "Rated power", "W", "")),
				pick("what", "It is", "armature", "armature", "an armature", "other", "a field, coil or stator")},
			example: example{map[string]string{"shown": "120 ohm"}, "touches the frame", "bad"},
			run:     insulation},
		{ID: "stator", Group: "Windings", Title: "Three-phase stator, ohms", Answers: "Are the three phases alike?",
			Formula: "wye: line = 2 phases; delta: line = 2/3 phase; unbalance = 100 · greatest deviation / mean",
			Source:  "NEMA MG 1 (unbalance); 5 % between phases: common practice",
			Inputs: []Input{q("ab", "Wire 1 to 2", "Ω", ""), q("bc", "Wire 2 to 3", "Ω", ""),
				q("ca", "Wire 3 to 1", "Ω", ""), q("leads", "Leads held together", "Ω", "0"),
				q("resolution", "One count of the meter", "Ω", "0.1"),
				pick("connection", "Connected as", "wye", "wye", "wye (star)", "delta", "delta"),
				opt(q("low", "Specification, from", "Ω", "")), opt(q("high", "to", "Ω", ""))},
			example: example{map[string]string{"ab": "0.6", "bc": "0.5", "ca": "0.6", "leads": "0.2"}, "cannot be judged", "cannot_tell"},
			run:     stator},
		{ID: "stator_volts", Group: "Windings", Title: "Three-phase stator, running",
			Answers: "Do all three pairs give the same volts, unloaded?",
			Formula: "unbalance = 100 · greatest deviation / mean", Source: "NEMA MG 1; equal volts: common practice",
			Caution: "Small stators only, plug open, hands off belts and fans.",
			Inputs: []Input{q("ab", "Wire 1 to 2, AC", "V", ""), q("bc", "Wire 2 to 3, AC", "V", ""),
				q("ca", "Wire 3 to 1, AC", "V", ""), opt(q("low", "Specification, from", "V", "")), opt(q("high", "to", "V", ""))},
			example: example{map[string]string{"ab": "21", "bc": "20.6", "ca": "14"}, "differ", "bad"},
			run:     statorVolts},
	}
}

func (a *ask) against(r *Result, v winding.Value, low, high float64, m unit.Measure) winding.Verdict {
	if !(high > low && low >= 0) {
		a.fail("high", "the upper limit lies above the lower one")
		return winding.CannotTell
	}
	j := winding.Against(v, low, high)
	span := unit.Format(low, m) + " to " + unit.Format(high, m)
	switch j {
	case winding.Good:
		r.Judged, r.Says = "good", pm(v.X, v.U, m)+" lies within "+span+"."
	case winding.Low:
		r.Judged, r.Says = "bad", pm(v.X, v.U, m)+" is under "+span+": shorted turns, or another winding than meant."
	case winding.High:
		r.Judged, r.Says = "bad", pm(v.X, v.U, m)+" is over "+span+": a broken coil, a poor joint, or a dirty contact of the probes."
	default:
		r.Judged, r.Says = "cannot_tell", "This reading, "+pm(v.X, v.U, m)+", cannot be told from "+span+" with this meter."
	}
	return j
}

const canDecide = "Four-wire: a known current of some amperes through it, millivolts at its own terminals. Or a running test."

func ohmmeter(a *ask, r *Result) {
	acc := handheld(a.num("resolution"))
	shown, leads := a.num("shown"), a.num("leads")
	at, to := a.num("at"), a.num("to")
	metal := winding.Conductor(a.choice("metal"))
	if !(acc.Resolution > 0) {
		a.fail("resolution", "one count is above zero")
	}
	for _, t := range []float64{at, to} {
		if !(t >= -60 && t <= 250) {
			a.fail("at", "a winding lies between -60 and 250 °C")
		}
	}
	if a.err != nil {
		return
	}
	if math.IsInf(shown, 1) {
		r.Judged, r.Says = "bad", "OL: the winding is open, or the probes do not touch it."
		a.ohms(r, shown, 0)
		return
	}
	v, err := winding.Corrected(winding.Value{X: shown, U: acc.Sigma(shown)},
		winding.Value{X: leads, U: acc.Sigma(leads)}, metal, winding.Warmth{Now: at, Wanted: to, U: 2})
	if a.wrong(err) {
		return
	}
	r.line("Winding", "%s", pm(v.X, v.U, unit.Resistance))
	raw := math.Max(shown-leads, 0)
	u := math.Hypot(acc.Sigma(shown), acc.Sigma(leads))
	low, high, has := a.num("low"), a.num("high"), a.has("low") && a.has("high")
	if a.has("good") {
		g := a.num("good") - leads
		if !(g > 0) {
			a.fail("good", "the known good part shows more than the leads")
			return
		}
		// The same meter on the same range: most of its error is shared, the counts are not.
		low, high, has = 0.85*g, 1.15*g, true
		r.line("Known good part, ± 15 %", "%s", unit.Format(g, unit.Resistance))
	}
	switch {
	case has:
		if a.against(r, v, low, high, unit.Resistance) == winding.CannotTell {
			r.Next = canDecide
		}
	case acc.CannotTell(shown):
		r.Judged, r.Says, r.Next = "cannot_tell", "Below three counts a winding cannot be told from a short with this meter.", canDecide
	default:
		r.Says = fmt.Sprintf("The winding has %s at %.0f °C. Without a specification or a good part beside it that says: not open.",
			pm(v.X, v.U, unit.Resistance), to)
	}
	a.ohms(r, raw, u)
}

func fourWire(a *ask, r *Result) {
	rows := a.rows("pairs")
	at, to, off := a.num("at"), a.num("to"), a.num("meters")
	metal := winding.Conductor(a.choice("metal"))
	if a.err != nil {
		return
	}
	ps := make([]winding.Pair, len(rows))
	for i, row := range rows {
		ps[i] = winding.Pair{V: row[0], A: row[1]}
	}
	f, err := winding.FourWire(ps)
	if a.wrong(err) {
		return
	}
	if f.R.X <= 0 {
		a.fail("pairs", "volts fall as the current rises: check which is which")
		return
	}
	u := math.Hypot(f.R.U, f.R.X*off/100/math.Sqrt(3))
	v := winding.Value{X: metal.AtTemperature(f.R.X, at, to), U: metal.AtTemperature(u, at, to)}
	r.line("Resistance", "%s", pm(v.X, v.U, unit.Resistance))
	if f.R.U > 0 {
		r.line("of this, the fit's standard error", "%s", unit.Format(f.R.U, unit.Resistance))
	}
	if f.N >= 3 {
		r.line("Drop that does not follow the current", "%s", pm(f.Offset.X, f.Offset.U, unit.Voltage))
	}
	if a.has("low") && a.has("high") {
		a.against(r, v, a.num("low"), a.num("high"), unit.Resistance)
	} else {
		r.Says = fmt.Sprintf("%s at %.0f °C, from %d pairs.", pm(v.X, v.U, unit.Resistance), to, f.N)
		if f.N == 1 {
			r.Says = fmt.Sprintf("%s at %.0f °C, from one pair: two more at other currents would show its error.",
				pm(v.X, v.U, unit.Resistance), to)
		}
	}
	a.ohms(r, f.R.X, u)
}

func bars(a *ask, r *Result) {
	d := a.list("drops")
	res, feed := a.num("resolution"), winding.Feed(a.choice("feed"))
	if a.err != nil {
		return
	}
	b, err := winding.BarToBar(d, res, feed)
	if a.wrong(err) {
		return
	}
	r.Says = b.Says
	most := 0.0
	for _, x := range d {
		most = math.Max(most, x)
	}
	for _, x := range d {
		r.Bars = append(r.Bars, x/math.Max(most, 1e-12))
	}
	r.Marked = b.Places
	r.line("Middle drop", "%s", unit.Format(b.Median, unit.Voltage))
	r.line("Spread of the even ones", "%.0f %%", b.Spread)
	switch b.Pattern {
	case "even":
		r.Judged = "good"
		a.observe(r, "winding_test", "even")
	case "open_coil":
		r.Judged = "bad"
		a.observe(r, "winding_test", "open_coil")
	case "short":
		r.Judged, r.Next = "bad", "Clean the slots and repeat: a sliver of copper between two bars is cured by a "+
			"scraper, a shorted coil is not."
		a.observe(r, "winding_test", "short")
	case "poor_joint":
		r.Judged, r.Next = "near", "Solder or press that joint again, then repeat."
	default:
		r.Judged, r.Next = "cannot_tell", "More current, up to what the winding carries at work, and a millivolt range."
	}
}

func insulation(a *ask, r *Result) {
	shown, volts := a.num("shown"), a.num("volts")
	what := a.choice("what")
	floor, source := winding.Floor(a.num("power"), what == "armature")
	if a.err != nil {
		return
	}
	r.line("Floor", "%s (%s)", unit.Format(floor, unit.Resistance), source)
	switch {
	case shown < floor:
		r.Judged, r.Says = "bad", "Under the floor: damp, carbon dust, or a winding that touches the frame. Clean, "+
			"dry warm for some hours, and test again before it is condemned."
		if shown < 1000 {
			r.Says = "It touches the frame."
			a.observe(r, "winding_test", "ground")
		}
	case volts < 50:
		r.Judged, r.Says = "near", "No dead ground. An ohmmeter's one volt proves little more: damp and weak places show at 100 V and over."
		r.Next = "An insulation tester at 100 to 250 V, electronics unplugged."
	default:
		r.Judged, r.Says = "good", "Above the floor: the insulation is sound."
	}
}

func stator(a *ask, r *Result) {
	acc := handheld(a.num("resolution"))
	leads := a.num("leads")
	x := [3]float64{a.num("ab"), a.num("bc"), a.num("ca")}
	delta := a.choice("connection") == "delta"
	if a.err != nil {
		return
	}
	for i, v := range x {
		if math.IsInf(v, 1) {
			r.Judged, r.Says = "bad", "OL between two wires: a phase is open, or its joint is."
			return
		}
		x[i] = v - leads
		if !(x[i] >= 0) {
			a.fail("leads", "the leads alone read more than the phase with its leads: take both again")
			return
		}
	}
	mean := (x[0] + x[1] + x[2]) / 3
	u := math.Hypot(acc.Sigma(mean+leads), acc.Sigma(leads))
	// The limit's percent part is common to the three; the counts are not.
	part := math.Sqrt(acc.Counts*acc.Counts/3+1.0/12) * acc.Resolution
	r.line("Wire to wire, mean", "%s", pm(mean, u, unit.Resistance))
	if ph, err := winding.Phases(x[0], x[1], x[2], delta); err == nil {
		of := "Each phase by itself, half of it in a star"
		if delta {
			of = "Each phase by itself, one and a half times it in a delta"
		}
		r.line(of, "%s, %s, %s", unit.Format(ph[0], unit.Resistance), unit.Format(ph[1], unit.Resistance),
			unit.Format(ph[2], unit.Resistance))
	}
	unb := winding.Unbalance(x[:]...)
	if mean <= 0 || 2*part/mean > 0.05 {
		r.Judged = "cannot_tell"
		r.Says = fmt.Sprintf("With one count of %s and these leads, windings that read %s from wire to wire cannot "+
			"be judged: their unbalance could be anything up to %.0f %%.",
			unit.Format(acc.Resolution, unit.Resistance), pm(mean, u, unit.Resistance), 100*2*part/math.Max(mean, 1e-6)+unb)
		r.Next = "The running test: equal AC volts between all three pairs at idle, unloaded. Or four-wire."
		return
	}
	r.line("Unbalance", "%.1f %%", unb)
	if unb > 5 {
		r.Judged, r.Says = "bad", fmt.Sprintf("The phases differ by %.1f %%, more than 5 %%: turns are shorted or a joint is poor.", unb)
	} else {
		r.Judged, r.Says = "good", fmt.Sprintf("The phases are alike within %.1f %%.", unb)
	}
	if a.has("low") && a.has("high") {
		was := r.Says
		a.against(r, winding.Value{X: mean, U: u}, a.num("low"), a.num("high"), unit.Resistance)
		r.Says = was + " " + r.Says
	}
}

func statorVolts(a *ask, r *Result) {
	x := []float64{a.num("ab"), a.num("bc"), a.num("ca")}
	if a.err != nil {
		return
	}
	for _, v := range x {
		if !(v >= 0) || v > 100 {
			a.fail("ab", "AC volts of a small stator lie between 0 and 100 V; above that this is work for people licensed for it")
			return
		}
	}
	mean := (x[0] + x[1] + x[2]) / 3
	unb := winding.Unbalance(x...)
	r.line("Mean", "%.1f V AC", mean)
	r.line("Unbalance", "%.1f %%", unb)
	switch {
	case mean < 1:
		r.Judged, r.Says = "bad", "No volts on any pair: it does not turn, or all three are open."
	case unb > 5:
		r.Judged, r.Says = "bad", fmt.Sprintf("The pairs differ by %.1f %%: one phase is open, shorted or grounded.", unb)
	default:
		r.Judged, r.Says = "good", fmt.Sprintf("All three pairs alike within %.1f %%.", unb)
	}
	if a.has("low") && a.has("high") {
		low, high := a.num("low"), a.num("high")
		if !(high > low) {
			a.fail("high", "the upper limit lies above the lower one")
			return
		}
		if mean < low || mean > high {
			r.Judged, r.Says = "bad", r.Says+fmt.Sprintf(" But %.1f V is outside %.0f to %.0f V: check the idle speed first.",
				mean, low, high)
		}
	}
}
