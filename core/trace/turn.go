package trace

import (
	"math"
	"slices"
	"sync"

	"gonum.org/v1/gonum/dsp/fourier"
)

// turning is a hypothesis of how the motor turns: the angle from one line of the spectrum, so
// many cycles of which make a revolution, in which there are so many humps.
type turning struct {
	ks     []knot  // phase of the line, cycles, at places of y
	cycles int     // of the line in a revolution; 0 where nothing marks one
	marked float64 // how far the pattern stands out of noise, standard deviations
	rpm    float64
	humps  int     // a revolution; 0: not found
	clear  float64 // of the humps' share in the turn's pattern, 0..1
	share  float64 // of y's variance that the folded revolution explains
	row    bool    // one cycle of the line is a turn: humps stand in it
	band   *band
	line   *track
	wave   []float64 // the folded revolution
	votes  float64   // of the hypotheses that agree
	alone  float64   // share of the variance that its line alone explains, with its harmonics
}

func (h *turning) total() float64 { return h.ks[len(h.ks)-1].hump - h.ks[0].hump }

// mostCycles bounds how many cycles of a line a revolution has.
const mostCycles = 160

// marksTurn is how many standard deviations a pattern must stand out of noise by.
const marksTurn = 6.0

// hypothesis follows a line and looks after how many of its cycles the pattern repeats.
func (b *band) hypothesis(t *track) *turning {
	ks := b.knots(t)
	if ks == nil {
		return nil
	}
	h := &turning{ks: ks, line: t, band: b}
	if h.total() < 2.5 {
		return nil
	}
	h.repeat(b)
	h.wave, h.share = b.fold(h.ks, h.cycles, b.places(h, h.cycles))
	h.rpm = 60 * h.revs() / ((h.ks[len(h.ks)-1].at - h.ks[0].at) * b.dt)
	h.row = h.cycles == 1 && h.rows()
	return h
}

// resample is y at so many places a cycle of a phase, over whole cycles.
func (b *band) resample(ks []knot, per int) []float64 {
	first := math.Ceil(ks[0].hump)
	n := int((ks[len(ks)-1].hump - first) * float64(per))
	out := make([]float64, max(n, 0))
	i := 0
	for k := range out {
		c := first + float64(k)/float64(per)
		for i+2 < len(ks) && ks[i+1].hump < c {
			i++
		}
		t := (c - ks[i].hump) / (ks[i+1].hump - ks[i].hump)
		out[k] = cubic(b.y, ks[i].at+t*(ks[i+1].at-ks[i].at))
	}
	return out
}

// cubic interpolates between four samples (E. Catmull and R. Rom, A class of local
// interpolating splines, 1974).
func cubic(y []float64, at float64) float64 {
	i := int(math.Floor(at))
	if i < 1 || i+2 >= len(y) {
		return y[min(max(i, 0), len(y)-1)]
	}
	t := at - float64(i)
	a, b, c, d := y[i-1], y[i], y[i+1], y[i+2]
	return b + 0.5*t*(c-a+t*(2*a-5*b+4*c-d+t*(3*(b-c)+d-a)))
}

// perCycle is at how many places a cycle of a line is looked at: enough for all of the band.
func (b *band) perCycle(t *track) int {
	return max(6, int(math.Ceil(2.3*mostHz/t.hz())))
}

