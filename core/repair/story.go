package repair

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"sort"
	"strings"

	"corriente/core/circuit"
	"corriente/core/phrase"
)

// story is what a plan is told by: the circuit, what may be wrong, and the terms.
//
// Under one diagnosis the expected cost of a plan is
//
//	parts + labour + downtime
//	+ P(some fault is left) · half an hour to find out at the first start
//	+ Σ over its faults' parts  P(this part is left bad) · (its surest mending + that one's renewals)
//	+ Σ over its treatments     P(it held) · its renewals
//
// and over all diagnoses it is their mean by probability. A renewal costs the same work
// again, a comeback and a day's loss, less the part where a guarantee pays.
type story struct {
	c  *circuit.Circuit
	q  *Question
	t  Terms
	ds []Diagnosis // probabilities add up to 1

	renewed map[renewal]float64 // renewals are the same for every option with the same life
	mends   map[string]mend     // by station
}

type renewal struct {
	life     Life
	warranty float64
	covered  bool
}

// mend is the surest way to put a part right, after a plan has left it bad.
type mend struct {
	does          string
	parts, labour float64
	wait, work    float64 // days
	again         float64 // expected cost of its renewals
}

func newStory(c *circuit.Circuit, q *Question) *story {
	st := &story{c: c, q: q, t: q.Terms, renewed: map[renewal]float64{}, mends: map[string]mend{}}
	sum := 0.0
	for _, d := range q.Diagnoses {
		sum += math.Max(d.Probability, 0)
	}
	if sum <= 0 {
		st.ds = []Diagnosis{{Probability: 1}}
		return st
	}
	for _, d := range q.Diagnoses {
		if d.Probability > 0 {
			st.ds = append(st.ds, Diagnosis{d.Faults, d.Probability / sum})
		}
	}
	return st
}

// under is the story with other terms.
func (st *story) under(t Terms) *story {
	out := *st
	out.t, out.renewed, out.mends = t, map[renewal]float64{}, map[string]mend{}
	return &out
}

// believing is the story with other diagnoses.
func (st *story) believing(ds []Diagnosis) *story {
	out := *st
	out.ds = ds
	return &out
}

// renewals is the expected number of failures of a life within the time the machine
// stays, or of those that a warranty covers.
func (st *story) renewals(l Life, warranty float64, covered bool) float64 {
	k := renewal{l, warranty, covered}
	x, ok := st.renewed[k]
	if !ok {
		all, cov := l.Renewals(st.t.Years, warranty)
		st.renewed[renewal{l, warranty, false}], st.renewed[renewal{l, warranty, true}] = all, cov
		x = st.renewed[k]
	}
	return x
}

// again is the expected cost of the renewals of work that cost parts and labour.
func (st *story) again(l Life, warranty, parts, labour float64) float64 {
	if l.Median <= 0 {
		return 0
	}
	each := parts + labour + st.t.Comeback + st.t.LossPerDay
	return st.renewals(l, warranty, false)*each - st.renewals(l, warranty, true)*parts
}

// surest is how a part is put right after a plan has left it bad: replaced where it can
// be, else repaired.
func (st *story) surest(station string) mend {
	if m, ok := st.mends[station]; ok {
		return m
	}
	m := mend{labour: st.t.HourRate} // an hour, where nothing is known
	s := st.c.Station(station)
	if s != nil {
		a, l, w := s.Replace, Life{Shape: 2}, 1.0
		m.does = "replace"
		if a == nil {
			a, l, w = s.Repair, Life{Shape: 1.4}, 0
			m.does = "repair"
		}
		if a != nil {
			m.parts = a.Parts
			if m.parts > 5 {
				m.parts = math.Max(m.parts, st.t.MinimumOrder) + st.t.Postage
			}
			minutes := a.Minutes + st.q.Harder[station]
			m.labour = minutes/60*st.t.HourRate + st.t.Travel
			m.wait, m.work = a.WaitDays, minutes/60/workday
			l.Median = a.LifeYears
			if st.t.Guarantee == GuaranteeWaived {
				w = 0
			}
			m.again = st.again(l, w, m.parts, m.labour)
		}
	}
	st.mends[station] = m
	return m
}

// found is what it costs to see at the first start that something is still wrong.
func (st *story) found() float64 { return st.t.HourRate / 2 }

