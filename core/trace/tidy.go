package trace

import (
	"bufio"
	"bytes"
	"errors"
	"io"
	"regexp"
	"strconv"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// peeked is how much of a file is looked at to see how it is written.
const peeked = 64 << 10

// tidy makes of an oddly written file a plain one, line for line: UTF-16 and Latin-1 become
// UTF-8, lone carriage returns line ends, quotes fall away, times of day become seconds, and
// prefixes and units at the numbers powers of ten. What is plain is passed on as it is. units
// are those at the numbers, by column.
func tidy(r io.Reader) (br *bufio.Reader, units func() []string, err error) {
	br = bufio.NewReaderSize(r, 1<<20)
	units = func() []string { return nil }
	head, err := br.Peek(peeked)
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, nil, err
	}
	again := func(r io.Reader) []byte {
		br = bufio.NewReaderSize(r, 1<<20)
		head, err := br.Peek(peeked)
		if err != nil && !errors.Is(err, io.EOF) {
			return nil // the reader of rows comes upon it as well
		}
		return head
	}
	switch wide := wideText(head); {
	case wide != nil:
		head = again(transform.NewReader(br, wide))
	case !validUpToTheCut(head) && bytes.IndexByte(head, 0) < 0:
		head = again(transform.NewReader(br, charmap.Windows1252.NewDecoder()))
	}
	if bytes.IndexByte(head, '\n') < 0 && bytes.IndexByte(head, '\r') >= 0 {
		head = again(returns{br})
	}
	if odd(head) {
		t := &tidier{in: br}
		again(t)
		units = func() []string { return t.units }
	}
	return br, units, nil
}

// wideText is the decoder of UTF-16, with its mark or by the noughts in plain text; nil for
// other text.
func wideText(head []byte) transform.Transformer {
	if bytes.HasPrefix(head, []byte{0xff, 0xfe}) || bytes.HasPrefix(head, []byte{0xfe, 0xff}) {
		return unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewDecoder()
	}
	n := min(len(head), 400) / 2
	if n < 8 {
		return nil
	}
	even, odd := 0, 0
	for i := range n {
		if head[2*i] == 0 {
			even++
		}
		if head[2*i+1] == 0 {
			odd++
		}
	}
	switch {
	case odd > n*9/10 && even == 0:
		return unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM).NewDecoder()
	case even > n*9/10 && odd == 0:
		return unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM).NewDecoder()
	}
	return nil
}

// validUpToTheCut reports whether a piece of text is UTF-8; its last rune may be cut.
func validUpToTheCut(b []byte) bool {
	for len(b) > 0 {
		r, n := utf8.DecodeRune(b)
		if r == utf8.RuneError && n == 1 {
			return len(b) < utf8.UTFMax && !utf8.FullRune(b)
		}
		b = b[n:]
	}
	return true
}

// returns makes line ends of carriage returns.
type returns struct{ r io.Reader }

func (c returns) Read(p []byte) (int, error) {
	n, err := c.r.Read(p)
	for i, b := range p[:n] {
		if b == '\r' {
			p[i] = '\n'
		}
	}
	return n, err
}

var (
	clockIn = regexp.MustCompile(`(?:(?:\d{4}-\d{1,2}-\d{1,2}|\d{1,2}[./]\d{1,2}[./]\d{4})[ T])?(\d{1,2}):(\d{2}):(\d{2})([.,]\d+)?`)
	dateIn  = regexp.MustCompile(`(^|[,;\t])(?:(\d{4})-(\d{2})-(\d{2})|(\d{2})[./](\d{2})[./](\d{4}))([,;\t])`)
	atUnit  = regexp.MustCompile(`^\s*([-+]?[0-9]+(?:[.,][0-9]+)?)(?:[eE]([-+]?[0-9]+))?\s*([nuµμmkM]?)(A|V|s|sec)?\s*$`)
	quoted  = regexp.MustCompile(`^[-+]?[0-9]+,[0-9]+(?:[eE][-+]?[0-9]+)?$`)
)

