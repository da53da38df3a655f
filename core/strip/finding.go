package strip

import (
	"regexp"
	"slices"
	"strings"

	"corriente/core/spell"
)

// Finding is what an entry says as evidence.
type Finding struct {
	Observe string `json:"observe"`
	Outcome string `json:"outcome"`
}

// book mends the typing errors of one hand in a glove.
var book = spell.Book{
	Right: strings.Fields(`brush brushes bearing bearings commutator armature rotor winding windings washer washers screw screws bolt bolts
		circlip pinion plunger solenoid connector unplugged housing pigtail gasket spring springs linkage missing broken cracked destroyed
		scored stripped burnt seized grooved changed replaced cleaned greased stuck intact rough worn loose found moved marked`),
	Fine: strings.Fields(`bush bushes marker crushes string strings rushes mousing bearding rotors tough rouge words sworn sounds louse noose goose
		ground round pound sound bound hound moves market turns burns stick sticks struck truck greases cleaner changes blushes
		scored scores stored boring hearing wearing tearing`),
}

// group is a part by the looks that know it.
type group string

const (
	brushes    group = "brushes_seen"
	commutator group = "commutator_seen"
	windings   group = "winding_seen"
	bearings   group = "bearing_feel"
	gears      group = "gear_seen"
	plunger    group = "plunger_seen"
	park       group = "park_contact_seen"
	plugs      group = "connector"
)

// groups by their words, the more special first: a brush spring belongs to the brushes, the
// park contacts to the park switch.
var groups = []struct {
	of group
	re *regexp.Regexp
}{
	{park, word(`park (?:contacts?|switch|track|disc)|contact (?:track|disc)`)},
	{plunger, word(`plungers?|solenoid core|iron core`)},
	{brushes, word(`brush(?:es|s)?|carbons?|pig ?tails?`)},
	{commutator, word(`commutator|comm|collector|segments?|bars?`)},
	{bearings, word(`bearings?|bush(?:ing|es|ings)?|balls?|races?`)},
	{gears, word(`gears?|gear ?wheel|worm|linkage|couplings?|teeth|tooth|pinion|clutch|fan ?wheel|impeller|regulator|rack|helix`)},
	{windings, word(`windings?|coils?|armature|rotor|fields?|lacquer|anchor`)},
	{plugs, word(`plugs?|connectors?|terminals?|pins?`)},
}