// cured is the chance that a plan has healed one fault, and by which of its treatments,
// -1 for none.
func (o *Option) cured(f string) (p float64, by int) {
	by = -1
	for k := range o.steps {
		x := &o.steps[k]
		if h := x.shares[f] * x.success; h > p {
			p, by = h, k
		}
	}
	if o.assume != nil && slices.ContainsFunc(o.steps, func(x step) bool { return strings.HasPrefix(f, x.Station+".") }) {
		return *o.assume, by
	}
	return p, by
}

// course is what a plan meets under one diagnosis.
type course struct {
	p     float64            // of the diagnosis
	works float64            // chance that all is healed
	left  map[string]float64 // chance that a part is left bad
	held  []float64          // chance that each treatment held
	redo  map[string]bool    // left bad, the part itself is good: only the work is done again
}

func (o *Option) course(d Diagnosis) course {
	c := course{p: d.Probability, works: 1, left: map[string]float64{}, held: make([]float64, len(o.steps)), redo: map[string]bool{}}
	for k := range c.held {
		c.held[k] = 1
	}
	for _, f := range d.Faults {
		station, _, _ := strings.Cut(f, ".")
		h, by := o.cured(f)
		c.works *= h
		c.left[station] = 1 - (1-c.left[station])*h
		for k := range o.steps {
			if o.steps[k].Station == station { // where it did not cure, another part takes its place
				c.held[k] *= h
			}
		}
		if by >= 0 && o.steps[by].Station == station {
			c.redo[station] = o.steps[by].Does == "replace"
		}
	}
	return c
}

// shareOf splits an option's parts and labour among its treatments.
func (o *Option) shareOf(k int) (parts, labour float64) {
	sumP, sumM := 0.0, 0.0
	for i := range o.steps {
		sumP, sumM = sumP+o.steps[i].parts, sumM+o.steps[i].minutes
	}
	n := float64(len(o.steps))
	p, m := 1/n, 1/n
	if sumP > 0 {
		p = o.steps[k].parts / sumP
	}
	if sumM > 0 {
		m = o.steps[k].minutes / sumM
	}
	return o.Parts * p, o.Labour * m
}

// after is the expected cost that follows a plan's work under one diagnosis, and the days
// until the machine works.
func (st *story) after(o *Option, c *course) (cost, days float64) {
	cost = (1 - c.works) * st.found()
	for station, left := range c.left {
		m := st.surest(station)
		parts, d := m.parts, m.wait+m.work
		if c.redo[station] && m.does == "replace" {
			parts, d = 0, m.work // the part is here; the work is done again
		}
		cost += left * (parts + m.labour + d*st.t.LossPerDay + m.again)
		days += left * d
	}
	for k := range o.steps {
		x := &o.steps[k]
		parts, labour := o.shareOf(k)
		cost += c.held[k] * st.again(x.life, x.warranty, parts, labour)
	}
	return cost, days
}

// tell works out what an option costs and what it cures.
func (st *story) tell(o *Option) {
	st.chances(o)
	if o.ID == "leave" {
		days := st.t.MissedDays
		if days == 0 {
			days = 30
		}
		o.Standing = st.t.LossPerDay * days * st.t.Years
		o.Expected, o.Low, o.High = o.Standing*(1-o.Works), 0, o.Standing
		return
	}
	if o.Temporary {
		st.bridge(o)
		return
	}
	sure := o.Parts + o.Labour + o.Standing
	o.RiskCost, o.Days = 0, o.WaitDays+o.Minutes/60/workday
	for _, d := range st.ds {
		c := o.course(d)
		cost, days := st.after(o, &c)
		o.RiskCost += d.Probability * cost
		o.Days += d.Probability * days
	}
	o.Expected = sure + o.RiskCost
	o.comebacks(st)
	o.Low, o.High = st.span(o, nil)
}

// comebacks is how often work that held fails again while the machine stays.
func (o *Option) comebacks(st *story) {
	none := 1.0
	o.Comebacks = 0
	for k := range o.steps {
		if l := o.steps[k].life; l.Median > 0 {
			none *= 1 - l.CDF(st.t.Years)
			o.Comebacks += st.renewals(l, 0, false)
		}
	}
	o.ComebackP = 1 - none
}

