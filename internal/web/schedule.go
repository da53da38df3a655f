package web

import (
	"context"
	"net/http"
	"slices"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"corriente/core/desk"
	"corriente/internal/people"
	"corriente/internal/store"
)

// WaitView is what stands between a job and its next step.
type WaitView struct {
	ID    string     `json:"id" format:"uuid"`
	Kind  string     `json:"kind" enum:"parts,cold_start,cure,customer,other"`
	Note  string     `json:"note"`
	Until *time.Time `json:"until,omitempty" doc:"absent: nobody knows"`
	By    string     `json:"by"`
}

// ScheduleView is where a job stands, who has it and what it waits for.
type ScheduleView struct {
	Bench  string     `json:"bench"`
	Person string     `json:"person" doc:"id of who has it, empty for nobody"`
	Name   string     `json:"name"`
	Waits  []WaitView `json:"waits"`
	People []Person   `json:"people" doc:"who it can be given to"`
}

// Person is somebody a job can be given to.
type Person struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

func waitOut(w *store.Wait) WaitView {
	return WaitView{w.ID.String(), w.Kind, w.Note, w.Until, w.By}
}

func (s *Server) schedule(ctx context.Context, job uuid.UUID) (*out[ScheduleView], error) {
	x, err := s.st.ScheduleOf(ctx, job)
	if err != nil {
		return nil, s.fail(ctx, "schedule", err)
	}
	v := ScheduleView{Bench: x.Bench, Name: x.Name, Waits: []WaitView{}, People: []Person{}}
	if x.Person != nil {
		v.Person = x.Person.String()
	}
	waits, err := s.st.Waits(ctx, &job)
	if err != nil {
		return nil, s.fail(ctx, "schedule", err)
	}
	for i := range waits {
		v.Waits = append(v.Waits, waitOut(&waits[i]))
	}
	all, err := s.st.Users(ctx)
	if err != nil {
		return nil, s.fail(ctx, "schedule", err)
	}
	for _, p := range all {
		if !p.Suspended && people.RoleOf(p.Role).May(people.Work) {
			v.People = append(v.People, Person{p.ID.String(), p.Name})
		}
	}
	return body(v), nil
}

// earliest and latest are the days a wait may end on: a slip of the year is no appointment.
const (
	earliest = -366 * 24 * time.Hour
	latest   = 5 * 366 * 24 * time.Hour
)

func (s *Server) scheduleRoutes(get, put opFunc) {
	huma.Register(s.api, get("schedule", "/api/jobs/{id}/schedule",
		"Where a job stands, who has it and what it waits for"), func(ctx context.Context, in *JobIn) (*out[ScheduleView], error) {
		job := in.ID
		return s.schedule(ctx, job)
	})
	huma.Register(s.api, put("put_schedule", "/api/jobs/{id}/schedule",
		"Put a job on a bench and give it to a person"), s.putSchedule)
	s.waitRoutes(put)
	huma.Register(s.api, get("calendar", "/api/calendar.ics", "What waits and what is due, as iCalendar (RFC 5545)"),
		func(ctx context.Context, _ *struct{}) (*caseOut, error) {
			text, err := s.calendar(ctx)
			if err != nil {
				return nil, s.fail(ctx, "calendar", err)
			}
			return &caseOut{`attachment; filename="corriente.ics"`, "text/calendar; charset=utf-8", []byte(text)}, nil
		})
}

// putScheduleIn is the request of putSchedule.
type putScheduleIn struct {
	JobIn
	Body struct {
		Bench  string `json:"bench" maxLength:"60"`
		Person string `json:"person" maxLength:"36" doc:"empty: nobody"`
	}
}

// putSchedule answers PUT /api/jobs/{id}/schedule: put a job on a bench and give it to a person.
func (s *Server) putSchedule(ctx context.Context, in *putScheduleIn) (*out[ScheduleView], error) {
	job := in.ID
	var person *uuid.UUID
	if in.Body.Person != "" {
		id, err := uuid.Parse(in.Body.Person)
		if err == nil {
			_, err = s.st.UserByID(ctx, id)
		}
		if err != nil {
			return nil, huma.Error422UnprocessableEntity("Nobody here has that name: choose one of the list.")
		}
		person = &id
	}
	if err := s.st.PutSchedule(ctx, job, strings.TrimSpace(in.Body.Bench), person); err != nil {
		return nil, s.fail(ctx, "schedule", err)
	}
	return s.schedule(ctx, job)
}

