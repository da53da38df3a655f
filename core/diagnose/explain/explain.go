package explain

import (
	"context"
	"fmt"
	"math"
	"sort"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/gauss"
	"corriente/core/diagnose/readings"
	"corriente/core/phrase"
	"corriente/core/unit"
)

// Weighed is one piece of evidence explained.
type Weighed struct {
	Index          int                `json:"index"` // 1-based
	Reading        *float64           `json:"reading,omitempty"`
	Over           bool               `json:"over,omitempty"`
	Low            *float64           `json:"low,omitempty"`
	High           *float64           `json:"high,omitempty"`
	Outcome        string             `json:"outcome,omitempty"`
	ExpectedIfGood *readings.Range    `json:"expected_if_good,omitempty"`
	OpenIfGood     bool               `json:"open_if_good,omitempty"` // a good circuit shows OL here
	Bits           map[string]float64 `json:"bits"`
	Says           string             `json:"says"`
}

// account says what each piece of a job's evidence was worth, and warns of what is doubtful about it.
type account struct {
	a    *belief.Reasoner
	j    *belief.Job
	eps  []belief.Epoch
	full *belief.Posterior // of all the evidence
	good *belief.GoodCircuit
	seen map[string]int // first piece of evidence that asked the same

	warnings []readings.Warning
}

// explain says for each piece of evidence what it was worth.
func explain(ctx context.Context, a *belief.Reasoner, j *belief.Job, eps []belief.Epoch,
	full *belief.Posterior) (*account, []Weighed, error) {
	x := &account{a: a, j: j, eps: eps, full: full, good: a.GoodCircuit(full), seen: map[string]int{}}
	out, err := x.all(ctx)
	return x, out, err
}

// all goes through the evidence in its order: each piece by what the posterior was before and after it.
func (x *account) all(ctx context.Context) ([]Weighed, error) {
	a, j := x.a, x.j
	out := []Weighed{}
	ep := 0
	prev, err := a.Step(ctx, belief.EvidenceSet{}, &x.eps[0])
	if err != nil {
		return nil, err
	}
	for i := range j.Evidence {
		e := &j.Evidence[i]
		w := Weighed{Index: i + 1, Bits: map[string]float64{}}
		for ep+1 < len(x.eps) && x.eps[ep+1].From <= i {
			ep++
			if prev, err = a.Step(ctx, belief.EvidenceSet{}, &x.eps[ep]); err != nil {
				return nil, err
			}
		}
		if e.Struck {
			w.Says = "struck out"
			out = append(out, w)
			continue
		}
		if e.Observe != "" {
			w.Outcome = e.Outcome
		} else {
			x.reading(&w, e)
		}
		if old := len(j.Evidence) - stepped; i < old {
			// What can be said without weighing anew.
			if w.Says = w.toGood(); w.Says == "" {
				w.Says = "weighed with the others"
			}
			x.warn(&w, e, 1)
			out = append(out, w)
			if i == old-1 {
				if prev, err = a.Step(ctx, a.Collect(j, x.eps[ep].From, i+1), &x.eps[ep]); err != nil {
					return nil, err
				}
			}
			continue
		}
		now := &belief.Step{A: a, Diag: x.full.Diag}
		if i < len(j.Evidence)-1 {
			if now, err = a.Step(ctx, a.Collect(j, x.eps[ep].From, i+1), &x.eps[ep]); err != nil {
				return nil, err
			}
		}
		top := x.bits(&w, prev, now)
		w.Says = says(a, &w, prev, now)
		x.warn(&w, e, top)
		out = append(out, w)
		prev = now
	}
	return out, nil
}

// bits notes by how much each diagnosis that matters became likelier, in bits, and returns the most of them.
func (x *account) bits(w *Weighed, prev, now *belief.Step) (top float64) {
	for d := range now.Diag {
		if now.Diag[d] < 0.02 && prev.Diag[d] < 0.02 && x.full.Diag[d] < 0.02 {
			continue
		}
		b := math.Log2(math.Max(now.Diag[d], 1e-9) / math.Max(prev.Diag[d], 1e-9))
		key := "none"
		if fs := x.a.Diags[d].Faults; len(fs) > 0 {
			names := make([]string, len(fs))
			for k, f := range fs {
				names[k] = f.String()
			}
			key = strings.Join(names, "+")
		}
		w.Bits[key] = math.Round(b*100) / 100
		top = math.Max(top, math.Abs(b))
	}
	return top
}

// stepped is how many of the latest pieces of evidence are explained by what each changed:
// that takes a weighing each. Of older ones it is said how they lie to a good circuit.
const stepped = 60

// toGood says how a reading lies to what a good circuit shows, "" of a word.
func (w *Weighed) toGood() string {
	switch {
	case w.Outcome != "":
	case w.Over && w.OpenIfGood:
		return "open, as in a good circuit"
	case w.OpenIfGood:
		return "a path where a good circuit has none"
	case w.Over:
		return "open line where a good circuit has a path"
	case w.ExpectedIfGood != nil && w.Low != nil:
		switch {
		case *w.High < w.ExpectedIfGood.Low:
			return "lower than a good circuit shows"
		case *w.Low > w.ExpectedIfGood.High:
			return "higher than a good circuit shows"
		}
		return "within what a good circuit shows"
	}
	return ""
}

