// Package workshop is what the workshop does with a job once its readings are in: it
// compares what can be done, records what was chosen and done, says what would prove it,
// takes the signature, and writes the papers. It puts the core's computation and the
// store together; handlers ask it and answer.
package workshop

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/fault"
	"corriente/core/unit"
	"corriente/core/work"
	"corriente/internal/store"
)

// Service does it. It keeps nothing of its own and may be used concurrently.
type Service struct {
	Store    *store.Store
	Advisers *Advisers
}

// Refusal is what a person is told when what they ask for cannot be: one sentence with the
// mend, without its full stop.
type Refusal struct{ Says string }

func (r *Refusal) Error() string { return r.Says }

func refuse(format string, args ...any) error { return &Refusal{fmt.Sprintf(format, args...)} }

// Warm prepares a circuit so that the first job on it does not wait.
func (s *Service) Warm(ctx context.Context, id string) error {
	c, err := circuit.Family(id)
	if err != nil {
		return err
	}
	a, err := s.Advisers.Get(c.Clone())
	if err != nil {
		return err
	}
	_, err = a.Weigh(ctx, &diagnose.Job{})
	return err
}

// RepairView is one repair of a job as its screens show it.
type RepairView struct {
	ID        string     `json:"id"`
	Stations  []string   `json:"stations"`
	Parts     string     `json:"parts" doc:"the parts in words"`
	Status    string     `json:"status" enum:"chosen,left,changed,done,failed,proved,accepted,succeeded"`
	Found     string     `json:"found" doc:"what it was as signed, else what the verdict said when it was chosen"`
	Signed    bool       `json:"signed" doc:"what it was is signed"`
	Option    string     `json:"option" doc:"empty where nobody chose"`
	Label     string     `json:"label" doc:"what was chosen, in words"`
	By        string     `json:"by" doc:"customer, workshop or empty"`
	Who       string     `json:"who"`
	Reason    string     `json:"reason"`
	SetAside  string     `json:"set_aside"`
	Price     *float64   `json:"price,omitempty" doc:"agreed"`
	Paid      *float64   `json:"paid,omitempty" doc:"what was charged in the end"`
	ChosenAt  *time.Time `json:"chosen_at,omitempty"`
	What      string     `json:"what" doc:"what was done, as typed"`
	DoneBy    string     `json:"done_by"`
	DoneAt    *time.Time `json:"done_at,omitempty"`
	Temporary bool       `json:"temporary"`
	Until     *time.Time `json:"until,omitempty"`
	Limit     string     `json:"limit"`
	Life      float64    `json:"life_years" doc:"how long such work usually lasts, reckoned; 0: not said"`
	Warranty  float64    `json:"warranty_years"`
	Proof     string     `json:"proof" doc:"how its last proof went, in words; empty while there is none"`
}

// Repairs lists a job's repairs, the first begun first; days are those of the zone.
func Repairs(j *store.Job, zone *time.Location) []RepairView {
	out := []RepairView{}
	c := j.Case.Circuit
	for _, r := range j.Repairs() {
		out = append(out, repairOf(j, c, &r, zone))
	}
	return out
}

func repairOf(j *store.Job, c *circuit.Circuit, r *work.Repair, zone *time.Location) RepairView {
	x := RepairView{ID: r.ID, Stations: append([]string{}, r.Stations...), Parts: partsIn(c, r.Stations), Status: string(r.Status), Temporary: r.Temporary}
	if r.Decision >= 0 {
		d := &j.Decisions[r.Decision]
		at, price := d.At, d.Price
		x.Found, x.Option, x.Label, x.By, x.Who, x.Reason, x.SetAside, x.Price, x.ChosenAt = d.Found, d.Option, d.Label, d.By, d.Who, d.Reason, d.SetAside, &price, &at
		x.Until, x.Limit, x.Life, x.Warranty = d.Until, d.Limit, d.Life, d.Warranty
		if x.Label == "" {
			x.Label = upper(d.Option) + ": " + x.Parts
		}
	}
	if n := len(r.Done); n > 0 {
		w := &j.Case.Repairs[r.Done[n-1]]
		x.What, x.DoneBy = w.What, w.By
		if x.What == "" {
			x.What = x.Label
		}
		if t, err := time.Parse(time.RFC3339Nano, w.At); err == nil {
			x.DoneAt = &t
		}
	}
	if n := len(r.Proofs); n > 0 {
		p := &j.Proofs[r.Proofs[n-1]]
		x.Proof = proofWords(p, zone)
		if was, ok := p.Was[r.ID]; ok && p.Result != work.Failed {
			x.Found, x.Signed = wasWords(c, was), true
		}
	}
	return x
}

