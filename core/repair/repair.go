// Package repair compares what can be done about a verdict: what each option costs in
// expectation, how long the machine stands, and what one would have to believe for
// another option to win.
//
// An option cures some faults. Its chance of success is the posterior mass of the
// diagnoses it cures, times its workmanship. What was cured comes back as a renewal
// process (see [Life]) over the time the machine is to stay; what was not is found out
// at the first start, and the surest option follows.
package repair

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"sort"

	"corriente/core/circuit"
	"corriente/core/fault"
)

// Diagnosis is one surviving explanation and its probability.
type Diagnosis struct {
	Faults      []string
	Probability float64
}

// Reading is a reading that could be taken before anything is decided.
type Reading struct {
	Label   string
	Minutes float64
	People  int
	Spends  float64 // money used up
	Right   float64 // chance that the likeliest place is the right one once it is taken
}

// Terms are the workshop's and the customer's figures. Money is in the
// workshop's own currency.
type Terms struct {
	HourRate     float64  `json:"hour_rate"`                // money an hour of labour, >= 0
	LossPerDay   float64  `json:"loss_per_day"`             // money a day of standing still, >= 0
	Years        float64  `json:"years"`                    // how long the machine is to stay, > 0
	Comeback     float64  `json:"comeback"`                 // money and goodwill each time it comes back, >= 0
	Travel       float64  `json:"travel,omitempty"`         // money a visit, >= 0
	Postage      float64  `json:"postage,omitempty"`        // money an order, >= 0
	MinimumOrder float64  `json:"minimum_order,omitempty"`  // least an order must come to, >= 0
	MissedDays   float64  `json:"missed_days,omitempty"`    // days a year it is missed if left as it is; 0: 30
	WindsHere    bool     `json:"winds_here,omitempty"`     // a winder is within reach
	NearFuel     bool     `json:"near_fuel,omitempty"`      // the damage lies near fuel, oil or gas
	Burnt        bool     `json:"burnt,omitempty"`          // insulation or housing is burnt
	Brakes       bool     `json:"brakes,omitempty"`         // the part brakes, or holds people or loads
	Allowed      []string `json:"allowed,omitempty"`        // options whose veto was set aside, with a reason
	OnShelf      []string `json:"on_shelf,omitempty"`       // options whose part lies on the shelf: no postage, no wait
	Temporary    float64  `json:"temporary_days,omitempty"` // how long a temporary repair may stay; 0: 14
}

// Figures override an option's defaults; a negative value, or zero where it is optional,
// keeps the default.
type Figures struct {
	Parts    float64 `json:"parts"`
	Minutes  float64 `json:"minutes"`
	WaitDays float64 `json:"wait_days"`
	Success  float64 `json:"success,omitempty"`        // workmanship, 0..1; 0 keeps
	Life     float64 `json:"life_years,omitempty"`     // median; 0 keeps
	Warranty float64 `json:"warranty_years,omitempty"` // below 0: none, whatever is usual
}

// Keep keeps all defaults.
var Keep = Figures{Parts: -1, Minutes: -1, WaitDays: -1}

// Veto is why an option should not be taken.
type Veto struct {
	Reason    string `json:"reason"`
	Dangerous bool   `json:"dangerous"` // cannot be set aside
	SetAside  bool   `json:"set_aside"`
}

// Option is one thing to do about the verdict.
type Option struct {
	ID        string   `json:"id"`   // repair, replace, clean, rewind, donor, assembly, temporary, leave, reading
	Kind      string   `json:"kind"` // in a word or two, for people
	Station   string   `json:"station"`
	Label     string   `json:"label"`
	Cures     []string `json:"cures"` // station.mode
	Parts     float64  `json:"parts"` // postage and the minimum order counted in
	Minutes   float64  `json:"minutes"`
	Labour    float64  `json:"labour"` // travel counted in
	WaitDays  float64  `json:"wait_days"`
	Standing  float64  `json:"standing"` // loss while it stands
	Cure      float64  `json:"cure"`     // chance that the fault is among those it cures
	Success   float64  `json:"success"`  // times workmanship
	LifeYears float64  `json:"life_years"`
	Warranty  float64  `json:"warranty_years"`
	ComebackP float64  `json:"comeback_chance"` // chance that good work fails within the time the machine stays
	Comebacks float64  `json:"comebacks"`       // how often, in expectation
	FailCost  float64  `json:"fail_cost"`       // cost when it does not cure
	RiskCost  float64  `json:"risk_cost"`       // expected cost of failing and of coming back
	Expected  float64  `json:"expected"`
	Low       float64  `json:"low"`   // 10 %
	High      float64  `json:"high"`  // 90 %
	Days      float64  `json:"days"`  // until it works, in expectation
	Later     float64  `json:"later"` // what follows for certain: the lasting repair after a temporary one
	Veto      *Veto    `json:"veto,omitempty"`
	Limit     string   `json:"limit,omitempty"` // of a temporary repair

	again       float64 // cost of one comeback
	free        float64 // of that, what a warranty pays
	workmanship float64
	shape       float64
}

