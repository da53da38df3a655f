package belief

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/readings"
)

// StepKey names an evidence set by all that its weight depends on.
func StepKey(es *EvidenceSet) string { return strings.Join(es.keys(), "") }

// keys name the pieces of an evidence set, in canonical order, by all that their weight
// depends on.
func (es *EvidenceSet) keys() []string {
	out := make([]string, 0, len(es.Num)+len(es.words)+1)
	for i := range es.Num {
		r := &es.Num[i]
		out = append(out, fmt.Sprintf("%s=%g,%v,%v,%g,%g,%g,%g;", r.Group, r.Value, r.Over, r.When, r.Floor, r.Slope, r.Leads, r.Charged))
	}
	for i := range es.words {
		w := &es.words[i]
		out = append(out, fmt.Sprintf("%s@%d=%d,%s,%v,%g;", w.obs.ID, w.state, w.outcome, w.through, w.when, w.doubt))
	}
	if es.codes != nil {
		out = append(out, fmt.Sprint(es.codes, es.trust)) // maps print in the order of their keys
	}
	if len(es.given) > 0 {
		out = append(out, fmt.Sprint("given", es.given))
	}
	return out
}

// word is one observation made ready for scoring.
type word struct {
	index   int
	obs     *circuit.Observation
	state   int
	outcome int
	when    readings.Presence
	through string    // the station that was swapped
	doubt   float64   // the chance that it is wrong besides what looks are
	bank    []float32 // see wordsOf; nil for what is worked out each time
}

// EvidenceSet is the evidence of a job in scoring form, in canonical order, so
// that the order in which it was taken changes nothing.
type EvidenceSet struct {
	given []int // uncertain values that were given
	Num   []readings.Reading
	words []word
	codes map[int][]string
	trust float64
}

// comesWith says of which evidence a fault may have come or gone with the condition it
// was taken under: what was answered in another way under another condition, and all
// that was taken under a condition which changed an answer. Hot and cold, or still and
// wiggled, may differ without contradicting each other.
func (a *Reasoner) comesWith(j *Job, from, upto int) func(i int) bool {
	if !slices.ContainsFunc(j.Evidence[from:upto], func(e casefile.Evidence) bool { return e.Condition != "" && !e.Struck }) {
		return func(int) bool { return false }
	}
	type taken struct {
		index int
		r     readings.Reading
	}
	asked := map[string][]taken{}
	for i := from; i < upto; i++ {
		e := &j.Evidence[i]
		if e.Struck || e.Outcome == circuit.NotSure {
			continue
		}
		t := taken{index: i}
		if e.Observe == "" {
			t.r = readings.Prepare(a.Space, e, casefile.MeterFor(e, j.Instruments), i)
		}
		question := strings.Join([]string{string(e.Measure), e.Observe, e.State, e.From, e.To, e.Through}, "|")
		asked[question] = append(asked[question], t)
	}
	pieces, conditions := map[int]bool{}, map[string]bool{}
	for _, ts := range asked {
		for _, x := range ts {
			for _, y := range ts {
				e, f := &j.Evidence[x.index], &j.Evidence[y.index]
				if e.Condition == f.Condition || e.Outcome == f.Outcome && x.r.Over == y.r.Over &&
					math.Abs(x.r.U-y.r.U) < a.Assumed.Reading.OtherAnswer {
					continue
				}
				pieces[x.index], pieces[y.index] = true, true
				conditions[e.Condition], conditions[f.Condition] = true, true
			}
		}
	}
	delete(conditions, "")
	return func(i int) bool { return pieces[i] || conditions[j.Evidence[i].Condition] }
}

// Collect puts the evidence of a job from one index up to another into canonical order, ready for
// weighing, so that the order in which it was taken changes nothing.
func (a *Reasoner) Collect(j *Job, from, upto int) EvidenceSet {
	var es EvidenceSet
	seen := map[string]bool{}
	comes := a.comesWith(j, from, upto)
	held, _ := a.charging(j, from, upto)
	for i := from; i < upto; i++ {
		e := &j.Evidence[i]
		if e.Struck || e.Outcome == circuit.NotSure {
			continue
		}
		at := readings.PresenceOf(e, j.Intermittent || comes(i))
		if e.Observe != "" {
			o := a.C.Observation(e.Observe)
			w := word{index: i, obs: o, state: a.Net.StatePos(e.State), when: at, through: e.Through, doubt: e.Doubt()}
			for k := range o.Outcomes {
				if o.Outcomes[k].ID == e.Outcome {
					w.outcome = k
				}
			}
			// The same word again says nothing new.
			state := e.State
			if o.Model == "rates" {
				state = "" // a look at a plug is the same in every state
			}
			key := fmt.Sprintf("%s|%s|%s|%s|%s|%v", e.Observe, state, e.Through, e.Outcome, e.Condition, at)
			if seen[key] {
				continue
			}
			seen[key] = true
			es.words = append(es.words, w)
			continue
		}
		r := readings.Prepare(a.Space, e, casefile.MeterFor(e, j.Instruments), i)
		r.When, r.Charged = at, held[r.State]
		es.Num = append(es.Num, r)
	}
	sort.SliceStable(es.Num, func(x, y int) bool {
		p, q := &es.Num[x], &es.Num[y]
		if p.Group != q.Group {
			return p.Group < q.Group
		}
		if p.U != q.U {
			return p.U < q.U
		}
		return !p.Over && q.Over
	})
	es.Num = readings.Condense(a.Space, es.Num)
	es.codes, es.trust, es.given = j.Codes, j.Known.CodesTrust, a.givenOf(j)
	sort.SliceStable(es.words, func(x, y int) bool {
		p, q := &es.words[x], &es.words[y]
		return p.key(a) < q.key(a)
	})
	return es
}

// mixed is the chance of a word where the fault may have been away: shown with it,
// good without; shows is the chance that it was there.
func (w *word) mixed(shows, shown, good float64) float64 {
	if w.when == readings.Unknown {
		return math.Max(shows*shown, good)
	}
	return good
}

// doubted is the chance of a word whose teller is not sure of it: any outcome might have been
// meant.
func (w *word) doubted(p float64) float64 {
	return p + w.doubt*(1/float64(len(w.obs.Outcomes))-p)
}

func (w *word) key(a *Reasoner) string {
	return strings.Join([]string{w.obs.ID, a.C.States[w.state].ID, w.through, w.obs.Outcomes[w.outcome].ID}, "|")
}

// comesAndGoes reports whether a fault may be away for a while.
func comesAndGoes(mode string) bool {
	switch mode {
	case "high_resistance", "open", "stuck_open", "sticking", "brushes_worn", "commutator_damaged", "jammed", "binding", "slipping":
		return true
	}
	return false
}
