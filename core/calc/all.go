package calc

import (
	"fmt"
	"math"
	"strings"

	"corriente/core/circuit"
	"corriente/core/conductor"
	"corriente/core/meter"
	"corriente/core/motor"
	"corriente/core/prove"
	"corriente/core/unit"
	"corriente/core/wear"
	"corriente/core/winding"
)

func q(id, label, u, def string) Input {
	return Input{ID: id, Label: label, Kind: Quantity, Unit: u, Default: def}
}

func opt(in Input) Input { in.Optional = true; return in }

func hint(in Input, h string) Input { in.Hint = h; return in }

func pick(id, label, def string, words ...string) Input {
	in := Input{ID: id, Label: label, Kind: Choice, Default: def}
	for i := 0; i+1 < len(words); i += 2 {
		in.Choices = append(in.Choices, Word{words[i], words[i+1]})
	}
	return in
}

var metal = pick("metal", "Wound of", "copper", "copper", "copper", "aluminium", "aluminium")

// All lists the calculators, in the order of the bench.
func All() []Calculator {
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
			run: fourWire},
		{ID: "bars", Group: "Windings", Title: "Bar to bar", Answers: "Is a coil of the armature open, or are two bars shorted?",
			Formula: "each drop against the median of all", Source: "common practice",
			Inputs: []Input{{ID: "drops", Label: "Drop from bar to bar, once round", Kind: List, Unit: "mV",
				Hint: "in millivolts, with blanks between: 21 22 21 …"},
				pick("feed", "Current goes in", "across", "across", "at two opposite bars", "adjacent",
					"at the two bars measured"), hint(q("resolution", "One count of the meter", "mV", "0.1"),
					"0.1 mV on the lowest range")},
			run: bars},
		{ID: "insulation", Group: "Windings", Title: "Insulation to frame", Answers: "Does the winding touch the frame?",
			Formula: "R ≥ floor", Source: "1 MΩ: common practice for small low-voltage machines; IEEE 43 from 750 W",
			Inputs: []Input{hint(q("shown", "Winding to bare frame", "Ω", ""), "OL is a value too"),
				hint(q("volts", "Tested with", "V (tester)", "1"), "an ohmmeter tests with about 1 V"),
				opt(q("power", "Rated power", "W", "")),
				pick("what", "It is", "armature", "armature", "an armature", "other", "a field, coil or stator")},
			run: insulation},
		{ID: "stator", Group: "Windings", Title: "Three-phase stator, ohms", Answers: "Are the three phases alike?",
			Formula: "wye: line = 2 phases; delta: line = 2/3 phase; unbalance = 100 · greatest deviation / mean",
			Source:  "NEMA MG 1 (unbalance); 5 % between phases: common practice",
			Inputs: []Input{q("ab", "Wire 1 to 2", "Ω", ""), q("bc", "Wire 2 to 3", "Ω", ""),
				q("ca", "Wire 3 to 1", "Ω", ""), q("leads", "Leads held together", "Ω", "0"),
				q("resolution", "One count of the meter", "Ω", "0.1"),
				pick("connection", "Connected as", "wye", "wye", "wye (star)", "delta", "delta"),
				opt(q("low", "Specification, from", "Ω", "")), opt(q("high", "to", "Ω", ""))},
			run: stator},
		{ID: "stator_volts", Group: "Windings", Title: "Three-phase stator, running",
			Answers: "Do all three pairs give the same volts, unloaded?",
			Formula: "unbalance = 100 · greatest deviation / mean", Source: "NEMA MG 1; equal volts: common practice",
			Caution: "Small stators only, plug open, hands off belts and fans.",
			Inputs: []Input{q("ab", "Wire 1 to 2, AC", "V", ""), q("bc", "Wire 2 to 3, AC", "V", ""),
				q("ca", "Wire 3 to 1, AC", "V", ""), opt(q("low", "Specification, from", "V", "")), opt(q("high", "to", "V", ""))},
			run: statorVolts},
		{ID: "capacitor", Group: "Capacitors", Title: "Capacitor, measured", Answers: "Is the capacitor within its mark?",
			Formula: "deviation = 100 · (C − marked)/marked",
			Source:  "IEC 60252-1 (tolerance as marked, usually 5, 6 or 10 %)",
			Caution: "Isolated, locked, discharged and proven before a meter touches it.",
			Inputs: []Input{q("shown", "The meter shows", "F", ""), q("marked", "Marked", "F", ""),
				q("tolerance", "Marked tolerance", "%", "5"), hint(q("meter", "The meter may be off by", "%", "2"), "see its leaflet")},
			run: capacitor},
		{ID: "capacitor_current", Group: "Capacitors", Title: "Capacitor by volts and amperes",
			Answers: "What is its capacitance, without a meter for it?",
			Formula: "C = I / (2π f V)", Source: "IEC 60252-1",
			Caution: "From an isolated source of at most 25 V AC only, never from the mains.",
			Inputs: []Input{q("volts", "Volts, AC", "V", ""), q("amperes", "Amperes", "A", ""),
				q("hertz", "Frequency", "Hz", "50"), opt(q("marked", "Marked", "F", "")), q("tolerance", "Marked tolerance", "%", "5")},
			run: capacitorCurrent},
		{ID: "discharge", Group: "Capacitors", Title: "Discharge", Answers: "How long must the resistor stay on it?",
			Formula: "t = 5 R C; P = V²/R", Source: "IEC 60252-1; 20 kΩ, 5 W: common practice",
			Caution: "Then prove it with the meter, on DC volts, across the terminals. Never with a screwdriver.",
			Inputs: []Input{q("farad", "Capacitor", "F", ""), q("ohm", "Resistor", "Ω", "20k"),
				q("volts", "It may be charged to", "V (mark)", "400")},
			run: discharge},
		{ID: "replacement", Group: "Capacitors", Title: "Another capacitor in its place", Answers: "May this one take its place?",
			Formula: "same microfarads, at least the volts, the same kind", Source: "IEC 60252-1; common practice",
			Inputs: []Input{q("old", "The old one is marked", "F", ""), q("old_volts", "and for", "V (mark)", "450"),
				q("new", "The new one is marked", "F", ""), q("new_volts", "and for", "V (mark)", "450"),
				q("tolerance", "Marked tolerance", "%", "5"),
				pick("kind", "Both are", "same", "same", "of one kind (run or start)", "mixed", "one run, one start")},
			run: replacement},
		{ID: "brush", Group: "Brushes, commutator, bearings", Title: "Brush", Answers: "How much is left of it, and for how many hours?",
			Formula: "share = (now − least)/(new − least); hours = length left / wear per hour",
			Source:  "common practice; the maker's mark comes first", Caution: "Brush dust is not blown or breathed.",
			Inputs: []Input{q("new", "New", "mm", ""), q("now", "Now", "mm", ""),
				opt(hint(q("min", "Least, by the maker's mark", "mm", ""),
					"else 60 % of new for starters, a third for others")), opt(q("hours", "It has run", "h", "")),
				q("caliper", "Caliper reads to", "mm", "0.05"),
				pick("motor", "In a", "other", "starter", "starter", "other", "other motor"),
				pick("state", "It is", "fine", "fine", "free in its holder, face shiny, pigtail whole", "stuck",
					"stuck in its holder", "broken", "pigtail or spring broken", "burnt", "burnt on one edge")},
			run: brush},
		{ID: "commutator", Group: "Brushes, commutator, bearings", Title: "Commutator", Answers: "May it run on, be cleaned, or turned?",
			Formula: "each measure against its limit", Source: "common practice and from memory; the manual comes first",
			Inputs: []Input{pick("looks", "It looks", "smooth", looks()...), opt(q("new", "Diameter new", "mm", "")),
				opt(q("now", "Diameter now", "mm", "")), opt(q("least", "Least diameter, manual", "mm", "")),
				opt(q("runout", "Run-out", "mm", "")), opt(q("undercut", "Depth of the slots", "mm", ""))},
			run: commutator},
		{ID: "bearing", Group: "Brushes, commutator, bearings", Title: "Ball bearing",
			Answers: "Which standard size is it, and how does it go on?",
			Formula: "bore, outside diameter and width against the series", Source: "ISO 15, dimension series 18, 19, 10, 02, 03",
			Inputs: []Input{q("bore", "Bore", "mm", ""), q("outside", "Outside diameter", "mm", ""),
				q("width", "Width", "mm", ""), q("caliper", "Caliper reads to", "mm", "0.05"),
				pick("sides", "Its sides", "sealed", "open", "open", "shields", "metal shields", "sealed",
					"rubber seals"), pick("feel", "Turned by hand", "smooth", "smooth", "smooth", "rough",
					"rough or gritty", "tight", "tight", "loose", "loose, rattles")},
			run: bearing},
		{ID: "bench_run", Group: "On the bench", Title: "Bench run",
			Answers: "Are resistance, speed constant and friction what they should be?",
			Formula: "V − V_b = R·I + k_e·ω by least squares; friction = k_e·I₀",
			Source:  "DC motor equations; least squares as above",
			Caution: "Clamp it: it jumps. Fused lead. At stall one second, no longer.",
			Inputs: []Input{{ID: "runs", Label: "Volts, amperes and rpm, unloaded or stalled (rpm 0)", Kind: Rows,
				Columns: []string{"volts in V", "amperes in A", "rpm in rpm"}, Hint: "one point a line: 12.0 3.1 2850"},
				q("brushes", "Drop of both brushes", "V", "0.6"),
				pick("noise", "It sounds", "none", "none", "even", "rough", "rough", "grind", "grinding")},
			run: benchRun},
		{ID: "genset", Group: "On the bench", Title: "Generator set", Answers: "Does it hold frequency and volts, without and with load?",
			Formula: "droop = 100 · (no load − full load)/full load; rpm = 120 f/poles", Source: "common practice",
			Caution: "Read from its own panel or a plug-in instrument. Nothing is probed.",
			Inputs: []Input{q("nominal", "Nominal frequency", "Hz", "50"), q("no_load", "Without load", "Hz", ""),
				q("full_load", "With its load", "Hz", ""), opt(q("volts", "Volts with load", "V (panel)", "")),
				opt(q("nominal_volts", "Nominal volts", "V (panel)", "")), opt(q("poles", "Poles", "", ""))},
			run: genset},
		{ID: "cable", Group: "Wiring repair", Title: "Cable size", Answers: "Which cable for this current and length?",
			Formula: "A = ρ·l·I/ΔV, and no more than it may carry for long",
			Source:  "IEC 60028 (copper); ISO 6722-1 sizes; ISO 10133, table A.1, 70 °C insulation, from memory",
			Inputs: []Input{q("amperes", "Current", "A", ""),
				hint(q("metres", "Length of wire", "m", ""), "there and back, where the return is wire too"),
				hint(q("drop", "Allowed drop", "V", "0.2"),
					"0.2 V a cable, 0.5 V a whole accessory path on 12 V"), q("celsius", "Copper's temperature", "°C", "40")},
			run: cable},
		{ID: "wire", Group: "Wiring repair", Title: "Resistance of a wire", Answers: "What should this wire measure, and lose?",
			Formula: "R = ρ·l/A · (1 + α(t − 20))", Source: "IEC 60028; AWG by ASTM B258",
			Inputs: []Input{hint(Input{ID: "size", Label: "Size", Kind: Quantity, Unit: "mm²"}, "2.5 or AWG 14"),
				q("metres", "Length", "m", ""), q("celsius", "Temperature", "°C", "20"), opt(q("amperes", "Current", "A", ""))},
			run: wire},
		{ID: "relay_gain", Group: "Wiring repair", Title: "A relay close to the motor", Answers: "What would a short thick feed gain?",
			Formula: "V_after = V_battery − I·(R_feed + R_contact); speed ∝ V − I·R",
			Source:  "DC motor equations; contact 5 mΩ: common practice",
			Inputs: []Input{q("battery", "Battery, motor running", "V", ""), q("motor", "At the motor", "V", ""),
				q("amperes", "Current", "A", ""), hint(Input{ID: "size", Label: "New feed", Kind: Quantity,
					Unit: "mm²", Default: "4"}, "mm² or AWG"),
				hint(q("metres", "its length", "m", "3"), "there and back"), opt(q("resistance", "Motor's resistance", "Ω", ""))},
			run: relayGain},
		{ID: "joint", Group: "Wiring repair", Title: "Heat in a joint", Answers: "How hot does this joint get, and is it a hazard?",
			Formula: "P = I²·R = I·ΔV", Source: "Joule's law; the limits in watts from memory",
			Inputs: []Input{q("amperes", "Current", "A", ""), opt(q("drop", "Volts lost in it", "V", "")),
				opt(q("ohm", "or its resistance", "Ω", "")),
				pick("looks", "It looks", "clean", "clean", "clean", "discoloured", "discoloured", "spread",
					"spread, no grip", "green", "green or white corrosion", "melted", "housing melted or burnt"),
				pick("near", "Near oil, fuel or gas", "no", "no", "no", "yes", "yes")},
			run: joint},
		{ID: "splice", Group: "Wiring repair", Title: "Splice", Answers: "Which crimp, how much bare, how much sleeve?",
			Formula: "half the barrel bare on each side; sleeve 10 mm beyond the barrel", Source: "common practice",
			Inputs: []Input{hint(Input{ID: "size", Label: "Wire", Kind: Quantity, Unit: "mm²"}, "mm² or AWG"),
				opt(q("amperes", "Current", "A", ""))},
			run: splice},
		{ID: "strands", Group: "Wiring repair", Title: "Broken strands", Answers: "Is this wire still safe?",
			Formula: "copper left, what it may carry, against current and fuse",
			Source:  "ISO 10133, table A.1, from memory; common practice",
			Inputs: []Input{hint(Input{ID: "size", Label: "Wire", Kind: Quantity, Unit: "mm²"}, "mm² or AWG"),
				q("broken", "Strands broken", "%", ""), q("metres", "Over a length of", "m", "20 mm"),
				q("amperes", "Current", "A", ""), q("fuse", "Its fuse", "A", ""),
				pick("near", "Loose or burnt near oil, fuel or gas", "no", "no", "no", "yes", "yes")},
			run: strands},
	}
}