// BreakEven says what one would have to believe for the next option to win.
type BreakEven struct {
	Quantity string  `json:"quantity"` // parts, wait_days, success, years, hour_rate
	Now      float64 `json:"now"`
	Value    float64 `json:"value"`
	Says     string  `json:"says"`
}

// Comparison is the options, cheapest in expectation first, vetoed ones last.
type Comparison struct {
	Options    []Option    `json:"options"`
	BreakEvens []BreakEven `json:"break_evens"`
	Says       string      `json:"says"`
}

func (t *Terms) check() error {
	sum := 0.0
	for _, v := range []float64{t.HourRate, t.LossPerDay, t.Comeback, t.Travel, t.Postage, t.MinimumOrder, t.MissedDays, t.Temporary} {
		if !(v >= 0) {
			return fmt.Errorf("rates, losses, postage and days start at zero")
		}
		sum += v
	}
	if math.IsInf(sum, 0) || !(t.Years > 0 && t.Years <= 100) {
		return fmt.Errorf("rates and losses start at zero, and the machine stays above 0 and up to 100 years")
	}
	return nil
}

// Compare computes the options for a station. opened is the labour in minutes that the
// diagnosis has already done on the way in; readings are those that could be taken
// first.
func Compare(c *circuit.Circuit, station string, ds []Diagnosis, t Terms, opened float64, with map[string]Figures, readings []Reading) (*Comparison, error) {
	s := c.Station(station)
	if s == nil {
		return nil, fmt.Errorf("circuit %s has no station %q", c.ID, station)
	}
	if err := t.check(); err != nil {
		return nil, err
	}
	for id, f := range with {
		for _, v := range []float64{f.Parts, f.Minutes, f.WaitDays, f.Success, f.Life, f.Warranty} {
			if math.IsNaN(v) || math.IsInf(v, 0) || v > 1e7 {
				return nil, fmt.Errorf("%s: %g is no price, time or life", id, v)
			}
		}
		if f.Success > 1 {
			return nil, fmt.Errorf("%s: a chance of success lies between 0 and 1", id)
		}
	}
	var out []Option
	for _, p := range plans(c, s) {
		f, ok := with[p.id]
		if !ok {
			f = Keep
		}
		o := build(c, s, p, f, ds, t, opened)
		o.Veto = veto(s, &o, t)
		out = append(out, o)
	}
	if len(out) == 0 {
		return &Comparison{Options: []Option{}, BreakEvens: []BreakEven{}, Says: "Nothing is known that could be done about this part."}, nil
	}
	surest, lasting := fallback(out)
	for i := range out {
		o := &out[i]
		switch o.ID {
		case "leave":
			days := t.MissedDays
			if days == 0 {
				days = 30
			}
			o.Standing = t.LossPerDay * days * t.Years
			o.Success = none(ds)
			o.FailCost, o.Expected, o.Low, o.High = 0, o.Standing*(1-o.Success), 0, o.Standing
			continue
		case "temporary":
			// It works while the part comes: the lasting repair's own work and part
			// follow, its risk, and a second visit of the machine.
			l := out[lasting]
			l.FailCost = 0
			l.settle(t)
			o.Later = l.Parts + l.Labour + l.Success*l.RiskCost + t.Comeback + l.Minutes/60/8*t.LossPerDay
			o.LifeYears = 0
			days := t.Temporary
			if days == 0 {
				days = 14
			}
			o.Limit = fmt.Sprintf("at most %.0f days, labelled; then: %s", days, l.Label)
			o.FailCost = t.HourRate/2 + l.Standing + (1-l.Success)*(t.HourRate+t.Comeback+t.LossPerDay)
			o.settle(t)
			o.simulate(t)
			continue
		}
		o.FailCost = t.HourRate + t.Comeback + t.LossPerDay + t.Travel
		if surest != i {
			o.FailCost += out[surest].Parts + out[surest].Labour + out[surest].Standing
		} else {
			o.FailCost += o.Labour // the part is good; the work is not
		}
		o.settle(t)
		o.simulate(t)
	}
	if r := reading(out, readings, t); r != nil {
		out = append(out, *r)
	}
	rank := func(o *Option) int {
		if o.Veto != nil && !o.Veto.SetAside {
			return 1
		}
		return 0
	}
	sort.SliceStable(out, func(i, j int) bool {
		if a, b := rank(&out[i]), rank(&out[j]); a != b {
			return a < b
		}
		return out[i].Expected < out[j].Expected || out[i].Expected == out[j].Expected && out[i].ID < out[j].ID
	})
	cmp := &Comparison{Options: out, BreakEvens: []BreakEven{}}
	cmp.settle(t)
	return cmp, nil
}

