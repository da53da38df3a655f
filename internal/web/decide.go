package web

import (
	"bytes"
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/learn"
	"corriente/core/parts"
	"corriente/core/repair"
	"corriente/internal/store"
	"corriente/internal/supplier"
)

// Compare is what is asked about the options.
type Compare struct {
	Station string                    `json:"station" maxLength:"64"`
	Terms   repair.Terms              `json:"terms"`
	With    map[string]repair.Figures `json:"with,omitempty"`
}

// OptionsView is the comparison, with what the workshop's own repairs moved.
type OptionsView struct {
	repair.Comparison
	Learned []string `json:"learned" doc:"which figures come from the workshop's own jobs"`
}

// PartsView is where a part is to be had.
type PartsView struct {
	Parts    []parts.Part `json:"parts"`
	Supplier string       `json:"supplier" doc:"why the supplier said nothing; empty when it answered or there is none"`
}

// Import is a list as read line by line, before anything is kept or after.
type Import struct {
	Lines []parts.ListLine `json:"lines"`
	Good  int              `json:"good"`
	Wrong int              `json:"wrong"`
	Kept  int              `json:"kept"`
}

// CostsIn is what a job came to in the end.
type CostsIn struct {
	Parts   float64 `json:"parts" minimum:"0" maximum:"1000000"`
	Minutes float64 `json:"minutes" minimum:"0" maximum:"100000"`
	Price   float64 `json:"price" minimum:"0" maximum:"1000000" doc:"what was charged"`
	Note    string  `json:"note,omitempty" maxLength:"400"`
}

// compare computes the options of a job.
func (s *Server) compare(ctx context.Context, j *store.Job, in Compare) (*OptionsView, error) {
	op, err := s.adv.weigh(ctx, j)
	if err != nil {
		return nil, s.fail("compare", err)
	}
	var ds []repair.Diagnosis
	for _, d := range op.Diagnoses {
		ds = append(ds, repair.Diagnosis{Faults: d.Faults, Probability: d.Probability})
	}
	c := j.Case.Circuit
	for i := range j.Case.Evidence { // what was seen burnt counts
		if e := &j.Case.Evidence[i]; !e.Struck && e.Outcome == "burnt" {
			in.Terms.Burnt = true
		}
	}
	for i := range c.Stations { // what a brake's coil holds must hold
		if c.Stations[i].HeldBy == in.Station && in.Station != "" {
			in.Terms.Brakes = true
		}
	}
	var rs []repair.Reading
	for i := range op.Next {
		n := &op.Next[i]
		w := words(c, n)
		rs = append(rs, repair.Reading{Label: strings.ToUpper(w[:1]) + w[1:], Minutes: n.Minutes, People: n.People, Spends: n.Spends, Right: n.Right()})
	}
	with, said, err := s.lives(ctx, c, in.Station, in.With)
	if err != nil {
		return nil, s.fail("compare", err)
	}
	cmp, err := repair.Compare(c, in.Station, ds, in.Terms, op.Opened(in.Station), with, rs)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity(sentence(err.Error()))
	}
	return &OptionsView{*cmp, said}, nil
}

// words says a suggestion in one line.
func words(c *circuit.Circuit, n *diagnose.Suggestion) string {
	if o := c.Observation(n.Observe); o != nil {
		return o.Question
	}
	label := func(id string) string {
		if x := c.Node(id); x != nil {
			return x.Label
		}
		return id
	}
	switch n.Measure {
	case "current":
		return "amperes through the " + strings.ToLower(c.Station(n.Through).Label)
	case "resistance":
		return fmt.Sprintf("ohms, %s to %s", label(n.From), label(n.To))
	}
	return fmt.Sprintf("volts, %s to %s", label(n.From), label(n.To))
}

