package plate

import (
	"fmt"
	"math"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/unit"
)

// Motor is a motor's plate, SI; 0 is not known.
type Motor struct {
	Power float64 // W, at the shaft
	Volts float64 // V
	Amps  float64 // A, at that power
	Speed float64 // rad/s
}

// Amperes is what amperes to expect, A.
type Amperes struct {
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// efficiency is the share of the electric power that brushed motors of a kind give at the shaft,
// least and most (from memory: permanent-magnet motors under 1 kW run at 50 to 75 %, traction
// motors of some kW at 70 to 85 %).
//
// A starter's plate gives its greatest power, where it is half as efficient as a motor can be at
// best; an engine that it turns over takes less than that (from memory).
func efficiency(c *circuit.Circuit) (least, most float64) {
	switch c.ID {
	case "starter":
		return 0.5, 1
	case "traction":
		return 0.65, 0.88
	case "contactor_motor":
		return 0.5, 0.85
	}
	return 0.45, 0.78
}

// Draws is what a motor takes at work by its plate: the amperes that stand there, within a tenth,
// or what its power asks for at its volts.
func (p Motor) Draws(c *circuit.Circuit) (Amperes, error) {
	if p.Amps > 0 {
		return Amperes{0.9 * p.Amps, 1.1 * p.Amps}, nil
	}
	if !(p.Power > 0) {
		return Amperes{}, fmt.Errorf("a plate says amperes, or kilowatts: give one of the two")
	}
	least, most := efficiency(c)
	v := p.volts(c)
	return Amperes{p.Power / v / most, p.Power / v / least}, nil
}

func (p Motor) volts(c *circuit.Circuit) float64 {
	if p.Volts > 0 {
		return p.Volts
	}
	return c.NominalVoltage
}

// Parameters are the motor's own parameters by its plate, with how well each is known: amperes set
// how big the motor is, revolutions its constant.
//
// The usual motor of the circuit is scaled: at work V = R·I + V_b + k_e·ω and k_e·I balances
// friction and load. A motor of k times the amperes has a k-th of the ohms and k times the
// torque. Where the revolutions stand on the plate, k_e follows from what is left of the volts.
func (p Motor) Parameters(c *circuit.Circuit) ([]casefile.Given, Amperes, error) {
	band, err := p.Draws(c)
	if err != nil {
		return nil, band, err
	}
	var s *circuit.Station
	for i := range c.Stations {
		if c.Stations[i].Kind == circuit.Motor {
			s = &c.Stations[i]
		}
	}
	if s == nil {
		return nil, band, fmt.Errorf("circuit %s has no motor with a plate", c.ID)
	}
	param := func(name string) float64 { return s.Params[name].Value }
	ke, friction, load := param("ke"), param("friction"), param("load")
	usual := (friction + load) / ke
	amps := math.Sqrt(band.Low * band.High)
	k := amps / usual
	if !(k >= 0.02 && k <= 50) {
		return nil, band, fmt.Errorf("%s is far from what such a motor takes, about %s: check the unit, W or kW, and the volts",
			unit.Format(amps, unit.Current), unit.Format(usual, unit.Current))
	}
	percent := math.Max(10, math.Round(100*(band.High-band.Low)/(band.High+band.Low)))
	out := []casefile.Given{{Name: s.ID + ".resistance", Value: param("resistance") / k, Percent: math.Max(percent, 20)}}
	if p.Speed > 0 {
		v := p.volts(c)
		back := v - param("brush_drop") - amps*param("resistance")/k
		if back < 0.2*v { // a plate at the edge of its power: at least a fifth of the volts turns it
			back = 0.2 * v
		}
		ke = back / p.Speed
		out = append(out, casefile.Given{Name: s.ID + ".ke", Value: ke, Percent: 15},
			casefile.Given{Name: s.ID + ".rated_speed", Value: p.Speed, Percent: 5})
	}
	torque := ke * amps
	out = append(out,
		casefile.Given{Name: s.ID + ".friction", Value: torque * friction / (friction + load), Percent: 30},
		casefile.Given{Name: s.ID + ".load", Value: torque * load / (friction + load), Percent: percent})
	return out, band, nil
}

// Own lists the parameters that a plate sets.
func Own(motor string) []string {
	return []string{motor + ".resistance", motor + ".ke", motor + ".rated_speed", motor + ".friction", motor + ".load"}
}
