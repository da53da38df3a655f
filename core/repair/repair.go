package repair

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"corriente/core/circuit"
	"corriente/core/phrase"
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

// Guarantees a customer may speak of.
const (
	GuaranteeWanted = "wanted" // nothing is done without one
	GuaranteeWaived = "waived" // work without one is accepted, and none is given
)

// Terms are the workshop's and the customer's figures. Money is in the
// workshop's own currency.
type Terms struct {
	Currency     string   `json:"currency,omitempty" maxLength:"3"` // ISO 4217, written behind sums; empty: bare
	HourRate     float64  `json:"hour_rate"`                        // money an hour of labour, >= 0
	LossPerDay   float64  `json:"loss_per_day"`                     // money a day of standing still, >= 0
	Years        float64  `json:"years"`                            // how long the machine is to stay, > 0
	Comeback     float64  `json:"comeback"`                         // money and goodwill each time it comes back, >= 0
	Travel       float64  `json:"travel,omitempty"`                 // money a visit, >= 0
	Postage      float64  `json:"postage,omitempty"`                // money an order, >= 0
	MinimumOrder float64  `json:"minimum_order,omitempty"`          // least an order must come to, >= 0
	MissedDays   float64  `json:"missed_days,omitempty"`            // days a year it is missed if left as it is; 0: 30
	WindsHere    bool     `json:"winds_here,omitempty"`             // a winder is within reach
	NearFuel     bool     `json:"near_fuel,omitempty"`              // the damage lies near fuel, oil or gas
	Burnt        bool     `json:"burnt,omitempty"`                  // insulation or housing is burnt
	Oily         bool     `json:"oily,omitempty"`                   // oil got into it
	Strands      bool     `json:"strands,omitempty"`                // strands of a loaded wire are broken, or its insulation is chafed
	Brakes       bool     `json:"brakes,omitempty"`                 // the part brakes, or holds people or loads
	Allowed      []string `json:"allowed,omitempty"`                // options whose veto was set aside, with a reason
	OnShelf      []string `json:"on_shelf,omitempty"`               // options whose part lies on the shelf: no postage, no wait
	Temporary    float64  `json:"temporary_days,omitempty"`         // how long a temporary repair may stay; 0: 14

	// What the customer wants. A plan that does not meet it is named, and stands after those
	// that do.
	MostCost   float64  `json:"most_cost,omitempty"`                                    // parts and labour not above this, 0: no limit
	WithinDays *float64 `json:"within_days,omitempty"`                                  // it must run by then
	Guarantee  string   `json:"guarantee,omitempty" enum:"wanted,waived" maxLength:"8"` // wanted, waived or nothing said
}

// Figures override an option's defaults; a negative value, or zero where it is optional,
// keeps the default. Of a plan for several parts they are those of the whole.
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

// Question is what is asked about: the parts in question, what may be wrong, and on what
// terms.
type Question struct {
	Stations  []string // one to [MostParts]; a plan may be for one of them or for several
	Diagnoses []Diagnosis
	Terms     Terms
	With      map[string]Figures // by option
	Readings  []Reading          // that could be taken first
	// Opened is the labour in minutes, by station, that the diagnosis has already done on
	// the way in; Harder is how much longer the way in takes here than the family says.
	Opened, Harder map[string]float64
}

// MostParts is how many parts one plan may be for.
const MostParts = 4

// Veto is why an option should not be taken.
type Veto struct {
	Reason    string `json:"reason"`
	Dangerous bool   `json:"dangerous"` // cannot be set aside
	SetAside  bool   `json:"set_aside"`
}

// Step is one treatment of one part.
type Step struct {
	Station string `json:"station"`
	Does    string `json:"does"` // repair, replace, clean, brushes, bearing, seal, rewind, donor, assembly, terminal, temporary
	Kind    string `json:"kind"` // in a word or two, for people
	Label   string `json:"label"`
}

// Miss is a fault of a part that an option does not cure, and how likely it is that the
// part has it, of all that may be wrong with the parts in question.
type Miss struct {
	Fault       string  `json:"fault"` // station.mode
	Probability float64 `json:"probability"`
}

