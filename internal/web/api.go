package web

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/desk"
	"corriente/core/diagnose"
	"corriente/core/intake"
	"corriente/core/phrase"
	"corriente/core/record"
	"corriente/core/unit"
	"corriente/internal/people"
	"corriente/internal/store"
)

// Machine is something that is brought in.
type Machine struct {
	ID      string  `json:"id"`
	Name    string  `json:"name"`
	Kind    string  `json:"kind"`
	Place   string  `json:"place"`
	Voltage float64 `json:"voltage"`
	Note    string  `json:"note"`
	Built   int     `json:"built,omitempty" doc:"year; absent: not known"`

	Revision string `json:"revision" doc:"of what is said here; sent back with a change, which is refused where somebody else changed it since"`
}

// MachineIn is what is said of a machine.
type MachineIn struct {
	Name  string `json:"name" minLength:"1" maxLength:"120"`
	Kind  string `json:"kind,omitempty" maxLength:"120"`
	Place string `json:"place,omitempty" maxLength:"120"`
	Note  string `json:"note,omitempty" maxLength:"400"`
	Built int    `json:"built,omitempty" doc:"year; 0: not known"`

	Revision string `json:"revision,omitempty" maxLength:"64" doc:"of what was read; empty changes whatever stands there"`
}

// builtInTime refuses a year no machine that is brought in was built in.
func builtInTime(year int) error {
	if now := time.Now().Year(); year != 0 && (year < 1900 || year > now+1) {
		return huma.Error422UnprocessableEntity(fmt.Sprintf("Nothing that is brought in was built in %d: give a "+
			"year from 1900 to %d, or none.", year, now+1))
	}
	return nil
}

// Row is one line of the board.
type Row struct {
	ID          string     `json:"id"`
	Machine     string     `json:"machine"`
	Kind        string     `json:"kind"`
	Place       string     `json:"place"`
	Circuit     string     `json:"circuit"`
	Complaint   string     `json:"complaint"`
	Stage       string     `json:"stage" enum:"complaint,checks,measure,decide,decided,closed"`
	Readings    int        `json:"readings"`
	Looks       int        `json:"looks"`
	Status      string     `json:"status"`
	Station     string     `json:"station"`
	Probability float64    `json:"probability"`
	Says        string     `json:"says"`
	OpenedAt    time.Time  `json:"opened_at"`
	ClosedAt    *time.Time `json:"closed_at,omitempty"`
	FollowUp    *time.Time `json:"follow_up,omitempty" doc:"the day a temporary repair ends"`
	FollowWhat  string     `json:"follow_what,omitempty"`
	Was         string     `json:"was,omitempty" doc:"what it turned out to be, as signed, in words"`
	Bench       string     `json:"bench"`
	Person      string     `json:"person" doc:"who has it"`
	Waits       []WaitView `json:"waits"`
	Group       string     `json:"group" enum:"overdue,now,waiting,closed" doc:"where it stands on the board; the list is in the board's order"`
	Due         *time.Time `json:"due,omitempty" doc:"what puts it there"`
}

// Evidence is one reading or observation of a job.
type Evidence struct {
	ID          string `json:"id" format:"uuid" doc:"made by the client; sending it again changes nothing"`
	Measure     string `json:"measure,omitempty" maxLength:"16"`
	Observe     string `json:"observe,omitempty" maxLength:"64"`
	State       string `json:"state,omitempty" maxLength:"64"`
	From        string `json:"from,omitempty" maxLength:"64"`
	To          string `json:"to,omitempty" maxLength:"64"`
	Through     string `json:"through,omitempty" maxLength:"64"`
	Value       string `json:"value,omitempty" maxLength:"64" doc:"as typed: 11.9, 250m, OL"`
	Outcome     string `json:"outcome,omitempty" maxLength:"64"`
	Instrument  string `json:"instrument,omitempty" maxLength:"64"`
	Leads       string `json:"leads,omitempty" maxLength:"64"`
	Uncertainty string `json:"uncertainty,omitempty" maxLength:"64" doc:"the value's own standard uncertainty, where it is no plain reading; of a look the chance that it is wrong, 17 %"`
	Condition   string `json:"condition,omitempty" maxLength:"16"`
	Symptom     string `json:"symptom,omitempty" maxLength:"16"`
	TakenAt     string `json:"taken_at,omitempty" maxLength:"40"`
	Struck      bool   `json:"struck,omitempty"`
	Shown       string `json:"shown,omitempty" readOnly:"true" doc:"the value as understood, with its unit"`
	By          string `json:"by,omitempty" readOnly:"true" doc:"who entered it"`
}

func (e *Evidence) core() casefile.Evidence {
	return casefile.Evidence{ID: e.ID, Measure: unit.Measure(e.Measure), Observe: e.Observe, State: e.State,
		From: e.From, To: e.To, Through: e.Through,
		Value: e.Value, Outcome: e.Outcome, Instrument: e.Instrument, Leads: e.Leads, Uncertainty: e.Uncertainty,
		Condition: e.Condition, Symptom: e.Symptom, TakenAt: e.TakenAt}
}

func evidenceOut(e *casefile.Evidence, shown string) Evidence {
	return Evidence{ID: e.ID, Measure: string(e.Measure), Observe: e.Observe, State: e.State, From: e.From, To: e.To,
		Through: e.Through, Value: e.Value,
		Outcome: e.Outcome, Instrument: e.Instrument, Leads: e.Leads, Uncertainty: e.Uncertainty,
		Condition: e.Condition, Symptom: e.Symptom, TakenAt: e.TakenAt, Struck: e.Struck, Shown: shown}
}

