package diagnose

import (
	"math"
	"runtime"
	"sync"

	"corriente/core/circuit"
	"corriente/core/fault"
	"corriente/core/trace"
)

// share splits work over the cores: f does every step-th piece, beginning with
// from.
func share(n int, f func(from, step int)) {
	workers := max(1, min(8, runtime.GOMAXPROCS(0), n))
	var wg sync.WaitGroup
	for k := range workers {
		wg.Go(func() { f(k, workers) })
	}
	wg.Wait()
}

// lapse is the share of answers that are simply mistaken, spread over all words.
const lapse = 0.04

func logistic(x float64) float64 { return 1 / (1 + math.Exp(-x)) }

// observed is what an answer is worked out from: the cell, and its solved states.
type observed struct {
	a    *Adviser
	o    *circuit.Observation
	c    *cell
	diag []fault.Fault
	sev  [2]float64
	at   func(state int) *linear
	// through is the station that was swapped for a known good part.
	through string
	// codes is a controller's own table of blink codes, code: faults.
	codes map[int][]string
	trust float64 // in that table; 0: full
	// spread is how far the share of the speed is uncertain, given the readings;
	// nil: as far as before any.
	spread func(l *linear) float64
}

// unsure is the standard deviation of the share of the speed.
func (x *observed) unsure(l *linear) float64 {
	if x.spread != nil {
		return x.spread(l)
	}
	return l.rsd
}

// needs lists the states that must be solved to answer an observation.
func (a *Adviser) needs(o *circuit.Observation, state int) []int {
	out := []int{state}
	if o.SolveIn != "" {
		out[0] = a.Net.StatePos(o.SolveIn)
	}
	for _, id := range o.Compare {
		out = append(out, a.Net.StatePos(id))
	}
	return out
}

// outcomes returns the probability of each answer to an observation under a
// solved cell. Where physics decides, the answer follows from the solution;
// where it does not, from the family's rates. It never returns a zero.
func (x *observed) outcomes(state int) []float64 {
	p := make([]float64, len(x.o.Outcomes))
	set := func(id string, v float64) {
		if w, ok := x.o.Words[id]; ok {
			id = w
		}
		for i := range x.o.Outcomes {
			if x.o.Outcomes[i].ID == id {
				p[i] += v
				return
			}
		}
	}
	if x.o.SolveIn != "" {
		state = x.a.Net.StatePos(x.o.SolveIn)
	}
	if len(x.a.C.States[state].Sound) > 0 {
		x.replaced(state)
	}
	l := x.at(state)
	switch x.o.Model {
	case "click":
		x.click(l, set)
	case "turning", "speed":
		x.turning(state, l, set)
	case "moves":
		y := x.driven(state, l)
		set("yes", y)
		set("no", 1-y)
	case "heard":
		x.heard(l, set)
	case "noise":
		x.noise(state, l, set)
	case "thump":
		x.thump(l, set)
	case "lamps_dim":
		y := x.a.dim(l)
		set("yes", y)
		set("no", 1-y)
	case "lamp":
		x.lamp(state, l, set)
	case "heat":
		x.heat(state, l, set)
	case "fuse":
		x.fuse(l, set)
	case "differs":
		x.differs(set)
	case "blink_code":
		x.blink(l, p)
	case "code_clears":
		y := 0.04
		if l.live && !l.trip {
			y = 0.95
		}
		set("yes", y)
		set("no", 1-y)
	case "starts":
		x.starts(l, set)
	case "runs_on":
		// What a contact guards runs with the guard let go only where the contact is
		// welded, and only if it runs at all.
		y := 0.002
		if x.weldedShut(x.o.Of) {
			y = x.carried(state, l)
		}
		set("runs_on", y)
		set("stops", 1-y)
	case "spark":
		x.spark(l, set)
	case "jump":
		x.jump(l, set)
	case "turn_by_hand":
		x.byHand(state, set)
	case "rates":
		x.rates(set)
	case "swap":
		x.swap(state, set)
	case "trace":
		x.trace(l, set)
	}
	t := 0.0
	for _, v := range p {
		t += v
	}
	for i := range p {
		if t <= 0 {
			p[i] = 1 / float64(len(p))
			continue
		}
		p[i] = (1-lapse)*p[i]/t + lapse/float64(len(p))
	}
	return p
}