// repeat finds after how many cycles the pattern repeats: by the correlation of what the mean
// cycle leaves with itself, all frequencies weighed alike so that one strong line does not
// outvote the rest (C. H. Knapp and G. C. Carter, The generalized correlation method, 1976).
func (h *turning) repeat(b *band) {
	per := b.perCycle(h.line)
	u := b.resample(h.ks, per)
	r := correlation(u, per, b.dt*h.line.hz())
	if r == nil {
		h.cycles = 1
		return
	}
	n := len(u)
	best, at := 0.0, 0
	for p := 2; p <= mostCycles && p*per*2 <= n; p++ {
		if z := r.alike(p, 0); z > best {
			best, at = z, p
		}
	}
	if h.cycles = 1; best < marksTurn {
		return
	}
	h.cycles, h.marked = at, best
	// A longer pattern that the shorter ones hide in: brushes that differ mark the whole
	// revolution where bars alone mark a half or a quarter of it.
	for again := true; again; {
		again = false
		for _, k := range []int{2, 3} {
			p := h.cycles * k
			if p > mostCycles || p*per*2 > n {
				continue
			}
			if p*per*3 <= n && r.alike(p, h.cycles) > marksTurn || b.better(h, p) {
				h.cycles, again = p, true
				break
			}
		}
	}
}

// leftShare is how much less a longer pattern must leave unexplained to be the better one, and
// leastRevs how many of it there must be for that to count.
const (
	leftShare = 0.8
	leastRevs = 4.5
	someRevs  = 8 // below which it must leave still less, fewShare
	fewShare  = 0.5
)

// better reports whether a pattern of so many cycles explains much that the one found leaves:
// a drag once a revolution is one line among many, and the strongest of them.
func (b *band) better(h *turning, cycles int) bool {
	if h.total() < leastRevs*float64(cycles) {
		return false
	}
	places := b.places(h, cycles)
	_, was := b.fold(h.ks, h.cycles, max(places*h.cycles/cycles, 8))
	_, is := b.fold(h.ks, cycles, places)
	left := leftShare
	if h.total() < someRevs*float64(cycles) {
		left = fewShare
	}
	return is > 0.1 && 1-is < left*(1-was)
}

// places is into how many a revolution is folded: as many as y has samples in it, at most
// 2048.
func (b *band) places(h *turning, cycles int) int {
	per := float64(len(b.y)) / h.total() * float64(cycles)
	return int(math.Max(16, math.Min(2048, per)))
}

// autocorrelation is that of a whitened signal, by lag.
type autocorrelation struct {
	r   []float64 // r[0] = 1
	n   int       // samples
	per int       // a cycle
	eff float64   // share of the samples that are independent
}

// alike is how many standard deviations the signal is like itself after p cycles and their
// multiples; with besides, how many more than after the multiples of besides that are none of
// p.
func (a *autocorrelation) alike(p, besides int) float64 {
	sum, weight := 0.0, 0.0
	for lag := p * a.per; lag <= a.n*4/5 || lag == p*a.per; lag += p * a.per {
		w := float64(a.n - lag)
		sum += a.r[lag] * float64(a.n) // r is not divided by the overlap: w times the mean
		weight += w
	}
	if besides == 0 {
		return sum / math.Sqrt(weight/a.eff)
	}
	other, spare := 0.0, 0.0
	for lag := besides * a.per; lag <= a.n*4/5; lag += besides * a.per {
		if lag%(p*a.per) != 0 {
			other += a.r[lag] * float64(a.n)
			spare += float64(a.n - lag)
		}
	}
	if spare == 0 || weight == 0 {
		return 0
	}
	return (sum/weight - other/spare) / math.Sqrt(1/(weight*a.eff)+1/(spare*a.eff))
}

// mostPower caps what one line weighs in the correlation, against the floor about it.
const mostPower = 60