// JobCircuit is a job's circuit with the observations that come with every circuit of
// its kind.
type JobCircuit struct {
	Circuit *circuit.Circuit      `json:"circuit"`
	Generic []circuit.Observation `json:"generic"`
}

// Decision is what was chosen about a job.
type Decision struct {
	ID       string    `json:"id" format:"uuid"`
	Option   string    `json:"option" minLength:"1" maxLength:"200" doc:"as the comparison names it"`
	Station  string    `json:"station,omitempty" maxLength:"64" doc:"the one part in question; stations says more"`
	Stations []string  `json:"stations,omitempty" maxItems:"4" doc:"the parts in question; of a decision that stands, those it is for"`
	Price    float64   `json:"price" minimum:"0" maximum:"1000000"`
	Reason   string    `json:"reason" maxLength:"400"`
	By       string    `json:"by" enum:"customer,workshop"`
	At       time.Time `json:"at,omitempty" readOnly:"true" required:"false"`
	Label    string    `json:"label,omitempty" maxLength:"400" doc:"the option in words"`
	Who      string    `json:"who,omitempty" maxLength:"120" doc:"name of who decided"`
	SetAside string    `json:"set_aside,omitempty" maxLength:"400" doc:"why a veto that can be set aside was"`
	Expected *float64  `json:"expected,omitempty" doc:"expected cost as it was computed"`
}

// JobView is a job with all that its screens show: the evidence, what it
// amounts to, and the current path of one state.
type JobView struct {
	ID           string              `json:"id"`
	Machine      Machine             `json:"machine"`
	Circuit      string              `json:"circuit"`
	Title        string              `json:"title"`
	Complaint    string              `json:"complaint"`
	Proved       bool                `json:"proved"`
	When         []string            `json:"when"`
	History      string              `json:"history"`
	Intermittent bool                `json:"intermittent"`
	Revision     int                 `json:"revision"`
	Stage        string              `json:"stage"`
	CautionsRead bool                `json:"cautions_read"`
	OpenedAt     time.Time           `json:"opened_at"`
	ClosedAt     *time.Time          `json:"closed_at,omitempty"`
	Unreachable  []string            `json:"unreachable"`
	Evidence     []Evidence          `json:"evidence"`
	Diagnosis    diagnose.Result     `json:"diagnosis"`
	Suspects     []diagnose.Rival    `json:"suspects"`
	Thinking     bool                `json:"thinking" doc:"what to do next is still being worked out: read the job again"`
	Picture      *diagnose.Picture   `json:"picture"`
	Decisions    []Decision          `json:"decisions"`
	Work         []record.RepairView `json:"work" doc:"the job's repairs: what was found, chosen, done and proved of each, the first begun first"`

	Looks          []desk.Look           `json:"looks" doc:"quick checks still open, the most telling for its minutes first"`
	Known          casefile.Known        `json:"known"`
	Parameters     []Given               `json:"parameters"`
	Voltage        float64               `json:"voltage"`
	Access         map[string]float64    `json:"access"`
	Repairs        []casefile.Repair     `json:"repairs"`
	Controller     string                `json:"controller"`
	CodesSay       string                `json:"codes_say"`
	Codes          map[string][]string   `json:"codes"`
	Acknowledged   []string              `json:"acknowledged"`
	Marks          map[string]store.Mark `json:"marks"`
	Specifications []SpecIn              `json:"specifications"`
}

// SpecIn is a range of ohms between two nodes, disconnected, from the vehicle's
// manual. Without low and high it is taken back.
type SpecIn struct {
	From string `json:"from" maxLength:"64"`
	To   string `json:"to" maxLength:"64"`
	Low  string `json:"low,omitempty" maxLength:"40" doc:"0.25 ohm"`
	High string `json:"high,omitempty" maxLength:"40"`
}

// Given is a parameter that the job gives, SI.
type Given struct {
	Name    string  `json:"name"`
	Value   float64 `json:"value"`
	Percent float64 `json:"percent"`
	Word    string  `json:"word,omitempty"`
}

type out[T any] struct{ Body T }

func body[T any](b T) *out[T] { return &out[T]{b} }

// JobIn is the address of a job.
type JobIn struct {
	ID    uuid.UUID `path:"id" format:"uuid"`
	State string    `query:"state" maxLength:"64" doc:"the state whose current path is drawn"`
}

