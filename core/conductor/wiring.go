package conductor

import (
	"errors"
	"fmt"
	"math"
)

// Sizes are the metric cross-sections of vehicle and boat cable, mm² (ISO 6722-1).
var sizes = []float64{0.5, 0.75, 1, 1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95, 120}

// ampacity is the current a single cable may carry for long with insulation for
// 70 °C, A, by [sizes] (ISO 10133, table A.1, from memory; not in engine spaces).
var ampacity = []float64{7, 10, 14, 18, 25, 35, 45, 65, 90, 120, 160, 210, 265, 310, 360}

// Ampacity is the continuous current of a cable of area mm², A, interpolated; the
// manual and local code come before it.
func Ampacity(area float64) float64 {
	switch {
	case area <= sizes[0]:
		return ampacity[0] * area / sizes[0]
	case area >= sizes[len(sizes)-1]:
		return ampacity[len(ampacity)-1]
	}
	for i := 1; i < len(sizes); i++ {
		if area <= sizes[i] {
			f := math.Log(area/sizes[i-1]) / math.Log(sizes[i]/sizes[i-1])
			return ampacity[i-1] * math.Pow(ampacity[i]/ampacity[i-1], f)
		}
	}
	return ampacity[len(ampacity)-1]
}

// Cable is a size that does, and what it loses.
type Cable struct {
	Area    float64 // mm²
	AWG     string  // the gauge that is at least as thick
	Drop    float64 // V over the whole way
	ByHeat  bool    // heat decided, not drop
	Needed  float64 // mm², by drop alone
	Current float64 // A it may carry for long
}

// SizeFor finds the least standard cable for a current (A), a length of wire (m, there
// and back where the return is wire), an allowed drop (V) and a copper temperature
// (°C): A = ρ l I / ΔV, and no hotter than its ampacity.
func SizeFor(amperes, metres, drop, celsius float64) (Cable, error) {
	if !(amperes > 0 && metres > 0 && drop > 0) || math.IsInf(amperes+metres+drop, 0) || !(celsius >= -60 && celsius <= 250) {
		return Cable{}, errors.New("amperes, metres and the allowed drop lie above zero, the copper's temperature between -60 and 250 °C")
	}
	r1, err := Resistance(1, 1, celsius)
	if err != nil {
		return Cable{}, err
	}
	c := Cable{Needed: r1 * metres * amperes / drop}
	for i, a := range sizes {
		if a >= c.Needed && ampacity[i] >= amperes {
			c.Area, c.Current = a, ampacity[i]
			c.Drop = r1 * metres / a * amperes
			c.ByHeat = i > 0 && sizes[i-1] >= c.Needed
			c.AWG = GaugeFor(a)
			return c, nil
		}
	}
	return Cable{}, errors.New("no single cable up to 120 mm² does this: shorten the way, run two in parallel, or raise the voltage")
}

// GaugeFor is the thinnest American gauge that is at least as thick as area mm²,
// within one part in fifty.
func GaugeFor(area float64) string {
	for n := 22; n >= -3; n-- {
		if AWGArea(n) >= 0.98*area {
			return gauge(n)
		}
	}
	return "above AWG 4/0"
}

func gauge(n int) string {
	if n > 0 {
		return fmt.Sprintf("AWG %d", n)
	}
	return fmt.Sprintf("AWG %d/0", 1-n)
}

// JointHeat is the heat in a joint, W: P = I²R, and what it means. Under 1 W a joint
// stays cool; a plug's housing of nylon softens from some 5 W in its contact; from 20 W
// it discolours, melts and may burn (from memory).
func JointHeat(amperes, ohm float64) (watts float64, level string) {
	w := amperes * amperes * ohm
	switch {
	case w < 1:
		return w, "cool"
	case w < 5:
		return w, "warm"
	case w < 20:
		return w, "hot"
	}
	return w, "fire"
}

// Splice is how a wire is joined.
type Splice struct {
	Barrel float64 // mm², what the crimp barrel must take: both wires where they lie side by side
	Strip  float64 // mm
	Sleeve float64 // mm of heat-shrink with adhesive
	Length float64 // mm, all
}

