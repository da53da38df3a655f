package motor

import (
	"errors"
	"math"
)

// Run is a bench point: terminal volts and amperes, and the shaft's speed (rad/s; 0 at
// stall).
type Run struct {
	V, I, W float64
}

// Fitted are the constants that bench points speak for.
type Fitted struct {
	R, Ke, Friction    float64 // Ω, V s/rad, N m
	UR, UKe, UFriction float64 // standard errors; 0 where as many points as unknowns were given
	Rms                float64 // V, of the residuals
}

// Fit finds resistance, speed constant and friction of a permanent-magnet motor from
// bench points, unloaded or stalled: V - Vb = R I + Ke w by least squares, and
// friction = Ke I over the points that turn. One stalled and one turning point give
// both exactly; more give their errors. brushDrop is that of the pair, V.
func Fit(runs []Run, brushDrop float64) (Fitted, error) {
	var ii, iw, ww, iv, wv float64
	turning, stalled := 0, 0
	for _, r := range runs {
		if !(r.V > 0 && r.I > 0 && r.W >= 0) || math.IsInf(r.V+r.I+r.W, 0) {
			return Fitted{}, errors.New("volts and amperes lie above zero, and the speed is zero at stall")
		}
		if r.V <= brushDrop {
			return Fitted{}, errors.New("a point below the brushes' own drop tells nothing: feed more volts")
		}
		if r.W > 0 {
			turning++
		} else {
			stalled++
		}
		v := r.V - brushDrop
		ii, iw, ww, iv, wv = ii+r.I*r.I, iw+r.I*r.W, ww+r.W*r.W, iv+r.I*v, wv+r.W*v
	}
	if turning == 0 || len(runs) < 2 {
		return Fitted{}, errors.New("at least one point turning and one more, best stalled for a second, are needed")
	}
	det := ii*ww - iw*iw
	if det < 1e-6*ii*ww {
		return Fitted{}, errors.New("the points lie too close together to part resistance from speed: add one stalled, or loaded")
	}
	f := Fitted{R: (iv*ww - wv*iw) / det, Ke: (wv*ii - iv*iw) / det}
	if f.R <= 0 || f.Ke <= 0 {
		return Fitted{}, errors.New("no motor behaves so: check which value is volts, amperes and rpm")
	}
	ss, t, tt := 0.0, 0.0, 0.0
	for _, r := range runs {
		d := r.V - brushDrop - f.R*r.I - f.Ke*r.W
		ss += d * d
		if r.W > 0 {
			t, tt = t+f.Ke*r.I, tt+f.Ke*r.I*f.Ke*r.I
		}
	}
	k := float64(turning)
	f.Friction = t / k
	f.Rms = math.Sqrt(ss / float64(len(runs)))
	if n := len(runs) - 2; n > 0 {
		s2 := ss / float64(n)
		f.UR, f.UKe = math.Sqrt(s2*ww/det), math.Sqrt(s2*ii/det)
	}
	if turning > 1 {
		f.UFriction = math.Sqrt(math.Max(tt/k-f.Friction*f.Friction, 0) / (k - 1))
	}
	return f, nil
}
