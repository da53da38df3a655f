package intake

import (
	"cmp"
	"math"
	"regexp"
	"slices"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/complaint"
)

// Answer is one answer to a question, with what it says for each family (natural
// logarithm of how much likelier it makes it) and what it is evidence of.
type Answer struct {
	ID    string `json:"id"`
	Label string `json:"label"`

	speaks map[string]float64
	why    string
	proof  map[string][]casefile.Evidence
}

// Question is asked only while it could change which circuit comes first.
type Question struct {
	ID      string   `json:"id"`
	Text    string   `json:"text"`
	Answers []Answer `json:"answers"`
}

// Fit is a circuit that fits, the best first.
type Fit struct {
	Circuit string  `json:"circuit"`
	Title   string  `json:"title"`
	About   string  `json:"about"`
	Share   float64 `json:"share"` // of all circuits
	Why     string  `json:"why"`
}

// Advice is what a complaint leads to.
type Advice struct {
	Fits  []Fit                 `json:"fits"`
	Ask   []Question            `json:"ask"`
	Heard []complaint.Statement `json:"heard"` // what the complaint was understood to say
}

// word is a stem that speaks for families.
type word struct {
	stem   string
	speaks map[string]float64
}

func for1(w float64, ids ...string) map[string]float64 {
	m := map[string]float64{}
	for _, id := range ids {
		m[id] = w
	}
	return m
}

// words of the trade and of customers; a stem matches the beginning of a word.
var words = []word{
	{"starter", map[string]float64{"starter": 3.6, "contactor_motor": 2.6}},
	{"crank", map[string]float64{"starter": 3.4, "contactor_motor": 2.6}}, {"solenoid", for1(2.5, "starter")},
	{"start", for1(0.8, "starter", "contactor_motor")}, {"key", for1(0.6, "starter")}, {"engine", for1(0.8, "starter", "contactor_motor")},
	{"click", for1(0.7, "starter", "contactor_motor", "two_wire_motor")}, {"clunk", for1(1, "starter")},
	{"chatter", for1(1, "starter", "contactor_motor")},
	{"winch", for1(3.5, "contactor_motor")}, {"hydraulic", for1(3, "contactor_motor")},
	{"contactor", for1(3, "contactor_motor")}, {"tipper", for1(2, "contactor_motor")},
	{"generator", for1(1.5, "contactor_motor", "stator")}, {"genset", for1(2, "contactor_motor")},
	{"tail", for1(1, "contactor_motor", "two_wire_motor")},
	{"heater", for1(3, "blower_module", "blower_resistor")},
	{"blower", for1(3.5, "blower_module", "blower_resistor")}, {"cab", for1(0.8, "blower_module", "blower_resistor")},
	{"ventilat", for1(1.5, "blower_module", "blower_resistor", "capacitor_fan")},
	{"fan", for1(1.8, "blower_module", "blower_resistor", "two_wire_motor", "capacitor_fan")},
	{"defrost", for1(2, "blower_module", "blower_resistor")}, {"demist", for1(2, "blower_module", "blower_resistor")},
	{"speeds", for1(1.2, "blower_resistor", "blower_module")},
	{"air", for1(0.8, "blower_module", "blower_resistor")}, {"resistor", for1(2.5, "blower_resistor")},
	{"module", for1(2, "blower_module")}, {"automatic", for1(1, "blower_module")},
	{"wiper", for1(4, "wiper")}, {"wipe", for1(3, "wiper")}, {"wiping", for1(3.5, "wiper")},
	{"blade", for1(1, "wiper")}, {"park", for1(1, "wiper")}, {"windscreen", for1(1.5, "wiper")},
	{"window", for1(4, "window")}, {"glass", for1(1.5, "window")}, {"hatch", for1(1.5, "window")}, {"door", for1(1, "window")},
	{"radiator", for1(3, "two_wire_motor")}, {"cooling", for1(2.2, "two_wire_motor")},
	{"bilge", for1(4, "two_wire_motor")}, {"washer", for1(3, "two_wire_motor")},
	{"pump", for1(1.8, "two_wire_motor")}, {"sprayer", for1(2, "two_wire_motor")},
	{"feeder", for1(2, "two_wire_motor")},
	{"fuse", for1(0.5, "two_wire_motor", "blower_module", "blower_resistor")}, {"overheat", for1(1, "two_wire_motor")},
	{"cart", for1(1.8, "traction")}, {"pallet", for1(3, "traction")}, {"truck", for1(1, "traction", "starter")},
	{"platform", for1(1.2, "traction")}, {"drive", for1(1.2, "traction")},
	{"wheel", for1(1.2, "traction")}, {"throttle", for1(2.5, "traction")}, {"brake", for1(1, "traction")},
	{"controller", for1(1.8, "traction")}, {"blink", for1(1.5, "traction", "actuator")},
	{"flash", for1(1.3, "traction", "actuator")}, {"electric", for1(0.8, "traction")}, {"tiller", for1(2.5, "traction")},
	{"actuator", for1(4, "actuator")}, {"shift", for1(2.6, "actuator")}, {"flap", for1(2, "actuator")},
	{"servo", for1(2, "actuator")}, {"valve", for1(1.2, "actuator")}, {"unit", for1(0.6, "actuator")},
	{"charg", for1(2.5, "stator")}, {"alternator", for1(3, "stator")}, {"stator", for1(4, "stator")},
	{"regulator", for1(1.5, "stator", "window")}, {"rectifier", for1(3, "stator")},
	{"flat", for1(0.5, "stator", "starter")}, {"boil", for1(1, "stator")},
	{"mains", for1(4, "capacitor_fan")}, {"230", for1(4, "capacitor_fan")}, {"240", for1(3, "capacitor_fan")},
	{"rcd", for1(2.5, "capacitor_fan")}, {"phase", map[string]float64{"capacitor_fan": 1.5, "stator": 1.5}},
	{"extractor", for1(2.5, "capacitor_fan")}, {"room", for1(1.5, "capacitor_fan")},
	{"hall", for1(1.2, "capacitor_fan")}, {"capacitor", for1(4, "capacitor_fan")},
	{"hum", for1(1, "capacitor_fan")}, {"socket", for1(2, "capacitor_fan")},
	{"store", for1(0.7, "capacitor_fan")}, {"cold store", for1(1.5, "capacitor_fan")},
}

