package evaluate

import (
	"errors"
	"fmt"
	"math/rand/v2"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/evaluate/field"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/unit"
)

// Where machines come from.
const (
	Own    = "own"    // the adviser's own model of circuits and faults
	Field  = "field"  // other equations, the settings that are reported on
	Tuning = "tuning" // other equations, the settings that judgement is developed on
)

// Worlds lists them.
func Worlds() []string { return []string{Own, Field, Tuning} }

// subject is a machine that is worked to a verdict.
type subject interface {
	// Measure fills in what an ordinary meter shows.
	Measure(e *casefile.Evidence) error
	// Answer is what somebody says of it.
	Answer(observe, state, through string) string
	// Truth is what is wrong with it, station.mode=severity.
	Truth() []string
	// Stations are those that are at fault.
	Stations() map[string]bool
	// Lost is the share of the speed that the faults cost, 0 to 1.
	Lost() float64
	// Instruments are the meters that are declared; none: ordinary ones are taken.
	Instruments() map[string]meter.Instrument
	// Repaired is the machine with a station put right.
	Repaired(station string) subject
}

// ownMachine is a machine of the adviser's own model.
type ownMachine struct {
	a   *diagnose.Adviser
	mc  *machine.Machine
	rng *rand.Rand
}

func (m ownMachine) Measure(e *casefile.Evidence) error {
	return m.mc.Measure(e, meter.Default(e.Measure))
}

func (m ownMachine) Answer(observe, state, _ string) string {
	return m.a.Answer(m.mc.Truth(), observe, state, nil, m.rng)
}

func (m ownMachine) Truth() []string {
	var out []string
	for _, h := range m.mc.Hidden {
		out = append(out, fmt.Sprintf("%s=%s", h.Fault, m.a.Model.ScaleOf(h.Fault).FormatSeverity(h.Severity)))
	}
	return out
}

func (m ownMachine) Stations() map[string]bool {
	out := map[string]bool{}
	for _, h := range m.mc.Hidden {
		out[h.Fault.Station] = true
	}
	return out
}

func (m ownMachine) Lost() float64 { return 1 - min(m.mc.Speed(), 1) }

func (m ownMachine) Instruments() map[string]meter.Instrument { return nil }

func (m ownMachine) Repaired(station string) subject {
	var left []machine.Hidden
	for _, h := range m.mc.Hidden {
		if h.Fault.Station != station {
			left = append(left, h)
		}
	}
	return ownMachine{m.a, machine.New(m.a.Model, m.mc.Theta, left, m.rng), m.rng}
}

// fieldMachine is a machine of other equations.
type fieldMachine struct{ *field.Machine }

func (m fieldMachine) Truth() []string {
	var out []string
	for _, f := range m.Faults {
		out = append(out, fmt.Sprintf("%s=%.4g", f, f.Severity))
	}
	return out
}

func (m fieldMachine) Stations() map[string]bool {
	out := map[string]bool{}
	for _, f := range m.Faults {
		out[f.Station] = true
	}
	return out
}

// Instruments declares the better meter where the machine is read with one: 0.05 % and
// three counts of a millivolt.
func (m fieldMachine) Instruments() map[string]meter.Instrument {
	if !m.Precise {
		return nil
	}
	better := meter.Handheld()
	better.Name = betterMeter
	better.DCVoltage = &meter.Accuracy{Percent: 0.05, Counts: 3, Resolution: 0.001}
	return map[string]meter.Instrument{betterMeter: better}
}

const betterMeter = "bench meter"

func (m fieldMachine) Measure(e *casefile.Evidence) error {
	if m.Precise && e.Measure == unit.Voltage {
		e.Instrument = betterMeter
	}
	return m.Machine.Measure(e)
}

func (m fieldMachine) Repaired(station string) subject {
	return fieldMachine{m.Machine.Repaired(station)}
}

// newSubject draws a machine: one in ten sound, one in ten with two faults.
func newSubject(a *diagnose.Adviser, o Options, rng *rand.Rand) (subject, error) {
	if o.Machines == "" || o.Machines == Own {
		faults := machine.AsBrought
		if o.Second {
			faults = machine.Two
		}
		return ownMachine{a, machine.Brought(a.Model, o.Spread, faults, rng), rng}, nil
	}
	n := 1
	switch x := rng.Float64(); {
	case o.Second, x >= 0.1 && x < 0.2:
		n = 2
	case x < 0.1:
		n = 0
	}
	set := field.Reporting()
	if o.Machines == Tuning {
		set = field.Tuning()
	}
	m, err := field.Draw(a.C, set, n, rng)
	if err != nil {
		return nil, err
	}
	return fieldMachine{m}, nil
}

// FieldFamilies are the families that field machines are made of: a brushed motor on
// direct current.
func FieldFamilies() ([]string, error) {
	var out []string
	for _, id := range circuit.Families() {
		c, err := circuit.Family(id)
		if err != nil {
			return nil, err
		}
		if _, err := field.Draw(c, field.Tuning(), 0, rand.New(rand.NewPCG(1, 1))); err == nil {
			out = append(out, id)
		}
	}
	if len(out) == 0 {
		return nil, errors.New("no family can be made a field machine")
	}
	return out, nil
}
