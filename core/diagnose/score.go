package diagnose

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/fault"
	"corriente/core/meter"
	"corriente/core/unit"
)

// reading is one numeric piece of evidence made ready for scoring.
type reading struct {
	index   int
	measure unit.Measure
	state   int
	a, b    int // nodes
	station int // through
	acc     meter.Accuracy
	leads   float64 // sigma of the leads
	value   float64
	over    bool
	wa, wb  float64 // warp
	u       float64
	pulled  bool   // ohms of one station pulled for it, not between two nodes
	group   string // readings of one group share a systematic error
	noise   float64
	times   int     // how often it was taken
	charged float64 // volts that something holds the battery at, 0 where nothing does
	when    presence
}

// presence is whether a fault that comes and goes was there when evidence was taken.
type presence uint8

const (
	there  presence = iota
	away            // it was not: the circuit was then a good one
	nobody          // nobody knows
)

// presenceOf says whether a fault was there as a piece of evidence was taken.
func presenceOf(e *casefile.Evidence, intermittent bool) presence {
	switch {
	case e.Symptom == "absent":
		return away
	case e.Symptom == "unknown", e.Symptom == "" && intermittent:
		return nobody
	}
	return there
}

// word is one observation made ready for scoring.
type word struct {
	index   int
	obs     *circuit.Observation
	state   int
	outcome int
	when    presence
	through string    // the station that was swapped
	doubt   float64   // the chance that it is wrong besides what looks are
	bank    []float32 // see wordsOf; nil for what is worked out each time
}

// warp maps an SI value to a scale on which the meter's uncertainty is one unit
// everywhere; from JCGM 100's limit a + b|x|.
func (r *reading) warp(x float64) float64 {
	if r.wb == 0 {
		return x / r.wa
	}
	return math.Copysign(math.Log1p(r.wb*math.Abs(x)/r.wa)/r.wb, x)
}

func (r *reading) unwarp(u float64) float64 {
	if r.wb == 0 {
		return u * r.wa
	}
	return math.Copysign(math.Expm1(r.wb*math.Abs(u))*r.wa/r.wb, u)
}

func (r *reading) slope(x float64) float64 { return 1 / (r.wa + r.wb*math.Abs(x)) }

// prepare turns a checked piece of evidence, or a candidate, into a reading.
func (a *Space) prepare(e *casefile.Evidence, in meter.Instrument, index int) reading {
	acc := in.For(e.Measure)
	r := reading{index: index, measure: e.Measure, state: a.Net.StatePos(e.State), a: a.C.NodeIndex(e.From), b: a.C.NodeIndex(e.To),
		station: a.C.StationIndex(e.Through), acc: *acc, value: e.Reading.Value, over: e.Reading.Over}
	c := acc.Count(r.value)
	r.wa = math.Sqrt(acc.Counts*acc.Counts*c*c/3 + c*c/12)
	r.wb = acc.Percent / 100 / math.Sqrt(3)
	if e.Measure != unit.Resistance && e.Measure != unit.Capacitance {
		r.wb = math.Hypot(r.wb, a.assumed.Reading.Reproduce)
	}
	if e.Leads != "" {
		r.leads = acc.Sigma(e.LeadsR.Value)
		r.wa = math.Hypot(r.wa, r.leads)
	}
	r.u = r.warp(r.value)
	r.noise = a.assumed.Reading.Repeat
	r.group = strings.Join([]string{string(e.Measure), e.State, e.From, e.To, e.Through, e.Instrument, e.Condition}, "|")
	if r.measure == unit.Resistance && r.a < 0 && r.station >= 0 {
		s := &a.C.Stations[r.station]
		r.a, r.b, r.pulled = a.C.NodeIndex(s.From), a.C.NodeIndex(s.To), true
	}
	r.when, r.times = presenceOf(e, false), 1
	return r
}

// predicted is what a cell says a reading would be.
type predicted struct {
	mean  float64 // SI
	j     []float64
	extra float64 // further standard deviation, SI
	raw   []float64
	open  bool // no path: OL on ohms
}

// predict fills p for a reading from a linearised cell. s is used for ohms,
// which are solved on demand.
func (a *Space) predict(p *predicted, r *reading, l *linear, c *cell, theta []float64, sev [2]float64, s *solver) {
	p.j = p.j[:a.q]
	p.extra, p.open = 0, false
	err := &a.assumed.Reading
	switch r.measure {
	case unit.Voltage:
		p.mean = float64(l.v[r.a]) - float64(l.v[r.b])
		ja, jb := l.jv[r.a*a.q:(r.a+1)*a.q], l.jv[r.b*a.q:(r.b+1)*a.q]
		for i := range p.j {
			p.j[i] = float64(ja[i]) - float64(jb[i])
		}
		if l.isle[r.a] != l.isle[r.b] {
			// No path between the probes: what the meter shows depends on
			// leakage nobody knows. It pulls the floating probe towards the other,
			// mostly to within tenths of a volt, now and then not.
			p.mean = 0
			clear(p.j)
			p.extra = math.Hypot(err.Floating, err.FloatingShare*math.Abs(r.value))
		}
		if st := &a.C.States[r.state]; st.Supply == "running" {
			p.extra = math.Hypot(p.extra, err.Idle)
		}
		if l.alt != nil {
			p.extra = math.Hypot(p.extra, err.Chatter*math.Abs(float64(l.alt[r.a])-float64(l.alt[r.b])))
		}
		p.extra = math.Hypot(p.extra, math.Sqrt(a.discrepancy(p, r, l, c)))
		if r.charged > 0 {
			a.charged(p, r, c, theta, sev)
		}
	case unit.Current:
		k := r.station
		p.mean = float64(l.i[k])
		for i, x := range l.ji[k*a.q : (k+1)*a.q] {
			p.j[i] = float64(x)
		}
		if k == a.Net.BatteryStation() {
			// A technician clamps the lead and reads what leaves the battery.
			p.mean = -p.mean
			for i := range p.j {
				p.j[i] = -p.j[i]
			}
		}
		if l.altI != nil {
			p.extra = err.Chatter * float64(l.altI[k])
		}
		p.extra = math.Hypot(p.extra, math.Sqrt(a.discrepancy(p, r, l, c)))
		if r.charged > 0 {
			a.charged(p, r, c, theta, sev)
		}
	case unit.ACVoltage, unit.Capacitance, unit.Frequency:
		a.predictOther(p, r, c, theta, sev, s)
	default:
		a.predictOhms(p, r, c, theta, sev, s)
	}
}

