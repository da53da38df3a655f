package trace

import (
	"cmp"
	"math"
	"math/cmplx"
	"slices"

	"gonum.org/v1/gonum/dsp/fourier"
)

// answer is what a search comes to.
type answer struct {
	*turning
	band       *band
	bars       int     // 0: not known
	confidence float64 // 0..1
	chopHz     float64 // of a module that switches the current; 0: none seen
}

// What a person can do where nothing can be told.
var (
	noLine = Reason{"no_line", "No commutation ripple stands out of the noise: sample faster and longer, or use a " +
		"clamp with more bandwidth."}
	alike    = Reason{"alike", "All humps are alike, so nothing in the trace marks a revolution: give the number of bars."}
	chopping = Reason{"chopping", "The current is switched many times a second, and that hides the ripple: bridge " +
		"the module, or measure at full speed."}
	twoLines = Reason{"two_periods", "Two patterns run through this trace that have nothing to do with each other, " +
		"and nothing says which is the motor's: switch off what else draws current, and record again."}
	tooFast = Reason{"too_fast", "The only pattern in this trace would be a motor of over 25,000 rpm or 6.5 kHz of " +
		"humps: that is no commutation."}
	fewTurns = Reason{"few_turns", "There are too few turns in this trace to tell what repeats with them: record longer."}
	fewDots  = Reason{"few_samples", "There are too few samples to a hump to tell one from the next: sample faster."}
	unsure   = Reason{"unsure", "Lines run through this trace, but none that marks a revolution for certain: record " +
		"longer and faster, or give the number of bars."}
)

// pattern is a folded revolution, or a part of one.
type pattern struct {
	even, odd []float64 // the mean of the even and of the odd turns, without humps, drag and deep dips
	all       *pattern  // with the dips
	sharp     []float64 // powers of the wave without its deepest dips, for counting humps
	weight    float64   // 0..1: how far the pattern stands out of noise
}

// Places of a pattern, and how many of its orders are looked at where the humps are not clear.
const (
	patternPlaces = 512
	patternOrders = 14
)

// pattern folds every other turn apart: what both show is no noise.
func (b *band) pattern(h *turning, brushes int) *pattern {
	p := &pattern{sharp: orders(clipped(h.wave), 3*mostHumps+8)}
	even, odd := b.everyOther(h, patternPlaces)
	if even == nil {
		return p
	}
	row, most := 0, patternOrders
	if h.clear > 1.5 {
		if row = h.humps; brushes > 2 && row%brushes == 0 {
			row /= brushes
		}
		most = max(6, row*6/10)
	}
	p.all = &pattern{even: slow(even, row, most), odd: slow(odd, row, most)}
	fillDips(even, odd, row)
	p.even, p.odd = slow(even, row, most), slow(odd, row, most)
	all, lines := spread(p.even, p.odd)
	// Where the dips hold nearly all, the rest is what filling them has left.
	rest := math.Max(0, p.lag(0)) / (math.Abs(p.all.lag(0)) + 1e-300)
	p.weight = math.Max(0, math.Min(1, (all-0.2)/0.5)) * math.Max(0, math.Min(1, (lines-1)/3)) * math.Min(1, rest/restShare)
	return p
}

// restShare is which share of a pattern must be besides its deepest dips to say something.
const restShare = 0.05

// slow keeps the orders of a folded turn from the second to so many, but for multiples of row.
func slow(wave []float64, row, most int) []float64 {
	fft := fourier.NewFFT(len(wave))
	c := fft.Coefficients(nil, wave)
	for n := range c {
		if n < 2 || n > most || row > 0 && n%row == 0 {
			c[n] = 0
		}
		c[n] /= complex(float64(len(wave)), 0)
	}
	return fft.Sequence(nil, c)
}

// fillDips takes out of two folded turns what falls far out of a row of humps: the dip of a weak
// bar, that one brush may show and another not.
func fillDips(even, odd []float64, row int) {
	n := len(even)
	if row == 0 {
		row = 24
	}
	half := max(1, n/row/2)
	both := make([]float64, n)
	for i := range both {
		for k := -half; k <= half; k++ {
			both[i] += even[(i+k+n)%n] + odd[(i+k+n)%n]
		}
	}
	mid := middle(both)
	off := make([]float64, n)
	for i, v := range both {
		off[i] = math.Abs(v - mid)
	}
	limit := 4 * middle(off)
	a, b := middle(even), middle(odd)
	for i, v := range off {
		if v > limit {
			for k := -half; k <= half; k++ {
				even[(i+k+n)%n], odd[(i+k+n)%n] = a, b
			}
		}
	}
}

