package trace

import (
	"fmt"
	"math"
	"math/cmplx"
	"regexp"
	"slices"
	"sort"
	"strconv"
	"strings"

	"gonum.org/v1/gonum/dsp/fourier"
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
	DriftPercent  float64   `json:"speed_drift_percent"` // greatest less least speed against the mean
	WeakBars      *[]int    `json:"weak_bars"`           // humps within one revolution, from 0; null where nothing marks one
	BarLevels     []float64 `json:"bar_levels"`          // per hump, A
	BarSigmas     []float64 `json:"bar_sigmas"`          // standard uncertainty of each, A
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

// Amperes picks a channel of a file and turns it into amperes, in place.
func Amperes(f *File, o Options) (x []float32, channel, scale string, warnings []string, err error) {
	per, err := PerAmpere(o.Scale)
	if err != nil {
		return nil, "", "", nil, err
	}
	k := -1
	var names []string
	for i := range f.Channels {
		c := &f.Channels[i]
		names = append(names, c.Name)
		if o.Channel != "" && strings.EqualFold(c.Name, o.Channel) {
			k = i
		}
	}
	amps := func(u string) bool { return u == "A" || u == "mA" }
	switch {
	case o.Channel != "" && k < 0:
		return nil, "", "", nil, fmt.Errorf("there is no channel %q: the file has %s", o.Channel, strings.Join(names, ", "))
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
				warnings = append(warnings, fmt.Sprintf("channel %s was taken, the one that moves most; name another where this is not the clamp", f.Channels[k].Name))
			}
		}
	}
	c := &f.Channels[k]
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
	start, stop := r.settle(x, dt, env, o.Offset)
	s := x[r.From:r.To]
	r.basics(x, s, start)
	_ = stop
	y := r.unchop(s, dt)
	if track := r.follow(y, dt); track != nil {
		r.bars(y, dt, track, o)
	} else if o.Bars > 0 {
		r.Warnings = append(r.Warnings, "no commutation ripple stands out of the noise: speed and bars cannot be read from this trace")
	} else {
		r.Warnings = append(r.Warnings, "no commutation ripple stands out of the noise: use a faster sweep or a clamp with more bandwidth")
	}
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
func (r *Analysis) settle(x []float32, dt float64, e *envelope, given float64) (start, stop int) {
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
		return -1, r.To
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
	return start, r.To
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

// segments cuts s into up to 24 pieces of a power of two.
func segments(n int) (size int, at []int) {
	size = 64
	for size*2 <= n/12 && size < 1<<15 {
		size *= 2
	}
	for size*2 <= n && size < 2048 {
		size *= 2
	}
	if size > n {
		return 0, nil
	}
	count := max(1, min(24, n/size))
	for i := range count {
		pos := 0
		if count > 1 {
			pos = i * (n - size) / (count - 1)
		}
		at = append(at, pos)
	}
	return size, at
}

// line is the strongest line of a piece's spectrum.
type line struct {
	f     float64 // Hz
	amp   float64 // of the signal itself, A
	ratio float64 // power against the middle of the spectrum
}

// spectrum finds lines. For ripple, of the first difference, which keeps slow load
// and the comb of a weak bar from outshouting it, with what lies far below the
// middle clipped, since a weak bar is deep and rare; for chopping of the current
// itself, whose edges would make every harmonic as strong. below bounds the
// frequency; 0: a third of the sampling rate.
type spectrum struct {
	fft  *fourier.FFT
	buf  []float64
	out  []complex128
	pow  []float64
	win  []float64
	sort []float64
	dt   float64
}

func newSpectrum(size int, dt float64) *spectrum {
	s := &spectrum{fft: fourier.NewFFT(size), buf: make([]float64, size), pow: make([]float64, size/2+1), win: make([]float64, size), dt: dt}
	for i := range s.win {
		s.win[i] = 0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/float64(size))
	}
	return s
}

