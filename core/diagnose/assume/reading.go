package assume

// Reading is how figures err besides what the meter's specification says.
type Reading struct {
	// Chance that a reading is not what it says, for no reason named: a slip of the pen, of the probe.
	Outlier float64 `is:"0.003" from:"memory"`
	// Chance that ohms and OL are mistaken for each other, and that a blank display is written as 0.
	WrongOL   float64 `is:"0.003" from:"memory"`
	ZeroForOL float64 `is:"0.02" from:"memory"`
	// Relative spread of a good reading from one try to the next in a loaded state.
	Reproduce float64 `is:"0.003" from:"memory"`
	// Spread of a repeat with the same meter in the same place, of the meter's own uncertainty.
	Repeat float64 `is:"0.2" from:"memory"`
	// Two readings of one thing are another answer: apart by so many of the meter's uncertainties,
	// and by more than a share of the greater.
	OtherAnswer float64 `is:"5" from:"memory"`
	OtherShare  float64 `is:"0.5" from:"memory"`

	// V between probes that nothing joins: leakage pulls the floating one to within tenths of a
	// volt, now and then not: that much of what was read.
	Floating      float64 `is:"0.1" from:"memory"`
	FloatingShare float64 `is:"0.5" from:"memory"`
	// Times the nominal voltage that the highest there is may be: a charging system's 15.6 V of 12.
	FloatingMost float64 `is:"1.3" from:"common practice"`
	// Chance that a machine's open wires are quiet instead: the meter's own ten megohms hold them at
	// the other probe.
	FloatingQuiet float64 `is:"0.6" from:"memory"`
	// V by which a running engine's volts move with its idle speed and load.
	Idle float64 `is:"0.15" from:"memory"`
	// Share of the difference between pulled in and dropped out that a chattering coil's readings
	// spread by.
	Chatter float64 `is:"0.4" from:"memory"`
	// Relative spread of a generator's volts as its speed hunts.
	Hunts float64 `is:"0.02" from:"memory"`
	// What a meter shows of a capacitor that is open or shorted, counts and share; of alternating
	// volts where nothing joins the probes, V and share.
	NoFarads      float64 `is:"0.3" from:"memory"`
	NoFaradsShare float64 `is:"0.05" from:"memory"`
	NoAC          float64 `is:"0.8" from:"memory"`
	NoACShare     float64 `is:"0.1" from:"memory"`

	// Relative spread of ohms through brushes: worn ones, good ones.
	WornBrushes float64 `is:"0.5" from:"common practice"`
	Brushes     float64 `is:"0.1" from:"common practice"`
	// Chance that worn brushes which still carry amperes show OL to an ohmmeter's microamperes (film
	// on the commutator).
	WornOL float64 `is:"0.3" from:"memory"`
	// Chance that carbon dust across worn brushes shows ohms where a clean gap shows OL, and from
	// where to where.
	Dust      float64 `is:"0.4" from:"common practice"`
	DustLeast float64 `is:"500" from:"common practice"`
	DustMost  float64 `is:"1e7" from:"common practice"`

	// V per 12 V that a charger or a running engine holds a battery at: no lead-acid battery rests
	// higher, its surface charge gone; a bad regulator's; and how far it moves between readings.
	ChargedFrom float64 `is:"13.05" from:"common practice"`
	ChargedTo   float64 `is:"15.8" from:"common practice"`
	ChargedBy   float64 `is:"0.3" from:"common practice"`

	// A loop of volts may miss by a share of the greatest in it, V per 12 V besides, and so many of
	// the meters' deviations: on a loaded machine no try is like the next.
	LoopShare  float64 `is:"0.15" from:"common practice"`
	LoopVolts  float64 `is:"0.3" from:"common practice"`
	LoopSigmas float64 `is:"4" from:"common practice"`
}