// predictOther is predict for alternating volts and for microfarads: few cells,
// small networks, so the derivatives are differences.
func (a *Space) predictOther(p *predicted, r *reading, c *cell, theta []float64, sev [2]float64, s *solver) {
	clear(p.j)
	at := func(th []float64, sv [2]float64) (float64, bool) {
		a.health(s.h, th, c.diag, sv)
		switch r.measure {
		case unit.Capacitance:
			for k := range a.C.Stations {
				if a.C.Stations[k].Kind == circuit.Capacitor {
					h := &s.h[k]
					if h.Short {
						return 0, false
					}
					if h.Open {
						return 0, true
					}
					return th[a.Net.ParamIndex(k, "capacitance")] * h.Cap, true
				}
			}
			return 0, false
		case unit.Frequency:
			return a.C.Frequency, true
		}
		s.w.Solve(r.state, th, s.h)
		return s.w.ACVolts(r.a, r.b)
	}
	err := &a.assumed.Reading
	v, ok := at(theta, sev)
	if !ok {
		// Nothing joins the probes, or a short: the display shows little.
		p.mean, p.extra = 0, math.Hypot(err.NoFarads*r.acc.Resolution, err.NoFaradsShare*math.Abs(r.value))
		if r.measure == unit.ACVoltage {
			p.extra = math.Hypot(err.NoAC, err.NoACShare*math.Abs(r.value))
		}
		return
	}
	p.mean = v
	if r.measure != unit.Capacitance {
		p.extra = err.Hunts * v
	}
	th := slices.Clone(theta)
	for u, pi := range a.unc {
		const step = 0.05
		if a.isLog[u] {
			th[pi] = theta[pi] * math.Exp(step*a.scale[u])
		} else {
			th[pi] = theta[pi] + step*a.scale[u]
		}
		if x, ok := at(th, sev); ok {
			p.j[u] = (x - v) / step
		}
		th[pi] = theta[pi]
	}
	mix(a, p.j)
	for k, f := range a.diags[c.diag].faults {
		if wd := c.width[k]; wd > 0 {
			sv := sev
			sv[k] = shift(a.Model.ScaleOf(f), sev[k], 0.1*wd)
			if x, ok := at(theta, sv); ok {
				p.j[len(a.unc)+k] = (x - v) / 0.1
			}
		}
	}
}

func (a *Space) predictOhms(p *predicted, r *reading, c *cell, theta []float64, sev [2]float64, s *solver) {
	read := func(w *circuit.Work) (float64, bool) {
		if r.pulled {
			return w.OhmsThrough(r.station)
		}
		return w.Ohms(r.a, r.b)
	}
	w := s.ohmmeter(0, r.state, c, theta, sev)
	clear(p.j)
	ohm, ok := read(w)
	if !ok {
		p.open = true
		return
	}
	p.mean = ohm
	for u, pi := range a.unc {
		d := 0.0
		switch {
		case !r.pulled:
			d = w.DOhms(r.a, r.b, pi)
		case a.Net.Params[pi].Station == r.station && a.Net.Params[pi].Name == "resistance":
			d = 1
		}
		if d == 0 {
			continue
		}
		f := a.scale[u]
		if a.isLog[u] {
			f *= theta[pi]
		}
		p.j[u] = d * f
	}
	mix(a, p.j)
	for k, f := range a.diags[c.diag].faults {
		if wd := c.width[k]; wd > 0 {
			sv := sev
			sv[k] = shift(a.Model.ScaleOf(f), sev[k], 0.1*wd)
			if o2, ok := read(s.ohmmeter(1+k, r.state, c, theta, sv)); ok {
				p.j[len(a.unc)+k] = (o2 - ohm) / 0.1
			}
		}
	}
	// A brushed contact is never twice the same on ohms, a worn one less.
	switch {
	case a.fickle(r, c.diag):
		p.extra = a.assumed.Reading.WornBrushes * ohm
	case a.throughMotor(r):
		p.extra = a.assumed.Reading.Brushes * ohm
	}
}

// fickle reports whether a reading goes through worn brushes.
func (a *Space) fickle(r *reading, diag int) bool {
	if !slices.ContainsFunc(a.diags[diag].faults, func(f fault.Fault) bool {
		return f.Mode == "brushes_worn" || f.Mode == "low_brush_worn" || f.Mode == "high_brush_worn"
	}) {
		return false
	}
	return a.throughMotor(r)
}

// throughMotor reports whether ohms are read through the motor.
func (a *Space) throughMotor(r *reading) bool {
	m := a.Net.MotorStation()
	if m < 0 {
		return false
	}
	if r.pulled {
		return r.station == m
	}
	return a.Net.Between(r.state, r.a, r.b, m)
}

// evidenceSet is the evidence of a job in scoring form, in canonical order, so
// that the order in which it was taken changes nothing.
type evidenceSet struct {
	given []int // uncertain values that were given
	num   []reading
	words []word
	codes map[int][]string
	trust float64
}