// Option is one plan: what is done, what it costs, what it cures.
type Option struct {
	// ID is what is done; of several parts in question station.does, and of a plan for
	// several of them those joined by +. leave and reading stand for themselves.
	ID      string   `json:"id"`
	Kind    string   `json:"kind"`
	Station string   `json:"station"` // the first part it is for
	Steps   []Step   `json:"steps"`
	Label   string   `json:"label"`
	Notes   []string `json:"notes"` // what belongs to doing it well
	Cures   []string `json:"cures"` // station.mode

	Parts    float64 `json:"parts"` // postage and the minimum order counted in
	Minutes  float64 `json:"minutes"`
	Labour   float64 `json:"labour"` // travel counted in
	WaitDays float64 `json:"wait_days"`
	Standing float64 `json:"standing"` // loss while it stands

	// CuresThis is the chance that it cures what is wrong with the parts it is for, given
	// that something is; Behind that a fault lies elsewhere, alone or as well; Works that
	// the machine does its work after it. Misses are the faults of its parts that it does
	// not cure: they are why CuresThis is low where it is.
	CuresThis float64 `json:"cures_this"`
	Behind    float64 `json:"behind"`
	Works     float64 `json:"works"`
	Misses    []Miss  `json:"misses"`

	LifeYears float64 `json:"life_years"` // median, of the part that fails first
	Warranty  float64 `json:"warranty_years"`
	ComebackP float64 `json:"comeback_chance"` // chance that good work fails within the time the machine stays
	Comebacks float64 `json:"comebacks"`       // how often, in expectation
	RiskCost  float64 `json:"risk_cost"`       // expected cost of not curing and of coming back
	Expected  float64 `json:"expected"`
	Low       float64 `json:"low"`   // 10 %
	High      float64 `json:"high"`  // 90 %
	Days      float64 `json:"days"`  // until it works, in expectation
	Later     float64 `json:"later"` // what follows for certain: the lasting repair after a temporary one
	Temporary bool    `json:"temporary"`
	Veto      *Veto   `json:"veto,omitempty"`
	Against   string  `json:"against,omitempty"` // which of the customer's wishes it does not meet
	Limit     string  `json:"limit,omitempty"`   // of a temporary repair

	steps  []step
	assume *float64 // chance of a cure to take for every fault of its parts, for break-evens
}

// BreakEven says what one would have to believe for the next option to win.
type BreakEven struct {
	Quantity string  `json:"quantity"` // parts, wait_days, cures_this, years, loss_per_day
	Now      float64 `json:"now"`
	Value    float64 `json:"value"`
	Says     string  `json:"says"`
}

// Comparison is the options, cheapest in expectation first; those that do not meet the
// customer's wishes after them, vetoed ones last.
type Comparison struct {
	Options    []Option    `json:"options"`
	BreakEvens []BreakEven `json:"break_evens"`
	Says       string      `json:"says"`
	Ruled      string      `json:"ruled,omitempty"` // what the customer's wishes rule out
	Over       *OverYears  `json:"over_years"`
}

func (t *Terms) check() error {
	sum := 0.0
	for _, v := range []float64{t.HourRate, t.LossPerDay, t.Comeback, t.Travel, t.Postage, t.MinimumOrder,
		t.MissedDays, t.Temporary, t.MostCost} {
		if !(v >= 0) {
			return fmt.Errorf("rates, losses, limits, postage and days start at zero")
		}
		sum += v
	}
	if math.IsInf(sum, 0) || !(t.Years > 0 && t.Years <= 100) {
		return fmt.Errorf("rates and losses start at zero, and the machine stays above 0 and up to 100 years")
	}
	if d := t.WithinDays; d != nil && !(*d >= 0 && *d <= 36500) {
		return fmt.Errorf("the day by which it must run lies between today and a hundred years from now")
	}
	if t.Guarantee != "" && t.Guarantee != GuaranteeWanted && t.Guarantee != GuaranteeWaived {
		return fmt.Errorf("a guarantee is wanted, waived, or nothing is said of it: %q is none of these", t.Guarantee)
	}
	return nil
}

func (q *Question) check(c *circuit.Circuit) error {
	if len(q.Stations) == 0 || len(q.Stations) > MostParts {
		return fmt.Errorf("a plan is for one to %d parts, not %d", MostParts, len(q.Stations))
	}
	for i, id := range q.Stations {
		if c.Station(id) == nil {
			return fmt.Errorf("circuit %s has no station %q", c.ID, id)
		}
		if slices.Contains(q.Stations[:i], id) {
			return fmt.Errorf("the %s is named twice", phrase.Lower(c.Station(id).Label))
		}
	}
	if err := q.Terms.check(); err != nil {
		return err
	}
	for id, f := range q.With {
		for _, v := range []float64{f.Parts, f.Minutes, f.WaitDays, f.Success, f.Life, f.Warranty} {
			if math.IsNaN(v) || math.IsInf(v, 0) || v > 1e7 {
				return fmt.Errorf("%s: %g is no price, time or life", id, v)
			}
		}
		if f.Success > 1 {
			return fmt.Errorf("%s: a chance of success lies between 0 and 1", id)
		}
	}
	return nil
}

