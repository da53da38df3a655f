package trace

import (
	"corriente/core/phrase"
	"fmt"
	"math"
	"regexp"
	"slices"
	"sort"
	"strconv"
	"strings"
)

// Options of an analysis.
type Options struct {
	Channel string  `json:"channel"` // "" takes the one in amperes, else the only one, else the one that moves most
	Scale   string  `json:"scale"`   // of the clamp: 100mV/A; "" takes the file's own unit
	Bars    int     `json:"bars"`    // of the commutator; 0: not known
	Brushes int     `json:"brushes"` // 0: 2
	Offset  float64 `json:"offset"`  // A, taken off besides what a quiet head shows
}

// Analysis is what a trace tells. Amperes, seconds and hertz.
type Analysis struct {
	Channel       string    `json:"channel"`
	Samples       int       `json:"samples"`
	Interval      float64   `json:"interval_s"`
	Scale         string    `json:"scale"`
	MeanA         float64   `json:"mean_a"`
	RMSA          float64   `json:"rms_a"`
	PeakA         float64   `json:"peak_a"`
	InrushA       *float64  `json:"inrush_a"`         // null where the trace has no start
	ToSteadyS     *float64  `json:"time_to_steady_s"` // null where the trace has no start
	OffsetA       float64   `json:"offset_a"`
	RipplePercent float64   `json:"ripple_percent"`
	RippleHz      *float64  `json:"ripple_hz"` // mean over the settled part
	ChopHz        *float64  `json:"chop_hz"`   // a speed module's chopping
	Bars          *int      `json:"bars"`
	Humps         *int      `json:"humps_per_revolution"`
	RPM           *float64  `json:"rpm"`
	Confidence    float64   `json:"confidence"`                // of speed and bars, 0..1; 0 where they cannot be told
	CannotTell    *Reason   `json:"cannot_tell,omitempty"`     // why speed and bars cannot be told; left out where they can
	DriftPercent  float64   `json:"speed_drift_percent"`       // greatest less least speed against the mean
	WeakBars      *[]int    `json:"weak_bars" nullable:"true"` // humps within one revolution, from 0; null where nothing marks one
	BarLevels     []float64 `json:"bar_levels"`                // per hump, A
	BarSigmas     []float64 `json:"bar_sigmas"`                // standard uncertainty of each, A
	Revolutions   int       `json:"revolutions"`
	DragPercent   float64   `json:"drag_percent"` // rise and fall once a revolution, half of it, against the mean
	WanderPercent float64   `json:"wander_percent"`
	Dropouts      int       `json:"dropouts"`
	Verdict       string    `json:"verdict"`
	Word          string    `json:"word"` // as evidence: even, weak_bar, dropouts, drags; "" for none
	Warnings      []string  `json:"warnings"`

	From int `json:"settled_from"` // samples
	To   int `json:"settled_to"`

	marks []float64 // sample positions of hump starts, settled part
	folds int       // humps the levels are folded on
}

// HumpsOf is how many humps of ripple a revolution has: the least common multiple
// of bars and evenly spaced brushes. Two brushes make an even number of bars k
// into k humps, an odd one into 2k, since opposed brushes then commutate in turn.
func HumpsOf(bars, brushes int) int {
	a, b := bars, brushes
	for b != 0 {
		a, b = b, a%b
	}
	return bars / a * brushes
}

// Reason is why something cannot be told, and what to do.
type Reason struct {
	Code string `json:"code"`
	Says string `json:"says"`
}

var scaleText = regexp.MustCompile(`^\s*([0-9]+(?:[.,][0-9]+)?)\s*(mV|V|uV|A|mA)?\s*(?:/|per)\s*(mA|A)\s*$`)