func obs(id, state, outcome string) casefile.Evidence {
	return casefile.Evidence{Observe: id, State: state, Outcome: outcome}
}

var questions = []Question{
	{"moves", "What is it that does not do its work?", []Answer{
		{ID: "engine", Label: "the engine is not turned", speaks: for1(4, "starter", "contactor_motor"), why: "it turns an engine"},
		{ID: "air", Label: "heater or cab fan", speaks: for1(4, "blower_module", "blower_resistor"), why: "it blows air into a cab"},
		{ID: "wiper", Label: "wiper", speaks: for1(5, "wiper"), why: "it wipes"},
		{ID: "window", Label: "window, hatch", speaks: for1(5, "window"), why: "it moves a glass up and down"},
		{ID: "pump", Label: "pump, radiator fan or other plain motor", speaks: for1(4, "two_wire_motor"),
			why: "it is a plain motor behind a fuse and a relay"},
		{ID: "hoist", Label: "winch, lift pump", speaks: for1(4, "contactor_motor"), why: "a heavy motor on a remote contactor"},
		{ID: "cart", Label: "battery cart, pallet truck", speaks: for1(5, "traction"), why: "it drives on its battery"},
		{ID: "small", Label: "flap or shift motor on a control unit", speaks: for1(5, "actuator"), why: "a control unit drives it"},
		{ID: "charge", Label: "the battery is not charged", speaks: for1(5, "stator"), why: "it charges the battery"},
		{ID: "mains", Label: "fan on the mains", speaks: for1(5, "capacitor_fan"), why: "it hangs on the mains"},
	}},
	{"solenoid", "Where does the thick battery cable go?", []Answer{
		{ID: "motor", Label: "straight to the starter", speaks: for1(2.5, "starter"), why: "the solenoid sits on the starter"},
		{ID: "contactor", Label: "to a relay or contactor first", speaks: for1(2.5, "contactor_motor"),
			why: "a contactor sits away from the motor"},
	}},
	{"speeds", "Which speeds work?", []Answer{
		{ID: "none", Label: "none", speaks: for1(0.3, "blower_module", "blower_resistor", "wiper"), why: "no speed works",
			proof: map[string][]casefile.Evidence{"blower_module": {obs("airflow", "speed_high", "none")},
				"blower_resistor": {obs("airflow", "speed_4", "none")},
				"wiper":           {obs("sweep", "low", "none"), obs("sweep", "high", "none")}}},
		{ID: "full", Label: "only full speed",
			speaks: map[string]float64{"blower_resistor": 1.5, "blower_module": -0.5},
			why:    "only full speed works, as with an open resistor pack",
			proof: map[string][]casefile.Evidence{"blower_resistor": {obs("airflow", "speed_1", "none"),
				obs("airflow", "speed_4", "normal")}, "blower_module": {obs("airflow", "speed_high", "normal")}}},
		{ID: "some", Label: "some of them", speaks: map[string]float64{"blower_resistor": 2, "blower_module": -1},
			why: "single speeds are dead, as with steps"},
		{ID: "weak", Label: "all, but weak", speaks: for1(0.2, "blower_module", "blower_resistor"), why: "it is weak at every speed",
			proof: map[string][]casefile.Evidence{"blower_module": {obs("airflow", "speed_high", "weak")},
				"blower_resistor": {obs("airflow", "speed_4", "weak")}}},
	}},
	{"control", "How is the speed set?", []Answer{
		{ID: "steps", Label: "a knob with steps",
			speaks: map[string]float64{"blower_resistor": 2, "blower_module": -1}, why: "its knob has steps"},
		{ID: "smooth", Label: "smoothly, or by itself",
			speaks: map[string]float64{"blower_module": 2, "blower_resistor": -1.5}, why: "its speed is set smoothly"},
	}},
	{"click", "When it is asked to work: clicks or silent?", []Answer{
		{ID: "silent", Label: "silent", why: "it is silent",
			proof: map[string][]casefile.Evidence{"starter": {obs("click", "crank", "none")},
				"contactor_motor": {obs("click", "run", "none")}, "two_wire_motor": {obs("click", "run", "none")}}},
		{ID: "click", Label: "one click", why: "it clicks",
			proof: map[string][]casefile.Evidence{"starter": {obs("click", "crank", "single")},
				"contactor_motor": {obs("click", "run", "single")}, "two_wire_motor": {obs("click", "run", "single")}}},
		{ID: "chatter", Label: "chatters", why: "it chatters",
			proof: map[string][]casefile.Evidence{"starter": {obs("click", "crank", "chatter")},
				"contactor_motor": {obs("click", "run", "chatter")}, "two_wire_motor": {obs("click", "run", "chatter")}}},
	}},
	{"way", "Up and down?", []Answer{
		{ID: "both", Label: "dead both ways", why: "it is dead both ways",
			proof: map[string][]casefile.Evidence{"window": {obs("glass_moves", "up", "none"), obs("glass_moves", "down", "none")}}},
		{ID: "up", Label: "only up is dead", why: "only up is dead",
			proof: map[string][]casefile.Evidence{"window": {obs("glass_moves", "up", "none"), obs("glass_moves", "down", "normal")}}},
		{ID: "down", Label: "only down is dead", why: "only down is dead",
			proof: map[string][]casefile.Evidence{"window": {obs("glass_moves", "up", "normal"), obs("glass_moves", "down", "none")}}},
		{ID: "slow", Label: "slow", why: "it is slow", proof: map[string][]casefile.Evidence{"window": {obs("glass_moves", "up", "slow")}}},
	}},
}