// settle says which option wins, and by what the next one would.
func (c *Comparison) settle(t Terms) {
	open := slices.DeleteFunc(slices.Clone(c.Options), func(o Option) bool { return o.Veto != nil && !o.Veto.SetAside })
	switch {
	case len(open) == 0:
		c.Says = "Every option is ruled out: this is for a specialist."
		return
	case len(open) == 1:
		c.Says = fmt.Sprintf("%s is all that is left.", open[0].Label)
		return
	}
	a, b := open[0], open[1]
	if b.ID == "reading" && len(open) > 2 { // a reading is no other way of mending it
		b = open[2]
	}
	if a.ID == "reading" {
		c.Says = fmt.Sprintf("One more reading first saves %.0f in expectation: %s.", b.Expected-a.Expected, lower(a.Label))
		if len(open) > 2 {
			c.breakEvens(b, open[2], t)
		}
		return
	}
	c.breakEvens(a, b, t)
	c.Says = fmt.Sprintf("%s and %s cost about the same in expectation, %.0f apart: let time and trust decide.", a.Label, b.Label, b.Expected-a.Expected)
	if b.Expected > 1.05*a.Expected {
		c.Says = fmt.Sprintf("%s is the cheapest in expectation, by %.0f against: %s.", a.Label, b.Expected-a.Expected, b.Label)
	}
}

// plan is what an option starts from.
type plan struct {
	id, kind string
	circuit.Action
	shape float64
	extra []string // further faults it cures, station.mode
}