func (s *Server) routes(r chi.Router) {
	get := func(id, p, sum string) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodGet, Path: p, Summary: sum}
	}
	post := func(id, p, sum string) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodPost, Path: p, Summary: sum, DefaultStatus: 200, MaxBodyBytes: 1 << 20}
	}
	put := func(id, p, sum string) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodPut, Path: p, Summary: sum, DefaultStatus: 200, MaxBodyBytes: 1 << 20}
	}
	s.api.UseMiddleware(s.admit)
	s.sessionRoutes(get, post)
	s.peopleRoutes(get, put, post)
	s.houseRoutes(get, put, post)

	huma.Register(s.api, get("board", "/api/board", "Jobs, the open ones or all"), s.board)
	s.machineRoutes(get, put)
	huma.Register(s.api, get("circuits", "/api/circuits", "All circuit families"),
		func(ctx context.Context, _ *struct{}) (*out[[]*circuit.Circuit], error) {
			var list []*circuit.Circuit
			for _, id := range intake.Order() {
				c, err := circuit.Family(id)
				if err != nil {
					return nil, s.fail(ctx, "circuits", err)
				}
				list = append(list, c)
			}
			own, err := s.st.Circuits(ctx)
			if err != nil {
				return nil, s.fail(ctx, "circuits", err)
			}
			return body(append(list, own...)), nil
		})
	huma.Register(s.api, get("job_circuit", "/api/jobs/{id}/circuit",
		"The circuit of a job, with the job's own values"), func(ctx context.Context, in *JobIn) (*out[JobCircuit], error) {
		j, err := s.load(ctx, in.ID)
		if err != nil {
			return nil, err
		}
		return body(JobCircuit{j.Case.Circuit, j.Case.Circuit.Generic()}), nil
	})
	s.jobRoutes(get, post)
	s.pathRoutes(get)
	s.reportRoutes(get)
	s.evidenceRoutes(post)
	s.decideRoutes(get, put, post)
	s.proveRoutes(get, put, post)
	s.logbookRoutes(get, put, post)
	s.trainRoutes(get, put, post)
	s.caseRoutes()
	s.workshopRoutes(get, post)
	s.instrumentRoutes(get)
	s.traceRoutes(get)

	raw := func(op huma.Operation, h http.HandlerFunc) { s.raw(r, op, h) }
	raw(get("events", "/api/events", "Which jobs were changed, as server-sent events"), s.events)
	raw(get("live", "/api/instruments/{id}/live", "What a meter shows, as server-sent events"), s.live)
	raw(get("capture", "/api/instruments/{id}/capture", "A current trace from a scope"), s.capture)
	raw(get("export_logbook", "/api/logbook/export", "The logbook as a list"), s.export)
	raw(get("print", "/api/jobs/{id}/report/{kind}", "A job's paper as PDF: customer, file or label"), s.pdf)
	raw(post("open_trace", "/api/traces", "Read and analyse a trace file"), s.openTrace)
	raw(allow(people.Anyone, post("restore", restorePath,
		"Put a backup in place of a new installation's data; asks for the code")), s.putBack)
	raw(get("zoom_trace", "/api/traces/{id}/zoom", "A stretch of an open trace"), s.zoomTrace)
	raw(get("compare_traces", "/api/traces/{id}/compare", "Two open traces side by side"), s.compareTraces)
}

// machineRoutes are what is known of the machines themselves.
func (s *Server) machineRoutes(get, put opFunc) {
	huma.Register(s.api, get("machines", "/api/machines", "All machines"), s.machines)
	huma.Register(s.api, get("machine", "/api/machines/{id}",
		"All that is known of one machine, put together from its jobs"), func(ctx context.Context, in *JobIn) (*out[*MachineView], error) {
		return s.machine(ctx, in.ID)
	})
	huma.Register(s.api, put("change_machine", "/api/machines/{id}", "Say what a machine is"), s.changeMachine)
}

// machines answers GET /api/machines: all machines.
func (s *Server) machines(ctx context.Context, _ *struct{}) (*out[[]Machine], error) {
	ms, err := s.st.Machines(ctx)
	if err != nil {
		return nil, s.fail(ctx, "machines", err)
	}
	list := make([]Machine, 0, len(ms))
	for _, m := range ms {
		list = append(list, machineOut(m))
	}
	return body(list), nil
}

// changeMachineIn is the request of changeMachine.
type changeMachineIn struct {
	JobIn
	Body MachineIn
}

// changeMachine answers PUT /api/machines/{id}: say what a machine is.
func (s *Server) changeMachine(ctx context.Context, in *changeMachineIn) (*out[Machine], error) {
	id := in.ID
	b := in.Body
	if err := builtInTime(b.Built); err != nil {
		return nil, err
	}
	m := store.Machine{ID: id, Name: strings.TrimSpace(b.Name), Kind: strings.TrimSpace(b.Kind),
		Place: strings.TrimSpace(b.Place), Note: strings.TrimSpace(b.Note), Built: b.Built}
	if m.Name == "" {
		return nil, huma.Error422UnprocessableEntity("A machine needs a name.")
	}
	if err := s.st.ChangeMachine(ctx, m, b.Revision); err != nil {
		return nil, s.fail(ctx, "machine", err)
	}
	now, err := s.st.Machine(ctx, id)
	if err != nil {
		return nil, s.fail(ctx, "machine", err)
	}
	return body(machineOut(*now)), nil
}

