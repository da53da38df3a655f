package belief

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/gauss"
	"corriente/core/fault"
)

// Shift is a prior that what is known of a machine has moved.
type Shift struct {
	Station string  `json:"station"`
	Factor  float64 `json:"factor"` // on the rate of its faults
	Why     string  `json:"why"`
}

// rateFactor is how what is known moves the rate of one fault.
func (a *Reasoner) rateFactor(k *casefile.Known, whens []string, f fault.Fault) float64 {
	x := 1.0
	s := a.C.Station(f.Station)
	if slices.Contains(k.NewParts, s.ID) {
		x *= a.Assumed.Prior.NewPart
	}
	if slices.Contains(k.WasApart, s.ID) {
		x *= a.Assumed.Prior.WasApart
	} else if s.Kind == circuit.Joint {
		for _, id := range k.WasApart {
			if o := a.C.Station(id); o.From != "" && (o.From == s.From || o.From == s.To || o.To == s.From || o.To == s.To) {
				x *= a.Assumed.Prior.BesideApart
				break
			}
		}
	}
	if r, ok := k.Rates[f.String()]; ok {
		x *= r.Factor
	}
	for _, w := range whens {
		for _, r := range a.Assumed.Circumstances {
			if r.When == w && r.Kind == s.Kind && (r.Mode == "" || r.Mode == f.Mode) {
				x *= r.Factor
			}
		}
	}
	return x
}

// Shifts lists the stations whose priors are moved by what is known of a job,
// the most moved first.
func (a *Reasoner) Shifts(j *Job) []Shift {
	out := []Shift{}
	for i := range a.C.Stations {
		s := &a.C.Stations[i]
		var rate, moved float64
		for mode, r := range s.Faults {
			rate += r
			moved += r * a.rateFactor(&j.Known, j.When, fault.Fault{Station: s.ID, Mode: mode})
		}
		if rate == 0 || math.Abs(moved/rate-1) < 0.06 {
			continue
		}
		var why []string
		if slices.Contains(j.Known.NewParts, s.ID) {
			why = append(why, "it is new")
		}
		if slices.Contains(j.Known.WasApart, s.ID) {
			why = append(why, "somebody had it apart")
		}
		n, of := 0, 0
		for mode := range s.Faults {
			if r, ok := j.Known.Rates[fault.Fault{Station: s.ID, Mode: mode}.String()]; ok {
				n, of = n+r.N, max(of, r.Of)
			}
		}
		if of > 0 {
			why = append(why, fmt.Sprintf("here it was this %d times of %d", n, of))
		}
		for _, w := range j.When {
			for _, r := range a.Assumed.Circumstances {
				if _, ok := s.Faults[r.Mode]; r.When == w && r.Kind == s.Kind && (r.Mode == "" || ok) {
					why = append(why, "the complaint comes when "+
						map[string]string{"wet": "wet", "cold": "cold", "hot": "hot", "after_knock": "it was knocked"}[w])
					break
				}
			}
		}
		if len(why) == 0 {
			why = append(why, "it joins a part that was apart")
		}
		out = append(out, Shift{s.ID, math.Round(moved/rate*100) / 100, strings.Join(why, "; ")})
	}
	slices.SortStableFunc(out, func(x, y Shift) int {
		switch {
		case x.Factor > y.Factor:
			return -1
		case x.Factor < y.Factor:
			return 1
		}
		return strings.Compare(x.Station, y.Station)
	})
	return out
}

// Prior returns the log prior of every cell for a job, and a key that names it.
func (a *Reasoner) Prior(j *Job) ([]float64, string) {
	said := a.Understood(j)
	out, key := a.knownPrior(j)
	if len(said) == 0 {
		return out, key
	}
	out = slices.Clone(out)
	a.complaintPrior(out, said)
	for i := range said {
		key += fmt.Sprintf("%s %v %g;", said[i].O.ID, said[i].answers, said[i].Trust)
	}
	return out, key
}