// PerAmpere parses a clamp's scale, such as 100mV/A or 0.1 V/A: volts an ampere.
// "A" and "" are no scale: 0.
func PerAmpere(s string) (float64, error) {
	t := strings.TrimSpace(s)
	if t == "" || t == "A" {
		return 0, nil
	}
	m := scaleText.FindStringSubmatch(t)
	if m == nil {
		return 0, fmt.Errorf("%q is no clamp scale: write 10mV/A, 100mV/A or A", s)
	}
	v, err := strconv.ParseFloat(strings.Replace(m[1], ",", ".", 1), 64)
	if err != nil || !(v > 0) {
		return 0, fmt.Errorf("%q is no clamp scale: write 10mV/A, 100mV/A or A", s)
	}
	switch m[2] {
	case "mV":
		v *= 1e-3
	case "uV":
		v *= 1e-6
	}
	if m[3] == "mA" {
		v *= 1e3
	}
	return v, nil
}

// amps reports whether a unit is one of current.
func amps(u string) bool { return u == "A" || u == "mA" }

// clampOf is the channel of the clamp: the one named, else the one in amperes, else the only one,
// else the one that moves most.
func clampOf(f *File, channel string) (k int, warnings []string, err error) {
	k = -1
	var names []string
	for i := range f.Channels {
		c := &f.Channels[i]
		names = append(names, c.Name)
		if channel != "" && strings.EqualFold(c.Name, channel) {
			k = i
		}
	}
	switch {
	case channel != "" && k < 0:
		return 0, nil, fmt.Errorf("there is no channel %q: the file has %s", channel, strings.Join(names, ", "))
	case k >= 0:
	default:
		in := 0
		for i := range f.Channels {
			if amps(f.Channels[i].Unit) {
				if in++; in == 1 {
					k = i
				}
			}
		}
		if in != 1 {
			best := -1.0
			for i := range f.Channels {
				if in > 1 && !amps(f.Channels[i].Unit) {
					continue
				}
				if m := moves(f.Channels[i].X); m > best {
					best, k = m, i
				}
			}
			if len(f.Channels) > 1 {
				warnings = append(warnings, fmt.Sprintf("channel %s was taken, the one that moves most; name "+
					"another where this is not the clamp", f.Channels[k].Name))
			}
		}
	}
	return k, warnings, nil
}

// Amperes picks a channel of a file and turns it into amperes, in place.
func Amperes(f *File, o Options) (x []float32, channel, scale string, warnings []string, err error) {
	per, err := PerAmpere(o.Scale)
	if err != nil {
		return nil, "", "", nil, err
	}
	k, warnings, err := clampOf(f, o.Channel)
	if err != nil {
		return nil, "", "", nil, err
	}
	c := &f.Channels[k]
	if per == 0 && strings.TrimSpace(o.Scale) == "" && f.Scale != "" && (c.Unit == "V" || c.Unit == "mV") {
		if per, err = PerAmpere(f.Scale); err != nil {
			return nil, "", "", nil, err
		}
		o.Scale = f.Scale
		warnings = append(warnings, fmt.Sprintf("the clamp's scale, %s, was taken from the head of the file", f.Scale))
	}
	mul := 1.0
	scale = "A"
	switch {
	case amps(c.Unit):
		if c.Unit == "mA" {
			mul, scale = 1e-3, "mA"
		}
		if per > 0 {
			warnings = append(warnings, "the column is in amperes already: the scale was not used")
		}
	case per > 0:
		if c.Unit == "mV" {
			mul = 1e-3
		}
		mul /= per
		scale = o.Scale
	case c.Unit == counts:
		return nil, "", "", nil, fmt.Errorf("channel %s is in counts of the converter: export it in amperes or volts", c.Name)
	case c.Unit == "":
		if strings.TrimSpace(o.Scale) == "" {
			warnings = append(warnings, "the file names no unit: the column was taken as amperes; give the clamp's scale if it is volts")
		}
	default:
		return nil, "", "", nil, fmt.Errorf("channel %s is in volts: give the clamp's scale, such as 100mV/A", c.Name)
	}
	if mul != 1 {
		for i := range c.X {
			c.X[i] *= float32(mul)
		}
	}
	return c.X, c.Name, scale, warnings, nil
}