// Compare computes the options of a question. The error says what of the question cannot be.
func Compare(c *circuit.Circuit, q Question) (*Comparison, error) {
	if err := q.check(c); err != nil {
		return nil, err
	}
	st := newStory(c, &q)
	out := st.options()
	for i := range out {
		o := &out[i]
		st.tell(o)
		o.Veto = st.veto(o)
		o.Against = st.against(o)
	}
	if r := st.reading(out, q.Readings); r != nil && paysFor(r, out) {
		out = append(out, *r)
	}
	rank := func(o *Option) int {
		switch {
		case o.Veto != nil && !o.Veto.SetAside:
			return 2
		case o.Against != "":
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
	cmp.advise(st)
	cmp.Over = st.overYears(out)
	return cmp, nil
}

// options lists the plans: of each part by itself, of all together, and leaving it.
func (st *story) options() []Option {
	var out []Option
	single := len(st.q.Stations) == 1
	byPart := make([][]step, len(st.q.Stations))
	for i, id := range st.q.Stations {
		s := st.c.Station(id)
		byPart[i] = steps(st.c, s, st.t)
		for _, x := range byPart[i] {
			name := x.Does
			if !single {
				name = id + "." + x.Does
			}
			out = append(out, st.plan(name, x))
		}
	}
	if !single {
		out = append(out, st.together(byPart)...)
	}
	return append(out, Option{ID: "leave", Kind: "leave it", Station: st.q.Stations[0], Label: "Leave it as it is",
		Steps: []Step{}, Notes: []string{}, Cures: []string{}, Misses: []Miss{}})
}

// together lists the plans for all parts in question at once: each part by the lasting
// treatment that is cheapest for it alone, and each by the surest.
func (st *story) together(byPart [][]step) []Option {
	var cheap, sure []step
	for _, xs := range byPart {
		best, surest, low := -1, -1, math.Inf(1)
		for k := range xs {
			x := &xs[k]
			if x.temporary {
				continue
			}
			o := st.plan("", *x)
			st.tell(&o)
			if st.veto(&o) == nil && o.Expected < low {
				best, low = k, o.Expected
			}
			if surest < 0 || x.success > xs[surest].success {
				surest = k
			}
		}
		if surest < 0 {
			return nil
		}
		if best < 0 {
			best = surest
		}
		cheap, sure = append(cheap, xs[best]), append(sure, xs[surest])
	}
	name := func(xs []step) string {
		var ids []string
		for _, x := range xs {
			ids = append(ids, x.Station+"."+x.Does)
		}
		return strings.Join(ids, "+")
	}
	out := []Option{st.plan(name(cheap), cheap...)}
	if name(sure) != name(cheap) {
		out = append(out, st.plan(name(sure), sure...))
	}
	return out
}

// plan puts treatments together to one option, in figures.
func (st *story) plan(id string, xs ...step) Option {
	o := Option{ID: id, Kind: xs[0].Kind, Station: xs[0].Station, Steps: []Step{}, Notes: []string{},
		Cures: []string{}, Misses: []Miss{}, steps: slices.Clone(xs)}
	var labels []string
	for k := range o.steps {
		x := &o.steps[k]
		o.Steps = append(o.Steps, x.Step)
		if x.note != "" {
			o.Notes = append(o.Notes, x.note)
		}
		if k == 0 {
			labels = append(labels, x.Label)
		} else {
			labels = append(labels, phrase.Lower(x.Label))
		}
		o.Temporary = o.Temporary || x.temporary
		for f := range x.shares {
			if !slices.Contains(o.Cures, f) {
				o.Cures = append(o.Cures, f)
			}
		}
		minutes := x.minutes + st.q.Harder[x.Station]
		if !slices.ContainsFunc(o.steps[:k], func(y step) bool { return y.access == x.access }) {
			// What is already open need not be opened again; the work itself remains.
			minutes = math.Max(minutes-st.q.Opened[x.Station], 0.3*minutes)
		} else { // the way in is made once
			minutes = math.Max(minutes-st.c.AccessMinutes[x.access], 0.3*minutes)
		}
		o.Parts, o.Minutes, o.WaitDays = o.Parts+x.parts, o.Minutes+minutes, math.Max(o.WaitDays, x.wait)
	}
	sort.Strings(o.Cures)
	o.Label = strings.Join(labels, "; ")
	if len(xs) > 1 {
		o.Kind = "together"
	}
	st.override(&o)
	return o
}

// override puts in what was typed for an option, and what an order costs besides.
func (st *story) override(o *Option) {
	f, ok := st.q.With[o.ID]
	if !ok {
		f = Keep
	}
	if f.Parts >= 0 {
		o.Parts = f.Parts
	}
	if f.Minutes >= 0 {
		o.Minutes = f.Minutes
	}
	if f.WaitDays >= 0 {
		o.WaitDays = f.WaitDays
	}
	for k := range o.steps {
		x := &o.steps[k]
		if f.Success > 0 {
			x.success = f.Success
		}
		if f.Life > 0 {
			x.life.Median = f.Life
		}
		if f.Warranty != 0 {
			x.warranty = math.Max(f.Warranty, 0)
		}
		if st.t.Guarantee == GuaranteeWaived || x.temporary {
			x.warranty = 0
		}
		if k == 0 || x.warranty < o.Warranty {
			o.Warranty = x.warranty
		}
		if x.life.Median > 0 && (o.LifeYears == 0 || x.life.Median < o.LifeYears) {
			o.LifeYears = x.life.Median
		}
	}
	shelf := slices.Contains(st.t.OnShelf, o.ID)
	if shelf {
		o.WaitDays = 0
	}
	if o.Parts > 5 && !shelf { // small stuff lies in every workshop
		o.Parts = math.Max(o.Parts, st.t.MinimumOrder) + st.t.Postage
	}
	o.Labour = o.Minutes/60*st.t.HourRate + st.t.Travel
	o.Standing = (o.WaitDays + o.Minutes/60/workday) * st.t.LossPerDay
}

// workday is how many hours of work a day of standing still holds.
const workday = 8