// speaking is how far a statement speaks for families (natural logarithm, as of words).
var speaking = map[string]map[string]float64{
	complaint.NoPark:     for1(1.5, "wiper"),
	complaint.SpeedsSame: for1(1, "wiper"),
	complaint.ArmStill:   for1(2, "wiper"),
	complaint.UpDead:     for1(2, "window"), complaint.DownDead: for1(2, "window"), complaint.Door: for1(2, "window"),
	complaint.Returns:  for1(1, "window"),
	complaint.NoCharge: for1(3, "stator"), complaint.Overcharge: for1(3, "stator"),
	complaint.FullOnly: for1(1, "blower_resistor"), complaint.SomeSpeeds: for1(1.5, "blower_resistor"),
	complaint.Varies: for1(1, "blower_module"),
	complaint.Code:   for1(1.3, "traction", "actuator"),
	complaint.Pushed: for1(1.5, "capacitor_fan"), complaint.NoHum: for1(1.5, "capacitor_fan"),
	complaint.Trips:     map[string]float64{"capacitor_fan": 1, "traction": 0.5},
	complaint.BlowsFuse: for1(0.5, "two_wire_motor", "blower_module", "blower_resistor"),
	complaint.Chatters:  for1(1, "starter", "contactor_motor"),
	complaint.SpinsFree: for1(1, "starter"),
}