// board lists the jobs.
func (s *Server) board(ctx context.Context, in *struct {
	All bool `query:"all"`
}) (*out[[]Row], error) {
	rows, err := s.st.Board(ctx, in.All)
	if err != nil {
		return nil, s.fail(ctx, "board", err)
	}
	label, err := s.stationLabels(ctx)
	if err != nil {
		return nil, s.fail(ctx, "board", err)
	}
	all, err := s.titles(ctx)
	if err != nil {
		return nil, s.fail(ctx, "board", err)
	}
	list, places, now := make([]Row, 0, len(rows)), map[string]desk.Place{}, time.Now()
	for i := range rows {
		r := &rows[i]
		x := Row{ID: r.ID.String(), Machine: r.Machine, Kind: r.Kind, Place: r.Place, Circuit: r.Circuit, Complaint: r.Complaint,
			Stage:    desk.Stage(r.ClosedAt != nil, r.Decided, r.Status.String, r.Readings, r.Looks),
			Readings: r.Readings, Looks: r.Looks, Status: r.Status.String,
			Station: label(r.Circuit, r.Station.String), Probability: r.Probability.Float64, Says: r.Says.String,
			OpenedAt: r.OpenedAt, ClosedAt: r.ClosedAt, FollowUp: r.FollowUp, FollowWhat: r.FollowWhat,
			Bench: r.Bench, Person: r.Person, Waits: []WaitView{}}
		if c := all[r.Circuit]; c != nil {
			x.Was = record.WasIn(c, r.Was)
		}
		var waits []desk.Wait
		for k := range r.Waits {
			w := desk.Wait{Kind: r.Waits[k].Kind}
			if u := r.Waits[k].Until; u != nil {
				w.Until = *u
			}
			waits, x.Waits = append(waits, w), append(x.Waits, waitOut(&r.Waits[k]))
		}
		p := desk.PlaceOf(now, r.ClosedAt != nil, waits, r.FollowUp)
		if x.Group = p.Group; !p.Due.IsZero() {
			x.Due = &p.Due
		}
		places[x.ID] = p
		list = append(list, x)
	}
	slices.SortStableFunc(list, func(a, b Row) int {
		return desk.Row{Place: places[a.ID], Stage: a.Stage, Opened: a.OpenedAt}.Compare(
			desk.Row{Place: places[b.ID], Stage: b.Stage, Opened: b.OpenedAt})
	})
	return body(list), nil
}

// stationLabels returns what a station is called, by circuit and id.
func (s *Server) stationLabels(ctx context.Context) (func(circuitID, station string) string, error) {
	own, err := s.st.Circuits(ctx)
	if err != nil {
		return nil, err
	}
	return func(circuitID, station string) string {
		c, err := circuit.Family(circuitID)
		if err != nil {
			i := slices.IndexFunc(own, func(c *circuit.Circuit) bool { return c.ID == circuitID })
			if i < 0 {
				return station
			}
			c = own[i]
		}
		if st := c.Station(station); st != nil {
			return st.Label
		}
		return station
	}, nil
}

func machineOut(m store.Machine) Machine {
	return Machine{m.ID.String(), m.Name, m.Kind, m.Place, m.Voltage, m.Note, m.Built, m.Revision()}
}

type opFunc func(id, path, summary string) huma.Operation

// load reads a job.
func (s *Server) load(ctx context.Context, id uuid.UUID) (*store.Job, error) {
	j, err := s.st.Job(ctx, id)
	if err != nil {
		return nil, s.fail(ctx, "job", err)
	}
	return j, nil
}

// view weighs a job, stores the verdict when it is new, and draws one state.
func (s *Server) view(ctx context.Context, j *store.Job, state string) (*out[JobView], error) {
	op, err := s.ws.Advisers.Weigh(ctx, j)
	if err != nil {
		return nil, s.fail(ctx, "weigh", err)
	}
	if err := s.keepVerdict(ctx, j, op); err != nil {
		return nil, s.fail(ctx, "verdict", err)
	}
	return s.show(ctx, j, op, state)
}

// thinkAfter is how long a quick answer is left alone before the rest is worked out unasked.
const thinkAfter = 250 * time.Millisecond

// quick is view at once, without what to do next, which is worked out and stored
// meanwhile; the interface reads the job again for it.
func (s *Server) quick(ctx context.Context, j *store.Job, state string) (*out[JobView], error) {
	op, err := s.ws.Advisers.Glance(ctx, j)
	if err != nil {
		return nil, s.fail(ctx, "weigh", err)
	}
	v, err := s.show(ctx, j, op, state)
	if err != nil || s.ws.Advisers.Stored(j) {
		return v, err
	}
	bg, cancel := context.WithTimeout(context.WithoutCancel(ctx), s.ws.Advisers.Patience)
	s.work.Go(func() {
		defer cancel()
		// Who asked draws the picture first, perhaps on this very machine, and then asks for the
		// rest; this is for those who do not.
		select {
		case <-time.After(thinkAfter):
		case <-s.closing:
		}
		full, err := s.ws.Advisers.Weigh(bg, j)
		if err == nil {
			err = s.keepVerdict(bg, j, full)
		}
		if err != nil {
			s.log.Error("weigh", "err", err)
		}
	})
	return v, nil
}

// restsFor is how long what is being typed stands unchanged before what to do after it is
// worked out as well.
const restsFor = 150 * time.Millisecond

// foresee works out in the background, after a while, what more evidence would amount to,
// each piece by itself: what is being typed, or the answers of a question that is asked.
// First the picture of each, then what to do after it, as long as nothing newer is looked at.
func (s *Server) foresee(ctx context.Context, j *store.Job, after time.Duration, es ...casefile.Evidence) {
	if len(es) == 0 {
		return
	}
	latest := s.ws.Advisers.Look(j.ID)
	bg, cancel := context.WithTimeout(context.WithoutCancel(ctx), s.ws.Advisers.Patience)
	s.work.Go(func() {
		defer cancel()
		for _, think := range []bool{false, true} {
			wait := time.After(after)
			for _, e := range es {
				select {
				case <-s.closing:
					return
				case <-wait:
				}
				if !latest() {
					return
				}
				if err := s.ws.Advisers.Foresee(bg, j, e, think, latest); err != nil {
					s.log.Error("foresee", "err", err)
					return
				}
				wait = time.After(0)
			}
			after = restsFor
		}
	})
}

