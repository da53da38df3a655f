package record

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/fault"
	"corriente/core/learn"
	"corriente/core/phrase"
	"corriente/core/repair"
	"corriente/core/work"
)

// Wishes is what the customer wants, and what belongs to this job rather than to the
// workshop.
type Wishes struct {
	MostCost  float64 `json:"most_cost,omitempty" minimum:"0" maximum:"1000000" doc:"parts and labour not above this; 0: no limit"`
	RunOn     string  `json:"run_on,omitempty" maxLength:"10" doc:"a day by which it must run, such as 2026-12-04"`
	Until     string  `json:"until,omitempty" maxLength:"10" doc:"a day until which it is needed: the end of the season"`
	Guarantee string  `json:"guarantee,omitempty" enum:"wanted,waived" doc:"nothing without one, or none asked for"`
	Burnt     bool    `json:"burnt,omitempty" doc:"insulation or housing is burnt"`
	NearFuel  bool    `json:"near_fuel,omitempty" doc:"it lies near fuel, oil or gas"`
	Oily      bool    `json:"oily,omitempty" doc:"oil got into it"`
	Strands   bool    `json:"strands,omitempty" doc:"strands are broken, or insulation is chafed"`
}

// JobTerms is what a job is decided by besides its evidence, as it is kept with it.
type JobTerms struct {
	Wishes Wishes                    `json:"wishes"`
	With   map[string]repair.Figures `json:"with" doc:"prices, minutes, waits and lives as typed, by option"`
}

// Compare is what is asked about the options.
type Compare struct {
	Station  string                    `json:"station,omitempty" maxLength:"64" doc:"the one part in question; stations says more"`
	Stations []string                  `json:"stations,omitempty" maxItems:"4" doc:"the parts in question; empty: what the verdict names"`
	Terms    repair.Terms              `json:"terms"`
	Wishes   Wishes                    `json:"wishes,omitempty"`
	With     map[string]repair.Figures `json:"with,omitempty"`
}

// PartInQuestion is a part that may be decided about.
type PartInQuestion struct {
	Station     string  `json:"station"`
	Label       string  `json:"label"`
	Probability float64 `json:"probability" doc:"that something is wrong with it, alone or with others"`
	Asked       bool    `json:"asked" doc:"the options are about it"`
}

// OptionsView is the comparison, with what the workshop's own repairs moved.
type OptionsView struct {
	repair.Comparison
	Questions []PartInQuestion  `json:"questions" doc:"the parts that may be decided about, the likeliest first"`
	Sure      float64           `json:"sure" doc:"that something is wrong with the parts asked about"`
	Faults    map[string]string `json:"faults" doc:"the faults named among the options, in words"`
	Learned   []string          `json:"learned" doc:"which figures come from the workshop's own jobs"`
}

// mostQuestions is how many parts are offered to be decided about.
const mostQuestions = 8

// InQuestion lists the parts that a job's next decision is about: what the verdict names,
// and what is likelier than not to be wrong beside it.
func (r *Record) InQuestion(op *diagnose.Opinion) []string {
	if i := work.ToDo(r.Repairs); i >= 0 { // what is chosen and not done may be thought over
		return r.Repairs[i].Stations
	}
	var out []string
	if v := op.Verdict.Station; v != nil {
		out = append(out, *v)
	}
	for _, st := range op.Stations {
		if st.Probability >= 0.5 && !slices.Contains(out, st.Station) && len(out) < repair.MostParts {
			out = append(out, st.Station)
		}
	}
	if len(out) == 0 && len(op.Stations) > 0 {
		out = append(out, op.Stations[0].Station)
	}
	return out
}

// Asked lists the parts that a comparison is about.
func (r *Record) Asked(op *diagnose.Opinion, in Compare) []string {
	switch {
	case len(in.Stations) > 0:
		return in.Stations
	case in.Station != "":
		return []string{in.Station}
	}
	return r.InQuestion(op)
}

// Lived is how long repairs of a circuit's parts lasted in this workshop, by station and
// option.
type Lived map[string]map[string]learn.Life