// correlation of a signal of so many samples a cycle, without its mean cycle; bandwidth is
// cycles a sample of y, which bounds what orders y can hold.
func correlation(u []float64, per int, cyclesPerSample float64) *autocorrelation {
	n := len(u)
	if n < 5*per {
		return nil
	}
	cycle, count := make([]float64, per), make([]float64, per)
	for i, v := range u {
		cycle[i%per] += v
		count[i%per]++
	}
	size := 256
	for size < 2*n {
		size *= 2
	}
	buf := make([]float64, size)
	for i, v := range u {
		buf[i] = v - cycle[i%per]/count[i%per]
	}
	fft := fourier.NewFFT(size)
	c := fft.Coefficients(nil, buf)
	pow := make([]float64, len(c))
	for i, z := range c {
		pow[i] = real(z)*real(z) + imag(z)*imag(z)
	}
	order := float64(size) / float64(per) // bins of one order
	wide := float64(size) / float64(n)    // bins of a line
	floor := floors(pow, max(16, int(math.Max(12*wide, 0.7*order))))
	top := min(float64(len(pow)-1), math.Min(0.36/cyclesPerSample, float64(per)/2.5)*order)
	for i := range c {
		k := float64(i)
		near := math.Abs(k-math.Round(k/order)*order) < 1.5*wide
		w := 0.0
		if !near && k < top && k > 2*wide {
			w = math.Min(pow[i]/floor[i], mostPower)
		}
		c[i] = complex(w, 0)
	}
	r := fft.Sequence(nil, c)
	if r[0] <= 0 {
		return nil
	}
	a := &autocorrelation{r: r[:n], n: n, per: per, eff: math.Max(1e-3, 2*top/float64(size))}
	for i := n - 1; i >= 0; i-- {
		a.r[i] /= r[0]
	}
	return a
}

// fold is the mean revolution of a hypothesis, in so many places, and the share of y's
// variance that it explains, less what chance would.
func (b *band) fold(ks []knot, cycles, places int) (wave []float64, share float64) {
	first, last := ks[0].hump, ks[len(ks)-1].hump
	revs := math.Floor((last - first) / float64(cycles))
	if revs < 1 {
		return nil, 0
	}
	sum, sq, count := make([]float64, places), 0.0, make([]float64, places)
	mean, n := 0.0, 0.0
	i := 0
	from, to := int(math.Ceil(ks[0].at)), int(ks[len(ks)-1].at)
	for k := from; k <= to && k < len(b.y); k++ {
		for i+2 < len(ks) && ks[i+1].at < float64(k) {
			i++
		}
		t := (float64(k) - ks[i].at) / (ks[i+1].at - ks[i].at)
		c := (ks[i].hump + t*(ks[i+1].hump-ks[i].hump) - first) / float64(cycles)
		j := min(int((c-math.Floor(c))*float64(places)), places-1)
		sum[j] += b.y[k]
		count[j]++
		mean += b.y[k]
		sq += b.y[k] * b.y[k]
		n++
	}
	mean /= n
	total := sq - n*mean*mean
	between := 0.0
	used := 0.0
	for j := range sum {
		if count[j] > 0 {
			sum[j] /= count[j]
			between += count[j] * (sum[j] - mean) * (sum[j] - mean)
			used++
		}
	}
	// Empty places, between samples, take their neighbours' value.
	for j := range sum {
		if count[j] == 0 {
			a, e := j, j
			for a > j-places && count[(a+places)%places] == 0 {
				a--
			}
			for e < j+places && count[e%places] == 0 {
				e++
			}
			sum[j] = (sum[(a+places)%places] + sum[e%places]) / 2
		}
	}
	if total <= 0 || n-used < 2 {
		return sum, 0
	}
	return sum, 1 - (math.Max(total-between, 0)/(n-used))/(total/(n-1))
}

// orders are the powers of a folded revolution's harmonics, from the first.
func orders(wave []float64, most int) []float64 {
	c := fourier.NewFFT(len(wave)).Coefficients(nil, wave)
	out := make([]float64, min(most, len(c)-1))
	for i := range out {
		z := c[i+1]
		out[i] = real(z)*real(z) + imag(z)*imag(z)
	}
	return out
}

// leastBars is the least number of bars that a motor has, and mostHumps the most humps that a
// revolution has.
const (
	leastBars = 7
	mostHumps = 120
)

// leastHumps is the least number of humps that are looked for in a revolution, and ofAll what
// share of a pattern's power a few like pieces must hold to be all there is in it.
const (
	leastHumps = 6
	ofAll      = 0.9
)