// replay is view for a job as it stood after its first pieces of evidence. It
// stores nothing.
func (s *Server) replay(ctx context.Context, j *store.Job, state string, upto int) (*out[JobView], error) {
	c := j.Record().UpTo(upto)
	then := *j
	then.Case, then.TakenBy = c, j.TakenBy[:upto]
	a, err := s.ws.Advisers.Get(c.Circuit)
	if err != nil {
		return nil, s.fail(ctx, "replay", err)
	}
	dj := diagnose.JobOf(c)
	dj.Known.Unreachable, dj.Complaint = j.Unreachable, j.Complaint
	op, err := a.Weigh(ctx, dj)
	if err != nil {
		return nil, s.fail(ctx, "replay", err)
	}
	return s.show(ctx, &then, op, state)
}

// show puts a weighed job together for its screens.
func (s *Server) show(ctx context.Context, j *store.Job, op *diagnose.Opinion, state string) (*out[JobView], error) {
	c := j.Case.Circuit
	scr, err := desk.Show(op, j.Case, state, j.ClosedAt != nil, len(j.Decisions) > 0)
	if err != nil {
		return nil, s.fail(ctx, "picture", err)
	}
	set, err := s.ws.Settings(ctx)
	if err != nil {
		return nil, s.fail(ctx, "settings", err)
	}
	v := JobView{ID: j.ID.String(), Machine: machineOut(j.Machine), Circuit: c.ID, Title: c.Title,
		Complaint: j.Complaint, Proved: j.Proved, When: []string{},
		Intermittent: j.Case.Intermittent, Revision: j.Revision, CautionsRead: j.CautionsAt != nil,
		OpenedAt: j.OpenedAt, ClosedAt: j.ClosedAt,
		Unreachable: append([]string{}, j.Unreachable...), Evidence: []Evidence{}, Diagnosis: scr.Diagnosis,
		Suspects: scr.Suspects, Picture: scr.Picture, Stage: scr.Stage, Thinking: scr.Thinking,
		Decisions: []Decision{}, Work: j.Record().Views(set.Zone()),
		Looks: scr.Looks, Known: j.Case.Known, Parameters: []Given{}, Voltage: j.Case.NominalVoltage, Access: j.Case.AccessMinutes,
		Repairs: append([]casefile.Repair{}, j.Case.Repairs...), Codes: map[string][]string{},
		Acknowledged: []string{}, Specifications: []SpecIn{}}
	if j.Case.Job != nil {
		v.When, v.History = append(v.When, j.Case.Job.When...), j.Case.Job.History
		v.Controller = j.Case.Job.Controller
		v.Acknowledged = append(v.Acknowledged, j.Case.Job.Acknowledged...)
	}
	if v.Controller != "" {
		ch, err := s.codesFor(ctx, v.Controller, j.Machine.Kind, c.ID)
		if err != nil {
			return nil, s.fail(ctx, "codes", err)
		}
		v.CodesSay = ch.Says
	}
	for i := range j.Case.Evidence {
		e := evidenceOut(&j.Case.Evidence[i], scr.Shown[i])
		e.By = j.TakenBy[i]
		v.Evidence = append(v.Evidence, e)
	}
	for _, d := range j.Decisions {
		v.Decisions = append(v.Decisions, Decision{ID: d.ID.String(), Option: d.Option, Station: d.Station,
			Stations: d.All(), Price: d.Price, Reason: d.Reason, By: d.By, At: d.At, Label: d.Label, Who: d.Who,
			SetAside: d.SetAside, Expected: d.Expected})
	}
	for _, g := range j.Case.Parameters {
		v.Parameters = append(v.Parameters, Given{g.Name, g.Value, g.Percent, g.Word})
	}
	for _, x := range j.Case.Specifications {
		v.Specifications = append(v.Specifications, SpecIn{x.From, x.To, x.Low.Original, x.High.Original})
	}
	for k, f := range j.Case.Codes {
		v.Codes[strconv.Itoa(k)] = f
	}
	if v.Marks, err = s.st.Profile(ctx, j.Machine.Kind, c.ID); err != nil {
		return nil, s.fail(ctx, "profile", err)
	}
	return body(v), nil
}

func (s *Server) keepVerdict(ctx context.Context, j *store.Job, op *diagnose.Opinion) error {
	if s.ws.Advisers.Stored(j) {
		return nil
	}
	b, err := json.Marshal(op.Result)
	if err != nil {
		return err
	}
	err = s.st.PutVerdict(ctx, j.ID, j.Revision,
		store.Verdict{Reasoning: op.Reasoning, Status: op.Verdict.Status, Station: op.Verdict.Station,
			Probability: op.Verdict.Probability, Says: op.Verdict.Says, Result: b})
	if err == nil {
		s.ws.Advisers.SetStored(j)
		s.foresee(ctx, j, thinkAfter, answersOf(j, op)...)
	}
	return err
}

