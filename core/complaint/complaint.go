package complaint

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// Statement is one thing that a complaint says.
type Statement struct {
	ID   string `json:"id"`
	Says string `json:"says"` // as it is told back
	// Code is the number that a lamp was said to blink, where ID is Code; 0: none was named.
	Code int `json:"code,omitempty"`
}

// What a complaint may say. The ids are used by the questions of intake and by the adviser.
const (
	Dead       = "dead"        // does not turn, move, blow
	Slow       = "slow"        // slow or weak
	SpinsFree  = "free"        // spins, and what it drives stands
	NoClick    = "no_click"    // silent when asked to work
	Clicks     = "click"       // once, each time
	Chatters   = "chatter"     // fast and again and again
	TapHelps   = "tap_helps"   // works after a knock
	Noise      = "noise"       // rough, grinding, squealing
	Hums       = "hum"         // hums and does not turn
	NoHum      = "no_hum"      // does not even hum
	Pushed     = "push"        // runs when pushed by hand
	Burnt      = "smell"       // smells burnt
	RunsOn     = "runs_on"     // does not stop
	LampsDim   = "dim"         // lamps go dim when it is asked to work
	BlowsFuse  = "trips_fuse"  // blows its fuse
	Trips      = "trips"       // trips a breaker
	FullOnly   = "full_only"   // only full speed works
	SomeSpeeds = "some_speeds" // single speeds are dead
	AllSpeeds  = "all_speeds"  // dead or weak at every speed
	OneSpeed   = "one_speed"   // one of two speeds is dead
	SpeedsSame = "speeds_same" // high is no faster than low
	UpDead     = "up_dead"     // goes down and not up
	DownDead   = "down_dead"   // goes up and not down
	BothDead   = "both_dead"   // neither up nor down
	Returns    = "returns"     // stops, or stops and goes back
	Jerks      = "jerks"       // moves by jerks
	Varies     = "varies"      // speed changes by itself
	Heard      = "heard"       // the motor is heard
	ArmStill   = "arm_still"   // the motor runs, the arm does not move
	Door       = "door"        // depends on how the door stands
	NoPark     = "no_park"     // does not park
	Code       = "code"        // a lamp blinks a code
	NoCharge   = "no_charge"   // the battery is not charged
	Overcharge = "overcharge"  // charged too high
	Sometimes  = "sometimes"   // comes and goes
	WhenHot    = "hot"
	WhenCold   = "cold"
	WhenWet    = "wet"
	AfterKnock = "knock" // since a knock: the knock did it
)

// phrase finds one statement: where re is said, unless not is said too.
type phrase struct {
	id, says string
	re, not  *regexp.Regexp
}

const (
	verbs = `(?:crank|turn|move|run|work|drive|spin|blow|open|close|go|wipe|sweep|lift|pull|pump|haul|do anything|respond|react|start|spray|engage|come|raise|lower|budge|stir)`
	never = `(?:(?:does|do|did|will|would|can|could|is)(?: ?n['o]?t| not|n't)|(?:doesnt|dont|didnt|wont|cant|isnt|couldnt)|won't|can't|will not|cannot|refuses to)`
	knock = `(?:knock\w*|tap|taps|tapped|tapping|thump\w*|hit|hits|hitting|kick\w*|bang\w*|bash\w*|blow with|whack\w*|slap\w*|stick|hammer)`
)

