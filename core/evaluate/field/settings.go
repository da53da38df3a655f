package field

// Settings are the physics of one world of machines. Sizes are standard deviations
// of natural logarithms unless a unit is named.
type Settings struct {
	Harness   float64 // what the parts of one harness share
	Part      float64 // what each part differs by from its harness
	Frame     float64 // a motor's resistance, constant and brushes
	Small     float64 // what is made closely: coils, commands; brush drop differs by twice that
	Load      float64 // what the machine's work takes
	Friction  float64 // bearings and brushes: free-running currents differ by more than twice
	Contact   float64 // a good contact, from closing to closing
	Burnt     float64 // a burnt contact, from closing to closing
	Loose     float64 // a bad joint or cable, from try to try
	Brush     float64 // worn brushes, from one rest position to the next
	Try       float64 // load, from try to try
	Sag       float64 // V per 12 V: what a battery still misses after the last try, at most
	Surface   float64 // V per 12 V: surface charge at most, on one machine in three
	Consumers float64 // A: lamps, pumps and units while the ignition is on, at most
	Leak      float64 // S: leakage of an open wire, its middle
	Warm      float64 // K a try, middle
	Clamp     float64 // A: drift of a clamp's zero
	Precise   float64 // share of machines that are read with a better meter, declared
	Rounds    float64 // share of readings rounded as people remember them
	Wrong     float64 // share of words that are simply mistaken
	Guard     float64 // share of a controller's guards that do not hold
	Law       float64 // share by which a load's exponent may differ
}

// Tuning is the world on which judgement is developed.
func Tuning() Settings {
	return Settings{Harness: 0.35, Part: 0.15, Frame: 0.2, Small: 0.11, Load: 0.25, Friction: 0.4, Contact: 0.3,
		Burnt: 0.6, Loose: 0.15, Brush: 0.4, Try: 0.1,
		Sag: 0.2, Surface: 0.4, Consumers: 12, Leak: 3e-8, Warm: 8, Clamp: 0.3, Precise: 0.35, Rounds: 0.2,
		Wrong: 0.05, Guard: 0.05, Law: 0.15}
}

// Reporting is another world, for figures that are shown: colder, with thinner and
// older harnesses, worse clamps and people who round more.
func Reporting() Settings {
	return Settings{Harness: 0.4, Part: 0.2, Frame: 0.22, Small: 0.13, Load: 0.3, Friction: 0.45, Contact: 0.35,
		Burnt: 0.7, Loose: 0.2, Brush: 0.45, Try: 0.12,
		Sag: 0.25, Surface: 0.5, Consumers: 15, Leak: 1e-7, Warm: 12, Clamp: 0.4, Precise: 0.35, Rounds: 0.3,
		Wrong: 0.05, Guard: 0.07, Law: 0.2}
}