// proofWords says how a proof went. "Proved good" is said of one that passed, and of no
// other.
func proofWords(p *store.Proof, zone *time.Location) string {
	say := map[string]string{work.Passed: "Proved good", work.Remark: "Accepted with a remark", work.Failed: "Not good"}[p.Result]
	if p.Remark != "" {
		say += ": " + strings.TrimSuffix(p.Remark, ".")
	}
	return say + ". " + p.Signed + ", " + day(p.At.In(zone)) + "."
}

// wasWords says what a repair was for, as signed.
func wasWords(c *circuit.Circuit, was string) string {
	if was == "none" {
		return "Nothing was wrong with it."
	}
	station, mode, _ := strings.Cut(was, ".")
	s := c.Station(station)
	if s == nil {
		return ""
	}
	return "It was the " + lower(s.Label) + ": " + fault.Label(mode) + "."
}

// WasIn says what a job's repairs turned out to be for, in one line; empty where nothing
// was wrong.
func WasIn(c *circuit.Circuit, was []string) string {
	var out []string
	for _, w := range was {
		station, mode, _ := strings.Cut(w, ".")
		if s := c.Station(station); s != nil {
			out = append(out, s.Label+": "+fault.Label(mode))
		}
	}
	return strings.Join(out, "; ")
}

// partsIn names parts in words.
func partsIn(c *circuit.Circuit, stations []string) string {
	var out []string
	for _, id := range stations {
		if s := c.Station(id); s != nil {
			label := s.Label
			if len(out) > 0 {
				label = lower(label)
			}
			out = append(out, label)
		}
	}
	switch n := len(out); n {
	case 0:
		return ""
	case 1:
		return out[0]
	default:
		return strings.Join(out[:n-1], ", ") + " and " + out[n-1]
	}
}

// before is a job as its evidence stood before a repair's work: what was found then. of is
// -1 for the job as it stands.
func (s *Service) before(ctx context.Context, j *store.Job, rs []work.Repair, of int) (*diagnose.Opinion, error) {
	at := -1
	if of >= 0 {
		at = rs[of].After(j.WorkDone())
	}
	if at < 0 {
		return s.Advisers.Glance(ctx, j)
	}
	then, c := *j, *j.Case
	c.Evidence = c.Evidence[:min(at, len(c.Evidence))]
	mine := map[string]bool{}
	for _, k := range rs[of].Done {
		mine[j.Case.Repairs[k].ID] = true
	}
	c.Repairs = slices.DeleteFunc(slices.Clone(c.Repairs), func(x casefile.Repair) bool { return mine[x.ID] || x.After > at })
	then.Case = &c
	op, _, err := s.Advisers.reason(ctx, &then)
	return op, err
}

// said is a piece of evidence as a person would say it.
func said(c *circuit.Circuit, e *casefile.Evidence) string {
	if e.Observe == "" {
		return e.Reading.String(e.Measure)
	}
	if o := c.Observation(e.Observe); o != nil {
		for _, x := range o.Outcomes {
			if x.ID == e.Outcome {
				return x.Label
			}
		}
	}
	return strings.ReplaceAll(e.Outcome, "_", " ")
}

// Words says a suggestion in one line.
func Words(c *circuit.Circuit, n *diagnose.Suggestion) string {
	if o := c.Observation(n.Observe); o != nil {
		return o.Question
	}
	label := func(id string) string {
		if x := c.Node(id); x != nil {
			if of, what, ok := strings.Cut(x.Label, ", "); ok { // a comma would read as the next end
				return of + " (" + what + ")"
			}
			return x.Label
		}
		return id
	}
	through := ""
	if s := c.Station(n.Through); s != nil {
		through = strings.ToLower(s.Label)
	}
	switch unit.Measure(n.Measure) {
	case unit.Current:
		return "amperes through the " + through
	case unit.Resistance:
		if through != "" {
			return "ohms of the " + through
		}
		return fmt.Sprintf("ohms, %s to %s", label(n.From), label(n.To))
	case unit.ACVoltage:
		return fmt.Sprintf("AC volts, %s to %s", label(n.From), label(n.To))
	case unit.Frequency:
		return fmt.Sprintf("hertz, %s to %s", label(n.From), label(n.To))
	case unit.Capacitance:
		return fmt.Sprintf("microfarads, %s to %s", label(n.From), label(n.To))
	}
	return fmt.Sprintf("volts, %s to %s", label(n.From), label(n.To))
}

func upper(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

func lower(s string) string {
	if s == "" {
		return s
	}
	return strings.ToLower(s[:1]) + s[1:]
}

func day(t time.Time) string { return t.Format("2 January 2006") }
