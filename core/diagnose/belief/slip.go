package belief

import (
	"fmt"

	"corriente/core/casefile"
	"corriente/core/diagnose/readings"
)

// slipKey names an alternative of a reading.
type slipKey struct{ index, alternative int }

// slipWords is a slip as it is asked about.
func slipWords(index int, e *casefile.Evidence, alt *readings.Alternative) string {
	if alt.Leads {
		return fmt.Sprintf("Reading %d, %s: were the leads swapped? %s would fit the others.", index+1,
			e.Reading.String(e.Measure), alt.What)
	}
	return fmt.Sprintf("Reading %d, %s: did you mean %s? It would fit the others.", index+1, e.Reading.String(e.Measure), alt.What)
}

// NamedSlips lists the slips that are likely, each reading once.
func (p *Posterior) NamedSlips(j *Job) []readings.Warning {
	best := map[int]slipKey{}
	sum := map[int]float64{}
	for k, w := range p.slips {
		sum[k.index] += w
		if b, ok := best[k.index]; !ok || w > p.slips[b] {
			best[k.index] = k
		}
	}
	var out []readings.Warning
	for i := range j.Evidence {
		if k, ok := best[i]; ok && sum[i] >= p.a.Assumed.Slip.Named {
			r := readings.Prepare(p.a.Space, &j.Evidence[i], casefile.MeterFor(&j.Evidence[i], j.Instruments), i)
			out = append(out, readings.Warning{Index: i + 1, Code: "slip",
				Says: slipWords(i, &j.Evidence[i], &readings.Alternatives(p.a.Space, &r)[k.alternative])})
		}
	}
	return out
}