// plans lists what can be done about a part. Repair and replacement stand in the family;
// the others follow from them by the kind of part, with shares from memory of the
// trade: a donor part costs three tenths and lasts four tenths, a rewind costs a little
// over half and takes a fortnight.
func plans(c *circuit.Circuit, s *circuit.Station) []plan {
	var out []plan
	if a := s.Repair; a != nil {
		out = append(out, plan{"repair", "repair", *a, 1.4, nil})
	}
	rep := s.Replace
	if rep != nil {
		out = append(out, plan{"replace", "replace", *rep, 2, nil})
	}
	cleaned := map[circuit.Kind]circuit.Action{
		circuit.Motor:   {Label: "Clean brushes, holders and commutator", Cures: []string{"brushes_worn", "commutator_damaged", "low_brush_worn", "high_brush_worn"}, Parts: 2, Success: 0.4, LifeYears: 0.8},
		circuit.Contact: {Label: "Clean the contacts", Cures: []string{"high_resistance"}, Parts: 2, Success: 0.7, LifeYears: 1},
		circuit.Coil:    {Label: "Free and oil the plunger", Cures: []string{"sticking"}, Parts: 1, Success: 0.6, LifeYears: 0.7},
	}
	if a, ok := cleaned[s.Kind]; ok && s.Repair != nil {
		a.Minutes = 0.7 * s.Repair.Minutes
		if s.Repair.Parts > 3 { // else the repair is the cleaning
			out = append(out, plan{"clean", "clean and adjust", a, 1, nil})
		}
	}
	whole := slices.Contains([]circuit.Kind{circuit.Motor, circuit.Driver, circuit.Coil, circuit.ResistorPack, circuit.Throttle}, s.Kind)
	if rep != nil && whole && rep.Parts >= 50 {
		out = append(out, plan{"donor", "donor part", circuit.Action{Label: "Fit a used " + lower(s.Label), Cures: rep.Cures, Parts: 0.3 * rep.Parts, Minutes: rep.Minutes,
			WaitDays: 2, Success: 0.82 * rep.Success, LifeYears: 0.4 * rep.LifeYears}, 1.2, nil})
	}
	if rep != nil && s.Kind == circuit.Motor && rep.Parts >= 100 {
		out = append(out, plan{"rewind", "rewind", circuit.Action{Label: "Have it rewound", Cures: []string{"winding_open", "shorted_turns", "winding_grounded"}, Parts: 0.55 * rep.Parts, Minutes: 1.15 * rep.Minutes,
			WaitDays: 14, Success: 0.86, LifeYears: 0.85 * rep.LifeYears}, 1.6, nil})
	}
	if rep != nil && s.Kind == circuit.Motor {
		for i := range c.Stations {
			// What the motor turns comes with it only where both sit in one frame; an engine does
			// not.
			if d := &c.Stations[i]; d.Kind == circuit.Drive && !slices.Contains([]string{"starter", "contactor_motor", "traction", "two_wire_motor"}, c.ID) {
				var extra []string
				for _, m := range circuit.KindModes(circuit.Drive) {
					extra = append(extra, fault.Fault{Station: d.ID, Mode: m}.String())
				}
				out = append(out, plan{"assembly", "whole assembly", circuit.Action{Label: fmt.Sprintf("Fit %s and %s as one assembly", lower(s.Label), lower(d.Label)), Cures: rep.Cures,
					Parts: 1.8 * rep.Parts, Minutes: 1.1 * rep.Minutes, WaitDays: rep.WaitDays + 1, Success: math.Min(0.98, rep.Success+0.01), LifeYears: rep.LifeYears}, 2, extra})
				break
			}
		}
	}
	// A fuse is never bridged, and what only guards is not either.
	if s.Repair != nil && slices.Contains([]circuit.Kind{circuit.Motor, circuit.Joint, circuit.Wire, circuit.Contact, circuit.Coil}, s.Kind) {
		out = append(out, plan{"temporary", "temporary repair", circuit.Action{Label: "Get it home: a temporary repair", Cures: s.Repair.Cures, Parts: 2, Minutes: 0.35 * s.Repair.Minutes, Success: 0.65}, 1, nil})
	}
	return append(out, plan{"leave", "leave it", circuit.Action{Label: "Leave it as it is"}, 1, nil})
}

func lower(s string) string {
	if s == "" {
		return s
	}
	return string(s[0]|0x20) + s[1:]
}

func build(_ *circuit.Circuit, s *circuit.Station, p plan, f Figures, ds []Diagnosis, t Terms, opened float64) Option {
	o := Option{ID: p.id, Kind: p.kind, Station: s.ID, Label: p.Label, Cures: []string{}, Parts: p.Parts, Minutes: p.Minutes, WaitDays: p.WaitDays, LifeYears: p.LifeYears, Warranty: f.Warranty,
		workmanship: p.Success, shape: p.shape}
	if p.id == "replace" && f.Warranty == 0 {
		o.Warranty = 1
	}
	o.Warranty = max(o.Warranty, 0)
	if f.Parts >= 0 {
		o.Parts = f.Parts
	}
	if f.Minutes >= 0 {
		o.Minutes = f.Minutes
	}
	if f.WaitDays >= 0 {
		o.WaitDays = f.WaitDays
	}
	if f.Success > 0 {
		o.workmanship = f.Success
	}
	if f.Life > 0 {
		o.LifeYears = f.Life
	}
	if p.id == "leave" {
		return o
	}
	shelf := slices.Contains(t.OnShelf, p.id)
	if shelf {
		o.WaitDays = 0
	}
	if o.Parts > 5 && !shelf { // small stuff lies in every workshop
		o.Parts = math.Max(o.Parts, t.MinimumOrder) + t.Postage
	}
	// What is already open need not be opened again; the work itself remains.
	o.Minutes = math.Max(o.Minutes-opened, 0.3*o.Minutes)
	cured := map[string]bool{}
	for _, m := range p.Cures {
		cured[fault.Fault{Station: s.ID, Mode: m}.String()] = true
	}
	for _, e := range p.extra {
		cured[e] = true
	}
	for c := range cured {
		o.Cures = append(o.Cures, c)
	}
	sort.Strings(o.Cures)
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
	o.Labour = o.Minutes/60*t.HourRate + t.Travel
	o.Standing = (o.WaitDays + o.Minutes/60/8) * t.LossPerDay
	return o
}

