package trace

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"runtime"
	"slices"
	"strconv"
	"strings"
)

// Problem is what is wrong with a file, where, and the mend.
type Problem struct {
	Line int
	What string
}

func (p *Problem) Error() string {
	if p.Line > 0 {
		return fmt.Sprintf("line %d: %s", p.Line, p.What)
	}
	return p.What
}

func bad(line int, format string, args ...any) *Problem {
	return &Problem{line, fmt.Sprintf(format, args...)}
}

// Limits of a file.
const (
	MaxChannels = 16
	maxHead     = 400 // lines before the samples
	maxLine     = 64 << 10
)

// Channel is one column of samples.
type Channel struct {
	Name string
	Unit string    // A, mA, V, mV, or "" where the file does not say
	X    []float32 // as in the file
}

// File is a trace as it was read.
type File struct {
	Channels []Channel
	Dt       float64 // seconds between samples; 0 where nothing says it
	N        int
	Over     int    // over-range marks, each held at the greatest value
	Repeats  int    // rounded times that repeat
	Missing  int    // samples that the file marks as missing, each held at the one before
	Scale    string // of the clamp, where the head names it: 100mV/A
	Warnings []string
}

// Read takes a trace: comma, semicolon or tab; decimal point or comma; lines of
// words before the columns; a row of names and one of units; up to
// sixteen channels; time in s, ms, us or of day, or no time and a sample interval in the head.
// It reads as a stream and keeps four bytes a sample and channel. The error is a
// *[Problem], or what the reader returned.
func Read(r io.Reader) (*File, error) { return ReadSized(r, 0) }

// ReadSized is Read for a file of so many bytes, 0 where that is not known: room
// for its samples is made at once.
func ReadSized(r io.Reader, size int64) (*File, error) {
	br, units, err := tidy(r)
	if err != nil {
		return nil, err
	}
	p := &parser{br: br, size: size, units: units}
	if err := p.head(); err != nil {
		return nil, err
	}
	if err := p.rows(); err != nil {
		return nil, err
	}
	return p.finish()
}

type parser struct {
	br      *bufio.Reader
	size    int64
	line    int
	sep     byte
	comma   bool   // decimal comma
	first   []byte // the first row of samples
	cols    int
	timeCol int
	scaleT  float64
	chans   []int // file columns of the channels
	f       File
	t0, tN  float64
	dtHead  float64
	peak    []float32
	units   func() []string // at the numbers, by column, after the first row
	factor  []float64       // of each channel, to its unit
	ended   int             // the line of the text behind the samples; 0: none yet
}

// next returns the next line without its end; the slice is valid until the next
// call.
func (p *parser) next() ([]byte, error) {
	b, err := p.br.ReadSlice('\n')
	if errors.Is(err, bufio.ErrBufferFull) || len(b) > maxLine {
		return nil, bad(p.line+1, "this line has no end: is it a text file of samples?")
	}
	if err != nil && (!errors.Is(err, io.EOF) || len(b) == 0) {
		return nil, err
	}
	p.line++
	if p.line == 1 {
		b = bytes.TrimPrefix(b, []byte("\xef\xbb\xbf"))
		if bytes.HasPrefix(b, []byte{0xff, 0xfe}) || bytes.HasPrefix(b, []byte{0xfe, 0xff}) {
			return nil, bad(1, "this file is UTF-16: save it as UTF-8 or plain text")
		}
	}
	return bytes.TrimRight(b, "\r\n \t\x00"), nil
}

// head reads up to the first row of samples: the first of two rows of as many
// numbers.
func (p *parser) head() error {
	var lines [][]byte
	for {
		b, err := p.next()
		if errors.Is(err, io.EOF) {
			return p.nothing(lines)
		}
		if err != nil {
			return err
		}
		if bytes.IndexByte(b, 0) >= 0 {
			return bad(p.line, "this is no text: export the trace as CSV")
		}
		b = bytes.Clone(b) // looking ahead moves the buffer
		if sep, comma, n := p.numeric(b); n > 0 {
			// A line such as "interval, 0.00002" in the head is no row: the next line decides.
			nextLine := p.peekLine()
			if s2, _, n2 := p.numeric(nextLine); nextLine == nil || n2 == n && (s2 == sep || n == 1) {
				p.sep, p.comma, p.cols = sep, comma || sep != ',' && p.commas(), n
				p.first = b
				break
			}
		}
		if n := p.tooMany(b); n > 0 {
			return bad(p.line, "there are %d columns: at most %d channels are read; export fewer", n, MaxChannels)
		}
		if len(lines) >= maxHead {
			return bad(p.line, "no samples in the first %d lines: export the trace as columns of numbers", maxHead)
		}
		lines = append(lines, b)
	}
	return p.understand(lines)
}