// comesWith says of which evidence a fault may have come or gone with the condition it
// was taken under: what was answered in another way under another condition, and all
// that was taken under a condition which changed an answer. Hot and cold, or still and
// wiggled, may differ without contradicting each other.
func (a *Adviser) comesWith(j *Job, from, upto int) func(i int) bool {
	if !slices.ContainsFunc(j.Evidence[from:upto], func(e casefile.Evidence) bool { return e.Condition != "" && !e.Struck }) {
		return func(int) bool { return false }
	}
	type taken struct {
		index int
		r     reading
	}
	asked := map[string][]taken{}
	for i := from; i < upto; i++ {
		e := &j.Evidence[i]
		if e.Struck || e.Outcome == circuit.NotSure {
			continue
		}
		t := taken{index: i}
		if e.Observe == "" {
			t.r = a.prepare(e, casefile.MeterFor(e, j.Instruments), i)
		}
		question := strings.Join([]string{string(e.Measure), e.Observe, e.State, e.From, e.To, e.Through}, "|")
		asked[question] = append(asked[question], t)
	}
	pieces, conditions := map[int]bool{}, map[string]bool{}
	for _, ts := range asked {
		for _, x := range ts {
			for _, y := range ts {
				e, f := &j.Evidence[x.index], &j.Evidence[y.index]
				if e.Condition == f.Condition || e.Outcome == f.Outcome && x.r.over == y.r.over && math.Abs(x.r.u-y.r.u) < a.assumed.Reading.OtherAnswer {
					continue
				}
				pieces[x.index], pieces[y.index] = true, true
				conditions[e.Condition], conditions[f.Condition] = true, true
			}
		}
	}
	delete(conditions, "")
	return func(i int) bool { return pieces[i] || conditions[j.Evidence[i].Condition] }
}

func (a *Adviser) collect(j *Job, from, upto int) evidenceSet {
	var es evidenceSet
	seen := map[string]bool{}
	comes := a.comesWith(j, from, upto)
	held, _ := a.charging(j, from, upto)
	for i := from; i < upto; i++ {
		e := &j.Evidence[i]
		if e.Struck || e.Outcome == circuit.NotSure {
			continue
		}
		at := presenceOf(e, j.Intermittent || comes(i))
		if e.Observe != "" {
			o := a.C.Observation(e.Observe)
			w := word{index: i, obs: o, state: a.Net.StatePos(e.State), when: at, through: e.Through, doubt: e.Doubt()}
			for k := range o.Outcomes {
				if o.Outcomes[k].ID == e.Outcome {
					w.outcome = k
				}
			}
			// The same word again says nothing new.
			state := e.State
			if o.Model == "rates" {
				state = "" // a look at a plug is the same in every state
			}
			key := fmt.Sprintf("%s|%s|%s|%s|%s|%v", e.Observe, state, e.Through, e.Outcome, e.Condition, at)
			if seen[key] {
				continue
			}
			seen[key] = true
			es.words = append(es.words, w)
			continue
		}
		r := a.prepare(e, casefile.MeterFor(e, j.Instruments), i)
		r.when, r.charged = at, held[r.state]
		es.num = append(es.num, r)
	}
	sort.SliceStable(es.num, func(x, y int) bool {
		p, q := &es.num[x], &es.num[y]
		if p.group != q.group {
			return p.group < q.group
		}
		if p.u != q.u {
			return p.u < q.u
		}
		return !p.over && q.over
	})
	es.num = a.condense(es.num)
	es.codes, es.trust, es.given = j.Codes, j.Known.CodesTrust, a.givenOf(j)
	sort.SliceStable(es.words, func(x, y int) bool {
		p, q := &es.words[x], &es.words[y]
		return p.key(a) < q.key(a)
	})
	return es
}

// condense makes one reading of those that were taken with one meter in one place and
// state: they share what the try and the meter err by, so that to repeat one says hardly
// more than once, however often. It stands at their median, and is as wide as they lie
// apart. The readings are sorted by group and value.
func (a *Space) condense(in []reading) []reading {
	out := in[:0]
	for i := 0; i < len(in); {
		k := i + 1
		for k < len(in) && in[k].group == in[i].group && in[k].over == in[i].over && in[k].when == in[i].when && a.near(&in[i], &in[k]) {
			k++
		}
		r := in[i+(k-i)/2]
		if n := k - i; n > 1 && !r.over {
			apart := in[k-1].u - in[i].u
			if n == 2 {
				r.u = (in[i].u + in[k-1].u) / 2
				r.value = r.unwarp(r.u)
			}
			r.noise = math.Hypot(r.noise, apart/4)
		}
		r.times = k - i
		out = append(out, r)
		i = k
	}
	return out
}

// near reports whether two readings of one thing may be two tries at the same fault: a
// contact may show half as much again. Further apart they are two answers.
func (a *Space) near(r, s *reading) bool {
	apart := math.Abs(r.value - s.value)
	return r.over || apart <= a.assumed.Reading.OtherShare*math.Max(math.Abs(r.value), math.Abs(s.value)) || math.Abs(r.u-s.u) < a.assumed.Reading.OtherAnswer
}

// mixed is the chance of a word where the fault may have been away: shown with it,
// good without; shows is the chance that it was there.
func (w *word) mixed(shows, shown, good float64) float64 {
	if w.when == nobody {
		return math.Max(shows*shown, good)
	}
	return good
}

// doubted is the chance of a word whose teller is not sure of it: any outcome might have been
// meant.
func (w *word) doubted(p float64) float64 {
	return p + w.doubt*(1/float64(len(w.obs.Outcomes))-p)
}