func looks() []string {
	var out []string
	for _, f := range wear.Commutator() {
		out = append(out, f.ID, f.Label)
	}
	return out
}

// handheld is an ordinary meter's ohms with the given count.
func handheld(resolution float64) meter.Accuracy {
	a := *meter.Handheld().Resistance
	a.Resolution, a.Ranges = resolution, nil
	return a
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
		winding.Value{X: leads, U: acc.Sigma(leads)}, metal, at, to, 2)
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

func capacitor(a *ask, r *Result) {
	shown, marked, tol, off := a.num("shown"), a.num("marked"), a.num("tolerance"), a.num("meter")
	if a.err == nil && !(marked > 0) {
		a.fail("marked", "what is marked on it lies above zero")
	}
	if a.err != nil {
		return
	}
	a.mark(r, winding.Value{X: shown, U: shown * off / 100 / math.Sqrt(3)}, marked, tol)
}

func (a *ask) mark(r *Result, v winding.Value, marked, tol float64) {
	dev := 100 * (v.X/marked - 1)
	r.line("Capacitance", "%s", pm(v.X, v.U, unit.Capacitance))
	r.line("Against its mark", "%+.1f %%", dev)
	switch winding.Against(v, marked*(1-tol/100), marked*(1+tol/100)) {
	case winding.Good:
		r.Judged, r.Says = "good", fmt.Sprintf("Within %.0f %% of its mark.", tol)
	case winding.Low:
		r.Judged, r.Says = "bad", fmt.Sprintf("%.0f %% under its mark: it has lost capacitance. Replace it.", -dev)
		if v.X < 0.05*marked {
			r.Says = "Hardly any capacitance: it is open. Replace it."
		}
	case winding.High:
		r.Judged, r.Says = "bad", "Over its mark: not the one that belongs here, or the meter sees something beside it."
	default:
		r.Judged, r.Says, r.Next = "cannot_tell", "Too near the limit for this meter.",
			"A better capacitance meter, or volts and amperes from an isolated 24 V source."
		if dev < 0 && math.Abs(dev) <= tol {
			r.Judged, r.Says = "near", "Within its mark as read, near its limit."
			r.Next = ""
		}
	}
	if a.part != nil && a.part.Kind == circuit.Capacitor {
		e := a.capacitance(v)
		r.Evidence = append(r.Evidence, e)
	}
}