func (p *parser) nothing(lines [][]byte) error {
	if len(lines) == 0 {
		return bad(0, "the file is empty: export the trace again")
	}
	return bad(len(lines), "there are no samples in this file: export the trace as columns of numbers")
}

// peekLine looks at the next line without taking it; nil at the end.
func (p *parser) peekLine() []byte {
	for n := 256; n <= maxLine; n *= 4 {
		b, err := p.br.Peek(n)
		if i := bytes.IndexByte(b, '\n'); i >= 0 {
			return bytes.TrimRight(bytes.Clone(b[:i]), "\r \t")
		}
		if err != nil {
			if len(b) == 0 {
				return nil
			}
			return bytes.TrimRight(bytes.Clone(b), "\r \t")
		}
	}
	return nil
}

// commas reports whether the rows ahead have decimal commas: the first may be all
// whole numbers.
func (p *parser) commas() bool {
	b, _ := p.br.Peek(1 << 14) // what there is of it
	return bytes.IndexByte(b, ',') >= 0 && bytes.IndexByte(b, '.') < 0
}

// numeric says whether a line is a row of numbers, how it is cut, and into how
// many; 0 for none.
func (p *parser) numeric(b []byte) (sep byte, comma bool, n int) {
	for _, s := range []byte{';', '\t', ',', ' '} {
		if bytes.IndexByte(b, s) < 0 {
			continue
		}
		dec := s != ',' && bytes.IndexByte(b, ',') >= 0
		fields := split(b, s)
		ok := len(fields) > 0
		nums := 0
		for _, f := range fields {
			if _, _, good := number(f, dec); good {
				nums++
			} else if !overMark(f) && !missing(f) {
				ok = false
			}
		}
		if ok && nums > 0 && len(fields) <= MaxChannels+1 {
			return s, dec, len(fields)
		}
	}
	if _, _, ok := number(bytes.TrimSpace(b), false); ok {
		return ',', false, 1
	}
	if _, _, ok := number(bytes.TrimSpace(b), true); ok {
		return ';', true, 1
	}
	return 0, false, 0
}

// tooMany is how many numbers stand in a row that has more than can be read; 0 for others.
func (p *parser) tooMany(b []byte) int {
	for _, s := range []byte{';', '\t', ','} {
		fields := split(b, s)
		if len(fields) <= MaxChannels+1 {
			continue
		}
		for _, f := range fields {
			if _, _, ok := number(f, s != ','); !ok {
				if _, _, ok = number(f, false); !ok {
					fields = nil
					break
				}
			}
		}
		if len(fields) > 0 {
			return len(fields)
		}
	}
	return 0
}

// split cuts a row; blanks at its end, or a last empty field, are none.
func split(b []byte, sep byte) [][]byte {
	var out [][]byte
	if sep == ' ' {
		return bytes.Fields(b)
	}
	for len(b) > 0 {
		i := bytes.IndexByte(b, sep)
		if i < 0 {
			out = append(out, bytes.TrimSpace(b))
			break
		}
		out = append(out, bytes.TrimSpace(b[:i]))
		b = b[i+1:]
		if len(bytes.TrimSpace(b)) == 0 {
			break
		}
	}
	return out
}

var marks = [][]byte{[]byte("over"), []byte("ol"), []byte("inf"), []byte("∞"), []byte("---"), []byte("***"),
	[]byte("clip"), []byte("o.l"), []byte("ovf"), []byte("ovl"), []byte("#ovr"), []byte("1.#inf"), []byte(">"), []byte("<")}

// gaps are what stands where there is no sample.
var gaps = [][]byte{[]byte("nan"), []byte("#n/a"), []byte("n/a"), []byte("null"), []byte("1.#qnan"), []byte("1.#ind")}

// missing reports whether a field says that there is no sample.
func missing(f []byte) bool {
	f = bytes.Trim(bytes.ToLower(f), "+-\" ")
	return slices.ContainsFunc(gaps, func(g []byte) bool { return bytes.Equal(f, g) })
}

