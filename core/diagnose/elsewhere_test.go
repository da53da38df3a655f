package diagnose_test

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/diagnose"
)

// Machines solved on paper, not by this project's solver: a path is a row of ohms, a
// motor is known by three currents a workshop would read (at work, stalled, running
// free), and Ohm's law gives the rest. Between free and work the current rises with
// the speed of what it turns:
//
//	i = free + (work - free) load w            (w: share of the rated speed)
//	E = i (row + winding) + brushes + (full - brushes - work winding) w
//
// where full is what the motor gets of a good machine at work. Both are linear, so the
// working point is one division. Sizes are drawn about those of common practice
// (from memory: allowed drops, currents on type plates), a third either way, and
// neither the families' defaults nor their spread are read.
type paper struct {
	family, state, word string // the word that says how it moves
	none, slow, normal  string
	emf, source         float64 // V, ohm
	work, stall, free   float64 // A
	brushes             float64 // V
	before, after       []step  // from battery plus to the motor, and back
	motor               [2]string
	clamp               string // where the current is read at work
	clicks              string // said first where a contact is pulled in by a coil
}

// step is one part of the row: up to the next node.
type step struct {
	station string
	to      string  // the node behind it
	drop    float64 // V, of a good one at work
	opens   bool    // may be open
}

// size draws one machine of the kind.
func (p paper) size(rng *rand.Rand) paper {
	v := func(x float64) float64 { return x * math.Exp(0.3*math.Max(-2, math.Min(2, rng.NormFloat64()))) }
	p.source, p.work = v(p.source), v(p.work)
	p.free, p.stall = p.free*p.work, p.stall*p.work
	grow := func(s []step) (out []step) {
		for _, x := range s {
			x.drop = v(x.drop)
			out = append(out, x)
		}
		return out
	}
	p.before, p.after = grow(p.before), grow(p.after)
	return p
}

// wrong is what is the matter with a machine.
type wrong struct {
	station string
	extra   float64            // ohm in the row at that station; +Inf: open
	second  map[string]float64 // ohm in the row at other stations besides
	source  float64            // times as much inside the battery
	load    float64            // times as heavy
	drag    float64            // A more to turn the motor itself
	held    bool               // does not turn
	dead    bool               // no current through the motor
}

// modes is what the trade calls it. A motor without current may have an open winding
// or brushes that no longer touch; a battery that breaks down may be weak or flat.
func (w wrong) modes() []string {
	switch {
	case math.IsInf(w.extra, 1):
		return []string{w.station + ".open", w.station + ".stuck_open"}
	case w.extra > 0:
		return []string{w.station + ".high_resistance"}
	case w.dead:
		return []string{"motor.winding_open", "motor.brushes_worn", "thermal_cutout.stuck_open"}
	case w.load > 0:
		return []string{"drive.binding"}
	case w.drag > 0:
		return []string{"motor.bearing_drag"}
	}
	return []string{"battery.weak", "battery.discharged", "battery.dead_cell"}
}

// more is what a station of the row has in ohms over a good one.
func (w wrong) more(station string) float64 {
	x := w.second[station]
	if station == w.station {
		x += w.extra
	}
	return x
}

// reads is the machine at work: the current, its speed as a share of the good one's,
// and the volts of every node against battery minus.
func (p paper) reads(w wrong) (amps, speed float64, volts map[string]float64) {
	row := p.source
	for _, s := range append(append([]step{}, p.before...), p.after...) {
		row += s.drop / p.work
	}
	full := p.emf - row*p.work
	winding := (p.emf - p.brushes - row*p.stall) / p.stall // stalled on the good row
	back := full - p.brushes - p.work*winding
	source := p.source
	if w.source > 0 {
		source *= w.source
	}
	total := row - p.source + source + winding
	for _, s := range append(append([]step{}, p.before...), p.after...) {
		if x := w.more(s.station); !math.IsInf(x, 1) {
			total += x
		}
	}
	load := 1.0
	if w.load > 0 {
		load = w.load
	}
	slope := 0.0
	if !w.held {
		slope = 1 / ((p.work - p.free) * load)
	}
	free := p.free + w.drag
	// E = i total + brushes + back (i - free) slope
	amps = (p.emf - p.brushes + back*free*slope) / (total + back*slope)
	speed = (amps - free) * slope
	if w.dead || math.IsInf(w.extra, 1) {
		amps, speed = 0, 0
	}
	if speed < 0 { // too heavy to turn at all
		amps, speed = (p.emf-p.brushes)/total, 0
	}
	volts = map[string]float64{"bat_neg": 0, "bat_pos": p.emf - amps*source}
	at, open := volts["bat_pos"], false
	for _, s := range p.before {
		at -= amps * s.drop / p.work
		if x := w.more(s.station); math.IsInf(x, 1) {
			open = true
		} else {
			at -= amps * x
		}
		if open {
			at = 0
		}
		volts[s.to] = at
	}
	// From the minus side, since behind an open ground everything rises to supply.
	low, lifted := 0.0, false
	for i := len(p.after) - 1; i >= 0; i-- {
		s := p.after[i]
		low += amps * s.drop / p.work
		if x := w.more(s.station); math.IsInf(x, 1) {
			lifted = true
		} else {
			low += amps * x
		}
		node := p.motor[1]
		if i > 0 {
			node = p.after[i-1].to
		}
		volts[node] = low
		if lifted {
			volts[node] = volts[p.motor[0]]
		}
	}
	return amps, speed, volts
}

