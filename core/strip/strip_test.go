package strip

import (
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
)

func TestOneLineIsUnderstood(t *testing.T) {
	for _, c := range []struct {
		text                   string
		act, size, kind, what  string
		count                  int
		warnings, stack        []string
		torque, found, outcome string
	}{
		{text: "2x 8 mm long bolt, thin, breaks", act: Off, count: 2, size: "8 mm", kind: "bolt", what: "long bolt",
			warnings: []string{"thin", "breaks"}},
		{text: "washer, washer, large washer, nut", act: Off, count: 1, kind: "washer", what: "washer",
			stack: []string{"washer", "washer", "large washer", "nut"}},
		{text: "4 screws T25, short", act: Off, count: 4, size: "T25", kind: "screw", what: "screws", warnings: []string{"short"}},
		{text: "M6x20 bolt 9 Nm", act: Off, count: 1, size: "M6x20", kind: "bolt", what: "bolt", torque: "9 Nm"},
		{text: "unplug blue connector at blower", act: Unplugged, count: 1, kind: "plug", what: "blue connector at blower"},
		{text: "hose moved aside", act: Moved, count: 1, kind: "belt", what: "hose"},
		{text: "mark: end cap to case", act: Mark, count: 1, kind: "housing", what: "end cap to case"},
		{text: "adjuster screw, do not turn", act: Setting, count: 1, kind: "screw", what: "adjuster screw",
			warnings: []string{"do not turn"}},
		{text: "brushes worn", act: Found, count: 1, kind: "brush", what: "brushes worn", found: "brushes_seen", outcome: "worn"},
		{text: "found: bearing rough at drive end", act: Found, count: 1, kind: "bearing",
			what: "bearing rough at drive end", found: "bearing_feel", outcome: "rough"},
		{text: "2,5 mm allen screw", act: Off, count: 1, size: "2,5 mm", kind: "screw", what: "allen screw"},
		{text: "8 mm nut", act: Off, count: 1, size: "8 mm", kind: "nut", what: "nut"},
		{text: "thing", act: Off, count: 1, kind: "part", what: "thing"},
		{text: "3x 8 mm nut at solenoid", act: Off, count: 3, size: "8 mm", kind: "nut", what: "nut at solenoid"},
		{text: "brush spring", act: Off, count: 1, kind: "spring", what: "brush spring"},
	} {
		e := Parse(c.text)
		assert.Equal(t, c.act, e.Act, c.text)
		assert.Equal(t, c.count, e.Count, c.text)
		assert.Equal(t, c.size, e.Size, c.text)
		assert.Equal(t, c.what, e.What, c.text)
		assert.Equal(t, c.torque, e.Torque, c.text)
		assert.Equal(t, c.kind, e.Kind, c.text)
		if c.warnings == nil {
			c.warnings = []string{}
		}
		if c.stack == nil {
			c.stack = []string{}
		}
		assert.Equal(t, c.warnings, e.Warnings, c.text)
		assert.Equal(t, c.stack, e.Stack, c.text)
		if c.found != "" {
			require.NotNil(t, e.Finding, c.text)
			assert.Equal(t, Finding{c.found, c.outcome}, *e.Finding, c.text)
		}
	}
	assert.Nil(t, Parse("2x 8 mm bolt at brush plate").Finding)
}

func TestPutBackIsTheListTurnedRound(t *testing.T) {
	var items []Item
	for i, s := range []string{"unplug motor plug", "2x 8 mm long bolt", "washer, large washer, nut", "brushes are worn", "armature"} {
		items = append(items, Item{Piece: Parse(s), ID: string(rune('a' + i))})
	}
	items[3].Act = Found
	back := PutBack(items)
	var ids []string
	for _, it := range back {
		ids = append(ids, it.ID)
	}
	assert.Equal(t, "ecba", strings.Join(ids, ""))
	assert.Equal(t, "In this order: nut, large washer, washer", back[1].BackWords())
	assert.Len(t, LeftOver(items), 4)
	items[0].Back, items[1].Back, items[4].Back = true, true, true
	items[2].Explained = "new self-locking nut"
	assert.Empty(t, LeftOver(items))
	assert.Contains(t, items[0].Relearn, "Stored codes: read, note, clear, and read again after a run")
}

// A mark comes before what it is for: an arm goes on its mark, not beside it.
func TestAMarkComesBeforeItsThing(t *testing.T) {
	var items []Item
	for i, s := range []string{"mark: left arm on the glass", "arm nut 13 mm", "left arm", "cowl trim",
		"mark: cap to case", "end cap", "brushes worn", "cabin filter changed"} {
		items = append(items, Item{Piece: Parse(s), ID: string(rune('a' + i))})
	}
	ids := ""
	for _, it := range PutBack(items) {
		ids += it.ID
	}
	assert.Equal(t, "efdacb", ids, "mark of the cap, cap, trim, mark of the arm, arm, nut; no finding, no work")
}