// standing is how far an order of a folded revolution stands out of those about it, with its
// harmonics, in nepers, and how much of the whole it is: weak bars and drag raise all orders
// about a hump's alike.
func standing(pow []float64, n int) float64 {
	if n > len(pow) {
		return 0
	}
	total := 0.0
	for _, v := range pow {
		total += v
	}
	// A line that holds little of the whole is noise that stands out of noise.
	return stands(pow, n) + 0.6*stands(pow, 2*n) + 0.3*stands(pow, 3*n) + 0.35*math.Log(pow[n-1]/(total+1e-300)+1e-6)
}

// stands is how far one order stands out of those about it, -1 to 10 nepers.
func stands(pow []float64, n int) float64 {
	wide := min(6, n-1)
	if wide < 1 || n+wide > len(pow) {
		return 0
	}
	var about []float64
	for k := n - wide; k <= n+wide; k++ {
		if k != n {
			about = append(about, pow[k-1])
		}
	}
	slices.Sort(about)
	return math.Max(-1, math.Min(10, math.Log((pow[n-1]+1e-300)/(about[len(about)*3/4]+1e-300))))
}

// clipped is a folded revolution without what lies far from its middle: the dip of a weak bar is
// deep and rare, and would hide the humps.
func clipped(wave []float64) []float64 {
	s := slices.Clone(wave)
	slices.Sort(s)
	n := len(s)
	mid, wide := s[n/2], 1.1*(s[n*3/4]-s[n/4])
	out := make([]float64, n)
	for i, v := range wave {
		out[i] = math.Max(mid-wide, math.Min(mid+wide, v))
	}
	return out
}

// humpsOf finds how many humps a folded revolution has, and how clearly.
func humpsOf(wave []float64) (humps int, clear float64) {
	pow := orders(clipped(wave), 3*mostHumps+8)
	first, second := math.Inf(-1), math.Inf(-1)
	for n := leastHumps; n <= min(mostHumps, len(pow)); n++ {
		switch v := standing(pow, n); {
		case v > first:
			if n != 2*humps {
				second = first
			}
			first, humps = v, n
		case v > second && n != 2*humps:
			second = v
		}
	}
	clear = math.Min(first-second, 20)
	// A pattern of a few like pieces and nothing else is no revolution, but that many humps.
	pow = orders(wave, 3*mostHumps+8)
	total := 0.0
	for _, v := range pow {
		total += v
	}
	for n := 1; n < leastHumps && n <= len(pow); n++ {
		own := 0.0
		for k := n; k <= len(pow); k += n {
			own += pow[k-1]
		}
		if own > ofAll*total && pow[n-1] > total/2 && (clear < 1.5 || n > 1 && (humps == 2*n || humps == 3*n)) {
			return n, clear
		}
	}
	return humps, clear
}

// search finds how the motor turns: every line that runs through the trace makes its
// hypothesis, and those that agree on the revolution stand for each other.
func (b *band) search() (best *turning, all []*turning) {
	ts := b.tracks(6)
	made := make([]*turning, len(ts))
	for i, t := range ts {
		if i%2 == 0 { // two at a time, side by side
			var wg sync.WaitGroup
			if i+1 < len(ts) {
				wg.Go(func() { made[i+1] = b.hypothesis(ts[i+1]) })
			}
			made[i] = b.hypothesis(t)
			wg.Wait()
		}
		h := made[i]
		if h == nil {
			continue
		}
		if all = append(all, h); h.turns() {
			if best = elect(all); best.votes > enough {
				break
			}
		}
	}
	if best != nil {
		best.humps, best.clear = humpsOf(best.wave)
	}
	return best, all
}

// Bounds of a row of humps within one cycle of a line that make it a turn, or a part of one.
const (
	leastRow = 4
	clearRow = 2.5
)

// turns reports whether a hypothesis holds a revolution, or a part of one.
func (h *turning) turns() bool { return h.cycles > 1 || h.row }