func (w *word) key(a *Adviser) string {
	return strings.Join([]string{w.obs.ID, a.C.States[w.state].ID, w.through, w.obs.Outcomes[w.outcome].ID}, "|")
}

// comesAndGoes reports whether a fault may be away for a while.
func comesAndGoes(mode string) bool {
	switch mode {
	case "high_resistance", "open", "stuck_open", "sticking", "brushes_worn", "commutator_damaged", "jammed", "binding", "slipping":
		return true
	}
	return false
}

// scored is a cell after the evidence.
type scored struct {
	cell    int
	logPost float64 // unnormalised: prior + likelihood
	weight  float64
	outlier float64 // share of the likelihood that needs a mistaken reading
	blame   []float64
	theta   []float64 // parameters the evidence moved the cell to; nil: nominal
	sev     [2]float64
	z       []float64 // posterior mean, standard deviations from nominal
	z0      []float64 // where theta lies, standard deviations from nominal
	joint   float64   // logarithm of the density of readings, words and values where theta lies, less its constant
	rvar    []float64 // variance of each reading given the parameters, its own units
	j       [][]float64
	up      *update
	lins    map[int]*linear // states solved at theta already
	slips   map[slipKey]float64
	givens  map[int]misgiven // by uncertain value
}

// chol is a lower Cholesky factor.
type chol struct {
	n int
	l []float64
}

func cholesky(s []float64, n int) (chol, bool) {
	for i := 0; i < n; i++ {
		for j := 0; j <= i; j++ {
			x := s[i*n+j]
			for k := 0; k < j; k++ {
				x -= s[i*n+k] * s[j*n+k]
			}
			if i == j {
				if !(x > 0) {
					return chol{}, false
				}
				s[i*n+i] = math.Sqrt(x)
			} else {
				s[i*n+j] = x / s[j*n+j]
			}
		}
	}
	return chol{n, s}, true
}

func (c chol) forward(b []float64) { c.forwardFrom(b, 0) }

// forwardFrom is forward for a b that is zero before from.
func (c chol) forwardFrom(b []float64, from int) {
	for i := from; i < c.n; i++ {
		x := b[i]
		for k := from; k < i; k++ {
			x -= c.l[i*c.n+k] * b[k]
		}
		b[i] = x / c.l[i*c.n+i]
	}
}

func (c chol) back(b []float64) {
	for i := c.n - 1; i >= 0; i-- {
		x := b[i]
		for k := i + 1; k < c.n; k++ {
			x -= c.l[k*c.n+i] * b[k]
		}
		b[i] = x / c.l[i*c.n+i]
	}
}

// byWeight sorts cells by falling logPost, through an index: a cell is a large
// thing to move about.
func byWeight(all []scored) {
	idx := make([]int, len(all))
	for i := range idx {
		idx[i] = i
	}
	slices.SortStableFunc(idx, func(x, y int) int { return cmp.Compare(all[y].logPost, all[x].logPost) })
	was := slices.Clone(all)
	for i, k := range idx {
		all[i] = was[k]
	}
}

// weigher scores cells against one evidence set.
type weigher struct {
	a     *Adviser
	es    evidenceSet
	s     *solver
	p     predicted
	lins  [][]linear
	prior []float64
	best  float64   // of the cells scored so far
	span  []float64 // width of each reading's scale, for a mistaken one
	alts  [][]alternative
}

func (a *Adviser) newWeigher(es evidenceSet, prior []float64, lins [][]linear) *weigher {
	w := &weigher{best: math.Inf(-1), a: a, es: es, prior: prior, s: a.newSolver(), p: predicted{j: make([]float64, a.q)}, lins: lins}
	for i := range es.num {
		r := &es.num[i]
		top := 1.5 * a.C.NominalVoltage
		switch r.measure {
		case unit.Current:
			top = 1000
		case unit.Resistance:
			top = meter.OhmsOverLimit
		case unit.Capacitance:
			top = 1e-3
		case unit.ACVoltage, unit.Frequency:
			top = 500
		}
		w.span = append(w.span, 2*r.warp(top))
		w.alts = append(w.alts, a.alternatives(r))
	}
	return w
}

// gauss scores the numeric readings of one cell, linearised at (theta, sev)
// with prior offset z0 (standard deviations from nominal).
func (w *weigher) gauss(sc *scored, c *cell, at func(state int) *linear, theta []float64, sev [2]float64, z0 []float64) float64 {
	a := w.a
	var (
		rows [][]float64
		res  []float64
		rdg  []int // in w.es.num
		rvar []float64
		logp float64
	)
	goes := c.diag != 0 && w.goesAway(c.diag)
	nr := len(w.es.num)
	buf := make([]float64, nr*a.q)
	rows, res, rdg, rvar = make([][]float64, 0, nr), make([]float64, 0, nr), make([]int, 0, nr), make([]float64, 0, nr)
	for i := range w.es.num {
		r := &w.es.num[i]
		l := (*linear)(nil)
		if a.C.States[r.state].Powered() {
			l = at(r.state)
		}
		a.predict(&w.p, r, l, c, theta, sev, w.s)
		if goes && r.when != there {
			shown := w.fits(r, i) + math.Log(a.assumed.Prior.Shows)
			good := l
			if l != nil {
				good = &w.lins[r.state][0]
			}
			a.predict(&w.p, r, good, &a.cells[0], a.nominal(&a.cells[0]), [2]float64{}, w.s)
			if r.when == nobody && shown > w.fits(r, i) {
				a.predict(&w.p, r, l, c, theta, sev, w.s)
				logp += math.Log(a.assumed.Prior.Shows)
			}
		}
		if by, whole := w.lineOrOL(r, i, c, sc); whole {
			logp += by
			continue
		}
		m := w.p.mean
		sl := r.slope(m)
		row := buf[len(rows)*a.q : (len(rows)+1)*a.q : (len(rows)+1)*a.q]
		e := r.u - r.warp(m)
		own := w.p.extra*w.p.extra*sl*sl + 1 + r.noise*r.noise
		sc.joint -= against(e*e/own)/2 + math.Log(own)/2
		for k := range row {
			row[k] = w.p.j[k] * sl
			if z0 != nil {
				e += row[k] * z0[k]
			}
		}
		rows, res, rdg = append(rows, row), append(res, e), append(rdg, i)
		rvar = append(rvar, own)
	}
	n := len(res)
	sc.j, sc.z, sc.rvar = rows, make([]float64, a.q), rvar
	for _, z := range z0 {
		sc.joint -= z * z / 2
	}
	sc.joint += logp
	if n == 0 {
		return logp
	}
	up, by, ok := newUpdate(rows, rvar, res, a.q)
	if !ok {
		return math.Inf(-1)
	}
	sc.up = up
	sc.values(by.y)
	tot, mended := w.mistakes(sc, by, rdg, res)
	if mended >= 0 { // the values follow from the others alone
		w.without(sc, mended, res)
	}
	return logp + tot
}