// Compare computes the options of a job from what its evidence amounts to, thought through.
func (r *Record) Compare(op *diagnose.Opinion, in Compare, lived Lived, now time.Time) (*OptionsView, error) {
	asked, c := r.Asked(op, in), r.Circuit
	for _, id := range asked {
		if c.Station(id) == nil {
			return nil, Refuse("circuit %s has no station %q", c.ID, id)
		}
	}
	q := repair.Question{Stations: asked, Terms: in.Terms, With: in.With, Opened: map[string]float64{}, Harder: map[string]float64{}}
	if err := in.Wishes.into(&q.Terms, now); err != nil {
		return nil, err
	}
	for _, d := range op.Diagnoses {
		q.Diagnoses = append(q.Diagnoses, repair.Diagnosis{Faults: d.Faults, Probability: d.Probability})
	}
	for i := range r.Evidence { // what was seen burnt counts
		e := &r.Evidence[i]
		q.Terms.Burnt = q.Terms.Burnt || !e.Struck && e.Outcome == "burnt"
		q.Terms.Oily = q.Terms.Oily || !e.Struck && e.Observe == "oil_inside" && e.Outcome == "oil"
	}
	for i := range c.Stations { // what a brake's coil holds must hold
		if slices.Contains(asked, c.Stations[i].HeldBy) && c.Stations[i].HeldBy != "" {
			q.Terms.Brakes = true
		}
	}
	shipped, _ := circuit.Family(c.ID)
	for _, id := range asked {
		q.Opened[id] = op.Opened(id)
		if a := c.Station(id).Access; shipped != nil { // minutes recorded here are in the labour
			if here, ok := r.AccessMinutes[a]; ok {
				q.Harder[id] = here - shipped.AccessMinutes[a]
			}
		}
	}
	for i := range op.Next {
		n := &op.Next[i]
		q.Readings = append(q.Readings, repair.Reading{Label: phrase.Upper(Words(c, n)), Minutes: n.Minutes,
			People: n.People, Spends: n.Spends, Right: n.Right()})
	}
	said := lives(c, &q, lived)
	cmp, err := repair.Compare(c, q)
	if err != nil {
		return nil, &Refusal{err.Error()}
	}
	v := &OptionsView{Comparison: *cmp, Learned: said, Faults: map[string]string{}, Questions: questions(c, op, asked)}
	for _, d := range op.Diagnoses {
		if slices.ContainsFunc(d.Faults, func(f string) bool { st, _, _ := strings.Cut(f, "."); return slices.Contains(asked, st) }) {
			v.Sure += d.Probability
		}
	}
	v.Sure = math.Min(v.Sure, 1)
	for i := range v.Options {
		for _, f := range v.Options[i].Cures {
			v.Faults[f] = faultWords(c, f)
		}
		for _, m := range v.Options[i].Misses {
			v.Faults[m.Fault] = faultWords(c, m.Fault)
		}
	}
	return v, nil
}

func faultWords(c *circuit.Circuit, f string) string {
	station, mode, _ := strings.Cut(f, ".")
	if s := c.Station(station); s != nil {
		return s.Label + ": " + fault.Label(mode)
	}
	return f
}

// questions lists the parts that may be decided about.
func questions(c *circuit.Circuit, op *diagnose.Opinion, asked []string) []PartInQuestion {
	out := []PartInQuestion{}
	for _, st := range op.Stations {
		in := slices.Contains(asked, st.Station)
		if !in && (len(out) >= mostQuestions || st.Probability < 0.005) {
			continue
		}
		if s := c.Station(st.Station); s != nil {
			out = append(out, PartInQuestion{st.Station, s.Label, st.Probability, in})
		}
	}
	for _, id := range asked {
		if !slices.ContainsFunc(out, func(q PartInQuestion) bool { return q.Station == id }) {
			out = append(out, PartInQuestion{id, c.Station(id).Label, 0, true})
		}
	}
	return out
}

// into turns wishes into terms.
func (w *Wishes) into(t *repair.Terms, now time.Time) error {
	t.MostCost, t.Guarantee = w.MostCost, w.Guarantee
	t.Burnt, t.NearFuel, t.Oily, t.Strands = t.Burnt || w.Burnt, t.NearFuel || w.NearFuel, t.Oily || w.Oily, t.Strands || w.Strands
	days := func(day, what string) (float64, error) {
		d, err := time.Parse(time.DateOnly, day)
		if err != nil {
			return 0, Refuse("%q is no day for %s: give it as 2026-12-04", day, what)
		}
		today := now.UTC().Truncate(24 * time.Hour)
		n := d.Sub(today).Hours() / 24
		if n < 0 {
			return 0, Refuse("%s is %s, which has passed: give a day that is still to come", what, day)
		}
		return n, nil
	}
	if w.RunOn != "" {
		n, err := days(w.RunOn, "when it must run")
		if err != nil {
			return err
		}
		t.WithinDays = &n
	}
	if w.Until != "" {
		n, err := days(w.Until, "until when it is needed")
		if err != nil {
			return err
		}
		t.Years = math.Max(n, 1) / 365.25
	}
	return nil
}

