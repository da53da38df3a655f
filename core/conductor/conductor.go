package conductor

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// CopperResistivity is the resistivity of annealed copper at 20 °C,
// Ω·mm²/m: 1/58 (IEC 60028).
const CopperResistivity = 1.0 / 58

// CopperCoefficient is the temperature coefficient of annealed copper at
// 20 °C, per kelvin (IEC 60028).
const CopperCoefficient = 0.00393

// Resistance returns the resistance in ohms of a copper wire of area mm²
// (> 0), length m (>= 0) at temperature °C (-60..250).
func Resistance(areaMM2, lengthM, celsius float64) (float64, error) {
	switch {
	case !(areaMM2 > 0) || areaMM2 > 1000:
		return 0, fmt.Errorf("a wire of %g mm² cannot be: give an area above 0 and up to 1000 mm²", areaMM2)
	case !(lengthM >= 0) || lengthM > 1000:
		return 0, fmt.Errorf("a wire %g m long cannot be: give a length from 0 to 1000 m", lengthM)
	case !(celsius >= -60) || celsius > 250:
		return 0, fmt.Errorf("a wire at %g °C cannot be: give a temperature from -60 to 250 °C", celsius)
	}
	return CopperResistivity * lengthM / areaMM2 * (1 + CopperCoefficient*(celsius-20)), nil
}

// AWGArea returns the area in mm² of an American wire gauge; 0 is 1/0, -1 is
// 2/0 and so on. d = 0.127 mm · 92^((36-n)/39) (ASTM B258).
func AWGArea(n int) float64 {
	d := 0.127 * math.Pow(92, float64(36-n)/39)
	return math.Pi / 4 * d * d
}

// AtTemperature moves a copper winding's resistance r (Ω) from temperature t1
// to t2 (°C): R2 = R1 (235 + t2)/(235 + t1) (IEC 60034-1).
func AtTemperature(r, t1, t2 float64) float64 { return r * (235 + t2) / (235 + t1) }

// ParseSize reads a cable size as a technician writes it: 35, 35 mm2, 2,5 mm²,
// AWG 4, 4 awg, AWG 2/0. The result is in mm².
func ParseSize(text string) (float64, error) {
	s := strings.ToLower(strings.TrimSpace(text))
	bad := fmt.Errorf("%q is not a cable size: write it as 35 mm2 or AWG 4", text)
	if strings.Contains(s, "awg") {
		n := strings.TrimSpace(strings.ReplaceAll(s, "awg", ""))
		gauge, zeros := n, 0
		if a, b, ok := strings.Cut(n, "/"); ok && b == "0" {
			z, err := strconv.Atoi(a)
			if err != nil || z < 1 || z > 4 {
				return 0, bad
			}
			gauge, zeros = "0", z-1
		}
		g, err := strconv.Atoi(strings.TrimSpace(gauge))
		if err != nil || g < 0 || g > 40 {
			return 0, bad
		}
		return AWGArea(g - zeros), nil
	}
	for _, u := range []string{"mm²", "mm2", "mm^2", "sq", "mm"} {
		s = strings.TrimSuffix(s, u)
	}
	v, err := strconv.ParseFloat(strings.ReplaceAll(strings.TrimSpace(s), ",", "."), 64)
	if err != nil || !(v >= 0.05 && v <= 1000) {
		return 0, bad
	}
	return v, nil
}
