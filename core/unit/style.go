package unit

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// Style is how figures are written for people: the core writes them metric with a decimal
// point, and a style says the rest beside it. What was typed stays as it was typed.
type Style struct {
	Imperial bool // °F, AWG, inches and lb ft beside the metric figure
	Comma    bool // a decimal comma
}

var (
	metric = regexp.MustCompile(`(× ?)?(-?\d+(?:\.\d+)?)(?: to (-?\d+(?:\.\d+)?))? ?(°C|mm²|mm|Nm)`)
	point  = regexp.MustCompile(`(^|[^\d.])(\d+)\.(\d+)([^\d.]|\.?$|\.[^\d])`)
)

// Write writes a sentence in a style. Sizes of which each goes with the next (20 × 47 × 14 mm)
// and wires whose gauge is said already stay as they are.
func (s Style) Write(text string) string {
	if s.Imperial {
		text = imperial(text)
	}
	if s.Comma {
		for range 2 { // two figures may share the space between them
			text = point.ReplaceAllString(text, "$1$2,$3$4")
		}
	}
	return text
}

func imperial(text string) string {
	var b strings.Builder
	at := 0
	for _, m := range metric.FindAllStringSubmatchIndex(text, -1) {
		end := m[1]
		b.WriteString(text[at:end])
		at = end
		if m[2] >= 0 || strings.HasPrefix(text[end:], " ×") || gauged(text[end:]) || letter(text[end:]) {
			continue
		}
		u := text[m[8]:m[9]]
		say := convert(text[m[4]:m[5]], u)
		if m[6] >= 0 {
			to := convert(text[m[6]:m[7]], u)
			if u == "mm²" {
				to = strings.TrimPrefix(to, "AWG ")
			}
			say += " to " + to
		}
		switch u {
		case "°C":
			say += " °F"
		case "mm":
			say += " in"
		case "Nm":
			say += " lb ft"
		}
		b.WriteString(" (" + say + ")")
	}
	return b.String() + text[at:]
}

func gauged(rest string) bool { return strings.HasPrefix(strings.TrimLeft(rest, " ("), "AWG") }

// letter reports whether a unit goes on, as in mmHg.
func letter(rest string) bool {
	return rest != "" && (rest[0] >= 'a' && rest[0] <= 'z' || rest[0] >= 'A' && rest[0] <= 'Z')
}

// convert is a metric figure in the other unit. An inch is 25.4 mm and a pound foot
// 1.3558 N·m (NIST SP 811, appendix B); gauges are those of ASTM B258.
func convert(figure, u string) string {
	v, err := strconv.ParseFloat(figure, 64)
	if err != nil {
		return figure
	}
	switch u {
	case "°C":
		return fmt.Sprintf("%.0f", v*9/5+32)
	case "mm":
		if v >= 25.4 {
			return fmt.Sprintf("%.2f", v/25.4)
		}
		return fmt.Sprintf("%.3f", v/25.4)
	case "Nm":
		return fmt.Sprintf("%.1f", v/1.3558179483)
	}
	return "AWG " + gauge(v)
}

// gauge is the American wire gauge nearest to a cross-section in mm², 1/0 to 4/0 above 1.
func gauge(mm2 float64) string {
	if !(mm2 > 0) {
		return "–"
	}
	d := 2 * math.Sqrt(mm2/math.Pi)
	n := int(math.Round(36 - 39*math.Log(d/0.127)/math.Log(92)))
	if n < 1 {
		return fmt.Sprintf("%d/0", 1-n)
	}
	return strconv.Itoa(n)
}
