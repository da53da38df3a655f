package workshop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/fault"
	"corriente/core/learn"
	"corriente/core/repair"
	"corriente/core/work"
	"corriente/internal/store"
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
func InQuestion(j *store.Job, op *diagnose.Opinion) []string {
	if i := work.ToDo(j.Repairs()); i >= 0 { // what is chosen and not done may be thought over
		return j.Repairs()[i].Stations
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

// Compare computes the options of a job.
func (s *Service) Compare(ctx context.Context, j *store.Job, in Compare) (*OptionsView, error) {
	op, err := s.Advisers.Weigh(ctx, j)
	if err != nil {
		return nil, err
	}
	asked := in.Stations
	if len(asked) == 0 && in.Station != "" {
		asked = []string{in.Station}
	}
	if len(asked) == 0 {
		asked = InQuestion(j, op)
	}
	c := j.Case.Circuit
	for _, id := range asked {
		if c.Station(id) == nil {
			return nil, refuse("circuit %s has no station %q", c.ID, id)
		}
	}
	q := repair.Question{Stations: asked, Terms: in.Terms, With: in.With, Opened: map[string]float64{}, Harder: map[string]float64{}}
	if err := in.Wishes.into(&q.Terms, time.Now()); err != nil {
		return nil, err
	}
	for _, d := range op.Diagnoses {
		q.Diagnoses = append(q.Diagnoses, repair.Diagnosis{Faults: d.Faults, Probability: d.Probability})
	}
	for i := range j.Case.Evidence { // what was seen burnt counts
		e := &j.Case.Evidence[i]
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
			if here, ok := j.Case.AccessMinutes[a]; ok {
				q.Harder[id] = here - shipped.AccessMinutes[a]
			}
		}
	}
	for i := range op.Next {
		n := &op.Next[i]
		q.Readings = append(q.Readings, repair.Reading{Label: upper(Words(c, n)), Minutes: n.Minutes, People: n.People, Spends: n.Spends, Right: n.Right()})
	}
	said, err := s.lives(ctx, c, &q)
	if err != nil {
		return nil, err
	}
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
			return 0, refuse("%q is no day for %s: give it as 2026-12-04", day, what)
		}
		today := now.UTC().Truncate(24 * time.Hour)
		n := d.Sub(today).Hours() / 24
		if n < 0 {
			return 0, refuse("%s is %s, which has passed: give a day that is still to come", what, day)
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
func (s *Service) lives(ctx context.Context, c *circuit.Circuit, q *repair.Question) ([]string, error) {
	said := []string{}
	out := map[string]repair.Figures{}
	for k, v := range q.With {
		out[k] = v
	}
	year := func(t time.Time) float64 { return float64(t.Unix()) / (365.25 * 86400) }
	for _, station := range q.Stations {
		st := c.Station(station)
		done, err := s.Store.Lives(ctx, c.ID, station)
		if err != nil {
			return nil, err
		}
		var es []learn.Event
		for _, d := range done {
			es = append(es, learn.Event{Machine: d.Machine.String(), Option: d.Option, At: year(d.At)})
		}
		seen := learn.Lifetimes(es, year(time.Now()))
		for id, a := range map[string]*circuit.Action{"repair": st.Repair, "replace": st.Replace} {
			x, ok := seen[id]
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
				said = append(said, fmt.Sprintf("%s: taken to last %.1f years instead of %.1f; %s in %.1f years of use here", a.Label, f.Life, a.LifeYears, failed(x.Ends), x.Years))
			}
		}
	}
	slices.Sort(said)
	q.With = out
	return said, nil
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
	ID       uuid.UUID
	Option   string
	Stations []string // in question
	Price    float64
	Reason   string
	By       string
	Who      string
	Label    string // over the option's own
	SetAside string
	Terms    repair.Terms
	Wishes   Wishes
	With     map[string]repair.Figures
}

// Decide records a choice, with what was found and what stood against it. A dangerous
// option is refused; one that should not be taken asks for a reason.
func (s *Service) Decide(ctx context.Context, j *store.Job, in Choice, by uuid.UUID) (*store.Job, error) {
	if slices.ContainsFunc(j.Decisions, func(d store.Decision) bool { return d.ID == in.ID }) {
		return j, nil // sent again
	}
	op, err := s.Advisers.Weigh(ctx, j)
	if err != nil {
		return nil, err
	}
	cmp, err := s.Compare(ctx, j, Compare{Stations: in.Stations, Terms: in.Terms, Wishes: in.Wishes, With: in.With})
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(cmp.Options, func(o repair.Option) bool { return o.ID == in.Option && o.ID != "reading" })
	if i < 0 {
		return nil, refuse("there is no such plan for these parts: choose one of those listed")
	}
	o := &cmp.Options[i]
	d := store.Decision{ID: in.ID, Option: o.ID, Station: o.Station, Price: in.Price, Reason: in.Reason, By: in.By, At: time.Now().UTC(), Label: in.Label, Who: in.Who,
		SetAside: in.SetAside, Expected: &o.Expected, Found: cut(op.Verdict.Plain, 400), Temporary: o.Temporary, Limit: o.Limit, Life: o.LifeYears, Warranty: o.Warranty}
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
		return nil, refuse("this cannot be chosen: %s", o.Veto.Reason)
	case o.Veto != nil && in.SetAside == "":
		return nil, refuse("against it stands: %s. Say why it is chosen all the same", o.Veto.Reason)
	case o.Against != "" && d.SetAside == "":
		d.SetAside = cut("chosen although it "+strings.TrimPrefix(o.Against, "it "), 400)
	}
	if d.Temporary {
		days := in.Terms.Temporary
		if days == 0 {
			days = 14
		}
		on := time.Now().UTC().Add(time.Duration(days*24) * time.Hour)
		d.Until = &on
	}
	return s.Store.Decide(ctx, j.ID, d, by)
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

func cut(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return strings.TrimSpace(string(r[:n-1])) + "…"
	}
	return s
}

