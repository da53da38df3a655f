package web

import (
	"context"
	"encoding/json"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"corriente/core/casefile"
	"corriente/core/trace"
	"corriente/internal/meters"
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
			return nil, s.fail(ctx, "traces", err)
		}
		vs := []TraceView{}
		for _, t := range ts {
			vs = append(vs, TraceView{t.ID.String(), t.Name, t.Result, t.Points, t.At})
		}
		return body(vs), nil
	}
	huma.Register(s.api, get("traces", "/api/jobs/{id}/traces", "Current traces kept with a job"),
		func(ctx context.Context, in *JobIn) (*out[[]TraceView], error) {
			j, err := s.load(ctx, in.ID)
			if err != nil {
				return nil, err
			}
			return list(ctx, j.ID)
		})
	huma.Register(s.api, huma.Operation{OperationID: "keep_trace", Method: http.MethodPut,
		Path: "/api/jobs/{id}/traces", Summary: "Keep a current trace with a job", DefaultStatus: 200, MaxBodyBytes: 4 << 20},
		func(ctx context.Context, in *struct {
			JobIn
			Body TraceView
		}) (*out[[]TraceView], error) {
			u := caller(ctx)
			job := in.ID
			id, err := uuid.Parse(in.Body.ID)
			if err != nil {
				return nil, huma.Error422UnprocessableEntity("A trace needs an id of its own.")
			}
			if err := s.st.PutTrace(ctx, job, store.Trace{ID: id, Name: strings.TrimSpace(in.Body.Name),
				Result: in.Body.Result, Points: in.Body.Points}, u.ID); err != nil {
				return nil, s.fail(ctx, "trace", err)
			}
			s.changed(job)
			return list(ctx, job)
		})
	huma.Register(s.api, huma.Operation{OperationID: "drop_trace", Method: http.MethodDelete,
		Path: "/api/jobs/{id}/traces/{trace}", Summary: "Forget a trace of a job", DefaultStatus: 200},
		func(ctx context.Context, in *struct {
			JobIn
			Trace uuid.UUID `path:"trace" format:"uuid"`
		}) (*out[[]TraceView], error) {
			if err := s.st.DropTrace(ctx, in.ID, in.Trace); err != nil {
				return nil, s.fail(ctx, "trace", err)
			}
			return list(ctx, in.ID)
		})
}

// capture takes one trace from a scope and hands its samples on: float32, little
// endian, amperes; their interval, seconds, stands in a header.
func (s *Server) capture(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
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
	b, dt, err := s.captured(ctx, in, r.URL.Query().Get("state"))
	if err != nil {
		writeProblem(w, http.StatusBadGateway, plainly(in, err))
		return
	}
	w.Header().Set("Content-Type", "application/octet-stream")
	w.Header().Set("X-Interval", strconv.FormatFloat(dt, 'g', -1, 64))
	_, _ = w.Write(b)
}

func (s *Server) captured(ctx context.Context, in store.Instrument, state string) ([]byte, float64, error) {
	session, err := s.reach(ctx, in, &casefile.Evidence{State: state})
	if err != nil {
		return nil, 0, err
	}
	defer session.Close()
	c, ok := session.(*scpi.Client)
	if !ok {
		return nil, 0, meters.Refusal{Says: "a trace is asked for over the network alone"}
	}
	said, err := c.Ask(ctx, "TRAC:RATE?")
	if err != nil {
		return nil, 0, err
	}
	rate, _, err := scpi.Number(said)
	if err != nil || !(rate > 0) {
		return nil, 0, meters.Nonsense{Said: said}
	}
	b, err := c.AskBlock(ctx, "TRAC:DATA?")
	if err == nil && len(b)%4 != 0 {
		err = meters.Nonsense{Said: "a block cut short"}
	}
	return b, 1 / rate, err
}

// Open traces are held for a while after they were sent here to be analysed: the
// browser could do it too, but takes some times as long.
const (
	maxTrace   = 2 << 30 // bytes of a file
	keepTraces = 6
	keepSample = 120e6 // samples held in all
)

