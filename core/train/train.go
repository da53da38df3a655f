package train

import (
	"context"
	"fmt"
	"hash/fnv"
	"math"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/fault"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/unit"
)

// Exercise is a hidden fault to be found.
type Exercise struct {
	ID           string   `json:"id"`
	Title        string   `json:"title"`
	Circuit      string   `json:"circuit"`
	Seed         uint64   `json:"seed"`
	Faults       []string `json:"faults,omitempty"` // station.mode=severity; empty: drawn from the seed
	Count        int      `json:"count,omitempty"`  // how many are drawn; 0: one
	Intermittent bool     `json:"intermittent,omitempty"`
	Complaint    string   `json:"complaint"`
	Idea         string   `json:"idea"` // the one to take home; told in the debrief
}

// Dials of the trainer's meter.
const (
	Volts   = "volts"
	Ohms    = "ohms"
	Clamp   = "clamp"
	Amperes = "amperes" // leads in the ampere jack: in series or not at all
	ACVolts = "ac_volts"
	Farads  = "microfarads"
)

// Move is one thing the trainee does.
type Move struct {
	Kind      string  `json:"kind"` // read, look, zero, fit, hint, verdict
	State     string  `json:"state,omitempty"`
	Ready     bool    `json:"ready,omitempty"` // the state's caution was read and followed
	Dial      string  `json:"dial,omitempty"`
	Range     float64 `json:"range,omitempty"` // full scale, SI; 0: autorange
	From      string  `json:"from,omitempty"`
	To        string  `json:"to,omitempty"`
	Through   string  `json:"through,omitempty"`
	Observe   string  `json:"observe,omitempty"`
	Condition string  `json:"condition,omitempty"` // wiggle, hot, cold, after_tap
	Station   string  `json:"station,omitempty"`   // fit, verdict
	Fault     string  `json:"fault,omitempty"`     // verdict: a mode
	Option    string  `json:"option,omitempty"`    // verdict: repair or replace
	Clips     bool    `json:"clips,omitempty"`     // the leads are clipped on, hands off
}

// Danger stops an attempt: what would have happened, and the caution that prevents it.
type Danger struct {
	What    string `json:"what"`
	Caution string `json:"caution"`
}

// Done is a move and what came of it.
type Done struct {
	Move
	N       int     `json:"n"`
	Shown   string  `json:"shown"` // the display, or the answer
	Says    string  `json:"says"`
	Minutes float64 `json:"minutes"`
	Money   float64 `json:"money"`
	Danger  *Danger `json:"danger,omitempty"`
	Works   *bool   `json:"works,omitempty"`   // an intermittent one: does it just now
	Frames  []Frame `json:"frames,omitempty"`  // how the display came to what it shows
	Least   string  `json:"least,omitempty"`   // kept from switching on
	Most    string  `json:"most,omitempty"`    // kept from switching on
	Slipped bool    `json:"slipped,omitempty"` // a tip slipped: a spark and no reading
	Sweep   *Sweep  `json:"sweep,omitempty"`   // the scope's picture

	evidence *casefile.Evidence
}

// Attempt is an exercise being worked.
type Attempt struct {
	A       *diagnose.Adviser
	Ex      Exercise
	Log     []Done
	Spent   float64 // minutes
	Money   float64
	Hints   int
	Over    bool
	Stopped *Danger

	faulty, sound *machine.Machine
	job           diagnose.Job
	zeroed        map[string]bool
	leads, drift  float64 // Ω, A
	fixed         map[string]bool
}

// Start prepares an attempt.
func Start(a *diagnose.Adviser, ex Exercise) (*Attempt, error) {
	rng := rand.New(rand.NewPCG(ex.Seed, 77))
	t := &Attempt{A: a, Ex: ex, zeroed: map[string]bool{}, fixed: map[string]bool{}, leads: 0.1 + 0.2*rng.Float64(),
		drift: (2*rng.Float64() - 1) * 1.5}
	if len(ex.Faults) == 0 {
		t.faulty = machine.Draw(a.Model, max(1, ex.Count), rng)
	} else {
		var hidden []machine.Hidden
		for _, f := range ex.Faults {
			x, sev, _, err := a.Model.Parse(f)
			if err != nil {
				return nil, fmt.Errorf("exercise %s: %w", ex.ID, err)
			}
			hidden = append(hidden, machine.Hidden{Fault: x, Severity: sev})
		}
		t.faulty = machine.New(a.Model, machine.Spread(a.Model, 0.15, rng), hidden, rng)
	}
	t.sound = machine.New(a.Model, t.faulty.Theta, nil, rng)
	t.job.Intermittent = ex.Intermittent
	return t, nil
}