// spread is which share of two folded turns both have in common, -1 to 1, and over how many
// lines it is spread.
func spread(even, odd []float64) (common, lines float64) {
	fft := fourier.NewFFT(len(even))
	x, y := fft.Coefficients(nil, even), fft.Coefficients(nil, odd)
	both, xx, yy, squares := 0.0, 0.0, 0.0, 0.0
	for n := range x {
		v := real(x[n] * cmplx.Conj(y[n]))
		both += v
		squares += v * v
		xx += real(x[n] * cmplx.Conj(x[n]))
		yy += real(y[n] * cmplx.Conj(y[n]))
	}
	return both / (math.Sqrt(xx*yy) + 1e-300), both * both / (squares + 1e-300)
}

// everyOther are the mean of the even turns of a pattern and that of the odd ones; nil where
// there are not two of each.
func (b *band) everyOther(h *turning, places int) (even, odd []float64) {
	if h.revs() < 4 {
		return nil, nil
	}
	wave, _ := b.fold(h.ks, 2*h.cycles, 2*places)
	if wave == nil {
		return nil, nil
	}
	return wave[:places], wave[places:]
}

// share is the part of a pattern's power that its m-th parts have alike, 0..1.
func (p *pattern) share(m int) float64 {
	n := len(p.even)
	like := 0.0
	own := p.lag(0)
	if own <= 0 {
		return 0
	}
	for k := range m {
		like += p.lag(k*n/m) / (own * float64(m))
	}
	return math.Max(0, math.Min(1, like))
}

// lag is the product of a pattern with itself turned by so many places.
func (p *pattern) lag(by int) float64 {
	n := len(p.even)
	sum := 0.0
	for i := range n {
		k := (i + by) % n
		sum += p.even[i]*p.odd[k] + p.odd[i]*p.even[k]
	}
	return sum
}

// How alike the parts of a revolution are at least, how alike parts are that are none at most,
// and what a tenth less or more costs, in nepers.
const (
	likeParts  = 0.9
	otherParts = 0.6
	partsCost  = 0.75
	mostCost   = 3
)

// falls is how ill a pattern falls into so many like parts and no more, in nepers: every coil
// passes one brush after the other, so that a revolution has as many as brushes.
func (p *pattern) falls(parts int) float64 {
	if p.weight == 0 {
		return 0
	}
	cost := 0.0
	if parts > 1 {
		cost = math.Max(0, likeParts-math.Max(p.share(parts), p.all.share(parts)))
	}
	cost += math.Max(0, math.Min(p.share(2*parts), p.all.share(2*parts))-otherParts)
	return p.weight * math.Min(mostCost, partsCost*10*cost)
}

// alternate is by how many standard deviations every other turn of a pattern differs from the
// ones between, the same way through the trace: such a pattern is half of one.
func (b *band) alternate(h *turning) float64 {
	twice := *h
	twice.cycles *= 2
	even, odd := b.everyOther(&twice, patternPlaces)
	if even == nil {
		return 0
	}
	fft := fourier.NewFFT(len(even))
	x, y := fft.Coefficients(nil, even), fft.Coefficients(nil, odd)
	sum, noise, squares := 0.0, 0.0, 0.0
	for n := 3; n < min(len(x)-1, 2*mostHumps); n += 2 { // the odd orders; the first is drag's
		z := x[n] * cmplx.Conj(y[n])
		sum += real(z)
		squares += real(z) * real(z)
		noise += imag(z) * imag(z)
	}
	lines := sum * sum / (squares + 1e-300)
	return sum / (math.Sqrt(noise) + 1e-300) * math.Min(1, lines/3)
}

// stands is how far one order stands out of those about it, -2 to 3.
func (p *pattern) stands(n int) float64 {
	if n < 1 {
		return -2
	}
	return math.Max(-2, math.Min(3, stands(p.sharp, n)))
}