// rows reports whether a row of humps stands in one cycle of a line: the dip of a weak bar makes
// a line once or twice a turn that outdoes all others.
func (h *turning) rows() bool {
	humps, clear := humpsOf(h.wave)
	return humps >= leastRow && clear > clearRow && h.share > 0.2
}

// enough is how many votes end a search.
const enough = 2.5

// elect is the hypothesis for which most others stand, by the strongest of those that agree.
func elect(all []*turning) (best *turning) {
	most := 0.0
	for _, h := range all {
		if !h.turns() {
			continue
		}
		votes := 0.0
		var lead *turning
		for _, g := range all {
			if g.agrees(h) {
				votes += g.vote()
				if g.turns() && (lead == nil || g.share*math.Sqrt(g.line.hz()) > lead.share*math.Sqrt(lead.line.hz())) {
					lead = g
				}
			}
		}
		if best == nil || votes > most {
			best, most = lead, votes
		}
	}
	if best != nil {
		best.votes = most
	}
	return best
}

// Bounds of a line that is no motor's: its phase keeps to a straight line, as a clock's does.
const (
	clockwork = 0.03 // cycles that it strays, root mean square
	leastChop = 90.0 // Hz: no module chops more slowly
	clockMin  = 20.0 // cycles; fewer would be straight by chance
)

// steady reports whether a hypothesis' line keeps time as a clock does: a module's chopping,
// the mains, or what a scope too slow for them makes of them. A motor's speed wanders.
func (h *turning) steady() bool {
	if h.total() < clockMin {
		return false
	}
	n := float64(len(h.ks))
	var sx, sy, sxx, sxy float64
	for _, k := range h.ks {
		sx += k.at
		sy += k.hump
		sxx += k.at * k.at
		sxy += k.at * k.hump
	}
	slope := (n*sxy - sx*sy) / (n*sxx - sx*sx)
	icept := (sy - slope*sx) / n
	left := 0.0
	for _, k := range h.ks {
		d := k.hump - icept - slope*k.at
		left += d * d
	}
	return math.Sqrt(left/n) < clockwork
}

// without is a band from which a line and all its harmonics are taken: its mean cycle, drawn
// anew every few cycles' thousand so that it may grow and fade.
func (b *band) without(h *turning) *band {
	places := int(math.Max(8, math.Min(512, 2/(h.line.hz()*b.dt))))
	out := &band{y: slices.Clone(b.y), dt: b.dt, step: b.step}
	sum, count := make([]float64, places), make([]float64, places)
	each := func(do func(k, j int, t float64)) {
		i := 0
		for k := range b.y {
			for i+2 < len(h.ks) && h.ks[i+1].at < float64(k) {
				i++
			}
			t := (float64(k) - h.ks[i].at) / (h.ks[i+1].at - h.ks[i].at)
			c := h.ks[i].hump + t*(h.ks[i+1].hump-h.ks[i].hump)
			p := (c - math.Floor(c)) * float64(places)
			j := min(int(p), places-1)
			do(k, j, p-float64(j))
		}
	}
	// Values between two places go to both, so that the mean cycle has no steps.
	each(func(k, j int, t float64) {
		sum[j] += (1 - t) * b.y[k]
		count[j] += 1 - t
		sum[(j+1)%places] += t * b.y[k]
		count[(j+1)%places] += t
	})
	for j := range sum {
		sum[j] /= math.Max(count[j], 1e-9)
	}
	each(func(k, j int, t float64) { out.y[k] -= (1-t)*sum[j] + t*sum[(j+1)%places] })
	return out
}

// whole reports whether a line stands in a whole ratio to a revolution.
func (h *turning) whole(line *turning) bool {
	r := line.total() / h.revs()
	// Both phases are known to a twentieth of a cycle or so, the revolution's by its own line.
	return math.Abs(r-math.Round(r)) < 0.15/h.revs()*(1+r/float64(h.cycles)) && math.Round(r) >= 1
}

// mostForeign is how many lines that are no motor's are taken off at most.
const mostForeign = 4

