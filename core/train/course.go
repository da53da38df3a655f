package train

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/fault"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/unit"
)

// Course is a set of exercises in order, each with one idea to take home.
type Course struct {
	ID        string     `json:"id"`
	Title     string     `json:"title"`
	About     string     `json:"about"`
	Exercises []Exercise `json:"exercises"`
}

// Courses that ship.
func Courses() []Course {
	x := func(id, title, circuit, complaint, idea string, faults ...string) Exercise {
		seed := uint64(0)
		for _, r := range id {
			seed = seed*31 + uint64(r)
		}
		return Exercise{ID: id, Title: title, Circuit: circuit, Complaint: complaint, Idea: idea, Seed: seed, Faults: faults}
	}
	cs := []Course{
		{"supply_ground", "Supply and ground", "Half of all faults are before the motor or behind it.", []Exercise{
			x("sg1", "Slow in the morning", "starter", "The orchard tractor cranks slowly, lamps go dim.",
				"Volts at the posts while it cranks: the battery first.", "battery.weak=x6"),
			x("sg2", "Slow since the paint", "starter", "The ferry cranks slowly since the hull was painted.",
				"The ground side loses volts as well as the supply side: measure it under load.", "gnd_cable.high_resistance=0.014ohm"),
			x("sg3", "Pump hums at half speed", "two_wire_motor", "The bilge pump runs at half speed.",
				"Volts at the motor, then walk to where they are lost.", "ground_point.high_resistance=2.5ohm"),
		}},
		{"loaded", "Loaded and unloaded volts", "A voltage with no current through the suspect proves nothing.", []Exercise{
			x("lo1", "Full volts, no start", "starter", "One click, nothing turns.",
				"Twelve volts at rest say nothing about a contact: only under load does it show.", "main_contact.high_resistance=0.15ohm"),
			x("lo2", "Good at the plug", "blower_module", "The heater fan is dead; the plug shows twelve volts.",
				"A plug that is pulled off reads full volts through one strand: load it with a lamp.",
				"motor_connector.high_resistance=4ohm"),
			x("lo3", "A clamp that looks clean", "starter", "Chatters when cold.",
				"A clamp is judged from post to clamp, under load.", "pos_clamp.high_resistance=0.02ohm"),
		}},
		{"relays", "Relays and solenoids", "A contact is only as good as the coil that closes it.", []Exercise{
			x("re1", "Silent", "two_wire_motor", "The cooling fan stays silent.",
				"No click: go along the control path before you judge the contact.", "relay_coil.open"),
			x("re2", "It clicks, it does not run", "two_wire_motor", "Relay clicks, pump stands.",
				"It clicks: the coil does its work, look at what it closes.", "relay.stuck_open"),
			x("re3", "Dead with the key", "starter", "Silent, lamps stay bright.",
				"Bright lamps and silence: the control path.", "interlock.stuck_open"),
		}},
		{"fuses", "Fuses and their causes", "A fuse is an answer, not a fault.", []Exercise{
			x("fu1", "Blown again", "two_wire_motor", "The fuse blows as soon as it is switched on.",
				"A lamp in the fuse's place finds a short without a pocket full of fuses.", "fuse.open", "supply_wire.short_to_ground"),
			x("fu2", "Blown once", "starter", "Nothing at all on the key.",
				"Sometimes a fuse dies of age: then a new one lives.", "start_fuse.open"),
			x("fu3", "The pump that stood still", "two_wire_motor", "Fuse gone, the pump is stiff.",
				"A motor that stands draws many times its current: turn it by hand.", "fuse.open", "motor.seized"),
		}},
		{"windings", "Windings, and what a meter cannot do", "A handheld cannot read a starter's winding.", []Exercise{
			x("wi1", "Turns slowly, smells", "starter", "Cranks slower every week, smells hot.",
				"Volts and amperes under load judge a winding; ohms of milliohms do not.", "motor.shorted_turns=0.5"),
			x("wi2", "Shift motor", "actuator", "The shift does not move, a code flashes.",
				"Ten ohms any meter can judge: here ohms decide.", "motor.winding_open"),
			x("wi3", "Knock and go", "starter", "Starts after a knock with a handle.",
				"What a tap helps is a brush, most of the time.", "motor.brushes_worn=0.9ohm"),
		}},
		{"ripple", "Drag, and what the current says", "The current tells load from loss.", []Exercise{
			x("ri1", "Fan that tires", "blower_resistor", "The fan is slow and its fuse gets warm.",
				"Much current and little speed: drag, not a bad joint.", "motor.bearing_drag=x9"),
			x("ri2", "Window that climbs slowly", "window", "The window rises slowly, comes down fine.",
				"What it turns can bind: part the motor from its load.", "drive.binding=x2.2"),
			x("ri4", "Fan that hums and tires", "blower_resistor", "The fan runs slower than it did, on every speed.",
				"A bar that is weak shows in the current once a turn, long before the motor is taken out.", "motor.commutator_damaged"),
			x("ri5", "Wipers that hesitate", "wiper", "The wipers hesitate, more so when it is cold.",
				"Brushes that bounce leave holes in the current.", "motor.brushes_worn=0.5ohm"),
			x("ri3", "Cart without pull", "traction", "The picking cart creeps.",
				"Little current and little speed: something in the way of the current.", "motor_connector.high_resistance=0.15ohm"),
		}},
		{"intermittent", "Faults that come and go", "A reading taken while it works clears nothing.", []Exercise{
			{ID: "in1", Title: "Now and then", Circuit: "two_wire_motor", Seed: 901,
				Faults: []string{"ground_wire.open"}, Intermittent: true,
				Complaint: "The washer pump works on some days.", Idea: "Bring the fault out first: wiggle, heat, cold. Then measure."},
			{ID: "in2", Title: "After the bumps", Circuit: "window", Seed: 902, Faults: []string{"jamb_wire_a.open"},
				Intermittent: true, Complaint: "The hatch window stops working on rough roads.",
				Idea: "Where a wire bends it breaks inside: move it while you read."},
		}},
		{"two", "Two faults at once", "The second one hides behind the first.", []Exercise{
			x("tw1", "Better, not good", "starter", "Slow; a new battery helped a little.",
				"When one is mended, measure again before you call it done.", "battery.weak=x4", "gnd_cable.high_resistance=0.01ohm"),
			x("tw2", "Plug and brushes", "blower_module", "Fan dead, plug brown.",
				"A burnt plug has a reason: look at what drew the current.", "motor_connector.open", "motor.bearing_drag=x8"),
		}},
	}
	// A fault that this circuit has not cannot be trained; the tests hold the list to it.
	return cs
}

