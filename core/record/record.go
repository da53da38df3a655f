package record

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/phrase"
	"corriente/core/unit"
	"corriente/core/work"
)

// Refusal is what a person is told when what they ask for cannot be: one sentence with the
// mend, without its full stop.
type Refusal struct{ Says string }

func (r *Refusal) Error() string { return r.Says }

// Refuse makes a refusal.
func Refuse(format string, args ...any) error { return &Refusal{fmt.Sprintf(format, args...)} }

// Record is a job with its repairs put together. It does not change the case it was made of.
type Record struct {
	*casefile.Case
	Repairs []work.Repair
	done    []work.Done
	proofs  []work.Proof
}

// Of puts a case's decisions, work and proofs together.
func Of(c *casefile.Case) *Record {
	r := &Record{Case: c}
	if c.Job == nil {
		r.Case = withJob(c)
	}
	var ds []work.Decision
	for i := range r.Job.Decisions {
		d := &r.Job.Decisions[i]
		ds = append(ds, work.Decision{ID: d.ID, Option: d.Option, Stations: partsOf(d), Temporary: d.Temporary, At: parse(d.At)})
	}
	for _, x := range c.Repairs {
		r.done = append(r.done, work.Done{ID: x.ID, Decision: x.Decision, Station: x.Station, After: x.After,
			What: x.What, At: parse(x.At), By: x.By})
	}
	for i := range r.Job.Proofs {
		p := &r.Job.Proofs[i]
		r.proofs = append(r.proofs, work.Proof{ID: p.ID, Of: p.Of, Result: p.Result, After: p.After, At: parse(p.At)})
	}
	r.Repairs = work.Repairs(ds, r.done, r.proofs)
	return r
}

// withJob is a copy of a case with a job of its own, which may be added to.
func withJob(c *casefile.Case) *casefile.Case {
	out, j := *c, casefile.Job{}
	if c.Job != nil {
		j = *c.Job
		j.Decisions, j.Proofs = slices.Clone(j.Decisions), slices.Clone(j.Proofs)
	}
	out.Job = &j
	return &out
}

// partsOf lists all parts a decision is for.
func partsOf(d *casefile.Decision) []string {
	if len(d.Stations) > 0 {
		return d.Stations
	}
	return []string{d.Station}
}

// After is how many pieces of evidence were taken before the k-th repair's work; -1 while it
// is not done.
func (r *Record) After(k int) int { return r.Repairs[k].After(r.done) }

// Before is the case as its evidence stood before the k-th repair's work; nil while that is
// not done: then it is the case as it stands.
func (r *Record) Before(k int) *casefile.Case {
	at := r.After(k)
	if at < 0 {
		return nil
	}
	c := *r.Case
	c.Evidence = c.Evidence[:min(at, len(c.Evidence))]
	mine := map[string]bool{}
	for _, i := range r.Repairs[k].Done {
		mine[r.Case.Repairs[i].ID] = true
	}
	c.Repairs = slices.DeleteFunc(slices.Clone(c.Repairs), func(x casefile.Repair) bool { return mine[x.ID] || x.After > at })
	return &c
}

// ToProve lists the repairs that are done and not proved, as indices, and how many pieces of
// evidence what counts for their proof must come behind.
func (r *Record) ToProve() (of []int, from int) {
	of = work.ToProve(r.Repairs)
	return of, work.Counts(r.Repairs, r.done, r.proofs, of)
}

// parse reads a time of a case file; the zero time where there is none.
func parse(s string) time.Time {
	t, err := time.Parse(time.RFC3339Nano, s)
	if err != nil {
		return time.Time{}
	}
	return t
}

// Said is a piece of evidence as a person would say it.
func Said(c *circuit.Circuit, e *casefile.Evidence) string {
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

// EvidenceWords says what a piece of evidence was about in one line.
func EvidenceWords(c *circuit.Circuit, e *casefile.Evidence) string {
	if o := c.Observation(e.Observe); o != nil {
		return o.Label
	}
	return phrase.Upper(Words(c, &diagnose.Suggestion{Measure: string(e.Measure), From: e.From, To: e.To, Through: e.Through}))
}

// Parts names parts in words.
func Parts(c *circuit.Circuit, stations []string) string {
	var out []string
	for _, id := range stations {
		if s := c.Station(id); s != nil {
			label := s.Label
			if len(out) > 0 {
				label = phrase.Lower(label)
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

func cut(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return strings.TrimSpace(string(r[:n-1])) + "…"
	}
	return s
}
