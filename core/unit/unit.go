// Package unit reads and writes quantities the way technicians do: "11.9",
// "250m", "24,5 A", "OL", "0.3 Ω", "10k". Everything inside Corriente is SI;
// text exists only at the edges, and the text as typed is kept beside the value.
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
	r := Reading{Original: text}
	fail := func(at int, what, mend string) (Reading, error) {
		return Reading{}, &Error{Text: clip(text), At: at + 1, What: what, Mend: mend}
	}
	if !utf8.ValidString(text) {
		return fail(0, "this is not readable text", "type digits and a unit, such as "+example(m))
	}
	if len(text) > 64 {
		return fail(64, "this is too long for a reading", "type one number and its unit, such as "+example(m))
	}
	rs := []rune(text)
	i, end := 0, len(rs)
	for i < end && unicode.IsSpace(rs[i]) {
		i++
	}
	for end > i && unicode.IsSpace(rs[end-1]) {
		end--
	}
	if i == end {
		return fail(0, "nothing was typed", "type what the meter shows, such as "+example(m))
	}
	switch strings.ToUpper(strings.TrimLeft(string(rs[i:end]), "-−+")) {
	case "OL", "O.L", "O.L.", ".OL", "0L", "0.L", "OVERLOAD":
		r.Over = true
		return r, nil
	}

	sign := 1.0
	if rs[i] == '-' || rs[i] == '−' || rs[i] == '–' {
		sign = -1
		i++
	} else if rs[i] == '+' {
		i++
	}
	for i < end && unicode.IsSpace(rs[i]) {
		i++
	}

	// The number itself: digits, at most one decimal mark.
	start, mark, digits := i, -1, 0
	var num strings.Builder
scan:
	for ; i < end; i++ {
		c := rs[i]
		switch {
		case c >= '0' && c <= '9':
			num.WriteRune(c)
			digits++
		case c == '.' || c == ',':
			if mark >= 0 {
				if rs[mark] != c {
					return fail(i, "a comma and a point in one number can mean two things",
						"write thousands without a mark, such as 1234.5")
				}
				return fail(i, "a second decimal mark", "write one number with one decimal point or comma")
			}
			mark = i
			num.WriteByte('.')
		default:
			break scan
		}
	}
	if digits == 0 {
		if i < end && unicode.IsLetter(rs[start]) {
			return fail(start, "no number before the unit", "type the number first, such as "+example(m)+", or OL when the display says so")
		}
		return fail(start, "no number here", "type digits, such as "+example(m)+", or OL when the display says so")
	}
	decimals := 0
	if mark >= 0 {
		decimals = i - mark - 1
	}

	// Exponent, as instruments print it: 1.2E-3. An E must be followed by a
	// digit or sign, so that it cannot swallow a unit.
	exp := 0
	if i+1 < end && (rs[i] == 'e' || rs[i] == 'E') {
		j := i + 1
		if rs[j] == '-' || rs[j] == '+' || rs[j] == '−' {
			j++
		}
		k := j
		for k < end && rs[k] >= '0' && rs[k] <= '9' {
			k++
		}
		if k > j && k-j <= 2 {
			exp, _ = strconv.Atoi(strings.ReplaceAll(string(rs[i+1:k]), "−", "-"))
			i = k
		}
	}

	for i < end && unicode.IsSpace(rs[i]) {
		i++
	}
	factor := 1.0
	rest := string(rs[i:end])
	kind := ""
	if rest != "" {
		if k, ok := unitKind(rest); ok {
			kind = k
		} else if f, ok := prefix(rs[i]); ok {
			factor = f
			tail := strings.TrimSpace(string(rs[i+1 : end]))
			if tail != "" {
				k, ok := unitKind(tail)
				if !ok {
					// 4k7: the prefix stands where the decimal mark would.
					if allDigits(tail) && mark < 0 {
						num.WriteByte('.')
						num.WriteString(tail)
						decimals = len(tail)
					} else {
						return fail(i+1, fmt.Sprintf("%q is not a unit", clip(tail)), "write "+m.unitsHint())
					}
				}
				kind = k
			}
		} else if unicode.IsDigit(rs[i]) {
			return fail(i, "a space inside the number, or two numbers", "write one number, without spaces")
		} else {
			return fail(i, fmt.Sprintf("%q is not a unit", clip(rest)), "write "+m.unitsHint())
		}
	}
	want := m.Unit()
	if want == "" {
		return fail(0, fmt.Sprintf("%q is not a measure", string(m)),
			"use voltage, current, resistance, ac_voltage, capacitance or frequency")
	}
	if kind != "" && kind != want {
		return fail(i, fmt.Sprintf("%s do not fit: this reading is %s", kindNoun[kind], m.noun()), "write "+m.unitsHint())
	}
	if m == Capacitance && kind == "" && factor == 1 {
		factor = 1e-6
	}
	v, err := strconv.ParseFloat(num.String(), 64)
	if err != nil {
		return fail(start, "this number cannot be read", "type it again, such as "+example(m))
	}
	scale := factor * math.Pow(10, float64(exp))
	r.Value = sign * v * scale
	r.LastSI = scale * math.Pow(10, -float64(decimals))
	if r.Value == 0 {
		r.Value = 0 // never minus zero
	}
	if err := plausible(r.Value, m); err != nil {
		err.Text, err.At = clip(text), start+1
		return Reading{}, err
	}
	return r, nil
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