// control words say how a blower's speed is set.
var (
	steps  = regexp.MustCompile(`\b(steps?|knob|resistor|(four|4|three|3)[- ]speed|speeds? (one|two|three|four|[1-4])|positions? (one|two|three|four|[1-4]))\b`)
	smooth = regexp.MustCompile(`\b(automatic|auto climate|climate|stepless|electronic|smooth\w*|module)\b`)
	remote = regexp.MustCompile(`\b(contactor|remote|start relay|winch|tail lift|tipper|hydraulic\w*|genset|generator|power pack)\b`)
)

// sayings are phrases that speak for families.
var sayings = []struct {
	re     *regexp.Regexp
	speaks map[string]float64
}{
	{regexp.MustCompile(`\bturn(s|ing)? over\b|\b(engine|tractor|lorry|van|boat|car)\b.*\b(not turning|not turn|start)|when starting`),
		map[string]float64{"starter": 2.5, "contactor_motor": 1.2}},
	{regexp.MustCompile(`\b(lights?|lamps?) (go|get|turn) dim`), for1(1, "starter")},
	{regexp.MustCompile(`\b(cold|packing|apple) (store|room|hall)\b`), for1(2, "capacitor_fan")},
	{regexp.MustCompile(`\bblades? (stand|stay)`), for1(0.5, "capacitor_fan")},
	{regexp.MustCompile(`\b(engine|motor) running\b|\bhigh revs\b|\bunder the flywheel\b`), for1(0.8, "stator")},
}

// inferred are the answers to questions that a complaint has given already: they are not asked
// again.
func inferred(heard []complaint.Statement, plain string) map[string]string {
	out := map[string]string{}
	set := func(q, a string, when bool) {
		if when && out[q] == "" {
			out[q] = a
		}
	}
	has := func(id string) bool { return complaint.Has(heard, id) }
	set("click", "chatter", has(complaint.Chatters))
	set("click", "silent", has(complaint.NoClick))
	set("click", "click", has(complaint.Clicks))
	set("speeds", "full", has(complaint.FullOnly))
	set("speeds", "some", has(complaint.SomeSpeeds) || has(complaint.OneSpeed))
	set("speeds", "weak", has(complaint.Slow))
	set("speeds", "none", has(complaint.Dead) && (has(complaint.AllSpeeds) || !has(complaint.Sometimes)))
	set("way", "both", has(complaint.BothDead))
	set("way", "up", has(complaint.UpDead))
	set("way", "down", has(complaint.DownDead))
	set("way", "slow", has(complaint.Slow))
	set("control", "smooth", smooth.MatchString(plain))
	set("control", "steps", steps.MatchString(plain))
	set("solenoid", "contactor", remote.MatchString(plain))
	set("solenoid", "motor", has(complaint.SpinsFree) || strings.Contains(plain, "solenoid"))
	return out
}

// asksFor lists the families a question is of use for; without an entry it is
// asked to tell families apart.
var asksFor = map[string][]string{
	"solenoid": {"starter", "contactor_motor"},
	"speeds":   {"blower_module", "blower_resistor", "wiper"},
	"control":  {"blower_module", "blower_resistor"},
	"click":    {"starter", "contactor_motor", "two_wire_motor"},
	"way":      {"window"},
}

// common is the order in which workshops meet the families (from memory).
var common = []string{"starter", "blower_module", "blower_resistor", "two_wire_motor", "window", "wiper",
	"contactor_motor", "traction", "actuator", "stator", "capacitor_fan"}

