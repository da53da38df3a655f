package report

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a phone's keyboard types is drawn, or replaced by a sign that says so: it stops no paper.
func TestTextThatTheFontCannotDraw(t *testing.T) {
	for _, text := range []string{"smokes 🔥🙂", "\U0001F468\u200d\U0001F469\u200d\U0001F467", "\u202Eevil\u202C",
		"nul \x00 in it", "\xff\xfe bad", "中文 עברית ไทย", "a\u0301 e\u0308", string(rune(0x10FFFF))} {
		var b bytes.Buffer
		p := &Paper{Title: text, Sections: []Section{{ID: "x", Head: text, Lines: []Para{{Text: text}},
			Table: &Grid{Head: []string{text}, Share: []float64{1}, Rows: [][]string{{text}}}}}}
		require.NoError(t, p.Write(&b, []Photo{{Label: text}}), "%q", text)
		assert.True(t, bytes.HasPrefix(b.Bytes(), []byte("%PDF-")))
		b.Reset()
		require.NoError(t, (&Label{Workshop: text, Machine: text, Done: []string{text}}).Write(&b), "%q", text)
	}
}

func TestDrawable(t *testing.T) {
	for text, want := range map[string]string{
		"12.4 V · 0.3 Ω, 7.5 µF “good” – ½ ≥ é": "12.4 V · 0.3 Ω, 7.5 µF “good” – ½ ≥ é",
		"smokes 🔥🔥 now":                         "smokes ? now",
		"e\u0301":                               "é",
		"\u202Eevil\u202C":                      "evil",
		"nul\x00":                               "nul",
		"\xff":                                  "?",
		"two\nlines":                            "two\nlines",
	} {
		assert.Equal(t, want, drawable(text))
	}
}

func FuzzDrawable(f *testing.F) {
	f.Add("smokes 🔥\u202E\xff")
	f.Fuzz(func(t *testing.T, text string) {
		var b bytes.Buffer
		p := &Paper{Title: text, Sections: []Section{{Head: text, Lines: []Para{{Text: text}}}}}
		if err := p.Write(&b, nil); err != nil {
			t.Fatal(err)
		}
	})
}