var phrases = []phrase{
	{id: SpinsFree, says: "spins free",
		re: words(`(?:whirrs?|spins?|whines?|races?|runs?|spinning|whirring)\b.{0,40}\b(?:engine (?:stands|stays|does not|doesn.?t|still)|nothing follows|without (?:cranking|turning)|not engag\w*)`)},
	{id: Dead, says: "does not turn", not: words(`(?:spins?|whirrs?|whines?)\b.{0,40}\bengine|runs? when pushed|only (?:goes|works) (?:up|down)|(?:up|down) but (?:not|won)`),
		re: words(`(?:dead|silent|lifeless|stands? still|standing still|stays still|stays? put|(?:stays?|stands?|sits) (?:quiet|there|dead)|stuck|seized|stopped dead)|nothing(?: happens| turns| moves| works| at all| when| comes| if|\s*$|[ ,.;!]*$)|does nothing|no (?:crank\w*|air|movement|motion|life|reaction|wind|water|response)|` +
			never + ` (?:\w+ )?` + verbs +
			`|not (?:turning|moving|working|running|cranking|blowing|driving|spraying)|(?:dies|quits|gives up|cuts out|packs up)|stops (?:now|every|when)|stops when hot|blades stand`)},
	{id: Slow, says: "slow or weak", not: words(`charg\w* .{0,20}(?:weak|slow)`),
		re: words(`(?:slow|slower|slowly|sluggish\w*|weak|weaker|weakly|lazy|lazily|tired|hardly|barely|labou?r\w*|drags|creeps?|low pressure|feeble)`)},
	{id: NoClick, says: "no click", re: words(`(?:no click\w*|not even a click|without a click|silent|silence|no sound|no noise|not a sound)`)},
	{id: Chatters, says: "chatters", re: words(`(?:chatter\w*|clatter\w*|rattl\w* (?:like|when|fast|quick)|machine ?gun|click[- ]click)`)},
	{id: Clicks, says: "clicks", re: words(`(?:clicks?|clicked|clicking|clunks?|clonks?|clacks?|a knock in|one knock)`),
		not: words(`(?:no|not even a|without a) click|grinds and clicks`)},
	{id: TapHelps, says: "works after a knock",
		re: words(`(?:work\w*|go|goes|run\w*|start\w*|turns?|moves?|again|helps?|catches|comes? (?:back|alive|on))\b[^,.;]{0,30}\b(?:after|when|if|with|once|only)\b[^,.;]{0,20}\b` +
			knock + `|` + knock + `\b[^,.;]{0,25}\b(?:helps?|makes? it (?:go|run|work)|gets? it going|starts? it|cures?)|(?:if|when) (?:you|i|we|someone)\b.{0,8}\b` +
			knock + `\b.{0,40}\b(?:goes|works|runs|turns|starts|moves|comes)`), not: words(`since`)},
	{id: AfterKnock, says: "since a knock",
		re:  words(`(?:since|after) (?:a|the|it) (?:\w+ )?(?:bump|crash|collision|knock|accident|pothole|fall|dropped)|over bumps|rough roads?`),
		not: words(`(?:works?|goes|runs?|starts?|again|moves?)\b.{0,12}\bafter (?:a|the) (?:knock|bump)`)},
	{id: Noise, says: "makes a rough noise",
		re:  words(`(?:grind\w*|squeal\w*|screech\w*|creak\w*|scrap\w*|rough|howl\w*|scream\w*|whin(?:es|ing) loud\w*|crunch\w*|rattl\w*|rumbl\w*|noisy|loud)`),
		not: words(`rattl\w* (?:like|when)|rough roads?`)},
	{id: Hums, says: "hums and does not turn", re: words(`(?:hums?|humming|buzz\w*)`), not: words(`no hum|not (?:even )?hum`)},
	{id: NoHum, says: "does not even hum", re: words(`(?:no hum\w*|not (?:even )?hum\w*|without a hum)`)},
	{id: Pushed, says: "runs when pushed by hand",
		re: words(`(?:runs?|goes|starts?|turns?|works?)\b.{0,20}\b(?:pushed|spun|flicked|helped|by hand|push|shove)`)},
	{id: Burnt, says: "smells burnt", re: words(`(?:smell\w*|stinks?|reeks?)\b.{0,20}\b(?:burn\w*|scorch\w*|smoke)|(?:burn\w*|scorch\w*)\b.{0,10}\bsmell|smokes?|smoking|smells?(?: bad\w*)?\s*[,.]|\bsmells$`)},
	{id: RunsOn, says: "does not stop", not: words(`flat out`),
		re: words(`(?:keeps? (?:running|going|turning|driving|on)|runs? on|(?:does|do|will|would)(?: ?n['o]?t| not|n't) (?:stop|switch off|turn off)|(?:doesnt|wont|won't) (?:stop|switch off|turn off)|runs? all (?:night|the time|day)|always (?:runs|on)|never stops)`)},
	{id: LampsDim, says: "lamps go dim",
		re: words(`(?:lights?|lamps?)\b.{0,15}\b(?:dim\w*|go out|fade\w*|die)|dims? the (?:lights?|lamps?)`)},
	{id: BlowsFuse, says: "blows its fuse",
		re: words(`(?:blow|blows|blew|blowing|pops|popped|takes|eats|burns)\b.{0,20}\bfuses?|fuses?\b.{0,30}\b(?:blow\w*|blew|blown|goes|pops|gone)`)},
	{id: Trips, says: "trips its breaker",
		re: words(`(?:trips?|tripped|tripping|throws?|kicks out|knocks out|drops)\b.{0,20}\b(?:breaker|rcd|cut-?out|switch|mains)|breaker\b.{0,15}\b(?:trips|goes|jumps|drops|falls|pops)`)},
	{id: FullOnly, says: "only full speed works",
		re:  words(`(?:only|just)\b.{0,30}\b(?:full|top|max\w*|highest|fastest|last|position (?:four|4))\b|(?:full|top|max\w*|highest|last) (?:speed|setting|position)? ?only|(?:on|speed|position|step) ?(?:4|four) only|max only|flat out`),
		not: words(`weak`)},
	{id: SomeSpeeds, says: "single speeds are dead",
		re: words(`(?:speeds?|positions?|steps?|settings?) (?:1|2|3|one|two|three)\b.{0,30}\b(?:dead|nothing|not work\w*|out|gone)|(?:first|second|third|1st|2nd|3rd|lower|lowest|low) (?:speeds?|steps?|settings?|positions?)\b.{0,40}\b(?:dead|nothing|` +
			never + `|not work\w*|out|gone)|lost its (?:low\w*|first|second)|` + never +
			` (?:work|run|blow|go) on (?:speed |step )?(?:1|2|3|one|two|three)`)},
	{id: AllSpeeds, says: "at every speed",
		re: words(`(?:every|all|any|each|no)\b(?: of)?(?: the| them| four| three)? ?(?:speeds?|settings?|steps?|positions?)|all of them`)},
	{id: OneSpeed, says: "one of two speeds is dead",
		re: words(`(?:low|slow|first|high|fast|second)(?: speed)?\b.{0,40}\b(?:` + never +
			`|dead|nothing)|(?:works?|runs?|goes|wipes?)\b.{0,12}\b(?:on|at|in) (?:fast|slow|high|low)(?: speed)? only|only (?:on|at|the)? ?(?:fast|high|slow|low)\b`)},
	{id: SpeedsSame, says: "both speeds are the same",
		re: words(`(?:speeds?|fast and slow|high and low)\b.{0,20}\b(?:same|alike|equal)|no difference between|(?:same|equal) speed`)},
	{id: UpDead, says: "down works, up does not",
		re: words(`down\b.{0,12}\bbut not up|` + never + ` (?:raise|close)|` + never +
			` (?:go|come|move|open|wind)? ?(?:back )?up\b|not up\b|only (?:goes |works |moves )?down`)},
	{id: DownDead, says: "up works, down does not",
		re: words(`up\b.{0,12}\bbut not down|` + never +
			` (?:go|come|move|wind)? ?(?:back )?down\b|not down\b|only (?:goes |works |moves )?up`)},
	{id: BothDead, says: "dead both ways", re: words(`both (?:ways|directions)|neither up nor down|up (?:or|nor) down|dead up and down`)},
	{id: Returns, says: "stops and goes back", not: words(`after an? \w+|now and again`),
		re: words(`(?:stops?|halts?)\b.{0,25}\b(?:back|again|returns?|down)|reverses|comes back (?:up|down)|goes back (?:up|down)`)},
	{id: Jerks, says: "jerks", re: words(`(?:jerk\w*|stutter\w*|judder\w*|jumps?|bucks?|hops?)`)},
	{id: Varies, says: "its speed varies by itself",
		re: words(`(?:up and down by itself|surges?|varies|changes (?:speed )?by itself|changes its speed|hunting|hunts|fluctuat\w*)`)},
	{id: ArmStill, says: "the motor runs, the arm does not move",
		re: words(`(?:arms?|blades?)\b.{0,12}\b(?:` + never + ` move|stands? still|stays? (?:still|put|where)|not moving|still)`)},
	{id: Heard, says: "the motor is heard",
		re:  words(`(?:hear|heard|sounds? like)\b.{0,25}\bmotor|motor\b.{0,20}\b(?:heard|audible|is running|runs|whirrs)`),
		not: words(`no motor|not heard`)},
	{id: Door, says: "depends on the door",
		re: words(`(?:only )?(?:with|when|if|while) the door (?:is )?(?:\w+ )?(?:open|ajar|half|shut|closed)|door (?:open|angle|position)`)},
	{id: NoPark, says: "does not park", not: words(`glass|window`),
		re: words(never + ` (?:\w+ )?(?:park|return)|stops? (?:anywhere|where(?:ver)? (?:it|they)|half ?way|mid\w*|in the middle)`)},
	{id: Overcharge, says: "charges too high",
		re: words(`(?:voltage|charg\w*)\b.{0,25}\btoo (?:high|much)|boil\w*|overcharg\w*|bulbs? (?:blow|burn)`)},
	{id: NoCharge, says: "does not charge",
		re:  words(`(?:` + never + `|not|no|without|never)\b.{0,20}\bcharg\w*|charg\w*\b.{0,40}\b(?:only|lamp|light stays|no volts|gives no|nothing)|battery\b.{0,15}\b(?:goes flat|is flat|flat)|battery\b.{0,20}\b(?:dead after|never (?:gets )?full)|never (?:gets )?full|(?:alternator|charg\w*) (?:light|lamp)|charg\w* (?:on and off)|(?:yellow|stator|phase)\b.{0,30}\bno (?:ac|volts|output)`),
		not: words(`flattens|too high|overcharged`)},
	{id: Sometimes, says: "comes and goes",
		re:  words(`(?:some ?times|now and (?:then|again)|once|twice|at times|intermittent\w*|occasional\w*|on and off|off and on|every so often|second try|comes back)`),
		not: words(`comes back (?:down|up|after)|once warm|at once`)},
	{id: WhenHot, says: "when hot", re: words(`(?:hot|warm|warmed up|heats up|after a (?:long|hard) (?:run|drive)|in the sun)`),
		not: words(`(?:gets?|got|too|runs?|feels?) too hot|fine (?:once|when) (?:warm|hot)|got hot and|and gets hot`)},
	{id: WhenCold, says: "when cold", re: words(`(?:cold|frost\w*|winter|freezing|in the mornings?|every morning)`),
		not: words(`cold (?:store|room)`)},
	{id: WhenWet, says: "when wet", re: words(`(?:rain\w*|wet|damp|moist\w*|after washing|snow\w*|washed)`)},
}

