package web

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"corriente/core/record"
	"corriente/internal/store"
)

// mostVisits is how many of a machine's jobs its page is put together from.
const mostVisits = 30

// MachineView is all that is known of one machine, put together from its jobs.
type MachineView struct {
	Machine Machine        `json:"machine"`
	Jobs    []LogEntry     `json:"jobs" doc:"the newest first, with how long the repair lasted"`
	Due     []MachineDue   `json:"due" doc:"what is to come, the next first"`
	Fitted  []MachineWork  `json:"fitted" doc:"what was done, the newest first"`
	Values  []MachineValue `json:"values" doc:"what its plate and its manual say, the newest of each"`
	Codes   []MachineCode  `json:"codes" doc:"what its lamps blinked, the newest first"`
	Marks   []MachineMark  `json:"marks" doc:"what the wiring diagram says of its circuits, known for its type"`
	Photos  []MachinePhoto `json:"photos" doc:"taken at its jobs, the newest first"`
}

// MachineDue is something that is to come.
type MachineDue struct {
	Job  string     `json:"job" format:"uuid"`
	What string     `json:"what"`
	On   *time.Time `json:"on,omitempty" doc:"absent: nobody knows"`
}

// MachineWork is one repair that was done.
type MachineWork struct {
	Job   string     `json:"job" format:"uuid"`
	Parts string     `json:"parts" doc:"the parts in words"`
	What  string     `json:"what"`
	On    *time.Time `json:"on,omitempty"`
	Proof string     `json:"proof" doc:"how its proof went, empty while there is none"`
}

// MachineValue is a value of the machine as it is said.
type MachineValue struct {
	Job   string `json:"job" format:"uuid" doc:"where it was given"`
	Title string `json:"title" doc:"the circuit it belongs to"`
	Label string `json:"label"`
	Says  string `json:"says"`
}

// MachineCode is a blink code that was read.
type MachineCode struct {
	Job  string    `json:"job" format:"uuid"`
	Says string    `json:"says"`
	On   time.Time `json:"on"`
}

// MachineMark is what the wiring diagram says of a place.
type MachineMark struct {
	Title string     `json:"title" doc:"the circuit"`
	At    string     `json:"at" doc:"the place in words"`
	Mark  store.Mark `json:"mark"`
}

// MachinePhoto is a photo of the strip-down.
type MachinePhoto struct {
	ID   string    `json:"id" format:"uuid"`
	Job  string    `json:"job" format:"uuid"`
	Says string    `json:"says" doc:"the line it belongs to"`
	On   time.Time `json:"on"`
}

// machine puts the page of a machine together.
func (s *Server) machine(ctx context.Context, id uuid.UUID) (*out[*MachineView], error) {
	m, err := s.st.Machine(ctx, id)
	if err != nil {
		return nil, s.fail(ctx, "machine", err)
	}
	v := &MachineView{Machine: machineOut(*m), Due: []MachineDue{}, Fitted: []MachineWork{}, Values: []MachineValue{},
		Codes: []MachineCode{}, Marks: []MachineMark{}, Photos: []MachinePhoto{}}
	if v.Jobs, err = s.historyOf(ctx, id); err != nil {
		return nil, s.fail(ctx, "machine", err)
	}
	set, err := s.ws.Settings(ctx)
	if err != nil {
		return nil, s.fail(ctx, "settings", err)
	}
	visits, err := s.st.Visits(ctx, id, mostVisits)
	if err != nil {
		return nil, s.fail(ctx, "machine", err)
	}
	seen := map[string]bool{} // values and circuits that a newer job told of already
	for _, x := range visits {
		if err := s.visit(ctx, v, &x, set.Zone(), seen); err != nil {
			return nil, s.fail(ctx, "machine", err)
		}
	}
	slices.SortStableFunc(v.Due, func(a, b MachineDue) int { return day(a.On).Compare(day(b.On)) })
	return body(v), nil
}

