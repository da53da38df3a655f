package unit

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Measure is the kind of quantity a meter shows.
type Measure string

// The measures of the case-file format. Each has one SI unit; see [Measure.Unit].
const (
	Voltage     Measure = "voltage"     // V, DC
	Current     Measure = "current"     // A, DC
	Resistance  Measure = "resistance"  // Ω
	ACVoltage   Measure = "ac_voltage"  // V rms
	Capacitance Measure = "capacitance" // F; a bare number is microfarads
	Frequency   Measure = "frequency"   // Hz
)

// Measures lists every measure, in the order of the case-file format.
func Measures() []Measure {
	return []Measure{Voltage, Current, Resistance, ACVoltage, Capacitance, Frequency}
}

// Unit returns the symbol of the measure's SI unit, "" for an unknown measure.
func (m Measure) Unit() string {
	switch m {
	case Voltage, ACVoltage:
		return "V"
	case Current:
		return "A"
	case Resistance:
		return "Ω"
	case Capacitance:
		return "F"
	case Frequency:
		return "Hz"
	}
	return ""
}

// Valid reports whether m is one of [Measures].
func (m Measure) Valid() bool { return m.Unit() != "" }

// noun is the word used in messages.
func (m Measure) noun() string {
	switch m {
	case Voltage:
		return "a voltage"
	case ACVoltage:
		return "an AC voltage"
	case Current:
		return "a current"
	case Resistance:
		return "a resistance"
	case Capacitance:
		return "a capacitance"
	case Frequency:
		return "a frequency"
	}
	return "a reading"
}

// Reading is one value as a meter showed it.
type Reading struct {
	Value    float64 // SI; 0 when OverLimit
	Over     bool    // the display said OL: open line, over the meter's range
	LastSI   float64 // worth of one unit of the last digit written, SI; 0 when unknown
	Original string  // the text as typed
}

// Error says where in a typed quantity the trouble is and how to mend it.
type Error struct {
	Text string // what was typed
	At   int    // 1-based character position of the trouble
	What string // what is wrong
	Mend string // what to type instead

	Beyond bool // it can be read, but no meter in this trade shows it
}

func (e *Error) Error() string {
	return fmt.Sprintf("%q, character %d: %s; %s", e.Text, e.At, e.What, e.Mend)
}

type unitName struct {
	names []string
	kind  string // V, A, Ω, F, Hz
}

var unitNames = []unitName{
	{[]string{"volts", "volt", "vdc", "vac", "v"}, "V"},
	{[]string{"amperes", "ampere", "amps", "amp", "adc", "a"}, "A"},
	{[]string{"ohms", "ohm", "ω", "Ω"}, "Ω"}, // both omegas: letter and sign
	{[]string{"farads", "farad", "f"}, "F"},
	{[]string{"hertz", "hz"}, "Hz"},
}

var kindNoun = map[string]string{"V": "volts", "A": "amperes", "Ω": "ohms", "F": "farads", "Hz": "hertz"}

// prefix gives the factor of an SI prefix letter. Upper-case K is what people
// write for kilo; lower-case m is milli and upper-case M is mega.
func prefix(r rune) (float64, bool) {
	switch r {
	case 'n':
		return 1e-9, true
	case 'u', 'µ', 'μ':
		return 1e-6, true
	case 'm':
		return 1e-3, true
	case 'k', 'K':
		return 1e3, true
	case 'M':
		return 1e6, true
	}
	return 0, false
}