func (s *spectrum) strongest(x []float32, ripple bool, below float64) line {
	n := len(s.buf)
	lo, hi := math.Inf(-1), math.Inf(1)
	if ripple {
		s.sort = s.sort[:0]
		for i := 0; i < n; i += max(1, n/4096) {
			s.sort = append(s.sort, float64(x[i]))
		}
		slices.Sort(s.sort)
		med, top := s.sort[len(s.sort)/2], s.sort[len(s.sort)*95/100]
		lo, hi = med-1.3*(top-med), med+2*(top-med)
	}
	cut := func(v float32) float64 {
		f := float64(v)
		if f < lo {
			return lo
		}
		if f > hi {
			return hi
		}
		return f
	}
	mean := 0.0
	for _, v := range x[:n] {
		mean += float64(v) / float64(n)
	}
	prev := cut(x[0])
	for i := range n {
		v := cut(x[i])
		if s.buf[i] = (v - mean) * s.win[i]; ripple {
			s.buf[i] = (v - prev) * s.win[i]
		}
		prev = v
	}
	s.out = s.fft.Coefficients(s.out, s.buf)
	df := 1 / (float64(n) * s.dt)
	from, to := 4, n/3
	if below > 0 {
		to = min(to, int(below/df))
	}
	if to <= from+2 {
		return line{}
	}
	for i := range s.pow {
		s.pow[i] = real(s.out[i])*real(s.out[i]) + imag(s.out[i])*imag(s.out[i])
	}
	best := from
	for i := from; i < to; i++ {
		if s.pow[i] > s.pow[best] {
			best = i
		}
	}
	s.sort = s.sort[:0]
	for i := from; i < to; i += max(1, (to-from)/2048) {
		s.sort = append(s.sort, s.pow[i])
	}
	slices.Sort(s.sort)
	mid := math.Max(s.sort[len(s.sort)/2], 1e-300)
	// Parabola through the logarithms: a Hann line's own top.
	d := 0.0
	if best > 0 && best+1 < len(s.pow) {
		a, b, c := math.Log(s.pow[best-1]+1e-300), math.Log(s.pow[best]+1e-300), math.Log(s.pow[best+1]+1e-300)
		if q := a - 2*b + c; q < 0 {
			d = math.Max(-0.5, math.Min(0.5, 0.5*(a-c)/q))
		}
	}
	f := (float64(best) + d) * df
	gain := 1.0
	if ripple {
		gain = 2 * math.Sin(math.Pi*f*s.dt) // of the difference
	}
	return line{f, math.Sqrt(s.pow[best]) * 4 / float64(n) / math.Max(gain, 1e-9), s.pow[best] / mid}
}

// chopShare is how far a module's chopping swings the current at least, against
// its mean; commutation stays below.
const chopShare = 0.35

// unchop finds a speed module's chopping, a steady line of great swing, and takes
// it off by the mean over exactly one of its periods. Without chopping it returns
// s itself.
func (r *Analysis) unchop(s []float32, dt float64) []float32 {
	size, at := segments(len(s))
	if size == 0 || r.RipplePercent < 100*chopShare {
		return s
	}
	sp := newSpectrum(size, dt)
	var fs, amps []float64
	for _, p := range at {
		l := sp.strongest(s[p:p+size], false, 0)
		if l.ratio > 100 {
			fs, amps = append(fs, l.f), append(amps, l.amp)
		}
	}
	if len(fs) < (len(at)+1)/2 {
		return s
	}
	f, spread := middle(fs), 0.0
	for _, v := range fs {
		spread = math.Max(spread, math.Min(math.Abs(v-f)/f, 1))
	}
	if 2*middle(amps) < chopShare*0.5*math.Abs(r.MeanA) || spread > 0.01 {
		return s
	}
	f = fine(s, dt, f)
	r.ChopHz = &f
	return box(box(s, 1/(f*dt)), 1/(f*dt)) // twice: its side lines sink too
}

func middle(x []float64) float64 {
	s := slices.Clone(x)
	slices.Sort(s)
	return s[len(s)/2]
}

// fine sharpens the frequency of a steady line by its phase from one end to the
// other.
func fine(s []float32, dt, f float64) float64 {
	span := int(64 / (f * dt))
	if span < 8 || span*2 > len(s) {
		return f
	}
	for gap := span; gap+span <= len(s); gap *= 2 {
		a, b := demodulate(s[:span], dt, f, 0), demodulate(s[gap:gap+span], dt, f, float64(gap)*dt)
		d := cmplx.Phase(b * cmplx.Conj(a))
		f += d / (2 * math.Pi * float64(gap) * dt)
	}
	return f
}

func demodulate(s []float32, dt, f, t0 float64) complex128 {
	w := cmplx.Exp(complex(0, -2*math.Pi*f*dt))
	z := cmplx.Exp(complex(0, -2*math.Pi*f*t0))
	var sum complex128
	for i, v := range s {
		h := 0.5 - 0.5*math.Cos(2*math.Pi*(float64(i)+0.5)/float64(len(s)))
		sum += complex(float64(v)*h, 0) * z
		z *= w
		if i&1023 == 1023 {
			z = cmplx.Exp(complex(0, -2*math.Pi*f*(t0+float64(i+1)*dt)))
		}
	}
	return sum
}

