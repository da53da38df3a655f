package desk

import (
	"context"
	"errors"

	"corriente/core/circuit"
	"corriente/core/train"
)

// Training is what is asked of the trainer; exactly one of its parts is there.
type Training struct {
	Attempt *train.AttemptKit `json:"attempt,omitempty"`
	Drill   *AskDrill         `json:"drill,omitempty"`
}

// AskDrill asks for one question about a made-up machine.
type AskDrill struct {
	Circuit string `json:"circuit"`
	Seed    uint64 `json:"seed"`
}

// Trained is the trainer's answer.
type Trained struct {
	Attempt *train.AttemptView `json:"attempt,omitempty"`
	Drill   *train.Round       `json:"drill,omitempty"`
}

// Train asks the trainer.
func (d *Desk) Train(ctx context.Context, q *Training) (*Trained, error) {
	switch {
	case q.Attempt != nil:
		v, err := q.Attempt.Carry(ctx, d.adviser)
		return &Trained{Attempt: v}, err
	case q.Drill != nil:
		c, err := circuit.Family(train.DrillOn(q.Drill.Circuit, q.Drill.Seed))
		if err != nil {
			return nil, err
		}
		a, err := d.adviser(c)
		if err != nil {
			return nil, err
		}
		r, err := train.Drill(ctx, a, q.Drill.Seed)
		return &Trained{Drill: r}, err
	}
	return nil, errors.New("nothing was asked of the trainer")
}