var codeRe = words(`(?:code|blinks?|flash\w*|flashing)\s*(?:code\s*)?(?:number\s*)?(\d{1,2})?\b`)

// engineOnly is said of an engine: a starter may crank and the engine not start.
var engineOnly = words(`(?:(?:does|will|did|would)(?: ?n['o]?t| not|n't)|(?:doesnt|wont)|won't) start`)

func words(s string) *regexp.Regexp { return regexp.MustCompile(`(?:^|[^\w'])(?:` + s + `)(?:$|\W)`) }

// Understand lists what a complaint about a circuit says; circuit may be empty. Of a starter
// "does not start" says nothing: the starter may turn and the engine not fire.
func Understand(circuit, text string) []Statement {
	text = Plain(text)
	if circuit == "starter" {
		text = engineOnly.ReplaceAllString(text, " ")
	}
	out := []Statement{}
	for i := range phrases {
		p := &phrases[i]
		if p.re.MatchString(text) && (p.not == nil || !p.not.MatchString(text)) {
			out = append(out, Statement{ID: p.id, Says: p.says})
		}
	}
	if Has(out, SomeSpeeds) || Has(out, OneSpeed) || Has(out, FullOnly) { // dead at some speeds is not dead
		out = slices.DeleteFunc(out, func(s Statement) bool { return s.ID == Dead })
	}
	if m := codeRe.FindStringSubmatch(text); m != nil {
		s := Statement{ID: Code, Says: "blinks a code"}
		if n, err := strconv.Atoi(m[1]); err == nil && n <= 20 {
			s.Code, s.Says = n, "blinks code "+m[1]
		}
		out = append(out, s)
	}
	return out
}

// Has reports whether a statement is among those made.
func Has(list []Statement, id string) bool {
	for _, s := range list {
		if s.ID == id {
			return true
		}
	}
	return false
}

// Words lists the words of a text, mended.
func Words(text string) []string {
	return strings.FieldsFunc(Plain(text), func(r rune) bool {
		return !(r >= 'a' && r <= 'z' || r >= '0' && r <= '9' || r >= 0x80)
	})
}
