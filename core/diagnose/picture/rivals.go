package picture

import (
	"maps"
	"slices"
	"sort"
	"strings"

	"corriente/core/diagnose/explain"
	"corriente/core/diagnose/gauss"
	"corriente/core/fault"
	"corriente/core/phrase"
)

// Rivals lists the explanations worth showing as suspects: one part at fault, or two
// together said as two, or nothing; each with the piece of evidence that accuses it most and
// the one that clears it most. Their probabilities add up to 1: what is not shown by itself
// stands together at the end.
func Rivals(op *explain.Opinion, n int) []Rival {
	by := map[string]*Rival{}
	lead := map[string]int{} // the likeliest diagnosis of each
	for d, w := range op.Posterior.Diag {
		var stations []string
		for _, f := range op.Reasoner.Diags[d].Faults {
			stations = append(stations, f.Station)
		}
		slices.Sort(stations)
		stations = slices.Compact(stations)
		k := strings.Join(stations, "+")
		if by[k] == nil {
			by[k] = &Rival{Stations: append([]string{}, stations...)}
			lead[k] = d
		}
		by[k].Probability += w
		if w > op.Posterior.Diag[lead[k]] {
			lead[k] = d
		}
	}
	part := map[string]float64{}
	for _, s := range op.Stations {
		part[s.Station] = s.Probability
	}
	out := []Rival{}
	for _, k := range slices.Sorted(maps.Keys(by)) {
		r := by[k]
		accused(op, r, op.Reasoner.Diags[lead[k]].Faults, part)
		out = append(out, *r)
	}
	sort.SliceStable(out, func(i, k int) bool { return out[i].Probability > out[k].Probability })
	shown := 0.0
	if len(out) > n {
		out = out[:n]
	}
	for i := range out {
		out[i].Probability = gauss.Round(out[i].Probability)
		shown += out[i].Probability
	}
	if rest := gauss.Round(1 - shown); rest > 0.0005 {
		out = append(out, Rival{Stations: []string{}, Label: "Anything else", Fault: "Anything else", Probability: rest, Rest: true})
	}
	return out
}

// accused fills in how an explanation reads, and what speaks on it.
func accused(op *explain.Opinion, r *Rival, faults []fault.Fault, part map[string]float64) {
	if len(faults) == 0 {
		r.Label, r.Fault = "Nothing wrong", "Nothing wrong"
	}
	var labels, says, names []string
	for _, f := range faults {
		label := op.Reasoner.C.Station(f.Station).Label
		if r.Station == "" || part[f.Station] > part[r.Station] {
			r.Station = f.Station
		}
		if len(labels) > 0 {
			label = phrase.Lower(label)
		}
		labels, says, names = append(labels, label), append(says, label+": "+fault.Label(f.Mode)), append(names, f.String())
	}
	if len(faults) > 0 {
		r.Label, r.Fault = strings.Join(labels, " and "), strings.Join(says, ", and the ")
		// The part by itself and with others: where that is another figure.
		if t := part[r.Station]; t > r.Probability+0.02 {
			r.Total = t
		}
	}
	key := "none"
	if len(names) > 0 {
		key = strings.Join(names, "+")
	}
	for _, e := range op.Evidence {
		if b, ok := e.Bits[key]; ok {
			if b > r.ForBits {
				r.ForBits, r.For = b, e.Index
			}
			if b < r.AgainstBits {
				r.AgainstBits, r.Against = b, e.Index
			}
		}
	}
}

// Rival is one suspect: an explanation of what was read.
type Rival struct {
	Station     string   `json:"station"` // the part most likely at fault in it; "" for none
	Stations    []string `json:"stations"`
	Label       string   `json:"label"`
	Fault       string   `json:"fault"`
	Probability float64  `json:"probability"`
	Total       float64  `json:"total,omitempty"` // of its part, alone or with others, where that differs
	Rest        bool     `json:"rest,omitempty"`  // all that is not shown by itself
	For         int      `json:"for,omitempty"`   // evidence that accuses it most, 1-based
	ForBits     float64  `json:"for_bits,omitempty"`
	Against     int      `json:"against,omitempty"` // evidence that clears it most
	AgainstBits float64  `json:"against_bits,omitempty"`
}