// Replay works an exercise's moves from the beginning.
func Replay(a *diagnose.Adviser, ex Exercise, moves []Move) (*Attempt, error) {
	t, err := Start(a, ex)
	if err != nil {
		return nil, err
	}
	for _, m := range moves {
		if err := t.Do(m); err != nil {
			return nil, err
		}
	}
	return t, nil
}

// Truth is what is hidden: for the debrief alone.
func (t *Attempt) Truth() []fault.Fault {
	var out []fault.Fault
	for _, h := range t.faulty.Hidden {
		out = append(out, h.Fault)
	}
	return out
}

// ranges are the meter's, full scale, SI.
var ranges = map[string][]float64{Volts: {0.6, 6, 60}, Ohms: {600, 6e3, 60e3, 600e3, 6e6, 60e6},
	Clamp: {40, 400, 1000}, ACVolts: {6, 60, 600}, Farads: {1e-6, 1e-5, 1e-4}}

// Ranges lists a dial's.
func Ranges(dial string) []float64 { return slices.Clone(ranges[dial]) }

// instrument is the trainer's meter on a dial, its range held or chosen by itself.
func instrument(dial string, full float64) (meter.Instrument, unit.Measure, bool) {
	acc := map[string]meter.Accuracy{
		Volts: {Percent: 0.5, Counts: 2, Resolution: 0.01}, Ohms: {Percent: 0.8, Counts: 3, Resolution: 1e4},
		Clamp:   {Percent: 2, Counts: 5, Resolution: 1},
		ACVolts: {Percent: 1, Counts: 3, Resolution: 0.1}, Farads: {Percent: 3, Counts: 5, Resolution: 1e-8},
	}[dial]
	acc.Ranges = ranges[dial]
	if full > 0 {
		i := slices.Index(acc.Ranges, full)
		if i < 0 {
			return meter.Instrument{}, "", false
		}
		acc.Resolution *= math.Pow(10, float64(i-len(acc.Ranges)+1))
		acc.Ranges = []float64{full}
	}
	in := meter.Instrument{Name: dial, Kind: meter.Multimeter}
	switch dial {
	case Volts:
		in.DCVoltage = &acc
		return in, unit.Voltage, true
	case Ohms:
		in.Resistance = &acc
		return in, unit.Resistance, true
	case Clamp:
		acc.Resolution = math.Min(acc.Resolution, 0.1)
		acc.Ranges = nil
		in.Kind, in.DCCurrent = meter.DCClamp, &acc
		return in, unit.Current, true
	case ACVolts:
		in.ACVoltage = &acc
		return in, unit.ACVoltage, true
	case Farads:
		in.Capacitance = &acc
		return in, unit.Capacitance, true
	}
	return in, "", false
}

// clipMinutes is what clipping both leads on takes.
const clipMinutes = 0.3

// Refused is a move that cannot be made; nothing was spent.
type Refused struct{ Why string }

func (r *Refused) Error() string { return r.Why }

func refuse(format string, a ...any) error { return &Refused{fmt.Sprintf(format, a...)} }

// Do makes a move. A *Refused changes nothing.
func (t *Attempt) Do(m Move) error {
	if t.Over {
		return refuse("this attempt is over")
	}
	if len(t.Log) >= 120 {
		return refuse("a hundred and twenty moves are enough: give a verdict")
	}
	e := Done{Move: m, N: len(t.Log) + 1}
	var err error
	switch m.Kind {
	case "read":
		err = t.read(&e)
	case "look":
		err = t.look(&e)
	case "zero":
		err = t.zero(&e)
	case "fit":
		err = t.fit(&e)
	case "hint":
		err = t.hint(&e)
	case "verdict":
		err = t.verdict(&e)
	default:
		err = refuse("there is no move %q", m.Kind)
	}
	if err != nil {
		return err
	}
	if e.evidence != nil {
		t.job.Evidence = append(t.job.Evidence, *e.evidence)
	}
	t.Spent += e.Minutes
	t.Money += e.Money
	if e.Danger != nil {
		t.Over, t.Stopped = true, e.Danger
	}
	t.Log = append(t.Log, e)
	return nil
}