// values is the posterior mean of the values: z = Jᵀ S⁻¹ r.
func (sc *scored) values(y []float64) {
	clear(sc.z)
	for i := range sc.j {
		for k := range sc.z {
			sc.z[k] += sc.j[i][k] * y[i]
		}
	}
}

// mistakes is the evidence of a cell's readings where one of them may be a mistake: each
// left out in turn, from S⁻¹, and put in as what it may have been meant as. mended is the
// one that is likelier a mistake than not, -1 for none.
func (w *weigher) mistakes(sc *scored, by solved, rdg []int, res []float64) (tot float64, mended int) {
	n := len(res)
	base := -0.5*by.quad - 0.5*by.logdet - 0.5*float64(n)*math.Log(2*math.Pi)
	type mistake struct{ i, alternative int }
	terms, of := make([]float64, 1, 6*n+1), make([]mistake, 1, 6*n+1)
	terms[0] = base
	for i, inv := range by.inv {
		r := &w.es.num[rdg[i]]
		// log p(y_i | rest) has variance 1/inv and residual y_i/inv.
		cond := func(d float64) float64 { return -0.5*d*d*inv + 0.5*math.Log(inv) - 0.5*math.Log(2*math.Pi) }
		own := by.y[i] / inv
		rest := base - cond(own)
		// A reading that was taken again is no slip of the pen: each time would have to be one.
		terms, of = append(terms, rest+float64(r.times)*math.Log(w.a.assumed.Reading.Outlier)-math.Log(w.span[rdg[i]])), append(of, mistake{i, -1})
		for k := range w.alts[rdg[i]] {
			x := &w.alts[rdg[i]][k]
			terms, of = append(terms, rest+cond(own+x.u-r.u)+float64(r.times)*x.rate), append(of, mistake{i, k})
		}
	}
	wrongs := len(terms) // from here on the values that were given
	var lie []float64
	for _, u := range w.es.given {
		gain, at := wrong(sc.z[u], sc.variance(u), w.a.assumed.Slip.GivenBy)
		terms, lie = append(terms, base+gain+math.Log(w.a.assumed.Slip.Given)), append(lie, at)
	}
	tot = logSumExp(terms)
	for k := wrongs; k < len(terms); k++ {
		if p := math.Exp(terms[k] - tot); p > 0.01 {
			if sc.givens == nil {
				sc.givens = map[int]misgiven{}
			}
			sc.givens[w.es.given[k-wrongs]] = misgiven{p, lie[k-wrongs]}
		}
	}
	blame := make([]float64, n)
	for k := 1; k < wrongs; k++ {
		p := math.Exp(terms[k] - tot)
		blame[of[k].i] += p
		if of[k].alternative >= 0 && p > 0.01 {
			if sc.slips == nil {
				sc.slips = map[slipKey]float64{}
			}
			sc.slips[slipKey{w.es.num[rdg[of[k].i]].index, of[k].alternative}] += p
		}
	}
	mended = -1
	for i, p := range blame {
		sc.flag(w.es.num[rdg[i]].index, p)
		if p > 0.5 {
			mended = i
		}
	}
	return tot, mended
}

// without puts a cell's values where they lie without one reading.
func (w *weigher) without(sc *scored, out int, res []float64) {
	at := w.a.q
	own := sc.rvar[out]
	sc.joint += against(res[out]*res[out]/own)/2 + math.Log(own)/2
	sc.j, sc.rvar = slices.Delete(slices.Clone(sc.j), out, out+1), slices.Delete(slices.Clone(sc.rvar), out, out+1)
	rest := slices.Delete(slices.Clone(res), out, out+1)
	if len(rest) == 0 {
		sc.up = nil
		return
	}
	if up, by, ok := newUpdate(sc.j, sc.rvar, rest, at); ok {
		sc.up = up
		sc.values(by.y)
	}
}

// lineOrOL scores ohms where the display or the circuit says OL; whole is whether that is
// all there is to score.
func (w *weigher) lineOrOL(r *reading, i int, c *cell, sc *scored) (logp float64, whole bool) {
	if r.measure != unit.Resistance {
		return 0, false
	}
	err := &w.a.assumed.Reading
	fickle := (r.over || w.p.open) && w.a.fickle(r, c.diag)
	switch {
	case r.over && (w.p.open || w.p.mean >= meter.OhmsOverLimit):
		return 0, true
	case r.over && fickle:
		return math.Log(err.WornOL), true
	case r.over:
		sc.flag(r.index, 1)
		return math.Log(err.WrongOL), true
	case !w.p.open:
		return 0, false
	case fickle && r.value > err.DustLeast:
		// Carbon dust bridges worn brushes: anything over some decades.
		return math.Log(err.Dust) - math.Log(r.value*math.Log(err.DustMost/err.DustLeast)*r.slope(r.value)), true
	case r.value < 3*r.acc.Count(r.value):
		return math.Log(err.ZeroForOL), true
	}
	sc.flag(r.index, 1)
	return math.Log(err.WrongOL) - math.Log(w.span[i]), true
}

