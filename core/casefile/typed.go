package casefile

import "corriente/core/unit"

// Typed is a piece of evidence as it is typed and sent, in the words of the case file, not
// checked.
type Typed struct {
	ID          string `json:"id,omitempty"`
	Measure     string `json:"measure,omitempty"`
	Observe     string `json:"observe,omitempty"`
	State       string `json:"state,omitempty"`
	From        string `json:"from,omitempty"`
	To          string `json:"to,omitempty"`
	Through     string `json:"through,omitempty"`
	Value       string `json:"value,omitempty"`
	Outcome     string `json:"outcome,omitempty"`
	Instrument  string `json:"instrument,omitempty"`
	Leads       string `json:"leads,omitempty"`
	Uncertainty string `json:"uncertainty,omitempty"`
	Condition   string `json:"condition,omitempty"`
	Symptom     string `json:"symptom,omitempty"`
	TakenAt     string `json:"taken_at,omitempty"`
	Struck      bool   `json:"struck,omitempty"`
}

// Evidence is it as evidence, not checked yet.
func (t *Typed) Evidence() Evidence {
	return Evidence{ID: t.ID, Measure: unit.Measure(t.Measure), Observe: t.Observe, State: t.State, From: t.From,
		To: t.To, Through: t.Through, Value: t.Value, Outcome: t.Outcome,
		Instrument: t.Instrument, Leads: t.Leads, Uncertainty: t.Uncertainty, Condition: t.Condition,
		Symptom: t.Symptom, TakenAt: t.TakenAt, Struck: t.Struck}
}

// Typed is a piece of evidence as it was typed.
func (e *Evidence) Typed() Typed {
	return Typed{e.ID, string(e.Measure), e.Observe, e.State, e.From, e.To, e.Through, e.Value, e.Outcome,
		e.Instrument, e.Leads, e.Uncertainty, e.Condition, e.Symptom, e.TakenAt, e.Struck}
}
