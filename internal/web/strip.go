package web

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"corriente/core/calc"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/strip"
	"corriente/internal/people"
	"corriente/internal/store"
)

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

// JobNote is a line kept with a job.
type JobNote struct {
	ID     string          `json:"id" format:"uuid"`
	Text   string          `json:"text" minLength:"1" maxLength:"1000"`
	Detail json.RawMessage `json:"detail,omitempty" required:"false"`
	At     time.Time       `json:"at,omitempty" readOnly:"true" required:"false"`
	By     string          `json:"by,omitempty" readOnly:"true" required:"false"`
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

func (s *Server) stripView(ctx context.Context, j *store.Job) (*out[StripView], error) {
	lines, err := s.st.Strip(ctx, j.ID)
	if err != nil {
		return nil, s.fail(ctx, "strip", err)
	}
	own, err := s.st.CraftNotes(ctx)
	if err != nil {
		return nil, s.fail(ctx, "craft notes", err)
	}
	notes, err := s.st.Notes(ctx, j.ID)
	if err != nil {
		return nil, s.fail(ctx, "notes", err)
	}
	op, err := s.ws.Advisers.Glance(ctx, j)
	if err != nil {
		return nil, s.fail(ctx, "strip", err)
	}
	v := StripView{First: strip.First(j.Case.Circuit), Last: strip.Last(j.Case.Circuit), Items: []StripItem{}, Back: []string{}, Left: []string{}, Relearn: []string{}, Notes: []JobNote{},
		Inside: diagnose.Inside(j.Case.Circuit, op.Diagnoses, j.Case.Evidence), Share: diagnose.InsideShare(j.Case.Circuit, op.Diagnoses)}
	known := map[string]bool{}
	for _, l := range lines {
		e := strip.Parse(l.Text)
		e.Notes = append(strip.Own(own, e.Kind, strings.ToLower(l.Text)), strip.Fit(j.Case.Circuit, e.Notes)...)
		it := StripItem{ID: l.ID.String(), Entry: e, Back: e.BackWords(), Ticks: e.NeedsTick(), At: l.At, By: l.By, BackAt: l.BackAt, BackBy: l.BackBy, Explained: l.Explained, Struck: l.Struck, Photos: []string{}, Counts: []string{}}
		for _, f := range e.Findings {
			if x := store.FindingEvidence(j, l.ID, f); x != nil {
				it.Counts = append(it.Counts, findingWords(j.Case.Circuit, f))
			}
		}
		for _, p := range l.Photos {
			it.Photos = append(it.Photos, p.String())
		}
		v.Items = append(v.Items, it)
		for _, r := range e.Relearn {
			if !l.Struck && !known[r] {
				known[r] = true
				v.Relearn = append(v.Relearn, r)
			}
		}
	}
	for _, it := range strip.PutBack(store.Items(lines)) {
		v.Back = append(v.Back, it.ID)
	}
	for _, it := range strip.LeftOver(store.Items(lines)) {
		v.Left = append(v.Left, it.ID)
	}
	for _, n := range notes {
		v.Notes = append(v.Notes, JobNote{n.ID.String(), n.Text, n.Detail, n.At, n.By})
	}
	return body(v), nil
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

// twoIDs reads a job's id and that of something in it.
func twoIDs(job, of string) (a, b uuid.UUID, err error) {
	a, err1 := uuid.Parse(job)
	b, err2 := uuid.Parse(of)
	if errors.Join(err1, err2) != nil {
		return a, b, huma.Error404NotFound("There is no such thing here.")
	}
	return a, b, nil
}

// afterWrite answers a write to a job's record with the record as it now is.
func (s *Server) afterWrite(ctx context.Context, what, job string, err error) (*out[StripView], error) {
	if err != nil {
		return nil, s.fail(ctx, what, err)
	}
	j, err := s.load(ctx, job)
	if err != nil {
		return nil, err
	}
	return s.stripView(ctx, j)
}

// writeTo is [Server.writesTo] with the job itself, and the id of what is written.
func (s *Server) writeTo(ctx context.Context, job, of string) (u who, id uuid.UUID, j *store.Job, err error) {
	if u, _, id, err = s.writesTo(ctx, job, of); err != nil {
		return u, id, nil, err
	}
	j, err = s.load(ctx, job)
	return u, id, j, err
}

// writesTo says who writes to a job and something in it.
func (s *Server) writesTo(ctx context.Context, job, of string) (u who, a, b uuid.UUID, err error) {
	a, b, err = twoIDs(job, of)
	return caller(ctx), a, b, err
}

func checkLine(text string) (string, error) {
	text = strings.Join(strings.Fields(text), " ")
	if text == "" {
		return "", huma.Error422UnprocessableEntity("Write what came off: 2x 8 mm bolt.")
	}
	return text, nil
}

func (s *Server) stripRoutes(get, put, post opFunc) {
	huma.Register(s.api, get("strip", "/api/jobs/{id}/strip", "The strip-down of a job"), func(ctx context.Context, in *JobIn) (*out[StripView], error) {
		j, err := s.load(ctx, in.ID)
		if err != nil {
			return nil, err
		}
		return s.stripView(ctx, j)
	})
	huma.Register(s.api, post("add_strip", "/api/jobs/{id}/strip", "What came off next; a finding becomes evidence"), func(ctx context.Context, in *struct {
		JobIn
		Body struct {
			ID   string `json:"id" format:"uuid"`
			Text string `json:"text" maxLength:"300"`
		}
	}) (*out[StripView], error) {
		u, job, id, err := s.writesTo(ctx, in.ID, in.Body.ID)
		if err != nil {
			return nil, err
		}
		text, err := checkLine(in.Body.Text)
		if err != nil {
			return nil, err
		}
		return s.afterWrite(ctx, "strip", in.ID, s.st.AddStrip(ctx, job, id, text, u.ID))
	})
	huma.Register(s.api, huma.Operation{OperationID: "change_strip", Method: http.MethodPatch, Path: "/api/jobs/{id}/strip/{item}", Summary: "Change a line of the strip-down: its words, struck, put back, explained, a photo", DefaultStatus: 200}, func(ctx context.Context, in *struct {
		JobIn
		Item string `path:"item" format:"uuid"`
		Body struct {
			Text      *string `json:"text,omitempty" maxLength:"300"`
			Struck    *bool   `json:"struck,omitempty"`
			Back      *bool   `json:"back,omitempty"`
			Explained *string `json:"explained,omitempty" maxLength:"300"`
			Photo     string  `json:"photo,omitempty" maxLength:"36"`
			DropPhoto string  `json:"drop_photo,omitempty" maxLength:"36"`
		}
	}) (*out[StripView], error) {
		u, job, id, err := s.writesTo(ctx, in.ID, in.Item)
		if err != nil {
			return nil, err
		}
		c := store.StripChange{Struck: in.Body.Struck, Back: in.Body.Back}
		if in.Body.Text != nil {
			t, err := checkLine(*in.Body.Text)
			if err != nil {
				return nil, err
			}
			c.Text = &t
		}
		if in.Body.Explained != nil {
			t := strings.TrimSpace(*in.Body.Explained)
			c.Explained = &t
		}
		for _, p := range []struct {
			text string
			to   **uuid.UUID
		}{{in.Body.Photo, &c.Photo}, {in.Body.DropPhoto, &c.DropPhoto}} {
			if p.text == "" {
				continue
			}
			x, err := photoID(p.text)
			if err != nil {
				return nil, err
			}
			*p.to = &x
		}
		return s.afterWrite(ctx, "strip", in.ID, s.st.ChangeStrip(ctx, job, id, c, u.ID))
	})
	huma.Register(s.api, post("add_note", "/api/jobs/{id}/notes", "Keep a line with a job: a calculation, or words"), func(ctx context.Context, in *struct {
		JobIn
		Body JobNote
	}) (*out[StripView], error) {
		u, job, id, err := s.writesTo(ctx, in.ID, in.Body.ID)
		if err != nil {
			return nil, err
		}
		detail := in.Body.Detail
		if len(detail) == 0 || len(detail) > 64<<10 || !json.Valid(detail) {
			detail = json.RawMessage("{}")
		}
		return s.afterWrite(ctx, "note", in.ID, s.st.AddNote(ctx, job, store.Note{ID: id, Text: strings.TrimSpace(in.Body.Text), Detail: detail}, u.ID))
	})
	huma.Register(s.api, huma.Operation{OperationID: "drop_note", Method: http.MethodDelete, Path: "/api/jobs/{id}/notes/{note}", Summary: "Take a line away", DefaultStatus: 200}, func(ctx context.Context, in *struct {
		JobIn
		Note string `path:"note" format:"uuid"`
	}) (*out[StripView], error) {
		_, job, id, err := s.writesTo(ctx, in.ID, in.Note)
		if err != nil {
			return nil, err
		}
		return s.afterWrite(ctx, "note", in.ID, s.st.DropNote(ctx, job, id))
	})
	craft := func(ctx context.Context, q string) (*out[[]strip.Note], error) {
		own, err := s.st.CraftNotes(ctx)
		if err != nil {
			return nil, s.fail(ctx, "craft notes", err)
		}
		return body(strip.Search(append(own, strip.Notes()...), q)), nil
	}
	huma.Register(s.api, get("craft_notes", "/api/craft-notes", "Notes of the craft, the workshop's own first"), func(ctx context.Context, in *struct {
		Q string `query:"q" maxLength:"100"`
	}) (*out[[]strip.Note], error) {
		return craft(ctx, in.Q)
	})
	huma.Register(s.api, put("put_craft_note", "/api/craft-notes/{id}", "Keep a note of the craft"), func(ctx context.Context, in *struct {
		ID   string `path:"id" format:"uuid"`
		Body struct {
			Words string `json:"words" minLength:"2" maxLength:"200" doc:"words of the entries it belongs to, with commas between"`
			Text  string `json:"text" minLength:"3" maxLength:"600"`
		}
	}) (*out[[]strip.Note], error) {
		u := caller(ctx)
		id, err := uuid.Parse(in.ID)
		if err != nil {
			return nil, huma.Error404NotFound("A note needs an id of its own.")
		}
		if err := s.st.PutCraftNote(ctx, id, strings.TrimSpace(in.Body.Words), strings.TrimSpace(in.Body.Text), u.ID); err != nil {
			return nil, s.fail(ctx, "craft note", err)
		}
		return craft(ctx, "")
	})
	huma.Register(s.api, huma.Operation{OperationID: "drop_craft_note", Method: http.MethodDelete, Path: "/api/craft-notes/{id}", Summary: "Take a note of the craft away", DefaultStatus: 200}, func(ctx context.Context, in *struct {
		ID string `path:"id" format:"uuid"`
	}) (*out[[]strip.Note], error) {
		id, err := uuid.Parse(in.ID)
		if err != nil {
			return nil, huma.Error404NotFound("There is no such note.")
		}
		if err := s.st.DropCraftNote(ctx, id); err != nil {
			return nil, s.fail(ctx, "craft note", err)
		}
		return craft(ctx, "")
	})
	huma.Register(s.api, get("calculators", "/api/calculators", "The calculators of the bench, with their formulas and sources"), func(ctx context.Context, _ *struct{}) (*out[[]calc.Calculator], error) {
		return body(calc.All()), nil
	})
	huma.Register(s.api, allow(people.See, post("calculate", "/api/calculators/{calculator}", "Answer a calculator's question")), func(ctx context.Context, in *struct {
		Calculator string `path:"calculator" maxLength:"40"`
		Body       struct {
			Inputs map[string]string `json:"inputs"`
			Job    string            `json:"job,omitempty" maxLength:"36"`
			Part   string            `json:"part,omitempty" maxLength:"64"`
		}
	}) (*out[CalcView], error) {
		var c *circuit.Circuit
		if in.Body.Job != "" {
			j, err := s.load(ctx, in.Body.Job)
			if err != nil {
				return nil, err
			}
			c = j.Case.Circuit
		}
		r, err := calc.Run(in.Calculator, in.Body.Inputs, c, in.Body.Part)
		if err != nil {
			var p *calc.Problem
			if errors.As(err, &p) {
				return nil, huma.Error422UnprocessableEntity(sentence(p.Why), &huma.ErrorDetail{Message: p.Why, Location: p.Input})
			}
			return nil, s.fail(ctx, "calculate", err)
		}
		v := CalcView{CalcAnswer: CalcAnswer{r.Says, r.Judged, r.Lines, r.Next, r.Steps, r.Ways, r.Bars, r.Marked, r.Note}, Evidence: []Evidence{}}
		for i := range r.Evidence {
			v.Evidence = append(v.Evidence, evidenceOut(&r.Evidence[i], ""))
		}
		return body(v), nil
	})
}

// CalcAnswer is what a calculator says.
type CalcAnswer struct {
	Says   string      `json:"says"`
	Judged string      `json:"judged"`
	Lines  []calc.Line `json:"lines"`
	Next   string      `json:"next"`
	Steps  []string    `json:"steps"`
	Ways   []calc.Way  `json:"ways"`
	Bars   []float64   `json:"bars"`
	Marked []int       `json:"marked"`
	Note   string      `json:"note"`
}

// CalcView is an answer and what it would put into the job.
type CalcView struct {
	CalcAnswer
	Evidence []Evidence `json:"evidence"`
}
