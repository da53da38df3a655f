package record

import (
	"strings"
	"time"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/strip"
)

// StripLine is one line of a strip-down record, as it is kept.
type StripLine struct {
	ID        string     `json:"id"`
	Text      string     `json:"text"`
	Explained string     `json:"explained"`
	At        time.Time  `json:"at"`
	By        string     `json:"by"`
	BackAt    *time.Time `json:"back_at,omitempty"`
	BackBy    string     `json:"back_by,omitempty"`
	Struck    bool       `json:"struck"`
	Photos    []string   `json:"photos"`
}

// Items reads lines as what they mean, struck ones left out.
func Items(lines []StripLine) []strip.Item {
	out := []strip.Item{}
	for _, l := range lines {
		if !l.Struck {
			out = append(out, strip.Item{Piece: strip.Parse(l.Text), ID: l.ID, Back: l.BackAt != nil, Explained: l.Explained})
		}
	}
	return out
}

// StripItem is one line of a strip-down record, as typed and as understood.
type StripItem struct {
	ID        string      `json:"id"`
	Entry     strip.Piece `json:"entry"`
	Back      string      `json:"back" doc:"how it goes back, in a few words"`
	Ticks     bool        `json:"ticks" doc:"it has to be ticked at putting back"`
	At        time.Time   `json:"at"`
	By        string      `json:"by"`
	BackAt    *time.Time  `json:"back_at,omitempty"`
	BackBy    string      `json:"back_by,omitempty"`
	Explained string      `json:"explained"`
	Struck    bool        `json:"struck"`
	Photos    []string    `json:"photos"`
	Counts    []string    `json:"counts" doc:"what it says as evidence on this circuit, in words"`
}

// StripView is the strip-down of a job: what came off in order, how it goes back, what
// can still be found inside, what was left behind.
type StripView struct {
	Items   []StripItem      `json:"items"`
	Back    []string         `json:"back" doc:"ids in the order of putting back"`
	Left    []string         `json:"left" doc:"ids of what is neither ticked nor explained"`
	Relearn []string         `json:"relearn" doc:"codes to clear and things to relearn"`
	Inside  []diagnose.Inner `json:"inside"`
	Share   float64          `json:"share" doc:"how likely the fault is inside the motor or what it turns, 0 to 1"`
	Notes   []JobNote        `json:"notes"`
	First   []string         `json:"first" doc:"what belongs before it comes apart"`
	Last    []string         `json:"last" doc:"what belongs before it is closed"`
}

// Strip puts the strip-down of a job together from its lines, the workshop's own notes of the
// craft, and what its evidence amounts to.
func (r *Record) Strip(op *diagnose.Opinion, lines []StripLine, own []strip.Note, notes []JobNote) *StripView {
	c := r.Circuit
	v := &StripView{First: strip.First(c), Last: strip.Last(c), Items: []StripItem{}, Back: []string{},
		Left: []string{}, Relearn: []string{}, Notes: append([]JobNote{}, notes...),
		Inside: diagnose.Inside(c, op.Diagnoses, r.Evidence), Share: diagnose.InsideShare(c, op.Diagnoses)}
	known := map[string]bool{}
	for _, l := range lines {
		e := strip.Parse(l.Text)
		e.Notes = append(strip.Own(own, e.Kind, strings.ToLower(l.Text)), strip.Fit(c, e.Notes)...)
		it := StripItem{ID: l.ID, Entry: e, Back: e.BackWords(), Ticks: e.NeedsTick(), At: l.At, By: l.By,
			BackAt: l.BackAt, BackBy: l.BackBy, Explained: l.Explained, Struck: l.Struck,
			Photos: append([]string{}, l.Photos...), Counts: []string{}}
		for _, f := range e.Findings {
			if FindingEvidence(r.Case, l.ID, f, l.At) != nil {
				it.Counts = append(it.Counts, findingWords(c, f))
			}
		}
		v.Items = append(v.Items, it)
		for _, x := range e.Relearn {
			if !l.Struck && !known[x] {
				known[x] = true
				v.Relearn = append(v.Relearn, x)
			}
		}
	}
	items := Items(lines)
	for _, it := range strip.PutBack(items) {
		v.Back = append(v.Back, it.ID)
	}
	for _, it := range strip.LeftOver(items) {
		v.Left = append(v.Left, it.ID)
	}
	return v
}

// findingWords is a finding as the look it answers says it.
func findingWords(c *circuit.Circuit, f strip.Finding) string {
	o := c.Observation(f.Observe)
	for _, x := range o.Outcomes {
		if x.ID == f.Outcome {
			return o.Label + ": " + x.Label
		}
	}
	return o.Label
}

// FindingID is the id of the evidence that a line amounts to: always the same, so that a
// resend adds none.
func FindingID(line string, f strip.Finding) string {
	return childID(line, f.Observe+"="+f.Outcome)
}

// FindingEvidence is a finding of a line as evidence, nil where the case's circuit does not
// know it.
func FindingEvidence(c *casefile.Case, line string, f strip.Finding, at time.Time) *casefile.Evidence {
	e := &casefile.Evidence{ID: FindingID(line, f), Observe: f.Observe, Outcome: f.Outcome, TakenAt: at.UTC().Format(time.RFC3339Nano)}
	if o := c.Circuit.Observation(f.Observe); o != nil {
		e.State = o.States[0]
	}
	if p := e.Check(c.Circuit, c.Instruments); p != nil {
		return nil
	}
	return e
}

// Tidy is a line of the strip-down as it is kept: spaces made one. An empty one is refused.
func Tidy(text string) (string, error) {
	text = strings.Join(strings.Fields(text), " ")
	if text == "" {
		return "", Refuse("write what came off: 2x 8 mm bolt")
	}
	return text, nil
}