// lives puts how long repairs lasted here in place of the shipped lives, shrunk towards
// them: three sightings weigh as much as what ships.
func (s *Server) lives(ctx context.Context, c *circuit.Circuit, station string, with map[string]repair.Figures) (map[string]repair.Figures, []string, error) {
	said := []string{}
	st := c.Station(station)
	if st == nil {
		return with, said, nil
	}
	done, err := s.st.Lives(ctx, c.ID, station)
	if err != nil {
		return nil, nil, err
	}
	var es []learn.Event
	year := func(t time.Time) float64 { return float64(t.Unix()) / (365.25 * 86400) }
	for _, d := range done {
		es = append(es, learn.Event{Machine: d.Machine.String(), Option: d.Option, At: year(d.At)})
	}
	out := map[string]repair.Figures{}
	for k, v := range with {
		out[k] = v
	}
	seen := learn.Lifetimes(es, year(time.Now()))
	for id, a := range map[string]*circuit.Action{"repair": st.Repair, "replace": st.Replace} {
		x, ok := seen[id]
		if a == nil || !ok || x.Ends+int(x.Years) == 0 || a.LifeYears <= 0 {
			continue
		}
		f, given := out[id]
		if !given {
			f = repair.Keep
		}
		if f.Life > 0 {
			continue
		}
		// The mean of a life with this median: the two move together.
		f.Life = learn.Times(a.LifeYears, 3, x.Ends, x.Years)
		out[id] = f
		if math.Abs(f.Life/a.LifeYears-1) > 0.03 {
			said = append(said, fmt.Sprintf("%s: taken to last %.1f years instead of %.1f, from %d that ended here in %.1f years of use", a.Label, f.Life, a.LifeYears, x.Ends, x.Years))
		}
	}
	slices.Sort(said)
	return out, said, nil
}

