package assume

// Word is how people answer: the chance of each answer, by what the circuit does. "Heard" and
// "seen" are by somebody beside the machine, in a workshop.
type Word struct {
	// Share of answers that are simply mistaken, spread over all of them.
	Lapse float64 `is:"0.04" from:"memory"`

	Click   Click
	Turns   Turns
	Noise   Noise
	ByHand  ByHand
	Starts  Starts
	Lamps   Lamps
	Blinks  Blinks
	Swap    Swap
	Differs Differs
	Senses  Senses
	// Chance that it is said to run on without a welded contact.
	RunsOn  float64 `is:"0.002" from:"memory"` // chance that it is said to run on without a welded contact
	Stalled float64 `is:"0.5" from:"memory"`   // share of the normal current from which on a standing motor is fed
}

// Click is what is heard of a coil.
type Click struct {
	// A coil between pulling in and dropping out: heard as chatter, as one click, not at all.
	Chatter        float64 `is:"0.75" from:"memory"`
	ChatterAsClick float64 `is:"0.2" from:"memory"`
	ChatterUnheard float64 `is:"0.05" from:"memory"`
	// A coil that is energised but held gives a dull knock now and then; an open one hardly ever.
	Sticking float64 `is:"0.04" from:"memory"`
	Open     float64 `is:"0.01" from:"memory"`
	// A coil that pulls in: heard, not heard, drowned by a motor above a share of its speed, taken
	// for chatter.
	Pulled        float64 `is:"0.95" from:"memory"`
	PulledUnheard float64 `is:"0.03" from:"memory"`
	PulledDrowned float64 `is:"0.15" from:"memory"`
	DrownsFrom    float64 `is:"0.5" from:"memory"`
	PulledChatter float64 `is:"0.03" from:"memory"`
	// A coil that does not pull in, by its volts against its pull-in volts.
	ShortSilent  Curve `is:"0.97 -0.25 0.9 0.06" from:"memory"`
	ShortClick   Curve `is:"0.02 0.2 0.9 0.06" from:"memory"`
	ShortChatter Curve `is:"0.01 0.05 0.9 0.06" from:"memory"`
}

// Turns is what is seen of a motor and of what it turns; ratio is its speed against a good one's.
type Turns struct {
	// A coil that chatters: nothing turns, or slowly; what it turns moves.
	ChatterNone  float64 `is:"0.75" from:"memory"`
	ChatterSlow  float64 `is:"0.25" from:"memory"`
	ChatterMoves float64 `is:"0.3" from:"memory"`

	// A motor that stands: a twitch is seen without current, of a held one, of a seized one; and
	// the share of its fits and starts that are seen while it stands.
	Twitch        float64 `is:"0.01" from:"memory"`
	TwitchHeld    float64 `is:"0.2" from:"memory"`
	TwitchSeized  float64 `is:"0.06" from:"memory"`
	ErraticStands float64 `is:"0.3" from:"memory"`

	// What is driven slips: the motor is seen to spin free, what is driven to be normal, the same
	// where only what is driven is looked at.
	SlipsFree        float64 `is:"0.85" from:"memory"`
	SlipsNormal      float64 `is:"0.05" from:"memory"`
	SlipsNormalNamed float64 `is:"0.01" from:"memory"`
	// The same where there is no word for it.
	SlipsNone    float64 `is:"0.6" from:"memory"`
	SlipsSlow    float64 `is:"0.3" from:"memory"`
	SlipsErratic float64 `is:"0.1" from:"memory"`
	SlipsMoves   float64 `is:"0.04" from:"memory"`

	// Speed is called normal, by the ratio.
	Normal Curve `is:"0 1 0.72 0.07" from:"memory"`
	// It is said to stand though it creeps, by the ratio: free, and under a load that may hold it.
	Stands       Curve `is:"0 1 0.08 -0.02" from:"memory"`
	StandsLoaded Curve `is:"0 1 0.16 -0.06" from:"memory"`
	// What turns slowly is said to twitch, by the ratio.
	TwitchSlow Curve `is:"0.01 0.3 0.12 -0.04" from:"memory"`
	// A normal speed without a load is called spinning free.
	NormalFree float64 `is:"0.45" from:"memory"`

	// What the motor turns is seen to move, by the ratio; while the motor stands.
	Moves      Curve   `is:"0 0.97 0.1 0.03" from:"memory"`
	MovesStill float64 `is:"0.01" from:"memory"`
	// A wiper with a welded park contact is said to come home.
	WeldedHome float64 `is:"0.08" from:"memory"`

	// Fits and starts are seen: of a sound motor, and by what is wrong; of a binding drive by how
	// many times its load.
	Erratic           float64 `is:"0.01" from:"memory"`
	ErraticBrushes    float64 `is:"0.15" from:"memory"`
	ErraticCommutator float64 `is:"0.3" from:"memory"`
	ErraticBinding    Curve   `is:"0 0.25 1.8 0.3" from:"memory"`
	ErraticJammed     float64 `is:"0.1" from:"memory"`
	ErraticJoint      float64 `is:"0.06" from:"memory"`
}

