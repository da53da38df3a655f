package plate

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"corriente/core/circuit"
	"corriente/core/phrase"
	"corriente/core/unit"
)

// Setting is one value of a vehicle that can be given, as people say it.
type Setting struct {
	Name    string          `json:"name"` // station.parameter
	Label   string          `json:"label"`
	Unit    string          `json:"unit"`              // as it is typed without one
	Usual   string          `json:"usual"`             // what stands in where nothing is given
	Choices []SettingChoice `json:"choices,omitempty"` // instead of a value
	Wire    bool            `json:"wire,omitempty"`    // may be given by size and length instead
}

// SettingChoice is one of a setting's words.
type SettingChoice struct {
	Value string `json:"value"`
	Label string `json:"label"`
}

// said is how a parameter of a kind is spoken of. What is not in the table is not asked for:
// nobody knows it of a vehicle, or it changes nothing that is read.
type said struct {
	words string
	unit  string  // as typed and read back
	scale float64 // SI of one of it
}

var spoken = map[circuit.Kind]map[string]said{
	circuit.Source: {"emf": {"volts at rest", "V", 1}, "resistance": {"inner resistance", "mΩ", 1e-3}},
	circuit.Charger: {"present": {"hangs on the battery", "", 1}, "voltage": {"volts", "V", 1},
		"current_limit": {"gives at most", "A", 1}},
	circuit.Fuse:         {"rating": {"rating", "A", 1}},
	circuit.Wire:         {"resistance": {"resistance, or its size", "mΩ", 1e-3}},
	circuit.Coil:         {"resistance": {"resistance", "Ω", 1}, "pull_in": {"pulls in at", "V", 1}},
	circuit.Motor:        {"resistance": {"winding resistance", "Ω", 1}, "resistance_high": {"winding resistance, high speed", "Ω", 1}},
	circuit.ResistorPack: {"tap_1": {"speed 1", "Ω", 1}, "tap_2": {"speed 2", "Ω", 1}, "tap_3": {"speed 3", "Ω", 1}},
	circuit.Winding:      {"resistance": {"resistance", "Ω", 1}, "emf": {"volts AC, plug open", "V", 1}},
	circuit.Capacitor:    {"capacitance": {"capacitance", "µF", 1e-6}},
	circuit.Rectifier:    {"voltage": {"regulates to", "V", 1}},
	circuit.Throttle:     {"supply": {"supply", "V", 1}, "rest": {"at rest", "V", 1}, "full": {"at full", "V", 1}},
	circuit.Control:      {"low": {"at low speed", "V", 1}, "high": {"at full speed", "V", 1}},
}

func spokenOf(c *circuit.Circuit, name string) (*circuit.Station, said, bool) {
	station, param, _ := strings.Cut(name, ".")
	s := c.Station(station)
	if s == nil {
		return nil, said{}, false
	}
	w, ok := spoken[s.Kind][param]
	if _, has := s.Params[param]; !has {
		ok = false
	}
	return s, w, ok
}

// Settings lists what can be given of a circuit's vehicle, in the order of its stations.
func Settings(c *circuit.Circuit) []Setting {
	out := []Setting{}
	judged := func(fuse string) bool { // only a look at the fuse itself asks for its rating
		return slices.ContainsFunc(c.Observations, func(o circuit.Observation) bool { return o.Model == "fuse" && o.Of == fuse })
	}
	// Nothing loads the battery but a motor.
	loaded := slices.ContainsFunc(c.Stations, func(s circuit.Station) bool { return s.Kind == circuit.Motor })
	for i := range c.Stations {
		s := &c.Stations[i]
		for _, param := range slices.Sorted(maps.Keys(s.Params)) {
			w, ok := spoken[s.Kind][param]
			if !ok || s.Kind == circuit.Fuse && !judged(s.ID) || s.Kind == circuit.Source && param == "resistance" && !loaded {
				continue
			}
			x := Setting{Name: s.ID + "." + param, Label: s.Label + ": " + w.words, Unit: w.unit,
				Usual: Say(c, s.ID+"."+param, s.Params[param].Value), Wire: s.Kind == circuit.Wire}
			if param == "present" {
				x.Choices = []SettingChoice{{"0", "no"}, {"1", "yes"}}
			}
			out = append(out, x)
		}
	}
	for _, name := range slices.Sorted(maps.Keys(c.Variants)) {
		x := Setting{Name: name, Label: strings.ReplaceAll(strings.ReplaceAll(name, ".", ": "), "_", " ")}
		x.Label = phrase.Upper(x.Label)
		for _, word := range slices.Sorted(maps.Keys(c.Variants[name])) {
			x.Choices = append(x.Choices, SettingChoice{word, strings.ReplaceAll(word, "_", " ")})
		}
		out = append(out, x)
	}
	return out
}

// Say is a value as it is read back: "7.5 µF", "15 A", "yes".
func Say(c *circuit.Circuit, name string, v float64) string {
	_, w, ok := spokenOf(c, name)
	switch {
	case ok && strings.HasSuffix(name, ".present"):
		return map[bool]string{true: "yes", false: "no"}[v >= 0.5]
	case ok:
		return strconv.FormatFloat(round4(v/w.scale), 'f', -1, 64) + " " + w.unit
	case strings.HasSuffix(name, ".area_mm2"):
		return strconv.FormatFloat(round4(v), 'f', -1, 64) + " mm²"
	case strings.HasSuffix(name, ".length_m"):
		return strconv.FormatFloat(round4(v), 'f', -1, 64) + " m"
	}
	_, param, _ := strings.Cut(name, ".")
	u := circuit.ParamUnit(param)
	if u == "ohm" {
		u = "Ω"
	}
	return strings.TrimSpace(strconv.FormatFloat(round4(v), 'g', -1, 64) + " " + u)
}