// worked is what a technician writes down, volts under load first.
func (p paper) worked(w wrong) []string {
	amps, speed, v := p.reads(w)
	word := p.normal
	switch {
	case speed < 0.05:
		word = p.none
	case speed < 0.8:
		word = p.slow
	}
	lines := []string{}
	if p.clicks != "" {
		lines = append(lines, p.clicks)
	}
	lines = append(lines, fmt.Sprintf("see %s %s %s", p.word, word, p.state))
	volt := func(a, b string) { lines = append(lines, fmt.Sprintf("V %s %s %s %.2f", p.state, a, b, v[a]-v[b])) }
	volt("bat_pos", "bat_neg")
	volt(p.motor[0], p.motor[1])
	if v[p.motor[0]]-v[p.motor[1]] > 0.85*p.emf || w.held || w.load > 0 || w.drag > 0 {
		lines = append(lines, fmt.Sprintf("A %s %s %.1f", p.state, p.clamp, amps))
		switch {
		case w.dead:
			lines = append(lines, fmt.Sprintf("R %s %s OL", p.motor[0], p.motor[1]))
		case w.drag > 0:
			lines = append(lines, fmt.Sprintf("A bench motor %.1f", p.free+w.drag), "see turn_by_hand stiff bench")
		case w.load > 0:
			lines = append(lines, fmt.Sprintf("A bench motor %.1f", p.free), "see turn_by_hand free bench")
		}
		return lines
	}
	at := "bat_pos"
	for _, s := range p.before {
		volt(at, s.to)
		if math.IsInf(w.extra, 1) {
			volt(s.to, "bat_neg")
			if v[s.to] < 1 {
				return lines
			}
		}
		at = s.to
	}
	at = p.motor[1]
	for _, s := range p.after {
		volt(at, s.to)
		at = s.to
	}
	return lines
}

