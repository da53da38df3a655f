package wear

import (
	"errors"
	"math"
)

// Brush is a brush as measured. Lengths in metres, hours of running.
type Brush struct {
	New, Now, Min float64
	Hours         float64 // run since new; 0: not known
	U             float64 // standard uncertainty of a length
}

// Left is what a brush has left.
type Left struct {
	Share            float64 // of the usable length, 0..1
	U                float64 // of the share
	Hours            float64 // expected
	LowHours, HiHour float64 // 80 % interval
	Known            bool    // hours can be told
	Worn             bool    // at or under the minimum
}

// rateSpread is the log standard deviation of a brush's future wear rate about its
// past one: load, dust and humidity change (from memory: a factor of 1.5 either way is
// usual).
const rateSpread = 0.35

// DefaultMin is the share of the new length at which a brush counts as worn where
// the maker's mark is not known (from memory): starters 0.6, others a third.
func DefaultMin(starter bool) float64 {
	if starter {
		return 0.6
	}
	return 1.0 / 3
}

// Left works out the share and the hours left: (now - min)/(new - min), and that
// length over the rate worn so far. The interval holds the caliper's error and
// the spread of the rate.
func (b Brush) Left() (Left, error) {
	switch {
	case !(b.New > 0) || !(b.Now >= 0) || !(b.Min >= 0) || math.IsInf(b.New+b.Hours, 0) || !(b.Hours >= 0):
		return Left{}, errors.New("lengths and hours start at zero, and the new length lies above it")
	case b.Min >= b.New:
		return Left{}, errors.New("the minimum is as long as the new brush: check which is which")
	case b.Now > b.New+3*b.U+0.02*b.New:
		return Left{}, errors.New("the brush is longer than a new one: check which is which, or the unit")
	}
	usable := b.New - b.Min
	l := Left{Share: math.Max(0, math.Min(1, (b.Now-b.Min)/usable)), U: math.Sqrt2 * b.U / usable, Worn: b.Now <= b.Min}
	worn := b.New - b.Now
	if b.Hours <= 0 || worn <= 2*b.U { // too little is gone to tell a rate
		return l, nil
	}
	l.Known = true
	left := math.Max(b.Now-b.Min, 0)
	l.Hours = left / worn * b.Hours
	s := math.Hypot(rateSpread, math.Sqrt2*b.U/worn)
	if left > 0 {
		s = math.Hypot(s, b.U/left)
	}
	l.LowHours, l.HiHour = l.Hours*math.Exp(-1.2816*s), l.Hours*math.Exp(1.2816*s)
	return l, nil
}

// Finding is what may be seen on a part: what it means and what may be done about
// it, with the schools side by side where they differ.
type Finding struct {
	ID      string   `json:"id"`
	Label   string   `json:"label"`
	Means   string   `json:"means"`
	Do      string   `json:"do"`
	Schools []School `json:"schools,omitempty"`
	Bad     bool     `json:"bad"`
	Word    string   `json:"word,omitempty"` // the outcome it is as evidence
}

// School is one way practitioners do it, and why.
type School struct {
	Way string `json:"way"`
	Why string `json:"why"`
}

// Commutator lists what may be seen on a commutator (common practice).
func Commutator() []Finding {
	paper := []School{
		{"Fine abrasive paper, 400 to 800 grit, then the slots scraped clean", "paper leaves no conducting grit behind"},
		{"A commutator stone, the armature turning",
			"a stone is stiff and takes the high places first; its dust must be blown out afterwards"},
	}
	return []Finding{
		{ID: "smooth", Label: "smooth, straw to chocolate", Means: "A good film: it took time to form.",
			Do: "Leave it. Wipe it dry, nothing more.", Word: "smooth"},
		{ID: "dirty", Label: "black and greasy", Means: "Oil from a seal, or brush dust.",
			Do: "Clean it with a cloth and brake cleaner, then find where the oil comes from.", Schools: paper, Word: "dirty"},
		{ID: "burnt_bars", Label: "single bars burnt",
			Means: "The coil between burnt bars is open or badly joined, or the brush jumps there.",
			Do:    "Bar-to-bar test before any cleaning: cleaning hides it for a week.", Bad: true, Word: "burnt_bars"},
		{ID: "ridged", Label: "grooved or ridged", Means: "Hard or wrong brushes, grit, or too little spring.",
			Do: "Turn it, if the least diameter allows, then undercut; else replace the armature.",
			Schools: []School{{"Turn and undercut at every overhaul", "new brushes seat on a true surface"},
				{"Leave grooves under 0.3 mm that the new brush will follow",
					"every turning takes copper that never comes back"}}, Bad: true, Word: "ridged"},
		{ID: "track", Label: "one darker place, once a turn",
			Means: "Run-out or one raised bar: the brush leaves the copper there.",
			Do:    "Measure run-out; tap no bar back, turn it.", Bad: true, Word: "burnt_bars"},
		{ID: "dragged", Label: "copper dragged over the slots", Means: "Vibration or too light a brush load.",
			Do: "Clear the slots, chamfer the edges, check the springs.", Word: "dirty"},
	}
}

// Limits of a commutator where the manual gives none, metres (from memory).
const (
	MaxRunOut   = 0.00005
	MinUndercut = 0.0002
	Undercut    = 0.0005
	MaxTurned   = 0.04 // share of the new diameter that may be turned off
)