// box is the mean over a window of w samples, w need not be whole.
func box(s []float32, w float64) []float32 {
	out := make([]float32, len(s))
	half := int(w / 2)
	whole := 2*half + 1
	if float64(whole) > w {
		half--
		whole -= 2
	}
	if half < 0 {
		copy(out, s)
		return out
	}
	edge := (w - float64(whole)) / 2
	at := func(i int) float64 { return float64(s[min(max(i, 0), len(s)-1)]) }
	sum := 0.0
	for i := -half; i <= half; i++ {
		sum += at(i)
	}
	for i := range out {
		out[i] = float32((sum + edge*(at(i-half-1)+at(i+half+1))) / w)
		sum += at(i+half+1) - at(i-half)
	}
	return out
}

// knot is the ripple's phase, in humps, at a sample.
type knot struct{ at, hump float64 }

// standOut is how far the ripple's line must stand above the spectrum's middle:
// the greatest of ten thousand lines of noise reaches 14.
const standOut = 40

// follow tracks the ripple: its frequency piece by piece, then its phase, so that
// a drifting speed is followed hump by hump. nil where there is none.
func (r *Analysis) follow(y []float32, dt float64) []knot {
	size, at := segments(len(y))
	if size == 0 {
		return nil
	}
	below := 0.0
	if r.ChopHz != nil {
		below = *r.ChopHz * 0.3 // nearer to the chopping its own side lines stand
	}
	sp := newSpectrum(size, dt)
	var pos, fs []float64
	for _, p := range at {
		if l := sp.strongest(y[p:p+size], true, below); l.ratio > standOut {
			pos, fs = append(pos, float64(p)+float64(size)/2), append(fs, l.f)
		}
	}
	if len(fs) == 0 || len(fs)*2 < len(at) {
		return nil
	}
	// A piece that locked on another line is left out.
	f := middle(fs)
	k := 0
	for i := range fs {
		if math.Abs(fs[i]-f) < 0.3*f {
			pos[k], fs[k] = pos[i], fs[i]
			k++
		}
	}
	pos, fs = pos[:k], fs[:k]
	if k == 0 || f*dt > 0.34 || float64(len(y))*dt*f < 8 {
		return nil
	}
	// Phase from the frequencies, in steps of two humps.
	step := math.Max(2/(f*dt), 1)
	hump := 0.0
	var ks []knot
	for a := 0.0; a < float64(len(y)); a += step {
		ks = append(ks, knot{a, hump})
		hump += interpolate(pos, fs, a+step/2) * step * dt
	}
	if len(ks) < 3 {
		return nil
	}
	for _, width := range []float64{8, 14} {
		ks = tighten(y, ks, width)
	}
	return ks
}

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

// tighten corrects the phase by demodulating y with it, over windows of so many
// humps.
func tighten(y []float32, ks []knot, width float64) []knot {
	n := len(ks)
	z := make([]complex128, n-1)
	// Clip what lies far below: a weak bar must not pull the phase.
	var sample []float64
	for i := 0; i < len(y); i += max(1, len(y)/20000) {
		sample = append(sample, float64(y[i]))
	}
	slices.Sort(sample)
	med, top := sample[len(sample)/2], sample[len(sample)*95/100]
	lo, hi := med-2*(top-med), med+3*(top-med)
	cut := func(v float32) float64 {
		f := float64(v)
		if f < lo {
			return lo
		}
		if f > hi {
			return hi
		}
		return f
	}
	for i := range z {
		a, b := int(math.Ceil(ks[i].at)), int(math.Ceil(ks[i+1].at))
		if b > len(y) {
			b = len(y)
		}
		per := (ks[i+1].hump - ks[i].hump) / (ks[i+1].at - ks[i].at)
		ph := -2 * math.Pi * (ks[i].hump + (float64(a)-ks[i].at)*per)
		w := cmplx.Exp(complex(0, -2*math.Pi*per))
		c := cmplx.Exp(complex(0, ph))
		mean := 0.0
		for _, v := range y[a:b] {
			mean += cut(v)
		}
		mean /= math.Max(float64(b-a), 1)
		re, im := 0.0, 0.0
		cr, ci, wr, wi := real(c), imag(c), real(w), imag(w)
		for _, v := range y[a:b] {
			d := cut(v) - mean
			re += d * cr
			im += d * ci
			cr, ci = cr*wr-ci*wi, cr*wi+ci*wr
		}
		z[i] = complex(re, im)
	}
	half := int(math.Max(1, width/4)) // a knot every two humps
	phase := make([]float64, n)
	prev := 0.0
	for i := range phase {
		var s complex128
		for k := max(0, i-half); k < min(len(z), i+half); k++ {
			s += z[k]
		}
		p := cmplx.Phase(s) / (2 * math.Pi)
		if i > 0 {
			p += math.Round(prev - p)
		}
		phase[i], prev = p, p
	}
	out := make([]knot, n)
	for i := range out {
		out[i] = knot{ks[i].at, ks[i].hump + phase[i]}
		if i > 0 && out[i].hump <= out[i-1].hump {
			out[i].hump = out[i-1].hump + 1e-6
		}
	}
	return out
}