func (s *Server) decideRoutes(get, put, post opFunc) {
	huma.Register(s.api, post("compare", "/api/jobs/{id}/compare", "What can be done, by expected cost"), func(ctx context.Context, in *struct {
		JobIn
		Body Compare
	}) (*out[*OptionsView], error) {
		j, err := s.load(ctx, in.ID)
		if err != nil {
			return nil, err
		}
		v, err := s.compare(ctx, j, in.Body)
		if err != nil {
			return nil, err
		}
		return body(v), nil
	})
	huma.Register(s.api, post("decide", "/api/jobs/{id}/decisions", "Record what was chosen"), func(ctx context.Context, in *struct {
		JobIn
		Body struct {
			Decision
			Terms *repair.Terms             `json:"terms,omitempty" doc:"what it was computed with; a veto is checked against it"`
			With  map[string]repair.Figures `json:"with,omitempty"`
		}
	}) (*out[JobView], error) {
		u, err := s.mayWrite(ctx)
		if err != nil {
			return nil, err
		}
		id, did, err := twoIDs(in.ID, in.Body.ID)
		if err != nil {
			return nil, err
		}
		j, err := s.load(ctx, in.ID)
		if err != nil {
			return nil, err
		}
		b := &in.Body
		if j.Case.Circuit.Station(b.Station) == nil {
			return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("This circuit has no station %q.", b.Station))
		}
		terms := repair.Terms{Years: 1}
		if b.Terms != nil {
			terms = *b.Terms
		}
		cmp, err := s.compare(ctx, j, Compare{b.Station, terms, b.With})
		if err != nil {
			return nil, err
		}
		limit := ""
		for _, o := range cmp.Options {
			if o.ID != b.Option {
				continue
			}
			limit = o.Limit
			if b.Label == "" {
				b.Label = o.Label
			}
			if o.Veto != nil && o.Veto.Dangerous {
				return nil, huma.Error422UnprocessableEntity(sentence("This cannot be chosen: " + o.Veto.Reason))
			}
			if o.Veto != nil && strings.TrimSpace(b.SetAside) == "" {
				return nil, huma.Error422UnprocessableEntity(sentence("Against it stands: " + o.Veto.Reason + ". Say why it is chosen all the same"))
			}
		}
		j, err = s.st.Decide(ctx, id, store.Decision{ID: did, Option: b.Option, Station: b.Station, Price: b.Price, Reason: strings.TrimSpace(b.Reason), By: b.By, At: time.Now().UTC(),
			Label: strings.TrimSpace(b.Label), Who: strings.TrimSpace(b.Who), SetAside: strings.TrimSpace(b.SetAside), Expected: b.Expected}, u.ID)
		if err != nil {
			return nil, s.fail("decide", err)
		}
		// A temporary repair comes back on the board by its day.
		if b.Option == "temporary" {
			days := terms.Temporary
			if days == 0 {
				days = 14
			}
			on := time.Now().UTC().Add(time.Duration(days*24) * time.Hour)
			err = s.st.FollowUp(ctx, id, &on, "Temporary repair, "+limit)
		} else {
			err = s.st.FollowUp(ctx, id, nil, "")
		}
		if err != nil {
			return nil, s.fail("follow-up", err)
		}
		return s.view(ctx, j, in.State)
	})
	huma.Register(s.api, put("costs", "/api/jobs/{id}/costs", "What a job came to in the end"), func(ctx context.Context, in *struct {
		JobIn
		Body CostsIn
	}) (*out[CostsIn], error) {
		u, err := s.mayWrite(ctx)
		if err != nil {
			return nil, err
		}
		j, err := s.load(ctx, in.ID)
		if err != nil {
			return nil, err
		}
		b := in.Body
		if err := s.st.PutCosts(ctx, j.ID, store.Costs{Parts: b.Parts, Minutes: b.Minutes, Price: b.Price, Note: strings.TrimSpace(b.Note)}, u.ID); err != nil {
			return nil, s.fail("costs", err)
		}
		return body(b), nil
	})
	huma.Register(s.api, get("job_costs", "/api/jobs/{id}/costs", "What a job came to in the end; null while nobody entered it"), func(ctx context.Context, in *JobIn) (*out[*CostsIn], error) {
		j, err := s.load(ctx, in.ID)
		if err != nil {
			return nil, err
		}
		c, err := s.st.Costs(ctx, j.ID)
		if err != nil {
			return nil, s.fail("costs", err)
		}
		if c == nil {
			return body[*CostsIn](nil), nil
		}
		return body(&CostsIn{c.Parts, c.Minutes, c.Price, c.Note}), nil
	})
	huma.Register(s.api, get("parts", "/api/parts", "Where a part is to be had: shelf, lists and supplier, by what it is and measures"), func(ctx context.Context, in *struct {
		Q string `query:"q" maxLength:"120"`
	}) (*out[PartsView], error) {
		if _, err := s.signedIn(ctx); err != nil {
			return nil, err
		}
		ps, err := s.st.FindParts(ctx, in.Q, 60)
		if err != nil {
			return nil, s.fail("parts", err)
		}
		v := PartsView{Parts: ps}
		at, err := s.st.Setting(ctx, "supplier")
		if err != nil {
			return nil, s.fail("parts", err)
		}
		if at != "" && strings.TrimSpace(in.Q) != "" {
			more, err := supplier.Ask(ctx, at, in.Q)
			if err != nil {
				v.Supplier = sentence(err.Error())
			}
			v.Parts = append(v.Parts, more...)
			parts.Sort(v.Parts, parts.Words(in.Q), parts.Sizes(in.Q))
		}
		return body(v), nil
	})
	list := put("import_parts", "/api/parts", "A price list as CSV: read line by line; kept only when asked, and only when no line is wrong")
	list.MaxBodyBytes, list.SkipValidateBody = maxBody, true
	huma.Register(s.api, list, func(ctx context.Context, in *struct {
		Keep     bool   `query:"keep"`
		Supplier string `query:"supplier" maxLength:"80" doc:"whose list it is, where the list does not say"`
		RawBody  []byte `contentType:"text/csv"`
	}) (*out[Import], error) {
		if _, err := s.mayWrite(ctx); err != nil {
			return nil, err
		}
		ls, err := parts.Read(bytes.NewReader(in.RawBody))
		if err != nil {
			return nil, huma.Error422UnprocessableEntity(sentence(err.Error()))
		}
		v := Import{Lines: ls}
		var ps []parts.Part
		for i := range ls {
			if ls[i].Part == nil {
				v.Wrong++
				continue
			}
			v.Good++
			if ls[i].Part.Supplier == "" {
				ls[i].Part.Supplier = strings.TrimSpace(in.Supplier)
			}
			ps = append(ps, *ls[i].Part)
		}
		if in.Keep {
			if v.Wrong > 0 {
				return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("%d of %d lines are wrong, the first in line %d: nothing was kept.", v.Wrong, len(ls), firstWrong(ls)))
			}
			if err := s.st.PutParts(ctx, ps); err != nil {
				return nil, s.fail("parts", err)
			}
			v.Kept = len(ps)
		}
		// A long list is shown by what is wrong with it, and its beginning.
		if len(v.Lines) > 500 {
			short := slices.DeleteFunc(slices.Clone(v.Lines), func(l parts.ListLine) bool { return l.Wrong == "" && l.Remark == "" })
			v.Lines = append(slices.Clone(v.Lines[:100]), short[:min(len(short), 400)]...)
		}
		return body(v), nil
	})
	huma.Register(s.api, put("supplier", "/api/settings/supplier", "The address of the supplier's service; empty for none"), func(ctx context.Context, in *struct {
		Body struct {
			Address string `json:"address" maxLength:"200"`
		}
	}) (*struct{}, error) {
		u, err := s.signedIn(ctx)
		if err != nil {
			return nil, err
		}
		if u.Role != "owner" {
			return nil, huma.Error403Forbidden("The owner sets the supplier.")
		}
		if a := in.Body.Address; a != "" && !strings.HasPrefix(a, "http://") && !strings.HasPrefix(a, "https://") {
			return nil, huma.Error422UnprocessableEntity("Give the supplier's address as http://host:port, or leave it empty.")
		}
		if err := s.st.PutSetting(ctx, "supplier", in.Body.Address); err != nil {
			return nil, s.fail("settings", err)
		}
		return nil, nil
	})
}