// Parse reads text as a reading of measure m. A bare number takes the
// measure's base unit (microfarads for a capacitance). A decimal comma is a
// decimal point. "OL", "O.L" and "0L" are the over-range mark. The error, if
// any, is always an *[Error].
func Parse(text string, m Measure) (Reading, error) {
	s, err := begin(text, m)
	if err != nil {
		return Reading{}, err
	}
	r := Reading{Original: text}
	switch strings.ToUpper(strings.TrimLeft(string(s.rest()), "-−+")) {
	case "OL", "O.L", "O.L.", ".OL", "0L", "0.L", "OVERLOAD":
		r.Over = true
		return r, nil
	}
	sign := s.sign()
	start := s.i
	for _, step := range []func() *Error{s.digits, s.exponent, s.unit} {
		if err := step(); err != nil {
			return Reading{}, err
		}
	}
	v, wrong := strconv.ParseFloat(s.num.String(), 64)
	if wrong != nil {
		return Reading{}, s.fail(start, "this number cannot be read", "type it again, such as "+example(m))
	}
	scale := s.factor * math.Pow(10, float64(s.exp))
	r.Value = sign * v * scale
	r.LastSI = scale * math.Pow(10, -float64(s.decimals))
	if r.Value == 0 {
		r.Value = 0 // never minus zero
	}
	if err := plausible(r.Value, m); err != nil {
		err.Text, err.At, err.Beyond = clip(text), start+1, true
		return Reading{}, err
	}
	return r, nil
}

// scan reads a typed quantity from left to right: sign, digits, exponent, unit.
type scan struct {
	text   string
	m      Measure
	rs     []rune
	i, end int // what is still to be read

	num      strings.Builder // the digits, with a point as decimal mark
	marked   bool            // a decimal mark was read
	decimals int             // digits behind it
	exp      int             // power of ten
	factor   float64         // of the unit's prefix
}

// begin refuses what cannot be a quantity at all and sets spaces around it aside.
func begin(text string, m Measure) (*scan, *Error) {
	s := &scan{text: text, m: m, factor: 1}
	if !utf8.ValidString(text) {
		return nil, s.fail(0, "this is not readable text", "type digits and a unit, such as "+example(m))
	}
	if len(text) > 64 {
		return nil, s.fail(64, "this is too long for a reading", "type one number and its unit, such as "+example(m))
	}
	s.rs = []rune(text)
	s.end = len(s.rs)
	s.spaces()
	for s.end > s.i && unicode.IsSpace(s.rs[s.end-1]) {
		s.end--
	}
	if s.i == s.end {
		return nil, s.fail(0, "nothing was typed", "type what the meter shows, such as "+example(m))
	}
	return s, nil
}

func (s *scan) fail(at int, what, mend string) *Error {
	return &Error{Text: clip(s.text), At: at + 1, What: what, Mend: mend}
}

func (s *scan) rest() []rune { return s.rs[s.i:s.end] }

func (s *scan) spaces() {
	for s.i < s.end && unicode.IsSpace(s.rs[s.i]) {
		s.i++
	}
}

// sign reads a plus, a minus or a dash typed for one: 1 or -1.
func (s *scan) sign() float64 {
	sign := 1.0
	switch s.rs[s.i] {
	case '-', '−', '–':
		sign = -1
		s.i++
	case '+':
		s.i++
	}
	s.spaces()
	return sign
}

// digits reads the number itself: digits with at most one decimal mark.
func (s *scan) digits() *Error {
	start, mark := s.i, -1
	count := 0
loop:
	for ; s.i < s.end; s.i++ {
		c := s.rs[s.i]
		switch {
		case c >= '0' && c <= '9':
			s.num.WriteRune(c)
			count++
		case c != '.' && c != ',':
			break loop
		case mark >= 0 && s.rs[mark] != c:
			return s.fail(s.i, "a comma and a point in one number can mean two things", "write thousands without a mark, such as 1234.5")
		case mark >= 0:
			return s.fail(s.i, "a second decimal mark", "write one number with one decimal point or comma")
		default:
			mark = s.i
			s.num.WriteByte('.')
		}
	}
	if count == 0 {
		if s.i < s.end && unicode.IsLetter(s.rs[start]) {
			return s.fail(start, "no number before the unit", "type the number first, such as "+example(s.m)+
				", or OL when the display says so")
		}
		return s.fail(start, "no number here", "type digits, such as "+example(s.m)+", or OL when the display says so")
	}
	if s.marked = mark >= 0; s.marked {
		s.decimals = s.i - mark - 1
	}
	return nil
}