// answer names the revolution, by the number of bars where that is given. With a reason there
// is no answer but for a module's chopping.
func (b *band) answer(o Options) (*answer, *Reason) {
	swing := b.swing()
	if swing > mostSwing {
		return &answer{band: b, chopHz: b.switching()}, &chopping
	}
	h, all, clear, gone := b.find()
	a := &answer{turning: h, band: clear}
	foreign := 0.0
	for _, c := range gone {
		if c.alone > foreign {
			foreign, a.chopHz = c.alone, c.hz()
		}
	}
	if h != nil && h.pitch(all, o.Brushes) {
		h = nil // nothing marks the revolution
	}
	if swing > chopSwing && foreign > chopped && (h == nil || !h.believed() && foreign > mostOfIt*h.share) {
		return a, &chopping
	}
	if swing < chopSwing || foreign < chopped {
		a.chopHz = 0
	}
	switch {
	case h != nil:
		got, why := a.settle(clear.pattern(h, o.Brushes), o, swing)
		if why == &unsure && o.Bars == 0 {
			// A pattern that is nothing but one line's cycle marks no turn.
			line := strongest(append(gone, all...))
			if _, alone := line.band.fold(line.ks, 1, line.band.places(line, 1)); alone > oneLine {
				return &answer{turning: line, band: line.band}, &alike
			}
		}
		return got, why
	case o.Bars > 0:
		return clear.alike(all, o)
	case len(all) == 0:
		return a, &noLine
	}
	a.turning = strongest(all)
	return a, &alike
}

// oneLine is which share of a current's swing a line makes that leaves nothing to mark a turn.
const oneLine = 0.97

// strongest is the hypothesis of the strongest line.
func strongest(all []*turning) *turning {
	return slices.MaxFunc(all, func(x, y *turning) int { return cmp.Compare(x.line.power, y.line.power) })
}

// switching is the frequency at which a module switches the current, 0 where no line keeps time.
func (b *band) switching() float64 {
	best := &turning{share: chopped}
	for _, t := range b.tracks(3) {
		h := &turning{ks: b.knots(t), line: t, band: b}
		if h.ks == nil || t.hz() < leastChop || !h.steady() {
			continue
		}
		if _, h.share = b.fold(h.ks, 1, b.places(h, 1)); h.share > best.share {
			best = h
		}
	}
	if best.ks == nil {
		return 0
	}
	return best.hz()
}

// hz is the mean frequency of a hypothesis' line.
func (h *turning) hz() float64 {
	b := h.band
	return h.total() / ((h.ks[len(h.ks)-1].at - h.ks[0].at) * b.dt)
}

// scales are the parts and multiples of a pattern that a revolution may be.
var scales = [][2]int{{1, 1}, {2, 1}, {1, 2}, {4, 1}, {3, 1}, {1, 3}, {1, 4}}

// settle decides how many times the pattern found goes into a revolution.
func (a *answer) settle(p *pattern, o Options, swing float64) (*answer, *Reason) {
	best, second := math.Inf(-1), -9.0
	scale := scales[0]
	other := a.band.alternate(a.turning)
	for _, c := range scales {
		v, ok := a.weigh(p, o, c, other)
		switch {
		case !ok:
		case v > best:
			second, best, scale = math.Max(best, second), v, c
		case v > second:
			second = v
		}
	}
	switch {
	case !math.IsInf(best, -1):
	case a.rpm > mostRPM || a.rpm/60*float64(a.humps) > mostHz:
		return a, &tooFast
	default:
		return a, &unsure
	}
	a.times(scale)
	switch {
	case o.Bars > 0:
		a.bars, a.humps = o.Bars, HumpsOf(o.Bars, o.Brushes)
	case a.humps < leastBars:
		a.humps = 0 // the revolution is marked, its humps are not
	default:
		a.bars, a.humps, _ = barsOf(a.humps, o.Brushes)
	}
	a.confidence = a.believe(p, o, best, math.Min(best-second, 6), swing)
	return a.bound(o)
}