// none is the chance that nothing is wrong.
func none(ds []Diagnosis) float64 {
	p := 0.0
	for _, d := range ds {
		if len(d.Faults) == 0 {
			p += d.Probability
		}
	}
	return math.Min(p, 1)
}

// veto says why an option should not be taken here.
func veto(s *circuit.Station, o *Option, t Terms) *Veto {
	var v *Veto
	set := func(dangerous bool, reason string) {
		if v == nil || dangerous && !v.Dangerous {
			v = &Veto{Reason: reason, Dangerous: dangerous}
		}
	}
	lasting := slices.Contains([]string{"repair", "replace", "assembly", "rewind"}, o.ID)
	if t.Burnt && t.NearFuel && !lasting {
		set(true, "burnt insulation near fuel or oil is a fire hazard: only a lasting repair, and out of use until then")
	}
	if t.Burnt && o.ID == "clean" {
		set(true, "what was burnt is not mended by cleaning: heat has taken its spring and its insulation")
	}
	if t.Brakes && (o.ID == "temporary" || o.ID == "leave" || o.ID == "donor") {
		set(true, "it brakes, or holds people or loads: no makeshift and no used part of unknown history")
	}
	if o.ID == "temporary" && s.Kind == circuit.Contact && s.ID == "interlock" {
		set(true, "an interlock guards people: it is never bridged")
	}
	if o.ID == "rewind" && !t.WindsHere {
		set(false, "no winder within reach")
	}
	if o.ID != "leave" && o.Cure < 0.02 {
		set(false, "it cures none of the likely faults")
	}
	if v != nil && !v.Dangerous && slices.Contains(t.Allowed, o.ID) {
		v.SetAside = true
	}
	return v
}

// fallback returns the surest option, and the cheaper lasting one.
func fallback(out []Option) (surest, lasting int) {
	surest, lasting = -1, -1
	for i := range out {
		o := &out[i]
		if o.ID != "repair" && o.ID != "replace" {
			continue
		}
		if surest < 0 || o.workmanship > out[surest].workmanship {
			surest = i
		}
		if lasting < 0 || o.Parts+o.Labour < out[lasting].Parts+out[lasting].Labour && o.Cure >= 0.5*out[lasting].Cure {
			lasting = i
		}
	}
	return max(surest, 0), max(lasting, 0)
}

// settle computes what follows from an option's figures.
func (o *Option) settle(t Terms) {
	o.Success = o.Cure * o.workmanship
	sure := o.Parts + o.Labour + o.Standing + o.Later
	o.again = o.Parts + o.Labour + t.Comeback + t.LossPerDay
	o.free = o.Parts
	covered := 0.0
	if o.LifeYears > 0 {
		l := Life{o.LifeYears, o.shape}
		o.ComebackP = l.CDF(t.Years)
		o.Comebacks, covered = l.Renewals(t.Years, o.Warranty)
	}
	o.RiskCost = (1-o.Success)*o.FailCost + o.Success*(o.Comebacks*o.again-covered*o.free)
	o.Expected = sure + o.RiskCost
	o.Days = o.WaitDays + o.Minutes/60/8 + (1-o.Success)*1.5
}

// draws is how many courses of an option are tried for its range.
const draws = 800

// simulate finds the range of an option's cost from courses of the same process: labour
// spread by a quarter, parts by a tenth, lives drawn. The same figures give the same
// range.
func (o *Option) simulate(t Terms) {
	rng := rand.New(rand.NewPCG(7, 19))
	l := Life{o.LifeYears, o.shape}
	cost := make([]float64, draws)
	for k := range cost {
		labour := o.Labour * math.Exp(0.25*rng.NormFloat64()-0.03125)
		parts := o.Parts * math.Exp(0.1*rng.NormFloat64()-0.005)
		x := parts + labour + o.Standing + o.Later
		if rng.Float64() >= o.Success {
			cost[k] = x + o.FailCost
			continue
		}
		if o.LifeYears > 0 {
			for at, n := 0.0, 0; n < 200; n++ {
				life := l.Quantile(rng.Float64())
				if at += life; at > t.Years {
					break
				}
				x += o.again
				if life <= o.Warranty {
					x -= o.free
				}
			}
		}
		cost[k] = x
	}
	sort.Float64s(cost)
	o.Low, o.High = cost[draws/10], cost[draws*9/10]
}