// replaced leaves out the faults of stations that a state puts known good parts
// in place of.
func (x *observed) replaced(state int) {
	diag, sev, n := x.diag, x.sev, 0
	x.diag = nil
	for i, f := range diag {
		if !x.a.Net.IsSound(state, x.a.C.StationIndex(f.Station)) {
			x.diag = append(x.diag, f)
			if n < 2 && i < 2 {
				x.sev[n] = sev[i]
			}
			n++
		}
	}
}

func (x *observed) has(modes ...string) bool {
	for _, f := range x.diag {
		for _, m := range modes {
			if f.Mode == m {
				return true
			}
		}
	}
	return false
}

// amps is the current through a station, against what flows there at work in a
// good circuit.
func (x *observed) amps(l *linear, k int) float64 {
	if k < 0 {
		return 0
	}
	return math.Abs(float64(l.i[k])) / math.Max(x.a.Model.Normal[k], 1e-6)
}

// knows reports whether a latent answer has a word in this look.
func (x *observed) knows(id string) bool { return outcomeOf(x.o, id) >= 0 }

// stalled: current flows through a motor that does not turn.
func (x *observed) stalled(l *linear) bool {
	return l.fed && !l.spin && x.amps(l, x.a.Net.MotorStation()) > 0.5
}

func (x *observed) click(l *linear, set func(string, float64)) {
	a := x.a
	if l.chat {
		set("chatter", 0.75)
		set("single", 0.2)
		set("none", 0.05)
		return
	}
	coil := a.C.StationIndex(x.o.Of)
	for _, f := range x.diag {
		if f.Station == x.o.Of && f.Mode == "sticking" {
			// Energised but held: now and then a dull knock.
			set("none", 0.96)
			set("single", 0.04)
			return
		}
		if f.Station == x.o.Of && f.Mode == "open" {
			// Whatever volts stand across it, no current flows: nothing moves.
			set("none", 0.99)
			set("single", 0.01)
			return
		}
	}
	pull, volts := l.pull, l.coilV
	if !a.drives(coil) {
		s := &a.C.Stations[coil]
		volts = math.Abs(float64(l.v[a.C.NodeIndex(s.From)]) - float64(l.v[a.C.NodeIndex(s.To)]))
		pull = volts >= a.theta[a.Net.ParamIndex(coil, "pull_in")]
		for _, f := range x.diag {
			if f.Station == x.o.Of && f.Mode == "open" {
				pull, volts = false, 0
			}
		}
	}
	if pull {
		// A motor that then turns drowns the clunk for some ears.
		none := 0.03
		if l.ratio > 0.5 {
			none = 0.15
		}
		set("single", 0.95-none)
		set("none", none)
		set("chatter", 0.03)
		return
	}
	near := logistic((volts/a.theta[a.Net.ParamIndex(coil, "pull_in")] - 0.9) / 0.06)
	set("none", 0.97-0.25*near)
	set("single", 0.02+0.2*near)
	set("chatter", 0.01+0.05*near)
}

// drives reports whether a coil closes a contact.
func (a *Adviser) drives(coil int) bool {
	for k := range a.C.Stations {
		if a.C.Stations[k].ClosedBy == a.C.Stations[coil].ID {
			return true
		}
	}
	return false
}

// driven is the chance that what the motor turns is seen to move.
func (x *observed) driven(state int, l *linear) float64 {
	if x.o.Of != "" && x.weldedShut(x.o.Of) {
		return 0.08 // it runs on and on: that is not coming home
	}
	return x.carried(state, l)
}

// carried is the chance that what the motor turns is seen to move.
func (x *observed) carried(state int, l *linear) float64 {
	switch {
	case x.has("slipping") && x.a.C.States[state].Load != "free":
		return 0.04
	case l.chat:
		return 0.3
	case !l.spin || !l.fed:
		return 0.01
	}
	return 0.97 * logistic((l.ratio-0.1)/0.03)
}

func (x *observed) weldedShut(station string) bool {
	for _, f := range x.diag {
		if f.Station == station && f.Mode == "welded" {
			return true
		}
	}
	return false
}