func moves(x []float32) float64 {
	s, q := 0.0, 0.0
	for _, v := range x {
		s += float64(v)
		q += float64(v) * float64(v)
	}
	n := float64(len(x))
	return q/n - s/n*s/n
}

// Analyse says what a current trace tells. x is amperes at an interval of dt
// seconds; it is changed: offset and sign are taken off.
func Analyse(x []float32, dt float64, o Options) (*Analysis, error) {
	if o.Brushes == 0 {
		o.Brushes = 2
	}
	if o.Bars < 0 || o.Bars > 400 || o.Bars > 0 && o.Bars < 3 || o.Brushes < 1 || o.Brushes > 12 {
		return nil, fmt.Errorf("a commutator has 3 to 400 bars and 1 to 12 brushes")
	}
	if len(x) < 2 || !(dt > 0) {
		return nil, fmt.Errorf("a trace needs samples and the interval between them")
	}
	if flat(x) {
		return nil, fmt.Errorf("the current never changes: is this the clamp's channel, and was it switched on?")
	}
	r := &Analysis{Samples: len(x), Interval: dt, Warnings: []string{}, BarLevels: []float64{}, BarSigmas: []float64{}}
	env := newEnvelope(x)
	if env.level < 0 {
		for i := range x {
			x[i] = -x[i]
		}
		env = newEnvelope(x)
		r.Warnings = append(r.Warnings, "the current is negative: the clamp was the other way round, and the sign is turned")
	}
	start := r.settle(x, dt, env, o.Offset)
	s := x[r.From:r.To]
	r.basics(x, s, start)
	y := r.turns(s, dt, o)
	r.dropouts(y, dt)
	r.say(o)
	return r, nil
}

func flat(x []float32) bool {
	for _, v := range x {
		if v != x[0] {
			return false
		}
	}
	return true
}

// envelope is the trace in some thousand blocks.
type envelope struct {
	size  int
	mean  []float64
	level float64 // of the running part
}

func newEnvelope(x []float32) *envelope {
	e := &envelope{size: max(1, len(x)/2000)}
	for at := 0; at < len(x); at += e.size {
		end := min(at+e.size, len(x))
		s := 0.0
		for _, v := range x[at:end] {
			s += float64(v)
		}
		e.mean = append(e.mean, s/float64(end-at))
	}
	sorted := slices.Clone(e.mean)
	sort.Slice(sorted, func(i, j int) bool { return math.Abs(sorted[i]) < math.Abs(sorted[j]) })
	e.level = sorted[len(sorted)*7/10]
	return e
}

// settle finds the quiet head, the start, where it is steady, and the stop; it
// takes the offset off.
func (r *Analysis) settle(x []float32, dt float64, e *envelope, given float64) (start int) {
	quiet := func(v float64) bool { return math.Abs(v) < 0.2*e.level }
	head, tail := 0, len(e.mean)
	for head < len(e.mean) && quiet(e.mean[head]) {
		head++
	}
	for tail > head && quiet(e.mean[tail-1]) {
		tail--
	}
	// A head of a few blocks is a start; of one or two it may be chance.
	least := max(3, len(e.mean)/200)
	has := head >= least && head < len(e.mean)
	offset := given
	if has {
		s, n := 0.0, 0
		for _, v := range e.mean[:head-1] {
			s += v
			n++
		}
		offset = s / float64(max(n, 1))
	}
	if offset != 0 {
		for i := range x {
			x[i] -= float32(offset)
		}
		for i := range e.mean {
			e.mean[i] -= offset
		}
	}
	r.OffsetA = offset
	first, last := 0, len(e.mean)
	if has {
		first = head
	}
	if len(e.mean)-tail >= least {
		last = max(tail-2, first+1)
	}
	r.From, r.To = first*e.size, min(last*e.size, len(x))
	if !has {
		return -1
	}
	// Steady: from where the smoothed level stays within a tenth of the last half's.
	mid := slices.Clone(e.mean[(first+last)/2 : last])
	slices.Sort(mid)
	final := mid[len(mid)/2]
	smooth := func(i int) float64 {
		lo, hi := max(first, i-6), min(last, i+7)
		s := 0.0
		for _, v := range e.mean[lo:hi] {
			s += v
		}
		return s / float64(hi-lo)
	}
	steady := first
	for i := first; i < (first+last)/2; i++ {
		if math.Abs(smooth(i)-final) > 0.1*math.Abs(final) {
			steady = i + 7
		}
	}
	start = max((head-1)*e.size, 0)
	for start < r.To && float64(x[start]) < 0.3*final {
		start++
	}
	r.From = min(max(steady*e.size, start), r.To-2)
	t := float64(r.From-start) * dt
	r.ToSteadyS = &t
	return start
}

