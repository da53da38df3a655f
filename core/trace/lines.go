package trace

import (
	"cmp"
	"math"
	"math/cmplx"
	"slices"
	"sync"

	"gonum.org/v1/gonum/dsp/fourier"
)

// Bounds of what is looked at. Above mostHz no commutation is claimed: a converter's noise
// lives there (see docs/choices.md).
const (
	mostHz   = 6500.0 // of humps, Hz
	mostRPM  = 25000.0
	bandRate = 20000.0 // samples a second that are enough for them
	bandLen  = 1 << 16 // samples that the search looks at
	bandEdge = 1 << 14 // and as many more for their trend
)

// band is the settled current as the search sees it: low-passed, thinned out, divided by its
// own slow trend, less one.
type band struct {
	y    []float64
	dt   float64 // s
	step float64 // samples of the trace to one of y
	at   float64 // sample of the trace that y[0] stands for
}

// newBand low-passes to a little over mostHz and thins out to every d-th sample.
func newBand(s []float32, dt float64, d int) *band {
	b := &band{}
	b.y = thin(s, d)
	b.dt, b.step = dt*float64(d), float64(d)
	return b
}

// unhum takes off what the mains put into a clamp, 50 and 60 Hz with their odd harmonics, by
// least squares. A motor's own line there goes with it, and is not missed: it is one of many.
func (b *band) unhum() {
	for _, hz := range []float64{50, 60, 150, 180, 250, 300} {
		w := 2 * math.Pi * hz * b.dt
		if float64(len(b.y))*w < 2*math.Pi || w > math.Pi/2 {
			continue
		}
		var ss, cc, sc, ys, yc float64
		for i, v := range b.y {
			s, c := math.Sincos(w * float64(i))
			ss += s * s
			cc += c * c
			sc += s * c
			ys += v * s
			yc += v * c
		}
		d := ss*cc - sc*sc
		p, q := (ys*cc-yc*sc)/d, (yc*ss-ys*sc)/d
		for i := range b.y {
			s, c := math.Sincos(w * float64(i))
			b.y[i] -= p*s + q*c
		}
	}
}

// part is the middle of a band, so many samples of it at most.
func (b *band) part(most int) *band {
	if len(b.y) <= most {
		return b
	}
	from := (len(b.y) - most) / 2
	return &band{y: b.y[from : from+most], dt: b.dt, step: b.step, at: b.at + float64(from)*b.step}
}

// thin is every d-th sample of s behind a low-pass of 0.325 to 0.65 of the new rate: a sinc in
// a Kaiser window of 60 dB (J. F. Kaiser, Nonrecursive digital filter design using the
// I0-sinh window function, 1974).
func thin(s []float32, d int) []float64 {
	out := make([]float64, len(s)/d)
	if d == 1 {
		for i := range out {
			out[i] = float64(s[i])
		}
		return out
	}
	half := 6 * d
	taps := make([]float64, 2*half+1)
	const beta = 5.65
	sum := 0.0
	for i := range taps {
		t := float64(i-half) / float64(d)
		x := float64(i-half) / float64(half)
		taps[i] = sinc(0.975*t) * bessel(beta*math.Sqrt(math.Max(0, 1-x*x)))
		sum += taps[i]
	}
	short := make([]float32, len(taps))
	for i := range taps {
		short[i] = float32(taps[i] / sum)
	}
	for k := range out {
		c := k*d + d/2
		lo, hi := c-half, c+half+1
		acc := float32(0)
		if lo >= 0 && hi <= len(s) {
			w := s[lo:hi]
			for i, v := range w {
				acc += v * short[i]
			}
		} else {
			for i := range short {
				acc += s[min(max(lo+i, 0), len(s)-1)] * short[i]
			}
		}
		out[k] = float64(acc)
	}
	return out
}

func sinc(x float64) float64 {
	if math.Abs(x) < 1e-9 {
		return 1
	}
	return math.Sin(math.Pi*x) / (math.Pi * x)
}

// bessel is I0, by its series.
func bessel(x float64) float64 {
	sum, term := 1.0, 1.0
	for k := 1.0; term > 1e-12*sum; k++ {
		term *= x * x / (4 * k * k)
		sum += term
	}
	return sum
}

// level divides y by its slow trend and takes one off.
func level(y []float64, width int) {
	t := boxed(boxed(y, width), width)
	for i := range y {
		y[i] = y[i]/math.Max(t[i], 1e-9) - 1
	}
}

// boxed is the moving mean over so many samples, shorter at the ends.
func boxed(y []float64, width int) []float64 {
	out := make([]float64, len(y))
	c := make([]float64, len(y)+1)
	for i, v := range y {
		c[i+1] = c[i] + v
	}
	for i := range y {
		a, b := max(0, i-width/2), min(len(y), i+width/2+1)
		out[i] = (c[b] - c[a]) / float64(b-a)
	}
	return out
}

