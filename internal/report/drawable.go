package report

import (
	"strings"
	"sync"
	"unicode"

	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/text/unicode/norm"
)

// face is the typeface as it knows its signs; reading it needs a lock of its own.
type face struct {
	mu   sync.Mutex
	font *sfnt.Font
	buf  sfnt.Buffer
}

var regular = sync.OnceValue(func() *face {
	f, err := sfnt.Parse(goregular.TTF)
	if err != nil { // it is compiled in
		return &face{}
	}
	return &face{font: f}
})

// has reports whether the typeface can draw a sign.
func (f *face) has(r rune) bool {
	if f.font == nil {
		return r < 0x80
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	i, err := f.font.GlyphIndex(&f.buf, r)
	return err == nil && i != 0
}

// cannot stands for what cannot be drawn.
const cannot = '?'

// drawable is a text that the paper can show: accents joined to their letters, what the typeface has
// no sign for as one question mark, and nothing that only turns or hides text. The PDF library
// ends on signs beyond the first plane.
func drawable(text string) string {
	f := regular()
	var out strings.Builder
	last := rune(0)
	for _, r := range norm.NFC.String(strings.ToValidUTF8(text, string(cannot))) {
		switch {
		case r == '\n' || r == '\t':
		case unicode.Is(unicode.Cf, r), unicode.Is(unicode.Mn, r) && !f.has(r), r >= 0xFE00 && r <= 0xFE0F:
			continue // turns text round, joins signs, or is a shade of one
		case unicode.IsControl(r):
			continue
		case r > 0xFFFF || !f.has(r):
			if r = cannot; last == cannot {
				continue
			}
		}
		out.WriteRune(r)
		last = r
	}
	return out.String()
}

// What goes on a sheet goes through drawable: no text of anybody's stops a paper.

func (s *sheet) MultiCell(w, h float64, text, border, align string, fill bool) {
	s.Fpdf.MultiCell(w, h, drawable(text), border, align, fill)
}

func (s *sheet) CellFormat(w, h float64, text, border string, ln int, align string, fill bool, link int, linkStr string) {
	s.Fpdf.CellFormat(w, h, drawable(text), border, ln, align, fill, link, linkStr)
}

func (s *sheet) SplitText(text string, w float64) []string {
	return s.Fpdf.SplitText(drawable(text), w)
}

func (s *sheet) SetTitle(text string, utf8 bool) { s.Fpdf.SetTitle(drawable(text), utf8) }