// overMark reports whether a field is what a scope writes where its range ends.
func overMark(f []byte) bool {
	f = bytes.Trim(bytes.ToLower(f), "+-\" ")
	for _, m := range marks {
		if bytes.HasPrefix(f, m) && len(f) < 16 {
			return true
		}
	}
	return len(f) == 0 // nothing left of "--"
}

var pow10 = [...]float64{1, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15, 1e16,
	1e17, 1e18, 1e19, 1e20, 1e21, 1e22}

// number parses one field; over where it is beyond what a scope can mean. Up to
// 15 digits and powers to 22 are exact (W. D. Clinger, How to read floating point
// numbers accurately, 1990); the rest goes to strconv.
func number(f []byte, comma bool) (v float64, over, ok bool) {
	if len(f) == 0 {
		return 0, false, false
	}
	neg := f[0] == '-'
	rest := f
	if neg || f[0] == '+' {
		rest = f[1:]
	}
	m, rest := readMantissa(rest, comma)
	if !m.seen {
		return 0, false, false
	}
	exp, ok := readExponent(rest)
	if !ok {
		return 0, false, false
	}
	exp -= m.frac
	if m.digits <= 15 && exp >= -22 && exp <= 22 {
		if v = scaled(m.value, exp); neg {
			v = -v
		}
		return v, false, true // below 10^37
	}
	s := string(f)
	if comma {
		s = strings.Replace(s, ",", ".", 1)
	}
	v, err := strconv.ParseFloat(s, 64)
	if err != nil {
		return 0, math.IsInf(v, 0), math.IsInf(v, 0)
	}
	return v, math.Abs(v) >= 9.8e37, true
}

// mantissa is the number as its digits say it without a decimal mark.
type mantissa struct {
	value  uint64
	digits int // significant ones
	frac   int // of these behind the mark; below zero: digits that did not fit
	seen   bool
}

// readMantissa reads digits with at most one decimal mark and returns what follows.
func readMantissa(f []byte, comma bool) (m mantissa, rest []byte) {
	point := byte('.')
	if comma {
		point = ','
	}
	behind := false
	for i, c := range f {
		switch {
		case c == point && !behind:
			behind = true
			continue
		case c < '0' || c > '9':
			return m, f[i:]
		}
		m.seen = true
		switch {
		case m.digits < 18:
			m.value = m.value*10 + uint64(c-'0')
			if m.value > 0 {
				m.digits++
			}
			if behind {
				m.frac++
			}
		case !behind:
			m.frac--
		}
	}
	return m, nil
}

// readExponent reads what follows a mantissa: nothing, or E and a whole number.
func readExponent(f []byte) (exp int, ok bool) {
	if len(f) == 0 {
		return 0, true
	}
	if f[0]|0x20 != 'e' {
		return 0, false
	}
	f = f[1:]
	neg := len(f) > 0 && f[0] == '-'
	if neg || len(f) > 0 && f[0] == '+' {
		f = f[1:]
	}
	if len(f) == 0 {
		return 0, false
	}
	for _, c := range f {
		if c < '0' || c > '9' {
			return 0, false
		}
		if exp < 1000 {
			exp = exp*10 + int(c-'0')
		}
	}
	if neg {
		exp = -exp
	}
	return exp, true
}

// scaled is digits times a power of ten from -22 to 22.
func scaled(digits uint64, exp int) float64 {
	if exp < 0 {
		return float64(digits) / pow10[-exp]
	}
	return float64(digits) * pow10[exp]
}

var (
	unitIn   = regexp.MustCompile(`[\[(/]\s*([a-zA-Zµμ]+)\s*[\])]?\s*$`)
	interval = regexp.MustCompile(`(?i)(interval|increment|sample\s*period|\bdt\b|delta\s*t|x\s*inc)`)
	rate     = regexp.MustCompile(`(?i)(sample\s*rate|sampling\s*(rate|frequency)|samples?\s*(per|/)\s*s)`)
	figure   = regexp.MustCompile(`([-+]?[0-9]+(?:[.,][0-9]+)?(?:[eE][-+]?[0-9]+)?)[\s;,\"]*([a-zA-Zµμ/]*)`)
	clampMV  = regexp.MustCompile(`(?i)([0-9]+(?:[.,][0-9]+)?)\s*(mV|V)\s*(?:/|per)\s*A\b`)
	clampA   = regexp.MustCompile(`(?i)([0-9]+(?:[.,][0-9]+)?)\s*A\s*(?:/|per)\s*(mV|V)\b`)
)

