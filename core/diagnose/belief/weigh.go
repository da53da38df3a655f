package belief

import (
	"cmp"
	"context"
	"errors"
	"math"
	"slices"
	"strings"

	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/gauss"
	"corriente/core/diagnose/readings"
	"corriente/core/diagnose/words"
	"corriente/core/meter"
	"corriente/core/unit"
)

// Scored is a cell after the evidence.
type Scored struct {
	Cell    int
	LogPost float64 // unnormalised: prior + likelihood
	Weight  float64
	outlier float64 // share of the likelihood that needs a mistaken reading
	blame   []float64
	Theta   []float64 // parameters the evidence moved the cell to; nil: nominal
	Sev     [2]float64
	z       []float64 // posterior mean, standard deviations from nominal
	Z0      []float64 // where theta lies, standard deviations from nominal
	joint   float64   // logarithm of the density of readings, words and values where theta lies, less its constant
	rvar    []float64 // variance of each reading given the parameters, its own units
	slopes  [][]float64
	up      *gauss.Update
	Lins    map[int]*cells.Solved // states solved at theta already
	slips   map[slipKey]float64
	givens  map[int]misgiven // by uncertain value
}

// AtNominal is a cell that no evidence has moved.
func AtNominal(a *cells.Space, cell int) *Scored {
	at := a.AtNominal(cell)
	return &Scored{Cell: cell, Sev: at.Sev, Theta: at.Theta}
}

// At is where the evidence has put the cell.
func (sc *Scored) At(a *cells.Space) cells.Point {
	at := a.AtNominal(sc.Cell)
	at.Sev = sc.Sev
	if sc.Theta != nil {
		at.Theta = sc.Theta
	}
	return at
}

// byWeight sorts cells by falling logPost, through an index: a cell is a large
// thing to move about.
func byWeight(all []Scored) {
	idx := make([]int, len(all))
	for i := range idx {
		idx[i] = i
	}
	slices.SortStableFunc(idx, func(x, y int) int { return cmp.Compare(all[y].LogPost, all[x].LogPost) })
	was := slices.Clone(all)
	for i, k := range idx {
		all[i] = was[k]
	}
}

// weigher scores cells against one evidence set.
type weigher struct {
	a     *Reasoner
	es    EvidenceSet
	s     *cells.Solver
	p     readings.Predicted
	prior []float64
	best  float64   // of the cells scored so far
	span  []float64 // width of each reading's scale, for a mistaken one
	alts  [][]readings.Alternative
}

func (a *Reasoner) newWeigher(es EvidenceSet, prior []float64) *weigher {
	w := &weigher{best: math.Inf(-1), a: a, es: es, prior: prior, s: a.NewSolver(),
		p: readings.Predicted{Slopes: make([]float64, a.Values)}}
	for i := range es.Num {
		r := &es.Num[i]
		top := 1.5 * a.C.NominalVoltage
		switch r.Measure {
		case unit.Current:
			top = 1000
		case unit.Resistance:
			top = meter.OhmsOverLimit
		case unit.Capacitance:
			top = 1e-3
		case unit.ACVoltage, unit.Frequency:
			top = 500
		}
		w.span = append(w.span, 2*r.Warp(top))
		w.alts = append(w.alts, readings.Alternatives(a.Space, r))
	}
	return w
}

// solvedCell is a cell at a point, solved in the states that are asked for.
type solvedCell struct {
	at    cells.Point
	state func(state int) *cells.Solved
	ways  []*solvedCell // the same otherwise, where a driver wavers from try to try
}