// openTraces holds the last few.
type openTraces struct {
	mu    sync.Mutex
	order []uuid.UUID
	views map[uuid.UUID]*trace.View
}

func (o *openTraces) put(v *trace.View) uuid.UUID {
	id := store.NewID()
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.views == nil {
		o.views = map[uuid.UUID]*trace.View{}
	}
	o.order, o.views[id] = append(o.order, id), v
	held := 0
	for i := len(o.order) - 1; i >= 0; i-- {
		held += o.views[o.order[i]].Result.Samples
		if i < len(o.order)-1 && (len(o.order)-i > keepTraces || held > keepSample) {
			for _, old := range o.order[:i+1] {
				delete(o.views, old)
			}
			o.order = o.order[i+1:]
			break
		}
	}
	return id
}

func (o *openTraces) get(id string) *trace.View {
	u, err := uuid.Parse(id)
	if err != nil {
		return nil
	}
	o.mu.Lock()
	defer o.mu.Unlock()
	return o.views[u]
}

// openTrace reads a trace file from the request's body and analyses it.
func (s *Server) openTrace(w http.ResponseWriter, r *http.Request) {
	rc := http.NewResponseController(w)
	_ = rc.SetReadDeadline(time.Now().Add(5 * time.Minute))
	_ = rc.SetWriteDeadline(time.Now().Add(6 * time.Minute))
	q := r.URL.Query()
	bars, _ := strconv.Atoi(q.Get("bars"))
	brushes, _ := strconv.Atoi(q.Get("brushes"))
	v, err := trace.Open(http.MaxBytesReader(w, r.Body, maxTrace), max(r.ContentLength, 0),
		trace.Options{Channel: q.Get("channel"), Scale: q.Get("scale"), Bars: bars, Brushes: brushes})
	if err != nil {
		writeProblem(w, http.StatusUnprocessableEntity, err.Error())
		return
	}
	writeBody(w, map[string]any{"id": s.open.put(v), "result": v.Result, "channels": v.Channels, "units": v.Units})
}

func (s *Server) zoomTrace(w http.ResponseWriter, r *http.Request) {
	v := s.heldTrace(w, r, chi.URLParam(r, "id"))
	if v == nil {
		return
	}
	q := r.URL.Query()
	from, err1 := strconv.ParseFloat(q.Get("from"), 64)
	to, err2 := strconv.ParseFloat(q.Get("to"), 64)
	cols, err3 := strconv.Atoi(q.Get("columns"))
	if err1 != nil || err2 != nil || err3 != nil || !(from >= 0 && to > from && to < 1e9) || cols < 1 || cols > 10000 {
		writeProblem(w, http.StatusUnprocessableEntity, "From, to and columns say what is drawn: seconds, seconds, and up to 10,000.")
		return
	}
	var z any
	var err error
	if other := q.Get("under"); other != "" {
		shift, _ := strconv.Atoi(q.Get("shift"))
		under := s.heldTrace(w, r, other)
		if under == nil {
			return
		}
		z, err = under.Alongside(v, shift, from, to, cols)
	} else {
		z, err = v.Between(from, to, cols)
	}
	if err != nil {
		writeProblem(w, http.StatusUnprocessableEntity, err.Error())
		return
	}
	writeBody(w, z)
}

func (s *Server) compareTraces(w http.ResponseWriter, r *http.Request) {
	a := s.heldTrace(w, r, chi.URLParam(r, "id"))
	if a == nil {
		return
	}
	if b := s.heldTrace(w, r, r.URL.Query().Get("other")); b != nil {
		writeBody(w, trace.Compare(a.Result, b.Result))
	}
}

func (s *Server) heldTrace(w http.ResponseWriter, r *http.Request, id string) *trace.View {
	v := s.open.get(id)
	if v == nil {
		writeProblem(w, http.StatusNotFound, "This trace is no longer held here: open its file again.")
	}
	return v
}

func writeBody(w http.ResponseWriter, v any) {
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(v)
}
