package strip

import (
	"slices"

	"corriente/core/circuit"
)

// First lists what belongs before a machine comes apart, and Last before it is closed again, by its
// circuit (common practice; the machine's own manual comes first).
func First(c *circuit.Circuit) []string {
	switch {
	case c.Mains:
		return []string{"Isolate it, lock it off, prove it dead",
			"Discharge the capacitor through a resistor, and measure that it is empty"}
	case c.ID == "wiper":
		return []string{"Park the wipers, and mark each arm's rest on the glass with tape before its nut comes off",
			"Grounded post off the battery"}
	case c.ID == "traction":
		return []string{"On stands, wheels free; key off, battery plug pulled", "Discharge the controller's capacitors as its manual says"}
	case c.ID == "stator":
		return []string{"Engine off and cold; regulator plug pulled"}
	}
	return []string{"Grounded post off the battery"}
}

// Last lists what belongs before it is closed; see [First].
func Last(c *circuit.Circuit) []string {
	tools := "Count tools and screws: none left in the machine"
	turn := "Turn it by hand before it is fed"
	switch {
	case c.Mains:
		return []string{"Prove it dead and discharge the capacitor once more before the cover goes on",
			"Protective earth back on its post, tight", tools, turn}
	case c.ID == "wiper":
		return []string{"Let the motor run and park before the arms go on",
			"Arms on their marks, glass wet, one sweep by hand", tools, "Grounded post on last"}
	case c.ID == "starter":
		return []string{"The pinion slides out and back by hand; shims as they were: they set how deep it engages",
			tools, turn, "Grounded post on last"}
	case c.ID == "actuator":
		return []string{"The new one the same way round as the old: arm, plug and stop",
			"Its ohms beside those of the known good one, written down", tools, "Grounded post on last"}
	case c.ID == "traction":
		return []string{tools, turn, "Brake holds by hand before the wheels touch the ground", "Battery plug in last"}
	}
	return []string{tools, turn, "Grounded post on last"}
}

// Fit leaves out what does not belong to a circuit: a machine on the mains has no grounded post.
func Fit(c *circuit.Circuit, notes []Note) []Note {
	if !c.Mains {
		return notes
	}
	return slices.DeleteFunc(slices.Clone(notes), func(n Note) bool { return n.ID == "minus_first" })
}