// enter puts the circuit into a state, or says what would have happened.
func (t *Attempt) enter(e *Done) (*circuit.State, error) {
	st := t.A.C.State(e.State)
	if st == nil || st.Hidden {
		return nil, refuse("choose a state the circuit can be put in")
	}
	// A caution belongs to the step: who goes on without it is stopped.
	if st.Caution != "" && !e.Ready {
		e.Danger = &Danger{What: hurt(st), Caution: st.Caution}
		e.Shown, e.Says = "stop", e.Danger.What
	}
	return st, nil
}

func hurt(st *circuit.State) string {
	if st.Powered() {
		return fmt.Sprintf("“%s” without its precaution: something moves, jumps or sparks while your hands are in it.", st.Label)
	}
	return fmt.Sprintf("“%s” without its precaution: the spanner finds plus and ground at once.", st.Label)
}

// now is the machine as it is at this move: an intermittent fault comes and goes, in
// spells, and comes when it is provoked.
func (t *Attempt) now(e *Done) *machine.Machine {
	if !t.Ex.Intermittent {
		return t.faulty
	}
	h := fnv.New64a()
	fmt.Fprint(h, t.Ex.Seed, (e.N-1)/3)
	rng := rand.New(rand.NewPCG(h.Sum64(), 5))
	share := 0.35
	if e.Condition != "" {
		share = 0.85
	}
	there := rng.Float64() < share
	works := !there
	e.Works = &works
	if there {
		return t.faulty
	}
	return t.sound
}

func (t *Attempt) read(e *Done) error {
	st, err := t.enter(e)
	if err != nil || e.Danger != nil {
		return err
	}
	if err := t.placed(e); err != nil {
		return err
	}
	in, measure, ok := instrument(e.Dial, e.Range)
	if e.Danger = dangerOf(st, e.Dial, ok); e.Danger != nil {
		e.Shown, e.Says = "stop", e.Danger.What
		return nil
	}
	if !ok {
		return refuse("turn the dial to something it has, on a range it has")
	}
	x := casefile.Evidence{Measure: measure, State: e.State, From: e.From, To: e.To, Through: e.Through, Condition: e.Condition, Value: "0"}
	if e.Dial == Clamp {
		x.From, x.To = "", ""
	} else {
		x.Through = ""
	}
	if p := x.Check(t.A.C, nil); p != nil {
		return refuse("%s", p.What)
	}
	if t.slips(e) {
		return nil
	}
	if !st.Powered() && (e.Dial == Volts || e.Dial == ACVolts) {
		e.Shown, e.Says = "0.00 V", "nothing is connected: there are no volts to read"
		e.Minutes = 0.5
		return nil
	}
	return t.show(e, x, in)
}

// placed refuses leads or a clamp that are nowhere.
func (t *Attempt) placed(e *Done) error {
	c := t.A.C
	node := func(id string) bool { n := c.Node(id); return n != nil && !n.Hidden }
	switch {
	case e.Dial == Clamp && c.Station(e.Through) == nil:
		return refuse("the clamp goes round a part's wire: choose it")
	case e.Dial != Clamp && (!node(e.From) || !node(e.To) || e.From == e.To):
		return refuse("choose two places for the leads")
	}
	return nil
}

// dangerOf is what would have cost a meter, or more; known says that the dial has what it stands on.
func dangerOf(st *circuit.State, dial string, known bool) *Danger {
	switch {
	case st.Powered() && (dial == Ohms || dial == Farads):
		return &Danger{"Ohms on a live circuit: the meter's fuse is gone, and with a cheap meter the meter.",
			"Ohms and microfarads only with the supply off and the part unplugged."}
	case st.Powered() && dial == Amperes:
		return &Danger{"The leads in the ampere jack are a short across what they touch: sparks, and hot leads in your hand.",
			"Amperes with a clamp; the ampere jack only in series and fused."}
	case known && st.Supply == "mains":
		return &Danger{"Mains under your fingertips.", "Mains parts get dead tests only: isolate, lock, prove dead, discharge."}
	}
	return nil
}