// fits is how well the circuit as last predicted explains one reading by itself, its
// logarithm: what tells whether a fault was there when nobody knows.
func (w *weigher) fits(r *reading, i int) float64 {
	if r.measure == unit.Resistance {
		open := w.p.open || w.p.mean >= meter.OhmsOverLimit
		switch {
		case r.over && open:
			return 0
		case r.over:
			return math.Log(w.a.assumed.Reading.WrongOL)
		case w.p.open:
			return math.Log(w.a.assumed.Reading.WrongOL) - math.Log(w.span[i])
		}
	}
	sl := r.slope(w.p.mean)
	e := r.u - r.warp(w.p.mean)
	v := w.p.extra*w.p.extra*sl*sl + 1 + r.noise*r.noise
	for _, j := range w.p.j {
		v += j * j * sl * sl
	}
	return -e*e/v/2 - math.Log(v)/2
}

// flag notes that a reading is likely mistaken, with probability p, if this cell
// is the truth.
func (sc *scored) flag(index int, p float64) {
	for len(sc.blame) <= index {
		sc.blame = append(sc.blame, 0)
	}
	sc.blame[index] = math.Max(sc.blame[index], p)
	sc.outlier = math.Min(1, math.Max(sc.outlier, sum(sc.blame)))
}

func sum(x []float64) float64 {
	s := 0.0
	for _, v := range x {
		s += v
	}
	return s
}

func (w *weigher) goesAway(d int) bool {
	for _, f := range w.a.diags[d].faults {
		if !comesAndGoes(f.Mode) {
			return false
		}
	}
	return true
}

func (w *weigher) observe(c *cell, at func(state int) *linear, sev [2]float64, spread func(*linear) float64) float64 {
	logp := 0.0
	goes := c.diag != 0 && w.goesAway(c.diag)
	for i := range w.es.words {
		o := &w.es.words[i]
		x := observed{a: w.a.Space, o: o.obs, through: o.through, c: c, diag: w.a.diags[c.diag].faults, sev: sev, at: at, codes: w.es.codes, trust: w.es.trust, spread: spread}
		said := func() float64 { return o.doubted(x.outcomes(o.state)[o.outcome]) }
		if o.when == there || !goes {
			logp += math.Log(said())
			continue
		}
		shown := said()
		x.c, x.diag, x.sev, x.spread = &w.a.cells[0], nil, [2]float64{}, nil
		x.at = func(st int) *linear { return &w.lins[st][0] }
		logp += math.Log(o.mixed(w.a.assumed.Prior.Shows, shown, said()))
	}
	return logp
}

// observeNominal is observe for a cell at its nominal values, from the banks.
func (w *weigher) observeNominal(k int) float64 {
	c := &w.a.cells[k]
	if slices.ContainsFunc(w.es.words, func(o word) bool { return o.bank == nil }) {
		return w.observe(c, func(st int) *linear { return &w.lins[st][k] }, c.sev, nil)
	}
	logp := 0.0
	goes := c.diag != 0 && w.goesAway(c.diag)
	for i := range w.es.words {
		o := &w.es.words[i]
		said := float64(o.bank[k*len(o.obs.Outcomes)+o.outcome])
		switch {
		case goes && o.when != there:
			good := float64(o.bank[o.outcome])
			said = math.Log(o.mixed(w.a.assumed.Prior.Shows, o.doubted(math.Exp(said)), o.doubted(math.Exp(good))))
		case o.doubt > 0:
			said = math.Log(o.doubted(math.Exp(said)))
		}
		logp += said
	}
	return logp
}

// score weighs one cell at its nominal values.
func (w *weigher) score(k int) scored {
	c := &w.a.cells[k]
	sc := scored{cell: k, sev: c.sev}
	at := func(st int) *linear { return &w.lins[st][k] }
	words := w.observeNominal(k)
	sc.logPost = w.prior[k] + words + w.gauss(&sc, c, at, w.a.nominal(c), c.sev, nil)
	sc.joint += words
	// What is far behind is never looked into again: its slopes need not be kept.
	if w.best = math.Max(w.best, sc.logPost); sc.logPost < w.best-keepWithin {
		sc.j, sc.z, sc.rvar, sc.up = nil, nil, nil, nil
	}
	return sc
}

// keepWithin is how many nats behind the best a cell's slopes are still kept.
const keepWithin = 20