// seconds is how many seconds a unit of time has; 0 for none.
func seconds(u string) float64 {
	switch strings.ToLower(strings.NewReplacer("µ", "u", "μ", "u").Replace(strings.TrimSpace(u))) {
	case "s", "sec", "second", "seconds":
		return 1
	case "ms", "msec":
		return 1e-3
	case "us", "usec":
		return 1e-6
	case "ns":
		return 1e-9
	}
	return 0
}

// electrical is the unit of a column, A, mA, V, mV or counts, and by what its numbers are
// multiplied for it; "" for no such unit.
func electrical(u string) (unit string, factor float64) {
	switch strings.ToLower(strings.NewReplacer("µ", "u", "μ", "u").Replace(strings.TrimSpace(u))) {
	case "a", "amp", "amps", "ampere", "amperes":
		return "A", 1
	case "ma":
		return "mA", 1
	case "ua":
		return "mA", 1e-3
	case "ka":
		return "A", 1e3
	case "v", "volt", "volts":
		return "V", 1
	case "mv":
		return "mV", 1
	case "uv":
		return "mV", 1e-3
	case "kv":
		return "V", 1e3
	case "count", "counts", "adc", "lsb", "raw", "digits":
		return counts, 1
	}
	return "", 1
}

// counts is the unit of a converter's bare steps.
const counts = "counts"

// known reports whether a unit is one of time or electricity.
func known(u string) bool {
	e, _ := electrical(u)
	return e != "" || seconds(u) > 0
}

// understand makes sense of the lines before the samples.
func (p *parser) understand(lines [][]byte) error {
	p.scaleT = 1
	if p.sep == ',' && !p.comma {
		if err := p.doubtful(lines); err != nil {
			return err
		}
	}
	names, units := p.titles(lines)
	for _, l := range lines {
		s := string(l)
		if m := figure.FindAllStringSubmatch(tail(s), -1); m != nil {
			v, _, ok := number([]byte(m[0][1]), strings.Contains(m[0][1], ","))
			u := m[0][2]
			switch {
			case !ok || v <= 0:
			case interval.MatchString(s):
				k := seconds(u)
				if k == 0 {
					k = seconds(unitOf(s))
				}
				if k == 0 {
					k = 1
				}
				p.dtHead = v * k
			case rate.MatchString(s):
				k := 1.0
				switch {
				case strings.HasPrefix(u, "k"):
					k = 1e3
				case strings.HasPrefix(u, "M"):
					k = 1e6
				}
				p.dtHead = 1 / (v * k)
			}
		}
	}
	p.increment(lines)
	p.clampScale(lines)
	index := p.columns(names, units)
	if index && p.dtHead == 0 {
		return bad(p.line, noInterval)
	}
	if len(p.chans) == 0 {
		return bad(p.line, "there is only a time column: export the channel of the clamp as well")
	}
	p.peak = make([]float32, len(p.chans))
	// The first row is mostly the shortest, so this is a little too much.
	const most = 1 << 26
	if n := p.size / int64(len(p.first)+1); n > 0 {
		for i := range p.f.Channels {
			p.f.Channels[i].X = make([]float32, 0, min(n+n/50, most))
		}
	}
	return nil
}

// noInterval is what is said where nothing tells the time.
const noInterval = "there is neither a time column nor a sample interval in the head: add a line such as \"sample interval: 20 us\" on top"

// titles finds the names and units of the columns in the last lines that are cut into as many
// fields: names, and under them units, of which some may be empty; over them there may be more.
func (p *parser) titles(lines [][]byte) (names, units []string) {
	names, units = make([]string, p.cols), make([]string, p.cols)
	rows := 0
	for i := len(lines) - 1; i >= 0 && rows < 2; i-- {
		if len(bytes.TrimSpace(lines[i])) == 0 {
			continue
		}
		fs := p.cells(lines[i])
		if fs == nil {
			break
		}
		all, any := true, false
		for _, f := range fs {
			if s := strings.Trim(f, "\"[]() "); s != "" {
				any = true
				all = all && known(s)
			}
		}
		for c, f := range fs {
			s := strings.Trim(f, "\" ")
			switch {
			case all && any && rows == 0:
				units[c] = strings.Trim(s, "[]() ")
			case names[c] == "":
				names[c] = s
			}
		}
		rows++
		if !all || !any {
			break
		}
	}
	given := p.units()
	for c := range names {
		if m := unitIn.FindStringSubmatch(names[c]); m != nil && known(m[1]) {
			if units[c] == "" {
				units[c] = m[1]
			}
			names[c] = strings.TrimSpace(strings.TrimSuffix(names[c], m[0]))
		}
		if units[c] == "" && c < len(given) {
			units[c] = given[c]
		}
	}
	return names, units
}