// erratic is the chance that a motor is seen to run by fits and starts.
func (x *observed) erratic(l *linear) float64 {
	p := 0.01
	for k, f := range x.diag {
		y := 0.0
		switch f.Mode {
		case "brushes_worn", "low_brush_worn", "high_brush_worn":
			y = 0.15
		case "commutator_damaged":
			y = 0.3
		case "binding":
			y = 0.25 * logistic((x.sev[k]-1.8)/0.3)
		case "jammed":
			y = 0.1
		case "high_resistance":
			y = 0.06
		}
		p = math.Max(p, y)
	}
	return p
}

func (x *observed) turning(state int, l *linear, set func(string, float64)) {
	st := &x.a.C.States[state]
	_, named := x.o.Words["free"]
	freeWord := x.o.Model == "turning" || named
	switch {
	case l.chat:
		set("none", 0.75)
		set("slow", 0.25)
		return
	case !l.spin || !l.fed:
		e, little := 0.0, 0.01
		if x.stalled(l) {
			e = 0.3 * x.erratic(l)
			if little = 0.2; x.has("seized") {
				little = 0.06
			}
		}
		if !x.knows("little") {
			little = 0
		}
		set("erratic", e)
		set("little", (1-e)*little)
		set("none", (1-e)*(1-little))
		return
	case x.has("slipping") && st.Load != "free" && freeWord:
		normal := 0.05
		if named {
			normal = 0.01 // only what is driven is looked at
		}
		set(freeSpin(x.o), 0.85)
		set("none", 0.15-normal) // what is driven does not move, and that is what some look at
		set("normal", normal)
		return
	case x.has("slipping") && st.Load != "free": // only what is driven can be seen
		set("none", 0.6)
		set("slow", 0.3)
		set("erratic", 0.1)
		return
	}
	// A logistic of scale s has the spread of a Gaussian of 1.8 s.
	unsure := x.unsure(l) / 1.8
	normal := logistic((l.ratio - 0.72) / math.Hypot(0.07, unsure))
	// What it turns may hold it at low speed: compression, stiction, weight.
	stands, edge := 0.08, 0.02
	if st.Load != "free" {
		stands, edge = 0.16, 0.06
	}
	none := logistic((stands - l.ratio) / math.Hypot(edge, unsure))
	e := x.erratic(l)
	rest := (1 - none) * (1 - e)
	little := 0.0
	if x.knows("little") {
		little = 0.01 + 0.3*logistic((0.12-l.ratio)/0.04)
	}
	set("none", none)
	set("erratic", (1-none)*e)
	set("little", rest*(1-normal)*little)
	set("slow", rest*(1-normal)*(1-little))
	if st.Load == "free" && x.knows(freeSpin(x.o)) && x.o.Model == "turning" {
		set(freeSpin(x.o), rest*normal*0.45)
		normal *= 0.55
	}
	set("normal", rest*normal)
}

func freeSpin(o *circuit.Observation) string {
	if _, ok := o.Words["free"]; ok {
		return "free"
	}
	return "free_spin"
}

func (x *observed) noise(state int, l *linear, set func(string, float64)) {
	rough, hum, grind := 0.03, 0.01, 0.01
	for k, f := range x.diag {
		switch f.Mode {
		case "bearing_drag":
			if l.spin {
				rough = math.Max(rough, 0.35+0.4*logistic((x.sev[k]-4)/1.5))
			}
		case "commutator_damaged":
			if l.spin {
				rough = math.Max(rough, 0.3)
			}
		case "brushes_worn":
			if l.spin {
				rough = math.Max(rough, 0.15)
			}
		case "binding":
			if l.spin && x.a.C.States[state].Load != "free" {
				rough = math.Max(rough, 0.35)
				grind = 0.1
			}
		case "slipping":
			if l.spin && x.a.C.States[state].Load != "free" {
				grind = 0.35
			}
		}
	}
	if x.stalled(l) {
		hum = 0.6
	}
	if rough+hum+grind > 0.97 {
		k := 0.97 / (rough + hum + grind)
		rough, hum, grind = rough*k, hum*k, grind*k
	}
	set("rough", rough)
	set("hum", hum)
	set("grind", grind)
	set("none", 1-rough-hum-grind)
}