// refine moves a cell to the values that fit its evidence best: damped
// Gauss-Newton on the joint density of readings, words and values, a step kept
// only if that rises and a good machine with those values would still run.
// Without that condition a "good" starter explains a stall by drifting loads.
// The cell's evidence is then that of the circuit linearised there (Laplace's
// method).
func (w *weigher) refine(sc scored) scored {
	a := w.a
	c := &a.cells[sc.cell]
	best := sc
	best.z0 = make([]float64, a.q)
	z := make([]float64, a.q)
	for range refineSteps {
		improved, moved := false, 0.0
		for _, step := range []float64{1, 0.5, 0.2} {
			moved = 0
			for k := range z {
				to := math.Max(-4, math.Min(4, best.z[k]))
				z[k] = best.z0[k] + step*(to-best.z0[k])
				moved = math.Max(moved, math.Abs(z[k]-best.z0[k]))
			}
			if moved < 0.03 {
				break
			}
			theta, sev := a.shifted(c, z)
			if !a.runs(w.s, theta) {
				continue
			}
			lins := map[int]*linear{}
			at := func(st int) *linear {
				if l, ok := lins[st]; ok {
					return l
				}
				l := &linear{}
				w.s.linearize(l, st, c, theta, sev, true)
				lins[st] = l
				return l
			}
			next := scored{cell: sc.cell, theta: theta, sev: sev, lins: lins, z0: slices.Clone(z)}
			numbers := w.gauss(&next, c, at, theta, sev, z)
			words := w.observe(c, at, sev, next.spread)
			next.logPost = w.prior[sc.cell] + words + numbers
			next.joint += words
			if math.IsNaN(next.logPost) || !(next.joint > best.joint) {
				continue
			}
			best, improved = next, true
			break
		}
		if !improved || moved < 0.1 {
			break
		}
	}
	best.logPost -= best.short() * (1 - best.outlier)
	return best
}

// farOff is where a reading speaks no longer by its square against the values it is
// held against: it may be a mistake. Squared units of the meter's uncertainty.
const farOff = 400

// against is what a reading d2 squared units off speaks against a cell's values. It
// goes on rising, slowly, so that a step which brings a far reading nearer is one to
// the better: the steps of two faults start far off.
func against(d2 float64) float64 {
	if d2 <= farOff {
		return d2
	}
	return farOff * (1 + math.Log(d2/farOff))
}

// refineSteps bounds the steps of [weigher.refine]; most cells need two.
const refineSteps = 5

// spread is how far the share of the speed is still uncertain in a state that
// was solved for this cell.
func (c *scored) spread(l *linear) float64 {
	if len(l.dr) == 0 {
		return l.rsd
	}
	_, v := c.project(l.dr)
	return math.Sqrt(v)
}

// short is what it costs a cell that the values which would explain its readings
// by the slopes where it stands are not to be had, because the circuit bends or
// a good machine with them would not run: half the squared distance between the
// two, in posterior standard deviations.
func (c *scored) short() float64 {
	d2 := 0.0
	for k, z := range c.z {
		d2 += (z - c.z0[k]) * (z - c.z0[k])
	}
	for i, row := range c.j {
		x := 0.0
		for k := range row {
			x += row[k] * (c.z[k] - c.z0[k])
		}
		d2 += x * x / c.rvar[i]
	}
	return d2 / 2
}

// shifted returns the parameters and severities z standard deviations away.
func (a *Space) shifted(c *cell, z []float64) ([]float64, [2]float64) {
	theta := slices.Clone(a.nominal(c))
	moved := z
	if len(a.alike) > 0 {
		moved = slices.Clone(z)
		mix(a, moved)
	}
	for u, p := range a.unc {
		if a.isLog[u] {
			theta[p] *= math.Exp(moved[u] * a.scale[u])
		} else {
			theta[p] = math.Max(theta[p]+moved[u]*a.scale[u], 0)
		}
	}
	sev := c.sev
	for k, f := range a.diags[c.diag].faults {
		sev[k] = shift(a.Model.ScaleOf(f), c.sev[k], z[len(a.unc)+k]*c.width[k])
	}
	return theta, sev
}

// runs reports whether a good machine with these values would still do its
// work.
func (a *Space) runs(s *solver, theta []float64) bool {
	if a.Net.MotorStation() < 0 {
		return true
	}
	s.w.PullIn = 0
	for _, st := range a.asked {
		s.w.Solve(st, theta, s.good)
		if s.w.Chatter || a.moves[st] && s.w.Motor.W < a.assumed.Prior.Runs*a.spin[st] {
			return false
		}
	}
	return true
}

func logSumExp(x []float64) float64 {
	m := math.Inf(-1)
	for _, v := range x {
		m = math.Max(m, v)
	}
	if math.IsInf(m, -1) {
		return m
	}
	s := 0.0
	for _, v := range x {
		s += math.Exp(v - m)
	}
	return m + math.Log(s)
}

// posterior is every cell that still matters.
type posterior struct {
	a       *Adviser
	cells   []scored // by falling weight, what hardly counts left out
	all     []scored
	diag    []float64
	class   []float64
	outlier float64
	blame   []float64
	slips   map[slipKey]float64 // probability that a reading is an alternative's slip
	givens  map[int]misgiven    // and that a given value is wrong
	logZ    float64
}