// gauss scores the numeric readings of one cell, linearised at a point with prior offset z0
// (standard deviations from nominal).
func (w *weigher) gauss(sc *Scored, in *solvedCell, z0 []float64) float64 {
	a, c := w.a, in.at.Cell
	var (
		rows [][]float64
		res  []float64
		rdg  []int // in w.es.num
		rvar []float64
		logp float64
	)
	var known [readings.Leaky + 1]bool // of what the machine's open wires do
	goes := c.Diagnosis != 0 && w.goesAway(c.Diagnosis)
	nr := len(w.es.Num)
	buf := make([]float64, nr*a.Values)
	rows, res, rdg, rvar = make([][]float64, 0, nr), make([]float64, 0, nr), make([]int, 0, nr), make([]float64, 0, nr)
	for i := range w.es.Num {
		r, l := &w.es.Num[i], (*cells.Solved)(nil)
		if a.C.States[r.State].Powered() {
			l = in.state(r.State)
		}
		readings.Predict(w.s, &w.p, r, l, in.at)
		if len(in.ways) > 0 && l != nil {
			logp += w.thisTry(r, i, l, in)
		}
		if goes && r.When != readings.Present {
			shown := w.fits(r, i) + math.Log(a.Assumed.Prior.Shows)
			good := l
			if l != nil {
				good = a.Bank(r.State).At(w.s, 0)
			}
			readings.Predict(w.s, &w.p, r, good, a.AtNominal(0))
			if r.When == readings.Unknown && shown > w.fits(r, i) {
				readings.Predict(w.s, &w.p, r, l, in.at)
				logp += math.Log(a.Assumed.Prior.Shows)
			}
		}
		logp += w.openWires(&known)
		if by, whole := w.lineOrOL(r, i, c, sc); whole {
			logp += by
			continue
		}
		m := w.p.Mean
		sl := r.SlopeAt(m)
		row := buf[len(rows)*a.Values : (len(rows)+1)*a.Values : (len(rows)+1)*a.Values]
		e := r.U - r.Warp(m)
		own := w.p.Extra*w.p.Extra*sl*sl + 1 + r.Noise*r.Noise
		sc.joint -= against(e*e/own)/2 + math.Log(own)/2
		for k := range row {
			row[k] = w.p.Slopes[k] * sl
			if z0 != nil {
				e += row[k] * z0[k]
			}
		}
		rows, res, rdg = append(rows, row), append(res, e), append(rdg, i)
		rvar = append(rvar, own)
	}
	n := len(res)
	sc.slopes, sc.z, sc.rvar = rows, make([]float64, a.Values), rvar
	for _, z := range z0 {
		sc.joint -= z * z / 2
	}
	sc.joint += logp
	if n == 0 {
		return logp
	}
	up, by, ok := gauss.NewUpdate(rows, rvar, res, a.Values)
	if !ok {
		return math.Inf(-1)
	}
	sc.up = up
	sc.values(by.Y)
	tot, mended := w.mistakes(sc, by, rdg, res)
	if mended >= 0 { // the values follow from the others alone
		w.without(sc, mended, res)
	}
	return logp + tot
}

// openWires is the logarithm of the chance that a machine's open wires are quiet, or that something leaks to
// them, as the last prediction takes them: what is known of them already counts no more.
func (w *weigher) openWires(known *[readings.Leaky + 1]bool) float64 {
	f, quiet := w.p.Floats, w.a.Assumed.Reading.FloatingQuiet
	switch {
	case f == readings.Joined || known[f]:
		return 0
	case f == readings.Leaky:
		quiet = 1 - quiet
	}
	known[f] = true
	return math.Log(quiet)
}

// thisTry leaves the prediction of a driver that wavers as it fits the reading best: it carries the
// current, is off, or limits it. It returns the logarithm of the chance of that.
func (w *weigher) thisTry(r *readings.Reading, i int, l *cells.Solved, in *solvedCell) float64 {
	best, fit := in, w.fits(r, i)
	for _, way := range in.ways {
		readings.Predict(w.s, &w.p, r, way.state(r.State), way.at)
		if f := w.fits(r, i); f > fit {
			best, fit, l = way, f, way.state(r.State)
		}
	}
	readings.Predict(w.s, &w.p, r, l, best.at)
	return -math.Log(float64(1 + len(in.ways)))
}

