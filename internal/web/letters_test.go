package web_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/store"
)

// What is not seen and changes what others read is refused with a sentence; what only looks
// alike, and every letter that people write with, is taken.
func TestUnseenLettersAreRefused(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	path := "/api/jobs/" + c.job("Mulcher").ID + "/notes"
	say := func(text string) (int, string) { // the text stands in JSON as it is given
		body := `{"id":"` + store.NewID().String() + `","text":"` + text + `"}`
		return c.rawJSON(t, "POST", path, body)
	}
	for name, text := range map[string]string{
		"the end of a text, escaped": `a\u0000b`, "a turn, escaped": `a\u202Eb`, "a turn as it is": "a\u202eb", "an isolate": `\u2067x`,
		"after a backslash": `\\\u0000`, "the end of a text as it is": "a\x00b",
	} {
		code, said := say(text)
		assert.Contains(t, []int{400, 422}, code, name)
		assert.Contains(t, said, "not seen", name)
	}
	for name, text := range map[string]string{
		"typed letter by letter": `a\\u0000b`, "smile": "😀 👩‍🔧", "right to left": "שלום", "Japanese": "日本",
		"an escape that is none of these": `\u00b5F`,
	} {
		code, said := say(text)
		require.Equal(t, 200, code, "%s: %s", name, said)
	}
	code, said := say(strings.Repeat("x", 10<<20))
	assert.Equal(t, 413, code)
	assert.Contains(t, said, "9 MB")
}