// Discrepancy is what a reading differs by from what the solved circuit says of it though the
// diagnosis, the nominal values and the meter are all right (M. C. Kennedy and A. O'Hagan,
// Bayesian calibration of computer models, 2001). Every try is another operating point: contacts
// close otherwise, a battery sags and recovers, windings warm, brushes rest elsewhere.
type Discrepancy struct {
	// Spread of a value from one try to the next: of its natural logarithm; of a battery's EMF, V
	// per 12 V.
	EMF       float64 `is:"0.08" from:"common practice"`
	Friction  float64 `is:"0.12" from:"memory"`
	Load      float64 `is:"0.08" from:"memory"`
	BrushDrop float64 `is:"0.12" from:"memory"`
	Battery   float64 `is:"0.15" from:"memory"`
	Contact   float64 `is:"0.35" from:"memory"`
	Wire      float64 `is:"0.05" from:"memory"` // wires, joints, fuses
	Coil      float64 `is:"0.06" from:"memory"` // coils, drivers, windings
	Motor     float64 `is:"0.1" from:"memory"`  // its winding
	Limit     float64 `is:"0.5" from:"memory"`  // the ohms that stand for a driver's current limit
	// The same of how bad a fault is.
	BadContact float64 `is:"0.6" from:"memory"`
	BadJoint   float64 `is:"0.2" from:"memory"`
	Brushes    float64 `is:"0.5" from:"memory"`
	Commutator float64 `is:"0.3" from:"memory"`
	Weak       float64 `is:"0.15" from:"memory"` // a battery
	Drag       float64 `is:"0.15" from:"memory"` // binding, bearings
	Grounded   float64 `is:"0.15" from:"memory"`

	// A motor below this share of its speed stands as well, and then takes its stall current: share
	// of the amperes.
	HardlyTurns float64 `is:"0.25" from:"memory"`
	HardlyAmps  float64 `is:"0.2" from:"memory"`

	// V per 12 V that the current of a pull-in winding leaves at the motor, where the solenoid has
	// more than the first share of the supply and the motor less than the second of that.
	PullInVolts float64 `is:"0.6" from:"memory"`
	PullInFed   float64 `is:"0.3" from:"memory"`
	PullInStud  float64 `is:"0.4" from:"memory"`
	// V per 12 V of other consumers on the grounds, leakage and offsets, and a share of the volts.
	OtherVolts float64 `is:"0.012" from:"memory"`
	OtherShare float64 `is:"0.01" from:"memory"`
	// A of a clamp's drift, more round thick cables: for each ampere of normal current a share more;
	// and a share of the amperes.
	ClampAmps   float64 `is:"0.25" from:"common practice"`
	ClampPerAmp float64 `is:"0.016666666666666666" from:"common practice"`
	ClampShare  float64 `is:"0.04" from:"memory"`
	// V per 12 V of the battery and leads that somebody feeds a motor with, and the share of the
	// amperes it drives.
	FeedVolts float64 `is:"0.2" from:"memory"`
	FeedAmps  float64 `is:"0.12" from:"memory"`
}

// Slip is how often figures are written down wrongly, of all readings, and values given wrongly.
type Slip struct {
	Unit  float64 `is:"0.0015" from:"memory"` // milli for whole or whole for milli, kilo for whole
	Point float64 `is:"0.0003" from:"memory"` // ten times or a tenth
	Leads float64 `is:"0.0015" from:"memory"` // the leads swapped, the clamp the wrong way round
	// The least reading whose sign says anything, in the meter's own uncertainties.
	LeastSign float64 `is:"6" from:"memory"`
	// Where readings clash: OL for 0 and 0 for OL, another state; against each other.
	OLForZero float64 `is:"1" from:"memory"`
	ZeroForOL float64 `is:"2" from:"memory"`
	State     float64 `is:"0.7" from:"memory"`
	// Share of given values that are wrong, and how many of their deviations they may be off by.
	Given   float64 `is:"0.01" from:"memory"`
	GivenBy float64 `is:"6" from:"memory"`
	// Probability from which on a slip is named, and the deviations from which on a value is.
	Named      float64 `is:"0.15" from:"memory"`
	NamedGiven float64 `is:"2.5" from:"memory"`
	// Share of the posterior that needs a mistaken reading from which on it is a contradiction, and
	// of a reading's blame from which on it is named in it.
	Contradiction float64 `is:"0.8" from:"memory"`
	Blamed        float64 `is:"0.2" from:"memory"`
}

// Choice is what decides which reading is worth taking.
type Choice struct {
	// Times as dear that a second person makes a reading.
	SecondPerson float64 `is:"1.3" from:"memory"`
	// Minutes of one more reading once its state and access are paid for.
	Read float64 `is:"0.5" from:"common practice"`
	// Money an hour of work costs where the job does not say: it turns money into minutes.
	HourRate float64 `is:"60" from:"memory"`
	// Minutes that a wrong verdict costs besides the work done in vain: the machine comes back and is
	// diagnosed again, and the customer's trust with it.
	Wrong float64 `is:"450" from:"memory"`
	// Least rise of a standing verdict's probability that a reading is taken for: less is within the
	// error of trying outcomes in advance.
	LeastGain float64 `is:"0.003" from:"memory"`
	// Least gain, bits a minute, that is still worth it, and least entropy, bits, that is left to gain.
	WorthRate   float64 `is:"0.0006" from:"memory"`
	WorthAsking float64 `is:"0.02" from:"memory"`
	// Minutes of one more try on a motor that stands, each time more: it, its cable and its battery
	// heat (two tries at most, with a rest between); and from which chance of a held motor it counts.
	Stall     float64 `is:"2" from:"common practice"`
	StallFrom float64 `is:"0.15" from:"memory"`
	// Minutes that every reading costs besides: to read the question.
	Overhead float64 `is:"0.2" from:"memory"`
	// Minutes that a bit still missing is taken to cost, where nothing better is known.
	PerBit float64 `is:"9" from:"memory"`
	// How much the technician's leaning moves a suggestion at most.
	Leaning float64 `is:"2" from:"memory"`
}