// Find returns a course's exercise, nil when there is none.
func Find(id string) *Exercise {
	for _, c := range Courses() {
		for i := range c.Exercises {
			if c.Exercises[i].ID == id {
				return &c.Exercises[i]
			}
		}
	}
	return nil
}

// DrillOn is the circuit that a drill is about: the one that is asked for, or one of the plain
// ones by the seed.
func DrillOn(circuit string, seed uint64) string {
	if circuit != "" {
		return circuit
	}
	plain := []string{"starter", "two_wire_motor", "blower_resistor", "wiper", "window", "contactor_motor"}
	return plain[seed%uint64(len(plain))]
}

// Round is one round of the drill.
type Round struct {
	Kind    string   `json:"kind"` // next, good, station
	Circuit string   `json:"circuit"`
	Ask     string   `json:"ask"`
	Told    []string `json:"told"` // what is known so far
	Options []string `json:"options"`
	Answer  int      `json:"answer"`
	Why     string   `json:"why"`
}

// Drill asks one question about a made-up machine: which reading now, good or bad, which
// part. The same seed asks the same.
func Drill(ctx context.Context, a *diagnose.Adviser, seed uint64) (*Round, error) {
	rng := rand.New(rand.NewPCG(seed, 31))
	d := &drill{a: a, machine: machine.Draw(a.Model, 1, rng), rng: rng, round: &Round{Circuit: a.C.Title, Told: []string{}}}
	var err error
	if d.op, err = a.Weigh(ctx, &d.job); err != nil {
		return nil, err
	}
	for range 1 + rng.IntN(3) {
		if len(d.op.Next) == 0 || d.op.Verdict.Status == diagnose.Isolated {
			break
		}
		if err := d.tell(ctx, &d.op.Next[0]); err != nil {
			return nil, err
		}
	}
	kinds := []string{"next", "good", "station"}
	kind := kinds[rng.IntN(len(kinds))]
	numeric := slices.IndexFunc(d.op.Next, func(n diagnose.Suggestion) bool { return n.Good != nil })
	switch {
	case kind == "next" && len(d.op.Next) >= 3:
		d.round.Kind = kind
		d.askNext()
	case kind == "good" && numeric >= 0:
		d.round.Kind = kind
		if err := d.askGood(&d.op.Next[numeric]); err != nil {
			return nil, err
		}
	default:
		d.round.Kind = "station"
		d.askStation()
	}
	return d.round, nil
}

// drill is a round of the drill while it is made up.
type drill struct {
	a       *diagnose.Adviser
	machine *machine.Machine
	rng     *rand.Rand
	job     diagnose.Job
	op      *diagnose.Opinion
	round   *Round
}

