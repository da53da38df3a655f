package explain

import (
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"sort"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/gauss"
	"corriente/core/fault"
	"corriente/core/phrase"
	"corriente/core/unit"
)

// Verdict statuses.
const (
	Isolated      = "isolated"      // one station holds at least 0.95
	FaultFound    = "fault_found"   // nothing wrong is below 0.05, the station still open
	NothingWrong  = "nothing_wrong" // nothing wrong holds at least 0.95
	Undecided     = "undecided"
	Contradiction = "contradiction" // nothing explains the readings
)

// Verdict is what the evidence amounts to.
type Verdict struct {
	Status            string   `json:"status"`
	Station           *string  `json:"station"`
	Probability       float64  `json:"probability"`
	Faults            []string `json:"faults"`
	FaultsProbability float64  `json:"faults_probability"`
	Also              []string `json:"also"`
	Says              string   `json:"says"`
	Plain             string   `json:"plain"` // the same without a figure, for papers: what is reckoned is not printed as if it were read
	Overturn          string   `json:"overturn,omitempty"`
	Then              string   `json:"then,omitempty"`   // what is done next, where the part is not the end of it
	Clash             []int    `json:"clash,omitempty"`  // evidence that does not fit, 1-based
	Slip              string   `json:"slip,omitempty"`   // the slip that would resolve a contradiction
	Repair            string   `json:"repair,omitempty"` // the one repair that every likely diagnosis leads to
}

// oneRepair names the one repair that cures every diagnosis that is still likely,
// "" where there is none.
func oneRepair(a *belief.Reasoner, p *belief.Posterior) string {
	by := map[string]float64{}
	for d, w := range p.Diag {
		var labels []string
		for i, f := range a.Diags[d].Faults {
			s := a.C.Station(f.Station)
			var mine []string
			for _, act := range []*circuit.Action{s.Replace, s.Repair} {
				if act != nil && slices.Contains(act.Cures, f.Mode) && !slices.Contains(mine, act.Label) {
					mine = append(mine, act.Label)
				}
			}
			if i == 0 {
				labels = mine
			} else {
				labels = slices.DeleteFunc(labels, func(l string) bool { return !slices.Contains(mine, l) })
			}
		}
		for _, l := range labels {
			by[l] += w
		}
	}
	best, most := "", 0.0
	for _, l := range slices.Sorted(maps.Keys(by)) { // of two that cure the same, always the same one
		if by[l] >= belief.Sure && by[l] > most+1e-9 {
			best, most = l, by[l]
		}
	}
	return best
}

// verdict is what a posterior amounts to.
func verdict(a *belief.Reasoner, p *belief.Posterior, j *belief.Job) Verdict {
	if p.Outlier > a.Assumed.Slip.Contradiction {
		return contradiction(a, p)
	}
	st, none := p.Stations()
	v := Verdict{Status: Undecided, Faults: []string{}, Also: []string{}}
	top := 0
	for d := range p.Diag {
		if p.Diag[d] > p.Diag[top] {
			top = d
		}
	}
	best := likeliest(a, st)
	one := p.Within(best)
	for _, f := range a.Diags[top].Faults {
		v.Faults = append(v.Faults, f.String())
	}
	v.FaultsProbability = gauss.Round(p.Diag[top])
	names := func() {
		v.Station, v.Probability = &best, gauss.Round(one)
		for id, w := range st {
			if id != best && w >= 0.5 {
				v.Also = append(v.Also, id)
			}
		}
		slices.Sort(v.Also)
	}
	nothing := func() { v.Probability, v.Faults = gauss.Round(none), []string{} }
	switch {
	case none >= belief.Sure && shown(j):
		v.Status = NothingWrong
		nothing()
		v.Says = "Nothing wrong here: every reading is what a good circuit shows."
	case none >= belief.Sure:
		nothing()
		v.FaultsProbability = gauss.Round(none)
		v.Says = "Nothing wrong was read, but the fault was away: read again while it shows."
	case one >= belief.Sure:
		v.Status = Isolated
		names()
		v.Says = sentence(a, p, v, best, top)
	case none < 1-belief.Sure:
		v.Status = FaultFound
		names()
		v.Says = "Something is wrong; the likeliest place is the " + phrase.Lower(a.C.Station(best).Label) + ", not yet sure."
	case st[best] > none:
		names()
		v.Says = "Not decided yet."
	default:
		nothing()
		v.Says = "Not decided yet."
	}
	if v.Status == Isolated || v.Status == NothingWrong {
		v.Overturn = overturn(a, p, top)
	}
	return v
}

// contradiction is the verdict where nothing explains the readings.
func contradiction(a *belief.Reasoner, p *belief.Posterior) Verdict {
	v := Verdict{Status: Contradiction, Faults: []string{}, Also: []string{}}
	worst := -1
	for i, b := range p.Blame {
		if b > a.Assumed.Slip.Blamed {
			v.Clash = append(v.Clash, i+1)
		}
		if worst < 0 || b > p.Blame[worst] {
			worst = i
		}
	}
	v.Says = fmt.Sprintf("These readings cannot all be true of one circuit. Reading %d fits the others least: take "+
		"it again, and check range, leads and state.", worst+1)
	if guessed(a) {
		v.Says = fmt.Sprintf("These readings do not fit one circuit with the usual values. "+
			"Enter this vehicle's own values if you have them; else take reading %d again, which fits the others least.", worst+1)
	}
	return v
}

