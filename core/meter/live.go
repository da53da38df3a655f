package meter

import (
	"math"
	"time"
)

// Live follows a display that moves: it says when it has come to rest, and keeps
// the least, the greatest and the mean, as for a crank.
type Live struct {
	acc   Accuracy
	last  []sample
	began time.Time

	State
	sum float64
}

type sample struct {
	at   time.Time
	v    float64
	over bool
}

// State is what a moving display amounts to so far, SI.
type State struct {
	Value   float64 `json:"value"`
	Over    bool    `json:"over"`
	Settled bool    `json:"settled"`
	Min     float64 `json:"min"`
	Max     float64 `json:"max"`
	Mean    float64 `json:"mean"`
	N       int     `json:"n"` // readings that were numbers
}

// A display has settled when the readings of the last second, four at least,
// stay within two counts or half a per cent (common practice: wait until the
// last digit is all that moves).
const (
	settleFor   = 900 * time.Millisecond
	settleReads = 4
	settleShare = 0.005
)

// The first moment is the dial's and the range's: it counts for no least,
// greatest or mean.
const warmUp = 700 * time.Millisecond

// NewLive follows one function of an instrument.
func NewLive(acc Accuracy) *Live { return &Live{acc: acc} }

// Add takes the next reading and returns the state after it.
func (l *Live) Add(at time.Time, v float64, over bool) State {
	l.last = append(l.last, sample{at, v, over})
	for len(l.last) > settleReads && at.Sub(l.last[1].at) >= settleFor {
		l.last = l.last[1:]
	}
	if l.began.IsZero() {
		l.began = at
	}
	l.Value, l.Over = v, over
	if !over && at.Sub(l.began) >= warmUp {
		if l.N == 0 {
			l.Min, l.Max = v, v
		}
		l.Min, l.Max = math.Min(l.Min, v), math.Max(l.Max, v)
		l.sum += v
		l.N++
		l.Mean = l.sum / float64(l.N)
	}
	l.Settled = l.rests(at)
	return l.State
}

func (l *Live) rests(at time.Time) bool {
	if len(l.last) < settleReads || at.Sub(l.last[0].at) < settleFor {
		return false
	}
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, s := range l.last {
		if s.over != l.last[0].over {
			return false
		}
		lo, hi = math.Min(lo, s.v), math.Max(hi, s.v)
	}
	if l.last[0].over {
		return true
	}
	mid := math.Max(math.Abs(lo), math.Abs(hi))
	return hi-lo <= math.Max(2.001*l.acc.Count(mid), settleShare*mid)
}
