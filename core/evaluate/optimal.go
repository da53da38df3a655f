package evaluate

import (
	"math"
	"slices"

	"corriente/core/diagnose"
)

// Finite is a problem small enough to be solved exactly: hypotheses, tests with
// a few outcomes each, and a price for every test.
type Finite struct {
	Prior []float64
	Class []int // which station a hypothesis belongs to
	Tests []FiniteTest
	Sure  float64 // stop when one class holds this much
}

// FiniteTest is one test: its minutes and the chance of each outcome under each
// hypothesis.
type FiniteTest struct {
	Name    string
	Minutes float64
	P       [][]float64 // hypothesis × outcome
}

// reducedOutcomes is how many bins a meter's reading is cut into.
const reducedOutcomes = 3

// Reduce makes a finite problem of an adviser's circuit: the likeliest
// hypotheses and the tests that tell most about them for their minutes.
func Reduce(a *diagnose.Adviser, hypotheses, tests int) *Finite {
	hs := a.Hypotheses()
	idx := make([]int, len(hs))
	for i := range idx {
		idx[i] = i
	}
	slices.SortStableFunc(idx, func(x, y int) int { return cmp(hs[y].Prior, hs[x].Prior) })
	idx = idx[:min(hypotheses, len(idx))]
	f := &Finite{Sure: diagnose.Sure}
	classes := map[string]int{}
	total := 0.0
	for _, i := range idx {
		total += hs[i].Prior
	}
	for _, i := range idx {
		if _, ok := classes[hs[i].Station]; !ok {
			classes[hs[i].Station] = len(classes)
		}
		f.Prior = append(f.Prior, hs[i].Prior/total)
		f.Class = append(f.Class, classes[hs[i].Station])
	}
	var all []FiniteTest
	for _, e := range a.Candidates() {
		ps := a.Predictions(e)
		t := FiniteTest{Name: e.Observe + string(e.Measure) + " " + e.State + " " + e.From + " " + e.To + e.Through, Minutes: a.Price(e)}
		sub := make([]diagnose.Prediction, len(idx))
		for k, i := range idx {
			sub[k] = ps[i]
		}
		t.P = outcomes(sub)
		if t.P != nil {
			all = append(all, t)
		}
	}
	rate := func(t *FiniteTest) float64 { return f.information(f.Prior, t) / t.Minutes }
	slices.SortStableFunc(all, func(x, y FiniteTest) int { return cmp(rate(&y), rate(&x)) })
	// The best by themselves, but no two that tell the same.
	for i := range all {
		if len(f.Tests) == tests {
			break
		}
		if !slices.ContainsFunc(f.Tests, func(t FiniteTest) bool { return alike(t.P, all[i].P) }) {
			f.Tests = append(f.Tests, all[i])
		}
	}
	return f
}

func cmp(x, y float64) int {
	switch {
	case x < y:
		return -1
	case x > y:
		return 1
	}
	return 0
}

func alike(p, q [][]float64) bool {
	if len(p[0]) != len(q[0]) {
		return false
	}
	for h := range p {
		for o := range p[h] {
			if math.Abs(p[h][o]-q[h][o]) > 0.05 {
				return false
			}
		}
	}
	return true
}

// outcomes turns predictions into chances of a few outcomes: the words, or bins
// cut where the predictions lie furthest apart. Nil when nothing is told.
func outcomes(ps []diagnose.Prediction) [][]float64 {
	out := make([][]float64, len(ps))
	if ps[0].Words != nil {
		for h := range ps {
			out[h] = ps[h].Words
		}
		return out
	}
	var means []float64
	for _, p := range ps {
		if !p.Open {
			means = append(means, p.Mean)
		}
	}
	slices.Sort(means)
	type gap struct{ at, width float64 }
	var gaps []gap
	for i := 1; i < len(means); i++ {
		gaps = append(gaps, gap{(means[i] + means[i-1]) / 2, means[i] - means[i-1]})
	}
	slices.SortFunc(gaps, func(x, y gap) int { return cmp(y.width, x.width) })
	var cuts []float64
	for i, g := range gaps {
		if i < reducedOutcomes-1 && g.width > 1 {
			cuts = append(cuts, g.at)
		}
	}
	slices.Sort(cuts)
	n := len(cuts) + 2 // the last is OL
	for h, p := range ps {
		row := make([]float64, n)
		if p.Open {
			row[n-1] = 1
		} else {
			below := 0.0
			for i, c := range cuts {
				x := 0.5 * math.Erfc(-(c-p.Mean)/p.SD/math.Sqrt2)
				row[i] = x - below
				below = x
			}
			row[n-2] = 1 - below
		}
		for i := range row {
			row[i] = 0.98*row[i] + 0.02/float64(n)
		}
		out[h] = row
	}
	return out
}

