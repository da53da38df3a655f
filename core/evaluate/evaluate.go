package evaluate

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"os"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/meter"
	"corriente/core/policy"
	"corriente/core/unit"
)

// Options of a run.
type Options struct {
	Circuit string  `json:"circuit"`
	Faults  int     `json:"faults"` // machines to work through
	Seed    uint64  `json:"seed"`   // the same seed gives the same machines
	Spread  float64 `json:"spread"` // log standard deviation of the true values; 0: 0.3
	Most    int     `json:"most"`   // readings before giving up; 0: 40
	Policy  string  `json:"policy"` // adviser, textbook or random; "" is adviser

	// Machines says where they come from: own, field or tuning; "" is own.
	Machines string `json:"machines,omitempty"`
	// Voltage is the supply that the family is moved to, V; 0: its own.
	Voltage float64 `json:"voltage,omitempty"`

	// What goes wrong besides the machine.
	Slips  float64 `json:"slips,omitempty"`  // share of readings written down wrongly by a slip
	Wrong  float64 `json:"wrong,omitempty"`  // share of observations that are simply wrong
	Triple bool    `json:"triple,omitempty"` // every reading is entered three times
	Second bool    `json:"second,omitempty"` // two faults; after a right verdict it is repaired and the job goes on

	// Store, when not empty, is a file of finished machines, one JSON line each: a
	// run that was stopped goes on where it stood.
	Store    string             `json:"-"`
	Progress func(done, of int) `json:"-"` // told after each machine, from several goroutines; may be nil
}

// Trial is one machine worked through.
type Trial struct {
	Index    int                 `json:"i"`
	Truth    []string            `json:"truth"`
	Lost     float64             `json:"lost"` // share of the speed that the faults cost
	Verdict  string              `json:"verdict"`
	Station  string              `json:"station"`
	Right    bool                `json:"right"`
	OneFix   bool                `json:"one_fix"` // undecided, but every likely diagnosis leads to the same repair
	Readings int                 `json:"readings"`
	Minutes  float64             `json:"minutes"`
	Claims   []Claim             `json:"claims"`
	Case     []casefile.Evidence `json:"-"`

	Instruments map[string]meter.Instrument `json:"-"` // that the readings were taken with

	Accused    bool  `json:"accused,omitempty"`     // a station that is sound was named, surely
	FaultRight bool  `json:"fault_right,omitempty"` // the fault named at the right station is one of those that are there
	Final      Claim `json:"final"`                 // what the last step claimed of the likeliest, nothing wrong among them

	SecondTried bool    `json:"second_tried,omitempty"` // the first fault was found and repaired
	SecondFound bool    `json:"second_found,omitempty"`
	SecondLost  float64 `json:"second_lost,omitempty"` // share of the speed that the second costs by itself
}

// Claim is what was claimed of the likeliest station at one step, and whether
// it was so.
type Claim struct {
	P     float64 `json:"p"`
	Right bool    `json:"right"`
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
	Accused        float64 `json:"accused"`       // share of faulty machines of which a sound station was named, surely
	AccusedSound   float64 `json:"accused_sound"` // share of sound machines of which one was
	FaultRight     float64 `json:"fault_right"`   // share of right verdicts on a station whose fault is right too
	Contradictions int     `json:"contradictions"`
	Minutes        float64 `json:"minutes"`  // mean
	Readings       float64 `json:"readings"` // mean
	Calibration    []Band  `json:"calibration"`
	OneFix         float64 `json:"one_fix"`      // share of faulty machines without a verdict, but with one repair for all that is likely
	Second         int     `json:"second_tried"` // second faults that cost a tenth of the speed or more, after the first was repaired
	SecondFound    float64 `json:"second_found"` // share of them found
	Policy         string  `json:"policy"`
	Confused       []Pair  `json:"confused"` // stations taken for each other, most often first
	Trials         []Trial `json:"-"`
}

