package words

import (
	"math"
	"slices"

	"corriente/core/circuit"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/gauss"
	"corriente/core/fault"
	"corriente/core/trace"
)

// OutcomeOf finds the answer that a canonical word stands for in a look, -1 for none.
func OutcomeOf(o *circuit.Observation, id string) int {
	if w, ok := o.Words[id]; ok {
		id = w
	}
	return slices.IndexFunc(o.Outcomes, func(x circuit.Outcome) bool { return x.ID == id })
}

// Observed is what an answer is worked out from: the cell, and its solved states.
type Observed struct {
	Space    *cells.Space
	Look     *circuit.Observation
	Cell     *cells.Cell
	Faults   []fault.Fault
	Severity [2]float64
	SolvedIn func(state int) *cells.Solved
	// through is the station that was swapped for a known good part.
	Through string
	// codes is a controller's own table of blink codes, code: faults.
	Codes map[int][]string
	Trust float64 // in that table; 0: full
	// spread is how far the share of the speed is uncertain, given the readings;
	// nil: as far as before any.
	Spread func(l *cells.Solved) float64
}

// unsure is the standard deviation of the share of the speed.
func (x *Observed) unsure(l *cells.Solved) float64 {
	if x.Spread != nil {
		return x.Spread(l)
	}
	return l.RatioSD
}

// Needs lists the states that must be solved to answer an observation.
func Needs(a *cells.Space, o *circuit.Observation, state int) []int {
	out := []int{state}
	if o.SolveIn != "" {
		out[0] = a.Net.StatePos(o.SolveIn)
	}
	for _, id := range o.Compare {
		out = append(out, a.Net.StatePos(id))
	}
	return out
}

// Outcomes returns the probability of each answer to an observation under a
// solved cell. Where physics decides, the answer follows from the solution;
// where it does not, from the family's rates. It never returns a zero.
func (x *Observed) Outcomes(state int) []float64 {
	p := make([]float64, len(x.Look.Outcomes))
	set := func(id string, v float64) {
		if i := OutcomeOf(x.Look, id); i >= 0 {
			p[i] += v
		}
	}
	if x.Look.SolveIn != "" {
		state = x.Space.Net.StatePos(x.Look.SolveIn)
	}
	if len(x.Space.C.States[state].Sound) > 0 {
		x.replaced(state)
	}
	l := x.SolvedIn(state)
	if x.Look.Model == "blink_code" {
		x.blink(l, p)
	} else {
		x.answer(state, l, set)
	}
	lapse := x.Space.Assumed.Word.Lapse
	for i := range p {
		p[i] = math.Max(p[i], 0) // of assumptions that do not go together
	}
	t := gauss.Sum(p)
	for i := range p {
		if t <= 0 {
			p[i] = 1 / float64(len(p))
			continue
		}
		p[i] = (1-lapse)*p[i]/t + lapse/float64(len(p))
	}
	return p
}

// answer sets the chance of each answer, not yet adding up to 1, by the model that the
// observation is answered by.
func (x *Observed) answer(state int, l *cells.Solved, set func(id string, chance float64)) {
	yes := func(y float64) {
		set("yes", y)
		set("no", 1-y)
	}
	switch x.Look.Model {
	case "click":
		x.click(l, set)
	case "turning", "speed":
		x.turning(state, l, set)
	case "moves":
		yes(x.driven(state, l))
	case "heard":
		yes(x.heard(l))
	case "noise":
		x.noise(state, l, set)
	case "thump":
		x.thump(l, set)
	case "lamps_dim":
		yes(dim(x.Space, l))
	case "lamp":
		x.lamp(state, l, set)
	case "heat":
		x.heat(state, l, set)
	case "fuse":
		x.fuse(l, set)
	case "differs":
		yes(x.differs())
	case "code_clears":
		yes(x.clears(l))
	case "starts":
		x.starts(l, set)
	case "runs_on":
		y := x.runsOn(state, l)
		set("runs_on", y)
		set("stops", 1-y)
	case "spark":
		x.spark(l, set)
	case "jump":
		yes(x.jump(l))
	case "turn_by_hand":
		x.byHand(state, set)
	case "rates":
		x.Rates(set)
	case "swap":
		yes(x.swap())
	case "trace":
		x.trace(l, set)
	}
}