// cells cuts a line of titles into as many as there are columns; empty ones at its end count,
// one more is a row of its own. nil where it is none.
func (p *parser) cells(line []byte) []string {
	fs := split(line, p.sep)
	if p.sep != ' ' && bytes.Count(line, []byte{p.sep}) == p.cols-1 {
		for len(fs) < p.cols {
			fs = append(fs, nil)
		}
	}
	if len(fs) == p.cols+1 && interval.Match(fs[p.cols]) || len(fs) == p.cols+1 && len(p.f.Channels) == 0 &&
		len(fs[p.cols]) > 0 && isNumber(fs[p.cols]) {
		fs = fs[:p.cols]
	}
	if len(fs) != p.cols {
		return nil
	}
	out := make([]string, len(fs))
	for i, f := range fs {
		out[i] = string(f)
	}
	return out
}

func isNumber(f []byte) bool {
	_, _, ok := number(f, bytes.IndexByte(f, ',') >= 0)
	return ok
}

// doubtful refuses rows in which a comma both parts the columns and begins the decimals.
func (p *parser) doubtful(lines [][]byte) error {
	if p.cols%2 != 0 || bytes.IndexByte(p.first, '.') >= 0 {
		return nil
	}
	for i := len(lines) - 1; i >= 0; i-- {
		if len(bytes.TrimSpace(lines[i])) > 0 {
			m := unitIn.FindSubmatch(lines[i])
			if len(split(lines[i], ',')) == p.cols/2 && (p.cols > 2 || m != nil && known(string(m[1]))) {
				return bad(p.line, "commas stand both between the columns and before the decimals (decimal comma): "+
					"export with semicolons, or with points")
			}
			return nil
		}
	}
	return nil
}

// increment finds a sample interval that stands under its name in a row of titles.
func (p *parser) increment(lines [][]byte) {
	for i := 0; i+1 < len(lines) && p.dtHead == 0; i++ {
		keys, values := split(lines[i], p.sep), split(lines[i+1], p.sep)
		for c := range min(len(keys), len(values)) {
			if c == 0 || !interval.Match(keys[c]) {
				continue
			}
			if v, _, ok := number(values[c], bytes.IndexByte(values[c], ',') >= 0); ok && v > 0 {
				p.dtHead = v
			}
		}
	}
}

// clampScale finds what the head says of the clamp.
func (p *parser) clampScale(lines [][]byte) {
	for _, l := range lines {
		if m := clampMV.FindSubmatch(l); m != nil {
			p.f.Scale = string(m[1]) + string(m[2]) + "/A"
		} else if m := clampA.FindSubmatch(l); m != nil {
			v, _, ok := number(m[1], bytes.IndexByte(m[1], ',') >= 0)
			if !ok || v <= 0 {
				continue
			}
			per := "V"
			if strings.EqualFold(string(m[2]), "mV") {
				per = "mV"
			}
			p.f.Scale = strconv.FormatFloat(1/v, 'g', 6, 64) + per + "/A"
		}
	}
}

var indexName = regexp.MustCompile(`(?i)^(index|sample|samples|point|no\.?|nr\.?|n|i|#|sample (no|number)\.?)$`)