// step takes a suggestion on the made-up machine.
func (d *drill) step(n *diagnose.Suggestion) (*casefile.Evidence, error) {
	e := casefile.Evidence{Measure: unit.Measure(n.Measure), Observe: n.Observe, State: n.State, From: n.From,
		To: n.To, Through: n.Through}
	if e.Observe != "" {
		e.Outcome = d.a.Answer(d.machine.Truth(), e.Observe, e.State, nil, d.rng)
	} else if err := d.machine.Measure(&e, meter.Default(e.Measure)); err != nil {
		return nil, err
	}
	if p := e.Check(d.a.C, nil); p != nil {
		return nil, p
	}
	return &e, nil
}

// shown is what a meter shows, or the answer in words.
func (d *drill) shown(e *casefile.Evidence) string {
	if o := d.a.C.Observation(e.Observe); o != nil {
		for _, x := range o.Outcomes {
			if x.ID == e.Outcome {
				return x.Label
			}
		}
	}
	return e.Reading.String(e.Measure)
}

// tell takes a suggestion and adds it to what is told before the question.
func (d *drill) tell(ctx context.Context, n *diagnose.Suggestion) error {
	e, err := d.step(n)
	if err != nil {
		return err
	}
	d.round.Told = append(d.round.Told, Words(d.a.C, n)+": "+d.shown(e))
	d.job.Evidence = append(d.job.Evidence, *e)
	d.op, err = d.a.Weigh(ctx, &d.job)
	return err
}

func (d *drill) askNext() {
	best := d.op.Next[0]
	opts := []string{Words(d.a.C, &best)}
	// What stands last is worth least; readings that ask the same are not offered twice.
	for i := len(d.op.Next) - 1; i > 0 && len(opts) < 3; i-- {
		if w := Words(d.a.C, &d.op.Next[i]); !slices.Contains(opts, w) {
			opts = append(opts, w)
		}
	}
	d.round.Ask, d.round.Why = "Which reading now?", "It tells most for its minutes. "+best.Because
	d.round.set(opts, d.rng)
}

func (d *drill) askGood(n *diagnose.Suggestion) error {
	e, err := d.step(n)
	if err != nil {
		return err
	}
	d.round.Ask = Words(d.a.C, n) + " shows " + d.shown(e) + ". Good or bad?"
	d.round.Options = []string{"good", "bad"}
	if e.Reading.Over || e.Reading.Value < n.Good.Low || e.Reading.Value > n.Good.High {
		d.round.Answer = 1
	}
	d.round.Why = "Good would be " + expects(d.a.C, n) + "."
	return nil
}

func (d *drill) askStation() {
	q := d.round
	opts := []string{}
	for _, s := range d.op.Stations[:min(4, len(d.op.Stations))] {
		opts = append(opts, d.a.C.Station(s.Station).Label)
	}
	q.Ask = "Which part is the likeliest now?"
	if len(q.Told) == 0 {
		q.Told = append(q.Told, "nothing was measured yet")
	}
	if len(opts) == 0 {
		opts = []string{"nothing wrong"}
	} else {
		q.Why = fmt.Sprintf("%s, %.0f %%.", opts[0], 100*d.op.Stations[0].Probability)
	}
	if len(d.op.Diagnoses) > 0 {
		q.Why += " " + d.op.Verdict.Says
	}
	q.set(opts, d.rng)
}

// set shuffles options of which the first is right.
func (q *Round) set(opts []string, rng *rand.Rand) {
	right := opts[0]
	rng.Shuffle(len(opts), func(i, k int) { opts[i], opts[k] = opts[k], opts[i] })
	q.Options, q.Answer = opts, slices.Index(opts, right)
}

// Solved is a job that was solved.
type Solved struct {
	Circuit   *circuit.Circuit
	Machine   string // its name
	Complaint string
	Fault     string // what it turned out to be, station.mode
}

// FromJob makes an exercise of what a job turned out to be; the seed draws the machine.
func FromJob(id string, j Solved, seed uint64) (Exercise, error) {
	station, mode, _ := strings.Cut(j.Fault, ".")
	s := j.Circuit.Station(station)
	if s == nil || !slices.Contains(circuit.KindModes(s.Kind), mode) {
		return Exercise{}, fmt.Errorf("the job says not which fault it was: prove it first")
	}
	return Exercise{ID: id, Title: j.Machine, Circuit: j.Circuit.ID, Seed: seed, Faults: []string{j.Fault}, Complaint: j.Complaint,
		Idea: "It was here: " + s.Label + ", " + fault.Label(mode) + "."}, nil
}