// values is the posterior mean of the values: z = Jᵀ S⁻¹ r.
func (sc *Scored) values(y []float64) {
	clear(sc.z)
	for i := range sc.slopes {
		for k := range sc.z {
			sc.z[k] += sc.slopes[i][k] * y[i]
		}
	}
}

// mistakes is the evidence of a cell's readings where one of them may be a mistake: each
// left out in turn, from S⁻¹, and put in as what it may have been meant as. mended is the
// one that is likelier a mistake than not, -1 for none.
func (w *weigher) mistakes(sc *Scored, by gauss.Solution, rdg []int, res []float64) (tot float64, mended int) {
	n := len(res)
	base := -0.5*by.Quad - 0.5*by.Logdet - 0.5*float64(n)*math.Log(2*math.Pi)
	type mistake struct{ i, alternative int }
	terms, of := make([]float64, 1, 6*n+1), make([]mistake, 1, 6*n+1)
	terms[0] = base
	for i, inv := range by.Inv {
		r := &w.es.Num[rdg[i]]
		// log p(y_i | rest) has variance 1/inv and residual y_i/inv.
		cond := func(d float64) float64 { return -0.5*d*d*inv + 0.5*math.Log(inv) - 0.5*math.Log(2*math.Pi) }
		own := by.Y[i] / inv
		rest := base - cond(own)
		// A reading that was taken again is no slip of the pen: each time would have to be one.
		terms, of = append(terms, rest+float64(r.Times)*math.Log(w.a.Assumed.Reading.Outlier)-math.Log(w.span[rdg[i]])),
			append(of, mistake{i, -1})
		for k := range w.alts[rdg[i]] {
			x := &w.alts[rdg[i]][k]
			terms, of = append(terms, rest+cond(own+x.U-r.U)+float64(r.Times)*x.Rate), append(of, mistake{i, k})
		}
	}
	wrongs := len(terms) // from here on the values that were given
	var lie []float64
	for _, u := range w.es.given {
		gain, at := wrong(sc.z[u], sc.variance(u), w.a.Assumed.Slip.GivenBy)
		terms, lie = append(terms, base+gain+math.Log(w.a.Assumed.Slip.Given)), append(lie, at)
	}
	tot = gauss.LogSumExp(terms)
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
			sc.slips[slipKey{w.es.Num[rdg[of[k].i]].Index, of[k].alternative}] += p
		}
	}
	mended = -1
	for i, p := range blame {
		sc.flag(w.es.Num[rdg[i]].Index, p)
		if p > 0.5 {
			mended = i
		}
	}
	return tot, mended
}

// without puts a cell's values where they lie without one reading.
func (w *weigher) without(sc *Scored, out int, res []float64) {
	at := w.a.Values
	own := sc.rvar[out]
	sc.joint += against(res[out]*res[out]/own)/2 + math.Log(own)/2
	sc.slopes, sc.rvar = slices.Delete(slices.Clone(sc.slopes), out, out+1), slices.Delete(slices.Clone(sc.rvar), out, out+1)
	rest := slices.Delete(slices.Clone(res), out, out+1)
	if len(rest) == 0 {
		sc.up = nil
		return
	}
	if up, by, ok := gauss.NewUpdate(sc.slopes, sc.rvar, rest, at); ok {
		sc.up = up
		sc.values(by.Y)
	}
}

// lineOrOL scores ohms where the display or the circuit says OL; whole is whether that is
// all there is to score.
func (w *weigher) lineOrOL(r *readings.Reading, i int, c *cells.Cell, sc *Scored) (logp float64, whole bool) {
	if r.Measure != unit.Resistance {
		return 0, false
	}
	err := &w.a.Assumed.Reading
	fickle := (r.Over || w.p.Open) && readings.Fickle(w.a.Space, r, c.Diagnosis)
	switch {
	case r.Over && (w.p.Open || w.p.Mean >= meter.OhmsOverLimit):
		return 0, true
	case r.Over && fickle:
		return math.Log(err.WornOL), true
	case r.Over:
		sc.flag(r.Index, 1)
		return math.Log(err.WrongOL), true
	case !w.p.Open:
		return 0, false
	case fickle && r.Value > err.DustLeast:
		// Carbon dust bridges worn brushes: anything over some decades.
		return math.Log(err.Dust) - math.Log(r.Value*math.Log(err.DustMost/err.DustLeast)*r.SlopeAt(r.Value)), true
	case r.Value < 3*r.Acc.Count(r.Value):
		return math.Log(err.ZeroForOL), true
	}
	sc.flag(r.Index, 1)
	return math.Log(err.WrongOL) - math.Log(w.span[i]), true
}

