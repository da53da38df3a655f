package web

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"corriente/core/casefile"
	"corriente/core/meter"
	"corriente/core/unit"
	"corriente/internal/bench"
	"corriente/internal/meters"
	"corriente/internal/people"
	"corriente/internal/scpi"
	"corriente/internal/store"
)

// InstrumentView is one of the workshop's meters.
type InstrumentView struct {
	ID       string     `json:"id" format:"uuid"`
	Name     string     `json:"name" minLength:"1" maxLength:"64"`
	Kind     string     `json:"kind" enum:"multimeter,dc_clamp,scope"`
	Address  string     `json:"address" maxLength:"120" doc:"host:port of its SCPI socket, or the serial line it reports over; empty: read by eye"`
	Percent  float64    `json:"percent" minimum:"0" maximum:"50" doc:"of the reading, on volts or amperes"`
	Counts   float64    `json:"counts" minimum:"0" maximum:"1000"`
	Digit    float64    `json:"digit" exclusiveMinimum:"0" maximum:"10" doc:"one count, V or A"`
	OhmDigit float64    `json:"ohm_digit,omitempty" minimum:"0" maximum:"10" doc:"one count on ohms; a multimeter's"`
	LeadsOhm float64    `json:"leads_ohm" minimum:"0" maximum:"100" doc:"what it reads with its leads held together"`
	ZeroA    float64    `json:"zero_a" minimum:"-100" maximum:"100" doc:"what a clamp reads with no current in it"`
	ZeroedAt *time.Time `json:"zeroed_at,omitempty" readOnly:"true"`
	Measures []string   `json:"measures" readOnly:"true" required:"false"`
}

func instrumentOut(in store.Instrument) InstrumentView {
	v := InstrumentView{ID: in.ID.String(), Name: in.Name, Kind: string(in.Meter.Kind), Address: in.Address,
		LeadsOhm: in.LeadsOhm, ZeroA: in.ZeroA, ZeroedAt: in.ZeroedAt, Measures: []string{}}
	acc := in.Meter.DCVoltage
	if acc == nil {
		acc = in.Meter.DCCurrent
	}
	if acc != nil {
		v.Percent, v.Counts, v.Digit = acc.Percent, acc.Counts, acc.Resolution
	}
	if in.Meter.Resistance != nil {
		v.OhmDigit = in.Meter.Resistance.Resolution
	}
	for _, m := range []unit.Measure{unit.Voltage, unit.Current, unit.Resistance, unit.ACVoltage, unit.Capacitance, unit.Frequency} {
		if in.Meter.For(m) != nil {
			v.Measures = append(v.Measures, string(m))
		}
	}
	return v
}

func (v *InstrumentView) meter() meter.Instrument {
	acc := &meter.Accuracy{Percent: v.Percent, Counts: v.Counts, Resolution: v.Digit}
	if v.Kind != "multimeter" {
		return meter.Instrument{Name: v.Name, Kind: meter.Kind(v.Kind), DCCurrent: acc}
	}
	m := meter.Handheld()
	m.Name, m.DCVoltage = v.Name, acc
	if v.OhmDigit > 0 {
		m.Resistance.Resolution = v.OhmDigit
	}
	return m
}