// weigh is how well a revolution of num/den times the pattern agrees with all that is known of
// commutators, in nepers; false where it cannot be.
func (a *answer) weigh(p *pattern, o Options, c [2]int, other float64) (float64, bool) {
	num, den, brushes := c[0], c[1], max(o.Brushes, 1)
	humps := a.humps * num / den
	if o.Bars > 0 {
		humps = HumpsOf(o.Bars, o.Brushes)
	}
	rpm := a.rpm * float64(den) / float64(num)
	bars, _, _ := barsOf(humps, brushes)
	switch {
	case o.Bars == 0 && bars > mostBars:
		return 0, false
	case max(num, den) > max(2*brushes, 4) || a.cycles*num%den != 0 || brushes*den%num != 0 || den == 3 &&
		brushes%3 != 0 && a.humps != 3*humps,
		rpm > mostRPM || rpm/60*float64(humps) > mostHz,
		num > 1 && a.revs()*float64(den) < 3*float64(num):
		return 0, false
	}
	v := a.fits(p, o, num, den) - p.falls(brushes*den/num)
	// A pattern found is mostly the whole: what tells brushes apart marks it.
	switch {
	case num > 1:
		v += math.Max(-2, math.Min(4, (other-5)/2)) - 0.5*float64(max(num, brushes)-2) - float64(num/4)*2
	case den == 3 && p.all != nil && p.all.share(den) > likeParts:
		return a.fits(p, o, num, den) + 2, true // no brushes make thirds: it is three turns
	case den > 1:
		v -= 2
	}
	return v, true
}

// believe is the chance that a speed is right, by what told it: a logistic regression on 700
// simulated traces (package field, tuning seeds 11 and 12; see docs/choices.md).
func (a *answer) believe(p *pattern, o Options, best, margin, swing float64) float64 {
	brushes := max(o.Brushes, 1)
	z := -3.86 + 0.49*margin + 0.33*math.Min(a.votes, 3) + 3.62*a.share + 0.07*math.Min(a.clear, 8) +
		p.weight - 0.8*p.falls(brushes) + 0.84*p.falls(max(brushes/2, 1)) - 0.5*math.Log(a.rpm/2500) - 0.76*swing
	// Slower motors than slowRPM are rare, and what is left of switching looks like one.
	z -= 1.5 * math.Max(0, math.Log(slowRPM/a.rpm))
	if o.Bars > 0 {
		z += 0.59 * math.Max(-5, math.Min(3, best))
	}
	return 1 / (1 + math.Exp(-z))
}

// fits is how well a multiple of the pattern has the humps that a motor has, in nepers.
func (a *answer) fits(p *pattern, o Options, num, den int) float64 {
	if o.Bars == 0 {
		if a.humps > 0 && a.humps*num < leastBars*den && a.clear > 2 {
			return -2
		}
		if bars, _, _ := barsOf(a.humps*num/den, o.Brushes); bars > manyBars {
			return -1.5
		}
		return 0
	}
	want := HumpsOf(o.Bars, o.Brushes)
	best := math.Inf(-1)
	for _, humps := range []int{want, o.Bars} {
		if humps*den%num == 0 {
			best = math.Max(best, p.stands(humps*den/num))
		}
	}
	// A row of fewer humps than it would have speaks against it, unless it is the bars' own.
	for k := 2; k <= 4; k *= 2 {
		if want%k == 0 && want/k%o.Bars != 0 && want/k*den%num == 0 {
			best -= math.Max(0, math.Min(3, p.stands(want/k*den/num)))
		}
	}
	return math.Max(best, -4)
}

// How many bars few motors have more of, and none is taken to have unless it is said.
const (
	manyBars = 45
	mostBars = 60
)

// mostOfIt is which share of a revolution's pattern a clock's line holds where the pattern is
// nothing but that line.
const mostOfIt = 0.85

// chopped is which share of the swing a clock's line holds where it hides the rest.
const chopped = 0.3

// Below which confidence nothing is said, without and with the number of bars.
const (
	leastConfidence = 0.75
	leastGiven      = 0.6
	leastSwitched   = 0.9 // behind a module's chopping, either way
)

// slowRPM is a speed that few armatures run below.
const slowRPM = 400

// How far the current swings against its mean: chopping at least, and commutation at most, an
// open coil's included.
const (
	chopSwing = 0.35
	mostSwing = 1.0
)

// swing is how far the current swings, from the 5th to the 95th percentile, against its mean.
func (b *band) swing() float64 {
	s := slices.Clone(b.y)
	slices.Sort(s)
	return s[len(s)*95/100] - s[len(s)*5/100]
}

// pitch reports whether a pattern is no more than that of one bar at its brushes: a few humps
// told by the first few harmonics of their line, never by a line of many cycles.
func (h *turning) pitch(all []*turning, brushes int) bool {
	for _, g := range all {
		if g.agrees(h) && g.cycles >= leastBars && g.share > 0.5*h.share {
			return false
		}
	}
	if h.humps <= max(brushes, 2) && h.humps*brushes < leastBars {
		return true
	}
	pow := orders(h.wave, 3*mostHumps)
	total := 0.0
	for _, v := range pow {
		total += v
	}
	return pow[0] > oneHump*total
}