func TestWhatBelongsBeforeAndAfter(t *testing.T) {
	for _, id := range circuit.Families() {
		c, err := circuit.Family(id)
		require.NoError(t, err)
		all := strings.Join(append(First(c), Last(c)...), "; ")
		assert.NotEmpty(t, First(c))
		if c.Mains {
			assert.Contains(t, all, "Discharge the capacitor")
			assert.Contains(t, all, "once more before the cover")
			assert.NotContains(t, all, "battery", "a mains fan has no grounded post")
			for _, n := range Fit(c, Parse("earth wire, green and yellow").Notes) {
				assert.NotContains(t, n.Text, "Grounded post")
			}
		}
	}
}

func TestNotesStandBesideTheirItem(t *testing.T) {
	e := Parse("2x 8 mm long bolt, thin, breaks")
	require.NotEmpty(t, e.Notes)
	assert.Contains(t, e.Notes[0].Text, "by hand before the housing is closed")
	assert.Contains(t, Parse("armature").Notes[0].Text+Parse("armature").Notes[1].Text, "Hold sprung brushes back")
	assert.Contains(t, Parse("wiper arm nut").Notes[0].Text, "stud")
	assert.NotEmpty(t, Search(Notes(), "bearing inner ring"))
	assert.Empty(t, Search(Notes(), "submarine"))
	own := Own([]Note{{ID: "x", Words: []string{"tail lift"}, Text: "left-hand thread", Own: true}}, "bolt", "tail lift bolt")
	assert.Len(t, own, 1)
	ids := map[string]bool{}
	for _, n := range Notes() {
		assert.False(t, ids[n.ID], n.ID)
		ids[n.ID] = true
	}
}

// No line makes it fail, and none loses what was typed.
func FuzzParse(f *testing.F) {
	for _, s := range []string{"2x 8 mm long bolt, thin", "washer, nut, bolt", "", "unplug", "999999 x", "mark", "0x screw", "\xff\xfe"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		e := Parse(s)
		if e.Count < 1 {
			t.Fatalf("count %d of %q", e.Count, s)
		}
		if e.Text != strings.TrimSpace(s) {
			t.Fatal("the text as typed is kept")
		}
		if utf8.ValidString(s) && !utf8.ValidString(e.What) {
			t.Fatalf("%q broke a character: %q", s, e.What)
		}
		_ = e.BackWords()
	})
}

// Lines as they are written with one hand beside a motor (from memory): what a reader would
// take from each must be what is kept.
func TestLinesFromTheBench(t *testing.T) {
	for _, c := range []struct {
		text     string
		act      string
		count    int
		size     string
		kind     string
		warnings []string
	}{
		{"10mm nut", Off, 1, "10mm", "nut", nil},
		{"2 nuts 13 mm on B stud", Off, 2, "13 mm", "nut", nil},
		{"three long bolts 8 mm", Off, 3, "8 mm", "bolt", nil},
		{"1/4 inch bolt", Off, 1, "1/4 inch", "bolt", nil},
		{"M8 bolt, rusty", Off, 1, "M8", "bolt", []string{"rusty"}},
		{"circlip off shaft", Off, 1, "", "clip", nil},
		{"E-clip", Off, 1, "", "clip", nil},
		{"cover, glued", Off, 1, "", "housing", []string{"glued"}},
		{"unplugged grey 4-pin plug", Unplugged, 1, "", "plug", nil},
		{"Unplug battery minus", Unplugged, 1, "", "", nil},
		{"red wire off B stud", Off, 1, "", "wire", nil},
		{"moved: hose clipped to bracket", Moved, 1, "", "belt", nil},
		{"mark: arm on glass", Mark, 1, "", "arm", nil},
		{"stop screw, do not turn", Setting, 1, "", "screw", []string{"do not turn"}},
		{"2x M5 x 16 screws, different lengths", Off, 2, "", "screw", nil},
		{"thrust washer", Off, 1, "", "washer", nil},
		{"gear, greasy", Off, 1, "", "gear", nil},
		{"rear bearing", Off, 1, "", "bearing", nil},
		{"o-ring", Off, 1, "", "seal", nil},
		{"brush holder plate", Off, 1, "", "brush", nil},
		{"T20 torx, tight", Off, 1, "T20", "screw", []string{"tight"}},
	} {
		t.Run(c.text, func(t *testing.T) {
			e := Parse(c.text)
			assert.Equal(t, c.act, e.Act)
			assert.Equal(t, c.count, e.Count)
			if c.size != "" {
				assert.Equal(t, strings.ReplaceAll(c.size, " ", ""), strings.ReplaceAll(e.Size, " ", ""))
			}
			if c.kind != "" {
				assert.Equal(t, c.kind, e.Kind)
			}
			for _, w := range c.warnings {
				assert.Contains(t, e.Warnings, w)
			}
			assert.Equal(t, c.text, e.Text, "the line itself is kept as it was typed")
		})
	}
}