// heard is whether the motor is heard to run.
func (x *observed) heard(l *linear, set func(string, float64)) {
	y := 0.02
	switch {
	case l.spin && l.fed: // one that only creeps is not heard as running
		y = 0.1 + 0.84*logistic((l.ratio-0.15)/0.04)
	case x.stalled(l):
		y = 0.1 // a held motor hums for some ears
	}
	set("yes", y)
	set("no", 1-y)
}

// jump is whether a motor that is fed kicks against what holds it.
func (x *observed) jump(l *linear, set func(string, float64)) {
	y := 0.03
	switch {
	case l.fed && l.spin:
		y = 0.2 + 0.65*logistic((l.ratio-0.4)/0.1)
	case x.stalled(l):
		y = 0.15 // held: a short kick at most
	}
	set("yes", y)
	set("no", 1-y)
}

// spark is what the last lead draws when it touches: nothing without current, a strong arc at
// several times the current the motor has at work (common practice).
func (x *observed) spark(l *linear, set func(string, float64)) {
	flow := x.amps(l, x.a.Net.MotorStation())
	none := 0.02 + 0.93*logistic((math.Log(0.02)-math.Log(flow+1e-9))/0.5)
	strong := (1 - none) * (0.06 + 0.8*logistic((math.Log(flow+1e-9)-math.Log(1.8))/0.3))
	set("none", none)
	set("strong", strong)
	set("small", 1-none-strong)
}

// thump is the knock of a motor that takes up its play: it needs current.
func (x *observed) thump(l *linear, set func(string, float64)) {
	y := 0.04
	switch {
	case x.stalled(l):
		y = 0.75
	case l.spin:
		y = 0.6
	}
	set("single", y)
	set("chatter", 0.03)
	set("none", 0.97-y)
}

// lamp judges a test lamp by its power: the eye calls it bright above about half
// and dark below a fortieth (from memory).
func (x *observed) lamp(state int, l *linear, set func(string, float64)) {
	for _, aid := range x.a.C.States[state].Aids {
		if aid.Kind != "lamp" {
			continue
		}
		i, j := x.a.C.NodeIndex(aid.From), x.a.C.NodeIndex(aid.To)
		v := float64(l.v[i]) - float64(l.v[j])
		full := x.a.C.NominalVoltage
		share := v * v / (full * full)
		if l.isle[i] != l.isle[j] {
			share = 0
		}
		bright := logistic((math.Log(share+1e-9) - math.Log(0.5)) / 0.12)
		dark := logistic((math.Log(0.025) - math.Log(share+1e-9)) / 0.3)
		set("bright", bright)
		set("dark", dark*(1-bright))
		set("dim", (1-dark)*(1-bright))
	}
}

// heat judges a joint by the watts turned in it: below about one it stays cool to
// the hand, above three it does not (from memory).
func (x *observed) heat(state int, l *linear, set func(string, float64)) {
	k := x.a.C.StationIndex(x.o.Of)
	i, j := x.a.Net.Ends(state, k)
	watts := math.Abs(float64(l.i[k]) * (float64(l.v[i]) - float64(l.v[j])))
	y := 0.02 + 0.94*logistic((math.Log(watts+1e-9)-math.Log(3.5))/0.35)
	set("hot", y)
	set("cool", 1-y)
}

// fuse judges a new fuse by its time-current limits (ISO 8820-3, from memory):
// for ever at 1.1 times its rating, seconds to minutes at 1.35, at once from 2.5.
func (x *observed) fuse(l *linear, set func(string, float64)) {
	k := x.a.C.StationIndex(x.o.Of)
	times := math.Abs(float64(l.i[k])) / math.Max(x.a.theta[x.a.Net.ParamIndex(k, "rating")], 1e-3)
	once := logistic((math.Log(times+1e-9) - math.Log(2.2)) / 0.15)
	holds := logistic((math.Log(1.3) - math.Log(times+1e-9)) / 0.08)
	set("blows_at_once", once)
	set("holds", holds*(1-once))
	set("blows_later", (1-holds)*(1-once))
}

