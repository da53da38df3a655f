package web

import (
	"context"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"corriente/core/casefile"
	"corriente/core/trace"
	"corriente/internal/bench"
	"corriente/internal/scpi"
	"corriente/internal/store"
)

// TraceView is a current trace kept with a job.
type TraceView struct {
	ID     string         `json:"id" format:"uuid"`
	Name   string         `json:"name" maxLength:"120"`
	Result trace.Analysis `json:"result"`
	Points []trace.Point  `json:"points" maxItems:"5000"`
	At     time.Time      `json:"at,omitempty" readOnly:"true" required:"false"`
}

func (s *Server) traceRoutes(get opFunc) {
	list := func(ctx context.Context, job uuid.UUID) (*out[[]TraceView], error) {
		ts, err := s.st.Traces(ctx, job)
		if err != nil {
			return nil, s.fail("traces", err)
		}
		vs := []TraceView{}
		for _, t := range ts {
			vs = append(vs, TraceView{t.ID.String(), t.Name, t.Result, t.Points, t.At})
		}
		return body(vs), nil
	}
	huma.Register(s.api, get("traces", "/api/jobs/{id}/traces", "Current traces kept with a job"), func(ctx context.Context, in *JobIn) (*out[[]TraceView], error) {
		j, err := s.load(ctx, in.ID)
		if err != nil {
			return nil, err
		}
		return list(ctx, j.ID)
	})
	huma.Register(s.api, huma.Operation{OperationID: "keep_trace", Method: http.MethodPut, Path: "/api/jobs/{id}/traces", Summary: "Keep a current trace with a job", DefaultStatus: 200, MaxBodyBytes: 4 << 20},
		func(ctx context.Context, in *struct {
			JobIn
			Body TraceView
		}) (*out[[]TraceView], error) {
			u, err := s.mayWrite(ctx)
			if err != nil {
				return nil, err
			}
			job, err1 := uuid.Parse(in.ID)
			id, err2 := uuid.Parse(in.Body.ID)
			if err1 != nil || err2 != nil {
				return nil, huma.Error422UnprocessableEntity("A trace needs an id of its own.")
			}
			if err := s.st.PutTrace(ctx, job, store.Trace{ID: id, Name: strings.TrimSpace(in.Body.Name), Result: in.Body.Result, Points: in.Body.Points}, u.ID); err != nil {
				return nil, s.fail("trace", err)
			}
			s.hub.tell(job)
			return list(ctx, job)
		})
	huma.Register(s.api, huma.Operation{OperationID: "drop_trace", Method: http.MethodDelete, Path: "/api/jobs/{id}/traces/{trace}", Summary: "Forget a trace of a job", DefaultStatus: 200},
		func(ctx context.Context, in *struct {
			JobIn
			Trace string `path:"trace" format:"uuid"`
		}) (*out[[]TraceView], error) {
			if _, err := s.mayWrite(ctx); err != nil {
				return nil, err
			}
			job, err1 := uuid.Parse(in.ID)
			id, err2 := uuid.Parse(in.Trace)
			if err1 != nil || err2 != nil {
				return nil, huma.Error404NotFound("There is no such trace.")
			}
			if err := s.st.DropTrace(ctx, job, id); err != nil {
				return nil, s.fail("trace", err)
			}
			return list(ctx, job)
		})
}

// capture takes one trace from a scope and hands its samples on: float32, little
// endian, amperes; their interval, seconds, stands in a header.
func (s *Server) capture(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	if _, err := s.signedIn(ctx); err != nil {
		writeProblem(w, http.StatusUnauthorized, "Sign in first.")
		return
	}
	id, err := uuid.Parse(chi.URLParam(r, "id"))
	if err != nil {
		writeProblem(w, http.StatusNotFound, "There is no such scope.")
		return
	}
	in, err := s.st.Instrument(ctx, id)
	if err != nil || in.Meter.Kind != "scope" || in.Address == "" {
		writeProblem(w, http.StatusNotFound, "There is no scope at this address: add one under Meters.")
		return
	}
	b, dt, err := captured(ctx, in, r.URL.Query().Get("state"))
	if err != nil {
		writeProblem(w, http.StatusBadGateway, plainly(in, err))
		return
	}
	w.Header().Set("Content-Type", "application/octet-stream")
	w.Header().Set("X-Interval", strconv.FormatFloat(dt, 'g', -1, 64))
	_, _ = w.Write(b)
}

func captured(ctx context.Context, in store.Instrument, state string) ([]byte, float64, error) {
	c, err := scpi.Dial(ctx, in.Address)
	if err != nil {
		return nil, 0, err
	}
	defer c.Close()
	who, err := c.Identify(ctx)
	if err != nil {
		return nil, 0, err
	}
	if strings.HasPrefix(who, bench.Maker) {
		if err := place(ctx, c, &casefile.Evidence{State: state}); err != nil {
			return nil, 0, err
		}
	}
	said, err := c.Ask(ctx, "TRAC:RATE?")
	if err != nil {
		return nil, 0, err
	}
	rate, _, err := scpi.Number(said)
	if err != nil || !(rate > 0) {
		return nil, 0, scpi.Nonsense{Said: said}
	}
	b, err := c.AskBlock(ctx, "TRAC:DATA?")
	if err == nil && len(b)%4 != 0 {
		err = scpi.Nonsense{Said: "a block cut short"}
	}
	return b, 1 / rate, err
}