// day is when something is due; what nobody knows the day of comes last.
func day(t *time.Time) time.Time {
	if t == nil {
		return time.Date(9999, 1, 1, 0, 0, 0, 0, time.UTC)
	}
	return *t
}

// visit adds what one job tells of its machine.
func (s *Server) visit(ctx context.Context, v *MachineView, x *store.Visit, zone *time.Location, seen map[string]bool) error {
	j, err := s.st.Job(ctx, x.Job)
	if err != nil {
		return err
	}
	id, c := j.ID.String(), j.Case.Circuit
	if x.FollowUp != nil {
		v.Due = append(v.Due, MachineDue{id, x.FollowWhat, x.FollowUp})
	}
	if j.ClosedAt == nil {
		waits, err := s.st.Waits(ctx, &x.Job)
		if err != nil {
			return err
		}
		for i := range waits {
			v.Due = append(v.Due, MachineDue{id, waitSays(&waits[i]), waits[i].Until})
		}
	}
	for _, r := range j.Record().Views(zone) {
		if r.DoneAt != nil {
			v.Fitted = append(v.Fitted, MachineWork{id, r.Parts, r.What, r.DoneAt, r.Proof})
		}
	}
	given := settingsOf(j.Case)
	if given.Plate != nil && given.Plate.Plate != (PlateView{}).Plate && !seen[c.ID+" plate"] {
		seen[c.ID+" plate"] = true
		p := given.Plate.Plate
		v.Values = append(v.Values, MachineValue{id, c.Title, "The motor’s plate", listed(p.Power, p.Voltage, p.Current, p.Speed)})
	}
	for _, g := range given.Given {
		if key := c.ID + " " + g.Name; !seen[key] {
			seen[key] = true
			v.Values = append(v.Values, MachineValue{id, c.Title, g.Label, g.Says})
		}
	}
	for i := range j.Case.Evidence {
		e := &j.Case.Evidence[i]
		if o := c.Observation(e.Observe); o != nil && o.Model == "blink_code" && !e.Struck {
			v.Codes = append(v.Codes, MachineCode{id, record.EvidenceWords(c, e) + ": " + record.Said(c, e),
				takenAt(e.TakenAt, j.OpenedAt)})
		}
	}
	if err := s.marksOf(ctx, v, j, seen); err != nil {
		return err
	}
	lines, err := s.st.Strip(ctx, j.ID)
	if err != nil {
		return err
	}
	for _, l := range slices.Backward(lines) {
		for _, p := range l.Photos {
			v.Photos = append(v.Photos, MachinePhoto{p, id, l.Text, l.At})
		}
	}
	return nil
}

// marksOf adds what is known of the wiring of a job's circuit, once for each circuit.
func (s *Server) marksOf(ctx context.Context, v *MachineView, j *store.Job, seen map[string]bool) error {
	c := j.Case.Circuit
	if seen[c.ID] {
		return nil
	}
	seen[c.ID] = true
	marks, err := s.st.Profile(ctx, j.Machine.Kind, c.ID)
	if err != nil {
		return err
	}
	add := func(at, label string) {
		if m, ok := marks[at]; ok {
			v.Marks = append(v.Marks, MachineMark{c.Title, label, m})
		}
	}
	for i := range c.Nodes {
		add(c.Nodes[i].ID, c.Nodes[i].Label)
	}
	for i := range c.Stations {
		add(c.Stations[i].ID, c.Stations[i].Label)
	}
	return nil
}

// waitSays is what a job waits for, in words.
func waitSays(w *store.Wait) string {
	if w.Note != "" {
		return waitWords[w.Kind] + ": " + w.Note
	}
	return waitWords[w.Kind]
}

// listed are the texts that are there, as a list.
func listed(texts ...string) string {
	return strings.Join(slices.DeleteFunc(texts, func(t string) bool { return t == "" }), ", ")
}

// takenAt is when a piece of evidence was taken; what says none is as old as its job.
func takenAt(text string, opened time.Time) time.Time {
	if t, err := time.Parse(time.RFC3339Nano, text); err == nil {
		return t
	}
	return opened
}