func (s *Server) instrumentRoutes(get opFunc) {
	op := func(method, id, p, sum string) huma.Operation {
		return huma.Operation{OperationID: id, Method: method, Path: p, Summary: sum, DefaultStatus: 200}
	}
	list := func(ctx context.Context) (*out[[]InstrumentView], error) {
		ins, err := s.st.Instruments(ctx)
		if err != nil {
			return nil, s.fail(ctx, "instruments", err)
		}
		vs := []InstrumentView{}
		for _, in := range ins {
			vs = append(vs, instrumentOut(in))
		}
		return body(vs), nil
	}
	huma.Register(s.api, get("instruments", "/api/instruments", "The workshop's meters"),
		func(ctx context.Context, _ *struct{}) (*out[[]InstrumentView], error) {
			return list(ctx)
		})
	huma.Register(s.api, op(http.MethodPut, "put_instrument", "/api/instruments", "Add or change a meter"),
		func(ctx context.Context, in *struct{ Body InstrumentView }) (*out[[]InstrumentView], error) {
			id, err := uuid.Parse(in.Body.ID)
			if err != nil {
				return nil, huma.Error422UnprocessableEntity("A meter needs an id of its own.")
			}
			v := in.Body
			v.Name, v.Address = strings.TrimSpace(v.Name), strings.TrimSpace(v.Address)
			was, err := s.st.Instrument(ctx, id)
			if err != nil && !errors.Is(err, store.ErrNotFound) {
				return nil, s.fail(ctx, "instrument", err)
			}
			if v.Address != was.Address {
				if !people.RoleOf(caller(ctx).Role).May(people.Equip) {
					return nil, huma.Error403Forbidden("A technician or the owner says where a meter is reached: ask " +
						"one of them. Zeroing it is open to you.")
				}
				if err := s.meters.Check(v.Address); v.Address != "" && err != nil {
					return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("No meter is called at %s: %s.", v.Address, err))
				}
			}
			x := store.Instrument{ID: id, Name: v.Name, Address: v.Address, Meter: v.meter(), LeadsOhm: v.LeadsOhm,
				ZeroA: v.ZeroA, ZeroedAt: was.ZeroedAt}
			if v.LeadsOhm != was.LeadsOhm || v.ZeroA != was.ZeroA {
				now := time.Now().UTC()
				x.ZeroedAt = &now
			}
			if err := s.st.PutInstrument(ctx, x); err != nil {
				return nil, s.fail(ctx, "instrument", err)
			}
			return list(ctx)
		})
	huma.Register(s.api, op(http.MethodDelete, "drop_instrument", "/api/instruments/{id}", "Forget a meter"),
		func(ctx context.Context, in *JobIn) (*out[[]InstrumentView], error) {
			id := in.ID
			if err := s.st.DropInstrument(ctx, id); err != nil {
				return nil, s.fail(ctx, "instrument", err)
			}
			return list(ctx)
		})
}

// bring puts the workshop's own meters that evidence names into a job, so that
// their accuracy stays with it.
func (s *Server) bring(ctx context.Context, job uuid.UUID, es []casefile.Evidence) error {
	var names []string
	for i := range es {
		if n := es[i].Instrument; n != "" && !slices.Contains(names, n) {
			names = append(names, n)
		}
	}
	if len(names) == 0 {
		return nil
	}
	ins, err := s.st.Instruments(ctx)
	if err != nil {
		return err
	}
	j, err := s.st.Job(ctx, job)
	if err != nil {
		return err
	}
	add := map[string]meter.Instrument{}
	for _, in := range ins {
		if _, ok := j.Case.Instruments[in.Name]; !ok && slices.Contains(names, in.Name) {
			m := in.Meter
			if m.Kind == "scope" {
				m.Kind = meter.DCClamp
			}
			add[in.Name] = m
		}
	}
	if len(add) == 0 {
		return nil
	}
	_, err = s.st.Update(ctx, job, func(j *store.Job) error {
		if j.Case.Instruments == nil {
			j.Case.Instruments = map[string]meter.Instrument{}
		}
		for n, m := range add {
			j.Case.Instruments[n] = m
		}
		return nil
	})
	return err
}

// How often a live display is read, and how long a lost instrument is left alone
// before it is tried again.
const (
	liveEvery = 180 * time.Millisecond
	liveRetry = 2 * time.Second
)

// LiveReading is what a live display shows.
type LiveReading struct {
	meter.State
	Text  string `json:"text"` // with its unit, zero and leads taken off
	Take  string `json:"take"` // as it is entered
	Least string `json:"min_text"`
	Most  string `json:"max_text"`
	Mid   string `json:"mean_text"`
}

// live streams what an instrument shows, until the listener leaves.
func (s *Server) live(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	id, err := uuid.Parse(chi.URLParam(r, "id"))
	if err != nil {
		writeProblem(w, http.StatusNotFound, "There is no such meter.")
		return
	}
	in, err := s.st.Instrument(ctx, id)
	if err != nil {
		writeProblem(w, http.StatusNotFound, "There is no such meter.")
		return
	}
	q := r.URL.Query()
	e := casefile.Evidence{Measure: unit.Measure(q.Get("measure")), State: q.Get("state"), From: q.Get("from"),
		To: q.Get("to"), Through: q.Get("through")}
	acc := in.Meter.For(e.Measure)
	if in.Address == "" || acc == nil {
		writeProblem(w, http.StatusUnprocessableEntity,
			fmt.Sprintf("%s cannot be read from here: it needs an address and a dial for this.", in.Name))
		return
	}
	ctx, stop := s.whileSignedIn(ctx)
	defer stop()
	out := openStream(w)
	for ctx.Err() == nil {
		err := s.follow(ctx, out, in, &e, *acc)
		if err == nil || ctx.Err() != nil {
			return
		}
		if out.send("problem", map[string]string{"says": plainly(in, err)}) != nil {
			return
		}
		select {
		case <-ctx.Done():
		case <-time.After(liveRetry):
		}
	}
}