// show takes the reading on the machine and says what the display shows.
func (t *Attempt) show(e *Done, x casefile.Evidence, in meter.Instrument) error {
	e.Minutes, _ = t.A.Minutes(&t.job, &x)
	if e.Clips && e.Dial != Clamp {
		e.Minutes += clipMinutes
	}
	m := t.now(e)
	fresh := x
	if err := m.Measure(&x, in); err != nil {
		return refuse("%v", err)
	}
	t.unzeroed(&x)
	if p := x.Check(t.A.C, nil); p != nil {
		// A display can show what a case would not take, such as OL on volts.
		e.Shown, e.Says = x.Value, p.What
		return nil
	}
	if e.Works != nil {
		x.Symptom = map[bool]string{true: "absent", false: "present"}[*e.Works]
	}
	e.Shown = x.Reading.String(x.Measure)
	if x.Reading.Over {
		e.Shown = "OL"
	}
	e.Frames = settling(e.Shown, x.Reading.Value, x.Reading.Over, e.Dial, e.Range)
	if !x.Reading.Over {
		e.Least, e.Most = t.peaks(m, fresh, in, e.Shown)
	}
	e.evidence = &x
	return nil
}

// unzeroed adds what the leads and the clamp show before they are zeroed.
func (t *Attempt) unzeroed(x *casefile.Evidence) {
	r, err := unit.Parse(x.Value, x.Measure)
	if err != nil || r.Over {
		return
	}
	v := r.Value
	if x.Measure == unit.Resistance && !t.zeroed[Ohms] {
		v += t.leads
	}
	if x.Measure == unit.Current && !t.zeroed[Clamp] {
		v += t.drift
	}
	if v != r.Value {
		d := 1
		if _, frac, ok := strings.Cut(x.Value, "."); ok {
			d = len(frac)
		}
		x.Value = strconv.FormatFloat(v, 'f', d, 64)
	}
}

func (t *Attempt) look(e *Done) error {
	o := t.A.C.Observation(e.Observe)
	if o == nil {
		return refuse("there is no such thing to look for")
	}
	if e.State == "" {
		e.State = o.States[0]
	}
	if !slices.Contains(o.States, e.State) {
		return refuse("that is not seen in this state")
	}
	if _, err := t.enter(e); err != nil || e.Danger != nil {
		return err
	}
	if e.Observe == circuit.SwapHelps && t.A.C.Station(e.Through) == nil {
		return refuse("choose the part that is swapped")
	}
	x := casefile.Evidence{Observe: e.Observe, State: e.State, Through: e.Through, Condition: e.Condition}
	e.Minutes, _ = t.A.Minutes(&t.job, &x)
	m := t.now(e)
	h := fnv.New64a()
	// The same look at the same thing gives the same answer.
	fmt.Fprint(h, t.Ex.Seed, e.Observe, e.State, e.Through, e.Works != nil && *e.Works)
	if e.Observe == circuit.CurrentTrace {
		if e.Sweep, x.Outcome = t.scope(m, e.State, rand.New(rand.NewPCG(h.Sum64(), 9))); x.Outcome == "" {
			e.Shown, e.Says = "a flat line", "the motor stands: there is nothing in its current to see"
			if e.Sweep != nil {
				e.Shown, e.Says = "a wave", "this trace cannot be told by eye or by folding"
			}
			return nil
		}
	} else {
		x.Outcome = t.A.Answer(m.Truth(), e.Observe, e.State, nil, rand.New(rand.NewPCG(h.Sum64(), 9)))
	}
	if p := x.Check(t.A.C, nil); p != nil {
		return refuse("%s", p.What)
	}
	if e.Works != nil {
		x.Symptom = map[bool]string{true: "absent", false: "present"}[*e.Works]
	}
	e.Money = o.Spends
	e.Shown = x.Outcome
	for _, w := range o.Outcomes {
		if w.ID == x.Outcome {
			e.Shown = w.Label
		}
	}
	e.evidence = &x
	return nil
}

func (t *Attempt) zero(e *Done) error {
	if e.Dial != Ohms && e.Dial != Clamp {
		return refuse("ohms leads and the clamp are zeroed")
	}
	t.zeroed[e.Dial] = true
	e.Minutes = 0.3
	e.Shown = "0.0"
	if e.Dial == Ohms {
		e.Says = fmt.Sprintf("the leads held together showed %.1f Ω", t.leads)
	} else {
		e.Says = fmt.Sprintf("with nothing in it the clamp showed %.1f A", t.drift)
	}
	return nil
}