var papers = []paper{
	{family: "starter", state: "crank", word: "turning", none: "none", slow: "slow", normal: "normal", emf: 12.6,
		source: 0.007, work: 160, stall: 3, free: 0.2, brushes: 0.9,
		before: []step{{"pos_clamp", "pos_cable_start", 0.03, true}, {"pos_cable", "sol_b", 0.15, true},
			{"main_contact", "sol_m", 0.08, true}}, motor: [2]string{"sol_m", "case"},
		after: []step{{"mount", "block", 0.02, true}, {"gnd_cable", "gnd_cable_end", 0.1, true},
			{"neg_clamp", "bat_neg", 0.03, true}}, clamp: "pos_cable", clicks: "see click single"},
	{family: "contactor_motor", state: "run", word: "turning", none: "none", slow: "slow", normal: "normal",
		emf: 12.6, source: 0.007, work: 150, stall: 3, free: 0.2, brushes: 0.9,
		before: []step{{"pos_clamp", "pos_cable_start", 0.03, true}, {"pos_cable", "con_b", 0.12, true},
			{"main_contact", "con_m", 0.08, true}, {"motor_cable", "motor_term", 0.1, true}}, motor: [2]string{"motor_term", "case"},
		after: []step{{"mount", "frame", 0.02, true}, {"gnd_cable", "gnd_cable_end", 0.1, true},
			{"neg_clamp", "bat_neg", 0.03, true}}, clamp: "motor_cable", clicks: "see click single"},
	{family: "blower_resistor", state: "speed_4", word: "airflow", none: "none", slow: "weak", normal: "normal",
		emf: 12.6, source: 0.01, work: 15, stall: 2.6, free: 0.1, brushes: 0.8,
		before: []step{{"feed_wire", "fuse_in", 0.1, true}, {"fuse", "fuse_out", 0.05, true},
			{"blower_relay", "relay_out", 0.1, true}, {"supply_wire", "motor_plus", 0.15, true}},
		motor: [2]string{"motor_plus", "motor_minus"},
		after: []step{{"resistor_pack", "switch_in", 0.1, false}, {"speed_switch", "switch_gnd", 0.1, true},
			{"ground_point", "bat_neg", 0.05, true}}, clamp: "feed_wire"},
	{family: "blower_module", state: "speed_high", word: "airflow", none: "none", slow: "weak", normal: "normal",
		emf: 12.6, source: 0.01, work: 18, stall: 2.6, free: 0.1, brushes: 0.8,
		before: []step{{"feed_wire", "fuse_in", 0.1, true}, {"", "fuse_out", 0.03, false},
			{"blower_relay", "relay_out", 0.1, true}, {"supply_wire", "plug_plus", 0.12, true},
			{"motor_connector", "motor_plus", 0.05, true}}, motor: [2]string{"motor_plus", "motor_minus"},
		after: []step{{"return_wire", "module_in", 0.1, true}, {"", "module_gnd", 0.2, false},
			{"ground_point", "body", 0.04, true}, {"body_ground", "bat_neg", 0.03, true}}, clamp: "feed_wire"},
	{family: "two_wire_motor", state: "run", word: "turning", none: "none", slow: "slow", normal: "normal", emf: 12.6,
		source: 0.01, work: 12, stall: 2.6, free: 0.12, brushes: 0.8,
		before: []step{{"feed_wire", "fuse_in", 0.1, true}, {"fuse", "fuse_out", 0.05, true},
			{"relay", "relay_out", 0.1, true}, {"supply_wire", "motor_plus", 0.15, true}}, motor: [2]string{"motor_plus", "motor_minus"},
		after: []step{{"ground_wire", "ground_ring", 0.1, true}, {"ground_point", "bat_neg", 0.05, true}},
		clamp: "feed_wire", clicks: "see click single"},
	{family: "wiper", state: "low", word: "sweep", none: "none", slow: "slow", normal: "normal", emf: 12.6,
		source: 0.01, work: 4, stall: 4, free: 0.2, brushes: 0.8,
		before: []step{{"feed_wire", "fuse_in", 0.07, true}, {"fuse", "fuse_out", 0.03, true},
			{"wiper_switch", "low_feed", 0.1, true}, {"low_wire", "low_brush", 0.12, true}}, motor: [2]string{"low_brush", "motor_gnd"},
		after: []step{{"ground_point", "bat_neg", 0.04, true}}, clamp: "feed_wire"},
	{family: "window", state: "up", word: "glass_moves", none: "none", slow: "slow", normal: "normal", emf: 12.6,
		source: 0.01, work: 8, stall: 2.6, free: 0.18, brushes: 0.8,
		before: []step{{"feed_wire", "fuse_in", 0.08, true}, {"fuse", "fuse_out", 0.02, true},
			{"master_switch", "jamb_a", 0.12, true}, {"jamb_wire_a", "door_a", 0.16, true},
			{"door_switch", "motor_a", 0.09, true}}, motor: [2]string{"motor_a", "motor_b"},
		after: []step{{"door_switch_return", "door_b", 0.09, true}, {"jamb_wire_b", "jamb_b", 0.16, true},
			{"master_switch_return", "switch_gnd", 0.12, true}, {"ground_point", "bat_neg", 0.05, true}}, clamp: "feed_wire"},
	{family: "traction", state: "drive", word: "moves", none: "none", slow: "slow", normal: "normal", emf: 25.2,
		source: 0.014, work: 35, stall: 5, free: 0.2, brushes: 1,
		before: []step{{"main_breaker", "pack_out", 0.1, false}, {"battery_connector", "ctl_bp", 0.06, false},
			{"", "ctl_mp", 0.3, false}, {"motor_connector", "motor_plus", 0.07, false}}, motor: [2]string{"motor_plus", "motor_minus"},
		after: []step{{"motor_return", "ctl_mn", 0.07, false}, {"battery_return", "bat_neg", 0.07, false}}, clamp: "battery_return"},
}

// faults draws what may be wrong with a machine, each hard enough that somebody
// complains.
func (p paper) faults(rng *rand.Rand) (out []wrong) {
	for _, s := range append(append([]step{}, p.before...), p.after...) {
		if s.station == "" || s.station == "resistor_pack" {
			continue
		}
		out = append(out, wrong{station: s.station, extra: (0.25 + 0.6*rng.Float64()) * p.emf / p.work})
		if s.opens {
			out = append(out, wrong{station: s.station, extra: math.Inf(1)})
		}
	}
	out = append(out, wrong{station: "motor", dead: true})
	if p.family != "traction" { // its controller limits the current and has a say of its own
		out = append(out, wrong{station: "drive", load: 3 + rng.Float64()})
		if p.work > 100 {
			out = append(out, wrong{station: "battery", source: 5 + 5*rng.Float64()})
		}
		out = append(out, wrong{station: "motor", drag: (0.8 + 0.6*rng.Float64()) * p.work})
	}
	return out
}