func (f *Finite) update(post []float64, t *FiniteTest, outcome int) ([]float64, float64) {
	n := make([]float64, len(post))
	sum := 0.0
	for h, p := range post {
		n[h] = p * t.P[h][outcome]
		sum += n[h]
	}
	for h := range n {
		n[h] /= math.Max(sum, 1e-300)
	}
	return n, sum
}

func (f *Finite) classes(post []float64) []float64 {
	out := make([]float64, slices.Max(f.Class)+1)
	for h, p := range post {
		out[f.Class[h]] += p
	}
	return out
}

func (f *Finite) done(post []float64) bool { return slices.Max(f.classes(post)) >= f.Sure }

func entropy(p []float64) float64 {
	h := 0.0
	for _, x := range p {
		if x > 0 {
			h -= x * math.Log2(x)
		}
	}
	return h
}

// information is what a test is expected to tell about the station, bits.
func (f *Finite) information(post []float64, t *FiniteTest) float64 {
	h := entropy(f.classes(post))
	for o := range t.P[0] {
		n, p := f.update(post, t, o)
		h -= p * entropy(f.classes(n))
	}
	return math.Max(h, 0)
}

// Choose picks a test among those left, by a policy.
type Choose func(f *Finite, post []float64, left []int) int

// Greedy takes the most bits a minute, as the adviser does.
func Greedy(f *Finite, post []float64, left []int) int {
	best, br := left[0], -1.0
	for _, i := range left {
		if r := f.information(post, &f.Tests[i]) / (f.Tests[i].Minutes + 0.2); r > br {
			best, br = i, r
		}
	}
	return best
}

// Rollout looks one step ahead: of the three best by bits a minute, the one from
// which Greedy then needs the fewest minutes.
func Rollout(f *Finite, post []float64, left []int) int {
	order := slices.Clone(left)
	rate := func(i int) float64 { return f.information(post, &f.Tests[i]) / (f.Tests[i].Minutes + 0.2) }
	slices.SortStableFunc(order, func(x, y int) int { return cmp(rate(y), rate(x)) })
	best, bc := order[0], math.Inf(1)
	for _, i := range order[:min(3, len(order))] {
		if c := f.after(Greedy, post, left, i); c < bc {
			best, bc = i, c
		}
	}
	return best
}

// InOrder takes the tests as they are listed.
func InOrder(_ *Finite, _ []float64, left []int) int { return left[0] }

// after is the expected minutes when test i is taken now and the policy after it.
func (f *Finite) after(c Choose, post []float64, left []int, i int) float64 {
	rest := make([]int, 0, len(left)-1)
	for _, k := range left {
		if k != i {
			rest = append(rest, k)
		}
	}
	cost := f.Tests[i].Minutes
	for o := range f.Tests[i].P[0] {
		if n, p := f.update(post, &f.Tests[i], o); p > 1e-12 {
			cost += p * f.cost(c, n, rest)
		}
	}
	return cost
}

// cost is the expected minutes of a policy until one station is sure or nothing
// is left to test.
func (f *Finite) cost(c Choose, post []float64, left []int) float64 {
	if len(left) == 0 || f.done(post) {
		return 0
	}
	return f.after(c, post, left, c(f, post, left))
}

// Cost is the expected minutes of a policy from the beginning.
func (f *Finite) Cost(c Choose) float64 { return f.cost(c, f.Prior, f.all()) }

func (f *Finite) all() []int {
	out := make([]int, len(f.Tests))
	for i := range out {
		out[i] = i
	}
	return out
}

// Optimum is the least expected minutes that any policy can reach: dynamic
// programming over everything that can have been seen.
func (f *Finite) Optimum() float64 {
	var solve func(post []float64, left []int) float64
	solve = func(post []float64, left []int) float64 {
		if len(left) == 0 || f.done(post) {
			return 0
		}
		best := math.Inf(1)
		for _, i := range left {
			rest := make([]int, 0, len(left)-1)
			for _, k := range left {
				if k != i {
					rest = append(rest, k)
				}
			}
			c := f.Tests[i].Minutes
			for o := range f.Tests[i].P[0] {
				if c >= best {
					break
				}
				if n, p := f.update(post, &f.Tests[i], o); p > 1e-12 {
					c += p * solve(n, rest)
				}
			}
			best = math.Min(best, c)
		}
		return best
	}
	return solve(f.Prior, f.all())
}