// clears is the chance that a code is gone once it was cleared.
func (x *Observed) clears(l *cells.Solved) float64 {
	if l.Live && !l.Trip {
		return x.Space.Assumed.Word.Blinks.Clears
	}
	return x.Space.Assumed.Word.Blinks.ClearsFaulty
}

// runsOn is the chance that what a contact guards runs with the guard let go: only where the
// contact is welded, and only if it runs at all.
func (x *Observed) runsOn(state int, l *cells.Solved) float64 {
	if x.weldedShut(x.Look.Of) {
		return x.carried(state, l)
	}
	return x.Space.Assumed.Word.RunsOn
}

// replaced leaves out the faults of stations that a state puts known good parts
// in place of.
func (x *Observed) replaced(state int) {
	diag, sev, n := x.Faults, x.Severity, 0
	x.Faults = nil
	for i, f := range diag {
		if !x.Space.Net.IsSound(state, x.Space.C.StationIndex(f.Station)) {
			x.Faults = append(x.Faults, f)
			if n < 2 && i < 2 {
				x.Severity[n] = sev[i]
			}
			n++
		}
	}
}

func (x *Observed) has(modes ...string) bool {
	for _, f := range x.Faults {
		for _, m := range modes {
			if f.Mode == m {
				return true
			}
		}
	}
	return false
}

// Amps is the current through a station, against what flows there at work in a
// good circuit.
func (x *Observed) Amps(l *cells.Solved, k int) float64 {
	if k < 0 {
		return 0
	}
	return math.Abs(float64(l.I[k])) / math.Max(x.Space.Model.Normal[k], 1e-6)
}

// knows reports whether a latent answer has a word in this look.
func (x *Observed) knows(id string) bool { return OutcomeOf(x.Look, id) >= 0 }

// stalled: current flows through a motor that does not turn.
func (x *Observed) stalled(l *cells.Solved) bool {
	return l.Fed && !l.Spin && x.Amps(l, x.Space.Net.MotorStation()) > x.Space.Assumed.Word.Stalled
}

func (x *Observed) click(l *cells.Solved, set func(string, float64)) {
	a, w := x.Space, &x.Space.Assumed.Word.Click
	if l.Chatters {
		set("chatter", w.Chatter)
		set("single", w.ChatterAsClick)
		set("none", w.ChatterUnheard)
		return
	}
	coil := a.C.StationIndex(x.Look.Of)
	for _, f := range x.Faults {
		if f.Station != x.Look.Of {
			continue
		}
		knock := 0.0
		switch f.Mode {
		case "sticking": // energised but held
			knock = w.Sticking
		case "open": // whatever volts stand across it, no current flows: nothing moves
			knock = w.Open
		default:
			continue
		}
		set("none", 1-knock)
		set("single", knock)
		return
	}
	pull, volts := l.Pull, l.CoilV
	if !drives(a, coil) {
		s := &a.C.Stations[coil]
		volts = math.Abs(float64(l.V[a.C.NodeIndex(s.From)]) - float64(l.V[a.C.NodeIndex(s.To)]))
		pull = volts >= a.Theta[a.Net.ParamIndex(coil, "pull_in")]
		for _, f := range x.Faults {
			if f.Station == x.Look.Of && f.Mode == "open" {
				pull, volts = false, 0
			}
		}
	}
	if pull {
		// A motor that then turns drowns the clunk for some ears.
		none := w.PulledUnheard
		if l.Ratio > w.DrownsFrom {
			none = w.PulledDrowned
		}
		set("single", w.Pulled-none)
		set("none", none)
		set("chatter", w.PulledChatter)
		return
	}
	short := volts / a.Theta[a.Net.ParamIndex(coil, "pull_in")]
	set("none", w.ShortSilent.Of(short))
	set("single", w.ShortClick.Of(short))
	set("chatter", w.ShortChatter.Of(short))
}

// drives reports whether a coil closes a contact.
func drives(a *cells.Space, coil int) bool {
	for k := range a.C.Stations {
		if a.C.Stations[k].ClosedBy == a.C.Stations[coil].ID {
			return true
		}
	}
	return false
}

