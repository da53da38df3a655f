package repair

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"corriente/core/circuit"
	"corriente/core/phrase"
)

// veto says why an option should not be taken here; nil where nothing stands against it.
func (st *story) veto(o *Option) *Veto {
	var v *Veto
	set := func(dangerous bool, reason string) {
		if v == nil || dangerous && !v.Dangerous {
			v = &Veto{Reason: reason, Dangerous: dangerous}
		}
	}
	t := &st.t
	does := func(ids ...string) bool {
		return slices.ContainsFunc(o.steps, func(x step) bool { return slices.Contains(ids, x.Does) })
	}
	leave := o.ID == "leave"
	if t.Burnt && t.NearFuel && (leave || o.Temporary || does("clean", "donor")) {
		set(true, "burnt insulation near fuel or oil is a fire hazard: only a lasting repair, and out of use until then")
	}
	if t.Burnt && does("clean") {
		set(true, "what was burnt is not mended by cleaning: heat has taken its spring and its insulation")
	}
	if t.Strands && leave {
		set(true, "what is left of the strands carries the whole current and glows under load: a fire hazard is not left in a machine")
	}
	if t.Oily && does("brushes", "clean") {
		set(false, "oil that got in once comes in again: the seal first")
	}
	if t.Brakes && (leave || o.Temporary || does("donor")) {
		set(true, "it brakes, or holds people or loads: no makeshift and no used part of unknown history")
	}
	st.vetoSteps(o, set)
	if does("rewind") && !t.WindsHere {
		set(false, "no winder within reach")
	}
	if !leave && o.CuresThis < 0.02 {
		set(false, "it cures none of the likely faults")
	}
	if v != nil && !v.Dangerous && slices.Contains(t.Allowed, o.ID) {
		v.SetAside = true
	}
	return v
}

// vetoSteps says what stands against single steps of a plan.
func (st *story) vetoSteps(o *Option, set func(dangerous bool, reason string)) {
	for i := range o.steps {
		s := st.c.Station(o.steps[i].Station)
		if o.Temporary && s.ID == "interlock" {
			set(true, "an interlock guards people: it is never made do with")
		}
		if st.t.Burnt && s.Kind == circuit.Joint && o.steps[i].Does == "repair" {
			set(false, "where it was hot, cleaning and tightening does not hold: a new terminal, or a new one altogether")
		}
	}
}

// against says which of the customer's wishes an option does not meet; empty where it
// meets them all.
func (st *story) against(o *Option) string {
	t := &st.t
	var says []string
	if cost := o.Parts + o.Labour + o.Later; t.MostCost > 0 && cost > t.MostCost+0.005 && o.ID != "leave" {
		says = append(says, fmt.Sprintf("costs %s, more than the limit of %s", t.sum(cost), t.sum(t.MostCost)))
	}
	if d := t.WithinDays; d != nil {
		if takes := o.WaitDays + o.Minutes/60/workday; o.ID == "leave" {
			says = append(says, "it will not run by then")
		} else if takes > *d+0.5 { // a day is not counted by the hour
			says = append(says, fmt.Sprintf("takes %s, too late", inDays(takes)))
		}
	}
	if t.Guarantee == GuaranteeWanted && o.ID != "leave" && o.Warranty <= 0 {
		says = append(says, "no guarantee can be given")
	}
	return strings.Join(says, "; ")
}

func inDays(d float64) string {
	if d < 1.25 {
		return "a day"
	}
	return fmt.Sprintf("%.0f days", math.Ceil(d-0.25))
}

// advise says which option wins, by what the next one would, and what the wishes rule out.
func (c *Comparison) advise(st *story) {
	fits := func(o Option) bool { return (o.Veto == nil || o.Veto.SetAside) && o.Against == "" }
	var open []Option
	var ruled []string
	for _, o := range c.Options {
		switch {
		case fits(o):
			open = append(open, o)
		case o.Against != "" && (o.Veto == nil || o.Veto.SetAside):
			ruled = append(ruled, fmt.Sprintf("%s (%s)", phrase.Lower(o.Label), o.Against))
		}
	}
	if len(ruled) > 0 {
		c.Ruled = "What the customer wants rules out: " + strings.Join(ruled, "; ") + "."
	}
	mending := slices.DeleteFunc(slices.Clone(open), func(o Option) bool { return o.ID == "leave" || o.ID == "reading" })
	switch {
	case len(open) == 0 && len(ruled) > 0:
		c.Says = "Nothing that can be done meets all the customer wants: ask which wish may give way."
		return
	case len(open) == 0:
		c.Says = "Every option is ruled out: this is for a specialist."
		return
	case len(mending) == 0 && len(ruled) > 0:
		c.Says = "No repair meets all the customer wants: leave it, or ask which wish may give way."
		return
	case len(open) == 1:
		c.Says = fmt.Sprintf("%s: nothing else is left to choose.", open[0].Label)
		return
	}
	a, b := open[0], open[1]
	if b.ID == "reading" && len(open) > 2 { // a reading is no other way of mending it
		b = open[2]
	}
	if a.ID == "reading" {
		c.Says = fmt.Sprintf("Take one more reading first, %s: it saves about %s.", phrase.Lower(a.Label), st.t.sum(b.Expected-a.Expected))
		if len(open) > 2 {
			c.breakEvens(st, b, open[2])
		}
		return
	}
	c.breakEvens(st, a, b)
	over := "over the " + years(st.t.Years) + " the machine is to stay"
	c.Says = fmt.Sprintf("About the same %s, %s apart: %s, or %s. Let time and trust decide.", over,
		st.t.sum(b.Expected-a.Expected), phrase.Lower(a.Label), phrase.Lower(b.Label))
	if b.Expected > aboutTheSame*a.Expected {
		c.Says = fmt.Sprintf("Costs least %s: %s, about %s. The next costs %s more: %s.", over, phrase.Lower(a.Label),
			st.t.sum(a.Expected), st.t.sum(b.Expected-a.Expected), phrase.Lower(b.Label))
	}
}