// basics are mean, rms, peak, inrush and ripple.
func (r *Analysis) basics(x, s []float32, start int) {
	sum, sq := 0.0, 0.0
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, v := range s {
		f := float64(v)
		sum += f
		sq += f * f
		if f < lo {
			lo = f
		}
		if f > hi {
			hi = f
		}
	}
	n := float64(len(s))
	r.MeanA, r.RMSA = sum/n, math.Sqrt(sq/n)
	peak := float32(math.Inf(-1))
	for _, v := range x {
		peak = max(peak, v)
	}
	r.PeakA = float64(peak)
	if start >= 0 {
		in := float32(math.Inf(-1))
		for _, v := range x[start:max(r.From, start+1)] {
			in = max(in, v)
		}
		v := float64(in)
		r.InrushA = &v
	}
	p := percentiles(s, lo, hi, 0.05, 0.95)
	r.RipplePercent = 100 * (p[1] - p[0]) / math.Max(math.Abs(r.MeanA), 1e-12)
}

// percentiles from a histogram of 65,536 slots between lo and hi.
func percentiles(s []float32, lo, hi float64, ps ...float64) []float64 {
	const slots = 1 << 16
	out := make([]float64, len(ps))
	if !(hi > lo) {
		for i := range out {
			out[i] = lo
		}
		return out
	}
	var h [slots]int32
	k := (slots - 1) / (hi - lo)
	for _, v := range s {
		h[int((float64(v)-lo)*k+0.5)]++
	}
	for i, p := range ps {
		want, c := p*float64(len(s)-1), 0.0
		for j := range h {
			c += float64(h[j])
			if c > want {
				out[i] = lo + float64(j)/k
				break
			}
		}
	}
	return out
}

// knot is the ripple's phase, in humps, at a sample.
type knot struct{ at, hump float64 }

func interpolate(x, y []float64, at float64) float64 {
	i := sort.SearchFloat64s(x, at)
	switch {
	case i == 0:
		return y[0]
	case i == len(x):
		return y[len(y)-1]
	}
	t := (at - x[i-1]) / (x[i] - x[i-1])
	return y[i-1] + t*(y[i]-y[i-1])
}

// turns finds the revolution and its humps, and returns the current that they are in: what a
// module switches is averaged over its period.
func (r *Analysis) turns(s []float32, dt float64, o Options) []float32 {
	y := s
	a, why := search(y, dt, o)
	if why == &chopping && a.chopHz > 0 {
		hz := a.chopHz
		width := 1 / (hz * dt)
		y = box(box(s, width), width) // twice: its side lines sink too
		if a, why = search(y, dt, o); why == nil && (a.confidence < leastSwitched || a.rpm/60*float64(a.humps) > mostChopped*hz) {
			why = &chopping
		}
		a.chopHz = hz
	}
	if a.chopHz > 0 {
		r.ChopHz = &a.chopHz
	}
	if why != nil {
		r.CannotTell = &Reason{why.Code, why.Says}
		r.Warnings = append(r.Warnings, why.Says)
		if why == &alike && a.turning != nil {
			hz := a.hz()
			r.RippleHz = &hz
		}
		return y
	}
	r.told(y, dt, a, o)
	return y
}