// driven is the chance that what the motor turns is seen to move.
func (x *Observed) driven(state int, l *cells.Solved) float64 {
	if x.Look.Of != "" && x.weldedShut(x.Look.Of) {
		return x.Space.Assumed.Word.Turns.WeldedHome // it runs on and on: that is not coming home
	}
	return x.carried(state, l)
}

// carried is the chance that what the motor turns is seen to move.
func (x *Observed) carried(state int, l *cells.Solved) float64 {
	w := &x.Space.Assumed.Word.Turns
	switch {
	case x.has("slipping") && x.Space.C.States[state].Load != "free":
		return w.SlipsMoves
	case l.Chatters:
		return w.ChatterMoves
	case !l.Spin || !l.Fed:
		return w.MovesStill
	}
	return w.Moves.Of(l.Ratio)
}

func (x *Observed) weldedShut(station string) bool {
	for _, f := range x.Faults {
		if f.Station == station && f.Mode == "welded" {
			return true
		}
	}
	return false
}

// erratic is the chance that a motor is seen to run by fits and starts.
func (x *Observed) erratic() float64 {
	w := &x.Space.Assumed.Word.Turns
	p := w.Erratic
	for k, f := range x.Faults {
		y := 0.0
		switch f.Mode {
		case "brushes_worn", "low_brush_worn", "high_brush_worn":
			y = w.ErraticBrushes
		case "commutator_damaged":
			y = w.ErraticCommutator
		case "binding":
			y = w.ErraticBinding.Of(x.Severity[k])
		case "jammed":
			y = w.ErraticJammed
		case "high_resistance":
			y = w.ErraticJoint
		}
		p = math.Max(p, y)
	}
	return p
}

func (x *Observed) turning(state int, l *cells.Solved, set func(string, float64)) {
	w, loaded := &x.Space.Assumed.Word.Turns, x.Space.C.States[state].Load != "free"
	switch {
	case l.Chatters:
		set("none", w.ChatterNone)
		set("slow", w.ChatterSlow)
		return
	case !l.Spin || !l.Fed:
		x.stands(l, set)
		return
	case x.has("slipping") && loaded:
		x.slips(set)
		return
	}
	unsure := x.unsure(l)
	normal := w.Normal.Blurred(l.Ratio, unsure)
	// What it turns may hold it at low speed: compression, stiction, weight.
	none := w.Stands.Blurred(l.Ratio, unsure)
	if loaded {
		none = w.StandsLoaded.Blurred(l.Ratio, unsure)
	}
	e := x.erratic()
	rest := (1 - none) * (1 - e)
	little := 0.0
	if x.knows("little") {
		little = w.TwitchSlow.Of(l.Ratio)
	}
	set("none", none)
	set("erratic", (1-none)*e)
	set("little", rest*(1-normal)*little)
	set("slow", rest*(1-normal)*(1-little))
	if !loaded && x.knows(freeSpin(x.Look)) && x.Look.Model == "turning" {
		set(freeSpin(x.Look), rest*normal*w.NormalFree)
		normal *= 1 - w.NormalFree
	}
	set("normal", rest*normal)
}

// stands is what is seen of a motor that stands.
func (x *Observed) stands(l *cells.Solved, set func(string, float64)) {
	w := &x.Space.Assumed.Word.Turns
	e, little := 0.0, w.Twitch
	if x.stalled(l) {
		e = w.ErraticStands * x.erratic()
		if little = w.TwitchHeld; x.has("seized") {
			little = w.TwitchSeized
		}
	}
	if !x.knows("little") {
		little = 0
	}
	set("erratic", e)
	set("little", (1-e)*little)
	set("none", (1-e)*(1-little))
}

// slips is what is seen where the motor turns and what it drives does not.
func (x *Observed) slips(set func(string, float64)) {
	w := &x.Space.Assumed.Word.Turns
	_, named := x.Look.Words["free"]
	if x.Look.Model != "turning" && !named { // only what is driven can be seen
		set("none", w.SlipsNone)
		set("slow", w.SlipsSlow)
		set("erratic", w.SlipsErratic)
		return
	}
	normal := w.SlipsNormal
	if named { // only what is driven is looked at
		normal = w.SlipsNormalNamed
	}
	set(freeSpin(x.Look), w.SlipsFree)
	set("none", 1-w.SlipsFree-normal) // what is driven does not move, and that is what some look at
	set("normal", normal)
}