// conditions: how a part of a group is found, and which answer that is.
var conditions = map[group][]struct {
	outcome string
	re      *regexp.Regexp
}{
	brushes: {
		{"missing", word(`missing|gone|lost|not there|absent|no brush(?:es)?|only (?:one|two|three)`)},
		{"stuck", word(`stuck|sticks?|sticking|jammed|hangs?|hung|seized|tight in|do(?:es)? not slide`)},
		{"broken", word(`broken|broke|torn|snapped|cracked|frayed|chipped|off|came off|blue spring|spring blue|spring (?:is )?(?:weak|soft)|weak spring|no spring|in two`)},
		{"worn", word(`worn|short|down to|at the (?:mark|limit|end)|used up|finished`)},
		{"fine", word(`good|fine|ok|okay|long|like new|intact|free`)},
	},
	commutator: {
		{"burnt_bars", word(`burnt|burned|pitted|scorched|blue|arced|one (?:dark|black)|dark (?:bar|segment)s?|raised`)},
		{"ridged", word(`grooved?|grooves|ridged?|ridges|scored|worn|out of round|scratched|steps?`)},
		{"dirty", word(`black|greasy|dirty|oily|slots full|full of (?:dust|carbon)|dusty`)},
		{"smooth", word(`smooth|good|fine|ok|okay|clean|brown|intact|like new`)},
	},
	windings: {
		{"burnt", word(`burnt|burned|burn|scorched|charred|black|dark|melted|cooked`)},
		{"broken", word(`broken|broke|torn|snapped|unsoldered|thrown solder|loose wire|wire off|open`)},
		{"rubbed", word(`scored|rubbed|rubs|rubbing|scraped|scratched|grooved|touches|dragged`)},
		{"intact", word(`intact|good|fine|ok|okay|bright|whole|sound|clean|like new`)},
	},
	bearings: {
		{"destroyed", word(`destroyed|pieces|collapsed|fell apart|fallen apart|crumbled|disintegrated|broken|broke|burst|shattered|everywhere|cage (?:gone|broken)|balls? (?:out|gone|loose)`)},
		{"tight", word(`tight|seized|stiff|stuck|locked|hard to turn|will not turn|won't turn|does not turn`)},
		{"rough", word(`rough|gritty|dry|rusty|rust|grinds?|notchy|noisy|sandy|pitted`)},
		{"loose", word(`loose|worn|play|wobbles?|rattles?|knocked out|oval|wide`)},
		{"smooth", word(`smooth|good|fine|ok|okay|like new|free|quiet`)},
	},
	gears: {
		{"stripped", word(`stripped|no teeth|broken|broke|cracked|crack|split|melted|gone|in two|sheared|shattered|slips?|slipping|chewed|missing`)},
		{"blocked", word(`blocked|bent|jammed|stuck|hangs?|hung|seized|frozen`)},
		{"worn", word(`worn|dry|rusty|no grease|pitted|rounded|play`)},
		{"sound", word(`good|fine|ok|okay|sound|intact|free|like new`)},
	},
	plunger: {
		{"scored", word(`scored|score marks|scoring|scratched|grooved|rusty|rust|pitted|worn`)},
		{"dry", word(`dry|sticky|sticks?|stuck|gummed|stiff|hangs?`)},
		{"smooth", word(`smooth|good|fine|ok|okay|free|clean`)},
	},
	park: {
		{"burnt", word(`burnt|burned|worn|broken|gone|melted|pitted|bent`)},
		{"dirty", word(`dirty|greasy|full of grease|black|oily|corroded`)},
		{"clean", word(`clean|good|fine|ok|okay|bright`)},
	},
	plugs: {
		{"burnt", word(`burnt|burned|melted|scorched|charred|black`)},
		{"discoloured", word(`discoloured|discolored|brown|green|corroded|blue`)},
		{"clean", word(`clean|good|fine|ok|okay|bright`)},
	},
}

// good are the answers that say nothing is wrong: another finding on the same part overrules
// them.
var good = []string{"fine", "smooth", "intact", "sound", "clean"}

