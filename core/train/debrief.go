package train

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"corriente/core/casefile"
	"corriente/core/diagnose"
	"corriente/core/fault"
	"corriente/core/meter"
	"corriente/core/phrase"
	"corriente/core/policy"
	"corriente/core/unit"
)

// DebriefStep is one move in the debrief.
type DebriefStep struct {
	N       int     `json:"n"`
	What    string  `json:"what"`
	Shown   string  `json:"shown"`
	Minutes float64 `json:"minutes"`
	Bits    float64 `json:"bits"`   // what it told: the divergence of the suspects after it from those before
	Idle    string  `json:"idle"`   // why it could not have decided anything; empty otherwise
	Better  string  `json:"better"` // what the adviser would have done then
	Why     string  `json:"why"`
	Right   float64 `json:"right"` // probability of the true part after it
}

// Debrief sets an attempt beside the truth and the adviser.
type Debrief struct {
	Truth      []string      `json:"truth"`
	RightPart  bool          `json:"right_part"`
	RightFault bool          `json:"right_fault"`
	Steps      []DebriefStep `json:"steps"`
	Overlooked []string      `json:"overlooked"`
	Minutes    float64       `json:"minutes"`
	Money      float64       `json:"money"`
	Adviser    float64       `json:"adviser_minutes"`
	Readings   int           `json:"adviser_readings"`
	Textbook   float64       `json:"textbook_minutes"`
	Best       *Hindsight    `json:"best,omitempty"`   // the shortest way there was, once it was sought
	Sought     bool          `json:"sought,omitempty"` // it was
	Idle       int           `json:"idle"`             // readings that could not have decided anything
	Hints      int           `json:"hints"`
	Score      int           `json:"score"` // 0 to 100
	Says       string        `json:"says"`
	Idea       string        `json:"idea"`
	Danger     *Danger       `json:"danger,omitempty"`
}

// idleBits is under what a reading has told nothing.
const idleBits = 0.02

// Debriefing works an attempt over: the verdict after each move, what the adviser would
// have done, and what it would have needed for the same machine.
func (t *Attempt) Debriefing(ctx context.Context) (*Debrief, error) {
	first, err := Start(t.A, t.Ex)
	if err != nil {
		return nil, err
	}
	d := &Debrief{Steps: []DebriefStep{}, Truth: []string{}, Overlooked: []string{}, Minutes: t.Spent, Money: t.Money,
		Hints: t.Hints, Idea: t.Ex.Idea, Danger: t.Stopped}
	h := hindsight{t: t, d: d, truth: first.Truth(), job: diagnose.Job{Intermittent: t.Ex.Intermittent}}
	for _, f := range h.truth {
		d.Truth = append(d.Truth, t.A.C.Station(f.Station).Label+": "+fault.Label(f.Mode))
	}
	if h.op, err = t.A.Weigh(ctx, &h.job); err != nil {
		return nil, err
	}
	for i := range t.Log {
		s, err := h.step(ctx, &t.Log[i])
		if err != nil {
			return nil, err
		}
		d.Steps = append(d.Steps, s)
	}
	if v := &t.Log[len(t.Log)-1]; v.Kind == "verdict" {
		h.judge(v)
	}
	if d.Adviser, d.Readings, _, err = Auto(ctx, t.A, t.Ex, policy.Adviser); err != nil {
		return nil, err
	}
	if d.Textbook, _, _, err = Auto(ctx, t.A, t.Ex, policy.Textbook); err != nil {
		return nil, err
	}
	d.Score = d.score()
	d.Says = d.say()
	return d, nil
}

// hindsight goes through an attempt once more with the adviser beside it.
type hindsight struct {
	t     *Attempt
	d     *Debrief
	truth []fault.Fault
	job   diagnose.Job
	op    *diagnose.Opinion // of what was known so far
}

