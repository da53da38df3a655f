package e2e

import (
	"fmt"
	"regexp"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// step is one thing a technician enters at Measure: volts, amperes, ohms or microfarads, or a look.
type step struct {
	state      string // by its label
	kind       string // Volts, Amps, Ohms, Microfarads; "" a look
	on, at     string // red and black, or the part a clamp goes round; of a look its label
	value      string // what is typed; of a look the answer's label
	wrong      string // typed first, and refused
	wrongSays  string
	zeroIsOpen bool // zero was typed for an empty display: it is asked, and OL is meant
}

// story is one kind of job, from the complaint to the signed paper.
type story struct {
	name, machine, kind string
	complaint           string
	understood          string // of the complaint
	circuit             string // by its title
	steps               []step
	strip               []string
	counts              []string // what the strip-down's lines count as
	verdict             string
	decide              string // what must stand among the options
	paper               []string
}

// The fourteen kinds of job, in the words of our own workshop. Readings are such as a machine with
// that fault shows (from memory of the trade); each has a wrong entry on the way.
var stories = []story{
	{name: "starter, the pinion hangs", machine: "Apple sorter truck", kind: "lorry",
		complaint: "One clunk from the starter, then nothing turns. Lights go dim.", understood: "clicks",
		circuit: "Starter, solenoid on the motor",
		steps: []step{{state: "Cranking", at: "Plus cable", kind: "Amps", value: "420 A", wrong: "420 V",
			wrongSays: "volts"}, {state: "Cranking", kind: "Volts", on: "battery plus post", at: "battery minus post", value: "9.1"},
			{state: "Fed direct", on: "Turning", value: "spins free, nothing follows"}},
		strip: []string{"unplug battery minus", "2 nuts 13 mm at solenoid", "starter",
			"pinion hangs in the ring gear", "plunger dry"}, counts: []string{"hung in the ring gear", "dry or sticky"},
		verdict: "pinion, clutch and engine", decide: "Fit an exchange starter, its solenoid and pinion included",
		paper: []string{"pinion, clutch and engine"}},
	{name: "starter, the solenoid apart from its motor", machine: "Blossom tractor", kind: "tractor",
		complaint: "startr clicks once and does not turn", understood: "does not turn", circuit: "Starter, solenoid on the motor",
		steps: []step{{state: "Cranking", on: "Click", value: "one clunk"},
			{state: "Cranking", on: "Turning", value: "does not turn"},
			{state: "Fed direct", on: "Turning", value: "spins free, nothing follows"},
			{state: "Cranking", kind: "Volts", on: "solenoid battery stud", at: "solenoid motor stud",
				value: "12.3 V", wrong: "123", wrongSays: "60 V"},
			{state: "Cranking", kind: "Volts", on: "solenoid start terminal", at: "starter case", value: "12.1"},
			{state: "At rest", kind: "Volts", on: "battery plus post", at: "battery minus post", value: "12.6"}},
		strip: []string{"unplug battery minus", "solenoid, 2 nuts 8 mm", "plunger ok"}, counts: []string{"smooth, slides and returns"},
		verdict: "solenoid main contact", decide: "Fit an exchange starter, its solenoid and pinion included",
		paper: []string{"solenoid main contact"}},
	{name: "generator set", machine: "Landing stage generator", kind: "generator set",
		complaint: "generator set cranks slowly, float charger hangs on it", understood: "slow or weak",
		circuit: "Motor on a remote contactor",
		steps: []step{{state: "Running", kind: "Volts", on: "battery plus post", at: "battery minus post",
			value: "8.1"}, {state: "At rest", kind: "Volts", on: "battery plus post", at: "battery minus post",
			value: "13.6", wrong: "13.6 ohm", wrongSays: "do not fit|does not fit"},
			{state: "Running", kind: "Amps", at: "Plus cable", value: "120"}},
		verdict: "battery", paper: []string{"droop", "62 Hz", "With load|with load"}},
	{name: "tail lift", machine: "Crate wagon", kind: "lorry",
		complaint: "tail lift pump totally dead, not even a click", understood: "no click", circuit: "Motor on a remote contactor",
		steps: []step{{state: "At rest", kind: "Volts", on: "battery plus post", at: "battery minus post",
			value: "12.6"}, {state: "Running", kind: "Volts", on: "contactor coil terminal", at: "frame", value: "12.4"},
			{state: "Disconnected", kind: "Ohms", on: "contactor coil terminal", at: "frame", value: "0", zeroIsOpen: true}},
		verdict: "contactor coil", paper: []string{"contactor coil"}},
	{name: "cart with a burnt plug and worn brushes", machine: "Picking cart Sorrel", kind: "battery cart",
		complaint: "cart does not drive and smells burnt", understood: "smells burnt", circuit: "Battery traction drive",
		steps: []step{{state: "Driving", on: "Moves", value: "nothing"},
			{state: "Driving", on: "Smell", value: "burnt"}, {state: "Key on", on: "Plug", value: "burnt or melted"},
			{state: "Driving", kind: "Volts", on: "controller, motor plus", at: "motor plus", value: "9.8",
				wrong: "9.8k", wrongSays: "V"}},
		strip: []string{"battery plug pulled", "brush cover, 2 screws T20", "brushes worn, one pigtail broken",
			"strands broken at the lug"}, counts: []string{"worn to the mark", "pigtail or spring broken"},
		verdict: "motor connector.*drive motor", decide: "", paper: []string{"motor connector", "drive motor"}},
	{name: "pallet truck, oil in the motor", machine: "Pallet truck Dock", kind: "pallet truck",
		complaint: "pallet truck jerks when pulling away", understood: "jerks", circuit: "Battery traction drive",
		steps: []step{{state: "Driving", on: "Tap helps", value: "yes"},
			{state: "Driving", kind: "Volts", on: "motor plus", at: "motor minus", value: "24.6"},
			{state: "Driving", kind: "Amps", at: "Battery return cable", value: "9", wrong: "9 V", wrongSays: "volts"}},
		strip: []string{"8x M6 bolt 9 Nm", "full of gearbox oil inside", "brushes stuck",
			"commutator black and greasy", "seal of the drive end torn", "bearings cleaned and packed",
			"windings cleaned"}, counts: []string{"oil or grease from outside", "stuck in the holder", "black, greasy"},
		verdict: "drive motor", decide: "Fit a new shaft seal and brushes",
		paper: []string{"drive motor", "Bearings cleaned and packed", "Windings cleaned"}},
	{name: "wiper with a cracked gear", machine: "Market van Teal", kind: "van",
		complaint: "I hear the wiper motor but the arm does not move", understood: "the arm does not move", circuit: "Two-speed wiper",
		steps: []step{{state: "Low speed", on: "Sweep", value: "does not move"},
			{state: "Low speed", kind: "Volts", on: "motor plug, low speed", at: "motor ground", value: "12.1",
				wrong: "12.1 A", wrongSays: "amperes"}},
		strip: []string{"mark: left arm on the glass", "13 mm nut, arm", "left arm", "gear cracked right through",
			"park contacts clean"}, counts: []string{"gear cracked", "clean, springs good"},
		verdict: "worm gear and linkage", decide: "Fit a used gear", paper: []string{"worm gear and linkage", "the blades run home"}},
	{name: "bilge pump, its bearing in pieces", machine: "Work punt Grebe", kind: "boat",
		complaint: "bilge pump only hums", understood: "hums and does not turn", circuit: "Plain motor behind a fuse",
		steps: []step{{state: "Running", on: "Turning", value: "does not turn"},
			{state: "Disconnected", on: "Turn by hand", value: "does not move"},
			{state: "On the bench", on: "Turn by hand", value: "does not move"},
			{state: "Running", kind: "Volts", on: "motor plus wire", at: "motor minus wire", value: "11.4",
				wrong: "11,4,2", wrongSays: "."}},
		strip:   []string{"2x M5 screws", "pump head", "bearing in pieces inside the motor", "windings intact"},
		counts:  []string{"in pieces", "whole, their lacquer bright"},
		verdict: "motor", paper: []string{"motor"}},
	{name: "blower with a module", machine: "Delivery van Wigeon", kind: "van",
		complaint: "stepless heater fan dead, plug looks fine", understood: "does not turn", circuit: "Heater blower with a speed module",
		steps: []step{{state: "Full speed", on: "Airflow", value: "no air"},
			{state: "Off", kind: "Volts", on: "battery plus post", at: "battery minus post", value: "12.6"},
			{state: "Full speed", kind: "Volts", on: "module, motor side", at: "module, ground wire",
				value: "12.4", wrong: "12 Hz", wrongSays: "."},
			{state: "Full speed", kind: "Volts", on: "module, command wire", at: "module, ground wire", value: "4.5"},
			{state: "Fed direct", on: "Airflow", value: "as it should"}},
		strip: []string{"glove box", "unplug speed module", "cabin filter changed"}, counts: nil,
		verdict: "speed module", paper: []string{"speed module", "Cabin filter changed"}},
	{name: "blower with steps", machine: "Cider van", kind: "van", complaint: "cab blower only works on full speed",
		understood: "only full speed works", circuit: "Heater blower with a resistor pack",
		steps: []step{{state: "Speed 1", on: "Airflow", value: "no air"},
			{state: "Disconnected", kind: "Ohms", at: "Resistor pack", value: "0.0", zeroIsOpen: true}},
		verdict: "resistor pack", paper: []string{"resistor pack"}},
	{name: "mains fan", machine: "Apple store fan", kind: "mains fan",
		complaint: "cold store fan hums and runs when pushed", understood: "runs when pushed by hand", circuit: "Capacitor fan motor",
		steps: []step{{state: "Powered, look and listen only", on: "Breaker", value: "holds"},
			{state: "Powered, look and listen only", on: "Starts", value: "hums, runs when pushed"},
			{state: "Isolated and proven dead", kind: "Microfarads", on: "run lead", at: "start lead", value: "0.4",
				wrong: "0.4 V", wrongSays: "."}},
		strip: []string{"4 screws PH2", "cover", "capacitor"}, verdict: "run capacitor",
		paper: []string{"run capacitor", "once more before the cover", "mains"}},
	{name: "actuator", machine: "Forest tractor", kind: "tractor", complaint: "shift actuator flashes code 7",
		understood: "blinks code 7", circuit: "Actuator on a control unit",
		steps: []step{{state: "Known good actuator fitted", on: "Code clears", value: "yes"},
			{state: "Disconnected", kind: "Ohms", on: "actuator plug, A", at: "actuator plug, B", value: "OL",
				wrong: "12 V", wrongSays: "volts"}},
		strip: []string{"mark: actuator to housing", "2x M6 bolt", "actuator"}, verdict: "actuator motor",
		paper: []string{"actuator motor", "the way that is asked for"}},
	{name: "charging stator", machine: "Rescue boat Scoter", kind: "boat",
		complaint: "outboard does not charge its battery", understood: "does not charge", circuit: "Three-phase",
		steps: []step{{state: "Idling, charging", kind: "Volts", on: "battery plus post", at: "battery minus post",
			value: "13.3"}, {state: "Disconnected", kind: "Ohms", on: "stator wire 1", at: "stator wire 2",
			value: "0.6", wrong: "0.6 A", wrongSays: "amperes"},
			{state: "Disconnected", kind: "Ohms", on: "stator wire 2", at: "stator wire 3", value: "OL"},
			{state: "Disconnected", kind: "Ohms", on: "stator wire 3", at: "stator wire 1", value: "OL"}},
		verdict: "phase 3", paper: []string{"phase 3", "battery's volts rise"}},
	{name: "window", machine: "Ferry shuttle", kind: "van", complaint: "hatch window dead both ways",
		understood: "dead both ways", circuit: "Window motor on two switches",
		steps: []step{{state: "Up", on: "Motor heard", value: "no"},
			{state: "Up", kind: "Volts", on: "motor terminal A", at: "motor terminal B", value: "12.1"},
			{state: "Up", kind: "Amps", at: "Feed wire", value: "0.0", wrong: "none", wrongSays: "."},
			{state: "Disconnected", kind: "Ohms", on: "motor terminal A", at: "motor terminal B", value: "OL"}},
		verdict: "window motor", paper: []string{"window motor"}},
}

// pick is choose where the list goes away with the choice.
func (x *person) pick(label, option string) {
	x.t.Helper()
	const open = ".ant-select-dropdown:not(.ant-select-dropdown-hidden)"
	in := x.page().MustElement(fmt.Sprintf("input[aria-label=%q]", label))
	in.MustClick()
	x.until(fmt.Sprintf("%s of %q to be picked", option, label), func() bool {
		if has, el, err := x.page().HasR(open+" .ant-select-item-option", option); err == nil && has {
			return hits(el)
		}
		if !x.page().MustHas(open) {
			in.MustClick()
		} else {
			x.keys(input.ArrowDown)
		}
		return false
	})
}

// enter does one step at Measure.
func (x *person) enter(s *step) {
	x.t.Helper()
	x.keys('g', 'm')
	x.press(".states button", "^"+regexp.QuoteMeta(s.state)+"$")
	x.sees(".states button.on", regexp.QuoteMeta(s.state))
	x.settle() // the card is drawn anew with what to do next: a press on the old one would be lost
	x.press(".next-tools button", "Other reading")
	n := x.stored()
	if s.kind == "" {
		x.press(".own-what button", "seen or heard")
		x.press(".own-parts button", "^"+regexp.QuoteMeta(s.on)+"$")
		x.understood()
		x.press(".next .answers button", "^"+regexp.QuoteMeta(s.value)+`\s*\d*$`)
		x.storedIs(n + 1)
		return
	}
	x.press(".own-what button", "^"+s.kind+"$")
	switch {
	case s.kind == "Amps":
		x.pick("Clamp round", "^"+regexp.QuoteMeta(s.at)+"$")
	case s.on == "":
		x.pick("Ohms of", "^"+regexp.QuoteMeta(s.at)+"$")
	default:
		x.choose("Red on", "^"+regexp.QuoteMeta(s.on)+"$")
		x.pick("Black on", "^"+regexp.QuoteMeta(s.at)+"$")
	}
	x.understood()
	field := x.page().MustElement(".entry input")
	if s.wrong != "" {
		x.fill(field, s.wrong)
		field.MustType(input.Enter)
		x.sees(".next p.wrong", s.wrongSays)
		assert.Equal(x.t, n, x.stored(), "what is refused is not stored")
	}
	x.fill(x.page().MustElement(".entry input"), s.value)
	x.page().MustElement(".entry input").MustType(input.Enter)
	if s.zeroIsOpen {
		x.press(".answers.zero button", "OL")
	}
	x.storedIs(n + 1)
}

// plate types a motor's power as it stands on its plate, and reads what amperes follow.
func (x *person) plate(power, amps string) {
	x.t.Helper()
	x.page().MustElement(`input[aria-label="Power"]`).MustInput(power).MustType(input.Enter)
	x.sees(".plate .note", amps)
}

// backAll ticks what goes back, until nothing is left over.
func (x *person) backAll() {
	x.t.Helper()
	x.keys('g', 'p')
	for {
		head := x.sees(".page h1", "to go back|nothing left over|Nothing came off").MustText()
		if !strings.Contains(head, "to go back") {
			return
		}
		x.keys(input.Enter)
		x.until("the next thing to put back", func() bool { return x.page().MustElement("main h1").MustText() != head })
	}
}

// provesGood takes every check in the middle of its band, ticks what is asked for, and signs.
func (x *person) provesGood() {
	x.t.Helper()
	x.keys('g', 'v')
	x.checksGood()
}

// checksGood is provesGood on the page itself.
func (x *person) checksGood() {
	x.t.Helper()
	x.sees(".prove h1", ".")
	x.sees(".proof-line", ".")
	for i := range x.page().MustElements(".proof-line") {
		x.until(fmt.Sprintf("check %d is good", i), func() bool {
			row := x.page().MustElements(".proof-line")[i]
			if strings.Contains(*row.MustAttribute("class"), "good") {
				return true
			}
			good := row.MustElement("span:nth-child(4)").MustText()
			if has, in, err := row.Has("input"); err == nil && has {
				if in.MustProperty("value").Str() == "" {
					v := "OL"
					if good != "OL" {
						band, _, _ := strings.Cut(good, ",") // "…, all three alike"
						v = middle(x.t.(*testing.T), band)
					}
					in.MustInput(v).MustType(input.Enter)
				}
				return false
			}
			if has, b, err := row.HasR(".answers button", "^"+regexp.QuoteMeta(good)+"$"); err == nil && has {
				hits(b)
			}
			return false
		})
	}
	for i := range x.page().MustElements(".ticks li") {
		li := func() string { return x.page().MustElements(".ticks li")[i].MustElement("button.tick").MustText() }
		if has, _, _ := x.page().MustElements(".ticks li")[i].Has(".genset"); has {
			for label, v := range map[string]string{"Without load": "62", "Without load, volts": "231",
				"With load": "60", "With load, volts": "228", "Nominal": "60"} {
				x.fill(x.page().MustElement(fmt.Sprintf(`.genset input[aria-label=%q]`, label)), v)
			}
			x.press(".genset button", "Take")
		} else {
			x.page().MustElements(".ticks li")[i].MustElement("button.tick").MustClick()
		}
		x.until("the tick stands", func() bool { return li() == "✓" })
	}
	x.press(".sign-buttons button", "^✓ Passed$")
	x.sees(".prove h1", "Proved good")
}

// Each of the fourteen kinds of job is worked as a technician would, from signing in to the signed
// paper, with a wrong entry on the way.
func TestFourteenKindsOfJob(t *testing.T) {
	_, b, base := running(t)
	for i := range stories {
		s := &stories[i]
		t.Run(s.name, func(t *testing.T) {
			t.Parallel()
			x := open(t, b, base, 1280, 800)
			x.signIn("jory")
			x.keys('n')
			x.page().MustElement("#complaint").MustInput(s.complaint)
			x.sees(".heard .tag", s.understood)
			x.page().MustElement("#machine").MustInput(s.machine)
			x.page().MustElement("#kind").MustInput(s.kind).MustType(input.Enter)
			x.sees(".circuit.ant-btn-primary", s.circuit)
			x.press(".circuit.ant-btn-primary", s.circuit)
			x.sees("section.next", ".")
			for k := range s.steps {
				x.enter(&s.steps[k])
			}
			if len(s.strip) > 0 {
				x.keys('g', 's')
				field := x.page().MustElement(`input[aria-label="What came off"]`)
				for k, l := range s.strip {
					field.MustInput(l).MustType(input.Enter)
					x.counts(".strip-item", k+1)
				}
				for _, c := range s.counts {
					x.sees(".tag.counted", c)
				}
				x.page().MustElement("h3, h1, body").MustEval(`() => document.activeElement.blur()`)
			}
			x.keys('g', 'm')
			x.sees(".verdict h1", s.verdict)
			x.keys('g', 'd')
			x.sees(".option-row.best", "costs least")
			if s.decide != "" {
				x.sees(".option-row", s.decide)
			}
			x.press(".option-row.best .option-head", ".")
			x.page().MustElement(`input[aria-label="Name of who decided"]`).MustInput("The cooperative")
			x.press("button", "Choose this")
			x.press("button", "The work is done")
			x.sees(".repair.is-done", "Prove it")
			if len(s.strip) > 0 {
				x.backAll()
			}
			x.provesGood()
			x.keys('g', 'r')
			x.sees(".printable", "Proved good")
			_, text := rendered(t, x.fetch("/api/jobs/"+x.jobID()+"/report/customer"), "customer")
			text = strings.Join(strings.Fields(text), " ")
			for _, p := range append(s.paper, s.machine, "Proved good") {
				assert.Regexp(t, "(?i)"+p, text)
			}
			require.NotContains(t, text, "NaN")
		})
	}
}
