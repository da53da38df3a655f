package circuit

import (
	"cmp"
	"slices"
	"strings"
)

// What is found when a motor is taken apart: observations that every circuit with a
// brushed motor has besides its own, taken with the part isolated and stripped. Their
// rates are from memory of the trade: a worn motor's brushes look worn even where they
// are not what stopped it.
var insideIDs = []string{"brushes_seen", "commutator_seen", "winding_seen", "winding_test", "bearing_feel", "gear_seen", "oil_inside"}

// Inside lists what may be found inside this circuit's motor, with what the circuit's own
// description has to be seen in a stripped part. Generic lists all observations it has besides
// its own.
func (c *Circuit) Inside() []Observation {
	out := []Observation{}
	for _, o := range c.inside() {
		out = append(out, *o)
	}
	for i := range c.Observations {
		if c.Observations[i].Access == "stripped" {
			out = append(out, c.Observations[i])
		}
	}
	return out
}

// Generic lists the observations that come with every circuit of this kind.
func (c *Circuit) Generic() []Observation {
	out := []Observation{}
	for _, id := range append([]string{SwapHelps, CurrentTrace}, insideIDs...) {
		if o := c.Observation(id); o != nil {
			out = append(out, *o)
		}
	}
	return out
}

// rates is one row: a fault mode, or * for all others, and the chance of each
// outcome in their order.
type rates struct {
	mode string
	p    []float64
}

func (c *Circuit) inside() []*Observation {
	if c.Mains || c.State("isolated") == nil {
		return nil
	}
	var motor, drive *Station
	for i := range c.Stations {
		switch c.Stations[i].Kind {
		case Motor:
			motor = &c.Stations[i]
		case Drive:
			drive = &c.Stations[i]
		}
	}
	if motor == nil {
		return nil
	}
	out := []*Observation{}
	for _, f := range motorFindings() {
		out = append(out, f.on(motor))
	}
	if drive != nil {
		out = append(out, gearFinding(seen(drive)).on(drive))
	}
	return out
}

// finding is what may be found in a stripped part: outcomes, and how often each is found with a fault of the part or,
// under "*", without.
type finding struct {
	id, label, question, tells string

	outcomes []Outcome
	rows     []rates
}

// on asks for the finding of a station; faults that its kind does not have are left out.
func (f finding) on(s *Station) *Observation {
	o := &Observation{ID: f.id, Label: f.label, Question: f.question, Tells: f.tells, Outcomes: f.outcomes,
		States: []string{"isolated"}, Minutes: 2, People: 1, Access: "stripped",
		Model: "rates", Of: s.ID, Rates: map[string]map[string]float64{}}
	for _, r := range f.rows {
		key := r.mode
		if key != "*" {
			if !slices.Contains(KindModes(s.Kind), key) {
				continue
			}
			key = s.ID + "." + key
		}
		t := map[string]float64{}
		for i, p := range r.p {
			t[f.outcomes[i].ID] = p
		}
		o.Rates[key] = t
	}
	return o
}