// columns says which column is time, which are channels, and whether one only counts.
func (p *parser) columns(names, units []string) (index bool) {
	p.timeCol = -1
	skip := map[int]bool{}
	for c := range names {
		low := strings.ToLower(names[c])
		if low == "date" || low == "datum" {
			skip[c] = true
			continue
		}
		if p.timeCol >= 0 {
			continue
		}
		if k := seconds(units[c]); k > 0 {
			p.timeCol, p.scaleT = c, k
		} else if units[c] == "" && (low == "t" || strings.HasPrefix(low, "time") || low == "second" || low == "x-axis") {
			p.timeCol = c
		}
	}
	if p.timeCol < 0 && p.cols >= 2 {
		switch {
		case indexName.MatchString(names[0]) || names[0] == "" && units[0] == "" && p.countsUp():
			skip[0], index = true, true
		case p.dtHead == 0 && (units[0] == "" || seconds(units[0]) > 0):
			p.timeCol = 0 // two columns and nothing said: the first is time
		}
	}
	for c := range p.cols {
		if c == p.timeCol || skip[c] {
			continue
		}
		name := names[c]
		if name == "" {
			name = fmt.Sprintf("CH%d", len(p.chans)+1)
		}
		p.chans = append(p.chans, c)
		unit, factor := electrical(units[c])
		p.factor = append(p.factor, factor)
		p.f.Channels = append(p.f.Channels, Channel{Name: name, Unit: unit})
	}
	return index
}

// countsUp reports whether the first column goes up by one from row to row, as an index does.
func (p *parser) countsUp() bool {
	first := split(p.first, p.sep)
	second := split(p.peekLine(), p.sep)
	if len(first) < 2 || len(second) < 2 {
		return false
	}
	a, err1 := strconv.Atoi(string(first[0]))
	b, err2 := strconv.Atoi(string(second[0]))
	return err1 == nil && err2 == nil && b == a+1
}

// tail is what follows a key: after the first colon, equals sign, comma or
// semicolon.
func tail(s string) string {
	if i := strings.IndexAny(s, ":=;,\t"); i >= 0 {
		return s[i+1:]
	}
	return s
}

// unitOf finds a unit of time in brackets in a key.
func unitOf(s string) string {
	if i := strings.IndexAny(s, "[("); i >= 0 {
		if k := strings.IndexAny(s[i:], "])"); k > 1 {
			return s[i+1 : i+k]
		}
	}
	return ""
}

// rows reads the samples.
func (p *parser) rows() error {
	if len(p.first) > 0 {
		if err := p.row(p.first, p.line); err != nil {
			return err
		}
	}
	if p.size > 4*pieceSize && runtime.GOMAXPROCS(0) > 1 && p.sep != ' ' {
		return p.side()
	}
	return p.rest()
}

// rest reads what is left of the buffer's source, one row after the other.
func (p *parser) rest() error {
	for {
		if err := p.fast(); err != nil {
			return err
		}
		b, err := p.next()
		if errors.Is(err, io.EOF) {
			return nil
		} else if err != nil {
			return err
		}
		if len(b) > 0 {
			if err := p.row(b, p.line); err != nil {
				return err
			}
		}
	}
}

// fast takes the plain rows that stand whole in the buffer, digit by digit in one
// pass. It stops before the first that is anything but plain numbers, which
// row understands or refuses.
func (p *parser) fast() error {
	if p.sep == ' ' || p.ended > 0 {
		return nil
	}
	buf, err := p.br.Peek(p.br.Buffered())
	if err != nil {
		return err
	}
	d := batch{n: 0, tN: p.tN, any: p.f.N > 0}
	for k := range p.f.Channels {
		d.x[k], d.peak[k] = p.f.Channels[k].X, p.peak[k]
	}
	at := p.plain(buf, &d)
	for k := range p.f.Channels {
		p.f.Channels[k].X, p.peak[k] = d.x[k], d.peak[k]
	}
	p.f.N += d.n
	p.f.Repeats += d.repeats
	p.line += d.n
	p.tN = d.tN
	_, err = p.br.Discard(at)
	return err
}

// batch is what a stretch of plain rows holds.
type batch struct {
	x       [MaxChannels][]float32
	peak    [MaxChannels]float32
	n       int
	repeats int
	t0, tN  float64 // first and last time, s
	any     bool    // tN is that of a row before
}

// plain parses the plain rows at the beginning of buf and returns how many bytes
// they take. It changes nothing of p.
func (p *parser) plain(buf []byte, d *batch) int {
	point := byte('.')
	if p.comma {
		point = ','
	}
	var vals [MaxChannels + 1]float64
	at := 0
	for at < len(buf) {
		end := p.plainRow(buf, at, point, &vals)
		if end < 0 || p.timeCol >= 0 && !d.time(vals[p.timeCol]*p.scaleT) {
			break // row reads it, or says what is wrong and where
		}
		for k, col := range p.chans {
			if a := float32(math.Abs(vals[col])); a > d.peak[k] {
				d.peak[k] = a
			}
			d.x[k] = append(d.x[k], float32(vals[col]))
		}
		d.n++
		at = end
	}
	return at
}