func capacitorCurrent(a *ask, r *Result) {
	v, err := winding.FromCurrent(a.num("volts"), a.num("amperes"), a.num("hertz"), 1.5, 2)
	if a.err != nil || a.wrong(err) {
		return
	}
	if a.has("marked") {
		if m := a.num("marked"); m > 0 {
			a.mark(r, v, m, a.num("tolerance"))
			return
		}
		a.fail("marked", "what is marked on it lies above zero")
		return
	}
	r.line("Capacitance", "%s", pm(v.X, v.U, unit.Capacitance))
	r.Says = pm(v.X, v.U, unit.Capacitance) + "."
}

func discharge(a *ask, r *Result) {
	c, ohm, v := a.num("farad"), a.num("ohm"), a.num("volts")
	if a.err != nil {
		return
	}
	if !(c > 0 && ohm > 0 && v > 0) || math.IsInf(c+ohm+v, 0) {
		a.fail("farad", "capacitor, resistor and volts lie above zero")
		return
	}
	t, w := winding.Discharge(c, ohm, v)
	r.line("Time", "%.1f s", t)
	r.line("Heat in the resistor at first", "%.1f W", w)
	r.Says = fmt.Sprintf("Hold the resistor on it for %.0f s, with insulated clips. Then prove it: DC volts across its terminals.",
		math.Ceil(t))
	r.Steps = []string{"Isolate and lock the supply.",
		fmt.Sprintf("%s across the terminals for %.0f s.", unit.Format(ohm, unit.Resistance), math.Ceil(t)),
		"DC volts across the terminals: under 1 V.", "Only then take its wires off."}
	if w > 5 {
		r.Next = fmt.Sprintf("Choose a resistor for %.0f W, or a larger one in ohms.", math.Ceil(w))
		r.Judged = "near"
	}
}