// differs compares the speeds of two states.
func (x *observed) differs(set func(string, float64)) {
	a, l := x.a, [2]*linear{}
	for i, id := range x.o.Compare {
		l[i] = x.at(a.Net.StatePos(id))
	}
	speed := func(i int) float64 {
		if !l[i].spin || !l[i].fed {
			return 0
		}
		return l[i].ratio * a.spin[a.Net.StatePos(x.o.Compare[i])]
	}
	lo, hi := speed(0), speed(1)
	y := 0.02
	switch {
	case x.has("slipping"):
		y = 0.1
	case hi > 0 && lo > 0:
		y = 0.03 + 0.94*logistic((hi/lo-1.15)/0.04)
	case hi > 0 || lo > 0:
		// One speed dead: some call that a difference, most say it does not work.
		y = 0.45
	}
	set("yes", y)
	set("no", 1-y)
}

// blink gives the chances of the codes 0 to 20. A table turns a code into faults;
// without one, any code says only that the controller withholds its output.
func (x *observed) blink(l *linear, p []float64) {
	if !l.live {
		p[0] = 1 // no supply, no lamp
		return
	}
	none := 0.97
	switch {
	case l.trip:
		none = 0.05
	case x.c.guarded == trips:
		none = 0.6 // some flash what they met, some do not
	}
	trust := x.trust
	switch {
	case len(x.codes) == 0:
		trust = 0
	case trust == 0:
		trust = 1
	}
	plain := func(share float64) {
		p[0] += share * none
		for i := 1; i < len(p); i++ {
			p[i] += share * (1 - none) / float64(len(p)-1)
		}
	}
	if trust > 0 {
		x.blinkByTable(l, none, p)
		for i := range p {
			p[i] *= trust
		}
	}
	plain(1 - trust)
}

func (x *observed) blinkByTable(l *linear, none float64, p []float64) {
	n := len(p)
	// Codes that name a fault of this diagnosis.
	named := 0
	match := make([]bool, n)
	for code, fs := range x.codes {
		if code <= 0 || code >= n {
			continue
		}
		for _, f := range x.diag {
			for _, s := range fs {
				if s == f.String() {
					if !match[code] {
						named++
					}
					match[code] = true
				}
			}
		}
	}
	some := 1 - none
	if named > 0 && !l.trip {
		some = 0.35 // the table knows more of this controller than its circuit shows
	}
	p[0] = 1 - some
	for i := 1; i < n; i++ {
		switch {
		case named > 0 && match[i]:
			p[i] = some * 0.85 / float64(named)
		case named > 0:
			p[i] = some * 0.15 / float64(n-1)
		default:
			// A fault the table does not name may flash anything, less often what
			// stands for something else.
			p[i] = some / float64(n-1)
			if len(x.codes[i]) > 0 {
				p[i] *= 0.4
			}
		}
	}
}

// starts says what a capacitor motor does, from its starting torque against the
// good motor's.
func (x *observed) starts(l *linear, set func(string, float64)) {
	a := x.a
	run := 0.0
	for k := range a.C.Stations {
		if a.C.Stations[k].ID == "run_winding" {
			run = math.Abs(float64(l.i[k]))
		}
	}
	held := 0.0
	switch {
	case x.has("seized"):
		held = 1
	case x.has("drag"):
		held = 0.35
	}
	if run < 1e-3 {
		// No current in the run winding: the start winding alone hums at most.
		set("no_hum", 0.9)
		set("hums", 0.1)
		return
	}
	if held == 1 {
		set("hums", 0.93)
		set("no_hum", 0.07)
		return
	}
	need := 0.25 + held
	ok := logistic((l.start - need) / 0.06)
	set("normal", ok)
	pushed := 0.8 - held
	set("hums_then_runs_when_pushed", (1-ok)*pushed)
	set("hums", (1-ok)*(1-pushed))
}