// answersOf are the answers of the question that is asked next, as evidence; none where
// readings are asked for, or where more than the answer is said with it.
func answersOf(j *store.Job, op *diagnose.Opinion) []casefile.Evidence {
	if len(op.Next) == 0 || op.Next[0].Observe == "" || j.Case.Intermittent || j.ClosedAt != nil {
		return nil
	}
	n := op.Next[0]
	o := j.Case.Circuit.Observation(n.Observe)
	if o == nil || len(o.Outcomes) > 6 { // a blink code is any of twenty
		return nil
	}
	var out []casefile.Evidence
	for _, x := range o.Outcomes {
		e := casefile.Evidence{Observe: n.Observe, State: n.State, Through: n.Through, Outcome: x.ID}
		if e.Check(j.Case.Circuit, j.Case.Instruments) == nil {
			out = append(out, e)
		}
	}
	return out
}

func (s *Server) jobRoutes(get, post opFunc) {
	huma.Register(s.api, get("job", "/api/jobs/{id}", "A job whole, or as it stood after its first readings"),
		s.getJob)
	huma.Register(s.api, post("open_job", "/api/jobs", "Open a job"), s.openJob)
	huma.Register(s.api, huma.Operation{OperationID: "change_job", Method: http.MethodPatch, Path: "/api/jobs/{id}",
		Summary: "Change what a job says around its evidence"}, s.changeJob)
}

// getJobIn is the request of getJob.
type getJobIn struct {
	JobIn
	Upto int `query:"upto" minimum:"0" maximum:"500" default:"500" doc:"so many pieces of evidence are weighed: the job as it stood then"`
}

// getJob answers GET /api/jobs/{id}: a job whole, or as it stood after its first readings.
func (s *Server) getJob(ctx context.Context, in *getJobIn) (*out[JobView], error) {
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	if in.Upto < len(j.Case.Evidence) {
		return s.replay(ctx, j, in.State, in.Upto)
	}
	return s.view(ctx, j, in.State)
}

// openJobIn is the request of openJob.
type openJobIn struct {
	Body struct {
		ID           string            `json:"id" format:"uuid"`
		MachineID    string            `json:"machine_id" format:"uuid"`
		NewMachine   string            `json:"new_machine,omitempty" maxLength:"120" doc:"name of a machine that is not listed yet; machine_id is then its new id"`
		Circuit      string            `json:"circuit" maxLength:"64"`
		Complaint    string            `json:"complaint,omitempty" maxLength:"2000"`
		When         []string          `json:"when,omitempty" maxItems:"8"`
		History      string            `json:"history,omitempty" maxLength:"2000"`
		Intermittent bool              `json:"intermittent,omitempty"`
		Kind         string            `json:"kind,omitempty" maxLength:"120" doc:"type of a new machine"`
		Built        int               `json:"built,omitempty" doc:"year a new machine was built; 0: not known"`
		Answers      map[string]string `json:"answers,omitempty" doc:"what was answered on the way here: evidence at once"`
	}
}

// openJob answers POST /api/jobs: open a job.
func (s *Server) openJob(ctx context.Context, in *openJobIn) (*out[JobView], error) {
	u := caller(ctx)
	b := in.Body
	id, err1 := uuid.Parse(b.ID)
	mid, err2 := uuid.Parse(b.MachineID)
	if err1 != nil || err2 != nil {
		return nil, huma.Error422UnprocessableEntity("A job and a machine need an id of their own.")
	}
	f, own, err := s.st.Circuit(ctx, b.Circuit)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("There is no circuit %q: choose one of the list.", b.Circuit))
	}
	if err != nil {
		return nil, s.fail(ctx, "open job", err)
	}
	m := store.Machine{ID: mid}
	if name := strings.TrimSpace(b.NewMachine); name != "" {
		m.Name, m.Voltage, m.Kind, m.Built = name, f.NominalVoltage, strings.TrimSpace(b.Kind), b.Built
		if err := builtInTime(m.Built); err != nil {
			return nil, err
		}
	}
	create := s.st.CreateJobOnNewMachine
	c := &casefile.Case{Circuit: f, CircuitID: f.ID, Inline: own, NominalVoltage: f.NominalVoltage, AmbientC: 20,
		Intermittent: b.Intermittent,
		Job:          &casefile.Job{When: b.When, History: strings.TrimSpace(b.History)}}
	if m.Name == "" {
		create = s.st.CreateJob
		had, err := s.st.Machine(ctx, mid)
		if err != nil && !errors.Is(err, store.ErrNotFound) { // one that is not there is refused below
			return nil, s.fail(ctx, "machine", err)
		}
		if err == nil {
			m = *had
		}
	}
	if err := s.ws.TakeLearned(ctx, c, &m); err != nil {
		return nil, s.fail(ctx, "open job", err)
	}
	for i, e := range intake.Evidence(f.ID, b.Answers) {
		e.ID = uuid.NewSHA1(id, []byte(fmt.Sprint("answer ", i))).String()
		e.TakenAt = time.Now().UTC().Format(time.RFC3339Nano)
		c.Evidence = append(c.Evidence, e)
	}
	j := &store.Job{ID: id, Machine: m, Case: c, Complaint: strings.TrimSpace(b.Complaint), OpenedAt: time.Now().UTC()}
	if err := create(ctx, j, &u.ID); err != nil {
		if errors.Is(err, store.ErrNotFound) {
			return nil, huma.Error422UnprocessableEntity("This machine is not in the list: choose one, or type a new name.")
		}
		return nil, s.fail(ctx, "open job", err)
	}
	j, err = s.st.Job(ctx, id)
	if err != nil {
		return nil, s.fail(ctx, "open job", err)
	}
	return s.view(ctx, j, "")
}