// find searches, and where a line that keeps time like a clock stands in the way, once more
// without it. The band returned is the one that the answer was found in; gone are the lines
// taken off.
func (b *band) find() (best *turning, all []*turning, clear *band, gone []*turning) {
	best, all = b.search()
	clear = b
	now, lines, found := b, all, best
	var own, without []*turning // lines that keep time: the motor's, and those taken off
	for range mostForeign {
		clock := now.clock(lines, found, own)
		if clock == nil {
			break
		}
		less := now.without(clock)
		then, rest := less.search()
		if then != nil && then.whole(clock) && then.believed() {
			own = append(own, clock)
			continue
		}
		gone = append(gone, clock)
		now, found, lines = less, then, rest
		if found == nil || !found.believed() {
			continue
		}
		// A revolution that the clock's own line stood for is none once that line is gone.
		if best == nil || !best.believed() || best.whole(clock) || found.votes*found.clear > best.votes*best.clear {
			best, all, clear, without = found, lines, now, slices.Clone(gone)
		}
	}
	if best != nil && len(without) > 0 {
		clear = b.besides(best, without)
	}
	return best, all, clear, gone
}

// besides is a band without those lines that are no part of a revolution; what was taken off
// and is one goes back into its pattern.
func (b *band) besides(h *turning, lines []*turning) *band {
	out := b
	for _, clock := range lines {
		if r := clock.total() / h.revs(); !h.whole(clock) && math.Abs(r-math.Round(r)) > nearWhole+0.3/h.revs() {
			out = out.without(clock)
		}
	}
	h.wave, h.share = out.fold(h.ks, h.cycles, out.places(h, h.cycles))
	h.humps, h.clear = humpsOf(h.wave)
	return out
}

// nearWhole is how near to a whole ratio, in cycles a revolution, a line is a part of it.
const nearWhole = 0.02

// clock is the line of a band that is most likely no motor's; nil where none is.
func (b *band) clock(lines []*turning, found *turning, own []*turning) *turning {
	var clock *turning
	for _, h := range lines {
		if slices.ContainsFunc(own, func(o *turning) bool { return o.line.same(h.line) }) {
			continue
		}
		wave, share := b.fold(h.ks, 1, b.places(h, 1))
		h.alone = share
		if share < 0.004 || clock != nil && share < clock.alone {
			continue
		}
		// A cycle with a row of humps in it is a turn, or a half of one, however steady. A line
		// that makes nearly all of the current's swing is switching, be there too few of its
		// cycles to see whether they keep time.
		humps, clear := humpsOf(wave)
		switch {
		case humps >= leastRow && clear > clearRow:
			continue
		case h.line.hz() < leastChop:
			continue
		case !h.steady():
			if share < 0.9 || clear > 1.5 || h.total() > clockMin {
				continue
			}
		case found != nil && found.whole(h) && share < mostOfIt*found.share:
			continue // it is the motor's own: the revolution holds more than this line
		}
		clock = h
	}
	return clock
}

// believed reports whether a hypothesis is a motor's: humps stand out of its revolution, and
// enough of them for a commutator.
func (h *turning) believed() bool { return h.clear > 1 && h.votes > 0.2 && h.humps >= 3 }

// vote is what a hypothesis weighs among those that agree.
func (h *turning) vote() float64 {
	if h.row && h.rpm < mostRPM {
		return math.Max(h.share, 0)
	}
	if h.cycles < 2 || h.rpm > mostRPM {
		return 0.2 * math.Max(h.share, 0)
	}
	return math.Min(h.marked, 50) / 50 * math.Max(h.share, 0)
}

// revs is how many revolutions the trace holds.
func (h *turning) revs() float64 { return h.total() / float64(h.cycles) }

// agrees reports whether two hypotheses hold the same revolution.
func (h *turning) agrees(g *turning) bool {
	return math.Abs(h.revs()/g.revs()-1) < 0.003+0.05/h.revs()
}