func freeSpin(o *circuit.Observation) string {
	if _, ok := o.Words["free"]; ok {
		return "free"
	}
	return "free_spin"
}

func (x *Observed) noise(state int, l *cells.Solved, set func(string, float64)) {
	w := &x.Space.Assumed.Word.Noise
	rough, hum, grind := w.Rough, w.Hum, w.Grind
	loaded := x.Space.C.States[state].Load != "free"
	for k, f := range x.Faults {
		if !l.Spin {
			break
		}
		switch f.Mode {
		case "bearing_drag":
			rough = math.Max(rough, w.RoughBearing.Of(x.Severity[k]))
		case "commutator_damaged":
			rough = math.Max(rough, w.RoughCommutator)
		case "brushes_worn":
			rough = math.Max(rough, w.RoughBrushes)
		case "binding":
			if loaded {
				rough, grind = math.Max(rough, w.RoughBinding), w.GrindBinding
			}
		case "slipping":
			if loaded {
				grind = w.GrindSlipping
			}
		}
	}
	if x.stalled(l) {
		hum = w.HumStalled
	}
	if rough+hum+grind > w.Most {
		k := w.Most / (rough + hum + grind)
		rough, hum, grind = rough*k, hum*k, grind*k
	}
	set("rough", rough)
	set("hum", hum)
	set("grind", grind)
	set("none", 1-rough-hum-grind)
}

// heard is whether the motor is heard to run.
func (x *Observed) heard(l *cells.Solved) float64 {
	w := &x.Space.Assumed.Word.Senses
	y := w.RunsStill
	switch {
	case l.Spin && l.Fed: // one that only creeps is not heard as running
		y = w.Runs.Of(l.Ratio)
	case x.stalled(l): // a held motor hums for some ears
		y = w.RunsHeld
	}
	return y
}

// jump is whether a motor that is fed kicks against what holds it.
func (x *Observed) jump(l *cells.Solved) float64 {
	w := &x.Space.Assumed.Word.Senses
	y := w.KicksStill
	switch {
	case l.Fed && l.Spin:
		y = w.Kicks.Of(l.Ratio)
	case x.stalled(l): // held: a short kick at most
		y = w.KicksHeld
	}
	return y
}

// spark is what the last lead draws when it touches.
func (x *Observed) spark(l *cells.Solved, set func(string, float64)) {
	flow := x.Amps(l, x.Space.Net.MotorStation())
	none := x.Space.Assumed.Word.Senses.SparkNone.OfLog(flow)
	strong := (1 - none) * x.Space.Assumed.Word.Senses.SparkStrong.OfLog(flow)
	set("none", none)
	set("strong", strong)
	set("small", 1-none-strong)
}

// thump is the knock of a motor that takes up its play: it needs current.
func (x *Observed) thump(l *cells.Solved, set func(string, float64)) {
	w := &x.Space.Assumed.Word.Senses
	y := w.ThumpStill
	switch {
	case x.stalled(l):
		y = w.ThumpHeld
	case l.Spin:
		y = w.ThumpTurning
	}
	set("single", y)
	set("chatter", w.ThumpChatter)
	set("none", 1-w.ThumpChatter-y)
}

// lamp judges a test lamp by its power.
func (x *Observed) lamp(state int, l *cells.Solved, set func(string, float64)) {
	for _, aid := range x.Space.C.States[state].Aids {
		if aid.Kind != "lamp" {
			continue
		}
		i, j := x.Space.C.NodeIndex(aid.From), x.Space.C.NodeIndex(aid.To)
		v := float64(l.V[i]) - float64(l.V[j])
		full := x.Space.C.NominalVoltage
		share := v * v / (full * full)
		if l.Island[i] != l.Island[j] {
			share = 0
		}
		bright := x.Space.Assumed.Word.Lamps.Bright.OfLog(share)
		dark := x.Space.Assumed.Word.Lamps.Dark.OfLog(share)
		set("bright", bright)
		set("dark", dark*(1-bright))
		set("dim", (1-dark)*(1-bright))
	}
}