func replacement(a *ask, r *Result) {
	o, n := a.num("old"), a.num("new")
	ov, nv, tol := a.num("old_volts"), a.num("new_volts"), a.num("tolerance")
	same := a.choice("kind") == "same"
	if a.err == nil && !(o > 0 && n > 0) {
		a.fail("old", "microfarads lie above zero")
	}
	if a.err != nil {
		return
	}
	if err := winding.MayReplace(o, ov, n, nv, tol, same); err != nil {
		r.Judged, r.Says = "bad", "No: "+err.Error()+"."
		return
	}
	r.Judged, r.Says = "good", "Yes: the same microfarads, at least the volts, the same kind."
}

func brush(a *ask, r *Result) {
	b := wear.Brush{New: a.num("new"), Now: a.num("now"), Hours: a.num("hours"), U: a.num("caliper") / math.Sqrt(3)}
	starter := a.choice("motor") == "starter"
	state := a.choice("state")
	if a.has("min") {
		b.Min = a.num("min")
	} else {
		b.Min = wear.DefaultMin(starter) * b.New
		r.line("Least, assumed", "%.1f mm", b.Min*1000)
	}
	if a.err != nil {
		return
	}
	l, err := b.Left()
	if a.wrong(err) {
		return
	}
	r.line("Left of what may wear", "%.0f %% ± %.0f", 100*l.Share, 200*l.U)
	if l.Known {
		r.line("Hours left", "%.0f (%.0f to %.0f)", l.Hours, l.LowHours, l.HiHour)
	}
	switch {
	case state == "broken":
		r.Judged, r.Says = "bad", "Pigtail or spring broken: a new set, whatever is left of it."
		a.observe(r, "brushes_seen", "broken")
	case state == "stuck":
		r.Judged, r.Says = "bad", "Stuck in its holder: it lost its copper. Clean holder and brush until it slides "+
			"by its own weight, then judge its length."
		a.observe(r, "brushes_seen", "stuck")
	case l.Worn:
		r.Judged, r.Says = "bad", "Worn out: a new set, all brushes together."
		a.observe(r, "brushes_seen", "worn")
	case l.Known && l.LowHours < 50 || l.Share < 0.15:
		r.Judged, r.Says = "near", "It works, and not for long: replace it while it is apart."
		a.observe(r, "brushes_seen", "fine")
	default:
		r.Judged, r.Says = "good", fmt.Sprintf("%.0f %% left: it goes back in, the same way round.", 100*l.Share)
		a.observe(r, "brushes_seen", "fine")
	}
	if state == "burnt" {
		r.Says += " A burnt edge means sparking: look at the commutator and the spring."
	}
	r.Steps = []string{"Mark each brush for its holder and its side.",
		"Springs have one temper: blue ones are soft, replace them.",
		"The face must be shiny over most of its width; new ones are seated with fine paper round the commutator."}
}

