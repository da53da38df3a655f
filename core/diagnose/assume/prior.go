package assume

import "corriente/core/circuit"

// Prior is what is thought before anything is read.
type Prior struct {
	// Share of machines of which nothing is wrong. A machine in the workshop has a complaint, so
	// that is rare; but at 0.05 a sound machine could hardly ever be proved so.
	None float64 `is:"0.2" from:"memory"`
	// Share of machines with two faults.
	Pair float64 `is:"0.12" from:"memory"`
	// Chance that a short, a motor that is held or one that is grounded has blown the fuse before it by
	// the time anybody looks.
	Blows float64 `is:"0.15" from:"memory"`
	// Chance that a float charger nobody mentioned hangs on the battery.
	Charger float64 `is:"0.3" from:"memory"`
	// Chance that a shift solenoid has two windings: most have; small and remote ones have one.
	PullIn float64 `is:"0.6" from:"common practice"`
	// Share of such a solenoid's conductance in its pull-in winding: 0.3 to 0.5 ohm beside 0.9 to 1.3.
	PullInShare float64 `is:"0.65" from:"common practice"`
	// Chance that a shift solenoid with an open motor pulls in all the same: its pull-in winding
	// returns through the motor.
	PullsWithoutMotor float64 `is:"0.5" from:"memory"`

	// Spread of the volts at which a coil is taken to pull in, besides the coil's own, and at which
	// it is taken to hold: shares of the nominal voltage.
	PullInSpread float64 `is:"0.03" from:"memory"`
	HoldSpread   float64 `is:"0.02" from:"memory"`

	// Times its normal current from which on a module or a controller may protect itself: limits
	// stand at one and a half to four.
	Overload float64 `is:"1.6" from:"common practice"`
	// Times its normal current that it then limits to: a low limit and a high one. What a circuit's
	// normal current is differs by two between machines.
	Limit     float64 `is:"2.2" from:"common practice"`
	LimitHigh float64 `is:"5" from:"common practice"`

	// Chance that a controller's own checks let pass what they are there to find: limits differ, and
	// some are never tried.
	GuardFails float64 `is:"0.1" from:"memory"`

	// Share of the speed lost below which a fault within its allowed drops is nothing wrong.
	Mild float64 `is:"0.03" from:"memory"`
	// Chance that a machine that has lost a share of its speed is brought in at all.
	Complaint Curve `is:"0.03 0.97 0.2 0.03" from:"memory"`

	// Factors on a part's rate of faults: it is new (new parts fail too, but less); somebody had it
	// apart; it is the joint beside what somebody had apart.
	NewPart     float64 `is:"0.25" from:"memory"`
	WasApart    float64 `is:"2.5" from:"memory"`
	BesideApart float64 `is:"1.6" from:"memory"`

	// The most that "nothing else wrong" is taken to be when a job goes on after a repair.
	AfterRepair float64 `is:"0.5" from:"memory"`
	// Chance that the work left the fault as it was.
	RepairFails float64 `is:"0.04" from:"memory"`
	// Share of the first prior that is kept after a repair, for what the evidence had no eye for.
	KeptPrior float64 `is:"0.02" from:"memory"`

	// Chance that a fault which comes and goes was there when nobody knows. It is counted only where
	// the evidence shows the fault: that a reading is good clears nothing that may have been away.
	Shows float64 `is:"0.4" from:"memory"`

	// How far a complaint's words are taken as a technician's own look would be, and where the
	// complaint comes and goes: of machines that "do not turn" about one in ten does turn.
	ComplaintTrust float64 `is:"0.85" from:"memory"`
	SometimesTrust float64 `is:"0.4" from:"memory"`

	// Spread, of the natural logarithm, of the ohms of a harness or a set of cables as a whole, of
	// its parts besides, and of a battery's inner resistance with its polarisation.
	HarnessCommon float64 `is:"0.33" from:"common practice"`
	HarnessOwn    float64 `is:"0.2" from:"common practice"`
	BatterySpread float64 `is:"0.42" from:"common practice"`
	// Spread from which on a value counts as one that nobody gave.
	Unknown float64 `is:"0.2" from:"common practice"`
	// Share of the rated speed below which a motor is taken to stand.
	Still float64 `is:"0.01" from:"memory"`
	// Share of its usual speed that a good machine must still have, for its values to be believed.
	Runs float64 `is:"0.55" from:"memory"`
}

func circumstances() []Circumstance {
	const memory = "memory"
	return []Circumstance{
		{"wet", circuit.Joint, "", 2, memory},
		{"wet", circuit.Wire, "", 1.7, memory},
		{"wet", circuit.Fuse, "high_resistance", 1.5, memory},
		{"cold", circuit.Source, "", 1.6, memory},
		{"cold", circuit.Drive, "binding", 1.5, memory},
		{"cold", circuit.Coil, "sticking", 1.3, memory},
		{"cold", circuit.Motor, "bearing_drag", 1.3, memory},
		{"hot", circuit.Coil, "open", 1.5, memory},
		{"hot", circuit.Coil, "shorted_turns", 1.5, memory},
		{"hot", circuit.Motor, "shorted_turns", 1.6, memory},
		{"hot", circuit.Motor, "brushes_worn", 1.2, memory},
		{"hot", circuit.Driver, "no_output", 1.4, memory},
		{"hot", circuit.Joint, "high_resistance", 1.3, memory},
		{"after_knock", circuit.Joint, "", 1.8, memory},
		{"after_knock", circuit.Wire, "", 1.8, memory},
		{"after_knock", circuit.Drive, "jammed", 1.5, memory},
		{"after_knock", circuit.Contact, "stuck_open", 1.3, memory},
	}
}
