package complaint

import (
	"strings"

	"corriente/core/spell"
)

// vocabulary is what typing errors are mended to: the words that statements and circuits hang
// on.
var vocabulary = strings.Fields(`
	starter starting solenoid engine ignition crank cranks cranking turning turns clicks clicking clunk chatters
	winch hydraulic contactor generator tipper heater blower ventilator demister defroster resistor automatic climate
	wiper wipers windscreen washer window windows radiator cooling bilge sprayer feeder coolant
	pallet truck throttle brake controller platform electric actuator throttle differential charging charge alternator
	stator regulator rectifier battery capacitor mains humming buzzes sometimes squeals grinds grinding rattles burning
	smells slowly slower weakly sluggish silent nothing speed speeds stepless knock jerks fuse breaker totally motor
	relay switch blinks flashes works running stops stopped dead moves noise`)

// fine are words of every day that are one letter from the vocabulary and mean themselves.
var fine = strings.Fields(`clock clocks cranes tracks track trick tricks harder header wander wonder winter winters filter filters
	rotor start starts started clutch cooking cooling smell small smelly stall stalls still steel spend shield sleep steeds breaks break
	broke broken brakes charm change changed changes engines signal turned burned barrel flower lower blows blown blowing worked works working
	knob knobs notice house moved movie noisy dread deed head dean used fused muse fuses steps stepped heats heated water matter mother
	meter meters motors cable table stable reply delay delayed`)

var book = spell.Book{Right: vocabulary, Fine: fine}

// Plain is a text in small letters with single spaces, plain apostrophes and its typing errors
// mended where that is safe. Phrases are found in it.
func Plain(text string) string {
	text = strings.ToLower(strings.NewReplacer("’", "'", "‘", "'", "´", "'", "`", "'", "”", `"`, "“", `"`).Replace(text))
	return strings.Join(strings.Fields(book.Text(text)), " ")
}