// partOf is the part that a station is built into.
func partOf(a *diagnose.Adviser, id string) string {
	if x := a.C.Station(id); x != nil && x.Within != "" {
		return x.Within
	}
	return id
}

func TestMachinesSolvedOnPaper(t *testing.T) {
	notForRaces(t)
	rng := rand.New(rand.NewPCG(20, 26))
	n, right, fault, settled, innocent := 0, 0, 0, 0, 0
	for _, kind := range papers {
		a := adviserOf(t, kind.family)
		for range 3 {
			m := kind.size(rng)
			_, good, _ := m.reads(wrong{})
			require.InDelta(t, 1, good, 1e-9, "a good machine works at its rated speed")
			for _, w := range m.faults(rng) {
				if _, speed, _ := m.reads(w); speed > 0.85 {
					continue // nobody complains
				}
				lines := m.worked(w)
				op, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: ev(t, a, lines...), Known: casefile.Known{}, Brief: true})
				require.NoError(t, err)
				n++
				got := op.Stations[0]
				if partOf(a, got.Station) == w.station {
					right++
				} else {
					t.Logf("%s, %+v: %s at %.2f\n%q", kind.family, w, got.Station, got.Probability, lines)
				}
				if slices.ContainsFunc(w.modes(), func(id string) bool { return slices.Contains(op.Diagnoses[0].Faults, id) }) {
					fault++
				}
				if op.Verdict.Status == diagnose.Isolated {
					settled++
				}
				if v := op.Verdict; v.Status == diagnose.Isolated && partOf(a, *v.Station) != w.station ||
					v.Status == diagnose.NothingWrong {
					innocent++
				}
			}
		}
	}
	t.Logf("%d machines, %d right, %d with the fault, %d settled, an innocent part named %d times", n, right, fault, settled, innocent)
	assert.Greater(t, n, 250)
	assert.GreaterOrEqual(t, float64(right), 0.95*float64(n))
	assert.GreaterOrEqual(t, float64(fault), 0.9*float64(n))
	assert.GreaterOrEqual(t, float64(settled), 0.9*float64(n))
	assert.LessOrEqual(t, innocent, 1)
}

// Two bad joints in one row, every step of it measured: both are named.
func TestTwoBadJointsOnPaper(t *testing.T) {
	notForRaces(t)
	rng := rand.New(rand.NewPCG(3, 26))
	n, both, contradictions := 0, 0, 0
	for _, kind := range papers {
		a := adviserOf(t, kind.family)
		for range 24 {
			p := kind.size(rng)
			var joints []string
			for _, s := range append(append([]step{}, p.before...), p.after...) {
				if s.station != "" && s.station != "resistor_pack" && a.C.Station(s.station) != nil {
					joints = append(joints, s.station)
				}
			}
			rng.Shuffle(len(joints), func(i, j int) { joints[i], joints[j] = joints[j], joints[i] })
			ohms := func() float64 { return (0.12 + 0.4*rng.Float64()) * p.emf / p.work }
			w := wrong{station: joints[0], extra: ohms(), second: map[string]float64{joints[1]: ohms()}}
			_, _, v := p.reads(w)
			share := (v[p.motor[0]] - v[p.motor[1]]) / p.emf
			if share > 0.85 || share < 0.4 || share < 0.65 && kind.family == "traction" {
				continue // hardly a complaint, or a controller would have switched off
			}
			lines := p.worked(w)
			op, err := a.Weigh(context.Background(), &diagnose.Job{Evidence: ev(t, a, lines...), Brief: true})
			require.NoError(t, err)
			n++
			found := map[string]bool{}
			for _, s := range op.Stations {
				if s.Probability >= 0.5 {
					found[partOf(a, s.Station)] = true
				}
			}
			if found[partOf(a, joints[0])] && found[partOf(a, joints[1])] {
				both++
			} else {
				t.Logf("%s, %+v: %+v\n%q", kind.family, w, op.Stations[:3], lines)
			}
			if op.Verdict.Status == diagnose.Contradiction {
				contradictions++
			}
		}
	}
	t.Logf("%d machines with two faults, both named on %d, called a contradiction %d times", n, both, contradictions)
	assert.Greater(t, n, 100)
	assert.GreaterOrEqual(t, float64(both), 0.95*float64(n))
	assert.LessOrEqual(t, contradictions, n/50)
}
