package belief

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"corriente/core/circuit"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/readings"
	"corriente/core/unit"
)

// A value somebody gave may be wrong: read off another plate, or of the model before. It is
// an alternative with a prior of its own: as given, or anywhere within some of its
// deviations.

// givenOf lists which uncertain values of a circuit a job has given itself.
func (a *Reasoner) givenOf(j *Job) []int {
	var out []int
	for _, name := range j.Given {
		station, param, _ := strings.Cut(name, ".")
		k := a.C.StationIndex(station)
		if k < 0 || param == "" {
			continue
		}
		for u, p := range a.Uncertain {
			pr := a.Net.Params[p]
			if pr.Station == k && pr.Name == param &&
				!slices.ContainsFunc(a.Alike, func(g cells.Alike) bool { return slices.Contains(g.U, u) }) {
				out = append(out, u)
			}
		}
	}
	return out
}

// wrong is how much likelier a cell's readings are if one value lies anywhere within
// by of its deviations, its logarithm, and where it then lies, deviations from what
// was given. It widens the value's prior by one rank (matrix determinant lemma): with
// z its posterior mean and v its posterior variance, q = 1 - v and c = by² - 1,
// the change is -ln(1 + c q)/2 + c z²/(2 (1 + c q)).
func wrong(z, v, by float64) (gain, at float64) {
	c, q := by*by-1, math.Max(1-v, 0)
	return -0.5*math.Log1p(c*q) + 0.5*c*z*z/(1+c*q), (1 + c) * z / (1 + c*q)
}

// misgiven is how likely a given value is wrong, and where it lies then.
type misgiven struct{ p, at float64 }

// NamedGiven lists the given values that are likely wrong, with what they would have to be.
func (p *Posterior) NamedGiven() []readings.Warning {
	var out []readings.Warning
	for u := range p.a.Uncertain {
		g, ok := p.givens[u]
		if !ok || g.p < p.a.Assumed.Slip.Named {
			continue
		}
		at := g.at / g.p
		if math.Abs(at) < p.a.Assumed.Slip.NamedGiven {
			continue
		}
		pr := p.a.Net.Params[p.a.Uncertain[u]]
		was := p.a.Theta[p.a.Uncertain[u]]
		is := was + at*p.a.Scale[u]
		if p.a.IsLog[u] {
			is = was * math.Exp(at*p.a.Scale[u])
		}
		s := &p.a.C.Stations[pr.Station]
		out = append(out, readings.Warning{Code: "given",
			Says: fmt.Sprintf("%s: %s is given as %s, but the readings fit about %s: check the value.", s.Label,
				paramWords(pr.Name), paramValue(pr.Name, was), paramValue(pr.Name, is))})
	}
	return out
}

func paramWords(name string) string {
	switch name {
	case "emf":
		return "its rest voltage"
	case "ke":
		return "its voltage constant"
	case "load":
		return "its load"
	}
	return "its " + strings.ReplaceAll(name, "_", " ")
}

// paramValue writes a value with its unit.
func paramValue(name string, v float64) string {
	switch circuit.ParamUnit(name) {
	case "ohm":
		return unit.Format(v, unit.Resistance)
	case "V":
		return unit.Format(v, unit.Voltage)
	case "A":
		return unit.Format(v, unit.Current)
	case "F":
		return unit.Format(v, unit.Capacitance)
	}
	return strings.TrimSpace(fmt.Sprintf("%.3g %s", v, circuit.ParamUnit(name)))
}
