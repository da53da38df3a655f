package strip

import (
	"slices"
	"strings"
)

// Note is a piece of the craft that belongs to a kind of thing.
type Note struct {
	ID    string   `json:"id"`
	Kinds []string `json:"kinds"` // of entry; empty: by words alone
	Words []string `json:"words,omitempty"`
	Text  string   `json:"text"`
	Own   bool     `json:"own,omitempty"` // the workshop's own
}

// notes are common practice of the trade, in our own words. Those with words show only
// where one of them stands in the entry.
var notes = []Note{
	{ID: "nut_stud", Kinds: []string{"nut"}, Text: "Turn the nut back on the stud it came from: it cannot be lost or swapped there."},
	{ID: "sprung_brushes", Kinds: []string{"brush", "armature"},
		Text: "Hold sprung brushes back with a strip of card or bent wire through the holders while the armature " +
			"goes in; pull it out last."},
	{ID: "long_bolts", Kinds: []string{"bolt"}, Words: []string{"long", "through", "thin"},
		Text: "Start long thin bolts by hand before the housing is closed: crossed, they shear."},
	{ID: "breaks", Kinds: []string{"bolt", "screw"}, Words: []string{"breaks", "rusty", "tight", "seized"},
		Text: "Penetrating oil, wait, warm it, and work it to and fro: a bolt that gives way suddenly has broken."},
	{ID: "cam_out", Kinds: []string{"screw"},
		Text: "Right bit, pressed hard, first turn by hand: a head that cams out once needs drilling."},
	{ID: "adhesive", Kinds: []string{"housing", "seal"},
		Words: []string{"glued", "adhesive", "sealant", "trim", "cover"},
		Text:  "Warm the adhesive and pull slowly: it lets go in its own time, and plastic breaks in yours."},
	{ID: "bearing_press", Kinds: []string{"bearing"},
		Text: "Warm the bearing, or press on the inner ring only when it goes on a shaft. Force never goes through the balls."},
	{ID: "arms", Kinds: []string{"arm"},
		Text: "Mark each arm's rest on the glass with tape before its nut comes off; park the motor before it goes back on."},
	{ID: "stuck_plunger", Kinds: []string{"solenoid"},
		Text: "A stuck plunger may be freed and oiled to get home. It is a temporary repair: label it, with a date."},
	{ID: "compare", Kinds: []string{"motor", "bearing", "brush", "seal", "solenoid"},
		Text: "Lay the old and the new part side by side before fitting: shaft, holes, plug, turning direction."},
	{ID: "plug_lock", Kinds: []string{"plug"},
		Text: "Press its lock, pull on the housing, never on the wires. Look for green, brown and spread terminals while it is open."},
	{ID: "wire_mark", Kinds: []string{"wire"},
		Text: "Tape and number wires that share a stud; tape a loose battery lead so that it cannot touch."},
	{ID: "minus_first", Kinds: []string{"wire"}, Words: []string{"battery", "minus", "ground", "earth", "negative"},
		Text: "Grounded post off first and on last: then no spanner can short the other one."},
	{ID: "washer_order", Kinds: []string{"washer"},
		Text: "Thread washers on a wire in the order they came off: thrust washers set the end play."},
	{ID: "shims", Kinds: []string{"washer"}, Words: []string{"shim", "thrust"},
		Text: "Count shims and note their side: one missing and the armature knocks, one too many and it drags."},
	{ID: "clip", Kinds: []string{"clip"}, Text: "Hold a bag over a circlip when it comes off. Stretched once, it is replaced."},
	{ID: "magnets", Kinds: []string{"housing", "armature"}, Words: []string{"magnet", "field", "armature", "case"},
		Text: "Magnets pull the armature in: keep fingers out, keep filings away, and never knock on a magnet housing."},
	{ID: "commutator_hands", Kinds: []string{"armature"}, Text: "Lay the armature in a cloth, never on its commutator."},
	{ID: "gear_grease", Kinds: []string{"gear"},
		Text: "Wipe old grease out, look for metal in it, and use the grease the gear's material allows: some plastics crack."},
	{ID: "seal_new", Kinds: []string{"seal"},
		Text: "A seal that was pressed flat does not seal twice. Oil the new lip before the shaft goes through."},
	{ID: "spring", Kinds: []string{"spring"}, Text: "Note which side and which hole. A blue spring has lost its temper."},
	{ID: "end_cap", Kinds: []string{"housing"}, Words: []string{"end", "cap", "shield", "case"},
		Text: "Scribe a line across the joint before it is parted: brushes and poles must come back to their places."},
	{ID: "engagement", Kinds: []string{"gear", "solenoid"}, Words: []string{"pinion", "fork", "engage", "solenoid"},
		Text: "Pulled in, the pinion stands 1 to 3 mm short of its stop; shims under the solenoid or nose set it. " +
			"Teeth chewed at their edge: look at the ring gear all round."},
	{ID: "strands", Kinds: []string{"wire"}, Words: []string{"strand", "frayed", "chafed"},
		Text: "Broken strands under load are a fire hazard: cut back to bright copper, new lug, or a new wire. It is not left."},
	{ID: "springs", Kinds: []string{"brush", "spring"}, Words: []string{"spring"},
		Text: "Brush springs are compared with each other: one that is soft or blue starves its brush."},
	{ID: "hose", Kinds: []string{"belt"}, Text: "Photograph the run of a belt or hose; note its turning direction."},
}

// Notes lists all that ship.
func Notes() []Note { return slices.Clone(notes) }

// NotesFor finds what belongs to a kind of thing and the words of its entry.
func NotesFor(kind, low string) []Note { return pickNotes(notes, kind, low, 2) }

// Own finds the workshop's own notes of which a word stands in the entry.
func Own(own []Note, kind, low string) []Note { return pickNotes(own, kind, low, 4) }

func pickNotes(from []Note, kind, low string, most int) []Note {
	type hit struct {
		n    Note
		rank int
	}
	var hits []hit
	for _, n := range from {
		rank := 0
		if slices.Contains(n.Kinds, kind) {
			rank++
		} else if len(n.Kinds) > 0 {
			continue
		}
		if len(n.Words) > 0 {
			if !slices.ContainsFunc(n.Words, func(w string) bool { return strings.Contains(low, strings.ToLower(w)) }) {
				continue
			}
			rank += 2
		}
		hits = append(hits, hit{n, rank})
	}
	slices.SortStableFunc(hits, func(a, b hit) int { return b.rank - a.rank })
	out := []Note{}
	for _, h := range hits[:min(len(hits), most)] {
		out = append(out, h.n)
	}
	return out
}

// Search finds notes by the words of a query, all of which must stand in one.
func Search(from []Note, query string) []Note {
	words := strings.Fields(strings.ToLower(query))
	out := []Note{}
	for _, n := range from {
		text := strings.ToLower(n.Text + " " + strings.Join(n.Kinds, " ") + " " + strings.Join(n.Words, " "))
		if !slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(text, w) }) {
			out = append(out, n)
		}
	}
	return out
}
