// Package repair compares what can be done about a verdict: what each option
// costs in expectation, how long the machine stands, and what one would have to
// believe for the other option to win.
package repair

import (
	"fmt"
	"math"
	"sort"

	"corriente/core/circuit"
	"corriente/core/fault"
)

// Diagnosis is one surviving explanation and its probability.
type Diagnosis struct {
	Faults      []string
	Probability float64
}

// Terms are the workshop's and the customer's figures. Money is in the
// workshop's own currency.
type Terms struct {
	HourRate   float64 `json:"hour_rate"`    // money an hour of labour, >= 0
	LossPerDay float64 `json:"loss_per_day"` // money a day of standing still, >= 0
	Years      float64 `json:"years"`        // how long the machine is to stay, > 0
	Comeback   float64 `json:"comeback"`     // money and goodwill each time it comes back, >= 0
}

// Figures override an option's defaults; a negative value keeps the default.
type Figures struct {
	Parts    float64 `json:"parts"`
	Minutes  float64 `json:"minutes"`
	WaitDays float64 `json:"wait_days"`
}

// Keep keeps all defaults.
var Keep = Figures{-1, -1, -1}

// Option is one thing to do about the verdict.
type Option struct {
	ID          string   `json:"id"` // repair or replace
	Station     string   `json:"station"`
	Label       string   `json:"label"`
	Cures       []string `json:"cures"` // station.mode
	Parts       float64  `json:"parts"`
	Minutes     float64  `json:"minutes"` // labour still to do
	Labour      float64  `json:"labour"`
	WaitDays    float64  `json:"wait_days"`
	Standing    float64  `json:"standing"` // loss while it waits
	Cure        float64  `json:"cure"`     // chance that the fault is among those it cures
	Success     float64  `json:"success"`  // times workmanship
	LifeYears   float64  `json:"life_years"`
	ComebackP   float64  `json:"comeback_chance"` // chance that good work wears out within the time the machine stays
	FailCost    float64  `json:"fail_cost"`       // cost when it does not cure
	RiskCost    float64  `json:"risk_cost"`       // expected cost of failing and of coming back
	Expected    float64  `json:"expected"`
	Low         float64  `json:"low"`  // 10 %
	High        float64  `json:"high"` // 90 %
	Days        float64  `json:"days"` // until it works, in expectation
	again       float64
	workmanship float64
}

// BreakEven says what one would have to believe for the other option to win.
type BreakEven struct {
	Quantity string  `json:"quantity"` // parts, wait_days, success, years
	Now      float64 `json:"now"`
	Value    float64 `json:"value"`
	Says     string  `json:"says"`
}

// Comparison is the options, cheapest in expectation first.
type Comparison struct {
	Options    []Option    `json:"options"`
	BreakEvens []BreakEven `json:"break_evens"`
	Says       string      `json:"says"`
}

// Compare computes the options for a station. opened is the labour in minutes
// that the diagnosis has already done on the way in.
func Compare(c *circuit.Circuit, station string, ds []Diagnosis, t Terms, opened float64, with map[string]Figures) (*Comparison, error) {
	s := c.Station(station)
	if s == nil {
		return nil, fmt.Errorf("circuit %s has no station %q", c.ID, station)
	}
	if !(t.HourRate >= 0 && t.LossPerDay >= 0 && t.Comeback >= 0) || !(t.Years > 0 && t.Years <= 100) ||
		math.IsInf(t.HourRate+t.LossPerDay+t.Comeback, 0) {
		return nil, fmt.Errorf("rates and losses start at zero, and the machine stays above 0 and up to 100 years")
	}
	var out []Option
	for id, a := range map[string]*circuit.Action{"repair": s.Repair, "replace": s.Replace} {
		if a == nil {
			continue
		}
		f, ok := with[id]
		if !ok {
			f = Keep
		}
		out = append(out, build(id, s, a, f, ds, t, opened))
	}
	// Failing means finding out, and then fitting the surest of the options.
	surest := -1
	for i := range out {
		if surest < 0 || out[i].workmanship > out[surest].workmanship {
			surest = i
		}
	}
	for i := range out {
		o := &out[i]
		o.FailCost = t.HourRate + t.Comeback + t.LossPerDay
		if surest != i {
			o.FailCost += out[surest].Parts + out[surest].Labour + out[surest].Standing
		} else {
			o.FailCost += o.Labour // the part is good; the work is not
		}
		o.settle(t)
	}
	sort.Slice(out, func(i, j int) bool {
		return out[i].Expected < out[j].Expected || out[i].Expected == out[j].Expected && out[i].ID < out[j].ID
	})
	cmp := &Comparison{Options: out, BreakEvens: []BreakEven{}}
	if len(out) == 2 {
		cmp.breakEvens(t)
		cmp.Says = fmt.Sprintf("The two cost about the same in expectation, %.0f apart: let time and trust decide.", out[1].Expected-out[0].Expected)
	}
	if len(out) == 2 && out[1].Expected > 1.05*out[0].Expected {
		cmp.Says = fmt.Sprintf("%s is the cheaper in expectation, by %.0f.", out[0].Label, out[1].Expected-out[0].Expected)
	}
	return cmp, nil
}

