package trace

import (
	"bytes"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The samples that every style below holds: amperes every 20 us.
const (
	styleN  = 60
	styleDt = 20e-6
)

func styleA(i int) float64 { return 10 + 0.25*float64(i%17) }

// rows writes the samples, one line each.
func rows(line func(i int, t, a float64) string) string {
	var b strings.Builder
	for i := range styleN {
		b.WriteString(line(i, float64(i)*styleDt, styleA(i)))
	}
	return b.String()
}

func comma(v float64, digits int) string {
	return strings.Replace(fmt.Sprintf("%.*f", digits, v), ".", ",", 1)
}

func twoBytes(s string, big, mark bool) string {
	var b bytes.Buffer
	us := utf16.Encode([]rune(s))
	if mark {
		us = append([]uint16{0xfeff}, us...)
	}
	for _, u := range us {
		if big {
			b.Write([]byte{byte(u >> 8), byte(u)})
		} else {
			b.Write([]byte{byte(u), byte(u >> 8)})
		}
	}
	return b.String()
}

// plainStyle is the simplest of them.
func plainStyle(head string) string {
	return head + rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.5f,%.3f\n", t, a) })
}

func germanStyle(head string) string {
	return head + rows(func(_ int, t, a float64) string { return comma(t, 5) + ";" + comma(a, 3) + "\n" })
}

// style is one way to write the samples; refused is what a refusal says, "" where it is read.
type style struct{ name, text, scale, refused string }

// at puts a text in behind so many lines.
func at(text string, line int, what string) string {
	ls := strings.SplitAfter(text, "\n")
	ls = append(ls[:line], append([]string{what}, ls[line:]...)...)
	return strings.Join(ls, "")
}

func styles() []style {
	return slices.Concat(wordings(), rowings(), times(), contents())
}

// wordings are the ways to write text and units.
func wordings() []style {
	p := plainStyle("Time (s),Clamp (A)\n")
	g := germanStyle("Zeit (s);Strom (A)\n")
	return []style{
		{name: "comma", text: p},
		{name: "semicolon, decimal comma", text: g},
		{name: "tab", text: strings.ReplaceAll(p, ",", "\t")},
		{name: "tab, decimal comma", text: strings.ReplaceAll(g, ";", "\t")},
		{name: "blanks", text: "t/s I/A\n" + rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.5f %.3f\n", t, a) })},
		{name: "columns of fixed width", text: "    t/s       I/A\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%10.5f %10.3f\n", t, a) })},
		{name: "CR LF", text: strings.ReplaceAll(p, "\n", "\r\n")},
		{name: "CR alone", text: strings.ReplaceAll(p, "\n", "\r")},
		{name: "UTF-8 with a mark", text: "\xef\xbb\xbf" + p},
		{name: "UTF-16, little end first", text: twoBytes(p, false, true)},
		{name: "UTF-16, big end first", text: twoBytes(p, true, true)},
		{name: "UTF-16 without a mark", text: twoBytes(p, false, false)},
		{name: "UTF-16, CR LF, decimal comma", text: twoBytes(strings.ReplaceAll(g, "\n", "\r\n"), false, true)},
		{name: "microseconds, UTF-8", text: "Time (µs),Clamp (A)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.1f,%.3f\n", t*1e6, a) })},
		{name: "microseconds, Greek", text: "Time (μs),Clamp (A)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.1f,%.3f\n", t*1e6, a) })},
		{name: "microseconds, Latin-1", text: "Time (\xb5s),Clamp (A)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.1f,%.3f\n", t*1e6, a) })},
		{name: "microseconds, Latin-1, units row", text: "Zeit;Strom\n(\xb5s);(A)\n" +
			rows(func(_ int, t, a float64) string { return comma(t*1e6, 1) + ";" + comma(a, 3) + "\n" })},
		{name: "microseconds, us", text: "Time (us),Clamp (A)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.1f,%.3f\n", t*1e6, a) })},
		{name: "milliseconds", text: "Time (ms),Clamp (A)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.3f,%.3f\n", t*1e3, a) })},
		{name: "milliseconds in a units row", text: "Time,Clamp\nms,A\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.3f,%.3f\n", t*1e3, a) })},
		{name: "nanoseconds", text: "Time (ns),Clamp (A)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.0f,%.3f\n", t*1e9, a) })},
		{name: "milliamperes", text: "Time (s),Clamp (mA)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.5f,%.1f\n", t, a*1e3) })},
		{name: "kiloamperes", text: "Time (s),Clamp (kA)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.5f,%.6f\n", t, a/1e3) })},
	}
}