// reading notes what a meter showed with its limits, and what a good circuit shows there.
func (x *account) reading(w *Weighed, e *casefile.Evidence) {
	a, j := x.a, x.j
	r := readings.Prepare(a.Space, e, casefile.MeterFor(e, j.Instruments), 0)
	w.Over = r.Over
	if !r.Over {
		v, lim := r.Value, r.Acc.Limit(r.Value)+2*r.Leads
		lo, hi := v-lim, v+lim
		if e.Measure == unit.Resistance {
			lo = math.Max(lo, 0)
		}
		w.Reading, w.Low, w.High = new(gauss.Significant(v)), new(gauss.Significant(lo)), new(gauss.Significant(hi))
	}
	m, sd, open := x.good.Expect(&r)
	if open {
		w.OpenIfGood = true
		return
	}
	w.ExpectedIfGood = new(readings.Possible(a.Space, e.Measure, m-1.645*sd, m+1.645*sd, readings.Direction(e.Measure, m)))
}

func says(a *belief.Reasoner, w *Weighed, prev, now *belief.Step) string {
	ps, pn := prev.Stations()
	ns, nn := now.Stations()
	var cleared, raised []string
	for k := range a.C.Stations {
		id := a.C.Stations[k].ID
		if ps[id] > 0.02 && ns[id] < ps[id]*0.25 {
			cleared = append(cleared, id)
		}
		if ns[id] > 0.05 && ns[id] > ps[id]*1.7 {
			raised = append(raised, id)
		}
	}
	sort.SliceStable(cleared, func(i, j int) bool { return ps[cleared[i]] > ps[cleared[j]] })
	sort.SliceStable(raised, func(i, j int) bool { return ns[raised[i]] > ns[raised[j]] })
	names := func(ids []string) string {
		if len(ids) > 3 {
			ids = ids[:3]
		}
		out := make([]string, len(ids))
		for i, id := range ids {
			out[i] = phrase.Lower(a.C.Station(id).Label)
		}
		return strings.Join(out, ", ")
	}
	if w.Outcome == circuit.NotSure {
		return "nobody could say: not counted"
	}
	head := w.toGood()
	tail := ""
	switch {
	case len(raised) > 0 && len(cleared) > 0:
		tail = "points to " + names(raised) + "; clears " + names(cleared)
	case len(raised) > 0:
		tail = "points to " + names(raised)
	case len(cleared) > 0:
		tail = "clears " + names(cleared)
	case nn > pn*1.3 && nn > 0.05:
		tail = "fits a good circuit"
	default:
		tail = "changes little"
	}
	if head == "" {
		return tail
	}
	return head + ": " + tail
}

// warn says what is doubtful about a piece of evidence; topBits is the most that it moved any diagnosis.
func (x *account) warn(w *Weighed, e *casefile.Evidence, topBits float64) {
	add := func(code, format string, args ...any) {
		x.warnings = append(x.warnings, readings.Warning{Index: w.Index, Code: code, Says: fmt.Sprintf(format, args...)})
	}
	key := strings.Join([]string{string(e.Measure), e.Observe, e.State, e.From, e.To, e.Through, e.Instrument, e.Condition, e.Symptom}, "|")
	if first, ok := x.seen[key]; ok {
		add("repeat", "the same as %d again: what the two share is counted once", first)
	} else {
		x.seen[key] = w.Index
	}
	if e.Observe != "" {
		return
	}
	acc := casefile.MeterFor(e, x.j.Instruments).For(e.Measure)
	if e.Measure == unit.Resistance && !e.Reading.Over {
		if acc.CannotTell(e.Reading.Value) {
			add("below_meter_resolution", "%s is under three counts of this meter (%s each): it cannot tell a good "+
				"part from a short or a joint from a cable; volts under load or a four-wire test can",
				unit.Format(e.Reading.Value, unit.Resistance), unit.Format(acc.Count(e.Reading.Value), unit.Resistance))
			if e.Reading.Value == 0 && w.OpenIfGood {
				add("zero_or_ol", "did the display show 0 or OL? Here a good circuit shows OL")
			}
		}
	}
	if e.Measure == unit.Voltage && topBits < 0.1 {
		add("decides_nothing", "%s", whyNothing(x.a, e))
	}
}

// whyNothing says why a voltage told nothing: mostly that no current flows.
func whyNothing(a *belief.Reasoner, e *casefile.Evidence) string {
	st := a.Net.StatePos(e.State)
	if sup := a.C.States[st].Supply; sup != "battery" && sup != "feed" {
		return "every diagnosis still in play expects this reading"
	}
	w := a.Net.NewWork()
	w.Solve(st, a.Theta, a.Net.SoundAll())
	most := 0.0
	for _, id := range a.Between(e.State, e.From, e.To) {
		most = math.Max(most, math.Abs(w.I[a.C.StationIndex(id)]))
	}
	if most < 0.01*math.Max(a.Model.Normal[max(a.Net.MotorStation(), 0)], 1) {
		return "no current flows there in this state, so these volts prove nothing: even a single strand shows them"
	}
	return "every diagnosis still in play expects this reading"
}