func commutator(a *ask, r *Result) {
	looks := a.choice("looks")
	var says []string
	bad := false
	for _, f := range wear.Commutator() {
		if f.ID == looks {
			says = append(says, f.Means, f.Do)
			bad = f.Bad
			for _, s := range f.Schools {
				r.Ways = append(r.Ways, Way{s.Way, s.Why})
			}
			a.observe(r, "commutator_seen", f.Word)
		}
	}
	if a.has("now") && (a.has("new") || a.has("least")) {
		now, least := a.num("now"), a.num("least")
		if !a.has("least") {
			least = a.num("new") * (1 - wear.MaxTurned)
			r.line("Least diameter, assumed", "%.2f mm", least*1000)
		}
		r.line("May still be turned", "%.2f mm", math.Max(0, now-least)*1000)
		if now < least {
			bad = true
			says = append(says, "It is under its least diameter: no more turning, the armature is replaced.")
		}
	}
	if a.has("runout") {
		if x := a.num("runout"); x > wear.MaxRunOut {
			bad = true
			says = append(says, fmt.Sprintf("Run-out of %.2f mm is over %.2f: the brushes jump. Turn it between its own bearings.",
				x*1000, wear.MaxRunOut*1000))
		} else {
			r.line("Run-out", "%.2f mm, within %.2f", x*1000, wear.MaxRunOut*1000)
		}
	}
	if a.has("undercut") {
		if x := a.num("undercut"); x < wear.MinUndercut {
			says = append(says, fmt.Sprintf("The slots are down to %.2f mm: cut them to %.1f and chamfer the edges.",
				x*1000, wear.Undercut*1000))
			r.Ways = append(r.Ways, Way{"Undercut the mica", "it wears slower than copper and lifts the brush"},
				Way{"Leave it flush", "some starters are made so: the manual says which"})
			if !bad {
				r.Judged = "near"
			}
		}
	}
	if a.err != nil {
		return
	}
	if bad {
		r.Judged = "bad"
	} else if r.Judged == "none" {
		r.Judged = "good"
		if looks != "smooth" {
			r.Judged = "near"
		}
	}
	r.Says = strings.Join(says, " ")
	r.Steps = []string{"Never emery cloth on a commutator that will run: its grit conducts and stays in the slots.",
		"After any cleaning, scrape the slots and wipe with a dry cloth."}
}

