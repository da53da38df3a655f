package phrase_test

import (
	"fmt"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"

	"corriente/core/phrase"
)

func ExampleSentence() {
	fmt.Println(phrase.Sentence("the brushes are worn"))
	fmt.Println(phrase.Sentence("why did the fuse blow?"))
	// Output:
	// The brushes are worn.
	// Why did the fuse blow?
}

func TestFirstLetters(t *testing.T) {
	for in, want := range map[string][2]string{
		"": {"", ""}, "motor": {"Motor", "motor"}, "Öl": {"Öl", "öl"}, "ölig": {"Ölig", "ölig"},
		"12 V": {"12 V", "12 V"}, "\xff": {"\xff", "\xff"},
	} {
		assert.Equal(t, want[0], phrase.Upper(in), "%q", in)
		assert.Equal(t, want[1], phrase.Lower(in), "%q", in)
	}
	assert.Equal(t, "", phrase.Sentence("  "))
}

func FuzzFirstLetters(f *testing.F) {
	f.Add("motor")
	f.Add("\xc3")
	f.Fuzz(func(t *testing.T, s string) {
		if utf8.ValidString(s) {
			assert.True(t, utf8.ValidString(phrase.Upper(s)) && utf8.ValidString(phrase.Lower(s)) && utf8.ValidString(phrase.Sentence(s)))
		}
	})
}