// fits is how well the circuit as last predicted explains one reading by itself, its
// logarithm: what tells whether a fault was there when nobody knows.
func (w *weigher) fits(r *readings.Reading, i int) float64 {
	if r.Measure == unit.Resistance {
		open := w.p.Open || w.p.Mean >= meter.OhmsOverLimit
		switch {
		case r.Over && open:
			return 0
		case r.Over:
			return math.Log(w.a.Assumed.Reading.WrongOL)
		case w.p.Open:
			return math.Log(w.a.Assumed.Reading.WrongOL) - math.Log(w.span[i])
		}
	}
	sl := r.SlopeAt(w.p.Mean)
	e := r.U - r.Warp(w.p.Mean)
	v := w.p.Extra*w.p.Extra*sl*sl + 1 + r.Noise*r.Noise
	for _, j := range w.p.Slopes {
		v += j * j * sl * sl
	}
	return -e*e/v/2 - math.Log(v)/2
}

// flag notes that a reading is likely mistaken, with probability p, if this cell
// is the truth.
func (sc *Scored) flag(index int, p float64) {
	for len(sc.blame) <= index {
		sc.blame = append(sc.blame, 0)
	}
	sc.blame[index] = math.Max(sc.blame[index], p)
	sc.outlier = math.Min(1, math.Max(sc.outlier, gauss.Sum(sc.blame)))
}

func (w *weigher) goesAway(d int) bool {
	for _, f := range w.a.Diags[d].Faults {
		if !comesAndGoes(f.Mode) {
			return false
		}
	}
	return true
}

// observe scores the words of one cell; spread is how far the share of its speed is uncertain, nil
// for as far as before any reading.
func (w *weigher) observe(in *solvedCell, spread func(*cells.Solved) float64) float64 {
	logp, c := 0.0, in.at.Cell
	goes := c.Diagnosis != 0 && w.goesAway(c.Diagnosis)
	for i := range w.es.words {
		o := &w.es.words[i]
		x := words.Observed{Space: w.a.Space, Look: o.obs, Through: o.through, Cell: c,
			Faults: w.a.Diags[c.Diagnosis].Faults, Severity: in.at.Sev, SolvedIn: in.state, Codes: w.es.codes,
			Trust: w.es.trust, Spread: spread}
		said := func() float64 {
			p := o.doubted(x.Outcomes(o.state)[o.outcome])
			if x.Cell != c {
				return p
			}
			for _, way := range in.ways {
				y := x
				y.Cell, y.SolvedIn = way.at.Cell, way.state
				p += o.doubted(y.Outcomes(o.state)[o.outcome])
			}
			return p / float64(1+len(in.ways))
		}
		if o.when == readings.Present || !goes {
			logp += math.Log(said())
			continue
		}
		shown := said()
		x.Cell, x.Faults, x.Severity, x.Spread = &w.a.Cells[0], nil, [2]float64{}, nil
		x.SolvedIn = func(st int) *cells.Solved { return w.a.Bank(st).At(w.s, 0) }
		logp += math.Log(o.mixed(w.a.Assumed.Prior.Shows, shown, said()))
	}
	return logp
}