// Order lists the families, the commonest first; one that is not ranked comes
// last.
func Order() []string {
	out := slices.Clone(common)
	for _, id := range circuit.Families() {
		if !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	return out
}

func find(id, answer string) *Answer {
	for i := range questions {
		if questions[i].ID == id {
			for k := range questions[i].Answers {
				if questions[i].Answers[k].ID == answer {
					return &questions[i].Answers[k]
				}
			}
		}
	}
	return nil
}

// Suggest ranks the families by a complaint in plain words and the answers given
// so far (question: answer), and names at most two questions still worth asking.
// Unknown answers are passed over.
func Suggest(text string, answers map[string]string) Advice {
	heard := complaint.Understand("", text)
	plain := complaint.Plain(text)
	said := inferred(heard, plain)
	score, why := scores(text, plain, heard, answers, said)
	res := Advice{Fits: []Fit{}, Ask: []Question{}}
	total := 0.0
	for _, id := range circuit.Families() {
		f, err := circuit.Family(id)
		if err != nil {
			continue
		}
		p := math.Exp(score[id])
		total += p
		w := strings.Join(why[id], "; ")
		if w == "" {
			w = strings.Join(f.Asks.Machine, ", ")
		}
		res.Fits = append(res.Fits, Fit{Circuit: id, Title: f.Title, About: f.About, Share: p, Why: w})
	}
	for i := range res.Fits {
		res.Fits[i].Share = math.Round(res.Fits[i].Share/total*1000) / 1000
	}
	slices.SortStableFunc(res.Fits, func(x, y Fit) int {
		switch {
		case x.Share > y.Share:
			return -1
		case x.Share < y.Share:
			return 1
		}
		return 0
	})
	first := res.Fits[0].Circuit
	res.Heard = complaint.Understand(first, text)
	res.Ask = ask(res.Fits, answers, said)
	return res
}

// scores weighs the families by the words, the statements and the answers, and says why.
func scores(text, plain string, heard []complaint.Statement, answers,
	said map[string]string) (score map[string]float64, why map[string][]string) {
	score, why = map[string]float64{}, map[string][]string{}
	for i, id := range common { // the commoner first where nothing parts them
		score[id] = -0.02 * float64(i)
	}
	for i := range sayings {
		if sayings[i].re.MatchString(plain) {
			for id, s := range sayings[i].speaks {
				score[id] += s
			}
		}
	}
	for _, t := range complaint.Words(text) {
		for _, w := range words {
			if !strings.HasPrefix(t, w.stem) {
				continue
			}
			for id, s := range w.speaks {
				score[id] += s
				if s >= 1 && !slices.Contains(why[id], "you said “"+t+"”") {
					why[id] = append(why[id], "you said “"+t+"”")
				}
			}
		}
	}
	for _, h := range heard {
		for id, s := range speaking[h.ID] {
			score[id] += s
		}
	}
	for _, q := range questions {
		if a := find(q.ID, cmp.Or(answers[q.ID], said[q.ID])); a != nil {
			for id, s := range a.speaks {
				score[id] += s
				if s > 0 {
					why[id] = append(why[id], a.why)
				}
			}
			for id := range a.proof {
				if !slices.Contains(why[id], a.why) {
					why[id] = append(why[id], a.why)
				}
			}
		}
	}
	return score, why
}

// ask picks the questions that are still worth asking.
func ask(s []Fit, answers, said map[string]string) []Question {
	out := []Question{}
	top := s[0]
	for _, q := range questions {
		if answers[q.ID] != "" || said[q.ID] != "" {
			continue
		}
		use := false
		if ids := asksFor[q.ID]; ids == nil {
			use = top.Share < 0.45 // no idea yet what it is
		} else {
			use = slices.Contains(ids, top.Circuit) && top.Share > 0.2
			if q.ID == "solenoid" || q.ID == "control" {
				use = use && top.Share < 0.9
			}
		}
		if use {
			out = append(out, q)
		}
		if len(out) == 2 {
			break
		}
	}
	return out
}

// Evidence is what the answers prove about a family, so that a job begins with
// what was said. Each piece has been checked against the family.
func Evidence(id string, answers map[string]string) []casefile.Evidence {
	c, err := circuit.Family(id)
	if err != nil {
		return nil
	}
	var out []casefile.Evidence
	for _, q := range questions {
		if a := find(q.ID, answers[q.ID]); a != nil {
			for _, e := range a.proof[id] {
				if e.Check(c, nil) == nil {
					out = append(out, e)
				}
			}
		}
	}
	return out
}