// odd reports whether more than a few lines are rows that only a tidier can read.
func odd(head []byte) bool {
	lines, rows := 0, 0
	for b := range bytes.Lines(head) {
		lines++
		b = bytes.TrimRight(b, "\r\n\t ")
		if len(b) == 0 || !bytes.ContainsAny(b, "0123456789") {
			continue
		}
		switch {
		case b[0] == '"' && len(b) > 1 && (b[1] >= '0' && b[1] <= '9' || b[1] == '-' || b[1] == '+' || b[1] == '.'):
			rows++
		case clockIn.Match(b) && clockIn.FindIndex(b)[0] < 12:
			rows++
		default:
			for _, f := range bytes.FieldsFunc(b, func(r rune) bool { return r == ',' || r == ';' || r == '\t' }) {
				if m := atUnit.FindSubmatch(f); m != nil && len(m[3])+len(m[4]) > 0 {
					rows++
					break
				}
			}
		}
	}
	return rows >= 2 && rows*4 > lines
}

// tidier rewrites a file line by line.
type tidier struct {
	in    *bufio.Reader
	out   []byte
	units []string
	last  int // seconds of the last time of day
	days  int
	err   error
}

func (t *tidier) Read(p []byte) (int, error) {
	for len(t.out) == 0 {
		if t.err != nil {
			return 0, t.err
		}
		b, err := t.in.ReadSlice('\n')
		if errors.Is(err, bufio.ErrBufferFull) {
			err = nil // a line without an end is refused by who reads it
		}
		t.err = err
		if len(b) > 0 {
			t.out = t.line(b)
		}
	}
	n := copy(p, t.out)
	t.out = t.out[n:]
	return n, nil
}

// line rewrites one line.
func (t *tidier) line(b []byte) []byte {
	out := unquoted(b)
	out = dateIn.ReplaceAll(out, []byte("$1$2$3$4$7$6$5$8"))
	out = clockIn.ReplaceAllFunc(out, t.seconds)
	end := len(bytes.TrimRight(out, "\r\n"))
	row, rest := out[:end], out[end:]
	sep := byte(';')
	switch {
	case bytes.IndexByte(row, ';') >= 0:
	case bytes.IndexByte(row, '\t') >= 0:
		sep = '\t'
	default:
		sep = ','
	}
	var units []string
	var line []byte
	for i, f := range bytes.Split(row, []byte{sep}) {
		if i > 0 {
			line = append(line, sep)
		}
		m := atUnit.FindSubmatch(f)
		if m == nil || len(m[3])+len(m[4]) == 0 {
			line, units = append(line, f...), append(units, "")
			continue
		}
		exp, _ := strconv.Atoi(string(m[2])) // nought where there is none
		switch string(m[3]) {
		case "n":
			exp -= 9
		case "u", "µ", "μ":
			exp -= 6
		case "m":
			exp -= 3
		case "k":
			exp += 3
		case "M":
			exp += 6
		}
		line = strconv.AppendInt(append(append(line, m[1]...), 'e'), int64(exp), 10)
		units = append(units, string(m[4]))
	}
	if t.units == nil && len(units) > 1 && units[0]+units[1] != "" {
		t.units = units
	}
	return append(line, rest...)
}

// seconds is a time of day in seconds, its fraction as it was written; past midnight a day is
// added.
func (t *tidier) seconds(b []byte) []byte {
	m := clockIn.FindSubmatch(b)
	at := 0
	for _, part := range m[1:4] {
		v, err := strconv.Atoi(string(part))
		if err != nil {
			return b
		}
		at = 60*at + v
	}
	if at < t.last-43200 {
		t.days++
	}
	t.last = at
	return append(strconv.AppendInt(nil, int64(at+86400*t.days), 10), m[4]...)
}

// unquoted takes quotes off; a decimal comma inside them becomes a point, other separators
// blanks.
func unquoted(b []byte) []byte {
	if bytes.IndexByte(b, '"') < 0 {
		return bytes.Clone(b)
	}
	var out []byte
	for i, part := range bytes.Split(b, []byte{'"'}) {
		if i%2 == 1 {
			part = bytes.Clone(part)
			if quoted.Match(part) {
				part = bytes.Replace(part, []byte{','}, []byte{'.'}, 1)
			} else {
				part = bytes.Map(func(r rune) rune {
					if r == ',' || r == ';' || r == '\t' {
						return ' '
					}
					return r
				}, part)
			}
		}
		out = append(out, part...)
	}
	return out
}
