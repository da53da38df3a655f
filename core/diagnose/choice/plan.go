package choice

import (
	"math"
	"slices"

	"corriente/core/casefile"
	"corriente/core/diagnose/assume"
	"corriente/core/diagnose/belief"
	"corriente/core/diagnose/cells"
	"corriente/core/diagnose/gauss"
	"corriente/core/diagnose/words"
)

// The look ahead. Bits a minute is near the best rule, but it does not see that
// access once opened and a state once entered make the readings after the first
// cheap. So the best few by that rule are tried in thought: after each of their
// outcomes the rule is followed for some steps, and the one from which fewest
// minutes are expected comes first (a rollout; D. Bertsekas, Dynamic Programming
// and Optimal Control).

const (
	planTests = 10 // readings that are thought of
	planFirst = 2  // so many are tried as the first: with more, thought runs ahead of what bins can tell
	planDepth = 3  // steps after it
	planHyps  = 40 // surviving cells that are thought of
	planBins  = 3  // outcomes of a reading, OL besides
)

// planTest is a reading in the reduced problem.
type planTest struct {
	p      [][]float64 // hypothesis × outcome
	groups []string
	state  string
	base   float64 // minutes of the reading itself
	enter  float64 // minutes to get into its state
	people int
	spends float64 // minutes' worth of what it uses up
	index  int     // in the list of suggestions
}

// plan is the reduced problem.
type plan struct {
	class   []int
	nclass  int
	tests   []planTest
	minutes map[string]float64 // access groups
	perBit  float64
	choice  *assume.Choice
}

// situation is where a plan stands.
type situation struct {
	open  []string
	state string
	used  uint32
}

// lookAhead reorders the first few suggestions by the minutes expected from each.
func (k *asking) lookAhead(qs []question) {
	a, views := k.a, k.views
	if len(qs) < 2 || len(views) < 2 {
		return
	}
	n := min(len(views), planHyps)
	p := plan{minutes: a.C.AccessMinutes, choice: &a.Assumed.Choice}
	prior := make([]float64, n)
	total := 0.0
	for h := range n {
		prior[h] = views[h].W
		total += views[h].W
		p.class = append(p.class, views[h].class)
		p.nclass = max(p.nclass, views[h].class+1)
	}
	for h := range prior {
		prior[h] /= total
	}
	for i := range min(len(qs), planTests) {
		sg := &qs[i].sg
		t := planTest{index: i, state: sg.State, people: sg.People, spends: sg.price - price(a, sg.Minutes, sg.People, 0, 1)}
		t.groups, t.base, t.enter = priced(a, sg)
		if qs[i].words != nil {
			t.p = qs[i].words[:n]
		} else {
			t.p = bins(qs[i].casts[:n], planBins)
		}
		p.tests = append(p.tests, t)
	}
	p.perBit = a.Assumed.Choice.PerBit
	if r := rate(a, &qs[0].sg); r > 0 {
		p.perBit = math.Min(math.Max(1/r, 2), 60)
	}
	at := situation{state: k.state}
	for g := range k.open {
		at.open = append(at.open, g)
	}
	type tried struct {
		i    int
		cost float64
	}
	var ts []tried
	for i := range min(planFirst, len(p.tests)) {
		ts = append(ts, tried{i, p.after(prior, at, i, planDepth)})
	}
	slices.SortStableFunc(ts, func(x, y tried) int {
		switch {
		case x.cost < y.cost:
			return -1
		case x.cost > y.cost:
			return 1
		}
		return 0
	})
	was := slices.Clone(qs[:len(ts)])
	for n, t := range ts {
		qs[n] = was[t.i]
	}
}

// priced returns what a suggestion opens, its own minutes, and those of entering
// its state.
func priced(a *belief.Reasoner, s *Suggestion) (groups []string, base, enter float64) {
	st := a.C.State(s.State)
	groups = append(groups, st.Access)
	base = a.Assumed.Choice.Read
	if s.Observe != "" {
		o := a.C.Observation(s.Observe)
		base = o.Minutes
		groups = append(groups, o.Access)
	}
	for _, id := range []string{s.From, s.To} {
		if n := a.C.Node(id); n != nil {
			groups = append(groups, n.Access)
		}
	}
	if x := a.C.Station(s.Through); x != nil {
		groups = append(groups, x.Access)
	}
	return groups, base, st.Minutes
}