// chances fills in what an option cures, what it misses, and what may be behind it.
func (st *story) chances(o *Option) {
	mine := func(f string) bool {
		return slices.ContainsFunc(o.steps, func(x step) bool { return strings.HasPrefix(f, x.Station+".") })
	}
	this, cured := 0.0, 0.0
	missed := map[string]float64{}
	o.Behind, o.Works = 0, 0
	for _, d := range st.ds {
		works, here, elsewhere, touches := 1.0, 1.0, 1.0, false
		for _, f := range d.Faults {
			h, _ := o.cured(f)
			works *= h
			if !mine(f) {
				elsewhere *= h
				continue
			}
			touches = true
			here *= h
			share := 0.0
			for k := range o.steps {
				share = math.Max(share, o.steps[k].shares[f])
			}
			missed[f] += d.Probability * (1 - share)
		}
		o.Works += d.Probability * works
		o.Behind += d.Probability * (1 - elsewhere)
		if touches {
			this += d.Probability
			cured += d.Probability * here
		}
	}
	o.Works, o.Behind = math.Min(o.Works, 1), math.Min(math.Max(o.Behind, 0), 1)
	o.CuresThis, o.Misses = 0, []Miss{}
	if this > 1e-9 {
		o.CuresThis = math.Min(cured/this, 1)
		for f, p := range missed {
			if p/this > 0.02 {
				o.Misses = append(o.Misses, Miss{f, p / this})
			}
		}
	}
	sort.Slice(o.Misses, func(i, j int) bool {
		a, b := o.Misses[i], o.Misses[j]
		return a.Probability > b.Probability || a.Probability == b.Probability && a.Fault < b.Fault
	})
}

// bridge tells a temporary repair: while it holds the lasting one's part comes, and the
// lasting repair follows with all that it may still meet; where it does not hold, the
// lasting repair is waited for.
func (st *story) bridge(o *Option) {
	l := st.lasting(o.Station)
	if l == nil {
		o.Expected = o.Parts + o.Labour + o.Standing
		return
	}
	days := st.t.Temporary
	if days == 0 {
		days = 14
	}
	o.Limit = fmt.Sprintf("at most %.0f days, labelled; then: %s", days, phrase.Lower(l.Label))
	o.LifeYears, o.Warranty = 0, 0
	work := l.Minutes / 60 / workday * st.t.LossPerDay
	o.Later = l.Parts + l.Labour + work
	o.RiskCost, o.Days = 0, o.WaitDays+o.Minutes/60/workday
	for _, d := range st.ds {
		held := o.course(d).works
		c := l.course(d)
		cost, after := st.after(l, &c)
		wait := l.WaitDays * st.t.LossPerDay
		o.RiskCost += d.Probability * (cost + (1-held)*(st.found()+wait))
		o.Days += d.Probability * (1 - held) * (l.WaitDays + l.Minutes/60/workday + after)
	}
	o.Expected = o.Parts + o.Labour + o.Standing + o.Later + o.RiskCost
	o.comebacks(st)
	o.Low, o.High = st.span(o, l)
}

// lasting is the lasting treatment of one part that is cheapest by itself; nil where there
// is none.
func (st *story) lasting(station string) *Option {
	var best *Option
	for _, x := range steps(st.c, st.c.Station(station), st.t) {
		if x.temporary {
			continue
		}
		id := x.Does
		if len(st.q.Stations) > 1 {
			id = station + "." + id
		}
		o := st.plan(id, x)
		st.chances(&o)
		if v := st.veto(&o); v != nil && !v.SetAside {
			continue
		}
		o.Expected = o.Parts + o.Labour + o.Standing
		for _, d := range st.ds {
			c := o.course(d)
			cost, _ := st.after(&o, &c)
			o.Expected += d.Probability * cost
		}
		if best == nil || o.Expected < best.Expected {
			best = &o
		}
	}
	return best
}

// draws is how many courses of an option are tried for its range.
const draws = 600

