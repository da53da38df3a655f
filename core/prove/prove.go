package prove

import (
	"fmt"
	"math"

	"corriente/core/circuit"
)

// Tick is one thing to be ticked, or given a value.
type Tick struct {
	ID    string `json:"id"`
	Label string `json:"label"`
	Must  bool   `json:"must"` // without it nothing is passed
}

// Facts are what a job says of itself.
type Facts struct {
	Unplugged bool // something was off the supply
	Codes     bool // it has blink codes, or a controller
	Stripped  bool
	Generator bool // the machine is a generator set
	Temporary bool // the repair is a temporary one
}

// Ticks lists what belongs to a circuit's proof (common practice).
func Ticks(c *circuit.Circuit, f Facts) []Tick {
	n := "three cycles"
	if c.ID == "starter" || c.ID == "contactor_motor" {
		n = "five starts"
	}
	out := []Tick{
		{"cycles", n + " one after the other, under its normal load", true},
		{"cold", "once cold, after it has stood", false},
		{"hot", "once hot, after it has worked", false},
	}
	out = append(out, ofCircuit(c)...)
	if f.Stripped {
		out = append(out, Tick{"nothing_left", "tools and screws counted, nothing left over", true})
	}
	if f.Unplugged {
		out = append(out, Tick{"plugged", "what was unplugged is plugged in until it clicks", true})
	}
	if f.Codes || f.Unplugged {
		out = append(out, Tick{"codes", "codes read, cleared, and read again after a run: none came back", f.Codes})
	}
	if f.Generator {
		out = append(out, Tick{"genset", "hertz and volts from its own panel, without and with load, and the droop", true},
			Tick{"genset_hot", "started again hot, after half an hour under load", false})
	}
	if f.Temporary {
		out = append(out, Tick{"label", "its label is on the machine, with the date", true})
	}
	return out
}

// ofCircuit lists what one circuit must show besides its readings.
func ofCircuit(c *circuit.Circuit) []Tick {
	switch c.ID {
	case "wiper":
		return []Tick{{"parks", "switched off in mid-stroke, at both speeds: the blades run home and stop", true},
			{"arms", "the arms lie on their marks", false}}
	case "stator":
		return []Tick{{"charges", "engine running above idle: the battery's volts rise to the regulator's and stay there", true}}
	case "blower_module", "blower_resistor":
		return []Tick{{"thermal", "after ten minutes on full, plug, fuses and motor feel alike, or look alike in a thermal picture", false},
			{"road", "road test, heater on", false}}
	case "capacitor_fan":
		return []Tick{{"dead", "isolated and discharged once more before the cover was closed", true}}
	case "traction":
		return []Tick{{"stops", "throttle let go: it stops, and the brake holds on a slope", true}}
	case "window":
		return []Tick{{"end_stops", "runs to both ends without a stop, and goes back if something is in its way", false}}
	case "actuator":
		return []Tick{{"way", "it moves the way that is asked for, to both ends", true}}
	}
	return nil
}

// Genset is what a generator set's own panel or a plug-in instrument shows. Nothing is
// probed.
type Genset struct {
	Nominal          float64 // Hz, 50 or 60
	NoLoad, FullLoad float64 // Hz
	Volts            float64 // V, at load
	NominalVolts     float64
	Poles            int // 0: not known
}

// GensetSays judges it: droop = 100 (no-load - full-load)/full-load; a spring-governed set
// is set 1.5 to 2.5 Hz above nominal with no load so that it carries its load near
// nominal (common practice); rpm = 120 f / poles.
func (g Genset) GensetSays() (droop float64, rpm float64, good bool, says string, err error) {
	if !(g.Nominal >= 40 && g.Nominal <= 70 && g.NoLoad > 0 && g.FullLoad > 0) || math.IsInf(g.NoLoad+g.FullLoad+g.Volts, 0) {
		return 0, 0, false, "", fmt.Errorf("give the nominal frequency, 50 or 60 Hz, and both readings in hertz")
	}
	droop = 100 * (g.NoLoad - g.FullLoad) / g.FullLoad
	if g.Poles > 0 {
		rpm = 120 * g.NoLoad / float64(g.Poles)
	}
	good = true
	add := func(s string) { good = false; says += s + " " }
	switch {
	case droop < -0.5:
		add("It runs faster with load than without: the readings are the wrong way round, or the governor hunts.")
	case droop > 8:
		add(fmt.Sprintf("A droop of %.1f %% is more than 8 %%: the governor's spring, or the engine does not carry its load.", droop))
	}
	switch off := g.NoLoad - g.Nominal; {
	case off > 3.5:
		add(fmt.Sprintf("Without load it runs %.1f Hz above nominal: set it 1.5 to 2.5 Hz above.", off))
	case off < 0:
		add("Without load it runs under nominal: it will not carry its load.")
	}
	if off := g.FullLoad - g.Nominal; off < -2.5 {
		add(fmt.Sprintf("With load it falls %.1f Hz under nominal.", -off))
	}
	if g.NominalVolts > 0 && g.Volts > 0 && math.Abs(g.Volts/g.NominalVolts-1) > 0.1 {
		add(fmt.Sprintf("%.0f V is more than 10 %% from nominal.", g.Volts))
	}
	if good {
		says = fmt.Sprintf("Within what a governed set does: %.1f %% droop.", droop)
	}
	return droop, rpm, good, says, nil
}