var (
	// how a thing is, of any part.
	anyCondition = word(`worn|short|missing|lost|gone|stuck|jammed|hangs|hung|hanging|seized|broken|broke|torn|snapped|cracked|crack|split|melted|stripped|sheared|destroyed|pieces|` +
		`collapsed|burnt|burned|scorched|charred|pitted|scored|grooved|ridged|scratched|rubbed|rubs|loose|rough|gritty|bent|blocked|corroded|green|discoloured|discolored|` +
		`oily|wet|soaked|dirty|leaks?|leaking|hardened|hard|dented|blown|welded|flat|dead|chewed|rounded|frayed|weak|soft|no grease|dry|play|wobbles?|rattles?|notchy|` +
		`full of \w+|intact|good|fine|ok|okay|smooth|sound|like new|clean|black|blue|open|slips?|swollen|faded|sticks?|sticky|sticking|smells?|dark|scorches|noisy|frozen|shattered|slipping|rusted (?:solid|through)|unsoldered`)
	// of a fastener only what leaves nothing to put back: the rest is what to mind.
	fastenerGone = word(`missing|lost|gone|not there|absent`)
	fasteners    = []string{"washer", "nut", "bolt", "screw", "clip"}
	oilInside    = word(`(?:oil|grease|gearbox oil|diesel|fuel)\b.{0,20}\b(?:in|inside|all over|through|past)|full of (?:oil|grease)|oil[- ]soaked|oily inside|soaked (?:in|with) oil|oil in (?:the )?motor`)
	waterInside  = word(`(?:water|rust|moisture|salt)\b.{0,15}\b(?:in|inside|all over|out of)|full of (?:water|rust)|wet inside|rusty inside|drowned`)
	dryInside    = word(`dry inside|no (?:oil|water) (?:in|inside)|inside (?:is )?dry`)
	// stated: a sentence with a verb tells how something is.
	stated = word(`is|are|was|were|has|have|had|feels?|looks?|smells?|shows?|ran|runs|hangs?|sticks?|turns?|touches|rattles?|wobbles?|crumbled|crumbles|rubbed|hard to`)
	// done is extra work, a line of its own.
	done    = word(`changed|replaced|renewed|cleaned|greased|oiled|lubricated|topped up|adjusted|repaired|mended|soldered|resoldered|re-soldered|tightened|retightened|filled|refilled|flushed|washed|blown out|sanded|polished|undercut|swapped|charged|drained|bled|balanced|crimped|spliced|packed|aligned|freed|straightened|fitted|put in|turned (?:down|true)|trued`)
	plugPin = word(`pins? \d`)
	undone  = word(`to be|needs?|must be|should be|not (?:yet )?(?:been )?|never|was never|badly|wrongly|before`)
	took    = word(`took off|taken off|removed|pulled off|lifted off|undid|unscrewed|unbolted|took out|taken out|pulled out|came off|prised off|prized off|drilled out|pressed out`)
	justOff = regexp.MustCompile(`^(?:the |a |one |\w+ )?(?:brush |field |earth |ground |motor )?(?:lead|wire|pigtail|cable|spring|magnet|terminal|seal|cap|ring)s? (?:is |was |are )?(?:off|adrift|hanging)$`)
	negated = regexp.MustCompile(`\b(?:not|no|without|never|isn't|aren't|is not|are not)(?: (?:yet|very|at all|any))? (\w+)`)
	places  = []string{"at", "of", "on", "for", "to", "with", "in", "from", "under", "behind", "beside", "by", "near", "between"}
	andRe   = regexp.MustCompile(`\s+(?:and|but|also|plus|&)\s+|[.!]\s+`)
)

func word(s string) *regexp.Regexp {
	return regexp.MustCompile(`(?:^|[^\w'-])(?:` + s + `)(?:$|[^\w-])`)
}

// sides parts a clause into the thing and where it is: "seal of the rear bearing torn" is about a
// seal. A condition may stand on either side.
func thing(clause string) string {
	words := strings.Fields(clause)
	for i, w := range words {
		if i > 0 && slices.Contains(places, w) {
			return strings.Join(words[:i], " ")
		}
	}
	return clause
}

// groupOf finds the part that a clause is about, "" for none that a look knows.
func groupOf(clause string) group {
	head := thing(clause)
	if k := kindOf(head); k == "seal" || k == "housing" || slices.Contains(fasteners, k) && !plugPin.MatchString(head) {
		return ""
	}
	if kindOf(head) == "wire" && groups[6].re.MatchString(clause) { // of a winding
		return windings
	}
	for _, text := range []string{head, clause} {
		for _, g := range groups {
			if g.re.MatchString(text) {
				return g.of
			}
		}
		if k := kindOf(head); k != "part" { // another thing: where it is does not count
			return ""
		}
	}
	return ""
}

// denied takes out what a clause denies: "not worn" is no finding of wear.
func denied(clause string) (rest string, bad bool) {
	rest = negated.ReplaceAllStringFunc(clause, func(m string) string {
		w := negated.FindStringSubmatch(m)[1]
		switch {
		case slices.Contains([]string{"grease", "spring", "springs", "brush", "brushes", "teeth", "there", "slide", "turn"}, w):
			return m // what is not there is a finding of its own
		case slices.Contains([]string{"good", "fine", "ok", "okay", "clean", "smooth", "sound", "free"}, w):
			bad = true
		}
		return ""
	})
	return rest, bad
}