// follow reads one connection until it breaks; nil when nobody listens.
func (s *Server) follow(ctx context.Context, out *stream, in store.Instrument, e *casefile.Evidence, acc meter.Accuracy) error {
	c, err := s.reach(ctx, in, e)
	if err != nil {
		return err
	}
	defer c.Close()
	if err := c.Configure(ctx, e.Measure); err != nil {
		return err
	}
	live := meter.NewLive(acc)
	t := time.NewTicker(liveEvery)
	defer t.Stop()
	for {
		v, over, err := c.Read(ctx)
		if err != nil {
			return err
		}
		if e.Measure == unit.Current {
			v -= in.ZeroA
		}
		st := live.Add(time.Now(), v, over)
		l := LiveReading{State: st, Text: unit.Format(v, e.Measure), Take: unit.Format(v, e.Measure), Least: unit.Format(st.Min, e.Measure),
			Most: unit.Format(st.Max, e.Measure), Mid: unit.Format(st.Mean, e.Measure)}
		if over {
			l.Text, l.Take = "OL", "OL"
		}
		if out.send("reading", l) != nil {
			return nil
		}
		select {
		case <-ctx.Done():
			return nil
		case <-t.C:
		}
	}
}

// reach connects to an instrument, whatever it speaks, and hears who it is where it says so.
func (s *Server) reach(ctx context.Context, in store.Instrument, e *casefile.Evidence) (meters.Session, error) {
	c, err := s.meters.Dial(ctx, in.Address)
	if err != nil {
		return nil, err
	}
	if asked, ok := c.(*scpi.Client); ok {
		who, err := asked.Identify(ctx)
		if err == nil && strings.HasPrefix(who, bench.Maker) {
			err = place(ctx, asked, e)
		}
		if err != nil {
			c.Close()
			return nil, err
		}
	}
	return c, nil
}

// place tells a simulated bench where a person would hold the probes.
func place(ctx context.Context, c *scpi.Client, e *casefile.Evidence) error {
	if e.State != "" {
		if err := c.Send(ctx, "SIM:STAT "+e.State); err != nil {
			return err
		}
	}
	switch {
	case e.From != "" && e.To != "":
		if err := c.Send(ctx, "SIM:PROB "+e.From+","+e.To); err != nil {
			return err
		}
	case e.Through != "":
		if err := c.Send(ctx, "SIM:THR "+e.Through); err != nil {
			return err
		}
	}
	return c.Errors(ctx)
}

// plainly says what is wrong with an instrument.
func plainly(in store.Instrument, err error) string {
	var no meters.Nonsense
	var ref meters.Refusal
	var closed meters.Closed
	var ne net.Error
	switch {
	case errors.As(err, &no):
		return fmt.Sprintf("%s %s: nothing was taken. Is it set to remote, and is this its address?", in.Name, no.Error())
	case errors.As(err, &closed):
		return fmt.Sprintf("%s may not be called at %s: %s.", in.Name, in.Address, closed.Says)
	case errors.As(err, &ref):
		return fmt.Sprintf("%s refuses this: %s. Nothing was taken.", in.Name, ref.Says)
	case strings.HasPrefix(in.Address, "/"):
		return fmt.Sprintf("%s says nothing at %s: is it on and plugged in, and set to report by itself? Trying again.",
			in.Name, in.Address)
	case errors.As(err, &ne) && ne.Timeout():
		return fmt.Sprintf("%s is slow to answer: nothing was taken. Trying again.", in.Name)
	}
	return fmt.Sprintf("%s does not answer at %s: is it on, and on this network? Trying again.", in.Name, in.Address)
}
