// Package desk puts together what a job's screens show of its reasoning: the
// verdict, the suspects, the current path of one state, the quick checks still
// open. The server and the interface's own worker, which goes on without a
// connection, both ask it, so that they say the same.
package desk

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"

	"corriente/core/casefile"
	"corriente/core/diagnose"
	"corriente/core/unit"
)

// Look is a quick check with what it is worth now.
type Look struct {
	Observe string  `json:"observe"`
	State   string  `json:"state"`
	Through string  `json:"through,omitempty"`
	Bits    float64 `json:"bits"`
	Minutes float64 `json:"minutes"`
	People  int     `json:"people"`
}

// Screen is all that is computed of a job for its screens.
type Screen struct {
	Shown     []string          `json:"shown"` // each piece of evidence as understood, "" for an observation
	Diagnosis diagnose.Result   `json:"diagnosis"`
	Suspects  []diagnose.Rival  `json:"suspects"`
	Picture   *diagnose.Picture `json:"picture"`
	Looks     []Look            `json:"looks"`
	Stage     string            `json:"stage"`
	Thinking  bool              `json:"thinking"` // what to do next is still to come
}

// suspects is how many suspects a screen lists.
const suspects = 6

// Show puts together the screen of a job whose evidence has been weighed, with
// the path of one state; where there is no such state, of the one the next
// reading is taken in.
func Show(op *diagnose.Opinion, c *casefile.Case, state string, closed, decided bool) (*Screen, error) {
	if c.Circuit.State(state) == nil {
		state = c.Circuit.RunState
		if len(op.Next) > 0 {
			state = op.Next[0].State
		}
	}
	pic, err := op.Picture(state)
	if err != nil {
		return nil, err
	}
	s := &Screen{Shown: []string{}, Diagnosis: op.Result, Suspects: op.Rivals(suspects), Picture: pic, Looks: []Look{}, Thinking: !op.Thought}
	readings, looks := 0, 0
	for i := range c.Evidence {
		e := &c.Evidence[i]
		shown := ""
		if e.Measure != "" {
			shown = e.Reading.String(e.Measure)
		}
		s.Shown = append(s.Shown, shown)
		switch {
		case e.Struck:
		case e.Measure != "":
			readings++
		default:
			looks++
		}
	}
	for _, l := range op.Looks {
		s.Looks = append(s.Looks, Look{l.Observe, l.State, l.Through, l.Bits, l.Minutes, l.People})
	}
	s.Stage = Stage(closed, decided, op.Verdict.Status, readings, looks)
	return s, nil
}

// Stage says how far a job has come.
func Stage(closed, decided bool, status string, readings, looks int) string {
	switch {
	case closed:
		return "closed"
	case decided:
		return "decided"
	case status == diagnose.Isolated:
		return "decide"
	case readings > 0:
		return "measure"
	case looks > 0:
		return "checks"
	}
	return "complaint"
}

// Desk reasons about one job at a time from its case file, and keeps what it
// prepared. It is not safe for concurrent use.
type Desk struct {
	advisers map[[32]byte]*diagnose.Adviser
	text     [32]byte // what was weighed last
	last     *diagnose.Opinion
	on       *casefile.Case
}

// kept is how many prepared circuits a desk keeps.
const kept = 2

// Weigh reads a case file and reasons about it; the same text again, in another
// state, is only drawn. A glance leaves what to do next for later. The error
// names the place in the file and the mend.
func (d *Desk) Weigh(ctx context.Context, text []byte, state string, glance bool) (*Screen, error) {
	same := sha256.Sum256(text)
	if d.last != nil && same == d.text {
		if !glance {
			op, err := d.last.Think(ctx)
			if err != nil {
				return nil, err
			}
			d.last = op
		}
		return d.show(state)
	}
	c, err := casefile.Read(bytes.NewReader(text))
	if err != nil {
		return nil, err
	}
	key, err := json.Marshal(c.Circuit)
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256(key)
	a := d.advisers[sum]
	if a == nil {
		if a, err = diagnose.NewAdviser(c.Circuit); err != nil {
			return nil, err
		}
		if len(d.advisers) >= kept || d.advisers == nil {
			d.advisers = map[[32]byte]*diagnose.Adviser{}
		}
		d.advisers[sum] = a
	}
	weigh := a.Weigh
	if glance {
		weigh = a.Glance
	}
	op, err := weigh(ctx, diagnose.JobOf(c))
	if err != nil {
		return nil, err
	}
	d.text, d.last, d.on = same, op, c
	return d.show(state)
}

func (d *Desk) show(state string) (*Screen, error) {
	closed, decided := false, false
	if j := d.on.Job; j != nil {
		closed, decided = j.ClosedAt != "", len(j.Decisions) > 0
	}
	return Show(d.last, d.on, state, closed, decided)
}

// Preview says how a reading that is being typed would be understood in the case
// weighed last.
func (d *Desk) Preview(e casefile.Evidence) (*diagnose.Preview, error) {
	if d.last == nil {
		return nil, fmt.Errorf("nothing was weighed yet")
	}
	if p := e.Check(d.on.Circuit, d.on.Instruments); p != nil {
		return nil, fmt.Errorf("%s", p.What)
	}
	if e.Measure == "" {
		return nil, fmt.Errorf("only a reading is previewed")
	}
	p := d.last.Preview(&e)
	return &p, nil
}

// Typed is a reading as it is being typed, in the words of the case file.
type Typed struct {
	Measure    string `json:"measure"`
	State      string `json:"state"`
	From       string `json:"from"`
	To         string `json:"to"`
	Through    string `json:"through"`
	Value      string `json:"value"`
	Instrument string `json:"instrument"`
	Leads      string `json:"leads"`
	Condition  string `json:"condition"`
	Symptom    string `json:"symptom"`
}

// Evidence is the reading as evidence, not checked yet.
func (t *Typed) Evidence() casefile.Evidence {
	return casefile.Evidence{Measure: unit.Measure(t.Measure), State: t.State, From: t.From, To: t.To, Through: t.Through, Value: t.Value,
		Instrument: t.Instrument, Leads: t.Leads, Condition: t.Condition, Symptom: t.Symptom}
}
