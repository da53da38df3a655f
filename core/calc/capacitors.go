package calc

import (
	"fmt"
	"math"

	"corriente/core/circuit"
	"corriente/core/unit"
	"corriente/core/winding"
)

// capacitors lists the calculators of capacitors.
func capacitors() []Calculator {
	return []Calculator{
		{ID: "capacitor", Group: "Capacitors", Title: "Capacitor, measured", Answers: "Is the capacitor within its mark?",
			Formula: "deviation = 100 · (C − marked)/marked",
			Source:  "IEC 60252-1 (tolerance as marked, usually 5, 6 or 10 %)",
			Caution: "Isolated, locked, discharged and proven before a meter touches it.",
			Inputs: []Input{q("shown", "The meter shows", "F", ""), q("marked", "Marked", "F", ""),
				q("tolerance", "Marked tolerance", "%", "5"), hint(q("meter", "The meter may be off by", "%", "2"), "see its leaflet")},
			example: example{map[string]string{"shown": "4.1", "marked": "7.5"}, "under its mark", "bad"},
			run:     capacitor},
		{ID: "capacitor_current", Group: "Capacitors", Title: "Capacitor by volts and amperes",
			Answers: "What is its capacitance, without a meter for it?",
			Formula: "C = I / (2π f V)", Source: "IEC 60252-1",
			Caution: "From an isolated source of at most 25 V AC only, never from the mains.",
			Inputs: []Input{q("volts", "Volts, AC", "V", ""), q("amperes", "Amperes", "A", ""),
				q("hertz", "Frequency", "Hz", "50"), opt(q("marked", "Marked", "F", "")), q("tolerance", "Marked tolerance", "%", "5")},
			example: example{map[string]string{"volts": "24", "amperes": "0.0565", "marked": "7.5"}, "Within", "good"},
			run:     capacitorCurrent},
		{ID: "discharge", Group: "Capacitors", Title: "Discharge", Answers: "How long must the resistor stay on it?",
			Formula: "t = 5 R C; P = V²/R", Source: "IEC 60252-1; 20 kΩ, 5 W: common practice",
			Caution: "Then prove it with the meter, on DC volts, across the terminals. Never with a screwdriver.",
			Inputs: []Input{q("farad", "Capacitor", "F", ""), q("ohm", "Resistor", "Ω", "20k"),
				q("volts", "It may be charged to", "V (mark)", "400")},
			example: example{map[string]string{"farad": "7.5", "volts": "400"}, "1 s", "near"},
			run:     discharge},
		{ID: "replacement", Group: "Capacitors", Title: "Another capacitor in its place", Answers: "May this one take its place?",
			Formula: "same microfarads, at least the volts, the same kind", Source: "IEC 60252-1; common practice",
			Inputs: []Input{q("old", "The old one is marked", "F", ""), q("old_volts", "and for", "V (mark)", "450"),
				q("new", "The new one is marked", "F", ""), q("new_volts", "and for", "V (mark)", "450"),
				q("tolerance", "Marked tolerance", "%", "5"),
				pick("kind", "Both are", "same", "same", "of one kind (run or start)", "mixed", "one run, one start")},
			example: example{map[string]string{"old": "7.5", "new": "10"}, "No:", "bad"},
			run:     replacement},
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
	mixed := a.choice("kind") != "same"
	if a.err == nil && !(o > 0 && n > 0) {
		a.fail("old", "microfarads lie above zero")
	}
	if a.err != nil {
		return
	}
	if err := (winding.Mark{Farads: n, Volts: nv, Start: mixed}).MayReplace(winding.Mark{Farads: o, Volts: ov}, tol); err != nil {
		r.Judged, r.Says = "bad", "No: "+err.Error()+"."
		return
	}
	r.Judged, r.Says = "good", "Yes: the same microfarads, at least the volts, the same kind."
}