// track is a line of the spectrum followed through the trace.
type track struct {
	at, f []float64 // middle of each frame in samples of y, and Hz there
	power float64   // mean of its whitened power's logarithm
	sway  float64   // greatest less least frequency against the middle one
}

func (t *track) hz() float64 { return middle(t.f) }

// peak is a line in one frame.
type peak struct {
	f, gain float64 // Hz, logarithm of the power against the floor about it
	used    bool
}

// tracks finds the lines that run through a band, the strongest first of each length of
// frame: short frames follow a speed that drifts, long ones find a line in noise.
func (b *band) tracks(most int) []*track {
	var sizes []int
	for _, cut := range []float64{1.7, 3, 8, 24, 80} {
		size := 128
		for float64(size*2) <= float64(len(b.y))/cut && size < 1<<14 {
			size *= 2
		}
		if size <= len(b.y) && !slices.Contains(sizes, size) {
			sizes = append(sizes, size)
		}
	}
	found := make([][]*track, len(sizes))
	var wg sync.WaitGroup
	for i, size := range sizes {
		wg.Go(func() { found[i] = b.follow(size, most) })
	}
	wg.Wait()
	var out []*track
	for _, ts := range found {
		for _, t := range ts {
			if !slices.ContainsFunc(out, t.same) {
				out = append(out, t)
			}
		}
	}
	return out
}

// same reports whether two tracks are one line.
func (t *track) same(o *track) bool {
	if math.Abs(t.hz()/o.hz()-1) > 0.01 {
		return false
	}
	for i, at := range t.at {
		if math.Abs(t.f[i]/interpolate(o.at, o.f, at)-1) > 0.015 {
			return false
		}
	}
	return true
}

// follow finds lines in frames of one size.
func (b *band) follow(size, most int) []*track {
	hop := size / 2
	if len(b.y) < 4*size {
		hop = size / 8
	}
	var at []float64
	var frames [][]peak
	fft := fourier.NewFFT(size)
	buf, win := make([]float64, size), make([]float64, size)
	for i := range win {
		win[i] = 0.5 - 0.5*math.Cos(2*math.Pi*(float64(i)+0.5)/float64(size))
	}
	var coef []complex128
	for p := 0; p+size <= len(b.y); p += hop {
		mean := 0.0
		for _, v := range b.y[p : p+size] {
			mean += v / float64(size)
		}
		for i := range buf {
			buf[i] = (b.y[p+i] - mean) * win[i]
		}
		coef = fft.Coefficients(coef, buf)
		frames = append(frames, peaks(coef, 1/(float64(size)*b.dt)))
		at = append(at, float64(p)+float64(size)/2)
	}
	var out []*track
	for range most {
		t := chain(frames, at)
		if t == nil {
			break
		}
		out = append(out, t)
	}
	return out
}

// mostPeaks is how many lines of a frame are kept.
const mostPeaks = 24

// peaks finds the lines of a spectrum that stand out of the floor about them.
func peaks(c []complex128, df float64) []peak {
	pow := make([]float64, len(c))
	for i, z := range c {
		pow[i] = real(z)*real(z) + imag(z)*imag(z)
	}
	floor := floors(pow, max(8, len(pow)/40))
	var out []peak
	top := min(len(pow)-1, int(mostHz*1.03/df))
	for i := 3; i < top; i++ {
		if pow[i] <= pow[i-1] || pow[i] < pow[i+1] || pow[i] < 6*floor[i] {
			continue
		}
		a, m, z := math.Log(pow[i-1]+1e-300), math.Log(pow[i]+1e-300), math.Log(pow[i+1]+1e-300)
		d := 0.0
		if q := a - 2*m + z; q < 0 {
			d = math.Max(-0.5, math.Min(0.5, 0.5*(a-z)/q))
		}
		out = append(out, peak{f: (float64(i) + d) * df, gain: math.Log(pow[i] / floor[i])})
	}
	slices.SortFunc(out, func(x, y peak) int { return cmp.Compare(y.gain, x.gain) })
	return out[:min(len(out), mostPeaks)]
}

