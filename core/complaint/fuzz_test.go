package complaint_test

import (
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"

	"corriente/core/circuit"
	"corriente/core/complaint"
)

// Whatever a customer says, each statement is one that the circuit knows, once, and the plain text is text.
func FuzzUnderstand(f *testing.F) {
	for _, s := range []string{"only clicks", "the heater fan is dead, slower every morning", "does not crank at all",
		"", "\xff\xfe", "no no not not never nothing", "😀 wiper ünïcode"} {
		f.Add(s)
	}
	families := circuit.Families()
	f.Fuzz(func(t *testing.T, text string) {
		for _, c := range families[:3] {
			seen := map[string]bool{}
			for _, s := range complaint.Understand(c, text) {
				assert.NotEmpty(t, s.ID)
				assert.False(t, seen[s.ID], "%s is said twice", s.ID)
				seen[s.ID] = true
			}
		}
		if utf8.ValidString(text) {
			assert.True(t, utf8.ValidString(complaint.Plain(text)))
		}
		complaint.Words(text)
	})
}
