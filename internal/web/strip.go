package web

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"corriente/core/calc"
	"corriente/core/circuit"
	"corriente/core/desk"
	"corriente/core/phrase"
	"corriente/core/record"
	"corriente/core/strip"
	"corriente/internal/people"
	"corriente/internal/store"
)

func (s *Server) stripView(ctx context.Context, j *store.Job) (*out[*record.StripView], error) {
	lines, err := s.st.Strip(ctx, j.ID)
	if err != nil {
		return nil, s.fail(ctx, "strip", err)
	}
	own, err := s.st.CraftNotes(ctx)
	if err != nil {
		return nil, s.fail(ctx, "craft notes", err)
	}
	notes, err := s.notes(ctx, j.ID)
	if err != nil {
		return nil, s.fail(ctx, "notes", err)
	}
	op, err := s.ws.Advisers.Glance(ctx, j)
	if err != nil {
		return nil, s.fail(ctx, "strip", err)
	}
	return body(j.Record().Strip(op, lines, own, notes)), nil
}

// notes reads the lines kept with a job.
func (s *Server) notes(ctx context.Context, job uuid.UUID) ([]record.JobNote, error) {
	kept, err := s.st.Notes(ctx, job)
	if err != nil {
		return nil, err
	}
	out := []record.JobNote{}
	for _, n := range kept {
		out = append(out, record.JobNote{ID: n.ID.String(), Text: n.Text, Detail: n.Detail, At: n.At, By: n.By})
	}
	return out, nil
}

// idOf reads the id of something that a body names.
func idOf(text string) (uuid.UUID, error) {
	id, err := uuid.Parse(text)
	if err != nil {
		return id, huma.Error404NotFound("There is no such thing here.")
	}
	return id, nil
}