// floors is the floor about each bin: a low quantile over blocks, drawn to the mean of an
// exponential law, which the power of noise has.
func floors(pow []float64, width int) []float64 {
	const quantile = 0.4
	scale := -1 / math.Log(1-quantile)
	var at, v []float64
	buf := make([]float64, 0, 2*width)
	for p := 0; p < len(pow); p += width {
		buf = buf[:0]
		for i := p; i < min(p+2*width, len(pow)); i += max(1, width/48) {
			buf = append(buf, pow[i])
		}
		slices.Sort(buf)
		at = append(at, float64(p)+float64(min(2*width, len(pow)-p))/2)
		v = append(v, buf[int(quantile*float64(len(buf)-1))]*scale+1e-300)
	}
	out := make([]float64, len(pow))
	for k := range v { // between two blocks along a straight line of the logarithms
		from, to := int(at[k]), len(pow)
		if k == 0 {
			from = 0
		}
		if k+1 < len(v) {
			to = min(to, int(at[k+1]))
		}
		ratio := 1.0
		if k+1 < len(v) && k > 0 {
			ratio = math.Pow(v[k+1]/v[k], 1/(at[k+1]-at[k]))
		}
		x := v[k]
		for i := from; i < to; i++ {
			out[i] = x
			x *= ratio
		}
	}
	return out
}

// mostChange is how far a speed moves from frame to frame at most, and changeSpread how far it
// mostly does.
const (
	mostChange   = 0.09
	changeSpread = 0.03
)

// chain joins the peaks of frames that follow on one another into the strongest line
// (dynamic programming), and takes its peaks off; nil where none runs through.
func chain(frames [][]peak, at []float64) *track {
	n := len(frames)
	score, from := make([][]float64, n), make([][]int, n)
	for i := range frames {
		score[i], from[i] = make([]float64, len(frames[i])), make([]int, len(frames[i]))
		for k := range frames[i] {
			p := &frames[i][k]
			from[i][k] = -1
			if p.used {
				score[i][k] = math.Inf(-1)
				continue
			}
			best := 0.0
			if i > 0 {
				for m := range frames[i-1] {
					d := math.Log(p.f / frames[i-1][m].f)
					if math.Abs(d) > mostChange || math.IsInf(score[i-1][m], -1) {
						continue
					}
					if v := score[i-1][m] - d*d/(changeSpread*changeSpread); v > best {
						best, from[i][k] = v, m
					}
				}
			}
			score[i][k] = best + p.gain
		}
	}
	bi, bk, best := -1, -1, 0.0
	for i := range score {
		for k, v := range score[i] {
			if v > best {
				bi, bk, best = i, k, v
			}
		}
	}
	if bi < 0 {
		return nil
	}
	t := &track{}
	for i, k := bi, bk; k >= 0; i, k = i-1, from[i][k] {
		p := &frames[i][k]
		t.at, t.f, t.power = append(t.at, at[i]), append(t.f, p.f), t.power+p.gain
		for m := range frames[i] {
			if math.Abs(frames[i][m].f/p.f-1) < 0.004 {
				frames[i][m].used = true
			}
		}
		p.used = true
	}
	slices.Reverse(t.at)
	slices.Reverse(t.f)
	// A line through less than half of the trace is no motor's that runs.
	if len(t.f)*2 < n {
		if best < 12 {
			return nil
		}
	}
	t.power /= float64(n)
	t.sway = (slices.Max(t.f) - slices.Min(t.f)) / middle(t.f)
	return t
}

// knots turns a track into the phase of its line at places through y, in cycles, and draws it
// to what y shows.
func (b *band) knots(t *track) []knot {
	f := t.hz()
	step := math.Max(1/(f*b.dt), 1)
	var ks []knot
	c := 0.0
	for a := 0.0; a < float64(len(b.y)); a += step {
		ks = append(ks, knot{a, c})
		c += interpolate(t.at, t.f, a+step/2) * step * b.dt
	}
	if len(ks) < 4 {
		return nil
	}
	for _, width := range []int{24, 12, 8} {
		ks = b.tighten(ks, min(width, max(2, len(ks)/6)))
	}
	return ks
}

// tighten corrects a phase by demodulating y with it, over windows of so many knots.
func (b *band) tighten(ks []knot, width int) []knot {
	n := len(ks)
	z := make([]complex128, n-1)
	for i := range z {
		a, e := int(math.Ceil(ks[i].at)), min(int(math.Ceil(ks[i+1].at)), len(b.y))
		per := (ks[i+1].hump - ks[i].hump) / (ks[i+1].at - ks[i].at)
		c := cmplx.Exp(complex(0, -2*math.Pi*(ks[i].hump+(float64(a)-ks[i].at)*per)))
		w := cmplx.Exp(complex(0, -2*math.Pi*per))
		var sum complex128
		for _, v := range b.y[min(a, e):e] {
			sum += complex(v, 0) * c
			c *= w
		}
		z[i] = sum
	}
	phase := make([]float64, n)
	prev := 0.0
	for i := range phase {
		var s complex128
		for k := max(0, i-width); k < min(len(z), i+width); k++ {
			s += z[k] * complex(1-math.Abs(float64(k)+0.5-float64(i))/float64(width+1), 0)
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