// rowings are heads, quotes, remarks and ends.
func rowings() []style {
	long := strings.Repeat("Setting,some words\n", 300)
	p := plainStyle("Time (s),Clamp (A)\n")
	return []style{
		{name: "units row", text: plainStyle("Time,Clamp\ns,A\n")},
		{name: "units row in brackets", text: plainStyle("Time,Clamp\n[s],[A]\n")},
		{name: "units row with an empty cell", text: plainStyle("Time,Clamp\n,A\n")},
		{name: "units row, time's alone", text: plainStyle("Time,Clamp (A)\ns,\n")},
		{name: "units row, an empty line after it", text: plainStyle("Time,Clamp\n(s),(A)\n\n")},
		{name: "two rows of names", text: plainStyle("Source,Channel A\nTime,Clamp\ns,A\n")},
		{name: "names, labels, units", text: plainStyle("x-axis,1\nsecond,Ampere\n")},
		{name: "quoted names", text: plainStyle("\"Time (s)\",\"Clamp (A)\"\n")},
		{name: "all quoted", text: "\"Time (s)\",\"Clamp (A)\"\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("\"%.5f\",\"%.3f\"\n", t, a) })},
		{name: "quoted, decimal comma, comma between", text: "\"Zeit (s)\",\"Strom (A)\"\n" +
			rows(func(_ int, t, a float64) string { return `"` + comma(t, 5) + `","` + comma(a, 3) + "\"\n" })},
		{name: "quoted, semicolons", text: "\"Zeit (s)\";\"Strom (A)\"\n" +
			rows(func(_ int, t, a float64) string { return `"` + comma(t, 5) + `";"` + comma(a, 3) + "\"\n" })},
		{name: "comma between and in the numbers", text: "Zeit (s),Strom (A)\n" +
			rows(func(_ int, t, a float64) string { return comma(t, 5) + "," + comma(a, 3) + "\n" }), refused: "line 2.*decimal comma"},
		{name: "comma in the numbers, one column", text: "Sample interval: 20 us\nStrom (A)\n" +
			rows(func(_ int, _, a float64) string { return comma(a, 3) + "\n" }), refused: "line 3.*decimal comma"},
		{name: "separator named", text: germanStyle("sep=;\nZeit (s);Strom (A)\n")},
		{name: "300 lines of head", text: plainStyle(long + "Time (s),Clamp (A)\n")},
		{name: "head of keys and values", text: plainStyle("Recorded;27.11.2026\nRange;50\nOffset;0\n\nTime (s),Clamp (A)\n")},
		{name: "remarks before", text: plainStyle("# a pump\n# second try\nTime (s),Clamp (A)\n")},
		{name: "remarks between", text: at(at(p, 20, "# knocked on it here\n"), 40, "% and here\n")},
		{name: "a remark at the end of a line", text: strings.Replace(p, "0.00040,10.750\n", "0.00040,10.750,knocked here\n", 1)},
		{name: "empty lines between", text: at(at(p, 20, "\n"), 40, "\n\n")},
		{name: "end mark", text: p + "[END]\n"},
		{name: "end mark in words", text: p + "\nEnd of data\n"},
		{name: "end mark, then statistics", text: p + "\nMean;11.9\nMaximum;14\n"},
		{name: "a text between samples", text: at(p, 30, "Trigger\n"), refused: "line 31"},
		{name: "two blocks, time begins again",
			text:    p + rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.5f,%.3f\n", t, a) }),
			refused: "line 62: time runs backwards"},
		{name: "two blocks, each with its head", text: p + "\n" + p, refused: "line (62|63|64)"},
	}
}

