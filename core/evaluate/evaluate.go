// Package evaluate hides random faults, lets the adviser work each to a verdict
// against simulated meters, and reports how right and how sure it was.
//
// Simulator and adviser share one model of the circuit, so the figures are an
// upper bound; the true values are drawn apart from what the adviser believes.
package evaluate

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"sync"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/fault"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/unit"
)

// Options of a run.
type Options struct {
	Circuit string
	Faults  int     // machines to work through
	Seed    uint64  // the same seed gives the same machines
	Spread  float64 // log standard deviation of the true values; 0: 0.3
	Most    int     // readings before giving up; 0: 25
}

// Trial is one machine worked through.
type Trial struct {
	Truth    []string
	Verdict  string
	Station  string
	Right    bool
	Readings int
	Minutes  float64
	Claims   []Claim
	Case     []casefile.Evidence
}

// Claim is what was claimed of the likeliest station at one step, and whether
// it was so.
type Claim struct {
	P     float64
	Right bool
}

// Band is one line of a calibration table.
type Band struct {
	Low     float64 `json:"low"`
	High    float64 `json:"high"`
	N       int     `json:"steps"`
	Claimed float64 `json:"claimed"`
	True    float64 `json:"true"`
}

// Report sums up a run.
type Report struct {
	Circuit        string  `json:"circuit"`
	N              int     `json:"machines"`
	Faulty         int     `json:"faulty"`
	Healthy        int     `json:"sound"`
	Doubles        int     `json:"doubles"`
	Reached        float64 `json:"reached"`       // share of faulty machines with a verdict
	ReachedHealthy float64 `json:"reached_sound"` // share of sound machines with a verdict
	Right          float64 `json:"right"`         // share right when a verdict is given
	RightSingle    float64 `json:"right_single"`
	Contradictions int     `json:"contradictions"`
	Minutes        float64 `json:"minutes"`  // mean
	Readings       float64 `json:"readings"` // mean
	Calibration    []Band  `json:"calibration"`
	Trials         []Trial `json:"-"`
}

// Run works through the machines. It uses both cores and is repeatable: every
// machine draws from its own stream.
func Run(ctx context.Context, o Options) (*Report, error) {
	c, err := circuit.Family(o.Circuit)
	if err != nil {
		return nil, err
	}
	a, err := diagnose.NewAdviser(c)
	if err != nil {
		return nil, err
	}
	if o.Spread == 0 {
		o.Spread = 0.3
	}
	if o.Most == 0 {
		o.Most = 25
	}
	trials := make([]Trial, o.Faults)
	errs := make([]error, o.Faults)
	var wg sync.WaitGroup
	const workers = 2
	for wk := range workers {
		wg.Go(func() {
			for i := wk; i < o.Faults && ctx.Err() == nil; i += workers {
				rng := rand.New(rand.NewPCG(o.Seed, uint64(i)))
				trials[i], errs[i] = work(ctx, a, o, rng)
			}
		})
	}
	wg.Wait()
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	for i, err := range errs {
		if err != nil {
			return nil, fmt.Errorf("machine %d of seed %d: %w", i, o.Seed, err)
		}
	}
	return report(o, trials), nil
}

// draw hides a fault: one machine in ten is sound, one in ten has two faults.
func draw(a *diagnose.Adviser, o Options, rng *rand.Rand) *machine.Machine {
	m := a.Model
	for {
		th := machine.Spread(m, o.Spread, rng)
		if k := m.Net.ChargerStation(); k >= 0 && rng.Float64() < 0.3 {
			th[m.Net.ParamIndex(k, "present")] = 1
		}
		n := 1
		switch x := rng.Float64(); {
		case x < 0.1:
			n = 0
		case x < 0.2:
			n = 2
		}
		var hidden []machine.Hidden
		for len(hidden) < n {
			f := pick(m, rng)
			if a.C.Station(f.Station).Kind == circuit.Charger && th[m.Net.ParamIndex(a.C.StationIndex(f.Station), "present")] < 0.5 {
				continue
			}
			if slices.ContainsFunc(hidden, func(h machine.Hidden) bool { return h.Fault.Station == f.Station }) {
				continue
			}
			hidden = append(hidden, machine.Hidden{Fault: f, Severity: severity(m.ScaleOf(f), rng)})
		}
		mc := machine.New(m, th, hidden, rng)
		if n == 0 {
			return mc
		}
		if !mc.Matters() {
			continue
		}
		// Nobody brings a machine that works: accept as a customer would complain.
		complain := 0.03 + 0.97/(1+math.Exp(-((1-mc.Speed())-0.2)/0.03))
		for _, h := range hidden {
			switch h.Fault.Mode {
			case "welded", "slipping", "stuck_on":
				complain = 1
			}
		}
		if rng.Float64() < complain {
			return mc
		}
	}
}

func pick(m *fault.Model, rng *rand.Rand) fault.Fault {
	total := 0.0
	for _, f := range m.Faults() {
		total += m.Rate(f)
	}
	x := rng.Float64() * total
	for _, f := range m.Faults() {
		if x -= m.Rate(f); x <= 0 {
			return f
		}
	}
	return m.Faults()[0]
}

