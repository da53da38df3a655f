package calc

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
)

// in is a calculator's inputs, name and value in turn.
func in(pairs ...string) map[string]string {
	m := map[string]string{}
	for i := 0; i+1 < len(pairs); i += 2 {
		m[pairs[i]] = pairs[i+1]
	}
	return m
}

// worked are questions with the answers that others give.
var worked = []struct {
	calc   string
	in     map[string]string
	judged string
	says   string // in the sentence or in one of the lines
	source string
}{
	// Windings. 0.393 % a kelvin: copper's coefficient at 20 °C, IEC 60028.
	{"winding", in("shown", "10.2", "leads", "0.2", "low", "9", "high", "11"), "good", "lies within", "common practice"},
	{"winding", in("shown", "5.2", "leads", "0.2", "low", "9", "high", "11"), "bad", "shorted turns", "common practice"},
	{"winding", in("shown", "15.2", "leads", "0.2", "low", "9", "high", "11"), "bad", "broken coil", "common practice"},
	{"winding", in("shown", "OL", "low", "9", "high", "11"), "bad", "open", "common practice"},
	{"winding", in("shown", "0.2", "leads", "0.1"), "cannot_tell", "Below three counts", "JCGM 100: what a reading's counts allow"},
	{"winding", in("shown", "10", "leads", "0", "good", "10.3"), "good", "within", "common practice: a known good part beside it"},
	{"winding", in("shown", "11.79", "at", "65.5", "resolution", "0.01"), "none", "10.0 Ω",
		"IEC 60034-1: (235 + 20)/(235 + 65.5) of 11.79 is 10.0"},
	{"winding", in("shown", "10", "metal", "aluminium", "at", "20", "to", "75", "resolution", "0.01"), "none",
		"12.2 Ω", "IEC 60034-1: (225 + 75)/(225 + 20) of 10 is 12.24"},
	{"four_wire", in("pairs", "0.100 5.0", "low", "15 mohm", "high", "25 mohm"), "good", "20.0 mΩ", "Ohm's law"},
	{"four_wire", in("pairs", "0.100 5.0"), "none", "from one pair", "common practice"},
	{"four_wire", in("pairs", "0.75 5\n0.90 10\n1.05 15"), "none", "30.0 mΩ",
		"the slope, 0.15 V on 5 A; 0.6 V of brushes are not resistance"},
	{"four_wire", in("pairs", "0.75 5\n0.90 10\n1.05 15"), "none", "0.60 V", "the same line at no current"},
	{"bars", in("drops", "21 20 22 21 20 21 22 21"), "good", "", "common practice"},
	{"bars", in("drops", "21 20 22 160 20 21 22 21", "feed", "adjacent"), "bad", "", "common practice: an open coil drops the whole"},
	{"insulation", in("shown", "5 Mohm", "volts", "1"), "near", "one volt proves little", "common practice"},
	{"insulation", in("shown", "5 Mohm", "volts", "100"), "good", "sound", "1 MΩ: common practice"},
	{"insulation", in("shown", "0.3 Mohm", "volts", "100"), "bad", "Under the floor", "1 MΩ: common practice"},
	{"insulation", in("shown", "OL", "volts", "250"), "good", "sound", "common practice"},
	{"stator", in("ab", "20.0", "bc", "20.1", "ca", "20.0"), "good", "alike", "5 %: common practice"},
	{"stator", in("ab", "20.0", "bc", "14.0", "ca", "20.0"), "bad", "shorted", "NEMA MG 1, unbalance against the mean: 2/18 is 22 %"},
	{"stator", in("ab", "20.0", "bc", "14.0", "ca", "20.0"), "bad", "22.2 %", "NEMA MG 1"},
	{"stator", in("ab", "OL", "bc", "OL", "ca", "20.0"), "bad", "open", "common practice"},
	{"stator", in("ab", "20", "bc", "20", "ca", "20", "connection", "delta"), "good", "30.0 Ω, 30.0 Ω, 30.0 Ω",
		"delta: a line sees 2/3 of a phase"},
	{"stator", in("ab", "20", "bc", "20", "ca", "20"), "good", "10.0 Ω, 10.0 Ω, 10.0 Ω", "wye: a line sees two phases"},
	{"stator_volts", in("ab", "20", "bc", "20.4", "ca", "19.8"), "good", "alike", "common practice"},
	{"stator_volts", in("ab", "0", "bc", "0.1", "ca", "0"), "bad", "No volts", "common practice"},
	{"stator_volts", in("ab", "20", "bc", "20", "ca", "20", "low", "25", "high", "35"), "bad", "idle speed first", "common practice"},
	// Capacitors.
	{"capacitor", in("shown", "7.4", "marked", "7.5"), "good", "Within", "IEC 60252-1: 5 %"},
	{"capacitor", in("shown", "0.2", "marked", "7.5"), "bad", "open", "common practice"},
	{"capacitor", in("shown", "9.5", "marked", "7.5"), "bad", "Over its mark", "IEC 60252-1"},
	{"capacitor_current", in("volts", "24", "amperes", "0.0679", "hertz", "60"), "none", "7.50 µF",
		"C = I/(2π f V): 0.0679/(2π·60·24) is 7.50 µF"},
	{"discharge", in("farad", "50", "volts", "400"), "near", "8.0 W", "V²/R: 160,000/20,000"},
	{"discharge", in("farad", "50", "volts", "24"), "none", "5.0 s", "five time constants of 50 µF and 20 kΩ"},
	{"replacement", in("old", "7.5", "new", "7.5", "old_volts", "400", "new_volts", "450"), "good", "Yes",
		"common practice: more volts may, fewer may not"},
	{"replacement", in("old", "7.5", "new", "7.5", "old_volts", "450", "new_volts", "400"), "bad", "No", "common practice"},
	{"replacement", in("old", "7.5", "new", "7.5", "kind", "mixed"), "bad", "No", "common practice: a start capacitor does not run"},
	// Brushes, commutator, bearings.
	{"brush", in("new", "16", "now", "16", "min", "6"), "good", "100 %", "(16 − 6)/(16 − 6)"},
	{"brush", in("new", "16", "now", "6", "min", "6"), "bad", "Worn out", "at its mark"},
	{"brush", in("new", "16", "now", "7", "min", "6"), "near", "not for long", "common practice"},
	{"brush", in("new", "16", "now", "11", "min", "6", "hours", "600"), "good", "600 (", "half is left after 600 h: another 600"},
	{"brush", in("new", "16", "now", "15", "min", "6", "state", "broken"), "bad", "new set", "common practice"},
	{"brush", in("new", "16", "now", "15", "min", "6", "state", "stuck"), "bad", "Stuck", "common practice"},
	{"brush", in("new", "16", "now", "9", "motor", "starter"), "bad", "9.6 mm", "60 % of new for starters, common practice"},
	{"commutator", in("looks", "smooth", "runout", "0.02"), "good", "within", "0.05 mm, common practice"},
	{"commutator", in("looks", "smooth", "new", "30", "now", "27.5", "least", "28"), "bad", "no more turning",
		"the manual's least diameter"},
	{"commutator", in("looks", "smooth", "undercut", "0.1"), "near", "0.10 mm", "from memory"},
	{"bearing", in("bore", "17", "outside", "40", "width", "12"), "good", "6203", "ISO 15, series 02"},
	{"bearing", in("bore", "15", "outside", "35", "width", "11"), "good", "6202", "ISO 15, series 02"},
	{"bearing", in("bore", "0.625 in", "outside", "1.575 in", "width", "0.472 in"), "cannot_tell", "",
		"16 mm is no bore of ISO 15: an inch one"},
	{"bearing", in("bore", "10", "outside", "26", "width", "8"), "good", "6000", "ISO 15, series 10"},
	// On the bench: two points give both constants exactly.
	{"bench_run", in("runs", "12.6 3 2865\n4.6 40 0", "brushes", "0.6"), "none", "0.10 Ω", "at rest (4.6 − 0.6) V / 40 A"},
	{"genset", in("nominal", "50", "no_load", "52", "full_load", "50", "poles", "4"), "good", "1560 rpm", "rpm = 120 f / poles"},
	{"genset", in("nominal", "50", "no_load", "52", "full_load", "44"), "bad", "", "common practice"},
	// Wiring. 17.24 Ω mm²/km: IEC 60028.
	{"wire", in("size", "1", "metres", "1000"), "none", "17.2 Ω", "IEC 60028: 17.241 Ω for a kilometre of 1 mm²"},
	{"wire", in("size", "2.5", "metres", "10", "amperes", "10"), "none", "0.69 V", "0.0690 Ω at 10 A"},
	{"wire", in("size", "1", "metres", "1", "celsius", "70"), "none", "20.6 mΩ", "1 + 0.00393 · 50"},
	{"wire", in("size", "AWG 12", "metres", "304.8"), "none", "1.59 Ω", "NBS Handbook 100: 1.588 Ω a thousand feet at 20 °C"},
	{"cable", in("amperes", "10", "metres", "2", "drop", "0.5", "celsius", "20"), "good", "mm²", "ISO 6722-1 sizes"},
	{"joint", in("amperes", "10", "drop", "20 mV"), "good", "0.2 W", "P = I ΔV"},
	{"joint", in("amperes", "100", "drop", "0.5"), "bad", "50 W", "P = I ΔV"},
	{"joint", in("amperes", "5", "ohm", "10 mohm", "looks", "melted"), "bad", "fire hazard", "common practice"},
	{"joint", in("amperes", "15", "drop", "0.15", "near", "yes"), "bad", "fuel", "common practice"},
	{"joint", in("amperes", "10", "drop", "20 mV", "looks", "green"), "good", "bright copper", "common practice"},
	{"splice", in("size", "1.5", "amperes", "60"), "bad", "thicker wire", "ISO 10133, from memory"},
	{"splice", in("size", "AWG 10"), "good", "mm²", "5.26 mm², ASTM B258"},
	{"strands", in("size", "2.5", "broken", "5", "amperes", "2", "fuse", "10"), "near", "Not a hazard", "common practice"},
	{"strands", in("size", "2.5", "broken", "10", "amperes", "2", "fuse", "10", "near", "yes"), "bad",
		"fire hazard", "common practice"},
	{"relay_gain", in("battery", "12.6", "motor", "12.5", "amperes", "5"), "near", "next to nothing", "a tenth of a volt is no loss"},
	{"relay_gain", in("battery", "12.6", "motor", "9.5", "amperes", "10"), "good", "mend that first", "three volts are a fault"},
}