func (p *plan) cost(t *planTest, at *situation) float64 {
	c := t.base
	for i, g := range t.groups {
		if g != "" && !slices.Contains(at.open, g) && !slices.Contains(t.groups[:i], g) {
			c += p.minutes[g]
		}
	}
	if t.state != at.state {
		c += t.enter
	}
	if t.people > 1 {
		c *= p.choice.SecondPerson
	}
	return c + t.spends
}

func (p *plan) classes(post []float64) []float64 {
	out := make([]float64, p.nclass)
	for h, x := range post {
		out[p.class[h]] += x
	}
	return out
}

func (p *plan) information(post []float64, h0 float64, t *planTest) float64 {
	left := 0.0
	cls := make([]float64, p.nclass)
	for o := range t.p[0] {
		clear(cls)
		sum := 0.0
		for h, x := range post {
			y := x * t.p[h][o]
			cls[p.class[h]] += y
			sum += y
		}
		for _, y := range cls {
			if y > 0 {
				left -= y * math.Log2(y/sum)
			}
		}
	}
	return math.Max(h0-left, 0)
}

// after is the minutes expected when test i is taken now and bits a minute is
// followed after it.
func (p *plan) after(post []float64, at situation, i, depth int) float64 {
	t := &p.tests[i]
	total := p.cost(t, &at)
	next := situation{open: append(slices.Clone(at.open), t.groups...), state: t.state, used: at.used | 1<<i}
	n := make([]float64, len(post))
	for o := range t.p[0] {
		sum := 0.0
		for h, x := range post {
			n[h] = x * t.p[h][o]
			sum += n[h]
		}
		if sum < 1e-3 {
			continue
		}
		for h := range n {
			n[h] /= sum
		}
		total += sum * p.follow(n, next, depth)
	}
	return total
}

// follow is the minutes expected from here on.
func (p *plan) follow(post []float64, at situation, depth int) float64 {
	cls := p.classes(post)
	if slices.Max(cls) >= belief.Sure {
		return 0
	}
	h0 := gauss.Entropy(cls)
	best, rate := -1, 0.0
	if depth > 0 {
		for i := range p.tests {
			if at.used&(1<<i) != 0 {
				continue
			}
			if r := p.information(post, h0, &p.tests[i]) / (p.cost(&p.tests[i], &at) + p.choice.Overhead); r > rate {
				best, rate = i, r
			}
		}
	}
	if best < 0 || rate < p.choice.WorthRate {
		return h0 * p.perBit
	}
	return p.after(slices.Clone(post), at, best, depth-1)
}

// bins cuts forecasts into a few outcomes where they lie furthest apart, OL last:
// the chance of each under each hypothesis.
func bins(fc []Forecast, most int) [][]float64 {
	var means []float64
	for i := range fc {
		if !fc[i].Open {
			means = append(means, fc[i].Mean)
		}
	}
	slices.Sort(means)
	var cuts []float64
	for range most - 1 {
		at, wide := 0.0, 1.0
		for i := 1; i < len(means); i++ {
			mid := (means[i] + means[i-1]) / 2
			if w := means[i] - means[i-1]; w > wide && !slices.Contains(cuts, mid) {
				at, wide = mid, w
			}
		}
		if wide == 1 {
			break
		}
		cuts = append(cuts, at)
	}
	slices.Sort(cuts)
	n := len(cuts) + 2
	out := make([][]float64, len(fc))
	for h := range fc {
		row := make([]float64, n)
		if fc[h].Open {
			row[n-1] = 1
		} else {
			below := 0.0
			for i, c := range cuts {
				x := gauss.NormCDF((c - fc[h].Mean) / fc[h].SD)
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

// wordChances are the chances of each answer under each surviving cell.
func (k *asking) wordChances(e *casefile.Evidence) [][]float64 {
	a, job, views := k.a, k.j, k.views
	o := a.C.Observation(e.Observe)
	st := a.Net.StatePos(e.State)
	out := make([][]float64, len(views))
	for i := range views {
		v := &views[i]
		c := &a.Cells[v.Sc.Cell]
		ob := words.Observed{Space: a.Space, Look: o, Through: e.Through, Cell: c,
			Faults: a.Diags[c.Diagnosis].Faults, Severity: v.Sc.Sev, Codes: job.Codes, Trust: job.Known.CodesTrust,
			SolvedIn: func(s int) *cells.Solved { return v.Lin[s] }, Spread: v.Sc.Spread}
		out[i] = ob.Outcomes(st)
	}
	return out
}
