package calc

import (
	"fmt"
	"math"

	"corriente/core/conductor"
	"corriente/core/unit"
)

// wiring lists the calculators of wires and joints.
func wiring() []Calculator {
	return []Calculator{
		{ID: "cable", Group: "Wiring repair", Title: "Cable size", Answers: "Which cable for this current and length?",
			Formula: "A = ρ·l·I/ΔV, and no more than it may carry for long",
			Source:  "IEC 60028 (copper); ISO 6722-1 sizes; ISO 10133, table A.1, 70 °C insulation, from memory",
			Inputs: []Input{q("amperes", "Current", "A", ""),
				hint(q("metres", "Length of wire", "m", ""), "there and back, where the return is wire too"),
				hint(q("drop", "Allowed drop", "V", "0.2"),
					"0.2 V a cable, 0.5 V a whole accessory path on 12 V"), q("celsius", "Copper's temperature", "°C", "40")},
			example: example{map[string]string{"amperes": "20", "metres": "6", "celsius": "20"}, "16 mm²", "good"},
			run:     cable},
		{ID: "wire", Group: "Wiring repair", Title: "Resistance of a wire", Answers: "What should this wire measure, and lose?",
			Formula: "R = ρ·l/A · (1 + α(t − 20))", Source: "IEC 60028; AWG by ASTM B258",
			Inputs: []Input{hint(Input{ID: "size", Label: "Size", Kind: Quantity, Unit: "mm²"}, "2.5 or AWG 14"),
				q("metres", "Length", "m", ""), q("celsius", "Temperature", "°C", "20"), opt(q("amperes", "Current", "A", ""))},
			example: example{map[string]string{"size": "AWG 10", "metres": "1", "amperes": "20"}, "3.28 mΩ", "none"},
			run:     wire},
		{ID: "relay_gain", Group: "Wiring repair", Title: "A relay close to the motor", Answers: "What would a short thick feed gain?",
			Formula: "V_after = V_battery − I·(R_feed + R_contact); speed ∝ V − I·R",
			Source:  "DC motor equations; contact 5 mΩ: common practice",
			Inputs: []Input{q("battery", "Battery, motor running", "V", ""), q("motor", "At the motor", "V", ""),
				q("amperes", "Current", "A", ""), hint(Input{ID: "size", Label: "New feed", Kind: Quantity,
					Unit: "mm²", Default: "4"}, "mm² or AWG"),
				hint(q("metres", "its length", "m", "3"), "there and back"), opt(q("resistance", "Motor's resistance", "Ω", ""))},
			example: example{map[string]string{"battery": "12.4", "motor": "10.4", "amperes": "5"}, "more speed", "good"},
			run:     relayGain},
		{ID: "joint", Group: "Wiring repair", Title: "Heat in a joint", Answers: "How hot does this joint get, and is it a hazard?",
			Formula: "P = I²·R = I·ΔV", Source: "Joule's law; the limits in watts from memory",
			Inputs: []Input{q("amperes", "Current", "A", ""), opt(q("drop", "Volts lost in it", "V", "")),
				opt(q("ohm", "or its resistance", "Ω", "")),
				pick("looks", "It looks", "clean", "clean", "clean", "discoloured", "discoloured", "spread",
					"spread, no grip", "green", "green or white corrosion", "melted", "housing melted or burnt"),
				pick("near", "Near oil, fuel or gas", "no", "no", "no", "yes", "yes")},
			example: example{map[string]string{"amperes": "120", "ohm": "5 mohm"}, "72 W", "bad"},
			run:     joint},
		{ID: "splice", Group: "Wiring repair", Title: "Splice", Answers: "Which crimp, how much bare, how much sleeve?",
			Formula: "half the barrel bare on each side; sleeve 10 mm beyond the barrel", Source: "common practice",
			Inputs: []Input{hint(Input{ID: "size", Label: "Wire", Kind: Quantity, Unit: "mm²"}, "mm² or AWG"),
				opt(q("amperes", "Current", "A", ""))},
			example: example{map[string]string{"size": "2.5"}, "2.5 mm²", "good"},
			run:     splice},
		{ID: "strands", Group: "Wiring repair", Title: "Broken strands", Answers: "Is this wire still safe?",
			Formula: "copper left, what it may carry, against current and fuse",
			Source:  "ISO 10133, table A.1, from memory; common practice",
			Inputs: []Input{hint(Input{ID: "size", Label: "Wire", Kind: Quantity, Unit: "mm²"}, "mm² or AWG"),
				q("broken", "Strands broken", "%", ""), q("metres", "Over a length of", "m", "20 mm"),
				q("amperes", "Current", "A", ""), q("fuse", "Its fuse", "A", ""),
				pick("near", "Loose or burnt near oil, fuel or gas", "no", "no", "no", "yes", "yes")},
			example: example{map[string]string{"size": "2.5", "broken": "60", "amperes": "8", "fuse": "20"}, "fire hazard", "bad"},
			run:     strands},
	}
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
	g, err := conductor.Feed{Battery: a.num("battery"), Motor: a.num("motor"), Amperes: a.num("amperes"), Area: area,
		Metres: a.num("metres"), Contact: 0.005, Resistance: a.num("resistance")}.RelayGain()
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
	s, err := conductor.Damage{Area: area, Share: a.num("broken") / 100, Metres: a.num("metres"), Amperes: a.num("amperes"),
		Fuse: a.num("fuse"), Exposed: a.choice("near") == "yes"}.Strands()
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