// dim is the chance that lamps are seen to dim. Headlamps hang on the battery,
// on some machines at its clamps, so both are weighed; a small motor makes them
// dip only while it draws much.
func (a *Adviser) dim(l *linear) float64 {
	m := a.Net.MotorStation()
	if a.Model.Normal[m] < 60*12/a.C.NominalVoltage {
		times := math.Abs(float64(l.i[m])) / math.Max(a.Model.Normal[m], 1e-6)
		return 0.04 + 0.75*logistic((times-1.5)/0.3)
	}
	emf := a.theta[a.Net.ParamIndex(a.Net.BatteryStation(), "emf")]
	n := a.C.NominalVoltage / 12
	see := func(v float64) float64 { return logistic((emf - v - 1.6*n) / (0.4 * n)) }
	posts := float64(l.v[a.C.NodeIndex("bat_pos")])
	p := see(posts)
	st := a.C.Paths[0].Stations
	head, tail := a.C.Station(st[0]), a.C.Station(st[len(st)-1])
	clamps := float64(l.v[a.C.NodeIndex(head.To)]) - float64(l.v[a.C.NodeIndex(tail.From)])
	return 0.6*p + 0.4*see(clamps)
}

func (x *observed) byHand(state int, set func(string, float64)) {
	locked, stiff := 0.01, 0.05
	coupled := x.a.C.States[state].Load != "free"
	for k, f := range x.diag {
		l, s := 0.0, 0.0
		switch f.Mode {
		case "seized":
			l, s = 0.88, 0.1
			if coupled && x.a.C.ID == "starter" {
				// The pinion rests out of mesh: the engine turns though the motor
				// is seized.
				l, s = 0.5, 0.1
			}
		case "jammed":
			if coupled {
				l, s = 0.88, 0.1
			}
		case "binding":
			if coupled {
				l, s = 0.05, logistic((x.sev[k]-1.7)/0.35)*0.9
			}
		case "bearing_drag":
			s = logistic((x.sev[k]-4)/1.5) * 0.85
			if coupled {
				s *= 0.4
			}
		case "drag":
			s = 0.7
		}
		locked, stiff = math.Max(locked, l), math.Max(stiff, s)
	}
	if locked+stiff > 0.98 {
		stiff = 0.98 - locked
	}
	set("locked", locked)
	set("stiff", stiff)
	set("free", 1-locked-stiff)
}

// swap says whether it works with a known good part in a station's place.
func (x *observed) swap(state int, set func(string, float64)) {
	others, here := 0, false
	for _, f := range x.diag {
		if f.Station == x.through || x.a.C.Station(f.Station).Within == x.through {
			here = true
		} else {
			others++
		}
	}
	y := 0.03
	switch {
	case len(x.diag) == 0:
		y = 0.1 // it worked before: some call that a yes
	case here && others == 0:
		y = 0.95
	case here:
		y = 0.2 // the other fault keeps it down, mostly
	}
	set("yes", y)
	set("no", 1-y)
}

// trace says what the motor's current shows on a scope, by the likelihoods of the
// commutated-motor simulation. A motor that stands shows nothing.
func (x *observed) trace(l *linear, set func(string, float64)) {
	words := [...]string{trace.Even, trace.WeakBar, trace.Drops, trace.Drags}
	if !l.spin || !l.fed {
		for _, w := range words {
			set(w, 1)
		}
		return
	}
	p := trace.Likelihoods[""]
	for _, f := range x.diag {
		mode := f.Mode
		switch mode {
		case "low_brush_worn", "high_brush_worn":
			mode = "brushes_worn"
		case "binding":
			mode = "bearing_drag"
		}
		// Of two faults, the one that shows more.
		if q, ok := trace.Likelihoods[mode]; ok && q[0] < p[0] {
			p = q
		}
	}
	for i, w := range words {
		set(w, p[i])
	}
}

func (x *observed) rates(set func(string, float64)) {
	base := x.o.Rates["*"]
	var tables []map[string]float64
	for _, f := range x.diag {
		if t, ok := x.o.Rates[f.String()]; ok {
			tables = append(tables, t)
		}
	}
	if len(tables) == 0 {
		for id, v := range base {
			set(id, v)
		}
		return
	}
	for _, t := range tables {
		for id, v := range t {
			set(id, v/float64(len(tables)))
		}
	}
}

// label writes a diagnosis for people.
func (a *Adviser) label(fs []fault.Fault) string {
	if len(fs) == 0 {
		return "nothing wrong"
	}
	s := ""
	for i, f := range fs {
		if i > 0 {
			s += ", and "
		}
		s += a.C.Station(f.Station).Label + ": " + fault.Label(f.Mode)
	}
	return s
}