// mostChopped is how many humps there may be to a cycle of a module's chopping.
const mostChopped = 0.45

// search looks at the middle of a settled current for how its motor turns.
func search(s []float32, dt float64, o Options) (*answer, *Reason) {
	// More than the middle is not looked at, but for what the trend and the low-pass need.
	d := max(1, int(1/(dt*bandRate)))
	from := 0
	if most := (bandLen + bandEdge) * d; len(s) > most {
		from = (len(s) - most) / 2
		s = s[from : from+most]
	}
	b := newBand(s, dt, d)
	b.at = float64(from)
	level(b.y, max(8, min(len(b.y)/6, int(0.3/b.dt))))
	b = b.part(bandLen)
	b.unhum()
	return b.answer(o)
}

// told puts down what an answer says of a current.
func (r *Analysis) told(y []float32, dt float64, a *answer, o Options) {
	rpm := a.rpm
	r.RPM, r.Confidence = &rpm, a.confidence
	if a.bars > 0 {
		bars := a.bars
		r.Bars = &bars
		if _, _, sure := barsOf(a.humps, o.Brushes); o.Bars == 0 && !sure {
			r.Warnings = append(r.Warnings, fmt.Sprintf("the pattern repeats every %d humps: taken as %d bars; if "+
				"the motor has another number, give it, since the speed follows from it", a.humps, bars))
		}
	}
	if a.humps == 0 {
		r.Warnings = append(r.Warnings, "a turn is marked, but its humps are not clear: give the number of bars for their levels")
		return
	}
	humps := a.humps
	hz := rpm / 60 * float64(humps)
	r.Humps, r.RippleHz, r.folds = &humps, &hz, humps
	marks := a.marks()
	if len(marks) < 6 {
		return
	}
	r.marks = marks
	levels := make([]float64, len(marks)-1)
	for k := range levels {
		levels[k] = meanOver(y, marks[k], marks[k+1])
	}
	base := smoothed(levels, max(97, 2*humps+1))
	rel := make([]float64, len(levels))
	for k := range rel {
		rel[k] = levels[k] / base[k]
	}
	lo, hi := math.Inf(1), math.Inf(-1)
	for k := 48; k+48 < len(base); k++ {
		lo, hi = math.Min(lo, base[k]), math.Max(hi, base[k])
	}
	if hi > lo {
		r.WanderPercent = 100 * (hi - lo) / r.MeanA
	}
	r.drift(marks)
	r.levels(rel, humps)
}

// box is the moving mean of s over a width that need not be whole.
func box(s []float32, w float64) []float32 {
	out := make([]float32, len(s))
	c := make([]float64, len(s)+1)
	for i, v := range s {
		c[i+1] = c[i] + float64(v)
	}
	sum := func(at float64) float64 {
		i := int(at)
		if i >= len(s) {
			return c[len(s)]
		}
		return c[i] + (at-float64(i))*float64(s[i])
	}
	for i := range s {
		a, b := math.Max(float64(i)+0.5-w/2, 0), math.Min(float64(i)+0.5+w/2, float64(len(s)))
		out[i] = float32((sum(b) - sum(a)) / (b - a))
	}
	return out
}

// meanOver is the mean of y between two positions, which need not be whole.
func meanOver(y []float32, a, b float64) float64 {
	i, j := int(a), int(b)
	if j >= len(y) {
		j = len(y) - 1
	}
	if i == j {
		return float64(y[i])
	}
	s := float64(y[i]) * (float64(i+1) - a)
	for _, v := range y[i+1 : j] {
		s += float64(v)
	}
	s += float64(y[j]) * (b - float64(j))
	return s / (b - a)
}

// smoothed is the moving mean over w values, shorter at the ends.
func smoothed(x []float64, w int) []float64 {
	out := make([]float64, len(x))
	c := make([]float64, len(x)+1)
	for i, v := range x {
		c[i+1] = c[i] + v
	}
	for i := range x {
		h := min(w/2, i, len(x)-1-i)
		h = max(h, min(w/4, len(x)-1))
		a, b := max(0, i-h), min(len(x), i+h+1)
		out[i] = (c[b] - c[a]) / float64(b-a)
	}
	return out
}