// motorFindings lists what may be found in a motor with brushes.
func motorFindings() []finding {
	return []finding{
		{"brushes_seen", "Brushes", "Brushes in the hand: how are they?", "brushes",
			[]Outcome{{"fine", "long enough, free, springs good"}, {"worn", "worn to the mark"},
				{"stuck", "stuck in the holder"}, {"broken", "pigtail or spring broken"}, {"missing", "one is missing"}},
			[]rates{{"brushes_worn", []float64{0.05, 0.59, 0.19, 0.15, 0.02}},
				{"low_brush_worn", []float64{0.07, 0.60, 0.18, 0.13, 0.02}}, {"high_brush_worn", []float64{0.07, 0.60, 0.18, 0.13, 0.02}},
				{"commutator_damaged", []float64{0.55, 0.33, 0.08, 0.039, 0.001}}, {"*", []float64{0.85, 0.11, 0.02, 0.019, 0.001}}}},
		{"commutator_seen", "Commutator", "Commutator in good light: what does it look like?", "commutator and windings",
			[]Outcome{{"smooth", "smooth, straw to chocolate"}, {"dirty", "black, greasy, slots full"},
				{"burnt_bars", "single bars burnt"}, {"ridged", "grooved or ridged"}},
			[]rates{{"commutator_damaged", []float64{0.04, 0.12, 0.58, 0.26}},
				{"winding_open", []float64{0.25, 0.12, 0.55, 0.08}}, {"shorted_turns", []float64{0.42, 0.16, 0.32, 0.10}},
				{"brushes_worn", []float64{0.42, 0.30, 0.13, 0.15}}, {"*", []float64{0.70, 0.21, 0.04, 0.05}}}},
		{"winding_seen", "Windings", "Windings in good light: how do they look?", "windings",
			[]Outcome{{"intact", "whole, their lacquer bright"}, {"burnt", "dark, lacquer burnt"},
				{"broken", "a wire broken or unsoldered"}, {"rubbed", "scored, rubbed on the poles"}},
			[]rates{{"winding_open", []float64{0.40, 0.22, 0.36, 0.02}},
				{"shorted_turns", []float64{0.35, 0.59, 0.03, 0.03}}, {"winding_grounded", []float64{0.42, 0.36, 0.04, 0.18}},
				{"seized", []float64{0.62, 0.26, 0.01, 0.11}}, {"bearing_drag", []float64{0.82, 0.03, 0.01, 0.14}},
				{"*", []float64{0.93, 0.04, 0.015, 0.015}}}},
		{"winding_test", "Armature test", "Growler, or drop from bar to bar: what does it show?", "windings",
			[]Outcome{{"even", "all even, no ground"}, {"open_coil", "an open coil"},
				{"short", "a short between bars"}, {"ground", "touches the frame"}},
			[]rates{{"winding_open", []float64{0.06, 0.90, 0.02, 0.02}},
				{"shorted_turns", []float64{0.08, 0.02, 0.87, 0.03}}, {"winding_grounded", []float64{0.06, 0.01, 0.03, 0.90}},
				{"commutator_damaged", []float64{0.68, 0.16, 0.15, 0.01}}, {"*", []float64{0.955, 0.015, 0.02, 0.01}}}},
		{"bearing_feel", "Bearings", "Bearings turned in the fingers: how do they feel?", "bearings",
			[]Outcome{{"smooth", "smooth"}, {"rough", "rough or gritty"}, {"tight", "tight"},
				{"loose", "loose, rattles"}, {"destroyed", "in pieces"}},
			[]rates{{"bearing_drag", []float64{0.05, 0.43, 0.36, 0.09, 0.07}},
				{"seized", []float64{0.12, 0.20, 0.45, 0.04, 0.19}}, {"*", []float64{0.85, 0.09, 0.01, 0.048, 0.002}}}},
		{"oil_inside", "Oil inside", "Is there oil or water inside the motor?", "what got in past the seal",
			[]Outcome{{"dry", "dry"}, {"oil", "oil or grease from outside"}, {"water", "water or rust"}},
			[]rates{{"brushes_worn", []float64{0.74, 0.18, 0.08}},
				{"commutator_damaged", []float64{0.76, 0.16, 0.08}}, {"winding_grounded", []float64{0.66, 0.12, 0.22}},
				{"seized", []float64{0.70, 0.03, 0.27}}, {"bearing_drag", []float64{0.76, 0.04, 0.20}},
				{"*", []float64{0.92, 0.05, 0.03}}}},
	}
}

// gearFinding is what may be found of what the motor turns.
func gearFinding(look driven) finding {
	return finding{"gear_seen", look.label, look.question, "what the motor turns",
		[]Outcome{{"sound", "sound, turns free"}, {"worn", look.worn}, {"stripped", look.gone},
			{"blocked", cmp.Or(look.blocked, "blocked or bent")}},
		[]rates{{"slipping", []float64{0.08, 0.20, 0.70, 0.02}}, {"jammed", []float64{0.08, 0.08, 0.09, 0.75}},
			{"binding", []float64{0.15, 0.45, 0.03, 0.37}}, {"*", []float64{0.87, 0.11, 0.01, 0.01}}}}
}

// driven is how what a motor turns is asked about: a fan has no gear.
type driven struct{ label, question, worn, gone, blocked string }

func seen(s *Station) driven {
	text := strings.ToLower(s.Label + " " + s.Place)
	has := func(words ...string) bool {
		return slices.ContainsFunc(words, func(w string) bool { return strings.Contains(text, w) })
	}
	switch {
	case has("pinion"):
		return driven{"Pinion and clutch", "Pinion, clutch and helix in the hand: how are they?",
			"teeth worn, or helix dry", "clutch slips, or teeth gone", "hung in the ring gear or on its helix"}
	case has("worm"):
		return driven{"Gear and linkage", "Gear and linkage in the hand: how are they?", "worn or dry",
			"gear cracked, melted or without teeth", ""}
	case has("regulator"):
		return driven{"Regulator", "Regulator in the hand: how is it?", "worn, dry, channels tight", "cable or gear broken", ""}
	case has("gearbox"):
		return driven{"Gearbox", "Gearbox turned by its shaft: how is it?", "worn or short of oil", "teeth or coupling gone", ""}
	case has("fan wheel"):
		return driven{"Fan wheel", "Fan wheel on its shaft: how is it?", "out of true, rubs", "loose on the shaft, or broken", ""}
	case has("pump", "fan", "blade", "winch"):
		return driven{"What it turns", "What the motor turns, in the hand: how is it?", "worn or dry", "coupling, wheel or teeth gone", ""}
	}
	return driven{"What it turns", "Gear, linkage or coupling in the hand: how is it?", "worn or dry",
		"gear cracked, teeth or coupling gone", ""}
}