// observeNominal is observe for a cell at its nominal values, from the banks.
func (w *weigher) observeNominal(k int) float64 {
	c := &w.a.Cells[k]
	if slices.ContainsFunc(w.es.words, func(o word) bool { return o.bank == nil }) {
		return w.observe(w.nominal(k), nil)
	}
	logp := 0.0
	goes := c.Diagnosis != 0 && w.goesAway(c.Diagnosis)
	for i := range w.es.words {
		o := &w.es.words[i]
		said := float64(o.bank[k*len(o.obs.Outcomes)+o.outcome])
		if c.Guarded == cells.Wavers {
			p := math.Exp(said)
			for _, way := range c.Ways {
				p += math.Exp(float64(o.bank[way*len(o.obs.Outcomes)+o.outcome]))
			}
			said = math.Log(p / float64(1+len(c.Ways)))
		}
		switch {
		case goes && o.when != readings.Present:
			good := float64(o.bank[o.outcome])
			said = math.Log(o.mixed(w.a.Assumed.Prior.Shows, o.doubted(math.Exp(said)), o.doubted(math.Exp(good))))
		case o.doubt > 0:
			said = math.Log(o.doubted(math.Exp(said)))
		}
		logp += said
	}
	return logp
}

// nominal is a cell at its nominal values, from the banks.
func (w *weigher) nominal(k int) *solvedCell {
	in := &solvedCell{at: w.a.AtNominal(k), state: func(st int) *cells.Solved { return w.a.Bank(st).At(w.s, k) }}
	if c := &w.a.Cells[k]; c.Guarded == cells.Wavers {
		for _, way := range c.Ways {
			in.ways = append(in.ways, w.nominal(way))
		}
	}
	return in
}

// moved is a cell at other values, solved as it is asked for.
func (w *weigher) moved(at cells.Point, lins map[int]*cells.Solved) *solvedCell {
	in := &solvedCell{at: at, state: func(st int) *cells.Solved {
		if l, ok := lins[st]; ok {
			return l
		}
		l := &cells.Solved{}
		w.s.Linearize(l, st, at)
		lins[st] = l
		return l
	}}
	if at.Guarded == cells.Wavers {
		for _, way := range at.Ways {
			other := at
			other.Cell = &w.a.Cells[way]
			in.ways = append(in.ways, w.moved(other, map[int]*cells.Solved{}))
		}
	}
	return in
}