// states lists the states that an evidence set touches.
func (es *evidenceSet) states(a *Adviser) []int {
	var out []int
	for i := range es.num {
		out = append(out, es.num[i].state)
	}
	for i := range es.words {
		out = append(out, a.needs(es.words[i].obs, es.words[i].state)...)
		out = append(out, es.words[i].state)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// hopeless is how far, in nats, a cell may at most be behind the best one and still be
// weighed: all that are left out together weigh less than 1e-9.
const hopeless = 30

// moreAtMost is by how much a further reading can raise a cell's density at most, nats: a
// repeat on the same meter in the same place may vary by a fifth of its unit only, so that
// its density is 1/√(2π 0.04) = 2 at most; mistakes add less than a hundredth.
const moreAtMost = 0.75

// firstsKept is how many weighings are remembered for the next reading.
const firstsKept = 48

// atMost is the most that each cell's first score can come to for evidence that has one
// piece more than some that was weighed before, nil where none was. Words and readings
// only ever lower a score, but for what repeats bring.
func (a *Adviser) atMost(key string, keys []string, es *evidenceSet) []float64 {
	pieces := len(keys)
	if es.codes != nil {
		pieces-- // the table of codes is no piece of evidence: with another one the words mean something else
	}
	var b strings.Builder
	for skip := range pieces {
		b.Reset()
		b.WriteString(key)
		for i, k := range keys {
			if i != skip {
				b.WriteString(k)
			}
		}
		a.stepsMu.Lock()
		first := a.firsts[b.String()]
		a.stepsMu.Unlock()
		if first == nil {
			continue
		}
		out := make([]float64, len(first))
		for k, x := range first {
			out[k] = float64(x) + moreAtMost + 1e-5*math.Abs(float64(x)) // rounded to 24 bits
		}
		return out
	}
	return nil
}

// keepFirst remembers the first scores of a weighing.
func (a *Adviser) keepFirst(key string, first []float32) {
	a.stepsMu.Lock()
	defer a.stepsMu.Unlock()
	if _, had := a.firsts[key]; !had {
		if len(a.firstOrder) >= firstsKept {
			delete(a.firsts, a.firstOrder[0])
			a.firstOrder = a.firstOrder[1:]
		}
		a.firstOrder = append(a.firstOrder, key)
	}
	a.firsts[key] = first
}

// weigh scores all cells and refines those that matter; key names the prior.
func (a *Adviser) weigh(ctx context.Context, es evidenceSet, prior []float64, key string, refine int) (*posterior, error) {
	if len(es.codes) == 0 {
		for i := range es.words {
			if es.words[i].obs.Model == "swap" {
				continue
			}
			es.words[i].bank = a.wordsOf(es.words[i].obs, es.words[i].state)
		}
	}
	lins := make([][]linear, len(a.C.States))
	for _, st := range es.states(a) {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		lins[st] = a.bank(st)
	}
	all := make([]scored, len(a.cells))
	run := func(f func(w *weigher, k int), n int) {
		share(n, func(from, step int) {
			w := a.newWeigher(es, prior, lins)
			for k := from; k < n && ctx.Err() == nil; k += step {
				f(w, k)
			}
		})
	}
	// Most cells were hopeless before the last reading and still are: what they could be worth
	// at most is known, and only the others are weighed.
	keys := es.keys()
	most := a.atMost(key, keys, &es)
	pass := func(hopeless float64) {
		var todo []int
		for k := range all {
			if all[k].cell < 0 && (most == nil || most[k] > hopeless) {
				todo = append(todo, k)
			}
		}
		run(func(w *weigher, i int) { all[todo[i]] = w.score(todo[i]) }, len(todo))
	}
	for k := range all {
		all[k].cell = -1
	}
	if most != nil {
		pass(slices.Max(most) - 12)
		best := math.Inf(-1)
		for k := range all {
			if all[k].cell >= 0 {
				best = math.Max(best, all[k].logPost)
			}
		}
		pass(best - hopeless)
	} else {
		pass(math.Inf(-1))
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	first := make([]float32, len(all))
	for k := range all {
		if all[k].cell < 0 {
			all[k] = scored{cell: k, logPost: most[k], sev: a.cells[k].sev}
		}
		first[k] = float32(all[k].logPost)
	}
	a.keepFirst(key+strings.Join(keys, ""), first)
	byWeight(all)
	if len(es.num) > 0 {
		run(func(w *weigher, k int) { all[k] = w.refine(all[k]) }, worthRefining(all, refine))
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	p := &posterior{a: a, diag: make([]float64, len(a.diags)), class: make([]float64, len(a.classes))}
	lp := make([]float64, len(all))
	for i := range all {
		lp[i] = all[i].logPost
	}
	p.logZ = logSumExp(lp)
	if math.IsInf(p.logZ, 0) || math.IsNaN(p.logZ) {
		return nil, fmt.Errorf("the evidence cannot be weighed: it fits no diagnosis at all")
	}
	for i := range all {
		sc := &all[i]
		sc.weight = math.Exp(sc.logPost - p.logZ)
		d := a.cells[sc.cell].diag
		p.diag[d] += sc.weight
		p.class[a.diags[d].class] += sc.weight
		p.outlier += sc.weight * sc.outlier
		p.gather(sc)
	}
	byWeight(all)
	keep := len(all)
	for keep > 1 && all[keep-1].weight < 1e-5 {
		keep--
	}
	p.cells, p.all = all[:keep], all
	return p, nil
}

// gather adds what a cell says of mistakes, by its weight.
func (p *posterior) gather(sc *scored) {
	for u, g := range sc.givens {
		if p.givens == nil {
			p.givens = map[int]misgiven{}
		}
		x := p.givens[u]
		p.givens[u] = misgiven{x.p + sc.weight*g.p, x.at + sc.weight*g.p*g.at}
	}
	for k, x := range sc.slips {
		if p.slips == nil {
			p.slips = map[slipKey]float64{}
		}
		p.slips[k] += sc.weight * x
	}
	for k, b := range sc.blame {
		for len(p.blame) <= k {
			p.blame = append(p.blame, 0)
		}
		p.blame[k] += sc.weight * b
	}
}

// worthRefining is how many of the cells, sorted by falling weight, are moved to the values
// that fit their evidence best: most of them at most, and none that is far behind.
func worthRefining(all []scored, most int) int {
	n := min(most, len(all))
	for n > 0 && all[n-1].logPost < all[0].logPost-14 {
		n--
	}
	return n
}

// stations returns the marginal probability of each station, and of nothing
// wrong.
func (p *posterior) stations() (map[string]float64, float64) {
	out := map[string]float64{}
	none := 0.0
	for d, w := range p.diag {
		fs := p.a.diags[d].faults
		if len(fs) == 0 {
			none += w
		}
		for _, f := range fs {
			out[f.Station] += w
		}
	}
	return out, none
}