func severity(sc *fault.Scale, rng *rand.Rand) float64 {
	switch {
	case sc == nil:
		return 0
	case sc.ToOpen && rng.Float64() < 0.125:
		return fault.Open
	case sc.Log:
		return sc.Lo * math.Pow(sc.Hi/sc.Lo, rng.Float64())
	}
	return sc.Lo + (sc.Hi-sc.Lo)*rng.Float64()
}

func work(ctx context.Context, a *diagnose.Adviser, o Options, rng *rand.Rand) (Trial, error) {
	mc := draw(a, o, rng)
	t := Trial{}
	stations := map[string]bool{}
	for _, h := range mc.Hidden {
		t.Truth = append(t.Truth, fmt.Sprintf("%s=%s", h.Fault, a.Model.ScaleOf(h.Fault).FormatSeverity(h.Severity)))
		stations[h.Fault.Station] = true
	}
	take := func(e casefile.Evidence) error {
		if e.Observe != "" {
			e.Outcome = a.Answer(mc, e.Observe, e.State, nil, rng)
		} else if err := mc.Measure(&e, meter.Default(e.Measure)); err != nil {
			return err
		}
		if p := e.Check(a.C, nil); p != nil {
			return p
		}
		t.Case = append(t.Case, e)
		return nil
	}
	j := &diagnose.Job{Brief: true}
	// The complaint itself: what it does when asked to work.
	if id := complaint(a.C); id != "" {
		if err := take(casefile.Evidence{Observe: id, State: a.C.RunState}); err != nil {
			return t, err
		}
	}
	for {
		j.Evidence = t.Case
		op, err := a.Weigh(ctx, j)
		if err != nil {
			return t, err
		}
		v := op.Verdict
		if len(op.Stations) > 0 {
			t.Claims = append(t.Claims, Claim{op.Stations[0].Probability, stations[op.Stations[0].Station]})
		}
		t.Verdict = v.Status
		if v.Station != nil {
			t.Station = *v.Station
		}
		done := v.Status == diagnose.Isolated || v.Status == diagnose.NothingWrong
		if done || len(op.Next) == 0 || len(t.Case) >= o.Most {
			t.Readings, t.Minutes = len(t.Case), a.Spent(j)
			switch v.Status {
			case diagnose.Isolated:
				t.Right = stations[*v.Station]
			case diagnose.NothingWrong:
				t.Right = len(stations) == 0
			}
			return t, nil
		}
		n := op.Next[0]
		if err := take(casefile.Evidence{Measure: unit.Measure(n.Measure), Observe: n.Observe, State: n.State, From: n.From, To: n.To, Through: n.Through}); err != nil {
			return t, err
		}
	}
}

// complaint is the observation that a customer comes with: what it does in the
// run state.
func complaint(c *circuit.Circuit) string {
	for i := range c.Observations {
		o := &c.Observations[i]
		if (o.Model == "turning" || o.Model == "speed" || o.Model == "starts") && slices.Contains(o.States, c.RunState) {
			return o.ID
		}
	}
	return ""
}

func report(o Options, trials []Trial) *Report {
	r := &Report{Circuit: o.Circuit, N: len(trials), Trials: trials}
	var given, right, single, singleRight float64
	edges := []float64{0, 0.2, 0.4, 0.6, 0.7, 0.8, 0.9, 0.95, 0.99, 1.0001}
	for i := 0; i+1 < len(edges); i++ {
		r.Calibration = append(r.Calibration, Band{Low: edges[i], High: math.Min(edges[i+1], 1)})
	}
	for i := range trials {
		t := &trials[i]
		verdict := t.Verdict == diagnose.Isolated || t.Verdict == diagnose.NothingWrong
		if len(t.Truth) == 0 {
			r.Healthy++
			if verdict {
				r.ReachedHealthy++
			}
		} else {
			r.Faulty++
			if verdict {
				r.Reached++
			}
		}
		if len(t.Truth) > 1 {
			r.Doubles++
		}
		if t.Verdict == diagnose.Contradiction {
			r.Contradictions++
		}
		if verdict {
			given++
			if t.Right {
				right++
			}
			if len(t.Truth) == 1 {
				single++
				if t.Right {
					singleRight++
				}
			}
		}
		r.Minutes += t.Minutes / float64(len(trials))
		r.Readings += float64(t.Readings) / float64(len(trials))
		for _, c := range t.Claims {
			for k := range r.Calibration {
				b := &r.Calibration[k]
				if c.P >= b.Low && (c.P < b.High || b.High == 1) {
					b.N++
					b.Claimed += c.P
					if c.Right {
						b.True++
					}
					break
				}
			}
		}
	}
	for k := range r.Calibration {
		b := &r.Calibration[k]
		if b.N > 0 {
			b.Claimed /= float64(b.N)
			b.True /= float64(b.N)
		}
	}
	r.Reached /= math.Max(float64(r.Faulty), 1)
	r.ReachedHealthy /= math.Max(float64(r.Healthy), 1)
	r.Right = right / math.Max(given, 1)
	r.RightSingle = singleRight / math.Max(single, 1)
	return r
}