// Worked examples: what a calculator judges and says on both sides of every limit it has.
// Each names where its figure comes from.
func TestWorkedExamples(t *testing.T) {
	for _, x := range worked {
		r, err := Run(x.calc, x.in, nil, "")
		require.NoError(t, err, "%s %v", x.calc, x.in)
		all := r.Says
		for _, l := range r.Lines {
			all += "\n" + l.Label + ": " + l.Text
		}
		assert.Equal(t, x.judged, r.Judged, "%s %v (%s): %s", x.calc, x.in, x.source, all)
		assert.Contains(t, all, x.says, "%s %v (%s)", x.calc, x.in, x.source)
		require.NotEmpty(t, x.source)
	}
}

// What no part or source can have is refused by the input's name, and the mend is said.
func TestImpossibleInputsAreRefused(t *testing.T) {
	for _, x := range []struct {
		calc string
		in   map[string]string
		says string
	}{
		{"winding", in("shown", "10", "resolution", "0"), "count"},
		{"winding", in("shown", "10", "at", "900"), "-60"},
		{"winding", in("shown", "1", "leads", "3"), "leads"},
		{"winding", in("shown", "1", "low", "3", "high", "2"), "upper limit"},
		{"winding", in("shown", "1", "leads", "0.5", "good", "0.2"), "known good part"},
		{"four_wire", in("pairs", "1 10\n2 5\n3 1"), "which is which"},
		{"stator", in("ab", "0.1", "bc", "20", "ca", "20", "leads", "0.3"), "leads alone"},
		{"stator_volts", in("ab", "230", "bc", "230", "ca", "230"), "licensed"},
		{"capacitor", in("shown", "7", "marked", "0"), "above zero"},
		{"discharge", in("farad", "0"), "above zero"},
		{"replacement", in("old", "0", "new", "7.5"), "above zero"},
		{"brush", in("new", "6", "now", "16", "min", "3"), ""},
		{"joint", in("amperes", "10"), "volts lost"},
		{"joint", in("amperes", "0", "drop", "1"), "above zero"},
		{"wire", in("size", "AWG 99", "metres", "1"), "Size"},
		{"cable", in("amperes", "-3", "metres", "1"), ""},
		{"strands", in("size", "2.5", "broken", "150", "amperes", "2", "fuse", "10"), ""},
	} {
		r, err := Run(x.calc, x.in, nil, "")
		require.Error(t, err, "%s %v gave %+v", x.calc, x.in, r)
		assert.Contains(t, err.Error(), x.says)
		assert.NotContains(t, err.Error(), "\n")
		assert.Greater(t, len(err.Error()), 15)
	}
}