// time takes the time of a row; false where it runs backwards.
func (d *batch) time(t float64) bool {
	if t < d.tN && d.any {
		return false
	}
	if t == d.tN && d.any {
		d.repeats++
	}
	if d.n == 0 {
		d.t0 = t
	}
	d.tN, d.any = t, true
	return true
}

// plainRow reads the row that begins at byte i and returns where the next begins, -1 where it is not plain numbers or
// not whole.
func (p *parser) plainRow(buf []byte, i int, point byte, vals *[MaxChannels + 1]float64) int {
	for c := range p.cols {
		v, end := plainNumber(buf, i, point)
		if end < 0 {
			return -1
		}
		vals[c], i = v, end
		if c == p.cols-1 {
			break
		}
		if buf[i] != p.sep {
			return -1
		}
		i++
	}
	if buf[i] == '\r' {
		i++
	}
	if i >= len(buf) || buf[i] != '\n' {
		return -1
	}
	return i + 1
}

// plainNumber reads a number of up to 15 digits that does not reach the end of buf, and returns where it ends; -1 for
// any other.
func plainNumber(buf []byte, i int, point byte) (v float64, end int) {
	neg := false
	if i < len(buf) && buf[i] == '-' {
		neg = true
		i++
	}
	var mant uint64
	from := i
	for i < len(buf) && buf[i]-'0' <= 9 {
		mant = mant*10 + uint64(buf[i]-'0')
		i++
	}
	digits, exp := i-from, 0
	if i < len(buf) && buf[i] == point {
		i++
		from = i
		for i < len(buf) && buf[i]-'0' <= 9 {
			mant = mant*10 + uint64(buf[i]-'0')
			i++
		}
		digits += i - from
		exp = from - i
	}
	if i < len(buf) && buf[i]|0x20 == 'e' {
		var e int
		if e, i = plainExponent(buf, i+1); i < 0 {
			return 0, -1
		}
		exp += e
	}
	if digits == 0 || digits > 15 || exp < -22 || exp > 22 || i >= len(buf) {
		return 0, -1
	}
	if v = scaled(mant, exp); neg {
		v = -v
	}
	return v, i
}

// plainExponent reads a power of ten of up to four digits; end is -1 where there is none.
func plainExponent(buf []byte, i int) (exp, end int) {
	neg := false
	if i < len(buf) && (buf[i] == '-' || buf[i] == '+') {
		neg = buf[i] == '-'
		i++
	}
	from := i
	for i < len(buf) && buf[i]-'0' <= 9 && i-from < 4 {
		exp = exp*10 + int(buf[i]-'0')
		i++
	}
	if i == from {
		return 0, -1
	}
	if neg {
		exp = -exp
	}
	return exp, i
}

// remarks are what a line of words among the samples begins with.
var remarks = [][]byte{[]byte("#"), []byte("%"), []byte("//"), []byte("!")}

// aside takes a line that is no row of samples: a remark, or the words behind the samples.
func (p *parser) aside(b []byte, line int) (bool, error) {
	for _, r := range remarks {
		if bytes.HasPrefix(b, r) && !overMark(b) {
			return true, nil
		}
	}
	if p.ended == 0 && (b[0] >= '0' && b[0] <= '9' || b[0] == '-' || b[0] == '+' || b[0] == '.' || b[0] == ' ') {
		return false, nil
	}
	_, _, n := p.numeric(b)
	if p.ended > 0 {
		if n == p.cols {
			return true, bad(p.ended, "words stand between the samples here: are two traces in one file? leave the words or one trace out")
		}
		return true, nil
	}
	fields := split(b, p.sep)
	if n > 0 || len(fields) == 0 {
		return false, nil
	}
	f := fields[0]
	if _, _, ok := number(f, p.comma); ok || overMark(f) || missing(f) {
		return false, nil
	}
	if c := bytes.TrimLeft(f, "[*-<=. \""); len(c) == 0 || c[0] >= '0' && c[0] <= '9' {
		return false, nil
	}
	p.ended = line
	return true, nil
}

