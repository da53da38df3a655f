package spell

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestWord(t *testing.T) {
	b := Book{Right: []string{"starter", "brush", "commutator", "bearing"}, Fine: []string{"blush"}}
	for w, want := range map[string]string{
		"strater":    "starter",    // swapped
		"startr":     "starter",    // left out
		"brrush":     "brush",      // put in
		"beaning":    "bearing",    // taken for another
		"comutatr":   "commutator", // two slips in a long word
		"brushes":    "brushes",    // begins like one
		"start":      "start",      // one begins like it
		"blush":      "blush",      // a word of its own
		"bus":        "bus",        // too short to tell
		"hearing":    "bearing",    // a long word may begin wrongly
		"submarine":  "submarine",  // nothing near
		"crush":      "crush",      // a short one may not
		"commentary": "commentary", // three slips
		"größe":      "größe",
	} {
		assert.Equal(t, want, b.Word(w), w)
	}
	assert.Equal(t, "2x 8 mm starter, bearing!", b.Text("2x 8 mm strater, baering!"))
}

// Damerau's examples of the optimal string alignment distance.
func TestSlips(t *testing.T) {
	assert.Equal(t, 1, slips("ab", "ba"))
	assert.Equal(t, 3, slips("ca", "abc"))
	assert.Equal(t, 0, slips("fan", "fan"))
	assert.Equal(t, 2, slips("", "ab"))
}

func FuzzWord(f *testing.F) {
	b := Book{Right: []string{"starter", "commutator"}}
	f.Add("strater")
	f.Add("\xff")
	f.Fuzz(func(t *testing.T, w string) {
		once := b.Word(w)
		if twice := b.Word(once); twice != once {
			t.Fatalf("%q became %q and then %q", w, once, twice)
		}
	})
}