// No input, however odd, makes a calculator fail otherwise than in a sentence; what goes
// into the job is always what the job takes.
func FuzzCalculators(f *testing.F) {
	starter, err := circuit.Family("starter")
	require.NoError(f, err)
	for i := range All() {
		f.Add(i, "1", "2", "-3", "OL", "motor")
		f.Add(i, "1e300", "0", "0 0\n1 1\n2 2", "AWG 4/0", "battery")
	}
	f.Fuzz(func(t *testing.T, k int, a, b, c, d, part string) {
		all := All()
		calc := all[((k%len(all))+len(all))%len(all)]
		m := map[string]string{}
		for i, x := range calc.Inputs {
			if x.Kind == Choice {
				continue
			}
			m[x.ID] = []string{a, b, c, d}[i%4]
		}
		r, err := Run(calc.ID, m, starter, part)
		if err != nil {
			if strings.TrimSpace(err.Error()) == "" {
				t.Fatal("refused without a word")
			}
			return
		}
		if strings.Contains(r.Says, "NaN") {
			t.Fatalf("%s %v: %s", calc.ID, m, r.Says)
		}
		for i := range r.Evidence {
			if p := r.Evidence[i].Check(starter, nil); p != nil {
				t.Fatalf("%s %v would put in what the job refuses: %v", calc.ID, m, p)
			}
		}
	})
}