// Noise is what is heard of a motor.
type Noise struct {
	Rough float64 `is:"0.03" from:"memory"` // of a sound one
	Hum   float64 `is:"0.01" from:"memory"`
	Grind float64 `is:"0.01" from:"memory"`

	RoughBearing    Curve   `is:"0.35 0.4 4 1.5" from:"memory"` // by how many times its friction
	RoughCommutator float64 `is:"0.3" from:"memory"`
	RoughBrushes    float64 `is:"0.15" from:"memory"`
	RoughBinding    float64 `is:"0.35" from:"memory"`
	GrindBinding    float64 `is:"0.1" from:"memory"`
	GrindSlipping   float64 `is:"0.35" from:"memory"`
	HumStalled      float64 `is:"0.6" from:"memory"`
	Most            float64 `is:"0.97" from:"memory"` // chance that something is heard, at most
}

// ByHand is what is felt when it is turned by hand: locked or stiff.
type ByHand struct {
	Locked float64 `is:"0.01" from:"memory"` // of a sound one
	Stiff  float64 `is:"0.05" from:"memory"`
	Most   float64 `is:"0.98" from:"memory"`

	SeizedLocked float64 `is:"0.88" from:"memory"`
	SeizedStiff  float64 `is:"0.1" from:"memory"`
	// A starter's pinion rests out of mesh: the engine turns though the motor is seized.
	SeizedStarter float64 `is:"0.5" from:"memory"`
	JammedLocked  float64 `is:"0.88" from:"memory"`
	JammedStiff   float64 `is:"0.1" from:"memory"`
	BindingLocked float64 `is:"0.05" from:"memory"`
	BindingStiff  Curve   `is:"0 0.9 1.7 0.35" from:"memory"` // by how many times its load
	BearingStiff  Curve   `is:"0 0.85 4 1.5" from:"memory"`   // by how many times its friction
	// Share of a bearing's stiffness that is felt through what the motor turns.
	Coupled float64 `is:"0.4" from:"memory"`
	Drag    float64 `is:"0.7" from:"memory"`
}

// Starts is what a capacitor motor does.
type Starts struct {
	DragHolds float64 `is:"0.35" from:"memory"` // share of the good starting torque that drag takes
	NoHum     float64 `is:"0.9" from:"memory"`  // no current in the run winding
	HumsHeld  float64 `is:"0.93" from:"memory"` // a seized one
	Normal    Curve   `is:"0 1 0.25 0.06" from:"memory"`
	Pushed    float64 `is:"0.8" from:"memory"` // runs when pushed, where it does not start
}