// oneHump is the share of its power that the first harmonic of a single hump holds at least; the
// dip of a weak bar is narrower.
const oneHump = 0.85

// times makes a pattern num/den of what it was.
func (a *answer) times(c [2]int) {
	h := *a.turning
	h.cycles = h.cycles * c[0] / c[1]
	h.humps = h.humps * c[0] / c[1]
	h.rpm *= float64(c[1]) / float64(c[0])
	a.turning = &h
}

// alike finds the line of the humps where nothing marks the revolution, the bars being known.
func (b *band) alike(all []*turning, o Options) (*answer, *Reason) {
	want := HumpsOf(o.Bars, o.Brushes)
	var best, second *turning
	for _, h := range all {
		if h.rpm*float64(h.cycles)/float64(want) > mostRPM {
			continue
		}
		switch {
		case best == nil || h.line.power > best.line.power:
			best, second = h, best
		case second == nil || h.line.power > second.line.power:
			second = h
		}
	}
	if best == nil {
		return &answer{band: b}, &noLine
	}
	if second != nil && second.line.power > 0.6*best.line.power {
		if !related(best, second) && !related(second, best) {
			return &answer{band: b}, &twoLines
		}
	}
	h := *best
	h.rpm = h.rpm * float64(h.cycles) / float64(want)
	h.cycles, h.humps = want, want
	h.wave, h.share = b.fold(h.ks, want, b.places(&h, want))
	a := &answer{turning: &h, band: b, bars: o.Bars, confidence: alikeConfidence}
	return a.bound(o)
}

// Below how many turns, and samples a hump, it is they that are blamed where nothing is sure.
const (
	fewestTurns = 5.0
	fewestDots  = 8.0
)

// related reports whether one line goes a whole number of times into the other, each known to a
// cycle or so.
func related(a, b *turning) bool {
	r := a.total() / b.total()
	return math.Round(r) >= 1 && math.Abs(r-math.Round(r)) < nearWhole+(1+r)/b.total()
}

// alikeConfidence is what a speed is believed that only the humps tell.
const alikeConfidence = 0.75

// bound refuses what no motor does.
func (a *answer) bound(o Options) (*answer, *Reason) {
	if a.rpm > mostRPM || a.rpm/60*float64(a.humps) > mostHz {
		return a, &tooFast
	}
	least := leastConfidence
	if a.bars > 0 && o.Bars > 0 {
		least = leastGiven
	}
	switch {
	case a.confidence >= least:
		return a, nil
	case a.revs() < fewestTurns:
		return a, &fewTurns
	case a.humps > 0 && a.band.step == 1 && 60/(a.rpm*float64(a.humps)*a.band.dt) < fewestDots:
		return a, &fewDots
	}
	return a, &unsure
}

// marks are the places, in samples of the current searched, where humps begin: a hump runs from
// one least of the ripple to the next.
func (a *answer) marks() []float64 {
	b := a.band
	wave, _ := b.fold(a.ks, a.cycles, b.places(a.turning, a.cycles))
	if a.humps > len(wave)/2 {
		return nil
	}
	c := fourier.NewFFT(len(wave)).Coefficients(nil, wave)
	// Folding begins at the first knot; a place stands for its middle.
	first := 0.5 - cmplx.Phase(c[a.humps])/(2*math.Pi) + 0.5*float64(a.humps)/float64(len(wave))
	per := float64(a.cycles) / float64(a.humps)
	var out []float64
	i := 0
	for k := math.Ceil(-first); ; k++ {
		want := a.ks[0].hump + (k+first)*per
		for i+2 < len(a.ks) && a.ks[i+1].hump < want {
			i++
		}
		t := (want - a.ks[i].hump) / (a.ks[i+1].hump - a.ks[i].hump)
		if t > 1 {
			return out
		}
		at := a.ks[i].at + t*(a.ks[i+1].at-a.ks[i].at)
		out = append(out, b.at+math.Floor(at*b.step)+math.Floor(b.step/2)+0.5+(at*b.step-math.Floor(at*b.step)))
	}
}
