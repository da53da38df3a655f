package strip

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// What an entry amounts to for putting back.
const (
	Off       = "off"       // came off, goes back on
	Unplugged = "unplugged" // a plug or wire, plugged in again; may have left codes
	Moved     = "moved"     // put out of the way
	Setting   = "setting"   // must not be disturbed
	Mark      = "mark"      // a mark for position
	Found     = "found"     // a finding; nothing to put back
	Work      = "work"      // extra work that was done; nothing to put back, stands on the paper
)

// Piece is one line as understood.
type Piece struct {
	Text     string    `json:"text"` // as typed
	Act      string    `json:"act"`
	Count    int       `json:"count"` // 1 where none was given
	Size     string    `json:"size"`  // 8 mm, M6, T25
	Kind     string    `json:"kind"`  // bolt, screw, nut ...; part where no word says
	What     string    `json:"what"`  // the thing itself, without count and size
	Warnings []string  `json:"warnings"`
	Stack    []string  `json:"stack"`             // in the order it came off, outermost first
	Torque   string    `json:"torque"`            // as given, with its unit
	Finding  *Finding  `json:"finding,omitempty"` // the first of the findings
	Findings []Finding `json:"findings"`          // what it says as evidence, several side by side
	Unsure   bool      `json:"unsure"`            // it may mean something else: one touch says which
	Notes    []Note    `json:"notes"`             // of the craft, that belong to it
	Relearn  []string  `json:"relearn"`
}

// kinds are the words by which a thing is known, the more special first.
var kinds = []struct {
	kind  string
	words []string
}{
	{"washer", []string{"washer", "washers", "spring washer", "shim", "shims"}},
	{"nut", []string{"nut", "nuts", "locknut"}},
	{"bolt", []string{"bolt", "bolts", "stud", "studs"}},
	{"screw", []string{"screw", "screws", "torx", "grub"}},
	{"clip", []string{"clip", "clips", "circlip", "circlips", "snap ring", "e-clip", "cotter", "pin", "rivet",
		"rivets", "cable tie", "tie"}},
	{"plug", []string{"plug", "plugs", "connector", "connectors"}},
	{"wire", []string{"wire", "wires", "cable", "cables", "lead", "leads", "ring terminal"}},
	{"bearing", []string{"bearing", "bearings", "bush", "bushing"}},
	{"brush", []string{"brush", "brushes", "brush holder", "brush plate"}},
	{"armature", []string{"armature", "rotor"}},
	{"commutator", []string{"commutator"}},
	{"solenoid", []string{"solenoid", "plunger"}},
	{"gear", []string{"gear", "gears", "pinion", "worm", "linkage"}},
	{"seal", []string{"seal", "seals", "o-ring", "gasket", "grommet"}},
	{"spring", []string{"spring", "springs"}},
	{"arm", []string{"arm", "arms", "blade", "blades"}},
	{"belt", []string{"belt", "hose", "pipe"}},
	{"housing", []string{"housing", "cover", "cap", "end cap", "end shield", "case", "lid", "panel", "trim", "shield", "guard"}},
	{"motor", []string{"motor", "starter", "blower", "fan", "actuator"}},
}

var (
	countRe  = regexp.MustCompile(`^(\d{1,3})\s*[x×*]\s*`)
	countRe2 = regexp.MustCompile(`^(\d{1,3})\s+([a-zA-Z])`)
	// Small counts are written out as often as not.
	countWord = regexp.MustCompile(`(?i)^(one|two|three|four|five|six|seven|eight|nine|ten|twelve)\s+`)
	wordCount = map[string]string{"one": "1", "two": "2", "three": "3", "four": "4", "five": "5", "six": "6",
		"seven": "7", "eight": "8", "nine": "9", "ten": "10", "twelve": "12"}
	sizeRe   = regexp.MustCompile(`(?i)\b(m\d{1,2}(?:[.,]\d+)?(?:\s?[x×]\s?\d+)?|\d+(?:[.,]\d+)?\s?mm|\d+/\d+\s?(?:in\b|inch|")|tx?\d{1,2}|ph\d|pz\d)`)
	torqueRe = regexp.MustCompile(`(?i)(\d+(?:[.,]\d+)?)\s?(nm|n m)\b`)
	wordRe   = regexp.MustCompile(`[\p{L}\d-]+`)
)

// MaxText is the longest entry, in characters.
const MaxText = 300