func build(id string, s *circuit.Station, a *circuit.Action, f Figures, ds []Diagnosis, t Terms, opened float64) Option {
	o := Option{ID: id, Station: s.ID, Label: a.Label, Parts: a.Parts, Minutes: a.Minutes, WaitDays: a.WaitDays, LifeYears: a.LifeYears, workmanship: a.Success}
	if f.Parts >= 0 {
		o.Parts = f.Parts
	}
	if f.Minutes >= 0 {
		o.Minutes = f.Minutes
	}
	if f.WaitDays >= 0 {
		o.WaitDays = f.WaitDays
	}
	// What is already open need not be opened again; the work itself remains.
	o.Minutes = math.Max(o.Minutes-opened, 0.3*o.Minutes)
	for _, m := range a.Cures {
		o.Cures = append(o.Cures, fault.Fault{Station: s.ID, Mode: m}.String())
	}
	cured := map[string]bool{}
	for _, c := range o.Cures {
		cured[c] = true
	}
	for _, d := range ds {
		all := len(d.Faults) > 0
		for _, x := range d.Faults {
			all = all && cured[x]
		}
		if all {
			o.Cure += d.Probability
		}
	}
	o.Cure = math.Min(o.Cure, 1)
	o.Labour = o.Minutes / 60 * t.HourRate
	o.Standing = (o.WaitDays + o.Minutes/60/8) * t.LossPerDay
	return o
}

// settle computes what follows from an option's figures. Coming back within the
// time the machine stays follows an exponential life with the given median:
// P = 1 - 2^(-years/median).
func (o *Option) settle(t Terms) {
	o.Success = o.Cure * o.workmanship
	if o.LifeYears > 0 {
		o.ComebackP = 1 - math.Exp2(-t.Years/o.LifeYears)
	}
	o.again = o.Parts + o.Labour + t.Comeback + t.LossPerDay
	sure := o.Parts + o.Labour + o.Standing
	o.RiskCost = (1-o.Success)*o.FailCost + o.Success*o.ComebackP*o.again
	o.Expected = sure + o.RiskCost
	o.Days = o.WaitDays + o.Minutes/60/8 + (1-o.Success)*1.5
	// The cost is one of three outcomes; its 10 and 90 % points.
	type outcome struct{ p, cost float64 }
	list := []outcome{{o.Success * (1 - o.ComebackP), sure}, {o.Success * o.ComebackP, sure + o.again}, {1 - o.Success, sure + o.FailCost}}
	sort.Slice(list, func(i, j int) bool { return list[i].cost < list[j].cost })
	at := func(q float64) float64 {
		for _, x := range list {
			if q -= x.p; q <= 0 {
				return x.cost
			}
		}
		return list[len(list)-1].cost
	}
	o.Low, o.High = at(0.1), at(0.9)
}

// breakEvens computes, for the cheaper option, how far each of its figures would
// have to move for the other to win.
func (c *Comparison) breakEvens(t Terms) {
	best, other := c.Options[0], c.Options[1]
	gap := func(o Option, t Terms) float64 { o.settle(t); return o.Expected }
	find := func(lo, hi float64, f func(x float64) float64) (float64, bool) {
		a, b := f(lo), f(hi)
		if a*b > 0 {
			return 0, false
		}
		for range 80 {
			m := (lo + hi) / 2
			if x := f(m); x*a > 0 {
				lo = m
			} else {
				hi = m
			}
		}
		return (lo + hi) / 2, true
	}
	add := func(q string, now, v float64, says string) {
		c.BreakEvens = append(c.BreakEvens, BreakEven{q, now, v, says})
	}
	if v, ok := find(best.Parts, best.Parts+10*(other.Expected+1), func(x float64) float64 {
		o := best
		o.Parts = x
		return gap(o, t) - other.Expected
	}); ok {
		add("parts", best.Parts, v, fmt.Sprintf("its parts would have to cost %.0f instead of %.0f", v, best.Parts))
	}
	if t.LossPerDay > 0 {
		if v, ok := find(best.WaitDays, best.WaitDays+3650, func(x float64) float64 {
			o := best
			o.Standing += (x - best.WaitDays) * t.LossPerDay
			return gap(o, t) - other.Expected
		}); ok {
			add("wait_days", best.WaitDays, v, fmt.Sprintf("it would have to take %.1f days to arrive instead of %.1f", v, best.WaitDays))
		}
	}
	if v, ok := find(0, best.Success, func(x float64) float64 {
		o := best
		o.Cure, o.workmanship = x, 1
		return gap(o, t) - other.Expected
	}); ok && best.Success > 0 {
		add("success", best.Success, v, fmt.Sprintf("its chance of success would have to be %.0f %% instead of %.0f %%", 100*v, 100*best.Success))
	}
	diff := func(y float64) float64 {
		tt := t
		tt.Years = y
		return gap(best, tt) - gap(other, tt)
	}
	for _, r := range [2][2]float64{{t.Years, 40}, {0.01, t.Years}} {
		if v, ok := find(r[0], r[1], diff); ok && math.Abs(v-t.Years) > 0.02 {
			add("years", t.Years, v, fmt.Sprintf("the machine would have to stay %.1f years instead of %.1f", v, t.Years))
			break
		}
	}
}