// knownPrior is the prior moved by what is known of the machine.
func (a *Reasoner) knownPrior(j *Job) ([]float64, string) {
	if j.Known.IsZero() && len(j.When) == 0 {
		return a.BasePrior, ""
	}
	key := fmt.Sprintf("%v|%v|%v|%v;", j.Known.NewParts, j.Known.WasApart, j.When, j.Known.Rates)
	factor := make([]float64, len(a.Diags))
	for d := range a.Diags {
		for _, f := range a.Diags[d].Faults {
			factor[d] += math.Log(a.rateFactor(&j.Known, j.When, f))
		}
	}
	out := make([]float64, len(a.Cells))
	for k := range a.Cells {
		out[k] = a.Cells[k].LogPrior + factor[a.Cells[k].Diagnosis]
	}
	// Nothing wrong keeps its share: what is known moves the faults among
	// themselves.
	var n, r []float64
	for k := range out {
		if a.Cells[k].Diagnosis == 0 {
			n = append(n, out[k])
		} else {
			r = append(r, out[k])
		}
	}
	none, rest := gauss.LogSumExp(n), gauss.LogSumExp(r)
	by := math.Log(1-math.Exp(none)) - rest
	for k := range out {
		if a.Cells[k].Diagnosis != 0 {
			out[k] += by
		}
	}
	return out, key
}

// Epoch is a stretch of a job between repairs: its evidence, and what was thought
// likely when it began.
type Epoch struct {
	From  int // evidence index
	Prior []float64
	Key   string
}

// nextEpoch turns the posterior before a repair into the prior after it: what was
// wrong with the repaired station is gone, everything else stays as likely as the
// earlier evidence made it.
func (a *Reasoner) nextEpoch(p *Posterior, r casefile.Repair, key string) Epoch {
	w := make([]float64, len(a.Cells))
	for k, weight := range p.weights {
		c := &a.Cells[k]
		left, touched := a.without(c.Diagnosis, r.Station)
		if !touched {
			w[k] += weight
			continue
		}
		w[k] += weight * a.Assumed.Prior.RepairFails
		w[a.cellFor(left, c, r.Station)] += weight * (1 - a.Assumed.Prior.RepairFails)
	}
	// A little of the first prior keeps what the evidence before had no eye for.
	for k := range a.Cells {
		if len(a.Diags[a.Cells[k].Diagnosis].Faults) == 1 && a.Diags[a.Cells[k].Diagnosis].Faults[0].Station != r.Station {
			w[k] += a.Assumed.Prior.KeptPrior * math.Exp(a.BasePrior[k])
		}
	}
	none, rest := 0.0, 0.0
	for k, x := range w {
		if a.Cells[k].Diagnosis == 0 {
			none += x
		} else {
			rest += x
		}
	}
	fn, fr := 1.0, 1.0
	// A job would not go on without a doubt.
	if most := a.Assumed.Prior.AfterRepair; none/(none+rest) > most && rest > 0 {
		fn, fr = most/none, (1-most)/rest
	}
	out := make([]float64, len(w))
	for k, x := range w {
		f := fr
		if a.Cells[k].Diagnosis == 0 {
			f = fn
		}
		out[k] = math.Log(math.Max(x*f, 1e-30))
	}
	return Epoch{From: r.After, Prior: out, Key: fmt.Sprintf("%sR%s@%d;", key, r.Station, r.After)}
}

// without returns the diagnosis that is left when a station is put right.
func (a *Reasoner) without(d int, station string) (left int, touched bool) {
	fs := a.Diags[d].Faults
	var keep []fault.Fault
	for _, f := range fs {
		if f.Station != station {
			keep = append(keep, f)
		}
	}
	if len(keep) == len(fs) {
		return d, false
	}
	if len(keep) == 0 {
		return 0, true
	}
	for i := range a.Diags {
		if len(a.Diags[i].Faults) == 1 && a.Diags[i].Faults[0] == keep[0] {
			return i, true
		}
	}
	return 0, true
}

// cellFor finds the cell of a diagnosis nearest to what another cell says of the
// fault they share.
func (a *Reasoner) cellFor(d int, c *cells.Cell, gone string) int {
	sev := 0.0
	for i, f := range a.Diags[c.Diagnosis].Faults {
		if f.Station != gone {
			sev = c.Severity[i]
		}
	}
	best, bd := a.Diags[d].Cells[0], math.Inf(1)
	for _, k := range a.Diags[d].Cells {
		x := math.Abs(math.Log((a.Cells[k].Severity[0] + 1e-9) / (sev + 1e-9)))
		if a.Cells[k].Charged != c.Charged {
			x += 10
		}
		if x < bd {
			best, bd = k, x
		}
	}
	return best
}
