package web

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"corriente/internal/people"
	"corriente/internal/store"
)

// Demo is the demo's data, for a look in a workshop that has no work of its own yet.
type Demo struct {
	Load   func(context.Context, *store.Store, time.Time) error
	People []uuid.UUID // who goes when it is taken out
}

// House says what a new workshop still has before it.
type House struct {
	Named   bool `json:"named" doc:"papers have a name to print"`
	People  int  `json:"people" doc:"who can sign in"`
	Work    bool `json:"work" doc:"there is a machine, a job or a price list"`
	Demo    bool `json:"demo" doc:"the demo is in, for a look"`
	MayDemo bool `json:"may_demo" doc:"it can be loaded"`
}

// demoKey is set from before the demo is loaded until it is taken out whole.
const demoKey = "demo"

func (s *Server) lookRoutes(get, post opFunc) {
	huma.Register(s.api, get("house", "/api/house", "What a new workshop still has before it"),
		func(ctx context.Context, _ *struct{}) (*out[House], error) {
			return s.house(ctx)
		})
	huma.Register(s.api, allow(people.Manage, post("load_demo", "/api/house/demo", "Load the demo for a look")),
		s.loadDemo)
	huma.Register(s.api, allow(people.Manage,
		huma.Operation{OperationID: "drop_demo", Method: http.MethodDelete, Path: "/api/house/demo",
			Summary: "Take the demo out again, with all that was tried on it", DefaultStatus: 200}),
		s.dropDemo)
}

// loadDemo answers POST /api/house/demo: load the demo for a look.
func (s *Server) loadDemo(ctx context.Context, _ *struct{}) (*out[House], error) {
	now, err := s.house(ctx)
	if err != nil {
		return nil, err
	}
	if !now.Body.MayDemo {
		return nil, huma.Error409Conflict("The demo is loaded only where there is no work yet: it would stand among your own.")
	}
	if err := s.st.PutSetting(ctx, demoKey, "in"); err != nil {
		return nil, s.fail(ctx, "demo", err)
	}
	if err := s.demo.Load(ctx, s.st, time.Now()); err != nil {
		return nil, s.fail(ctx, "demo", err)
	}
	if err := s.st.PutAct(ctx, s.act(ctx, "settings", "Loaded the demo for a look.")); err != nil {
		return nil, s.fail(ctx, "demo", err)
	}
	return s.house(ctx)
}

// dropDemo answers DELETE /api/house/demo: take the demo out again, with all that was tried on it.
func (s *Server) dropDemo(ctx context.Context, _ *struct{}) (*out[House], error) {
	in, err := s.st.Setting(ctx, demoKey)
	if err != nil {
		return nil, s.fail(ctx, "demo", err)
	}
	if in != "" { // sent again, it is out already
		if err := s.st.TakeOutWork(ctx, s.demo.People, s.act(ctx, "settings", "Took the demo out again.")); err != nil {
			return nil, s.fail(ctx, "demo", err)
		}
		s.ws.Advisers.Forget()
	}
	return s.house(ctx)
}

func (s *Server) house(ctx context.Context) (*out[House], error) {
	set, err := s.ws.Settings(ctx)
	if err != nil {
		return nil, s.fail(ctx, "house", err)
	}
	us, err := s.st.Users(ctx)
	if err != nil {
		return nil, s.fail(ctx, "house", err)
	}
	in, err := s.st.Setting(ctx, demoKey)
	if err != nil {
		return nil, s.fail(ctx, "house", err)
	}
	h := House{Named: set.Revision > 0 || set.Name != "", Demo: in != ""}
	for _, u := range us {
		if !u.Suspended {
			h.People++
		}
	}
	if h.Work, err = s.st.HasWork(ctx); err != nil {
		return nil, s.fail(ctx, "house", err)
	}
	h.MayDemo = s.demo.Load != nil && !h.Work && !h.Demo
	return body(h), nil
}