// Name is a parameter as it is spoken of: "Capacitor: capacitance".
func Name(c *circuit.Circuit, name string) string {
	if s, w, ok := spokenOf(c, name); ok {
		return s.Label + ": " + w.words
	}
	station, param, _ := strings.Cut(name, ".")
	if s := c.Station(station); s != nil {
		station = s.Label
	}
	param = strings.NewReplacer("area_mm2", "size", "length_m", "length", "_", " ").Replace(param)
	return station + ": " + param
}

func round4(v float64) float64 {
	if v == 0 || math.IsInf(v, 0) || math.IsNaN(v) {
		return 0
	}
	e := math.Pow(10, 3-math.Floor(math.Log10(math.Abs(v))))
	return math.Round(v*e) / e
}

// Parse reads a value as typed, SI: with its unit, or a bare number in the unit of the setting.
func Parse(c *circuit.Circuit, name, text string) (float64, error) {
	_, w, ok := spokenOf(c, name)
	if !ok {
		_, param, _ := strings.Cut(name, ".")
		w = said{unit: circuit.ParamUnit(param), scale: 1}
	}
	if strings.HasSuffix(name, ".present") {
		switch strings.ToLower(strings.TrimSpace(text)) {
		case "1", "yes":
			return 1, nil
		case "0", "no":
			return 0, nil
		}
		return 0, fmt.Errorf("%q: say yes or no", text)
	}
	m := map[string]unit.Measure{"V": unit.Voltage, "A": unit.Current, "Ω": unit.Resistance, "mΩ": unit.Resistance,
		"ohm": unit.Resistance, "µF": unit.Capacitance, "F": unit.Capacitance}[w.unit]
	if m == "" { // a plain number
		v, err := strconv.ParseFloat(strings.Replace(strings.TrimSpace(text), ",", ".", 1), 64)
		if err != nil || math.IsInf(v, 0) || math.IsNaN(v) {
			return 0, fmt.Errorf("%q is no number", text)
		}
		return v, nil
	}
	if w.unit == "mΩ" && bare(text) {
		text += " mΩ"
	}
	r, err := unit.Parse(text, m)
	if err != nil {
		return 0, err
	}
	if r.Over {
		return 0, fmt.Errorf("OL is no value of a part: give what stands on it, or what a good one reads")
	}
	return r.Value, nil
}

func bare(text string) bool {
	_, err := strconv.ParseFloat(strings.Replace(strings.TrimSpace(text), ",", ".", 1), 64)
	return err == nil
}

// ParseMotor reads a motor's plate as typed: power in W or kW (a bare number under 20 is kW), volts,
// amperes, revolutions a minute. Empty fields are not known.
func ParseMotor(power, volts, amps, speed string) (Motor, error) {
	var p Motor
	num := func(text string, scale map[string]float64, bareScale func(v float64) float64, to *float64, what, mend string) error {
		text = strings.ToLower(strings.TrimSpace(text))
		if text == "" {
			return nil
		}
		digits := strings.TrimRight(text, "abcdefghijklmnopqrstuvwxyzµ/.-¹⁻ ")
		u := strings.TrimSpace(strings.TrimPrefix(text, digits))
		v, err := strconv.ParseFloat(strings.Replace(strings.TrimSpace(digits), ",", ".", 1), 64)
		if err != nil || !(v > 0) || v > 1e7 {
			return fmt.Errorf("%q is no %s: %s", text, what, mend)
		}
		k, ok := scale[u]
		switch {
		case u == "":
			k = bareScale(v)
		case !ok:
			return fmt.Errorf("%q is no unit of %s: %s", u, what, mend)
		}
		*to = v * k
		return nil
	}
	one := func(float64) float64 { return 1 }
	for _, err := range []error{
		num(power, map[string]float64{"w": 1, "kw": 1e3, "hp": 745.7, "ps": 735.5}, func(v float64) float64 {
			if v < 20 {
				return 1e3
			}
			return 1
		}, &p.Power, "power", "write 0.8 kW or 350 W"),
		num(volts, map[string]float64{"v": 1}, one, &p.Volts, "voltage", "write 12 V"),
		num(amps, map[string]float64{"a": 1, "ma": 1e-3}, one, &p.Amps, "current", "write 15 A"),
		num(speed, map[string]float64{"rpm": math.Pi / 30, "/min": math.Pi / 30, "min": math.Pi / 30,
			"u/min": math.Pi / 30, "r/min": math.Pi / 30}, func(float64) float64 { return math.Pi / 30 }, &p.Speed,
			"speed", "write 1,500 rpm without the comma: 1500 rpm"),
	} {
		if err != nil {
			return Motor{}, err
		}
	}
	if p.Volts > 60 {
		return Motor{}, fmt.Errorf("%.0f V is above what is worked on here (60 V DC): stop, that is work for people licensed for it",
			p.Volts)
	}
	return p, nil
}