// Parse understands one line. It never fails: a line that says nothing known is a part
// that came off.
func Parse(text string) Piece {
	e := Piece{Text: strings.TrimSpace(text), Act: Off, Count: 1, Kind: "part", Warnings: []string{},
		Stack: []string{}, Notes: []Note{}, Relearn: []string{}, Findings: []Finding{}}
	rest := e.Text
	if m := torqueRe.FindStringSubmatch(rest); m != nil {
		e.Torque = m[1] + " Nm"
		rest = strings.TrimSpace(strings.Replace(rest, m[0], "", 1))
	}
	low := strings.ToLower(rest)
	explicit := false
	for _, p := range []struct {
		act   string
		words []string
	}{
		{Unplugged, []string{"unplugged", "unplug", "disconnected", "disconnect", "pulled plug", "plug off"}},
		{Moved, []string{"moved aside", "moved", "move", "tied aside", "tied back", "hung aside", "put aside", "folded"}},
		{Setting, []string{"do not turn", "do not touch", "do not move", "don't turn", "don't touch",
			"not to be disturbed", "leave setting", "leave", "adjuster", "adjustment"}},
		{Mark, []string{"marked", "mark", "scribed", "painted"}},
		{Found, []string{"found", "finding", "seen"}},
		{Work, []string{"work", "extra work", "done", "also done"}},
		{Off, []string{"came off", "took off", "taken off", "removed"}},
	} {
		if i := slices.IndexFunc(p.words, func(w string) bool { return hasWord(low, w) }); i >= 0 {
			w := p.words[i]
			if p.act == Work || p.act == Off || w == "seen" { // only as a heading, before a colon
				if !strings.HasPrefix(low, w+":") {
					continue
				}
			}
			e.Act, explicit = p.act, true
			// What it is said to be need not be said twice; the text as typed is kept.
			if at := strings.Index(low, w); p.act != Setting && len(low) == len(rest) {
				if r := strings.Trim(strings.TrimSpace(rest[:at])+" "+strings.TrimLeft(rest[at+len(w):], " :,"), " "); r != "" {
					rest = r
				}
			}
			break
		}
	}
	parts := cut(rest)
	if len(parts) > 0 {
		parts[0] = e.head(parts[0])
	}
	mended := book.Text(strings.ToLower(e.What))
	e.Kind = kindOf(mended)
	// A stack: several fasteners one after the other.
	stack := len(parts) >= 2
	for _, p := range parts {
		if !slices.Contains([]string{"washer", "nut", "bolt", "screw", "clip", "spring", "seal"}, kindOf(book.Text(strings.ToLower(p)))) {
			stack = false
		}
	}
	if stack {
		e.Stack = parts
	} else if len(parts) > 1 {
		e.Warnings = append(e.Warnings, parts[1:]...)
	}
	said := book.Text(strings.ToLower(strings.Join(parts, ", ")))
	if (!slices.Contains(fasteners, e.Kind) || plugPin.MatchString(said)) && !stack && e.Act != Setting {
		e.Findings = append(e.Findings, findings(said)...)
	}
	if len(e.Findings) > 0 {
		e.Finding = &e.Findings[0]
	}
	if !explicit {
		e.Act, e.Unsure = classify(said, &e)
		if e.Act == Work { // what was done stands as it was typed
			e.What, e.Warnings, e.Stack = e.Text, []string{}, []string{}
		}
	}
	e.Relearn = relearn(e.Act, low)
	e.Notes = NotesFor(e.Kind, low)
	return e
}

// head reads the first part of a line: how many, what size, what.
func (e *Piece) head(head string) string {
	if m := countWord.FindStringSubmatch(head); m != nil {
		head = wordCount[strings.ToLower(m[1])] + " " + head[len(m[0]):]
	}
	if m := countRe.FindStringSubmatch(head); m != nil {
		e.Count, _ = strconv.Atoi(m[1])
		head = head[len(m[0]):]
	} else if m := countRe2.FindStringSubmatch(head); m != nil &&
		!strings.HasPrefix(strings.ToLower(strings.TrimSpace(head[len(m[1]):])), "mm") {
		e.Count, _ = strconv.Atoi(m[1])
		head = strings.TrimSpace(head[len(m[1]):])
	}
	e.Count = max(e.Count, 1)
	if m := sizeRe.FindString(head); m != "" {
		e.Size = m
		head = strings.Replace(head, m, "", 1)
	}
	e.What = strings.Join(strings.Fields(head), " ")
	return e.What
}

// cut splits at commas, pluses and arrows; a comma between digits is a decimal
// comma.
func cut(s string) []string {
	var out []string
	from := 0
	flush := func(to int) {
		if p := strings.TrimSpace(s[from:to]); p != "" {
			out = append(out, p)
		}
	}
	for i := 0; i < len(s); i++ {
		c := s[i]
		digits := i > 0 && i+1 < len(s) && digit(s[i-1]) && digit(s[i+1])
		if (c == ',' && !digits) || c == '+' || c == ';' || c == '>' {
			flush(i)
			from = i + 1
		}
	}
	flush(len(s))
	return out
}