func bearing(a *ask, r *Result) {
	bore, od, w := a.num("bore"), a.num("outside"), a.num("width")
	u := a.num("caliper")
	sides, feel := a.choice("sides"), a.choice("feel")
	if a.err != nil {
		return
	}
	m, err := wear.Identify(bore, od, w, u)
	if a.wrong(err) {
		return
	}
	suffix := map[string]string{"open": "open", "shields": "with two metal shields", "sealed": "with two rubber seals"}[sides]
	switch {
	case len(m) == 0:
		r.Judged, r.Says = "cannot_tell", "No standard ball bearing has these sizes: measure the rings where they "+
			"are not worn, or it is an inch or special one."
	case len(m) > 1 && m[1].Off < m[0].Off+1 && m[1].Designation != m[0].Designation:
		r.Judged, r.Says = "cannot_tell", fmt.Sprintf("%s or %s: measure again with a finer caliper, or read the ring.",
			m[0].Designation, m[1].Designation)
	default:
		r.Judged, r.Says = "good", fmt.Sprintf("%s, %g × %g × %g mm, %s.", m[0].Designation, m[0].Bore, m[0].Outside, m[0].Width, suffix)
		if m[0].Note != "" {
			r.Says = fmt.Sprintf("%s, %g × %g × %g mm (this width is the %s one).", m[0].Designation, m[0].Bore,
				m[0].Outside, m[0].Width, m[0].Note)
		}
	}
	for _, x := range m {
		r.line(x.Designation, "%g × %g × %g mm %s", x.Bore, x.Outside, x.Width, x.Note)
	}
	a.observe(r, "bearing_feel", feel)
	r.Steps = []string{"On a shaft: press on the inner ring only. Into a housing: on the outer ring only. Never through the balls.",
		"Warm it to 80 to 100 °C for a shaft it is tight on; sealed ones not above 80 °C, never with a flame.",
		"On most motors tight on the shaft and free to slide in the end shield: if the ring turned in its seat, the seat is the fault.",
		"Sealed bearings keep their own grease: do not wash them."}
	r.Ways = []Way{{"Seals (rubber)", "keep water and brush dust out; a little more drag"},
		{"Shields (metal)", "run freer and hotter; let fine dust in"}}
}

func benchRun(a *ask, r *Result) {
	rows := a.rows("runs")
	vb := a.num("brushes")
	noise := a.choice("noise")
	if a.err != nil {
		return
	}
	runs := make([]motor.Run, len(rows))
	for i, x := range rows {
		runs[i] = motor.Run{V: x[0], I: x[1], W: x[2] * 2 * math.Pi / 60}
	}
	f, err := motor.Fit(runs, vb)
	if a.wrong(err) {
		return
	}
	r.line("Resistance", "%s", pm(f.R, f.UR, unit.Resistance))
	r.line("Speed constant", "%.4g V s/rad%s (%.0f rpm a volt)", f.Ke, errText(f.UKe), 60/(2*math.Pi)/f.Ke)
	r.line("Friction", "%.3g N m%s", f.Friction, errText(f.UFriction))
	if len(runs) > 2 {
		r.line("Points are off the line by", "%s", unit.Format(f.Rms, unit.Voltage))
	}
	r.Says = "These are the motor's own constants. Beside a known good one, or with the job's circuit, they can be judged."
	m := a.motor()
	if m == nil {
		return
	}
	type want struct {
		name     string
		got, exp float64
		low, hi  string
	}
	worst := ""
	for _, w := range []want{
		{"resistance", f.R, m["resistance"], "shorted turns", "brushes, a poor joint, or a coil open"},
		{"speed constant", f.Ke, m["ke"], "shorted turns, or magnets that lost strength", "another winding than meant"},
		{"friction", f.Friction, m["friction"], "", "bearings or rubbing brushes"},
	} {
		if w.exp <= 0 {
			continue
		}
		k := w.got / w.exp
		r.line("Usual "+w.name, "%.3g, this one %.2f times that", w.exp, k)
		limit := 1.6
		if w.name == "friction" {
			limit = 3
		}
		switch {
		case k > limit && w.hi != "":
			worst += fmt.Sprintf(" Its %s is %.1f times the usual: %s.", w.name, k, w.hi)
		case k < 1/limit && w.low != "":
			worst += fmt.Sprintf(" Its %s is %.1f of the usual: %s.", w.name, k, w.low)
		}
	}
	if worst == "" {
		r.Judged, r.Says = "good", "Resistance, speed constant and friction are as this kind of motor has them."
		if noise != "none" {
			r.Judged, r.Says = "near", r.Says+" But it sounds "+
				map[string]string{"rough": "rough", "grind": "as if it ground"}[noise]+": look at the bearings."
		}
	} else {
		r.Judged, r.Says = "bad", strings.TrimSpace(worst)
	}
	// As evidence: its last turning point, taken unloaded on the bench.
	for i := len(rows) - 1; i >= 0; i-- {
		if rows[i][2] > 0 {
			a.benchCurrent(r, rows[i][1])
			break
		}
	}
}

