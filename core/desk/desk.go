package desk

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"slices"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
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
	s := &Screen{Shown: []string{}, Diagnosis: op.Result, Suspects: op.Rivals(suspects), Picture: pic,
		Looks: []Look{}, Thinking: !op.Thought}
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
	opinions []weighed // the latest first
	last     *weighed  // the job as it stands, weighed last
}

// weighed is a case and what it amounts to.
type weighed struct {
	key [32]byte
	op  *diagnose.Opinion
	on  *casefile.Case
}

// How many prepared circuits and opinions a desk keeps. A job with three repairs under proof
// asks for four opinions.
const (
	keptAdvisers = 2
	keptOpinions = 8
)

// Weigh reads a case file and reasons about it; the same text again, in another
// state, is only drawn. A glance leaves what to do next for later. The error
// names the place in the file and the mend.
func (d *Desk) Weigh(ctx context.Context, text []byte, state string, glance bool) (*Screen, error) {
	w := d.find(sha256.Sum256(text))
	if w == nil {
		c, err := casefile.Read(bytes.NewReader(text))
		if err != nil {
			return nil, err
		}
		w = &weighed{key: sha256.Sum256(text), on: c}
	}
	if err := d.weigh(ctx, w, !glance); err != nil {
		return nil, err
	}
	return d.show(w, state)
}

// find is what was weighed under a key, nil where nothing was.
func (d *Desk) find(key [32]byte) *weighed {
	for i := range d.opinions {
		if d.opinions[i].key == key {
			w := d.opinions[i]
			return &w
		}
	}
	return nil
}

// weigh works out what a case amounts to, as far as that is not known, and keeps it.
func (d *Desk) weigh(ctx context.Context, w *weighed, thought bool) error {
	if w.op == nil {
		a, err := d.adviser(w.on.Circuit)
		if err != nil {
			return err
		}
		if w.op, err = a.Glance(ctx, diagnose.JobOf(w.on)); err != nil {
			return err
		}
	}
	if thought && !w.op.Thought {
		op, err := w.op.Think(ctx)
		if err != nil {
			return err
		}
		w.op = op
	}
	d.opinions = slices.DeleteFunc(d.opinions, func(x weighed) bool { return x.key == w.key })
	d.opinions = slices.Insert(d.opinions, 0, *w)
	d.opinions = d.opinions[:min(len(d.opinions), keptOpinions)]
	return nil
}

func (d *Desk) adviser(c *circuit.Circuit) (*diagnose.Adviser, error) {
	b, err := json.Marshal(c)
	if err != nil {
		return nil, err
	}
	key := sha256.Sum256(b)
	a := d.advisers[key]
	if a == nil {
		if a, err = diagnose.NewAdviser(c); err != nil {
			return nil, err
		}
		if len(d.advisers) >= keptAdvisers || d.advisers == nil {
			d.advisers = map[[32]byte]*diagnose.Adviser{}
		}
		d.advisers[key] = a
	}
	return a, nil
}

func (d *Desk) show(w *weighed, state string) (*Screen, error) {
	d.last = w
	closed, decided := false, false
	if j := w.on.Job; j != nil {
		closed, decided = j.ClosedAt != "", len(j.Decisions) > 0
	}
	return Show(w.op, w.on, state, closed, decided)
}

// Preview says how a reading that is being typed would be understood in the case
// weighed last.
func (d *Desk) Preview(e casefile.Evidence) (*diagnose.Preview, error) {
	if d.last == nil {
		return nil, fmt.Errorf("nothing was weighed yet")
	}
	if p := e.Check(d.last.on.Circuit, d.last.on.Instruments); p != nil {
		return nil, fmt.Errorf("%s", p.What)
	}
	if e.Measure == "" {
		return nil, fmt.Errorf("only a reading is previewed")
	}
	p := d.last.op.Preview(&e)
	return &p, nil
}