// exponent reads a power of ten as instruments print it: 1.2E-3. An E must be followed by a digit or sign, so that it
// cannot swallow a unit.
func (s *scan) exponent() *Error {
	if s.i+1 >= s.end || s.rs[s.i] != 'e' && s.rs[s.i] != 'E' {
		return nil
	}
	j := s.i + 1
	if s.rs[j] == '-' || s.rs[j] == '+' || s.rs[j] == '−' {
		j++
	}
	k := j
	for k < s.end && s.rs[k] >= '0' && s.rs[k] <= '9' {
		k++
	}
	if k > j && k-j <= 2 {
		s.exp, _ = strconv.Atoi(strings.ReplaceAll(string(s.rs[s.i+1:k]), "−", "-"))
		s.i = k
	}
	return nil
}

// unit reads the unit with its prefix, and checks that it is one of the measure's.
func (s *scan) unit() *Error {
	s.spaces()
	kind, err := s.kind()
	if err != nil {
		return err
	}
	want := s.m.Unit()
	if want == "" {
		return s.fail(0, fmt.Sprintf("%q is not a measure", string(s.m)),
			"use voltage, current, resistance, ac_voltage, capacitance or frequency")
	}
	if kind != "" && kind != want {
		return s.fail(s.i, fmt.Sprintf("%s do not fit: this reading is %s", kindNoun[kind], s.m.noun()), "write "+s.m.unitsHint())
	}
	if s.m == Capacitance && kind == "" && s.factor == 1 {
		s.factor = 1e-6
	}
	return nil
}

// kind tells the unit from what is left, "" where there is none, and sets the prefix's factor.
func (s *scan) kind() (string, *Error) {
	rest := string(s.rest())
	if rest == "" {
		return "", nil
	}
	if k, ok := unitKind(rest); ok {
		return k, nil
	}
	f, ok := prefix(s.rs[s.i])
	switch {
	case ok:
		s.factor = f
	case unicode.IsDigit(s.rs[s.i]):
		return "", s.fail(s.i, "a space inside the number, or two numbers", "write one number, without spaces")
	default:
		return "", s.fail(s.i, fmt.Sprintf("%q is not a unit", clip(rest)), "write "+s.m.unitsHint())
	}
	tail := strings.TrimSpace(string(s.rs[s.i+1 : s.end]))
	if k, ok := unitKind(tail); ok || tail == "" {
		return k, nil
	}
	if !allDigits(tail) || s.marked {
		return "", s.fail(s.i+1, fmt.Sprintf("%q is not a unit", clip(tail)), "write "+s.m.unitsHint())
	}
	// 4k7: the prefix stands where the decimal mark would.
	s.num.WriteByte('.')
	s.num.WriteString(tail)
	s.decimals = len(tail)
	return "", nil
}

// MaxDC is the highest DC voltage, in volts, that Corriente works with. Above
// it the work is for people licensed for it.
const MaxDC = 60.0