func genset(a *ask, r *Result) {
	g := prove.Genset{Nominal: a.num("nominal"), NoLoad: a.num("no_load"), FullLoad: a.num("full_load"),
		Volts: a.num("volts"), NominalVolts: a.num("nominal_volts"), Poles: int(a.num("poles"))}
	if a.err != nil {
		return
	}
	droop, rpm, good, says, err := g.GensetSays()
	if a.wrong(err) {
		return
	}
	r.line("Droop", "%.1f %%", droop)
	if rpm > 0 {
		r.line("Speed without load", "%.0f rpm", rpm)
	}
	r.Says, r.Judged = says, "bad"
	if good {
		r.Judged = "good"
	}
}

func errText(u float64) string {
	if u <= 0 {
		return ""
	}
	return fmt.Sprintf(" ± %.2g", 2*u)
}

func cable(a *ask, r *Result) {
	c, err := conductor.SizeFor(a.num("amperes"), a.num("metres"), a.num("drop"), a.num("celsius"))
	if a.err != nil || a.wrong(err) {
		return
	}
	r.Judged = "good"
	r.Says = fmt.Sprintf("%g mm² (%s): it loses %.2f V.", c.Area, c.AWG, c.Drop)
	if c.ByHeat {
		r.Says += " Heat decides here, not the drop."
	}
	r.line("By drop alone", "%.1f mm²", c.Needed)
	r.line("It may carry for long", "%.0f A", c.Current)
	r.Steps = []string{"The fuse protects the cable: no larger than what the thinnest wire behind it may carry.",
		"In an engine space or in a bundle, take the next size."}
}

func (a *ask) size() float64 {
	v, err := conductor.ParseSize(a.text("size"))
	if err != nil {
		a.fail("size", "%v", err)
	}
	return v
}

func wire(a *ask, r *Result) {
	area, l, t := a.size(), a.num("metres"), a.num("celsius")
	if a.err != nil {
		return
	}
	ohm, err := conductor.Resistance(area, l, t)
	if a.wrong(err) {
		return
	}
	r.line("Pure copper", "%s", unit.Format(ohm, unit.Resistance))
	r.line("Vehicle cable, up to", "%s", unit.Format(1.1*ohm, unit.Resistance))
	r.line("It may carry for long", "%.0f A", conductor.Ampacity(area))
	r.Says = fmt.Sprintf("%s for %.3g m of %.3g mm².", unit.Format(ohm, unit.Resistance), l, area)
	if a.has("amperes") {
		i := a.num("amperes")
		r.line("Drop", "%s", unit.Format(i*ohm, unit.Voltage))
		r.Says += fmt.Sprintf(" At %s it loses %s.", unit.Format(i, unit.Current), unit.Format(i*ohm, unit.Voltage))
	}
}

func relayGain(a *ask, r *Result) {
	area := a.size()
	g, err := conductor.RelayGain(a.num("battery"), a.num("motor"), a.num("amperes"), area, a.num("metres"), 0.005, a.num("resistance"))
	if a.err != nil || a.wrong(err) {
		return
	}
	r.line("Lost now", "%s", unit.Format(g.Lost, unit.Voltage))
	r.line("At the motor, before", "%s", unit.Format(g.Before, unit.Voltage))
	r.line("At the motor, after", "%s", unit.Format(g.After, unit.Voltage))
	switch {
	case g.Speed < 3:
		r.Judged, r.Says = "near", "It gains next to nothing: look for the fault elsewhere."
	case g.Lost > 1:
		r.Judged, r.Says = "good", fmt.Sprintf("About %.0f %% more speed. But %s lost is more than a healthy feed "+
			"of its kind loses: mend that first.", g.Speed, unit.Format(g.Lost, unit.Voltage))
	default:
		r.Judged, r.Says = "good", fmt.Sprintf("About %.0f %% more speed.", g.Speed)
	}
	r.Steps = []string{"The old feed becomes the relay's trigger: it carries a fifth of an ampere.",
		"A fuse of its own close to the battery, no larger than the new cable may carry."}
}

