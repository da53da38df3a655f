package repair

import (
	"fmt"
	"slices"

	"corriente/core/circuit"
	"corriente/core/fault"
	"corriente/core/phrase"
)

// treatment is one thing practitioners do to a kind of part. Prices and minutes are shares
// of what the family says of the part's own repair and replacement, or figures of their
// own. All shares, chances and lives are from memory of the trade; each can be typed over
// where it is used.
type treatment struct {
	id, kind string // of the option, and for people in a word or two
	label    string // %s is the part, in lower case
	note     string // what belongs to doing it well

	of       []circuit.Kind // parts it is done to
	circuits []string       // families it is done in; empty: all
	stations []string       // of these only; empty: all
	// cures is the share of each fault mode that it cures when it is well done.
	cures map[string]float64

	parts           float64 // money, on top of the shares
	partsOfRepair   float64 // share of the repair's parts
	partsOfNew      float64 // share of the new part's price
	minutes         float64
	minutesOfRepair float64
	minutesOfNew    float64
	waits           bool    // for the repair's parts
	wait            float64 // days
	success         float64 // chance that the work holds where the fault is one it cures
	successOfNew    float64 // or a share of the new part's
	life            float64 // years, median
	lifeOfNew       float64 // or a share of the new part's
	shape           float64 // of the life, see [Life]
	temporary       bool
	fromPrice       float64 // only where the new part costs at least this much
	oily            bool    // only where oil got in
}

var worn = map[string]float64{"brushes_worn": 1, "low_brush_worn": 1, "high_brush_worn": 1}

// with returns a copy of shares with more in it.
func with(shares map[string]float64, more map[string]float64) map[string]float64 {
	out := map[string]float64{}
	for k, v := range shares {
		out[k] = v
	}
	for k, v := range more {
		out[k] = v
	}
	return out
}

// treatments lists what is done besides the repair and the replacement that stand in the
// family.
var treatments = []treatment{
	// Motors.
	{id: "brushes", kind: "new brushes", label: "Fit new brushes and clean the commutator",
		note: "seat the brushes, check their springs and leads, undercut the slots",
		of:   []circuit.Kind{circuit.Motor}, cures: with(worn, map[string]float64{"commutator_damaged": 0.5}),
		partsOfRepair: 0.8, minutesOfRepair: 0.85, waits: true, success: 0.9, life: 4, shape: 1.4},
	{id: "bearing", kind: "new bearings", label: "Fit new bearings", note: "measure inner, outer and width; press on by the inner ring",
		of: []circuit.Kind{circuit.Motor}, cures: map[string]float64{"bearing_drag": 1, "seized": 0.5},
		parts: 8, partsOfRepair: 0.2, minutesOfRepair: 0.9, waits: true, success: 0.93, life: 6, shape: 2},
	{id: "clean", kind: "clean", label: "Clean brushes, holders and commutator",
		note: "wipe or use a vacuum cleaner: brush dust is not blown or breathed",
		of:   []circuit.Kind{circuit.Motor}, cures: map[string]float64{"brushes_worn": 0.45, "low_brush_worn": 0.45,
			"high_brush_worn": 0.45, "commutator_damaged": 0.4},
		parts: 2, minutesOfRepair: 0.7, success: 0.9, life: 1.5, shape: 1},
	{id: "seal", kind: "seal and overhaul",
		label: "Fit a new shaft seal and brushes; clean windings and fan, clean and pack the bearings",
		note:  "the seal first: oil that comes back takes the new brushes too; dry the windings before they are tried",
		of:    []circuit.Kind{circuit.Motor}, oily: true,
		cures: with(worn, map[string]float64{"commutator_damaged": 0.7, "bearing_drag": 0.7}),
		parts: 18, partsOfRepair: 1, minutesOfRepair: 1.3, waits: true, success: 0.88, life: 4, shape: 1.4},
	{id: "rewind", kind: "rewind", label: "Have it rewound",
		of: []circuit.Kind{circuit.Motor}, fromPrice: 100,
		cures:      map[string]float64{"winding_open": 1, "shorted_turns": 1, "winding_grounded": 1},
		partsOfNew: 0.55, minutesOfNew: 1.15, wait: 14, success: 0.86, lifeOfNew: 0.85, shape: 1.6},
	{id: "temporary", kind: "temporary repair", label: "Clean and free the brushes, oil the bearings, to get it home", temporary: true,
		of: []circuit.Kind{circuit.Motor}, cures: map[string]float64{"brushes_worn": 0.7, "low_brush_worn": 0.7,
			"high_brush_worn": 0.7, "commutator_damaged": 0.6, "bearing_drag": 0.5},
		parts: 2, minutesOfRepair: 0.35, success: 0.85},

	// Contacts and coils.
	{id: "clean", kind: "clean", label: "Clean the contacts", note: "a burnt contact is replaced, not filed",
		of: []circuit.Kind{circuit.Contact}, cures: map[string]float64{"high_resistance": 0.9, "stuck_open": 0.5},
		parts: 2, minutesOfRepair: 0.7, success: 0.88, life: 3, shape: 1},
	{id: "temporary", kind: "temporary repair", label: "Borrow the same relay from a circuit that can wait", temporary: true,
		of: []circuit.Kind{circuit.Contact}, stations: []string{"relay", "blower_relay"},
		cures:   map[string]float64{"high_resistance": 1, "stuck_open": 1, "welded": 1},
		minutes: 10, success: 0.9},
	{id: "temporary", kind: "temporary repair", label: "Free the plunger to get it home", temporary: true,
		of: []circuit.Kind{circuit.Coil}, cures: map[string]float64{"sticking": 0.9},
		parts: 1, minutesOfRepair: 0.35, success: 0.7},

	// Joints and wires.
	{id: "terminal", kind: "one new terminal, temporary",
		label: "Crimp a new terminal into the old housing of the %s",
		note:  "a housing that was hot lets go again: the lasting repair is a new one", temporary: true,
		of: []circuit.Kind{circuit.Joint}, cures: map[string]float64{"high_resistance": 0.9, "open": 0.95},
		parts: 2, minutes: 20, success: 0.85},
	{id: "temporary", kind: "temporary repair", label: "Lay a fused wire beside the %s", temporary: true,
		of: []circuit.Kind{circuit.Wire}, cures: map[string]float64{"high_resistance": 1, "open": 1, "short_to_ground": 0.9},
		parts: 3, minutesOfRepair: 0.35, success: 0.9},

	// What the motor turns.
	{id: "donor", kind: "gear from a donor", label: "Fit a used gear to the %s", note: "count the teeth, compare the hand of the worm",
		of: []circuit.Kind{circuit.Drive}, circuits: []string{"wiper", "window", "actuator", "traction"},
		cures:      map[string]float64{"slipping": 1, "jammed": 0.6},
		partsOfNew: 0.35, minutesOfNew: 1, wait: 2, success: 0.88, lifeOfNew: 0.5, shape: 1.2},
	{id: "temporary", kind: "temporary repair", label: "Pin or melt the cracked gear of the %s together", temporary: true,
		of: []circuit.Kind{circuit.Drive}, circuits: []string{"wiper", "window", "actuator"},
		cures: map[string]float64{"slipping": 0.75, "jammed": 0.3},
		parts: 2, minutesOfRepair: 0.8, success: 0.75},

	// A used part.
	{id: "donor", kind: "donor part", label: "Fit a used %s",
		of: []circuit.Kind{circuit.Motor, circuit.Driver, circuit.Coil, circuit.ResistorPack, circuit.Throttle}, fromPrice: 50,
		partsOfNew: 0.3, minutesOfNew: 1, wait: 2, successOfNew: 0.82, lifeOfNew: 0.4, shape: 1.2}, // cures what the new one does
}