// plausible refuses what no meter in this trade shows.
func plausible(v float64, m Measure) *Error {
	a := math.Abs(v)
	switch m {
	case Voltage:
		if a > MaxDC {
			mend := "stop here: this voltage can kill and is work for people licensed for it"
			if a < 1000*MaxDC { // a slip of the unit is the likelier by far
				mend = fmt.Sprintf("did you mean %g mV? If it is volts, %s", v, mend)
			}
			return &Error{What: "above 60 V DC", Mend: mend}
		}
	case ACVoltage:
		if a > 100 {
			return &Error{What: "no small stator gives more than 100 V AC, and mains is never measured live here",
				Mend: "check the unit, or stop and leave it to licensed people"}
		}
		if v < 0 {
			return &Error{What: "an AC voltage has no sign", Mend: "type it without the minus"}
		}
	case Current:
		if a > 3000 {
			return &Error{What: "no clamp shows more than 3000 A", Mend: "check the unit; mA is written m or mA"}
		}
	case Resistance:
		if v < 0 {
			return &Error{What: "a resistance below zero",
				Mend: "the part is still powered or the leads were not zeroed: disconnect, then take it again"}
		}
		if a > 1e9 {
			return &Error{What: "no meter shows more than 1000 MΩ", Mend: "type OL when the display says so"}
		}
	case Capacitance:
		if v < 0 {
			return &Error{What: "a capacitance below zero", Mend: "discharge the capacitor and take it again"}
		}
		if a > 1 {
			return &Error{What: "no meter shows more than 1 F", Mend: "check the unit: a bare number is microfarads"}
		}
	case Frequency:
		if v < 0 {
			return &Error{What: "a frequency below zero", Mend: "type it without the minus"}
		}
		if a > 1e6 {
			return &Error{What: "over 1 MHz", Mend: "check the unit"}
		}
	}
	return nil
}

func unitKind(s string) (string, bool) {
	low := strings.ToLower(strings.TrimSpace(s))
	low = strings.TrimSuffix(low, ".")
	for _, u := range unitNames {
		for _, n := range u.names {
			if low == strings.ToLower(n) {
				return u.kind, true
			}
		}
	}
	return "", false
}

func (m Measure) unitsHint() string {
	switch m {
	case Voltage, ACVoltage:
		return "V or mV"
	case Current:
		return "A or mA"
	case Resistance:
		return "ohm, Ω, k or M"
	case Capacitance:
		return "uF or nF"
	case Frequency:
		return "Hz or kHz"
	}
	return "the unit"
}

func example(m Measure) string {
	switch m {
	case Current:
		return "24.5 A"
	case Resistance:
		return "0.3 ohm"
	case Capacitance:
		return "7.5 uF"
	case Frequency:
		return "50 Hz"
	}
	return "11.9 V"
}

func allDigits(s string) bool {
	for _, c := range s {
		if c < '0' || c > '9' {
			return false
		}
	}
	return s != ""
}

func clip(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}

// Format writes an SI value of measure m with the unit and prefix a technician
// would choose and about three significant figures: "11.90 V", "250 mV",
// "0.3 mΩ", "10.0 kΩ", "142 A".
func Format(v float64, m Measure) string {
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return "OL"
	}
	u := m.Unit()
	a := math.Abs(v)
	switch m {
	case Voltage, ACVoltage:
		if a < 0.0995 && a >= 5e-6 {
			return trim(v*1e3) + " mV"
		}
		return strconv.FormatFloat(v, 'f', 2, 64) + " V"
	case Capacitance:
		if a < 1e-6 {
			return trim(v*1e9) + " nF"
		}
		return trim(v*1e6) + " µF"
	}
	switch {
	case a == 0:
		return "0 " + u
	case a < 1e-3:
		return trim(v*1e6) + " µ" + u
	case a < 1:
		if m == Resistance && a >= 0.0995 {
			return strconv.FormatFloat(v, 'f', 2, 64) + " " + u
		}
		return trim(v*1e3) + " m" + u
	case a < 1e3:
		return trim(v) + " " + u
	case a < 1e6:
		return trim(v/1e3) + " k" + u
	}
	return trim(v/1e6) + " M" + u
}

// String writes the reading as Format does, or "OL".
func (r Reading) String(m Measure) string {
	if r.Over {
		return "OL"
	}
	return Format(r.Value, m)
}

func trim(v float64) string {
	a := math.Abs(v)
	switch {
	case a >= 99.95:
		return strconv.FormatFloat(v, 'f', 0, 64)
	case a >= 9.995:
		return strconv.FormatFloat(v, 'f', 1, 64)
	}
	return strconv.FormatFloat(v, 'f', 2, 64)
}