// step says what one move told, and what would have been the better one.
func (h *hindsight) step(ctx context.Context, e *Done) (s DebriefStep, err error) {
	t := h.t
	s = DebriefStep{N: e.N, What: e.words(t), Shown: e.Shown, Minutes: e.Minutes}
	if len(h.op.Next) > 0 && (e.Kind == "read" || e.Kind == "look") {
		s.Better, s.Why = Words(t.A.C, &h.op.Next[0]), h.op.Next[0].Because
	}
	switch {
	case e.Kind == "fit":
		h.job.Repairs = append(h.job.Repairs, casefile.Repair{ID: fmt.Sprint("fit", e.N), Station: e.Station, After: len(h.job.Evidence)})
		if h.op, err = t.A.Weigh(ctx, &h.job); err != nil {
			return s, err
		}
	case e.evidence == nil && e.Kind == "read" && e.Danger == nil:
		h.d.Idle++
		s.Idle = e.Says
	}
	if e.evidence != nil {
		was := h.op
		h.job.Evidence = append(h.job.Evidence, *e.evidence)
		if h.op, err = t.A.Weigh(ctx, &h.job); err != nil {
			return s, err
		}
		if s.Bits = divergence(h.op, was); s.Bits < idleBits {
			h.d.Idle++
			s.Idle = h.idle()
		}
	}
	for _, x := range h.op.Stations {
		if slices.ContainsFunc(h.truth, func(f fault.Fault) bool { return f.Station == x.Station }) {
			s.Right = math.Max(s.Right, x.Probability)
		}
	}
	return s, nil
}

// idle says why the latest entry told nothing.
func (h *hindsight) idle() string {
	says := "it told nothing that was not known"
	for _, w := range h.op.Warnings {
		if w.Index == len(h.job.Evidence) {
			says = w.Says
		}
	}
	return says
}

// judge compares the verdict given with the truth, and lists what it did not rule out.
func (h *hindsight) judge(v *Done) {
	d := h.d
	for _, f := range h.truth {
		if f.Station == v.Station {
			d.RightPart = true
			d.RightFault = d.RightFault || f.Mode == v.Fault
		}
	}
	if v.Station == "" && len(h.truth) == 0 {
		d.RightPart, d.RightFault = true, true
	}
	for _, x := range h.op.Stations {
		if x.Station != v.Station && x.Probability > 0.08 && len(d.Overlooked) < 4 {
			d.Overlooked = append(d.Overlooked, fmt.Sprintf("%s, still %.0f %%", h.t.A.C.Station(x.Station).Label, 100*x.Probability))
		}
	}
}

// score is 0 to 100: the right part is most of it, then minutes against the adviser's on the
// same machine, then readings that could not decide, then hints. A dangerous move is
// zero.
func (d *Debrief) score() int {
	if d.Danger != nil {
		return 0
	}
	s := 30.0
	if d.RightPart {
		s = 90
		if d.RightFault {
			s = 100
		}
	}
	if d.Adviser > 0 && d.Minutes > d.Adviser {
		s -= math.Min(30, 12*math.Log2(d.Minutes/d.Adviser))
	}
	s -= math.Min(15, 3*float64(d.Idle)) + math.Min(20, 4*float64(d.Hints))
	if !d.RightPart {
		s = math.Min(s, 30)
	}
	return int(math.Round(math.Max(0, math.Min(100, s))))
}

func (d *Debrief) say() string {
	if d.Danger != nil {
		return "Stopped: " + d.Danger.What
	}
	truth := strings.Join(d.Truth, " and ")
	if truth == "" {
		truth = "nothing"
	}
	var b strings.Builder
	switch {
	case d.RightPart && d.RightFault:
		b.WriteString("Found. ")
	case d.RightPart:
		b.WriteString("The right part; the fault in it was another. ")
	default:
		b.WriteString("Not this time. ")
	}
	fmt.Fprintf(&b, "It was: %s. You took %.0f minutes, the adviser %.0f, the textbook order %.0f.",
		phrase.Lower(truth), d.Minutes, d.Adviser, d.Textbook)
	if d.Idle > 0 {
		fmt.Fprintf(&b, " %d of your readings could not have decided anything.", d.Idle)
	}
	return b.String()
}

