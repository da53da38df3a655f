package train

import (
	"context"
	"fmt"

	"corriente/core/circuit"
	"corriente/core/diagnose"
)

// AttemptView is an attempt as the trainee sees it: the circuit without its volts.
type AttemptView struct {
	ID        string                `json:"id"`
	Title     string                `json:"title"`
	Complaint string                `json:"complaint"`
	Seed      uint64                `json:"seed" doc:"hand it out, and others get the same machine"`
	Exercise  string                `json:"exercise"`
	Sometimes bool                  `json:"sometimes" doc:"the fault comes and goes"`
	Circuit   *circuit.Circuit      `json:"circuit"`
	Looks     []circuit.Observation `json:"looks"`
	Log       []Done                `json:"log"`
	Minutes   float64               `json:"minutes"`
	Money     float64               `json:"money"`
	Hints     int                   `json:"hints"`
	Over      bool                  `json:"over"`
	Stopped   *Danger               `json:"stopped,omitempty"`
	Debrief   *Debrief              `json:"debrief,omitempty"`
	Ranges    map[string][]float64  `json:"ranges"`
}

// View is the attempt as the trainee sees it, without a debrief.
func (t *Attempt) View(id string) *AttemptView {
	// The circuit goes out without its rates: what is likely is for the trainee to think of.
	c := t.A.C.Clone()
	for i := range c.Stations {
		c.Stations[i].Faults = map[string]float64{}
		for _, m := range circuit.KindModes(c.Stations[i].Kind) {
			if _, ok := t.A.C.Stations[i].Faults[m]; ok {
				c.Stations[i].Faults[m] = 1
			}
		}
	}
	v := &AttemptView{ID: id, Title: t.Ex.Title, Complaint: t.Ex.Complaint, Seed: t.Ex.Seed, Exercise: t.Ex.ID,
		Sometimes: t.Ex.Intermittent, Circuit: c, Looks: []circuit.Observation{},
		Log: append([]Done{}, t.Log...), Minutes: t.Spent, Money: t.Money, Hints: t.Hints, Over: t.Over,
		Stopped: t.Stopped, Ranges: map[string][]float64{}}
	for _, o := range c.Observations {
		if o.Model != "blink_code" {
			v.Looks = append(v.Looks, o)
		}
	}
	if o := c.Observation(circuit.CurrentTrace); o != nil {
		v.Looks = append(v.Looks, *o)
	}
	v.Looks = append(v.Looks, c.Inside()...)
	for _, d := range []string{Volts, Ohms, Clamp} {
		v.Ranges[d] = Ranges(d)
	}
	return v
}

// Begin is what an attempt is begun with: an exercise of a course by its id, or a circuit and
// a seed for a random one.
type Begin struct {
	ID        string `json:"id" format:"uuid"`
	Exercise  string `json:"exercise,omitempty" maxLength:"64"`
	Circuit   string `json:"circuit,omitempty" maxLength:"64" doc:"for a random one"`
	Seed      uint64 `json:"seed,omitempty" maximum:"9007199254740991"`
	Count     int    `json:"count,omitempty" minimum:"0" maximum:"2"`
	Sometimes bool   `json:"sometimes,omitempty"`
}

// Random is the exercise that a circuit and a seed give.
func (b *Begin) Random(c *circuit.Circuit) (*Exercise, error) {
	if c.Mains || c.Frequency > 0 && len(c.Paths) == 0 {
		return nil, refuse("there is no circuit %q to train on", c.ID)
	}
	return &Exercise{ID: "random", Title: c.Title, Circuit: c.ID, Seed: b.Seed, Count: b.Count,
		Intermittent: b.Sometimes, Complaint: "It does not do its work. Find out why.",
		Idea: "What tells most for its minutes comes first."}, nil
}

// AttemptKit is an attempt carried along, to go on with it without the server: as the server gave
// it, or as it was begun here.
type AttemptKit struct {
	ID       string           `json:"id"`
	Exercise *Exercise        `json:"exercise,omitempty"`
	Circuit  *circuit.Circuit `json:"circuit,omitempty"`
	Begin    *Begin           `json:"begin,omitempty"`
	Moves    []Move           `json:"moves"`
}

// Open finds the exercise and the circuit of a kit.
func (k *AttemptKit) Open() (*Exercise, *circuit.Circuit, error) {
	ex, c := k.Exercise, k.Circuit
	id := ""
	switch {
	case ex != nil:
		id = ex.Circuit
	case k.Begin == nil:
		return nil, nil, fmt.Errorf("the exercise is missing")
	case k.Begin.Exercise != "":
		if ex = Find(k.Begin.Exercise); ex == nil {
			return nil, nil, refuse("this exercise can be begun once the connection is back")
		}
		id = ex.Circuit
	default:
		id = k.Begin.Circuit
	}
	if c == nil {
		var err error
		if c, err = circuit.Family(id); err != nil {
			return nil, nil, refuse("this circuit can be trained on once the connection is back")
		}
	}
	if ex == nil {
		var err error
		if ex, err = k.Begin.Random(c); err != nil {
			return nil, nil, err
		}
	}
	return ex, c, nil
}

// Carry is the attempt as the trainee sees it after the kit's moves, with the debrief when it
// is over. The error is a [*Refused] where the last move cannot be.
func (k *AttemptKit) Carry(ctx context.Context, adviser func(*circuit.Circuit) (*diagnose.Adviser, error)) (*AttemptView, error) {
	ex, c, err := k.Open()
	if err != nil {
		return nil, err
	}
	a, err := adviser(c)
	if err != nil {
		return nil, err
	}
	t, err := Replay(a, *ex, k.Moves)
	if err != nil {
		return nil, err
	}
	v := t.View(k.ID)
	if t.Over {
		v.Debrief, err = t.Debriefing(ctx)
	}
	return v, err
}