// cleansItself is the price of a contact's repair from which on it is more than a cleaning.
const cleansItself = 10

// step is one treatment of one part, in figures.
type step struct {
	Step
	note      string
	access    string
	shares    map[string]float64 // station.mode: share of it that is cured
	parts     float64            // money
	minutes   float64
	wait      float64 // days
	success   float64
	life      Life
	warranty  float64 // years
	temporary bool
}

// steps lists what can be done about one part, the lasting ones first.
func steps(c *circuit.Circuit, s *circuit.Station, t Terms) []step {
	var out []step
	add := func(id, kind, label, note string, shares map[string]float64, a circuit.Action, shape float64, temporary bool) {
		x := step{Step: Step{Station: s.ID, Does: id, Kind: kind, Label: label}, note: note, access: s.Access,
			shares: map[string]float64{}, parts: a.Parts, minutes: a.Minutes, wait: a.WaitDays,
			success: a.Success, life: Life{a.LifeYears, shape}, temporary: temporary}
		for mode, share := range shares {
			if _, ok := s.Faults[mode]; ok && share > 0 {
				x.shares[fault.Fault{Station: s.ID, Mode: mode}.String()] = share
			}
		}
		out = append(out, x)
	}
	note := ""
	if s.Kind == circuit.Fuse {
		note = "a fuse blows for a reason: find it before the new one is trusted (turn the motor by hand, ohms to ground, amperes at work)"
	}
	if a := s.Repair; a != nil {
		add("repair", "repair", a.Label, note, all(a.Cures), *a, 1.4, false)
	}
	rep := s.Replace
	if rep != nil {
		add("replace", "replace", rep.Label, note, all(rep.Cures), *rep, 2, false)
		x := &out[len(out)-1]
		x.warranty = 1
		if c.ID == "starter" && s.Kind == circuit.Motor { // an exchange starter is a whole one
			for f, share := range wholeStarter(c) {
				x.shares[f] = share
			}
		}
	}
	for i := range treatments {
		if a, shares, ok := treatments[i].on(c, s, t); ok {
			x := &treatments[i]
			label := x.label
			if slices.Contains([]byte(label), '%') {
				label = fmt.Sprintf(label, phrase.Lower(s.Label))
			}
			add(x.id, x.kind, label, x.note, shares, a, x.shape, x.temporary)
		}
	}
	if a, shares, label := assembly(c, s); label != "" {
		add("assembly", "whole assembly", label, "", all(a.Cures), a, 2, false)
		x := &out[len(out)-1]
		for f, share := range shares {
			x.shares[f] = share
		}
		x.warranty = 1
	}
	return out
}