// span finds the range of an option's cost, 10 to 90 %, from courses of the story:
// labour spread by a quarter, parts by a tenth, lives drawn. l is the lasting repair that
// follows a temporary one. The same figures give the same range.
func (st *story) span(o, l *Option) (low, high float64) {
	rng := rand.New(rand.NewPCG(7, 19))
	cost := make([]float64, draws)
	for k := range cost {
		u, i := rng.Float64(), 0
		for i < len(st.ds)-1 && u > st.ds[i].Probability {
			u -= st.ds[i].Probability
			i++
		}
		d := st.ds[i]
		x := st.paid(o, rng)
		if l == nil {
			cost[k] = x + st.drawn(o, d, rng)
			continue
		}
		x += st.paid(l, rng)
		if rng.Float64() < o.course(d).works {
			x -= l.WaitDays * st.t.LossPerDay
		} else {
			x += st.found()
		}
		cost[k] = x + st.drawn(l, d, rng)
	}
	sort.Float64s(cost)
	return cost[draws/10], cost[draws*9/10]
}

func (st *story) paid(o *Option, rng *rand.Rand) float64 {
	return o.Parts*math.Exp(0.1*rng.NormFloat64()-0.005) + o.Labour*math.Exp(0.25*rng.NormFloat64()-0.03125) + o.Standing
}

// drawn is what follows a plan's work in one course under one diagnosis.
func (st *story) drawn(o *Option, d Diagnosis, rng *rand.Rand) float64 {
	c := o.course(d)
	x, all := 0.0, true
	for _, station := range sorted(c.left) {
		if rng.Float64() >= c.left[station] {
			continue
		}
		all = false
		m := st.surest(station)
		parts, days := m.parts, m.wait+m.work
		if c.redo[station] && m.does == "replace" {
			parts, days = 0, m.work
		}
		x += parts + m.labour + days*st.t.LossPerDay + m.again
	}
	if !all {
		x += st.found()
	}
	for k := range o.steps {
		s := &o.steps[k]
		if s.life.Median <= 0 || rng.Float64() >= c.held[k] {
			continue
		}
		parts, labour := o.shareOf(k)
		for at, n := 0.0, 0; n < 200; n++ {
			life := s.life.Quantile(rng.Float64())
			if at += life; at > st.t.Years {
				break
			}
			x += parts + labour + st.t.Comeback + st.t.LossPerDay
			if life <= s.warranty {
				x -= parts
			}
		}
	}
	return x
}

func sorted(m map[string]float64) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}

// reading is taking one more reading first: its own price, and then the best plan with
// what the reading would make of the diagnosis, the likeliest place right with the
// reading's chance. nil where no reading helps.
func (st *story) reading(out []Option, rs []Reading) *Option {
	here := func(d Diagnosis) bool {
		return slices.ContainsFunc(d.Faults, func(f string) bool {
			station, _, _ := strings.Cut(f, ".")
			return slices.Contains(st.q.Stations, station)
		})
	}
	p := 0.0
	for _, d := range st.ds {
		if here(d) {
			p += d.Probability
		}
	}
	if p <= 0 || p >= 1 {
		return nil
	}
	var best *Option
	for _, r := range rs {
		if r.Right <= p || r.Right > 1 {
			continue
		}
		price := r.Minutes/60*st.t.HourRate*(1+0.5*float64(max(r.People, 1)-1)) + r.Spends
		var ds []Diagnosis
		for _, d := range st.ds {
			scale := (1 - r.Right) / (1 - p)
			if here(d) {
				scale = r.Right / p
			}
			ds = append(ds, Diagnosis{d.Faults, d.Probability * scale})
		}
		then := st.believing(ds)
		for _, o := range out {
			if o.ID == "leave" || o.Temporary || o.Veto != nil && !o.Veto.SetAside || o.Against != "" {
				continue
			}
			then.tell(&o)
			if best != nil && o.Expected+price >= best.Expected {
				continue
			}
			best = &Option{ID: "reading", Kind: "one more reading first", Station: o.Station, Steps: []Step{},
				Notes: []string{}, Cures: []string{}, Misses: []Miss{}, Label: r.Label,
				Parts: o.Parts, Minutes: r.Minutes, Labour: price + o.Labour, WaitDays: o.WaitDays,
				Standing: o.Standing, CuresThis: o.CuresThis, Behind: o.Behind, Works: o.Works,
				LifeYears: o.LifeYears, Warranty: o.Warranty, ComebackP: o.ComebackP, Comebacks: o.Comebacks,
				RiskCost: o.RiskCost, Expected: o.Expected + price, Low: o.Low + price, High: o.High + price,
				Days: o.Days + r.Minutes/60/workday}
		}
	}
	return best
}