// JobChange is what may be changed of a job around its evidence; what is not given stays.
type JobChange struct {
	Complaint    *string   `json:"complaint,omitempty" maxLength:"2000"`
	When         *[]string `json:"when,omitempty" maxItems:"8"`
	History      *string   `json:"history,omitempty" maxLength:"2000"`
	Intermittent *bool     `json:"intermittent,omitempty"`
	CautionsRead *bool     `json:"cautions_read,omitempty"`
	Unreachable  *[]string `json:"unreachable,omitempty" maxItems:"100" doc:"all of them; cannot_reach and can_reach say one, and take nothing of another's away"`
	CannotReach  string    `json:"cannot_reach,omitempty" maxLength:"64" doc:"a place nobody gets at"`
	CanReach     string    `json:"can_reach,omitempty" maxLength:"64" doc:"a place that can be got at after all"`
	Closed       *bool     `json:"closed,omitempty"`

	Known         *casefile.Known     `json:"known,omitempty"`
	Voltage       *float64            `json:"voltage,omitempty" doc:"nominal, V"`
	Parameter     *ParameterIn        `json:"parameter,omitempty"`
	Plate         *PlateIn            `json:"plate,omitempty"`
	Specification *SpecIn             `json:"specification,omitempty" doc:"a range from the manual"`
	Access        *map[string]float64 `json:"access,omitempty" doc:"minutes by access group, those that differ"`
	Controller    *string             `json:"controller,omitempty" maxLength:"120" doc:"whose blink codes are read; the table that holds is taken over"`
	Acknowledge   string              `json:"acknowledge,omitempty" maxLength:"64" doc:"a state whose caution was read and understood"`
}

func (s *Server) changeJob(ctx context.Context, in *struct {
	JobIn
	Body JobChange
}) (*out[JobView], error) {
	id := in.ID
	j, err := s.st.Update(ctx, id, func(j *store.Job) error {
		in.Body.words(j)
		b := &in.Body
		return s.changeKnown(ctx, j, &known{b.Known, b.Voltage, b.Parameter, b.Plate, b.Specification, b.Access,
			b.Controller, b.Acknowledge})
	})
	if err != nil {
		if r := refuse(err); r != nil {
			return nil, r
		}
		return nil, s.fail(ctx, "change job", err)
	}
	return s.view(ctx, j, in.State)
}

// words changes what needs no looking up.
func (b *JobChange) words(j *store.Job) {
	if j.Case.Job == nil {
		j.Case.Job = &casefile.Job{}
	}
	if b.Complaint != nil {
		j.Complaint = strings.TrimSpace(*b.Complaint)
	}
	if b.When != nil {
		j.Case.Job.When = *b.When
	}
	if b.History != nil {
		j.Case.Job.History = strings.TrimSpace(*b.History)
	}
	if b.Intermittent != nil {
		j.Case.Intermittent = *b.Intermittent
	}
	if b.Unreachable != nil {
		j.Unreachable = *b.Unreachable
	}
	if b.CannotReach != "" && !slices.Contains(j.Unreachable, b.CannotReach) {
		j.Unreachable = append(j.Unreachable, b.CannotReach)
	}
	if b.CanReach != "" {
		j.Unreachable = slices.DeleteFunc(j.Unreachable, func(id string) bool { return id == b.CanReach })
	}
	now := time.Now().UTC()
	if b.CautionsRead != nil && *b.CautionsRead && j.CautionsAt == nil {
		j.CautionsAt = &now
	}
	if b.Closed != nil {
		if j.ClosedAt = nil; *b.Closed {
			j.ClosedAt = &now
		}
	}
}

// refuse turns a problem of the core into one sentence for the person.
func refuse(err error) error {
	var p *casefile.Problem
	if errors.As(err, &p) {
		return huma.Error422UnprocessableEntity(phrase.Sentence(p.What), &huma.ErrorDetail{Message: p.What, Location: p.Pointer})
	}
	return nil
}

// evidenceIn is readings or observations to be entered.
type evidenceIn struct {
	JobIn
	Quick bool `query:"quick" doc:"answer at once, without what to do next"`
	Body  struct {
		Evidence []Evidence `json:"evidence" minItems:"1" maxItems:"50"`
	}
}

func (s *Server) evidenceRoutes(post opFunc) {
	huma.Register(s.api, post("add_evidence", "/api/jobs/{id}/evidence", "Enter readings or observations"),
		s.addEvidence)
	huma.Register(s.api, post("strike", "/api/jobs/{id}/evidence/{evidence}/strike",
		"Strike evidence out, or back in"), s.strike)
	huma.Register(s.api, allow(people.See,
		post("preview", "/api/jobs/{id}/preview", "How a reading that is being typed would be understood; stores nothing")),
		s.preview)
}

// addEvidence answers POST /api/jobs/{id}/evidence: enter readings or observations.
func (s *Server) addEvidence(ctx context.Context, in *evidenceIn) (*out[JobView], error) {
	u := caller(ctx)
	id := in.ID
	es := make([]casefile.Evidence, len(in.Body.Evidence))
	for i := range in.Body.Evidence {
		if _, err := uuid.Parse(in.Body.Evidence[i].ID); err != nil {
			return nil, huma.Error422UnprocessableEntity("Evidence needs an id of its own.")
		}
		es[i] = in.Body.Evidence[i].core()
		if es[i].TakenAt == "" {
			es[i].TakenAt = time.Now().UTC().Format(time.RFC3339Nano)
		}
	}
	if err := s.bring(ctx, id, es); err != nil {
		return nil, s.fail(ctx, "instruments", err)
	}
	j, err := s.st.AddEvidence(ctx, id, es, u.ID)
	if err != nil {
		if r := refuse(err); r != nil {
			return nil, r
		}
		return nil, s.fail(ctx, "evidence", err)
	}
	if in.Quick {
		return s.quick(ctx, j, in.State)
	}
	return s.view(ctx, j, in.State)
}

