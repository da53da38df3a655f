package belief

import (
	"context"
	"fmt"
	"math"
	"sync"

	"corriente/core/circuit"
	"corriente/core/diagnose/assume"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/words"
)

// Reasoner reasons about one circuit with fixed parameters. It is safe for concurrent use.
type Reasoner struct {
	*cells.Space

	stepsMu    sync.Mutex
	steps      map[string][]float64
	firsts     map[string][]float32 // first scores by prior and evidence
	firstOrder []string             // their keys, oldest first

	wordsMu sync.Mutex
	words   map[wordKey]*wordBank
}

// wordBank holds, for an observation in a state, the logarithm of each answer's
// chance under every cell at nominal values, built at first use.
type wordBank struct {
	once sync.Once
	logp []float32 // cells × outcomes
}

type wordKey struct {
	obs   string
	state int
}

// wordsOf returns the word bank of an observation, for jobs without a table of
// blink codes.
func (a *Reasoner) wordsOf(o *circuit.Observation, state int) []float32 {
	k := wordKey{o.ID, state}
	a.wordsMu.Lock()
	b := a.words[k]
	if b == nil {
		b = &wordBank{}
		a.words[k] = b
	}
	a.wordsMu.Unlock()
	b.once.Do(func() {
		n := len(o.Outcomes)
		logp := make([]float32, len(a.Cells)*n)
		cells.Share(len(a.Cells), func(from, step int) {
			s := a.NewSolver()
			for i := from; i < len(a.Cells); i += step {
				c := &a.Cells[i]
				x := words.Observed{Space: a.Space, Look: o, Cell: c, Faults: a.Diags[c.Diagnosis].Faults,
					Severity: c.Severity, SolvedIn: func(st int) *cells.Solved { return a.Bank(st).At(s, i) }}
				for m, p := range x.Outcomes(state) {
					logp[i*n+m] = float32(math.Log(p))
				}
			}
		})
		b.logp = logp
	})
	return b.logp
}

// New prepares the reasoning for a circuit.
func New(c *circuit.Circuit) (*Reasoner, error) {
	t, err := assume.Standard()
	if err != nil {
		return nil, err
	}
	return NewWith(c, t)
}

// NewWith is [NewAdviser] with other assumptions: how far a verdict hangs on them.
func NewWith(c *circuit.Circuit, t *assume.Table) (*Reasoner, error) {
	s, err := cells.New(c, t)
	if err != nil {
		return nil, err
	}
	return &Reasoner{Space: s, steps: map[string][]float64{}, firsts: map[string][]float32{}, words: map[wordKey]*wordBank{}}, nil
}

// Refined is how many cells are linearised again where the evidence has moved
// them. The steps of the explanation use the same number, so that a job weighed
// as it grows and a case weighed at once say the same.
const Refined = 40

// Epochs cuts a job at its repairs.
func (a *Reasoner) Epochs(ctx context.Context, j *Job) ([]Epoch, error) {
	prior, key := a.Prior(j)
	out := []Epoch{{0, prior, key}}
	for _, r := range j.Repairs {
		last := &out[len(out)-1]
		es := a.Collect(j, last.From, min(r.After, len(j.Evidence)))
		p, err := a.Weigh(ctx, es, last.Prior, last.Key, Refined)
		if err != nil {
			return nil, err
		}
		// What is likely after a repair follows from the evidence before it.
		out = append(out, a.nextEpoch(p, r, last.Key+fmt.Sprint(last.From, ";")+StepKey(&es)))
	}
	return out, nil
}

// Step is the posterior over diagnoses after the first readings of a job.
type Step struct {
	A    *Reasoner
	Diag []float64
}

// Stations returns the marginal probability of each station, and of nothing wrong.
func (s *Step) Stations() (map[string]float64, float64) {
	return (&Posterior{a: s.A, Diag: s.Diag}).Stations()
}

// maxSteps bounds how many steps an adviser remembers.
const maxSteps = 2000

// Step weighs the first readings of a job. A job grows by one reading at a
// time, so all but the last step were computed before and are remembered.
func (a *Reasoner) Step(ctx context.Context, es EvidenceSet, ep *Epoch) (*Step, error) {
	k := ep.Key + StepKey(&es)
	a.stepsMu.Lock()
	d, ok := a.steps[k]
	a.stepsMu.Unlock()
	if !ok {
		p, err := a.Weigh(ctx, es, ep.Prior, ep.Key, Refined)
		if err != nil {
			return nil, err
		}
		d = p.Diag
		a.Remember(k, d)
	}
	return &Step{A: a, Diag: d}, nil
}

// Remember keeps the posterior of a step, for the next reading's explanation.
func (a *Reasoner) Remember(key string, diag []float64) {
	a.stepsMu.Lock()
	defer a.stepsMu.Unlock()
	if len(a.steps) >= maxSteps {
		clear(a.steps)
	}
	a.steps[key] = diag
}