// Work is work that was done: on a decision's parts, or on one part that was put right
// while measuring.
type Work struct {
	ID       uuid.UUID
	Decision string
	Station  string
	What     string
}

// Done records work.
func (s *Service) Done(ctx context.Context, j *store.Job, in Work, by uuid.UUID) (*store.Job, error) {
	stations := []string{in.Station}
	rs := j.Repairs()
	if in.Decision == "" { // put right while measuring, unless it is what was chosen
		if i := work.ToDo(rs); i >= 0 && slices.Contains(rs[i].Stations, in.Station) {
			in.Decision = rs[i].ID
		}
	}
	if in.Decision != "" {
		i := slices.IndexFunc(rs, func(r work.Repair) bool { return r.ID == in.Decision && r.Decision >= 0 })
		if i < 0 {
			return nil, refuse("nothing of this kind was decided: decide first, or say which part was put right")
		}
		if rs[i].Status == work.Left {
			return nil, refuse("it was decided to leave this as it is: decide anew before work is recorded")
		}
		stations = rs[i].Stations
		if in.What == "" {
			in.What = j.Decisions[rs[i].Decision].Label
		}
	}
	at := time.Now().UTC().Format(time.RFC3339Nano)
	var list []casefile.Repair
	for k, id := range stations {
		if j.Case.Circuit.Station(id) == nil {
			return nil, refuse("this circuit has no station %q", id)
		}
		one := in.ID
		if k > 0 { // sent again it is the same again
			one = uuid.NewSHA1(in.ID, []byte(id))
		}
		list = append(list, casefile.Repair{ID: one.String(), Station: id, What: in.What, At: at, Decision: in.Decision})
	}
	return s.Store.Repair(ctx, j.ID, list, by)
}

// Reword changes what is said to have been done, until it is signed.
func (s *Service) Reword(ctx context.Context, job uuid.UUID, repair, what string) (*store.Job, error) {
	j, err := s.Store.Reword(ctx, job, repair, what)
	if errors.Is(err, store.ErrSigned) {
		return nil, &Refusal{err.Error()}
	}
	return j, err
}

// Terms reads what a job is decided by besides its evidence.
func (s *Service) Terms(ctx context.Context, job uuid.UUID) (JobTerms, error) {
	t := JobTerms{With: map[string]repair.Figures{}}
	w, f, err := s.Store.Terms(ctx, job)
	if err != nil || len(w) == 0 {
		return t, err
	}
	return t, errors.Join(json.Unmarshal(w, &t.Wishes), json.Unmarshal(f, &t.With))
}

// PutTerms keeps it. A day that is none, or that has passed, is refused.
func (s *Service) PutTerms(ctx context.Context, job uuid.UUID, t JobTerms) error {
	terms := repair.Terms{Years: 1}
	if err := t.Wishes.into(&terms, time.Now()); err != nil {
		return err
	}
	if len(t.With) > 200 {
		return refuse("%d plans with figures of their own are more than a job has", len(t.With))
	}
	w, err1 := json.Marshal(t.Wishes)
	if t.With == nil {
		t.With = map[string]repair.Figures{}
	}
	f, err2 := json.Marshal(t.With)
	if err := errors.Join(err1, err2); err != nil {
		return err
	}
	return s.Store.PutTerms(ctx, job, w, f)
}