// bars folds the humps into revolutions.
func (r *Analysis) bars(y []float32, dt float64, ks []knot, o Options) {
	// A hump runs from one least to the next: the fundamental's phase a half.
	first, last := math.Ceil(ks[0].hump+0.5), math.Floor(ks[len(ks)-1].hump+0.5)-1
	var marks []float64
	i := 0
	for h := first; h <= last; h++ {
		want := h - 0.5
		for i+1 < len(ks)-1 && ks[i+1].hump < want {
			i++
		}
		t := (want - ks[i].hump) / (ks[i+1].hump - ks[i].hump)
		marks = append(marks, ks[i].at+t*(ks[i+1].at-ks[i].at))
	}
	if len(marks) < 6 {
		return
	}
	r.marks = marks
	hz := float64(len(marks)-1) / ((marks[len(marks)-1] - marks[0]) * dt)
	r.RippleHz = &hz
	levels := make([]float64, len(marks)-1)
	for k := range levels {
		levels[k] = meanOver(y, marks[k], marks[k+1])
	}
	base := smoothed(levels, 97)
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

	fold := 0
	if o.Bars > 0 {
		fold = HumpsOf(o.Bars, o.Brushes)
		b := o.Bars
		r.Bars = &b
	} else if p := period(rel); p > 0 {
		b, h, sure := barsOf(p, o.Brushes)
		r.Bars, fold = &b, h
		if !sure {
			r.Warnings = append(r.Warnings, fmt.Sprintf("the pattern repeats every %d humps: taken as %d bars; if the motor has another number, give it, since the speed follows from it", p, b))
		}
	}
	if fold == 0 {
		r.Warnings = append(r.Warnings, "all humps are alike, so nothing in the trace marks a revolution: give the number of bars for speed and bar levels")
		return
	}
	r.Humps, r.folds = &fold, fold
	rpm := 60 * hz / float64(fold)
	r.RPM = &rpm
	r.levels(rel, fold)
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

// Bounds of what a revolution may be, humps.
const (
	leastFold = 3
	mostFold  = 160
	mostHumps = 20000 // more would tell nothing new
)

// period finds after how many humps the pattern of their levels repeats: the
// least number that explains nearly as much of their variance as any. 0 where
// none explains more than chance.
func period(rel []float64) int {
	type fit struct {
		p         int
		share, f  float64
		deviation float64
	}
	rel = rel[:min(len(rel), mostHumps)]
	mean := 0.0
	for _, v := range rel {
		mean += v
	}
	mean /= float64(len(rel))
	total := 0.0
	for _, v := range rel {
		total += (v - mean) * (v - mean)
	}
	if total == 0 {
		return 0
	}
	var fits []fit
	best := 0.0
	n := float64(len(rel))
	for p := leastFold; p <= mostFold && p*4 <= len(rel); p++ {
		sums, counts := make([]float64, p), make([]float64, p)
		for k, v := range rel {
			sums[k%p] += v - mean
			counts[k%p]++
		}
		between, dev := 0.0, 0.0
		for i := range sums {
			between += sums[i] * sums[i] / counts[i]
			dev = math.Max(dev, math.Abs(sums[i]/counts[i]))
		}
		within := math.Max(total-between, 1e-12*total)
		// Adjusted for what chance alone would explain.
		adj := 1 - (within/(n-float64(p)))/(total/(n-1))
		fits = append(fits, fit{p, adj, (between / float64(p-1)) / (within / (n - float64(p))), dev})
		best = math.Max(best, adj)
	}
	for _, f := range fits {
		if f.share >= 0.9*best && f.share > 0.02 && f.f > 6 && f.deviation > 0.006 {
			return f.p
		}
	}
	return 0
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
		parts = append(parts, fmt.Sprintf("%d %s weak, %.0f %% below the mean at worst: a commutator bar or its winding", n, word, 100*(1-worst/r.MeanA)))
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
	r.Verdict = strings.ToUpper(parts[0][:1]) + parts[0][1:]
	if len(parts) > 1 {
		r.Verdict += "; " + strings.Join(parts[1:], "; ")
	}
	r.Verdict += "."
}