// score weighs one cell at its nominal values.
func (w *weigher) score(k int) Scored {
	sc := Scored{Cell: k, Sev: w.a.Cells[k].Severity}
	words := w.observeNominal(k)
	sc.LogPost = w.prior[k] + words + w.gauss(&sc, w.nominal(k), nil)
	sc.joint += words
	// What is far behind is never looked into again: its slopes need not be kept.
	if w.best = math.Max(w.best, sc.LogPost); sc.LogPost < w.best-keepWithin {
		sc.slopes, sc.z, sc.rvar, sc.up = nil, nil, nil, nil
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
func (w *weigher) refine(sc Scored) Scored {
	a := w.a
	c := &a.Cells[sc.Cell]
	best := sc
	best.Z0 = make([]float64, a.Values)
	z := make([]float64, a.Values)
	for range refineSteps {
		improved, moved := false, 0.0
		for _, step := range []float64{1, 0.5, 0.2} {
			moved = 0
			for k := range z {
				to := math.Max(-4, math.Min(4, best.z[k]))
				z[k] = best.Z0[k] + step*(to-best.Z0[k])
				moved = math.Max(moved, math.Abs(z[k]-best.Z0[k]))
			}
			if moved < 0.03 {
				break
			}
			at := a.Moved(c, z)
			if !a.Runs(w.s, at.Theta) {
				continue
			}
			next := Scored{Cell: sc.Cell, Theta: at.Theta, Sev: at.Sev, Lins: map[int]*cells.Solved{}, Z0: slices.Clone(z)}
			in := w.moved(at, next.Lins)
			numbers := w.gauss(&next, in, z)
			words := w.observe(in, next.Spread)
			next.LogPost = w.prior[sc.Cell] + words + numbers
			next.joint += words
			if math.IsNaN(next.LogPost) || !(next.joint > best.joint) {
				continue
			}
			best, improved = next, true
			break
		}
		if !improved || moved < 0.1 {
			break
		}
	}
	best.LogPost -= best.short() * (1 - best.outlier)
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

// Spread is how far the share of the speed is still uncertain in a state that
// was solved for this cell.
func (c *Scored) Spread(l *cells.Solved) float64 {
	slopes := l.RatioSlopes()
	if slopes == nil {
		return l.RatioSD
	}
	_, v := c.Project(slopes)
	return math.Sqrt(v)
}

// short is what it costs a cell that the values which would explain its readings
// by the slopes where it stands are not to be had, because the circuit bends or
// a good machine with them would not run: half the squared distance between the
// two, in posterior standard deviations.
func (c *Scored) short() float64 {
	d2 := 0.0
	for k, z := range c.z {
		d2 += (z - c.Z0[k]) * (z - c.Z0[k])
	}
	for i, row := range c.slopes {
		x := 0.0
		for k := range row {
			x += row[k] * (c.z[k] - c.Z0[k])
		}
		d2 += x * x / c.rvar[i]
	}
	return d2 / 2
}

// Posterior is every cell that still matters.
type Posterior struct {
	a       *Reasoner
	Cells   []Scored  // by falling weight, what hardly counts left out
	weights []float64 // of every cell
	Diag    []float64
	class   []float64
	Outlier float64
	Blame   []float64
	slips   map[slipKey]float64 // probability that a reading is an alternative's slip
	givens  map[int]misgiven    // and that a given value is wrong
	LogZ    float64
}

// hopeless is how far, in nats, a cell may at most be behind the best one and still be
// weighed: all that are left out together weigh less than 1e-6,
// so that a job weighed as it grows says the same as one weighed at once.
const hopeless = 24

// moreAtMost is by how much a further reading can raise a cell's density at most, nats: a
// repeat on the same meter in the same place may vary by a fifth of its unit only, so that
// its density is 1/√(2π 0.04) = 2 at most; mistakes add less than a hundredth.
const moreAtMost = 0.75

// firstsKept is how many weighings are remembered for the next reading.
const firstsKept = 48

// atMost is the most that each cell's first score can come to for evidence that has one
// piece more than some that was weighed before, nil where none was. Words and readings
// only ever lower a score, but for what repeats bring.
func (a *Reasoner) atMost(key string, keys []string, es *EvidenceSet) []float64 {
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
func (a *Reasoner) keepFirst(key string, first []float32) {
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

// Weigh scores all cells and refines those that matter; key names the prior.
func (a *Reasoner) Weigh(ctx context.Context, es EvidenceSet, prior []float64, key string, refine int) (*Posterior, error) {
	if len(es.codes) == 0 {
		for i := range es.words {
			if es.words[i].obs.Model != "swap" {
				es.words[i].bank = a.wordsOf(es.words[i].obs, es.words[i].state)
			}
		}
	}
	r := weighing{ctx: ctx, a: a, es: es, prior: prior, all: make([]Scored, len(a.Cells))}
	r.score(key)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	byWeight(r.all)
	if len(es.Num) > 0 {
		r.run(func(w *weigher, k int) { r.all[k] = w.refine(r.all[k]) }, worthRefining(r.all, refine))
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	return a.posterior(r.all)
}

// weighing is one [Reasoner.Weigh] on its way.
type weighing struct {
	ctx   context.Context
	a     *Reasoner
	es    EvidenceSet
	prior []float64
	all   []Scored
}

// run does n pieces of work over the cores, each core with a weigher of its own.
func (r *weighing) run(f func(w *weigher, k int), n int) {
	cells.Share(n, func(from, step int) {
		w := r.a.newWeigher(r.es, r.prior)
		for k := from; k < n && r.ctx.Err() == nil; k += step {
			f(w, k)
		}
	})
}

// score weighs the cells at their nominal values. Most were hopeless before the last reading and
// still are: what they could be worth at most is known, and only the others are weighed.
func (r *weighing) score(key string) {
	keys := r.es.keys()
	most := r.a.atMost(key, keys, &r.es)
	pass := func(hopeless float64) {
		var todo []int
		for k := range r.all {
			if r.all[k].Cell < 0 && (most == nil || most[k] > hopeless) {
				todo = append(todo, k)
			}
		}
		r.run(func(w *weigher, i int) { r.all[todo[i]] = w.score(todo[i]) }, len(todo))
	}
	for k := range r.all {
		r.all[k].Cell = -1
	}
	if most == nil {
		pass(math.Inf(-1))
	} else {
		pass(slices.Max(most) - 12)
		best := math.Inf(-1)
		for k := range r.all {
			if r.all[k].Cell >= 0 {
				best = math.Max(best, r.all[k].LogPost)
			}
		}
		pass(best - hopeless)
	}
	if r.ctx.Err() != nil {
		return
	}
	first := make([]float32, len(r.all))
	for k := range r.all {
		if r.all[k].Cell < 0 {
			r.all[k] = Scored{Cell: k, LogPost: most[k], Sev: r.a.Cells[k].Severity}
		}
		first[k] = float32(r.all[k].LogPost)
	}
	r.a.keepFirst(key+strings.Join(keys, ""), first)
}

// posterior joins what the cells have come to.
func (a *Reasoner) posterior(all []Scored) (*Posterior, error) {
	p := &Posterior{a: a, Diag: make([]float64, len(a.Diags)), class: make([]float64, len(a.Classes)), weights: make([]float64, len(all))}
	lp := make([]float64, len(all))
	for i := range all {
		lp[i] = all[i].LogPost
	}
	p.LogZ = gauss.LogSumExp(lp)
	if math.IsInf(p.LogZ, 0) || math.IsNaN(p.LogZ) {
		return nil, errors.New("the evidence cannot be weighed: it fits no diagnosis at all")
	}
	for i := range all {
		sc := &all[i]
		sc.Weight = math.Exp(sc.LogPost - p.LogZ)
		p.weights[sc.Cell] = sc.Weight
		d := a.Cells[sc.Cell].Diagnosis
		p.Diag[d] += sc.Weight
		p.class[a.Diags[d].Class] += sc.Weight
		p.Outlier += sc.Weight * sc.outlier
		p.gather(sc)
	}
	byWeight(all)
	keep := len(all)
	for keep > 1 && all[keep-1].Weight < 1e-5 {
		keep--
	}
	p.Cells = slices.Clone(all[:keep]) // the others can go
	return p, nil
}

// gather adds what a cell says of mistakes, by its weight.
func (p *Posterior) gather(sc *Scored) {
	for u, g := range sc.givens {
		if p.givens == nil {
			p.givens = map[int]misgiven{}
		}
		x := p.givens[u]
		p.givens[u] = misgiven{x.p + sc.Weight*g.p, x.at + sc.Weight*g.p*g.at}
	}
	for k, x := range sc.slips {
		if p.slips == nil {
			p.slips = map[slipKey]float64{}
		}
		p.slips[k] += sc.Weight * x
	}
	for k, b := range sc.blame {
		for len(p.Blame) <= k {
			p.Blame = append(p.Blame, 0)
		}
		p.Blame[k] += sc.Weight * b
	}
}

// worthRefining is how many of the cells, sorted by falling weight, are moved to the values
// that fit their evidence best: most of them at most, and none that is far behind.
func worthRefining(all []Scored, most int) int {
	n := min(most, len(all))
	for n > 0 && all[n-1].LogPost < all[0].LogPost-14 {
		n--
	}
	return n
}

// Stations returns the marginal probability of each station, and of nothing
// wrong.
func (p *Posterior) Stations() (map[string]float64, float64) {
	out := map[string]float64{}
	none := 0.0
	for d, w := range p.Diag {
		fs := p.a.Diags[d].Faults
		if len(fs) == 0 {
			none += w
		}
		for _, f := range fs {
			out[f.Station] += w
		}
	}
	return out, none
}