// times are the ways to write numbers and times.
func times() []style {
	clock := func(format string) string {
		return rows(func(i int, t, a float64) string { return fmt.Sprintf(format, 59.9995+t, a) })
	}
	return []style{
		{name: "scientific", text: "Time (s),Clamp (A)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.6e,%.6E\n", t, a) })},
		{name: "scientific, decimal comma", text: "Zeit (s);Strom (A)\n" + rows(func(_ int, t, a float64) string {
			return strings.ReplaceAll(fmt.Sprintf("%.6E;%.6E\n", t, a), ".", ",")
		})},
		{name: "engineering", text: "Time (s),Clamp (A)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.2fu,%.1fm\n", t*1e6, a*1e3) })},
		{name: "with units at every number", text: "Time,Clamp\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.2f us,%.3f A\n", t*1e6, a) })},
		{name: "plus signs", text: "Time (s),Clamp (A)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%+.5f,%+.3f\n", t, a) })},
		{name: "no leading nought", text: "Time (s),Clamp (A)\n" +
			rows(func(_ int, t, a float64) string { return strings.TrimPrefix(fmt.Sprintf("%.5f,%.3f\n", t, a), "0") })},
		{name: "time before the trigger", text: "Time (s),Clamp (A)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.5f,%.3f\n", t-0.0006, a) })},
		{name: "time in the last column", text: "Clamp (A),Time (s)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.3f,%.5f\n", a, t) })},
		{name: "clock", text: "Time,Clamp (A)\n" + clock("12:34:%09.6f,%.3f\n")},
		{name: "clock past the minute", text: "Time,Clamp (A)\n" + rows(func(_ int, t, a float64) string {
			s := 59.9996 + t
			return fmt.Sprintf("12:%02d:%08.5f,%.3f\n", 34+int(s/60), math.Mod(s, 60), a)
		})},
		{name: "date and clock", text: "Date and time;Strom (A)\n" + rows(func(_ int, t, a float64) string {
			return "27.11.2026 08:15:0" + comma(1+t, 5) + ";" + comma(a, 3) + "\n"
		})},
		{name: "date and clock, ISO", text: "Time,Clamp (A)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("2026-11-27T08:15:%08.5f,%.3f\n", 1+t, a) })},
		{name: "date, clock, each its column", text: "Date,Time,Clamp (A)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("2026-11-27,08:15:%08.5f,%.3f\n", 1+t, a) })},
	}
}

// contents are intervals, channels, scales, and what is no trace.
func contents() []style {
	many := func(n int) string {
		return rows(func(_ int, t, a float64) string {
			s := fmt.Sprintf("%.5f,%.3f", t, a)
			for k := 1; k < n; k++ {
				s += fmt.Sprintf(",%.2f", float64(k)/100)
			}
			return s + "\n"
		})
	}
	names := func(n int) string {
		s := "Time (s),Clamp (A)"
		for k := 1; k < n; k++ {
			s += fmt.Sprintf(",V%d (V)", k)
		}
		return s + "\n"
	}
	one := func(head, format string) string {
		return head + rows(func(_ int, _, a float64) string { return fmt.Sprintf(format, a) })
	}
	index := func(head, sep string) string {
		return head + rows(func(i int, _, a float64) string { return fmt.Sprintf("%d%s%.3f\n", i, sep, a) })
	}
	p := plainStyle("Time (s),Clamp (A)\n")
	return []style{
		{name: "interval in the head", text: one("Sample interval;20;us\nClamp (A)\n", "%.3f\n")},
		{name: "increment in the head", text: one("Increment: 2.0e-05 s\nClamp (A)\n", "%.3f\n")},
		{name: "rate in the head", text: one("Sample rate: 50 kS/s\nClamp (A)\n", "%.3f\n")},
		{name: "rate in hertz", text: one("Sampling frequency [Hz];50000\nClamp (A)\n", "%.3f\n")},
		{name: "index and increment", text: index("Increment;0.00002;s\nIndex;Clamp (A)\n", ";")},
		{name: "index and rate", text: index("Sample rate,50000,Hz\nSample,Clamp (A)\n", ",")},
		{name: "increment in a row of its own", text: index("Index,Clamp,Increment\n,A,0.00002\n", ",")},
		{name: "index without an increment", text: index("Index;Clamp (A)\n", ";"), refused: "neither a time column nor a sample interval"},
		{name: "number of samples first", text: one(fmt.Sprintf("Sample interval: 20 us\nClamp (A)\n%d\n", styleN), "%.3f\n")},
		{name: "two channels", text: names(2) + many(2)},
		{name: "twelve channels", text: names(12) + many(12)},
		{name: "thirty channels", text: names(30) + many(30), refused: "channels"},
		{name: "a separator at the end of each line", text: strings.ReplaceAll(p, "\n", ",\n")},
		{name: "volts with the clamp's scale in the head", text: "Probe: 100 mV/A\nTime (s),Clamp (V)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.5f,%.4f\n", t, a/10) })},
		{name: "millivolts with the scale as amperes a volt", text: "Clamp scale;10 A/V\nTime (s);Clamp (mV)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.5f;%.2f\n", t, a*100) })},
		{name: "volts, the scale given", scale: "10mV/A", text: "Time (s),Clamp (V)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.5f,%.5f\n", t, a/100) })},
		{name: "volts and no scale", text: "Time (s),Clamp (V)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.5f,%.4f\n", t, a/10) }), refused: "scale"},
		{name: "counts of a converter", text: "Time (s),Clamp (counts)\n" +
			rows(func(_ int, t, a float64) string { return fmt.Sprintf("%.5f,%.0f\n", t, a*100) }), refused: "counts"},
		{name: "cut short in the middle", text: at(p, 30, "0.0006\n"), refused: "line 31: this row is cut short"},
		{name: "a word among the samples", text: at(p, 30, "0.00058,apple\n"), refused: "line 31"},
		{name: "binary", text: "\x00\x01\x02\x03\x04\x05\x06\x07\x00\x00\x00", refused: "no text|no samples|UTF-16"},
		{name: "nothing", text: "", refused: "empty"},
	}
}