// lives puts how long repairs lasted here in place of the shipped lives, shrunk towards
// them: three sightings weigh as much as what ships.
func lives(c *circuit.Circuit, q *repair.Question, lived Lived) []string {
	said := []string{}
	out := map[string]repair.Figures{}
	for k, v := range q.With {
		out[k] = v
	}
	for _, station := range q.Stations {
		st := c.Station(station)
		for id, a := range map[string]*circuit.Action{"repair": st.Repair, "replace": st.Replace} {
			x, ok := lived[station][id]
			if a == nil || !ok || x.Ends+int(x.Years) == 0 || a.LifeYears <= 0 {
				continue
			}
			name := id
			if len(q.Stations) > 1 {
				name = station + "." + id
			}
			f, given := out[name]
			if !given {
				f = repair.Keep
			}
			if f.Life > 0 {
				continue
			}
			// The mean of a life with this median: the two move together.
			f.Life = learn.Times(a.LifeYears, 3, x.Ends, x.Years)
			out[name] = f
			if math.Abs(f.Life/a.LifeYears-1) > 0.03 {
				said = append(said, fmt.Sprintf("%s: taken to last %.1f years instead of %.1f; %s in %.1f years of use here",
					a.Label, f.Life, a.LifeYears, failed(x.Ends), x.Years))
			}
		}
	}
	slices.Sort(said)
	q.With = out
	return said
}

func failed(n int) string {
	switch n {
	case 0:
		return "none failed"
	case 1:
		return "one failed"
	}
	return fmt.Sprintf("%d failed", n)
}

// Choice is what is chosen, and what it was computed with.
type Choice struct {
	ID       string
	Option   string
	Price    float64
	Reason   string
	By       string
	Who      string
	Label    string // over the option's own
	SetAside string
	Compare  Compare // the parts in question, and what it was computed with
	At       time.Time
}

// Choose says what a choice amounts to, with what was found and what stood against it, and
// the expected cost. A dangerous option is refused; one that should not be taken asks for a
// reason.
func (r *Record) Choose(op *diagnose.Opinion, in Choice, lived Lived) (d casefile.Decision, expected float64, err error) {
	cmp, err := r.Compare(op, in.Compare, lived, in.At)
	if err != nil {
		return d, 0, err
	}
	i := slices.IndexFunc(cmp.Options, func(o repair.Option) bool { return o.ID == in.Option && o.ID != "reading" })
	if i < 0 {
		return d, 0, Refuse("there is no such plan for these parts: choose one of those listed")
	}
	o := &cmp.Options[i]
	d = casefile.Decision{ID: in.ID, Option: o.ID, Station: o.Station, Price: in.Price, Reason: in.Reason, By: in.By,
		At: in.At.UTC().Format(time.RFC3339Nano), Label: in.Label, Who: in.Who,
		SetAside: in.SetAside, Found: cut(op.Verdict.Plain, 400), Temporary: o.Temporary, Limit: o.Limit,
		Life: o.LifeYears, Warranty: o.Warranty}
	if d.Label == "" {
		d.Label = cut(o.Label, 400)
	}
	for _, x := range o.Steps {
		d.Stations = append(d.Stations, x.Station)
	}
	if o.ID == work.Leave {
		d.Stations = asked(cmp)
		d.Station = d.Stations[0]
	}
	switch {
	case o.Veto != nil && o.Veto.Dangerous:
		return d, 0, Refuse("this cannot be chosen: %s", o.Veto.Reason)
	case o.Veto != nil && in.SetAside == "":
		return d, 0, Refuse("against it stands: %s. Say why it is chosen all the same", o.Veto.Reason)
	case o.Against != "" && d.SetAside == "":
		d.SetAside = cut("chosen although it "+strings.TrimPrefix(o.Against, "it "), 400)
	}
	if d.Temporary {
		days := in.Compare.Terms.Temporary
		if days == 0 {
			days = 14
		}
		d.Until = in.At.UTC().Add(time.Duration(days*24) * time.Hour).Format(time.RFC3339Nano)
	}
	return d, o.Expected, nil
}

func asked(v *OptionsView) []string {
	var out []string
	for _, q := range v.Questions {
		if q.Asked {
			out = append(out, q.Station)
		}
	}
	return out
}

// Check refuses wishes and figures that a job cannot have: a day that is none, or that has
// passed.
func (t *JobTerms) Check(now time.Time) error {
	terms := repair.Terms{Years: 1}
	if err := t.Wishes.into(&terms, now); err != nil {
		return err
	}
	if len(t.With) > 200 {
		return Refuse("%d plans with figures of their own are more than a job has", len(t.With))
	}
	return nil
}