// drift is how far the speed moves within the trace, over windows of a
// twentieth.
func (r *Analysis) drift(marks []float64) {
	n := len(marks) - 1
	w := max(8, n/20)
	lo, hi := math.Inf(1), math.Inf(-1)
	for k := 0; k+w <= n; k += w {
		v := float64(w) / (marks[k+w] - marks[k])
		lo, hi = math.Min(lo, v), math.Max(hi, v)
	}
	if hi > lo && lo > 0 {
		r.DriftPercent = 100 * (hi - lo) * (marks[n] - marks[0]) / float64(n)
	}
}

// barsOf says how many bars and humps a revolution has whose pattern repeats after
// p humps. Where several numbers of bars would do, the largest up to 28 is taken,
// and it is not sure.
func barsOf(p, brushes int) (bars, humps int, sure bool) {
	var fit []int
	for k := 3; k <= p; k++ {
		if HumpsOf(k, brushes) == p {
			fit = append(fit, k)
		}
	}
	if len(fit) == 0 {
		return p, HumpsOf(p, brushes), true
	}
	bars = fit[0]
	for _, k := range fit {
		if k <= 28 {
			bars = k
		}
	}
	return bars, p, len(fit) == 1
}

// weakShare is how far below the middle hump a weak one stands at least.
const weakShare = 0.05

// levels averages each hump over all whole revolutions and names the weak ones.
func (r *Analysis) levels(rel []float64, fold int) {
	revs := len(rel) / fold
	if revs < 2 {
		r.Warnings = append(r.Warnings, "there are not two whole revolutions in this trace: the bars cannot be told")
		return
	}
	r.Revolutions = revs
	mean, sq := make([]float64, fold), make([]float64, fold)
	for k := 0; k < revs*fold; k++ {
		mean[k%fold] += rel[k]
		sq[k%fold] += rel[k] * rel[k]
	}
	n := float64(revs)
	sigma := make([]float64, fold)
	for i := range mean {
		mean[i] /= n
		sigma[i] = math.Sqrt(math.Max(sq[i]/n-mean[i]*mean[i], 0) / math.Max(n-1, 1))
	}
	expect := r.drag(mean, fold)
	weak := []int{}
	for i := range mean {
		short := expect[i] - mean[i]
		if short > weakShare*expect[i] && short-weakShare*expect[i] > 0 && short > 4*sigma[i] {
			weak = append(weak, i)
		}
		r.BarLevels = append(r.BarLevels, mean[i]*r.MeanA)
		r.BarSigmas = append(r.BarSigmas, sigma[i]*r.MeanA)
	}
	r.WeakBars = &weak
}

// drag tells a rise and fall once a revolution, a bent shaft or a tight spot, from
// a weak bar, and returns what each hump would be but for weak bars: the middle
// one, or the wave where there is one.
func (r *Analysis) drag(mean []float64, fold int) []float64 {
	med := middle(mean)
	out := make([]float64, fold)
	for i := range out {
		out[i] = med
	}
	if fold < 6 {
		return out
	}
	// Fitted twice, the second time without what lies far off.
	use := make([]bool, fold)
	for i := range use {
		use[i] = true
	}
	var a, b, c float64
	for range 3 {
		a, b, c = wave(mean, use)
		rest := make([]float64, fold)
		for i := range mean {
			t := 2 * math.Pi * float64(i) / float64(fold)
			rest[i] = math.Abs(mean[i] - a - b*math.Cos(t) - c*math.Sin(t))
		}
		lim := math.Max(2.5*middle(rest), 0.005)
		for i := range use {
			use[i] = rest[i] <= lim
		}
	}
	amp := math.Hypot(b, c)
	kept, left, all := 0, 0.0, 0.0
	for i := range mean {
		if use[i] {
			t := 2 * math.Pi * float64(i) / float64(fold)
			kept++
			left += math.Pow(mean[i]-a-b*math.Cos(t)-c*math.Sin(t), 2)
			all += math.Pow(mean[i]-a, 2)
		}
	}
	if amp > 0.015 && kept*3 >= fold*2 && left < 0.35*all {
		r.DragPercent = 100 * amp
		for i := range out {
			t := 2 * math.Pi * float64(i) / float64(fold)
			out[i] = a + b*math.Cos(t) + c*math.Sin(t)
		}
	}
	return out
}