// Files as scopes, meters and loggers write them are read right, or refused with the line and
// the mend; never wrongly in silence. The styles are our own (common practice of exports).
func TestStylesOfExports(t *testing.T) {
	for _, s := range styles() {
		t.Run(s.name, func(t *testing.T) {
			f, err := ReadSized(strings.NewReader(s.text), int64(len(s.text)))
			var x []float32
			if err == nil {
				x, _, _, _, err = Amperes(f, Options{Scale: s.scale})
			}
			if s.refused != "" {
				require.Error(t, err)
				assert.Regexp(t, s.refused, err.Error())
				return
			}
			require.NoError(t, err)
			assert.InEpsilon(t, styleDt, f.Dt, 2e-3)
			require.Len(t, x, styleN)
			for i, v := range x {
				require.InDelta(t, styleA(i), float64(v), 2e-3, "sample %d", i)
			}
		})
	}
	assert.GreaterOrEqual(t, len(styles()), 71)
}

// What a scope marks as beyond its range, or as missing, is held and told, not taken for a
// number.
func TestMarksAreTold(t *testing.T) {
	for _, mark := range []string{"NaN", "nan", "OVER", "-OVER", "OL", "INF", "-inf", "1e38", "9.91E+37", "---",
		"****", "#N/A", "n/a", "null", ">>>", "overload", "clipped", "1.#INF", "1.#QNAN", "∞"} {
		text := "Time (s),Clamp (A)\n" + rows(func(i int, tm, a float64) string {
			if i == 30 {
				return fmt.Sprintf("%.5f,%s\n", tm, mark)
			}
			return fmt.Sprintf("%.5f,%.3f\n", tm, a)
		})
		f, err := ReadSized(strings.NewReader(text), int64(len(text)))
		require.NoError(t, err, mark)
		require.Len(t, f.Channels[0].X, styleN, mark)
		assert.LessOrEqual(t, math.Abs(float64(f.Channels[0].X[30])), 14.01, mark)
		assert.NotEmpty(t, f.Warnings, mark)
	}
}

// Odd writing is made plain line for line, so that a refusal names the line of the file.
func TestTidyKeepsTheLines(t *testing.T) {
	for _, s := range styles() {
		if s.refused != "" || strings.Contains(s.name, "UTF-16") || s.name == "CR alone" {
			continue
		}
		br, _, err := tidy(strings.NewReader(s.text))
		require.NoError(t, err, s.name)
		var b bytes.Buffer
		_, err = b.ReadFrom(br)
		require.NoError(t, err, s.name)
		assert.Equal(t, strings.Count(s.text, "\n"), strings.Count(b.String(), "\n"), s.name)
	}
}

// Whatever is thrown at it, it reads to the end without a panic.
func FuzzTidy(f *testing.F) {
	for _, s := range styles() {
		f.Add([]byte(s.text))
	}
	f.Fuzz(func(t *testing.T, in []byte) {
		br, _, err := tidy(bytes.NewReader(in))
		require.NoError(t, err)
		var b bytes.Buffer
		_, err = b.ReadFrom(br)
		require.NoError(t, err)
	})
}

// A time of day goes on past midnight, its fraction as it was written.
func TestTimesOfDayGoPastMidnight(t *testing.T) {
	c := &tidier{}
	for in, want := range []string{"86399.25", "86400.50", "86401"} {
		got := string(c.seconds([]byte([]string{"23:59:59.25", "00:00:00.50", "00:00:01"}[in])))
		assert.Equal(t, want, got)
	}
}