// Pair is a truth and what was named instead, or left beside it.
type Pair struct {
	Truth string `json:"truth"`
	Named string `json:"named"`
	N     int    `json:"n"`
}

// Run works through the machines. It uses both cores and is repeatable: every
// machine draws from its own stream.
func Run(ctx context.Context, o Options) (*Report, error) {
	c, err := circuit.Family(o.Circuit)
	if err != nil {
		return nil, err
	}
	if o.Voltage > 0 {
		c = c.Clone()
		c.ScaleTo(o.Voltage)
	}
	a, err := diagnose.NewAdviser(c)
	if err != nil {
		return nil, err
	}
	if o.Spread == 0 {
		o.Spread = 0.3
	}
	if o.Most == 0 {
		o.Most = 40
	}
	trials, done, save, err := resume(o)
	if err != nil {
		return nil, err
	}
	defer save.close()
	errs := make([]error, o.Faults)
	var worked atomic.Int64
	var wg sync.WaitGroup
	workers := max(runtime.GOMAXPROCS(0), 1)
	for wk := range workers {
		wg.Go(func() {
			for i := wk; i < o.Faults && ctx.Err() == nil; i += workers {
				if n := worked.Add(1); o.Progress != nil {
					o.Progress(int(n), o.Faults)
				}
				if done[i] {
					continue
				}
				rng := rand.New(rand.NewPCG(o.Seed, uint64(i)))
				if trials[i], errs[i] = work(ctx, a, o, rng); errs[i] == nil {
					trials[i].Index = i
					errs[i] = save.add(&trials[i])
				}
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

// keeper appends finished machines to a file.
type keeper struct {
	mu sync.Mutex
	f  io.WriteCloser
}

func (k *keeper) add(t *Trial) error {
	if k.f == nil {
		return nil
	}
	b, err := json.Marshal(t)
	if err != nil {
		return err
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	_, err = k.f.Write(append(b, '\n'))
	return err
}

func (k *keeper) close() {
	if k.f != nil {
		_ = k.f.Close()
	}
}

// resume reads what an earlier run of the same options left.
func resume(o Options) (trials []Trial, done []bool, save *keeper, err error) {
	trials, done, save = make([]Trial, o.Faults), make([]bool, o.Faults), &keeper{}
	if o.Store == "" {
		return trials, done, save, nil
	}
	f, err := os.OpenFile(o.Store, os.O_RDWR|os.O_CREATE|os.O_APPEND, 0o644)
	if err != nil {
		return nil, nil, nil, err
	}
	same := o
	same.Faults = 0 // a run may be made longer
	head, err := json.Marshal(same)
	if err != nil {
		return nil, nil, nil, err
	}
	sc := bufio.NewScanner(f)
	sc.Buffer(nil, 1<<24)
	first := true
	for sc.Scan() {
		if first {
			if first = false; sc.Text() != string(head) {
				_ = f.Close()
				return nil, nil, nil, fmt.Errorf("%s holds a run with other options: name another file", o.Store)
			}
			continue
		}
		var t Trial
		if json.Unmarshal(sc.Bytes(), &t) == nil && t.Index < o.Faults { // a line cut short is worked again
			trials[t.Index], done[t.Index] = t, true
		}
	}
	if first {
		if _, err := f.Write(append(head, '\n')); err != nil {
			return nil, nil, nil, err
		}
	}
	save.f = f
	return trials, done, save, sc.Err()
}

func work(ctx context.Context, a *diagnose.Adviser, o Options, rng *rand.Rand) (Trial, error) {
	mc, err := newSubject(a, o, rng)
	if err != nil {
		return Trial{}, err
	}
	t := Trial{Lost: mc.Lost(), Truth: mc.Truth()}
	stations := mc.Stations()
	j := &diagnose.Job{Brief: true, Instruments: mc.Instruments()}
	tk := &taker{a: a, o: o, mc: mc, rng: rng, j: j}
	// The complaint itself: what it does when asked to work.
	if id := complaint(a.C); id != "" {
		if err := tk.take(casefile.Evidence{Observe: id, State: a.C.RunState}); err != nil {
			return t, err
		}
	}
	op, err := tk.toVerdict(ctx, newChooser(o.Policy, a, rng), &t, stations)
	if err != nil {
		return t, err
	}
	v := op.Verdict
	t.Instruments = j.Instruments
	t.Case, t.Readings, t.Minutes, t.Verdict = j.Evidence, len(j.Evidence), a.Spent(j), v.Status
	if v.Station != nil {
		t.Station = *v.Station
	}
	t.Final = Claim{v.Probability, t.Station == "" && len(stations) == 0 || t.Station != "" && named(a, stations, t.Station)}
	switch v.Status {
	case diagnose.Isolated:
		t.Right = named(a, stations, *v.Station)
		t.Accused = !t.Right
		for _, f := range v.Faults {
			t.FaultRight = t.FaultRight || t.Right &&
				slices.ContainsFunc(t.Truth, func(x string) bool { return strings.HasPrefix(x, f+"=") })
		}
	case diagnose.NothingWrong:
		t.Right = len(stations) == 0
	default:
		t.OneFix = v.Repair != ""
	}
	if len(stations) == 2 && t.Right && (o.Second || o.Machines != "" && o.Machines != Own) {
		t.SecondFound = both(a, stations, &v)
		t.SecondTried, t.SecondLost = t.SecondFound, t.Lost
		if !t.SecondFound {
			err = tk.second(ctx, &t, *v.Station, stations)
		}
	}
	return t, err
}

// both reports whether a verdict names two stations, and both are at fault.
func both(a *diagnose.Adviser, stations map[string]bool, v *diagnose.Verdict) bool {
	return len(v.Also) == 1 && named(a, stations, v.Also[0]) && v.Also[0] != *v.Station
}

// named reports whether the station a verdict names is at fault, or one that is
// built into the same part: no probe parts them, and one repair cures both.
func named(a *diagnose.Adviser, stations map[string]bool, station string) bool {
	part := func(id string) string {
		if w := a.C.Station(id).Within; w != "" {
			return w
		}
		return id
	}
	for id := range stations {
		if part(id) == part(station) {
			return true
		}
	}
	return false
}

// taker takes readings of one machine.
type taker struct {
	a   *diagnose.Adviser
	o   Options
	mc  subject
	rng *rand.Rand
	j   *diagnose.Job
}

func (tk *taker) take(e casefile.Evidence) error {
	times := 1
	if tk.o.Triple {
		times = 3
	}
	for range times {
		x := e
		if x.Observe != "" {
			x.Outcome = tk.mc.Answer(x.Observe, x.State, x.Through)
			if tk.rng.Float64() < tk.o.Wrong {
				outs := tk.a.C.Observation(x.Observe).Outcomes
				x.Outcome = outs[tk.rng.IntN(len(outs))].ID
			}
		} else {
			if err := tk.mc.Measure(&x); err != nil {
				return err
			}
			if tk.rng.Float64() < tk.o.Slips {
				tk.slip(&x)
			}
		}
		if p := x.Check(tk.a.C, tk.j.Instruments); p != nil {
			if tk.o.Slips > 0 { // a slip that the application refuses is taken again
				x = e
				if err := tk.mc.Measure(&x); err != nil {
					return err
				}
				p = x.Check(tk.a.C, tk.j.Instruments)
			}
			if p != nil {
				return p
			}
		}
		tk.j.Evidence = append(tk.j.Evidence, x)
	}
	return nil
}

// slip writes a reading down wrongly: the point misplaced, the leads swapped, or
// the reading of another place.
func (tk *taker) slip(e *casefile.Evidence) {
	if e.Value == "OL" {
		e.Value = "0"
		return
	}
	v, err := strconv.ParseFloat(e.Value, 64)
	if err != nil {
		return
	}
	switch tk.rng.IntN(3) {
	case 0:
		v /= 10
	case 1:
		if e.Measure != unit.Resistance {
			v = -v
		} else {
			v *= 10
		}
	default:
		nodes := tk.a.C.Nodes
		x := *e
		if n := nodes[tk.rng.IntN(len(nodes))]; x.From != "" && n.ID != x.To && !n.Hidden {
			x.From = n.ID
			if tk.mc.Measure(&x) == nil {
				e.Value = x.Value
			}
		}
		return
	}
	e.Value = strconv.FormatFloat(v, 'f', 3, 64)
}

// toVerdict follows a policy until a verdict stands or nothing is worth taking.
func (tk *taker) toVerdict(ctx context.Context, ch *chooser, t *Trial, stations map[string]bool) (*diagnose.Opinion, error) {
	for {
		op, err := tk.a.Weigh(ctx, tk.j)
		if err != nil {
			return nil, err
		}
		if len(op.Stations) > 0 {
			t.Claims = append(t.Claims, Claim{op.Stations[0].Probability, stations[op.Stations[0].Station]})
		}
		most := tk.o.Most
		if tk.o.Triple {
			most *= 3
		}
		if len(tk.j.Evidence) >= most {
			return op, nil
		}
		e, ok := ch.next(op, tk.j.Evidence)
		if !ok {
			return op, nil
		}
		if err := tk.take(e); err != nil {
			return nil, err
		}
	}
}

// second repairs the station that was named and goes on.
func (tk *taker) second(ctx context.Context, t *Trial, station string, stations map[string]bool) error {
	mc := tk.mc.Repaired(station)
	rest := mc.Stations()
	if own, ok := mc.(ownMachine); len(rest) != 1 || ok && !own.mc.Matters() {
		return nil
	}
	t.SecondTried, t.SecondLost = true, mc.Lost()
	tk.mc = mc
	tk.j.Repairs = append(tk.j.Repairs, casefile.Repair{Station: station, After: len(tk.j.Evidence)})
	tk.o.Most += len(tk.j.Evidence)
	// The first thing after a repair: does it work now?
	if id := complaint(tk.a.C); id != "" {
		if err := tk.take(casefile.Evidence{Observe: id, State: tk.a.C.RunState}); err != nil {
			return err
		}
	}
	var scratch Trial
	op, err := tk.toVerdict(ctx, newChooser(tk.o.Policy, tk.a, tk.rng), &scratch, stations)
	if err != nil {
		return err
	}
	t.SecondFound = op.Verdict.Status == diagnose.Isolated && rest[*op.Verdict.Station]
	return nil
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
	r := &Report{Circuit: o.Circuit, N: len(trials), Trials: trials, Policy: o.Policy}
	if r.Policy == "" {
		r.Policy = policy.Adviser
	}
	edges := []float64{0, 0.2, 0.4, 0.6, 0.7, 0.8, 0.9, 0.95, 0.99, 1.0001}
	for i := 0; i+1 < len(edges); i++ {
		r.Calibration = append(r.Calibration, Band{Low: edges[i], High: math.Min(edges[i+1], 1)})
	}
	t := tally{r: r, confused: map[[2]string]int{}}
	for i := range trials {
		t.add(&trials[i])
		r.Minutes += trials[i].Minutes / float64(len(trials))
		r.Readings += float64(trials[i].Readings) / float64(len(trials))
		r.calibrate(trials[i].Claims)
	}
	t.finish()
	return r
}

// tally counts trials.
type tally struct {
	r        *Report
	confused map[[2]string]int

	given, right        float64 // verdicts, and of these right ones
	single, singleRight float64 // the same of machines with one fault
	isolated            float64
}

func (t *tally) add(x *Trial) {
	r := t.r
	verdict := x.Verdict == diagnose.Isolated || x.Verdict == diagnose.NothingWrong
	t.isolated += r.accuse(x)
	switch {
	case len(x.Truth) > 0:
		t.faulty(x, verdict)
	case verdict:
		r.ReachedHealthy++
		fallthrough
	default:
		r.Healthy++
	}
	if len(x.Truth) > 1 {
		r.Doubles++
	}
	if x.Verdict == diagnose.Contradiction {
		r.Contradictions++
	}
	if !verdict {
		return
	}
	one := func(yes bool) float64 {
		if yes {
			return 1
		}
		return 0
	}
	single := len(x.Truth) == 1
	t.given++
	t.right += one(x.Right)
	t.single += one(single)
	t.singleRight += one(single && x.Right)
}

// faulty counts a machine with a fault.
func (t *tally) faulty(x *Trial, verdict bool) {
	r := t.r
	r.Faulty++
	switch {
	case verdict:
		r.Reached++
	case x.OneFix:
		r.OneFix++
	}
	if !x.Right {
		truth, _, _ := strings.Cut(x.Truth[0], "=")
		named := x.Station
		if !verdict {
			named = "undecided, " + named
		}
		t.confused[[2]string{truth, named}]++
	}
	if x.SecondTried && x.SecondLost >= 0.1 {
		r.Second++
		if x.SecondFound {
			r.SecondFound++
		}
	}
}

// finish makes shares of what was counted.
func (t *tally) finish() {
	r := t.r
	for k := range r.Calibration {
		b := &r.Calibration[k]
		if b.N > 0 {
			b.Claimed /= float64(b.N)
			b.True /= float64(b.N)
		}
	}
	r.SecondFound /= math.Max(float64(r.Second), 1)
	r.OneFix /= math.Max(float64(r.Faulty), 1)
	r.Accused /= math.Max(float64(r.Faulty), 1)
	r.AccusedSound /= math.Max(float64(r.Healthy), 1)
	r.FaultRight /= math.Max(t.isolated, 1)
	r.Reached /= math.Max(float64(r.Faulty), 1)
	r.ReachedHealthy /= math.Max(float64(r.Healthy), 1)
	r.Right = t.right / math.Max(t.given, 1)
	r.RightSingle = t.singleRight / math.Max(t.single, 1)
	r.Confused = sortPairs(t.confused)
}

// calibrate counts claims into their bands.
func (r *Report) calibrate(claims []Claim) {
	for _, c := range claims {
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

// accuse counts what a verdict said of stations, right or wrong; it returns 1 for one that
// named a station rightly.
func (r *Report) accuse(t *Trial) float64 {
	switch {
	case t.Accused && len(t.Truth) == 0:
		r.AccusedSound++
	case t.Accused:
		r.Accused++
	}
	if t.FaultRight {
		r.FaultRight++
	}
	if t.Right && t.Verdict == diagnose.Isolated {
		return 1
	}
	return 0
}

func sortPairs(m map[[2]string]int) []Pair {
	out := make([]Pair, 0, len(m))
	for k, n := range m {
		out = append(out, Pair{k[0], k[1], n})
	}
	slices.SortFunc(out, func(x, y Pair) int {
		if x.N != y.N {
			return y.N - x.N
		}
		return strings.Compare(x.Truth+x.Named, y.Truth+y.Named)
	})
	if len(out) > 12 {
		out = out[:12]
	}
	return out
}

// Wilson returns the 95 % interval of a share of n (E. B. Wilson, Probable
// inference, 1927).
func Wilson(share float64, n int) (low, high float64) {
	if n == 0 {
		return 0, 1
	}
	const z = 1.959964
	nn := float64(n)
	mid := (share + z*z/(2*nn)) / (1 + z*z/nn)
	half := z / (1 + z*z/nn) * math.Sqrt(share*(1-share)/nn+z*z/(4*nn*nn))
	return mid - half, mid + half
}