func all(modes []string) map[string]float64 {
	out := map[string]float64{}
	for _, m := range modes {
		out[m] = 1
	}
	return out
}

// on is the treatment of one part in figures; ok is false where it is not done to it.
func (x *treatment) on(c *circuit.Circuit, s *circuit.Station, t Terms) (a circuit.Action, shares map[string]float64, ok bool) {
	rep := s.Replace
	switch {
	case !slices.Contains(x.of, s.Kind), len(x.circuits) > 0 && !slices.Contains(x.circuits, c.ID),
		len(x.stations) > 0 && !slices.Contains(x.stations, s.ID), x.oily && !t.Oily:
		return a, nil, false
	case (x.partsOfRepair > 0 || x.minutesOfRepair > 0) && s.Repair == nil,
		(x.partsOfNew > 0 || x.minutesOfNew > 0) && rep == nil, x.fromPrice > 0 && (rep == nil || rep.Parts < x.fromPrice):
		return a, nil, false
	case x.id == "clean" && s.Kind == circuit.Contact && s.Repair.Parts < cleansItself: // its repair is the cleaning
		return a, nil, false
	}
	a = circuit.Action{Parts: x.parts, Minutes: x.minutes, WaitDays: x.wait, Success: x.success, LifeYears: x.life}
	if r := s.Repair; r != nil {
		a.Parts += x.partsOfRepair * r.Parts
		a.Minutes += x.minutesOfRepair * r.Minutes
		if x.waits {
			a.WaitDays = r.WaitDays
		}
	}
	shares = x.cures
	if rep != nil {
		a.Parts += x.partsOfNew * rep.Parts
		a.Minutes += x.minutesOfNew * rep.Minutes
		a.Success += x.successOfNew * rep.Success
		a.LifeYears += x.lifeOfNew * rep.LifeYears
		if shares == nil {
			shares = all(rep.Cures)
		}
	}
	return a, shares, true
}

// wholeStarter is what an exchange starter cures besides its motor: its solenoid and its
// pinion come with it, the engine does not.
func wholeStarter(c *circuit.Circuit) map[string]float64 {
	shares := map[string]float64{}
	for i := range c.Stations {
		s := &c.Stations[i]
		modes := circuit.KindModes(s.Kind)
		switch {
		case s.Kind == circuit.Motor, s.ID == "main_contact", s.ID == "coil":
		case s.Kind == circuit.Drive:
			modes = []string{"slipping", "jammed"}
		default:
			continue
		}
		for _, m := range modes {
			shares[fault.Fault{Station: s.ID, Mode: m}.String()] = 1
		}
	}
	return shares
}

// assembly is the larger part that a part comes with: a starter with its solenoid and
// pinion, a window motor with its regulator. A pump, wheels or what a plain motor turns do
// not come with their motor. label is empty where there is none.
func assembly(c *circuit.Circuit, s *circuit.Station) (a circuit.Action, shares map[string]float64, label string) {
	var motor, drive *circuit.Station
	for i := range c.Stations {
		switch x := &c.Stations[i]; x.Kind {
		case circuit.Motor:
			motor = x
		case circuit.Drive:
			drive = x
		}
	}
	if motor == nil || motor.Replace == nil || drive == nil {
		return a, nil, ""
	}
	a = *motor.Replace
	if c.ID == "starter" {
		if s.ID == "main_contact" || s.ID == "coil" || s.ID == "drive" {
			a.Cures = nil
			return a, wholeStarter(c), "Fit an exchange starter, its solenoid and pinion included"
		}
		return a, nil, ""
	}
	if s.Kind != circuit.Motor || slices.Contains([]string{"contactor_motor", "traction", "two_wire_motor"}, c.ID) {
		return a, nil, ""
	}
	shares = map[string]float64{}
	for _, m := range circuit.KindModes(circuit.Drive) {
		shares[fault.Fault{Station: drive.ID, Mode: m}.String()] = 1
	}
	a.Parts *= 1.8
	a.Minutes *= 1.1
	a.WaitDays++
	a.Success = min(0.98, a.Success+0.01)
	return a, shares, fmt.Sprintf("Fit %s and %s as one assembly", phrase.Lower(s.Label), phrase.Lower(drive.Label))
}