func joint(a *ask, r *Result) {
	i := a.num("amperes")
	ohm := a.num("ohm")
	looks, near := a.choice("looks"), a.choice("near") == "yes"
	if a.has("drop") {
		ohm = a.num("drop") / math.Max(i, 1e-9)
	} else if !a.has("ohm") {
		a.fail("drop", "give the volts lost in it, or its resistance")
	}
	if a.err == nil && !(i > 0 && ohm >= 0 && !math.IsInf(i+ohm, 0)) {
		a.fail("amperes", "amperes above zero and a drop from zero are needed")
	}
	if a.err != nil {
		return
	}
	w, level := conductor.JointHeat(i, ohm)
	r.line("Resistance", "%s", unit.Format(ohm, unit.Resistance))
	r.line("Heat", "%.1f W", w)
	switch level {
	case "cool":
		r.Judged, r.Says = "good", fmt.Sprintf("%.1f W: it stays cool.", w)
	case "warm":
		r.Judged, r.Says = "near", fmt.Sprintf("%.1f W: it gets warm, and warmth makes it worse. Clean and tighten it.", w)
	case "hot":
		r.Judged, r.Says = "bad", fmt.Sprintf("%.0f W: its housing softens. Repair it before it is used again.", w)
	default:
		r.Judged, r.Says = "bad", fmt.Sprintf("%.0f W: it discolours, melts its housing and may burn. Out of use until it is mended.", w)
	}
	switch looks {
	case "melted":
		r.Judged, r.Says = "bad", r.Says+" A melted housing is a fire hazard whatever still works: cut it out, both halves new."
		a.observe(r, "connector", "burnt")
	case "discoloured":
		r.Says += " The colour says it was hot already: a new terminal, crimped, not a cleaned one."
		a.observe(r, "connector", "discoloured")
	case "spread":
		r.Says += " A spread terminal has lost its temper: replace it, do not bend it back."
	case "green":
		r.Says += " Corrosion creeps under the insulation: cut back to bright copper."
	}
	if near && level != "cool" {
		r.Judged, r.Says = "bad", r.Says+" Near oil, fuel or gas this is a fire hazard."
	}
}

func splice(a *ask, r *Result) {
	area := a.size()
	if a.err != nil {
		return
	}
	s, err := conductor.SpliceFor(area)
	if a.wrong(err) {
		return
	}
	r.Judged = "good"
	r.line("Crimp barrel for", "%g mm²", s.Barrel)
	r.line("Bare on each side", "%.0f mm", s.Strip)
	r.line("Sleeve with adhesive", "%.0f mm", s.Sleeve)
	r.Says = fmt.Sprintf("Butt crimp for %g mm², %.0f mm bare on each side, %.0f mm of adhesive sleeve: pull on it before it is closed.",
		s.Barrel, s.Strip, s.Sleeve)
	if a.has("amperes") {
		if i := a.num("amperes"); i > conductor.Ampacity(area) {
			r.Judged, r.Says = "bad", fmt.Sprintf("%.3g mm² may carry about %.0f A for long, not %.0f: a thicker wire first.",
				area, conductor.Ampacity(area), i)
		}
	}
	r.Steps = []string{"Crimp, do not only twist; solder alone breaks where it ends.",
		"Splices side by side are staggered by their own length.", "Adhesive sleeve wherever water comes."}
	r.Ways = []Way{{"Crimp with sleeve", "stands vibration, needs the right tool"},
		{"Solder in a crimp", "keeps damp out of the strands; must be held still behind the joint"}}
}

func strands(a *ask, r *Result) {
	area := a.size()
	s, err := conductor.Damaged(area, a.num("broken")/100, a.num("metres"), a.num("amperes"), a.num("fuse"), a.choice("near") == "yes")
	if a.err != nil || a.wrong(err) {
		return
	}
	r.line("Copper left", "%.0f %%", 100*s.Left)
	r.line("It may carry for long", "%.0f A", s.Ampacity)
	r.line("Heat in the damaged length", "%.2f W", s.Watts)
	if s.Fire {
		r.Judged, r.Says = "bad", "A fire hazard: "+s.Why+"."
	} else {
		r.Judged, r.Says = "near", "Not a hazard by itself: "+s.Why+"."
	}
	r.Steps = []string{"Cut back to sound copper and splice in the same size or the next."}
}
