package diagnose

import (
	"context"
	"math/rand/v2"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose/assume"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/choice"
	"corriente/core/diagnose/explain"
	"corriente/core/diagnose/picture"
	"corriente/core/diagnose/proof"
	"corriente/core/diagnose/words"
)

// What callers hold in their hands, by the room that makes it.
type (
	Job        = belief.Job
	Shift      = belief.Shift
	Suggestion = choice.Suggestion
	Hypothesis = choice.Hypothesis
	Prediction = choice.Prediction
	Result     = explain.Result
	Verdict    = explain.Verdict
	Ranked     = explain.Ranked
	Inner      = explain.Inner
	Picture    = picture.Picture
	Preview    = picture.Preview
	Rival      = picture.Rival
	Check      = proof.Check
	Truth      = words.Truth
)

// Version names the reasoning, and is stored with every verdict it gives; Format names the
// result's format.
const (
	Version = explain.Version
	Format  = explain.Format
)

// Verdict statuses.
const (
	Isolated      = explain.Isolated
	FaultFound    = explain.FaultFound
	NothingWrong  = explain.NothingWrong
	Undecided     = explain.Undecided
	Contradiction = explain.Contradiction
)

// Sure is the probability at which a verdict stands.
const Sure = belief.Sure

// JobOf takes what a case file says.
func JobOf(c *casefile.Case) *Job { return belief.JobOf(c) }

// Tells says how much a reading tells, in words: bits are for those who compute.
func Tells(bits float64) string { return choice.Tells(bits) }

// Inside lists what can be found inside the motor, the most telling about the fault first.
func Inside(c *circuit.Circuit, ds []Ranked, evidence []casefile.Evidence) []Inner {
	return explain.Inside(c, ds, evidence)
}

// InsideShare is how likely the fault is to be found by taking the motor apart, from 0 to 1.
func InsideShare(c *circuit.Circuit, ds []Ranked) float64 { return explain.InsideShare(c, ds) }

// Adviser reasons about one circuit with fixed parameters. It is safe for concurrent use; what it
// computes once per state is kept.
type Adviser struct{ *belief.Reasoner }

// NewAdviser prepares the reasoning for a circuit. It refuses circuits of more than 255 nodes.
func NewAdviser(c *circuit.Circuit) (*Adviser, error) {
	r, err := belief.New(c)
	if err != nil {
		return nil, err
	}
	return &Adviser{r}, nil
}

// NewAdviserWith is [NewAdviser] with other assumptions: how far a verdict hangs on them.
func NewAdviserWith(c *circuit.Circuit, t *assume.Table) (*Adviser, error) {
	r, err := belief.NewWith(c, t)
	if err != nil {
		return nil, err
	}
	return &Adviser{r}, nil
}

// Weigh reasons about a job: what its evidence amounts to, and what to do next. It changes
// nothing and may be called concurrently.
func (a *Adviser) Weigh(ctx context.Context, j *Job) (*Opinion, error) {
	return wrap(explain.Weigh(ctx, a.Reasoner, j))
}

// Glance is [Adviser.Weigh] without the next reading: enough for the picture, the suspects and the
// verdict.
func (a *Adviser) Glance(ctx context.Context, j *Job) (*Opinion, error) {
	return wrap(explain.Glance(ctx, a.Reasoner, j))
}

// Candidates lists every reading and every check that the circuit offers.
func (a *Adviser) Candidates() []casefile.Evidence { return choice.Candidates(a.Reasoner) }

// Spent is what the evidence of a job has cost by the circuit's own figures, minutes.
func (a *Adviser) Spent(j *Job) float64 { return choice.Spent(a.Reasoner, j) }

// Minutes is what a reading costs after the evidence of a job so far: access that is open and the
// state that is held are paid for.
func (a *Adviser) Minutes(j *Job, e *casefile.Evidence) (minutes float64, people int) {
	return choice.Minutes(a.Reasoner, j, e)
}

// Price is what a reading costs by itself, minutes, with nothing open yet.
func (a *Adviser) Price(e casefile.Evidence) float64 { return choice.Price(a.Reasoner, e) }

// Hypotheses lists nothing wrong and every single fault with its prior.
func (a *Adviser) Hypotheses() []Hypothesis { return choice.Hypotheses(a.Space) }

// Predictions says what each of [Adviser.Hypotheses] predicts of a reading, in their order.
func (a *Adviser) Predictions(e casefile.Evidence) []Prediction {
	return choice.Predictions(a.Reasoner, e)
}

// Answer lets somebody look at a machine whose truth is known: an answer drawn from the chances
// that the reasoning uses. codes is the controller's table of blink codes, nil without one.
func (a *Adviser) Answer(truth Truth, observe, state string, codes map[int][]string, rng *rand.Rand) string {
	return words.Answer(a.Space, truth, words.Asked{Observe: observe, State: state, Codes: codes}, rng)
}

// Opinion is what the evidence of a job amounts to. It can still be asked for pictures, for what
// proves a repair, and for what to do next.
type Opinion struct{ *explain.Opinion }

func wrap(op *explain.Opinion, err error) (*Opinion, error) {
	if err != nil {
		return nil, err
	}
	return &Opinion{op}, nil
}

// For returns the opinion for a job that says the same, word for word and in the same order, though
// its evidence may have other ids and times.
func (op *Opinion) For(j *Job) *Opinion { return &Opinion{op.Opinion.For(j)} }

// Think returns the opinion with what to do next. The receiver stays as it is.
func (op *Opinion) Think(ctx context.Context) (*Opinion, error) { return wrap(op.Opinion.Think(ctx)) }

// Picture draws one state's current path from the surviving diagnoses.
func (op *Opinion) Picture(state string) (*Picture, error) { return picture.Draw(op.Opinion, state) }

// Rivals lists the n likeliest explanations and, together, all others.
func (op *Opinion) Rivals(n int) []Rival { return picture.Rivals(op.Opinion, n) }

// Preview says how a checked reading that is being typed would be understood.
func (op *Opinion) Preview(e *casefile.Evidence) Preview { return picture.Interpret(op.Opinion, e) }

// Proof names the few checks that would show the work on the stations to be good; after is the
// evidence since.
func (op *Opinion) Proof(stations []string, after []casefile.Evidence) []Check {
	return proof.Checks(op.Opinion, stations, after)
}

// Accused is how much one piece of evidence, counted from 0, accused the stations, bits.
func (op *Opinion) Accused(i int, stations ...string) float64 {
	return proof.Accused(op.Opinion, i, stations...)
}