func (p *parser) row(b []byte, line int) error {
	if is, err := p.aside(b, line); is || err != nil {
		return err
	}
	c, at, ch := 0, 0, 0
	for at <= len(b) && c < p.cols {
		end := len(b)
		if p.sep == ' ' {
			for at < len(b) && (b[at] == ' ' || b[at] == '\t') {
				at++
			}
			if i := bytes.IndexByte(b[at:], ' '); i >= 0 {
				end = at + i
			}
		} else if i := bytes.IndexByte(b[at:], p.sep); i >= 0 {
			end = at + i
		}
		f := bytes.Trim(b[at:end], " \t")
		if len(f) == 0 && end == len(b) {
			break // the row ends here
		}
		if err := p.cell(f, c, ch, line); err != nil {
			return err
		}
		if ch < len(p.chans) && p.chans[ch] == c {
			ch++
		}
		c++
		at = end + 1
	}
	if c < p.cols {
		return bad(line, "this row is cut short: %d of %d columns; export the trace again", c, p.cols)
	}
	p.f.N++
	return nil
}

// cell takes one field of a row: the time, a sample of channel ch, or neither.
func (p *parser) cell(f []byte, c, ch, line int) error {
	v, over, ok := number(f, p.comma)
	if c == p.timeCol {
		if !ok {
			return bad(line, "%q is no number: mend it or leave the line out", clip(f))
		}
		return p.time(v*p.scaleT, line)
	}
	if ch >= len(p.chans) || p.chans[ch] != c {
		return nil
	}
	x := &p.f.Channels[ch].X
	switch {
	case !ok && missing(f):
		p.f.Missing++
		if len(*x) > 0 {
			v = float64((*x)[len(*x)-1])
		}
	case !ok && (len(f) == 0 || !overMark(f)):
		return bad(line, "%q is no number: mend it or leave the line out", clip(f))
	case !ok || over:
		p.f.Over++
		v = float64(p.peak[ch])
		if len(f) > 0 && f[0] == '-' {
			v = -v
		}
	default:
		p.peak[ch] = max(p.peak[ch], float32(math.Abs(v)))
	}
	*x = append(*x, float32(v))
	return nil
}

func clip(b []byte) string {
	if len(b) > 24 {
		return string(b[:24]) + "…"
	}
	return string(b)
}

func (p *parser) time(t float64, line int) error {
	switch {
	case p.f.N == 0:
		p.t0 = t
	case t < p.tN:
		return bad(line, "time runs backwards here: are two traces in one file?")
	case t == p.tN:
		p.f.Repeats++
	}
	p.tN = t
	return nil
}

func (p *parser) finish() (*File, error) {
	f := &p.f
	switch {
	case f.N == 0:
		return nil, bad(p.line, "there are no samples in this file")
	case f.N == 1:
		return nil, bad(p.line, "there is a single sample: a trace needs many")
	}
	if x := f.Channels[0].X; p.cols == 1 && float64(x[0]) == float64(f.N-1) && f.N > 2 {
		f.Channels[0].X, f.N = x[1:], f.N-1 // the number of samples stands before them
	}
	for k, m := range p.factor {
		if m != 1 {
			for i := range f.Channels[k].X {
				f.Channels[k].X[i] *= float32(m)
			}
		}
	}
	if p.timeCol >= 0 {
		f.Dt = (p.tN - p.t0) / float64(f.N-1)
		if f.Dt == 0 {
			if p.dtHead == 0 {
				return nil, bad(p.line, "all times are the same: export them with more digits, or give the sample interval in the head")
			}
			f.Dt = p.dtHead
		}
		if f.Repeats > 0 {
			if p.dtHead > 0 {
				f.Dt = p.dtHead
			}
			f.Warnings = append(f.Warnings, fmt.Sprintf("%d times repeat, rounded by the export: the sample "+
				"interval of %.3g s is used instead", f.Repeats, f.Dt))
		}
	} else {
		if f.Dt = p.dtHead; f.Dt == 0 {
			return nil, bad(p.line, noInterval)
		}
	}
	if p.ended > 0 {
		f.Warnings = append(f.Warnings, fmt.Sprintf("the words from line %d on were left out", p.ended))
	}
	if f.Missing > 0 {
		f.Warnings = append(f.Warnings, fmt.Sprintf("%d samples are marked as missing: each is held at the one before", f.Missing))
	}
	if f.Over > 0 {
		f.Warnings = append(f.Warnings, fmt.Sprintf("%d samples are over the scope's range: peak and ripple are greater than shown",
			f.Over))
	}
	return f, nil
}