// SpliceFor is a crimped butt splice with adhesive sleeve for a wire of area mm²
// (common practice: strip half the barrel, 10 mm of sleeve beyond it on either side).
func SpliceFor(area float64) (Splice, error) {
	if !(area >= 0.3 && area <= 120) {
		return Splice{}, errors.New("give the wire's cross-section, 0.3 to 120 mm²")
	}
	barrel := 15.0
	switch {
	case area > 35:
		barrel = 50
	case area > 10:
		barrel = 35
	case area > 6:
		barrel = 26
	case area > 2.5:
		barrel = 20
	}
	return Splice{area, barrel/2 + 1, barrel + 20, barrel + 20}, nil
}

// Strands is what a bundle with broken strands still does.
type Strands struct {
	Left     float64 // share of the copper left
	Ampacity float64 // A, of what is left
	Watts    float64 // lost in the damaged length
	Fire     bool
	Why      string
}

// Damage is a wire with broken strands.
type Damage struct {
	Area    float64 // mm²
	Share   float64 // of the strands that are broken, 0 to 1
	Metres  float64 // over which they are
	Amperes float64 // that it carries
	Fuse    float64 // A, before it
	Exposed bool    // loose strands or burnt insulation near oil or fuel
}

// Strands judges a damaged wire. Loose strands near oil or fuel, or burnt insulation,
// are a fire hazard whatever still works.
func (d Damage) Strands() (Strands, error) {
	if !(d.Area > 0 && d.Share >= 0 && d.Share <= 1 && d.Metres >= 0 && d.Amperes >= 0 && d.Fuse >= 0) ||
		math.IsInf(d.Area+d.Metres+d.Amperes+d.Fuse, 0) {
		return Strands{}, errors.New("the broken share lies between 0 and 100 %, and area, length, current and fuse start at zero")
	}
	s := Strands{Left: 1 - d.Share}
	if s.Left <= 0 {
		return Strands{Why: "nothing carries: it is open", Fire: d.Exposed}, nil
	}
	s.Ampacity = Ampacity(d.Area * s.Left)
	s.Watts = d.Amperes * d.Amperes * CopperResistivity * d.Metres / (d.Area * s.Left)
	switch {
	case d.Exposed:
		s.Fire, s.Why = true, "loose strands or burnt insulation near oil or fuel: a spark is enough, whatever still works"
	case d.Fuse > s.Ampacity:
		s.Fire, s.Why = true, "the fuse would let more through than what is left of the copper can carry"
	case d.Amperes > s.Ampacity:
		s.Fire, s.Why = true, "it carries more than what is left of the copper can take for long"
	default:
		s.Why = "what is left carries it; the strands that broke had a reason, and more will follow"
	}
	return s, nil
}

// Gain is what a shorter feed would bring.
type Gain struct {
	Before, After float64 // V at the motor
	Speed         float64 // per cent more, where the motor's resistance is known roughly by stallShare
	Lost          float64 // V lost in the old feed
}

// Feed is a motor at the end of a long feed, and the short one behind a relay that would take its place.
type Feed struct {
	Battery, Motor float64 // V under load, now
	Amperes        float64
	Area           float64 // mm², of the new feed
	Metres         float64 // of the new feed, there and back
	Contact        float64 // Ω, of the relay
	Resistance     float64 // Ω, of the motor; 0: not known
}

// RelayGain works out what a relay close to the motor would gain. The current is taken as
// unchanged, since a load asks for torque; speed goes as V - I R. Both wiper speeds slow, a
// long thin feed: the case it is for.
func (f Feed) RelayGain() (Gain, error) {
	if !(f.Battery > 0 && f.Motor > 0 && f.Amperes > 0) || f.Motor > f.Battery || !(f.Resistance >= 0 && f.Contact >= 0) {
		return Gain{}, errors.New("volts at the motor lie between zero and the battery's, and amperes above zero")
	}
	if f.Resistance*f.Amperes >= f.Motor {
		return Gain{}, errors.New("with this resistance and current the motor would stand still: check both")
	}
	r, err := Resistance(f.Area, f.Metres, 20)
	if err != nil {
		return Gain{}, err
	}
	g := Gain{Before: f.Motor, Lost: f.Battery - f.Motor, After: f.Battery - f.Amperes*(r+f.Contact)}
	braking := f.Amperes * f.Resistance
	g.Speed = 100 * ((g.After-braking)/(g.Before-braking) - 1)
	return g, nil
}