// wave fits a + b cos + c sin once a revolution, least squares over what is used.
func wave(x []float64, use []bool) (a, b, c float64) {
	var m [3][4]float64
	for i, v := range x {
		if !use[i] {
			continue
		}
		t := 2 * math.Pi * float64(i) / float64(len(x))
		row := [3]float64{1, math.Cos(t), math.Sin(t)}
		for p := range 3 {
			for q := range 3 {
				m[p][q] += row[p] * row[q]
			}
			m[p][3] += row[p] * v
		}
	}
	for p := range 3 {
		if math.Abs(m[p][p]) < 1e-12 {
			return middle(x), 0, 0
		}
		for q := range 3 {
			if q == p {
				continue
			}
			k := m[q][p] / m[p][p]
			for j := range 4 {
				m[q][j] -= k * m[p][j]
			}
		}
	}
	return m[0][3] / m[0][0], m[1][3] / m[1][1], m[2][3] / m[2][2]
}

// dropouts counts falls below a tenth of the mean that are shorter than two humps.
func (r *Analysis) dropouts(y []float32, dt float64) {
	limit := 0.005 / dt
	if r.RippleHz != nil {
		limit = 2 / (*r.RippleHz * dt)
	}
	low := float32(0.1 * r.MeanA)
	run := 0
	for _, v := range y {
		if v < low {
			run++
			continue
		}
		if run > 0 && float64(run) < limit {
			r.Dropouts++
		}
		run = 0
	}
}

// say puts the verdict into one sentence.
func (r *Analysis) say(o Options) {
	r.Word = r.word()
	var parts []string
	switch {
	case r.WeakBars != nil && len(*r.WeakBars) > 0:
		n := len(*r.WeakBars)
		worst := math.Inf(1)
		for _, i := range *r.WeakBars {
			worst = math.Min(worst, r.BarLevels[i])
		}
		word := "hump is"
		if n > 1 {
			word = "humps are"
		}
		parts = append(parts, fmt.Sprintf("%d %s weak, %.0f %% below the mean at worst: a commutator bar or its winding",
			n, word, 100*(1-worst/r.MeanA)))
	case r.WeakBars != nil:
		parts = append(parts, "no weak bar")
	}
	if r.Dropouts > 0 {
		parts = append(parts, fmt.Sprintf("the current drops out %d times: brushes bounce or hang", r.Dropouts))
	}
	if r.DragPercent > 0 {
		parts = append(parts, fmt.Sprintf("it drags once a revolution, %.0f %%: a tight spot or a bent shaft, not a bar", r.DragPercent))
	}
	if r.WanderPercent > 10 {
		parts = append(parts, fmt.Sprintf("the load wanders by %.0f %%", r.WanderPercent))
	}
	if r.ChopHz != nil {
		parts = append(parts, fmt.Sprintf("a module chops it at %.0f Hz", *r.ChopHz))
	}
	if len(parts) == 0 {
		r.Verdict = "The current runs; the bars could not be told."
		return
	}
	r.Verdict = phrase.Upper(parts[0])
	if len(parts) > 1 {
		r.Verdict += "; " + strings.Join(parts[1:], "; ")
	}
	r.Verdict += "."
}

// middle is the median; 0 of nothing.
func middle(x []float64) float64 {
	if len(x) == 0 {
		return 0
	}
	s := slices.Clone(x)
	slices.Sort(s)
	return s[len(s)/2]
}