// Lamps is what is seen of lamps: the headlamps on the battery, and a test lamp.
type Lamps struct {
	// A. Motors below it at 12 V dip the lamps only while they draw much.
	Small    float64 `is:"60" from:"memory"`
	DimSmall Curve   `is:"0.04 0.75 1.5 0.3" from:"memory"` // by times the normal current
	Dim      Curve   `is:"0 1 1.6 0.4" from:"memory"`       // by volts per 12 V that are lost
	AtPosts  float64 `is:"0.6" from:"memory"`               // share of machines whose lamps hang on the posts, not on the clamps
	// A test lamp by the share of its full power: the eye calls it bright above about half and dark
	// below a fortieth.
	Bright Curve `is:"0 1 0.5 0.12" from:"memory"`
	Dark   Curve `is:"0 1 0.025 -0.3" from:"memory"`
}

// Blinks is what a controller flashes.
type Blinks struct {
	None     float64 `is:"0.97" from:"memory"` // no code though nothing withholds its output
	NoneTrip float64 `is:"0.05" from:"memory"` // none though something does
	NoneSelf float64 `is:"0.6" from:"memory"`  // none though it protects itself: some flash what they met, some do not
	// A code though the circuit shows no reason: the table knows more of this controller.
	KnowsMore float64 `is:"0.35" from:"memory"`
	Named     float64 `is:"0.85" from:"memory"` // the code is one that the table gives for what is wrong
	Foreign   float64 `is:"0.4" from:"memory"`  // factor on codes that stand for something else
	// A code that clears: without a reason for one, and with.
	Clears       float64 `is:"0.95" from:"memory"`
	ClearsFaulty float64 `is:"0.04" from:"memory"`
}

// Swap is whether it works with a known good part in a part's place.
type Swap struct {
	Cures    float64 `is:"0.95" from:"memory"`
	Other    float64 `is:"0.03" from:"memory"` // something else is wrong
	Both     float64 `is:"0.2" from:"memory"`  // and something else is wrong too
	NoneHere float64 `is:"0.1" from:"memory"`  // nothing is wrong: some call that a yes
}

// Differs is whether two speeds are said to differ.
type Differs struct {
	Still    float64 `is:"0.02" from:"memory"`
	Slipping float64 `is:"0.1" from:"memory"`
	Both     Curve   `is:"0.03 0.94 1.15 0.04" from:"memory"` // by the higher against the lower
	OneDead  float64 `is:"0.45" from:"memory"`                // some call that a difference, most say it does not work
}

// Senses is what else is heard, felt and seen.
type Senses struct {
	// The motor is heard to run: by its ratio, held, standing.
	Runs      Curve   `is:"0.1 0.84 0.15 0.04" from:"memory"`
	RunsHeld  float64 `is:"0.1" from:"memory"`
	RunsStill float64 `is:"0.02" from:"memory"`
	// A fed motor kicks: by its ratio, held, not fed.
	Kicks      Curve   `is:"0.2 0.65 0.4 0.1" from:"memory"`
	KicksHeld  float64 `is:"0.15" from:"memory"`
	KicksStill float64 `is:"0.03" from:"memory"`
	// A knock as a motor takes up its play: held, turning, without current; taken for chatter.
	ThumpHeld    float64 `is:"0.75" from:"memory"`
	ThumpTurning float64 `is:"0.6" from:"memory"`
	ThumpStill   float64 `is:"0.04" from:"memory"`
	ThumpChatter float64 `is:"0.03" from:"memory"`
	// The last lead draws no spark, or a strong one, by times the normal current: nothing without
	// current, a strong arc at several times what it takes at work.
	SparkNone   Curve `is:"0.02 0.93 0.02 -0.5" from:"common practice"`
	SparkStrong Curve `is:"0.06 0.8 1.8 0.3" from:"common practice"`
	// A joint is hot to the hand, by the watts in it: below about one it stays cool, above three not.
	Hot Curve `is:"0.02 0.94 3.5 0.35" from:"memory"`
	// A new fuse, by times its rating: for ever at 1.1, seconds to minutes at 1.35, at once from 2.5.
	FuseAtOnce Curve `is:"0 1 2.2 0.15" from:"ISO 8820-3, from memory"`
	FuseHolds  Curve `is:"0 1 1.3 -0.08" from:"ISO 8820-3, from memory"`
}