// likeliest is the part most likely at fault. Of two that stand alike, the cause comes before the
// fuse it blew.
func likeliest(a *belief.Reasoner, st map[string]float64) string {
	fuse := func(id string) bool { return a.C.Station(id).Kind == circuit.Fuse }
	best := ""
	for _, id := range slices.Sorted(maps.Keys(st)) {
		w, most := st[id], st[best]
		near := math.Abs(w-most) < 0.02
		if best == "" || !near && w > most || near && (fuse(best) && !fuse(id) || fuse(best) == fuse(id) && w > most) {
			best = id
		}
	}
	return best
}

// shown reports whether the fault was there in some evidence, where it comes and goes.
func shown(j *belief.Job) bool {
	return !j.Intermittent || slices.ContainsFunc(j.Evidence, func(e casefile.Evidence) bool { return e.Symptom == "present" && !e.Struck })
}

// figures are what a verdict's sentence says of how bad a fault is, and what it costs.
var figures = regexp.MustCompile(`, about [^,]*? too many( \([^)]*\))?`)

// plain says the verdict without a figure.
func (v *Verdict) plain() {
	v.Plain = figures.ReplaceAllString(v.Says, "")
	if v.Status == Contradiction {
		v.Plain = "The readings do not agree with each other yet: they are taken again."
	}
}

// then says what comes next where the part is not the end of it.
func then(a *belief.Reasoner, v *Verdict) {
	if v.Status == Isolated && a.C.Station(*v.Station).Kind == circuit.Fuse && slices.Contains(v.Faults, *v.Station+".open") {
		v.Then = "A fuse blows for a reason. Find it before a new one goes in: turn the motor by hand, ohms to " +
			"ground behind the fuse, then amperes at work."
	}
}

// guessed reports whether any nominal value is still a family default.
func guessed(a *belief.Reasoner) bool {
	for _, s := range a.Scale {
		if s > 0.15 {
			return true
		}
	}
	return false
}

// sentence says a verdict as one would to a customer.
func sentence(a *belief.Reasoner, p *belief.Posterior, v Verdict, station string, top int) string {
	s := a.C.Station(station)
	where := "The " + phrase.Lower(s.Label) + " is at fault"
	fs := a.Diags[top].Faults
	if len(fs) == 0 || v.FaultsProbability < 0.5 {
		modes := map[string]float64{}
		for d, w := range p.Diag {
			for _, f := range a.Diags[d].Faults {
				if f.Station == station {
					modes[f.Mode] += w
				}
			}
		}
		var names []string
		for m, w := range modes {
			if w > 0.1 {
				names = append(names, m)
			}
		}
		sort.Slice(names, func(i, j int) bool { return modes[names[i]] > modes[names[j]] })
		for i, m := range names {
			names[i] = fault.Label(m)
		}
		if len(names) > 1 {
			return where + "; whether " + strings.Join(names, " or ") + " is still open, and the same part comes off either way."
		}
		return where + "."
	}
	out := where + ": "
	for i, f := range fs {
		if i > 0 {
			out = "Two things are wrong: the " + phrase.Lower(a.C.Station(fs[0].Station).Label) + " (" +
				fault.Label(fs[0].Mode) + ") and the " +
				phrase.Lower(a.C.Station(f.Station).Label) + " (" + fault.Label(f.Mode) + ")"
			break
		}
		out += fault.Label(f.Mode)
		if sc := a.Model.ScaleOf(f); sc != nil && sc.Unit == "ohm" && f.Mode == "high_resistance" {
			if e, ok := p.Severity(top, 0); ok {
				k := a.C.StationIndex(f.Station)
				out += fmt.Sprintf(", about %s too many", unit.Format(e.Estimate, unit.Resistance))
				// What it costs, at the current that flows in the run state.
				for i := range p.Cells {
					if a.Cells[p.Cells[i].Cell].Diagnosis == top {
						sv := a.NewSolver()
						var l cells.Solved
						c := &p.Cells[i]
						sv.Solve(&l, a.Run, c.At(a.Space))
						amps := math.Abs(float64(l.I[k]))
						if amps > 1 {
							out += fmt.Sprintf(" (%.1f V and %.0f W lost in it at %s)", amps*e.Estimate,
								amps*amps*e.Estimate, unit.Format(amps, unit.Current))
						}
						break
					}
				}
			}
		}
	}
	return out + "."
}

// overturn names the best rival: what would have to be true instead.
func overturn(a *belief.Reasoner, p *belief.Posterior, top int) string {
	best, bw := -1, 0.0
	for d, w := range p.Diag {
		if a.Diags[d].Class != a.Diags[top].Class && w > bw && !contains(a.Diags[d].Faults, a.Diags[top].Faults) {
			best, bw = d, w
		}
	}
	if best < 0 || bw < 0.002 {
		return "Only a mistaken reading would overturn this."
	}
	says := fmt.Sprintf("Not ruled out: %s (%.1f %%)", phrase.Lower(a.Label(a.Diags[best].Faults)), 100*bw)
	if part := inside(a, a.Diags[best].Faults, a.Diags[top].Faults); part != "" {
		return says + "; it sits inside the " + part + ", which comes off either way."
	}
	return says + "."
}

// inside names the part at fault that a rival's part is built into, "" where it is built into none of them.
func inside(a *belief.Reasoner, rival, named []fault.Fault) string {
	for _, r := range rival {
		for _, n := range named {
			if a.C.Station(r.Station).Within == n.Station {
				return phrase.Lower(a.C.Station(n.Station).Label)
			}
		}
	}
	return ""
}

func contains(fs, part []fault.Fault) bool {
	if len(part) == 0 {
		return false
	}
	for _, f := range part {
		if !slices.Contains(fs, f) {
			return false
		}
	}
	return true
}
