package desk

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"corriente/core/casefile"
	"corriente/core/diagnose"
	"corriente/core/record"
	"corriente/core/work"
)

// Asked is what is asked about a job that is carried along; exactly one of its parts is
// there.
type Asked struct {
	Screen  *AskScreen      `json:"screen,omitempty"`
	Strip   bool            `json:"strip,omitempty"`
	Proof   bool            `json:"proof,omitempty"`
	Path    bool            `json:"path,omitempty"`
	Compare *record.Compare `json:"compare,omitempty"`
	Calc    *AskCalc        `json:"calc,omitempty"`
}

// AskCalc asks a calculator its question about a part of the job's circuit.
type AskCalc struct {
	Calculator string            `json:"calculator"`
	Inputs     map[string]string `json:"inputs"`
	Part       string            `json:"part"`
}

// AskScreen asks for the job's screen with the path of a state. A glance leaves what to do
// next for later.
type AskScreen struct {
	State  string `json:"state"`
	Glance bool   `json:"glance"`
}

// Told is the answer, and what of the writes could not be put to the job: id and why.
type Told struct {
	Screen  *JobScreen          `json:"screen,omitempty"`
	Strip   *record.StripView   `json:"strip,omitempty"`
	Proof   *record.ProveView   `json:"proof,omitempty"`
	Path    *record.PathView    `json:"path,omitempty"`
	Options *record.OptionsView `json:"options,omitempty"`
	Calc    *CalcView           `json:"calc,omitempty"`
	Refused map[string]string   `json:"refused"`
}

// JobScreen is what is computed of a job for its screens, and what of it the writes that wait
// have changed.
type JobScreen struct {
	*Screen
	Evidence     []casefile.Typed    `json:"evidence"`
	Complaint    string              `json:"complaint"`
	When         []string            `json:"when"`
	History      string              `json:"history"`
	Acknowledged []string            `json:"acknowledged"`
	Intermittent bool                `json:"intermittent"`
	Unreachable  []string            `json:"unreachable"`
	Repairs      []casefile.Repair   `json:"repairs"`
	Work         []record.RepairView `json:"work"`
	Proved       bool                `json:"proved"`
	ClosedAt     string              `json:"closed_at,omitempty"`
}

// Carry answers what is asked about a job that is carried along (a [record.Kit] as JSON) with
// what waits to be sent put to it, in its order.
func (d *Desk) Carry(ctx context.Context, kit []byte, writes []record.Write, ask Asked) (*Told, error) {
	k := &record.Kit{}
	if err := json.Unmarshal(kit, k); err != nil {
		return nil, fmt.Errorf("the job as it is kept here cannot be read: %w", err)
	}
	c, err := casefile.Read(bytes.NewReader(k.Case))
	if err != nil {
		return nil, err
	}
	on := k.Open(c, func(c *casefile.Case, thought bool) (*diagnose.Opinion, error) { return d.opinion(ctx, c, thought) })
	told := &Told{Refused: map[string]string{}}
	for i := range writes {
		var no *record.Refusal
		if err := on.Put(&writes[i]); errors.As(err, &no) {
			told.Refused[writes[i].ID] = no.Says
		} else if err != nil {
			return nil, err
		}
	}
	return told, d.tell(ctx, on, ask, told)
}

// opinion is what a case amounts to. Cases that say the same share one.
func (d *Desk) opinion(ctx context.Context, c *casefile.Case, thought bool) (*diagnose.Opinion, error) {
	w, err := d.weighCase(ctx, c, thought)
	if err != nil {
		return nil, err
	}
	return w.op, nil
}

func (d *Desk) weighCase(ctx context.Context, c *casefile.Case, thought bool) (*weighed, error) {
	say := *c // what was decided and signed moves no judgement
	if c.Job != nil {
		j := *c.Job
		j.Decisions, j.Proofs, j.ClosedAt = nil, nil, ""
		say.Job = &j
	}
	var b bytes.Buffer
	if err := say.Write(&b); err != nil {
		return nil, err
	}
	w := d.find(sha256.Sum256(b.Bytes()))
	if w == nil {
		w = &weighed{key: sha256.Sum256(b.Bytes())}
	}
	w.on = c
	return w, d.weigh(ctx, w, thought)
}

func (d *Desk) tell(ctx context.Context, on *record.Carried, ask Asked, told *Told) error {
	switch {
	case ask.Screen != nil:
		return d.screen(ctx, on, ask.Screen, told)
	case ask.Strip:
		op, err := d.opinion(ctx, on.On, false)
		if err != nil {
			return err
		}
		told.Strip = on.Record().Strip(op, on.Beside.Lines, on.Own, on.Notes)
	case ask.Proof:
		p, err := on.Proof()
		if err != nil {
			return err
		}
		told.Proof = &p.View
	case ask.Path:
		op, err := d.opinion(ctx, on.On, true)
		if err != nil {
			return err
		}
		told.Path = on.Record().Path(op, on.Beside.Lines, on.On.Job.ClosedAt != "")
	case ask.Calc != nil:
		v, err := Calculate(ask.Calc.Calculator, ask.Calc.Inputs, on.On.Circuit, ask.Calc.Part)
		told.Calc = v
		return err
	case ask.Compare != nil:
		op, err := d.opinion(ctx, on.On, true)
		if err != nil {
			return err
		}
		told.Options, err = on.Record().Compare(op, *ask.Compare, on.Lived, time.Now())
		return err
	}
	return nil
}

func (d *Desk) screen(ctx context.Context, on *record.Carried, ask *AskScreen, told *Told) error {
	w, err := d.weighCase(ctx, on.On, !ask.Glance)
	if err != nil {
		return err
	}
	s, err := d.show(w, ask.State)
	if err != nil {
		return err
	}
	r, j := on.Record(), on.On.Job
	x := &JobScreen{Screen: s, Evidence: []casefile.Typed{}, Complaint: j.Complaint,
		When: append([]string{}, j.When...), History: j.History, Intermittent: on.On.Intermittent,
		Acknowledged: append([]string{}, j.Acknowledged...), Unreachable: append([]string{}, on.On.Known.Unreachable...),
		Repairs: append([]casefile.Repair{}, on.On.Repairs...), Work: r.Views(on.Where()), ClosedAt: j.ClosedAt}
	for i := range on.On.Evidence {
		x.Evidence = append(x.Evidence, on.On.Evidence[i].Typed())
	}
	if n := len(j.Proofs); n > 0 {
		x.Proved = j.Proofs[n-1].Result != work.Failed
	}
	told.Screen = x
	return nil
}
