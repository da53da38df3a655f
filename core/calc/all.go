package calc

import (
	"slices"

	"corriente/core/meter"
)

func q(id, label, u, def string) Input {
	return Input{ID: id, Label: label, Kind: Quantity, Unit: u, Default: def}
}

func opt(in Input) Input { in.Optional = true; return in }

func hint(in Input, h string) Input { in.Hint = h; return in }

func pick(id, label, def string, words ...string) Input {
	in := Input{ID: id, Label: label, Kind: Choice, Default: def}
	for i := 0; i+1 < len(words); i += 2 {
		in.Choices = append(in.Choices, Word{words[i], words[i+1]})
	}
	return in
}

var metal = pick("metal", "Wound of", "copper", "copper", "copper", "aluminium", "aluminium")

// All lists the calculators, in the order of the bench.
func All() []Calculator {
	return slices.Concat(windings(), capacitors(), wearing(), running(), wiring())
}

// handheld is an ordinary meter's ohms with the given count.
func handheld(resolution float64) meter.Accuracy {
	a := *meter.Handheld().Resistance
	a.Resolution, a.Ranges = resolution, nil
	return a
}