// reading is taking one more reading first: its own price, and then the best option with
// the chance of a cure that the reading would bring, the expected greatest
// probability after it. nil where no reading helps.
func reading(out []Option, rs []Reading, t Terms) *Option {
	var best *Option
	for _, r := range rs {
		people := float64(max(r.People, 1))
		price := r.Minutes/60*t.HourRate*(1+0.5*(people-1)) + r.Spends
		cheapest, from := math.Inf(1), -1
		p := 0.0
		for i := range out {
			p = math.Max(p, out[i].Cure)
		}
		if p <= 0 || r.Right <= p {
			continue
		}
		for i, o := range out {
			if o.ID == "leave" || o.ID == "temporary" || o.Veto != nil && !o.Veto.SetAside {
				continue
			}
			o.Cure = math.Min(1, o.Cure*r.Right/p)
			o.settle(t)
			if o.Expected < cheapest {
				cheapest, from = o.Expected, i
			}
		}
		if from < 0 {
			continue
		}
		o := out[from]
		o.Cure = math.Min(1, o.Cure*r.Right/p)
		o.settle(t)
		o.simulate(t)
		x := Option{ID: "reading", Kind: "one more reading first", Station: o.Station, Label: r.Label, Cures: []string{}, Minutes: r.Minutes, Labour: price + o.Labour, Parts: o.Parts, Standing: o.Standing, WaitDays: o.WaitDays,
			Cure: o.Cure, Success: o.Success, LifeYears: o.LifeYears, RiskCost: o.RiskCost, ComebackP: o.ComebackP, Comebacks: o.Comebacks, Expected: o.Expected + price, Low: o.Low + price, High: o.High + price, Days: o.Days + r.Minutes/60/8}
		if best == nil || x.Expected < best.Expected {
			best = &x
		}
	}
	return best
}

// find is the root of f between lo and hi by bisection, where f changes its sign.
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
	return (lo + hi) / 2, true
}

// cost is an option's expected cost under changed terms or figures.
func cost(o Option, t Terms) float64 {
	o.settle(t)
	return o.Expected
}

// breakEvens computes how far each figure of the winner would have to move for the next
// option to win.
func (c *Comparison) breakEvens(best, other Option, t Terms) {
	if best.ID == "leave" || other.ID == "leave" || other.ID == "reading" {
		// What is left costs only what it is missed: that figure decides.
		if other.ID == "leave" && t.LossPerDay > 0 {
			k := best.Expected / math.Max(other.Expected, 1e-9)
			c.BreakEvens = append(c.BreakEvens, BreakEven{"loss_per_day", t.LossPerDay, t.LossPerDay * k, fmt.Sprintf("a day of standing still would have to cost %.1f instead of %.1f", t.LossPerDay*k, t.LossPerDay)})
		}
		return
	}
	add := func(q string, now, v float64, says string) {
		c.BreakEvens = append(c.BreakEvens, BreakEven{q, now, v, says})
	}
	target := cost(other, t)
	if v, ok := find(best.Parts, best.Parts+10*(target+1), func(x float64) float64 {
		o := best
		o.Parts = x
		return cost(o, t) - target
	}); ok {
		add("parts", best.Parts, v, fmt.Sprintf("its parts would have to cost %.0f instead of %.0f", v, best.Parts))
	}
	if t.LossPerDay > 0 && best.ID != "temporary" {
		if v, ok := find(best.WaitDays, best.WaitDays+3650, func(x float64) float64 {
			o := best
			o.Standing += (x - best.WaitDays) * t.LossPerDay
			return cost(o, t) - target
		}); ok {
			add("wait_days", best.WaitDays, v, fmt.Sprintf("it would have to take %.1f days to arrive instead of %.1f", v, best.WaitDays))
		}
	}
	if v, ok := find(0, best.Success, func(x float64) float64 {
		o := best
		o.Cure, o.workmanship = x, 1
		return cost(o, t) - target
	}); ok && best.Success > 0 {
		add("success", best.Success, v, fmt.Sprintf("its chance of success would have to be %.0f %% instead of %.0f %%", 100*v, 100*best.Success))
	}
	diff := func(y float64) float64 {
		tt := t
		tt.Years = y
		return cost(best, tt) - cost(other, tt)
	}
	for _, r := range [2][2]float64{{t.Years, 40}, {0.05, t.Years}} {
		if v, ok := find(r[0], r[1], diff); ok && math.Abs(v-t.Years) > 0.02 {
			add("years", t.Years, v, fmt.Sprintf("the machine would have to stay %.1f years instead of %.1f", v, t.Years))
			break
		}
	}
}