func digit(c byte) bool { return c >= '0' && c <= '9' }

func hasWord(low, w string) bool {
	i := strings.Index(low, w)
	if i < 0 {
		return false
	}
	end := i + len(w)
	return (i == 0 || !letter(low[i-1])) && (end == len(low) || !letter(low[end]))
}

func letter(c byte) bool { return c >= 'a' && c <= 'z' || c >= 0x80 }

// kindOf takes the last word that names a kind: a brush spring is a spring, a
// bearing cover a cover. What stands behind a preposition says where, not what.
func kindOf(s string) string {
	words := wordRe.FindAllString(strings.ToLower(s), -1)
	for i, w := range words {
		if i > 0 && slices.Contains([]string{"at", "of", "on", "for", "to", "with", "in", "from", "under", "behind",
			"beside", "off", "by", "near"}, w) {
			words = words[:i]
			break
		}
	}
	for i := len(words) - 1; i >= 0; i-- {
		for _, k := range kinds {
			if slices.Contains(k.words, words[i]) || i > 0 && slices.Contains(k.words, words[i-1]+" "+words[i]) {
				return k.kind
			}
		}
	}
	return "part"
}

// relearn is what having been off the supply may have left behind.
func relearn(act, low string) []string {
	out := []string{}
	if act != Unplugged && !hasWord(low, "battery") {
		return out
	}
	add := func(s string, words ...string) {
		for _, w := range words {
			if hasWord(low, w) {
				out = append(out, s)
				return
			}
		}
	}
	add("Window end stops: run the glass fully up and hold the switch, then fully down", "window", "door", "glass", "battery")
	add("Clock, radio code and stored seats", "battery", "radio")
	add("Idle and throttle: ignition on for a while, then let it idle warm", "throttle", "battery", "engine")
	add("Wiper park: let it run once and park before the arms go on", "wiper")
	add("Air flaps and blower: let the control unit run its self-test", "blower", "heater", "climate", "flap")
	add("Airbag plugs: battery off and the wait the manual asks for, before and after; never probed", "airbag", "steering wheel", "seat")
	if act == Unplugged {
		out = append(out, "Stored codes: read, note, clear, and read again after a run")
	}
	return out
}

// Item is an entry in its place in the record.
type Item struct {
	Piece
	ID        string
	Back      bool   // put back, ticked
	Explained string // why it does not go back: replaced by new, left off, scrapped
}

// NeedsTick reports whether an entry has to be ticked at putting back.
func (e *Piece) NeedsTick() bool { return e.Act != Found && e.Act != Work }

// PutBack is the list in the order of putting back: the last that came off goes on first. A mark
// stands before the thing that it is for, which came off after it. Findings and work need nothing.
func PutBack(items []Item) []Item {
	out := []Item{}
	for i := len(items) - 1; i >= 0; i-- {
		if items[i].NeedsTick() {
			out = append(out, items[i])
		}
	}
	for i := 0; i < len(out); i++ {
		m := out[i]
		if m.Act != Mark || m.Kind == "part" {
			continue
		}
		// The first of its kind to go back on, before the mark's own turn comes.
		k := slices.IndexFunc(out[:i], func(it Item) bool { return it.Act != Mark && it.Kind == m.Kind })
		if k >= 0 {
			copy(out[k+1:i+1], out[k:i])
			out[k] = m
		}
	}
	return out
}

// LeftOver lists what is neither ticked nor explained: it stands in the way of calling a
// repair proved.
func LeftOver(items []Item) []Item {
	out := []Item{}
	for _, it := range PutBack(items) {
		if !it.Back && it.Explained == "" {
			out = append(out, it)
		}
	}
	return out
}

// BackWords says how an entry goes back, in a few words: its stack turned round, its
// torque, what is to be lined up or plugged in.
func (e *Piece) BackWords() string {
	switch e.Act {
	case Unplugged:
		return "Plug in until it clicks"
	case Moved:
		return "Back to its place"
	case Setting:
		return "Check that it was not disturbed"
	case Mark:
		return "Line up the mark"
	}
	if len(e.Stack) > 0 {
		s := slices.Clone(e.Stack)
		slices.Reverse(s)
		return "In this order: " + strings.Join(s, ", ")
	}
	words := []string{}
	switch e.Kind {
	case "seal":
		words = append(words, "new where it was pressed flat")
	case "bearing":
		words = append(words, "press on the ring that is tight, never through the balls")
	case "gear":
		words = append(words, "grease")
	}
	if e.Torque != "" {
		words = append(words, e.Torque)
	}
	return strings.Join(words, "; ")
}