func firstWrong(ls []parts.ListLine) int {
	for _, l := range ls {
		if l.Wrong != "" {
			return l.N
		}
	}
	return 0
}

// since is the time from which on jobs are learned from.
func (s *Server) since(ctx context.Context) (time.Time, error) {
	at, err := s.st.Setting(ctx, "learning_since")
	if err != nil {
		return time.Time{}, err
	}
	if t, err := time.Parse(time.RFC3339, at); err == nil {
		return t, nil
	}
	return time.Unix(0, 0), nil
}

// takeLearned begins a job with what the workshop's own jobs say of a circuit's faults and
// of how long getting at things takes.
func (s *Server) takeLearned(ctx context.Context, c *casefile.Case, m *store.Machine) error {
	rs, err := s.rates(ctx, c.Circuit, m.Kind, m.Age(time.Now()))
	if err != nil {
		return err
	}
	factors := learn.Factors(rs)
	for _, r := range rs {
		if f, ok := factors[r.Fault]; ok {
			if c.Known.Rates == nil {
				c.Known.Rates = map[string]casefile.Learned{}
			}
			c.Known.Rates[r.Fault] = casefile.Learned{Factor: f, N: r.N, Of: r.Of}
		}
	}
	ways, err := s.ways(ctx, c.Circuit, m.Kind)
	if err != nil {
		return err
	}
	for _, w := range ways {
		if c.Known.Access == nil {
			c.Known.Access, c.AccessMinutes = map[string]casefile.LearnedMinutes{}, map[string]float64{}
		}
		c.Known.Access[w.Access] = casefile.LearnedMinutes{Minutes: w.Here, N: w.N}
		c.AccessMinutes[w.Access] = w.Here
	}
	return nil
}

// rates are a circuit's fault rates as learned here: on machines of one kind and age,
// shrunk towards those of the kind, these towards all others, and these towards what ships.
func (s *Server) rates(ctx context.Context, c *circuit.Circuit, kind string, age int) ([]learn.Rate, error) {
	since, err := s.since(ctx)
	if err != nil {
		return nil, err
	}
	shipped := map[string]float64{}
	for i := range c.Stations {
		for mode, r := range c.Stations[i].Faults {
			if r > 0 {
				shipped[c.Stations[i].ID+"."+mode] = r
			}
		}
	}
	groups, err := s.st.Counts(ctx, c.ID, kind, age, since)
	if err != nil {
		return nil, err
	}
	return learn.Nested(shipped, groups[:]...), nil
}

// LearnWay is how long getting at something takes as learned here.
type LearnWay struct {
	Access  string  `json:"access"`
	Label   string  `json:"label"`
	Shipped float64 `json:"shipped" doc:"minutes as it ships"`
	Here    float64 `json:"here" doc:"minutes as it is taken here"`
	N       int     `json:"n" doc:"jobs that said so"`
}

// ways are the access groups of a circuit whose minutes were said here.
func (s *Server) ways(ctx context.Context, c *circuit.Circuit, kind string) ([]LearnWay, error) {
	since, err := s.since(ctx)
	if err != nil {
		return nil, err
	}
	others, own, err := s.st.AccessTimes(ctx, c.ID, kind, since)
	if err != nil {
		return nil, err
	}
	out := []LearnWay{}
	for _, g := range slices.Sorted(maps.Keys(c.AccessMinutes)) {
		n := len(others[g]) + len(own[g])
		if n == 0 {
			continue
		}
		w := LearnWay{Access: g, Label: c.AccessLabels[g], Shipped: c.AccessMinutes[g], N: n}
		w.Here = math.Round(2*learn.Minutes(w.Shipped, others[g], own[g])) / 2
		out = append(out, w)
	}
	return out, nil
}