func (s *Server) waitRoutes(put opFunc) {
	huma.Register(s.api, put("put_wait", "/api/jobs/{id}/waits/{wait}", "Say what a job waits for, and until when"),
		s.putWait)
	huma.Register(s.api, huma.Operation{OperationID: "end_wait", Method: http.MethodDelete,
		Path: "/api/jobs/{id}/waits/{wait}", Summary: "It is there: the job waits for it no more",
		DefaultStatus: 200}, func(ctx context.Context, in *struct {
		JobIn
		Wait uuid.UUID `path:"wait" format:"uuid"`
	}) (*out[ScheduleView], error) {
		if err := s.st.EndWait(ctx, in.ID, in.Wait); err != nil {
			return nil, s.fail(ctx, "wait", err)
		}
		return s.schedule(ctx, in.ID)
	})
}

// putWaitIn is the request of putWait.
type putWaitIn struct {
	JobIn
	Wait uuid.UUID `path:"wait" format:"uuid"`
	Body struct {
		Kind  string     `json:"kind" enum:"parts,cold_start,cure,customer,other"`
		Note  string     `json:"note" maxLength:"200"`
		Until *time.Time `json:"until,omitempty"`
	}
}

// putWait answers PUT /api/jobs/{id}/waits/{wait}: say what a job waits for, and until when.
func (s *Server) putWait(ctx context.Context, in *putWaitIn) (*out[ScheduleView], error) {
	u, job, id := caller(ctx), in.ID, in.Wait
	if in.Body.Until != nil {
		if d := time.Until(*in.Body.Until); d < earliest || d > latest {
			return nil, huma.Error422UnprocessableEntity("Nothing here waits until " +
				in.Body.Until.Format("2 January 2006") + ": check the year.")
		}
	}
	w := store.Wait{ID: id, Job: job, Kind: in.Body.Kind, Note: strings.TrimSpace(in.Body.Note), Until: in.Body.Until}
	if err := s.st.PutWait(ctx, w, u.ID); err != nil {
		return nil, s.fail(ctx, "wait", err)
	}
	return s.schedule(ctx, job)
}

// waitWords are the kinds of wait as they are said.
var waitWords = map[string]string{desk.WaitParts: "Parts", desk.WaitCold: "Cold start", desk.WaitCure: "Cured",
	desk.WaitCustomer: "The customer's answer", desk.WaitOther: "Waits"}

// calendar lists every wait with a day and every temporary repair's end, an event each: all-day
// where the hour is midnight.
func (s *Server) calendar(ctx context.Context) (string, error) {
	rows, err := s.st.Board(ctx, false)
	if err != nil {
		return "", err
	}
	cal := ics.NewCalendarFor("Corriente")
	cal.SetMethod(ics.MethodPublish)
	add := func(id, title, about string, at, made time.Time) {
		e := cal.AddEvent(id + "@corriente")
		e.SetDtStampTime(made.UTC())
		e.SetSummary(title)
		e.SetDescription(about)
		if at.Hour() == 0 && at.Minute() == 0 {
			e.SetAllDayStartAt(at)
			e.SetAllDayEndAt(at.AddDate(0, 0, 1))
			return
		}
		e.SetStartAt(at.UTC())
		e.SetEndAt(at.UTC().Add(30 * time.Minute))
	}
	for i := range rows {
		r := &rows[i]
		for k := range r.Waits {
			w := &r.Waits[k]
			if w.Until == nil {
				continue
			}
			title := waitWords[w.Kind] + ": " + r.Machine
			add(w.ID.String(), title, strings.Join(slices.DeleteFunc([]string{w.Note, r.Complaint, r.Bench, r.Person},
				func(x string) bool { return x == "" }), "\n"), *w.Until, w.At)
		}
		if r.FollowUp != nil {
			add(r.ID.String()+"-temporary", "Temporary repair ends: "+r.Machine, r.FollowWhat, *r.FollowUp, r.OpenedAt)
		}
	}
	return cal.Serialize(ics.WithNewLine("\r\n")), nil
}