// fit puts a new part in: a fault there is gone; what blew a fuse blows the next one.
func (t *Attempt) fit(e *Done) error {
	s := t.A.C.Station(e.Station)
	if s == nil || s.Replace == nil {
		return refuse("choose a part that can be replaced")
	}
	e.Minutes, e.Money = s.Replace.Minutes, s.Replace.Parts
	left := []machine.Hidden{}
	short := false
	for _, h := range t.faulty.Hidden {
		if h.Fault.Station == e.Station {
			continue
		}
		left = append(left, h)
		switch h.Fault.Mode {
		case "short_to_ground", "seized", "jammed", "winding_grounded":
			short = true
		}
	}
	if s.Kind == circuit.Fuse && short {
		e.Shown, e.Says = "blows at once", "The new fuse blew: what blew the first one is still there. A fuse is an answer, not a fault."
		return nil
	}
	rng := rand.New(rand.NewPCG(t.Ex.Seed, uint64(e.N)))
	cured := len(left) < len(t.faulty.Hidden)
	t.faulty = machine.New(t.A.Model, t.faulty.Theta, left, rng)
	t.fixed[e.Station] = t.fixed[e.Station] || cured
	e.Shown = "no change"
	if len(left) == 0 && cured {
		e.Shown = "it works"
	} else if cured {
		e.Shown = "better, not right yet"
	}
	t.job.Repairs = append(t.job.Repairs, casefile.Repair{ID: fmt.Sprint("fit", e.N), Station: e.Station, After: len(t.job.Evidence)})
	return nil
}

// hint tells by degrees what the adviser would do: where, which, what to expect.
func (t *Attempt) hint(e *Done) error {
	degree := 1
	for i := len(t.Log) - 1; i >= 0 && t.Log[i].Kind == "hint"; i-- {
		degree++
	}
	op, err := t.A.Weigh(context.Background(), &t.job)
	if err != nil {
		return err
	}
	t.Hints++
	if len(op.Next) == 0 {
		e.Says = "Nothing more is worth measuring: give your verdict."
		return nil
	}
	n := op.Next[0]
	switch {
	case degree == 1:
		e.Says = "Look here: " + where(t.A.C, &n) + "."
	case degree == 2:
		e.Says = "Take this one: " + Words(t.A.C, &n) + "."
	default:
		e.Says = "Good would be " + expects(t.A.C, &n) + "."
	}
	e.Shown = fmt.Sprintf("hint %d", min(degree, 3))
	return nil
}

func where(c *circuit.Circuit, n *diagnose.Suggestion) string {
	if o := c.Observation(n.Observe); o != nil {
		return "something to look at, listen to or feel, in “" + c.State(n.State).Label + "”"
	}
	if s := c.Station(n.Through); s != nil {
		return "the current, in “" + c.State(n.State).Label + "”"
	}
	a, b := c.Node(n.From), c.Node(n.To)
	return "round the " + a.Label + " and the " + b.Label
}

// Words say a suggestion as one technician says it to another.
func Words(c *circuit.Circuit, n *diagnose.Suggestion) string {
	st := "in “" + c.State(n.State).Label + "”"
	if o := c.Observation(n.Observe); o != nil {
		return o.Question + " (" + st + ")"
	}
	if s := c.Station(n.Through); s != nil && n.Measure == "current" {
		return "amperes through the " + strings.ToLower(s.Label) + ", " + st
	}
	what := map[string]string{"voltage": "volts", "resistance": "ohms", "ac_voltage": "AC volts", "capacitance": "microfarads"}[n.Measure]
	if s := c.Station(n.Through); s != nil {
		return what + " of the " + strings.ToLower(s.Label) + " pulled out"
	}
	return what + ", " + c.Node(n.From).Label + " to " + c.Node(n.To).Label + ", " + st
}

func expects(c *circuit.Circuit, n *diagnose.Suggestion) string {
	switch {
	case n.GoodOL:
		return "OL"
	case n.Good != nil:
		return unit.Format(n.Good.Low, unit.Measure(n.Measure)) + " to " + unit.Format(n.Good.High, unit.Measure(n.Measure))
	}
	return "told by the answer itself: " + n.Because
}

func (t *Attempt) verdict(e *Done) error {
	if e.Station != "" {
		s := t.A.C.Station(e.Station)
		if s == nil {
			return refuse("choose a part, or nothing wrong")
		}
		if e.Fault != "" && !slices.Contains(circuit.KindModes(s.Kind), e.Fault) {
			return refuse("this part cannot have that fault")
		}
	}
	t.Over = true
	return nil
}
