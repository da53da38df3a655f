package repair

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
)

// life is one machine's years, played day by day from what a plan says of itself and what
// the family says of each part: no renewal equation, no expected values. It is written
// apart from story.go, on purpose by other means: a calendar of events.
type life struct {
	c   *circuit.Circuit
	tm  Terms
	rng *rand.Rand
}

// ages draws how long work lasts, by inversion of the Weibull law.
func (l *life) ages(median, shape float64) float64 {
	return median * math.Pow(-math.Log(1-l.rng.Float64())/math.Ln2, 1/shape)
}

// order is what a part costs with its postage.
func (l *life) order(parts float64) float64 {
	if parts <= 5 {
		return parts
	}
	return math.Max(parts, l.tm.MinimumOrder) + l.tm.Postage
}

// keeps plays how a part that works fails and is mended the same way until the end.
func (l *life) keeps(median, shape, warranty, parts, labour float64) float64 {
	paid := 0.0
	for now := 0.0; ; {
		age := l.ages(median, shape)
		if now += age; now > l.tm.Years {
			return paid
		}
		paid += labour + l.tm.Comeback + l.tm.LossPerDay
		if age > warranty {
			paid += parts
		}
	}
}

// exchanged plays putting a part right by the surest means, once a plan has failed on it.
func (l *life) exchanged(station string, same bool) float64 {
	a := l.c.Station(station).Replace
	parts := l.order(a.Parts)
	labour := a.Minutes / 60 * l.tm.HourRate
	paid := labour + a.Minutes/60/8*l.tm.LossPerDay
	if !same {
		paid += parts + a.WaitDays*l.tm.LossPerDay
	}
	return paid + l.keeps(a.LifeYears, 2, 1, parts, labour)
}

// treated is a plan's treatment of one part, in figures of its own.
type treated struct {
	station             string
	does                string
	parts, minutes, day float64
	works               map[string]float64 // by fault: chance that it is cured
	median, shape       float64
	warranty            float64
}

// played is one machine's course under the plan.
func (l *life) played(plan []treated, faults []string) float64 {
	paid, wait, minutes := 0.0, 0.0, 0.0
	bad := map[string]bool{}
	for _, f := range faults {
		station, _, _ := strings.Cut(f, ".")
		bad[station] = true
		for _, x := range plan {
			if x.station == station && l.rng.Float64() < x.works[f] {
				delete(bad, station)
			}
		}
	}
	for _, x := range plan {
		paid += l.order(x.parts) + x.minutes/60*l.tm.HourRate
		wait, minutes = math.Max(wait, x.day), minutes+x.minutes
	}
	paid += (wait + minutes/60/8) * l.tm.LossPerDay
	if len(bad) > 0 {
		paid += l.tm.HourRate / 2
	}
	for _, x := range plan {
		if !bad[x.station] {
			paid += l.keeps(x.median, x.shape, x.warranty, l.order(x.parts), x.minutes/60*l.tm.HourRate)
		}
	}
	for station := range bad {
		same := false
		for _, x := range plan {
			same = same || x.station == station && x.does == "replace"
		}
		paid += l.exchanged(station, same)
	}
	return paid
}

// Expected costs within 2 % of the simulation, for repairs and replacements of one part and
// of two, under several diagnoses, and for a temporary repair.
func TestAgainstAPlainSimulation(t *testing.T) {
	c := family(t, "starter")
	tm := Terms{HourRate: 58, LossPerDay: 25, Years: 6, Comeback: 60, Postage: 8}
	ds := []Diagnosis{{[]string{"motor.brushes_worn"}, 0.6}, {[]string{"motor.winding_open"}, 0.2},
		{[]string{"battery.weak", "motor.brushes_worn"}, 0.15}, {nil, 0.05}}
	brushes := treated{station: "motor", does: "brushes", parts: 0.8 * 24, minutes: 0.85 * 150, day: 4,
		works: map[string]float64{"motor.brushes_worn": 0.9}, median: 4, shape: 1.4}
	overhaul := treated{station: "motor", does: "repair", parts: 24, minutes: 150, day: 4,
		works: map[string]float64{"motor.brushes_worn": 0.88}, median: 4, shape: 1.4}
	exchange := treated{station: "motor", does: "replace", parts: 190, minutes: 90, day: 2,
		works: map[string]float64{"motor.brushes_worn": 0.97, "motor.winding_open": 0.97}, median: 8, shape: 2, warranty: 1}
	battery := treated{station: "battery", does: "replace", parts: 120, minutes: 20, day: 1,
		works: map[string]float64{"battery.weak": 0.98}, median: 5, shape: 2, warranty: 1}
	mean := func(l *life, once func(faults []string) float64) float64 {
		const n = 60000
		sum := 0.0
		for range n {
			u := l.rng.Float64()
			var faults []string
			for _, d := range ds {
				if u -= d.Probability; u < 0 {
					faults = d.Faults
					break
				}
			}
			sum += once(faults)
		}
		return sum / n
	}
	l := &life{c, tm, rand.New(rand.NewPCG(20261127, 5))}
	one := about(t, c, "motor", ds, tm)
	for _, x := range []treated{brushes, overhaul, exchange} {
		got := mean(l, func(f []string) float64 { return l.played([]treated{x}, f) })
		assert.InEpsilon(t, got, option(one, x.does).Expected, 0.02, x.does)
	}
	two, err := Compare(c, Question{Stations: []string{"motor", "battery"}, Diagnoses: ds, Terms: tm, With: map[string]Figures{}})
	require.NoError(t, err)
	both := option(two, "motor.replace+battery.replace")
	require.NotEmpty(t, both.ID, "%v", names(two))
	got := mean(l, func(f []string) float64 { return l.played([]treated{exchange, battery}, f) })
	// Two parts come in one order: one postage, not two; and the renewals are its share of it.
	assert.InEpsilon(t, got, both.Expected+tm.Postage, 0.02)
	// A temporary repair: the lasting one follows, at once where it did not hold.
	lasting := exchange
	if o := option(one, "brushes"); o.Expected < option(one, "replace").Expected {
		lasting = brushes
	}
	if o := option(one, "repair"); o.Expected < math.Min(option(one, "replace").Expected, option(one, "brushes").Expected) {
		lasting = overhaul
	}
	for _, id := range []string{"donor", "clean", "bearing"} {
		if o := option(one, id); o.Veto == nil && o.Expected < option(one, lasting.does).Expected {
			t.Skipf("the lasting repair is another here: %s", id)
		}
	}
	got = mean(l, func(f []string) float64 {
		paid := 2 + 0.35*150/60*tm.HourRate + 0.35*150/60/8*tm.LossPerDay
		holds := len(f) == 0 || len(f) == 1 && f[0] == "motor.brushes_worn" && l.rng.Float64() < 0.7*0.85
		later := l.played([]treated{lasting}, f)
		if holds { // its part comes while it works
			later -= lasting.day * tm.LossPerDay
		} else {
			later += tm.HourRate / 2
		}
		return paid + later
	})
	assert.InEpsilon(t, got, option(one, "temporary").Expected, 0.02)
}

func names(c *Comparison) []string {
	var out []string
	for _, o := range c.Options {
		out = append(out, fmt.Sprintf("%s %.0f", o.ID, o.Expected))
	}
	return out
}