// afterWrite answers a write to a job's record with the record as it now is.
func (s *Server) afterWrite(ctx context.Context, what string, job uuid.UUID, err error) (*out[*record.StripView], error) {
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
func (s *Server) writeTo(ctx context.Context, job uuid.UUID, of string) (u who, id uuid.UUID, j *store.Job, err error) {
	if u, _, id, err = s.writesTo(ctx, job, of); err != nil {
		return u, id, nil, err
	}
	j, err = s.load(ctx, job)
	return u, id, j, err
}

// writesTo says who writes to a job and something in it.
func (s *Server) writesTo(ctx context.Context, job uuid.UUID, of string) (u who, a, b uuid.UUID, err error) {
	b, err = idOf(of)
	return caller(ctx), job, b, err
}

func (s *Server) stripRoutes(get, put, post opFunc) {
	huma.Register(s.api, get("strip", "/api/jobs/{id}/strip", "The strip-down of a job"),
		func(ctx context.Context, in *JobIn) (*out[*record.StripView], error) {
			j, err := s.load(ctx, in.ID)
			if err != nil {
				return nil, err
			}
			return s.stripView(ctx, j)
		})
	huma.Register(s.api, post("add_strip", "/api/jobs/{id}/strip", "What came off next; a finding becomes evidence"),
		s.addStrip)
	huma.Register(s.api, huma.Operation{OperationID: "change_strip", Method: http.MethodPatch,
		Path:          "/api/jobs/{id}/strip/{item}",
		Summary:       "Change a line of the strip-down: its words, struck, put back, explained, a photo",
		DefaultStatus: 200}, s.changeStrip)
	huma.Register(s.api, post("add_note", "/api/jobs/{id}/notes", "Keep a line with a job: a calculation, or words"),
		s.addNote)
	huma.Register(s.api, huma.Operation{OperationID: "drop_note", Method: http.MethodDelete,
		Path: "/api/jobs/{id}/notes/{note}", Summary: "Take a line away", DefaultStatus: 200}, func(ctx context.Context, in *struct {
		JobIn
		Note uuid.UUID `path:"note" format:"uuid"`
	}) (*out[*record.StripView], error) {
		return s.afterWrite(ctx, "note", in.ID, s.st.DropNote(ctx, in.ID, in.Note))
	})
	craft := func(ctx context.Context, q string) (*out[[]strip.Note], error) {
		own, err := s.st.CraftNotes(ctx)
		if err != nil {
			return nil, s.fail(ctx, "craft notes", err)
		}
		return body(strip.Search(append(own, strip.Notes()...), q)), nil
	}
	huma.Register(s.api, get("craft_notes", "/api/craft-notes", "Notes of the craft, the workshop's own first"),
		func(ctx context.Context, in *struct {
			Q string `query:"q" maxLength:"100"`
		}) (*out[[]strip.Note], error) {
			return craft(ctx, in.Q)
		})
	huma.Register(s.api, put("put_craft_note", "/api/craft-notes/{id}", "Keep a note of the craft"), func(ctx context.Context, in *struct {
		ID   uuid.UUID `path:"id" format:"uuid"`
		Body struct {
			Words string `json:"words" minLength:"2" maxLength:"200" doc:"words of the entries it belongs to, with commas between"`
			Text  string `json:"text" minLength:"3" maxLength:"600"`
		}
	}) (*out[[]strip.Note], error) {
		u := caller(ctx)
		id := in.ID
		if err := s.st.PutCraftNote(ctx, id, strings.TrimSpace(in.Body.Words), strings.TrimSpace(in.Body.Text), u.ID); err != nil {
			return nil, s.fail(ctx, "craft note", err)
		}
		return craft(ctx, "")
	})
	huma.Register(s.api, huma.Operation{OperationID: "drop_craft_note", Method: http.MethodDelete,
		Path: "/api/craft-notes/{id}", Summary: "Take a note of the craft away", DefaultStatus: 200}, func(ctx context.Context, in *struct {
		ID uuid.UUID `path:"id" format:"uuid"`
	}) (*out[[]strip.Note], error) {
		id := in.ID
		if err := s.st.DropCraftNote(ctx, id); err != nil {
			return nil, s.fail(ctx, "craft note", err)
		}
		return craft(ctx, "")
	})
	huma.Register(s.api, get("calculators", "/api/calculators",
		"The calculators of the bench, with their formulas and sources"),
		func(ctx context.Context, _ *struct{}) (*out[[]calc.Calculator], error) {
			return body(calc.All()), nil
		})
	huma.Register(s.api, allow(people.See,
		post("calculate", "/api/calculators/{calculator}", "Answer a calculator's question")), s.calculate)
}

// addStripIn is the request of addStrip.
type addStripIn struct {
	JobIn
	Body record.NewLine
}

// addStrip answers POST /api/jobs/{id}/strip: what came off next; a finding becomes evidence.
func (s *Server) addStrip(ctx context.Context, in *addStripIn) (*out[*record.StripView], error) {
	u, job, id, err := s.writesTo(ctx, in.ID, in.Body.ID)
	if err != nil {
		return nil, err
	}
	text, err := record.Tidy(in.Body.Text)
	if err != nil {
		return nil, s.shop(ctx, "strip", err)
	}
	return s.afterWrite(ctx, "strip", in.ID, s.st.AddStrip(ctx, job, store.NewLine{ID: id, Text: text, At: in.Body.At}, u.ID))
}

// changeStripIn is the request of changeStrip.
type changeStripIn struct {
	JobIn
	Item uuid.UUID `path:"item" format:"uuid"`
	Body record.LineChange
}

// changeStrip answers PATCH /api/jobs/{id}/strip/{item}: change a line of the strip-down: its words, struck, put back, explained, a photo.
func (s *Server) changeStrip(ctx context.Context, in *changeStripIn) (*out[*record.StripView], error) {
	u, job, id := caller(ctx), in.ID, in.Item
	c := store.StripChange{Struck: in.Body.Struck, Back: in.Body.Back, At: store.When(in.Body.At)}
	if in.Body.Text != nil {
		t, err := record.Tidy(*in.Body.Text)
		if err != nil {
			return nil, s.shop(ctx, "strip", err)
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
		x, err := idOf(p.text)
		if err != nil {
			return nil, err
		}
		*p.to = &x
	}
	return s.afterWrite(ctx, "strip", in.ID, s.st.ChangeStrip(ctx, job, id, c, u.ID))
}

// addNoteIn is the request of addNote.
type addNoteIn struct {
	JobIn
	Body record.JobNote
}

// addNote answers POST /api/jobs/{id}/notes: keep a line with a job: a calculation, or words.
func (s *Server) addNote(ctx context.Context, in *addNoteIn) (*out[*record.StripView], error) {
	u, job, id, err := s.writesTo(ctx, in.ID, in.Body.ID)
	if err != nil {
		return nil, err
	}
	detail := in.Body.Detail
	if len(detail) == 0 || len(detail) > 64<<10 || !json.Valid(detail) {
		detail = json.RawMessage("{}")
	}
	return s.afterWrite(ctx, "note", in.ID,
		s.st.AddNote(ctx, job, store.Note{ID: id, Text: strings.TrimSpace(in.Body.Text), Detail: detail}, u.ID))
}

// calculateIn is the request of calculate.
type calculateIn struct {
	Calculator string `path:"calculator" maxLength:"40"`
	Body       struct {
		Inputs map[string]string `json:"inputs"`
		Job    string            `json:"job,omitempty" maxLength:"36"`
		Part   string            `json:"part,omitempty" maxLength:"64"`
	}
}

// calculate answers POST /api/calculators/{calculator}: answer a calculator's question.
func (s *Server) calculate(ctx context.Context, in *calculateIn) (*out[*desk.CalcView], error) {
	var c *circuit.Circuit
	if in.Body.Job != "" {
		id, err := idOf(in.Body.Job)
		if err != nil {
			return nil, err
		}
		j, err := s.load(ctx, id)
		if err != nil {
			return nil, err
		}
		c = j.Case.Circuit
	}
	v, err := desk.Calculate(in.Calculator, in.Body.Inputs, c, in.Body.Part)
	var p *calc.Problem
	switch {
	case errors.As(err, &p):
		return nil, huma.Error422UnprocessableEntity(phrase.Sentence(p.Why), &huma.ErrorDetail{Message: p.Why, Location: p.Input})
	case err != nil:
		return nil, s.fail(ctx, "calculate", err)
	}
	return body(v), nil
}