// heat judges a joint by the watts turned in it.
func (x *Observed) heat(state int, l *cells.Solved, set func(string, float64)) {
	k := x.Space.C.StationIndex(x.Look.Of)
	i, j := x.Space.Net.Ends(state, k)
	watts := math.Abs(float64(l.I[k]) * (float64(l.V[i]) - float64(l.V[j])))
	y := x.Space.Assumed.Word.Senses.Hot.OfLog(watts)
	set("hot", y)
	set("cool", 1-y)
}

// fuse judges a new fuse by its time-current limits.
func (x *Observed) fuse(l *cells.Solved, set func(string, float64)) {
	k := x.Space.C.StationIndex(x.Look.Of)
	times := math.Abs(float64(l.I[k])) / math.Max(x.Space.Theta[x.Space.Net.ParamIndex(k, "rating")], 1e-3)
	once := x.Space.Assumed.Word.Senses.FuseAtOnce.OfLog(times)
	holds := x.Space.Assumed.Word.Senses.FuseHolds.OfLog(times)
	set("blows_at_once", once)
	set("holds", holds*(1-once))
	set("blows_later", (1-holds)*(1-once))
}

// differs compares the speeds of two states.
func (x *Observed) differs() float64 {
	a, l := x.Space, [2]*cells.Solved{}
	for i, id := range x.Look.Compare {
		l[i] = x.SolvedIn(a.Net.StatePos(id))
	}
	speed := func(i int) float64 {
		if !l[i].Spin || !l[i].Fed {
			return 0
		}
		return l[i].Ratio * a.Spin[a.Net.StatePos(x.Look.Compare[i])]
	}
	lo, hi := speed(0), speed(1)
	w := &a.Assumed.Word.Differs
	y := w.Still
	switch {
	case x.has("slipping"):
		y = w.Slipping
	case hi > 0 && lo > 0:
		y = w.Both.Of(hi / lo)
	case hi > 0 || lo > 0:
		y = w.OneDead
	}
	return y
}