// strikeIn is the request of strike.
type strikeIn struct {
	JobIn
	Evidence uuid.UUID `path:"evidence" format:"uuid"`
	Quick    bool      `query:"quick" doc:"answer at once, without what to do next"`
	Body     struct {
		Out bool `json:"out"`
	}
}

// strike answers POST /api/jobs/{id}/evidence/{evidence}/strike: strike evidence out, or back in.
func (s *Server) strike(ctx context.Context, in *strikeIn) (*out[JobView], error) {
	u := caller(ctx)
	j, err := s.st.Strike(ctx, in.ID, in.Evidence, in.Body.Out, u.ID)
	if err != nil {
		return nil, s.fail(ctx, "strike", err)
	}
	if in.Quick {
		return s.quick(ctx, j, in.State)
	}
	return s.view(ctx, j, in.State)
}

// previewIn is the request of preview.
type previewIn struct {
	JobIn
	Body Evidence
}

// preview answers POST /api/jobs/{id}/preview: how a reading that is being typed would be understood; stores nothing.
func (s *Server) preview(ctx context.Context, in *previewIn) (*out[diagnose.Preview], error) {
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	e := in.Body.core()
	if p := e.Check(j.Case.Circuit, j.Case.Instruments); p != nil {
		return nil, refuse(p)
	}
	if e.Measure == "" {
		return nil, huma.Error422UnprocessableEntity("Only a reading is previewed.")
	}
	op, err := s.ws.Advisers.Weigh(ctx, j)
	if err != nil {
		return nil, s.fail(ctx, "preview", err)
	}
	s.foresee(ctx, j, 0, e)
	return body(op.Preview(&e)), nil
}

type caseOut struct {
	Disposition string `header:"Content-Disposition"`
	Type        string `header:"Content-Type"`
	Body        []byte
}

func (s *Server) caseRoutes() {
	huma.Register(s.api, huma.Operation{OperationID: "export_case", Method: http.MethodGet,
		Path: "/api/jobs/{id}/case", Summary: "The job as a case file"},
		s.exportCase)
	huma.Register(s.api, huma.Operation{OperationID: "import_case", Method: http.MethodPost, Path: "/api/cases",
		Summary: "Open a job from a case file", MaxBodyBytes: casefile.MaxBytes + 1, DefaultStatus: 200, SkipValidateBody: true},
		s.importCase)
}

// exportCase answers GET /api/jobs/{id}/case: the job as a case file.
func (s *Server) exportCase(ctx context.Context, in *JobIn) (*caseOut, error) {
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	if err := j.Export().Write(&b); err != nil {
		return nil, s.fail(ctx, "export", err)
	}
	return &caseOut{`attachment; filename="` + j.ID.String() + `.case.json"`, "application/json", b.Bytes()}, nil
}

// importCaseIn is the request of importCase.
type importCaseIn struct {
	ID      uuid.UUID `query:"id" format:"uuid" required:"true" doc:"id of the job, where the file has none"`
	RawBody []byte    `contentType:"application/json"`
}

// importCase answers POST /api/cases: open a job from a case file.
func (s *Server) importCase(ctx context.Context, in *importCaseIn) (*out[JobView], error) {
	u := caller(ctx)
	id := in.ID
	c, err := casefile.Read(bytes.NewReader(in.RawBody))
	if err != nil {
		var p *casefile.Problem
		if errors.As(err, &p) {
			return nil, huma.Error422UnprocessableEntity("This case is refused, nothing was stored: "+
				p.Error()+".", &huma.ErrorDetail{Message: p.What, Location: p.Pointer})
		}
		return nil, s.fail(ctx, "import", err)
	}
	if err := c.Circuit.Solvable(); err != nil {
		return nil, invalid(err)
	}
	j := store.FromCase(c, id)
	name := "Imported machine"
	if c.Job != nil && c.Job.Machine != "" {
		name = c.Job.Machine
	}
	if err := s.machineFor(ctx, j, name); err != nil {
		return nil, s.fail(ctx, "import", err)
	}
	if err := s.st.CreateJobOnNewMachine(ctx, j, &u.ID); err != nil {
		return nil, s.fail(ctx, "import", err)
	}
	if j, err = s.st.Job(ctx, j.ID); err != nil {
		return nil, s.fail(ctx, "import", err)
	}
	return s.view(ctx, j, "")
}

// machineFor finds the machine of an imported case by name, or makes one whose id
// follows from the job's, so that importing again adds nothing.
func (s *Server) machineFor(ctx context.Context, j *store.Job, name string) error {
	ms, err := s.st.Machines(ctx)
	if err != nil {
		return err
	}
	for _, m := range ms {
		if m.Name == name {
			j.Machine = m
			return nil
		}
	}
	j.Machine = store.Machine{ID: uuid.NewSHA1(j.ID, []byte(name)), Name: clip(name, 120), Voltage: j.Case.NominalVoltage}
	return nil
}

func clip(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}