// findings lists what a line says as evidence, clause by clause; what a clause is about carries
// over to the next, so that "brush: pigtail broken, stuck" says two things of the brush.
func findings(low string) []Finding {
	var out []Finding
	about := group("")
	for _, clause := range clauses(low) {
		g := groupOf(clause)
		if g == "" {
			if kindOf(thing(clause)) != "part" {
				about = ""
				continue
			}
			g = about
		}
		about = g
		rest, bad := denied(clause)
		had := false
		for _, c := range conditions[g] {
			isGood := slices.Contains(good, c.outcome)
			if !c.re.MatchString(rest) || isGood && (had || bad) {
				continue
			}
			out, had = append(out, Finding{string(g), c.outcome}), true
			if g != brushes || isGood { // a brush may be broken and stuck
				break
			}
		}
		if !had && !bad && rest != clause && len(conditions[g]) > 0 && anyCondition.MatchString(clause) { // "not worn"
			out = append(out, Finding{string(g), conditions[g][len(conditions[g])-1].outcome})
		}
	}
	switch {
	case oilInside.MatchString(low) && len(out) == 0:
		out = append(out, Finding{"oil_inside", "oil"})
	case waterInside.MatchString(low) && len(out) == 0:
		out = append(out, Finding{"oil_inside", "water"})
	case dryInside.MatchString(low):
		out = append(out, Finding{"oil_inside", "dry"})
	}
	return tidy(out)
}

// tidy leaves each finding once, and no good word of a part beside a bad one.
func tidy(in []Finding) []Finding {
	out := []Finding{}
	for _, f := range in {
		if slices.Contains(out, f) || slices.Contains(good, f.Outcome) &&
			slices.ContainsFunc(in, func(x Finding) bool { return x.Observe == f.Observe && !slices.Contains(good, x.Outcome) }) {
			continue
		}
		out = append(out, f)
	}
	return out
}

// clauses parts a line in small letters at commas, colons and "and".
func clauses(low string) []string {
	var out []string
	for _, p := range cut(strings.ReplaceAll(low, ":", ",")) {
		out = append(out, andRe.Split(p, -1)...)
	}
	return out
}

// classify says what a line without a word for it is: something that came off, a finding, or
// work that was done; and whether a reader could take it otherwise.
func classify(low string, e *Piece) (act string, unsure bool) {
	if low == "" {
		return Off, false
	}
	head := strings.ReplaceAll(cut(low)[0], ":", " ")
	fastener := slices.Contains(fasteners, e.Kind) && !plugPin.MatchString(head)
	rest, bad := denied(head)
	here := bad || rest != head || anyCondition.MatchString(rest) || stated.MatchString(head)
	if !here && !fastener {
		for _, c := range conditions[groupOf(head)] {
			here = here || c.re.MatchString(rest)
		}
	}
	switch {
	case took.MatchString(low):
		return Off, false
	case done.MatchString(low) && !undone.MatchString(low):
		return Work, false
	case oilInside.MatchString(low) || waterInside.MatchString(low) || dryInside.MatchString(low):
		return Found, false
	case justOff.MatchString(strings.TrimSpace(low)):
		return Found, true
	case fastener || e.Size != "" || len(e.Stack) > 0:
		if fastener && fastenerGone.MatchString(low) {
			return Found, false
		}
		return Off, false
	case here && e.Kind == "part" && groupOf(head) == "":
		return Found, true
	case here:
		return Found, false
	case len(findings(low)) > 0:
		return Off, true // a part, and how it is: "brush plate, burnt"
	case e.Kind == "part" && !wordRe.MatchString(low):
		return Off, true
	}
	return Off, e.Kind == "part"
}