// blink gives the chances of the codes 0 to 20. A table turns a code into faults;
// without one, any code says only that the controller withholds its output.
func (x *Observed) blink(l *cells.Solved, p []float64) {
	if !l.Live {
		p[0] = 1 // no supply, no lamp
		return
	}
	w := &x.Space.Assumed.Word.Blinks
	none := w.None
	switch {
	case l.Trip:
		none = w.NoneTrip
	case x.Cell.Guarded == cells.Trips:
		none = w.NoneSelf
	}
	trust := x.Trust
	switch {
	case len(x.Codes) == 0:
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

func (x *Observed) blinkByTable(l *cells.Solved, none float64, p []float64) {
	w, n := &x.Space.Assumed.Word.Blinks, len(p)
	// Codes that name a fault of this diagnosis.
	named := 0
	match := make([]bool, n)
	for code, fs := range x.Codes {
		if code <= 0 || code >= n {
			continue
		}
		for _, f := range x.Faults {
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
	if named > 0 && !l.Trip {
		some = w.KnowsMore
	}
	p[0] = 1 - some
	for i := 1; i < n; i++ {
		switch {
		case named > 0 && match[i]:
			p[i] = some * w.Named / float64(named)
		case named > 0:
			p[i] = some * (1 - w.Named) / float64(n-1)
		default:
			// A fault the table does not name may flash anything, less often what
			// stands for something else.
			p[i] = some / float64(n-1)
			if len(x.Codes[i]) > 0 {
				p[i] *= w.Foreign
			}
		}
	}
}

// starts says what a capacitor motor does, from its starting torque against the
// good motor's.
func (x *Observed) starts(l *cells.Solved, set func(string, float64)) {
	a, w := x.Space, &x.Space.Assumed.Word.Starts
	run := 0.0
	for k := range a.C.Stations {
		if a.C.Stations[k].ID == "run_winding" {
			run = math.Abs(float64(l.I[k]))
		}
	}
	if run < 1e-3 {
		// No current in the run winding: the start winding alone hums at most.
		set("no_hum", w.NoHum)
		set("hums", 1-w.NoHum)
		return
	}
	if x.has("seized") {
		set("hums", w.HumsHeld)
		set("no_hum", 1-w.HumsHeld)
		return
	}
	held := 0.0
	if x.has("drag") {
		held = w.DragHolds
	}
	starts := w.Normal
	starts.At += held
	ok, pushed := starts.Of(l.Start), w.Pushed-held
	set("normal", ok)
	set("hums_then_runs_when_pushed", (1-ok)*pushed)
	set("hums", (1-ok)*(1-pushed))
}

// dim is the chance that lamps are seen to dim. Headlamps hang on the battery,
// on some machines at its clamps, so both are weighed; a small motor makes them
// dip only while it draws much.
func dim(a *cells.Space, l *cells.Solved) float64 {
	w, m := &a.Assumed.Word.Lamps, a.Net.MotorStation()
	if a.Model.Normal[m] < w.Small*12/a.C.NominalVoltage {
		return w.DimSmall.Of(math.Abs(float64(l.I[m])) / math.Max(a.Model.Normal[m], 1e-6))
	}
	emf := a.Theta[a.Net.ParamIndex(a.Net.BatteryStation(), "emf")]
	see := func(v float64) float64 { return w.Dim.Of((emf - v) * 12 / a.C.NominalVoltage) }
	posts := float64(l.V[a.C.NodeIndex("bat_pos")])
	st := a.C.Paths[0].Stations
	head, tail := a.C.Station(st[0]), a.C.Station(st[len(st)-1])
	clamps := float64(l.V[a.C.NodeIndex(head.To)]) - float64(l.V[a.C.NodeIndex(tail.From)])
	return w.AtPosts*see(posts) + (1-w.AtPosts)*see(clamps)
}

func (x *Observed) byHand(state int, set func(string, float64)) {
	w := &x.Space.Assumed.Word.ByHand
	locked, stiff := w.Locked, w.Stiff
	coupled := x.Space.C.States[state].Load != "free"
	for k, f := range x.Faults {
		l, s := 0.0, 0.0
		switch f.Mode {
		case "seized":
			l, s = w.SeizedLocked, w.SeizedStiff
			if coupled && x.Space.C.ID == "starter" {
				l = w.SeizedStarter
			}
		case "jammed":
			if coupled {
				l, s = w.JammedLocked, w.JammedStiff
			}
		case "binding":
			if coupled {
				l, s = w.BindingLocked, w.BindingStiff.Of(x.Severity[k])
			}
		case "bearing_drag":
			s = w.BearingStiff.Of(x.Severity[k])
			if coupled {
				s *= w.Coupled
			}
		case "drag":
			s = w.Drag
		}
		locked, stiff = math.Max(locked, l), math.Max(stiff, s)
	}
	stiff = math.Min(stiff, w.Most-locked)
	set("locked", locked)
	set("stiff", stiff)
	set("free", 1-locked-stiff)
}

// swap says whether it works with a known good part in a station's place.
func (x *Observed) swap() float64 {
	others, here := 0, false
	for _, f := range x.Faults {
		if f.Station == x.Through || x.Space.C.Station(f.Station).Within == x.Through {
			here = true
		} else {
			others++
		}
	}
	w := &x.Space.Assumed.Word.Swap
	y := w.Other
	switch {
	case len(x.Faults) == 0:
		y = w.NoneHere
	case here && others == 0:
		y = w.Cures
	case here: // the other fault keeps it down, mostly
		y = w.Both
	}
	return y
}

// trace says what the motor's current shows on a scope, by the likelihoods of the
// commutated-motor simulation. A motor that stands shows nothing.
func (x *Observed) trace(l *cells.Solved, set func(string, float64)) {
	words := [...]string{trace.Even, trace.WeakBar, trace.Drops, trace.Drags}
	if !l.Spin || !l.Fed {
		for _, w := range words {
			set(w, 1)
		}
		return
	}
	p := trace.Likelihoods[""]
	for _, f := range x.Faults {
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

// Rates sets the chance of each answer by the family's own rates.
func (x *Observed) Rates(set func(string, float64)) {
	base := x.Look.Rates["*"]
	var tables []map[string]float64
	for _, f := range x.Faults {
		if t, ok := x.Look.Rates[f.String()]; ok {
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