// divergence is the Kullback-Leibler divergence of the parts suspected after from those
// before, bits.
func divergence(after, before *diagnose.Opinion) float64 {
	p := map[string]float64{}
	sumB, sumA := 0.0, 0.0
	for _, x := range before.Stations {
		p[x.Station] = math.Max(x.Probability, 1e-6)
		sumB += p[x.Station]
	}
	d := 0.0
	for _, x := range after.Stations {
		sumA += x.Probability
	}
	for _, x := range after.Stations {
		q, r := x.Probability/math.Max(sumA, 1e-9), math.Max(p[x.Station], 1e-6)/math.Max(sumB, 1e-9)
		if q > 0 {
			d += q * math.Log2(q/r)
		}
	}
	// What moves between something and nothing wrong counts too.
	a, b := math.Min(1, sumA), math.Min(1, sumB)
	for _, x := range [2][2]float64{{a, b}, {1 - a, 1 - b}} {
		if x[0] > 1e-9 {
			d += x[0] * math.Log2(x[0]/math.Max(x[1], 1e-6))
		}
	}
	return math.Max(0, d)
}

// words say a move in one line.
func (e *Done) words(t *Attempt) string {
	c := t.A.C
	switch e.Kind {
	case "read":
		n := diagnose.Suggestion{State: e.State, From: e.From, To: e.To, Through: e.Through}
		switch e.Dial {
		case Clamp:
			n.Measure = "current"
		case Ohms:
			n.Measure = "resistance"
		case ACVolts:
			n.Measure = "ac_voltage"
		case Farads:
			n.Measure = "capacitance"
		default:
			n.Measure = "voltage"
		}
		if e.Dial != Clamp {
			n.Through = ""
		}
		return Words(c, &n)
	case "look":
		return Words(c, &diagnose.Suggestion{Observe: e.Observe, State: e.State, Through: e.Through})
	case "zero":
		return "zeroed the " + map[string]string{Ohms: "leads", Clamp: "clamp"}[e.Dial]
	case "fit":
		return "fitted a new " + strings.ToLower(c.Station(e.Station).Label)
	case "hint":
		return "a hint: " + e.Says
	}
	if s := c.Station(e.Station); s != nil {
		what := s.Label
		if e.Fault != "" {
			what += ": " + fault.Label(e.Fault)
		}
		return "verdict: " + strings.ToLower(what)
	}
	return "verdict: nothing wrong"
}

// Auto works an exercise by a policy, and returns its minutes, readings and whether the
// part it named was right.
func Auto(ctx context.Context, a *diagnose.Adviser, ex Exercise, by string) (minutes float64, readings int, right bool, err error) {
	t, err := Start(a, ex)
	if err != nil {
		return 0, 0, false, err
	}
	order := policy.TextbookOrder(a)
	rng := rand.New(rand.NewPCG(ex.Seed, 123))
	rng.Shuffle(len(order), func(i, k int) {
		if by == policy.Random {
			order[i], order[k] = order[k], order[i]
		}
	})
	j := diagnose.Job{Brief: true}
	var op *diagnose.Opinion
	for {
		if op, err = a.Weigh(ctx, &j); err != nil {
			return 0, 0, false, err
		}
		if readings >= 40 || len(op.Next) == 0 {
			break
		}
		var e casefile.Evidence
		if by == policy.Adviser {
			n := op.Next[0]
			e = casefile.Evidence{Measure: unit.Measure(n.Measure), Observe: n.Observe, State: n.State, From: n.From,
				To: n.To, Through: n.Through}
		} else {
			if op.Verdict.Status == diagnose.Isolated || op.Verdict.Status == diagnose.NothingWrong || len(order) == 0 {
				break
			}
			e, order = order[0], order[1:]
		}
		m, _ := a.Minutes(&j, &e)
		minutes += m
		readings++
		if err := t.take(&e); err != nil {
			return 0, 0, false, err
		}
		j.Evidence = append(j.Evidence, e)
	}
	for _, f := range t.Truth() {
		if op.Verdict.Station != nil && f.Station == *op.Verdict.Station {
			right = true
		}
	}
	if len(t.Truth()) == 0 {
		right = op.Verdict.Status == diagnose.NothingWrong
	}
	return minutes, readings, right, nil
}

// take fills in what the faulty machine answers, by a zeroed meter.
func (t *Attempt) take(e *casefile.Evidence) error {
	if e.Observe != "" {
		e.Outcome = t.A.Answer(t.faulty.Truth(), e.Observe, e.State, nil, rand.New(rand.NewPCG(t.Ex.Seed, uint64(len(e.Observe)))))
	} else if err := t.faulty.Measure(e, meter.Default(e.Measure)); err != nil {
		return err
	}
	if p := e.Check(t.A.C, nil); p != nil {
		return p
	}
	return nil
}