// aboutTheSame is how many times dearer an option may be before that is more than the figures can tell
// apart: prices, hours and days are known to some percent at best.
const aboutTheSame = 1.05

// paysFor says whether one more reading is worth naming beside the plans: it saves more on the cheapest of
// them than the figures can tell apart. One that saves a hundredth only stands in the way.
func paysFor(reading *Option, plans []Option) bool {
	for i := range plans {
		o := &plans[i]
		if o.ID == "leave" || o.Veto != nil && !o.Veto.SetAside || o.Against != "" {
			continue
		}
		if o.Expected <= aboutTheSame*reading.Expected {
			return false
		}
	}
	return true
}

func years(y float64) string {
	switch {
	case y < 0.95:
		return fmt.Sprintf("%.0f months", math.Max(1, math.Round(12*y)))
	case math.Abs(y-1) < 0.05:
		return "year"
	case math.Abs(y-math.Round(y)) < 0.05:
		return fmt.Sprintf("%.0f years", y)
	}
	return fmt.Sprintf("%.1f years", y)
}

// find is the root of f between lo and hi by bisection, where f changes its sign without
// a jump: where a temporary repair is followed by another lasting one, costs jump.
func find(lo, hi float64, f func(x float64) float64) (float64, bool) {
	a, b := f(lo), f(hi)
	if !(a*b < 0) {
		return 0, false
	}
	for range 60 {
		m := (lo + hi) / 2
		if x := f(m); x*a > 0 {
			lo = m
		} else {
			hi = m
		}
	}
	x := (lo + hi) / 2
	return x, math.Abs(f(x)) < 1e-3
}

// cost is what an option costs in expectation, told anew.
func (st *story) cost(o Option) float64 {
	if o.ID == "leave" || o.Temporary {
		st.tell(&o)
		return o.Expected
	}
	sum := o.Parts + o.Labour + o.Standing
	for _, d := range st.ds {
		c := o.course(d)
		x, _ := st.after(&o, &c)
		sum += d.Probability * x
	}
	return sum
}

// breakEvens computes how far each figure of the winner would have to move for the next
// option to win.
func (c *Comparison) breakEvens(st *story, best, other Option) {
	t := st.t
	if best.ID == "leave" || other.ID == "leave" || other.ID == "reading" {
		// What is left costs only what it is missed: that figure decides.
		if other.ID == "leave" && t.LossPerDay > 0 {
			k := best.Expected / math.Max(other.Expected, 1e-9)
			c.BreakEvens = append(c.BreakEvens,
				BreakEven{"loss_per_day", t.LossPerDay, t.LossPerDay * k,
					fmt.Sprintf("a day of downtime would have to cost %s instead of %s", t.sum(t.LossPerDay*k), t.sum(t.LossPerDay))})
		}
		return
	}
	add := func(q string, now, v float64, says string) {
		c.BreakEvens = append(c.BreakEvens, BreakEven{q, now, v, says})
	}
	target := st.cost(other)
	if v, ok := find(best.Parts, best.Parts+10*(target+1), func(x float64) float64 {
		o := best
		o.Parts = x
		return st.cost(o) - target
	}); ok {
		add("parts", best.Parts, v, fmt.Sprintf("its parts would have to cost %s instead of %s", t.sum(v), t.sum(best.Parts)))
	}
	if t.LossPerDay > 0 && !best.Temporary {
		if v, ok := find(best.WaitDays, best.WaitDays+3650, func(x float64) float64 {
			o := best
			o.Standing += (x - best.WaitDays) * t.LossPerDay
			return st.cost(o) - target
		}); ok {
			add("wait_days", best.WaitDays, v, fmt.Sprintf("it would have to take %.1f days to arrive instead of %.1f", v, best.WaitDays))
		}
	}
	if v, ok := find(0, best.CuresThis, func(x float64) float64 {
		o := best
		o.assume = &x
		return st.cost(o) - target
	}); ok && best.CuresThis > 0 && !best.Temporary {
		add("cures_this", best.CuresThis, v,
			fmt.Sprintf("its chance of curing this would have to be %.0f %% instead of %.0f %%", 100*v, 100*best.CuresThis))
	}
	diff := func(y float64) float64 {
		tt := t
		tt.Years = y
		then := st.under(tt)
		return then.cost(best) - then.cost(other)
	}
	for _, r := range [2][2]float64{{t.Years, 40}, {0.05, t.Years}} {
		if v, ok := find(r[0], r[1], diff); ok && math.Abs(v-t.Years) > 0.02 {
			add("years", t.Years, v, fmt.Sprintf("the machine would have to stay %s instead of %s", years(v), years(t.Years)))
			break
		}
	}
}

// signs are how currencies are written before a sum where not by their code.
var signs = map[string]string{"EUR": "€", "GBP": "£", "USD": "US$", "JPY": "JP¥", "": ""}

// sum writes money, whole above ten, in the workshop's currency.
func (t Terms) sum(v float64) string {
	sign, ok := signs[t.Currency]
	if !ok {
		sign = t.Currency + "\u00a0"
	}
	if math.Abs(v) < 10 {
		return sign + strconv.FormatFloat(math.Round(10*v)/10, 'f', -1, 64)
	}
	return sign + strconv.FormatFloat(v, 'f', 0, 64)
}
