package web

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"corriente/core/blink"
	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/conductor"
	"corriente/core/diagnose"
	"corriente/core/intake"
	"corriente/core/phrase"
	"corriente/core/plate"
	"corriente/core/unit"
	"corriente/internal/people"
	"corriente/internal/store"
)

// ParameterIn is one value of this vehicle, as typed. An empty value takes it
// back to the family's default.
type ParameterIn struct {
	Name    string  `json:"name" maxLength:"128" doc:"station.parameter"`
	Value   string  `json:"value,omitempty" maxLength:"40" doc:"0.9 mohm, 20 A, 12.6 V; a plain number is SI"`
	Size    string  `json:"size,omitempty" maxLength:"40" doc:"instead, a cable's size: 35 mm2, AWG 4"`
	Length  float64 `json:"length,omitempty" minimum:"0" maximum:"1000" doc:"and its length, m"`
	Percent float64 `json:"percent,omitempty" minimum:"0" maximum:"200" doc:"how well it is known; 0: 5 %"`
}

// known is what a change of a job says of its machine; nil leaves things as they
// are.
type known struct {
	Known       *casefile.Known
	Voltage     *float64
	Parameter   *ParameterIn
	Plate       *PlateIn
	Spec        *SpecIn
	Access      *map[string]float64
	Controller  *string
	Acknowledge string
}

// changeKnown changes what a job knows of its machine. The store checks the whole
// before anything is kept.
func (s *Server) changeKnown(ctx context.Context, j *store.Job, k *known) error {
	c := j.Case
	if k.Known != nil {
		trust, plate := c.Known.CodesTrust, c.Known.Plate
		c.Known = *k.Known
		c.Known.Plate = plate // it has a change of its own
		c.Known.CodesTrust = trust
		c.Known.Unreachable = nil // kept by the job itself
	}
	if k.Voltage != nil {
		c.NominalVoltage = *k.Voltage
	}
	if k.Parameter != nil {
		if err := setParameter(c, k.Parameter); err != nil {
			return err
		}
	}
	if k.Plate != nil {
		if err := setPlate(c, k.Plate); err != nil {
			return err
		}
	}
	if k.Spec != nil {
		if err := setSpecification(c, k.Spec); err != nil {
			return err
		}
	}
	if k.Access != nil {
		c.AccessMinutes = *k.Access
	}
	if k.Controller != nil {
		c.Job.Controller = strings.TrimSpace(*k.Controller)
		ch, err := s.codesFor(ctx, c.Job.Controller, j.Machine.Kind, c.CircuitID)
		if err != nil {
			return err
		}
		c.Codes, c.Known.CodesTrust = ch.Table.Codes(), ch.Trust
		if len(c.Codes) == 0 {
			c.Codes, c.Known.CodesTrust = nil, 0
		}
	}
	if acknowledge := k.Acknowledge; acknowledge != "" && !slices.Contains(c.Job.Acknowledged, acknowledge) {
		if c.Circuit.State(acknowledge) == nil {
			return &casefile.Problem{Pointer: "/acknowledge", What: fmt.Sprintf("circuit %s has no state %q", c.CircuitID, acknowledge)}
		}
		c.Job.Acknowledged = append(c.Job.Acknowledged, acknowledge)
	}
	return nil
}

// setSpecification puts a range of ohms into a case, replacing what stood there.
func setSpecification(c *casefile.Case, in *SpecIn) error {
	c.Specifications = slices.DeleteFunc(c.Specifications,
		func(x casefile.Specification) bool { return x.From == in.From && x.To == in.To })
	if in.Low == "" && in.High == "" {
		return nil
	}
	i := slices.IndexFunc(c.Circuit.States, func(st circuit.State) bool { return st.CanRead("resistance") })
	if i < 0 {
		return &casefile.Problem{Pointer: "/specification", What: "ohms are read in no state of this circuit"}
	}
	x := casefile.Specification{Measure: unit.Resistance, State: c.Circuit.States[i].ID, From: in.From, To: in.To}
	var err error
	if x.Low, err = unit.Parse(in.Low, unit.Resistance); err == nil {
		x.High, err = unit.Parse(in.High, unit.Resistance)
	}
	if err != nil {
		return &casefile.Problem{Pointer: "/specification", What: err.Error()}
	}
	c.Specifications = append(c.Specifications, x)
	return nil
}

// SettingsView is what can be given of a vehicle and what was.
type SettingsView struct {
	Settings []plate.Setting `json:"settings"`
	Given    []GivenView     `json:"given"`
	Plate    *PlateView      `json:"plate,omitempty" doc:"absent where the circuit has no motor with a plate"`
}

// GivenView is a value that was given, read back as it is said.
type GivenView struct {
	Name  string `json:"name"`
	Label string `json:"label"`
	Says  string `json:"says"`
}

// PlateView is a motor's plate, and the amperes that follow.
type PlateView struct {
	casefile.Plate
	Amps *plate.Amperes `json:"amps,omitempty"`
}

func settingsOf(c *casefile.Case) SettingsView {
	v := SettingsView{Settings: plate.Settings(c.Circuit), Given: []GivenView{}}
	var own []string
	for i := range c.Circuit.Stations {
		if s := &c.Circuit.Stations[i]; s.Kind == circuit.Motor {
			own, v.Plate = plate.Own(s.ID), &PlateView{}
		}
	}
	if p := c.Known.Plate; p != nil && v.Plate != nil {
		v.Plate.Plate = *p
		if m, err := plate.ParseMotor(p.Power, p.Voltage, p.Current, p.Speed); err == nil {
			if b, err := m.Draws(c.Circuit); err == nil {
				v.Plate.Amps = &b
			}
		}
	}
	for _, g := range c.Parameters {
		if c.Known.Plate != nil && slices.Contains(own, g.Name) {
			continue // said by the plate
		}
		says := g.Word
		if says == "" {
			says = plate.Say(c.Circuit, g.Name, g.Value)
		}
		v.Given = append(v.Given, GivenView{g.Name, plate.Name(c.Circuit, g.Name), says})
	}
	return v
}

// PlateIn is a motor's plate as typed; all empty takes it back.
type PlateIn struct {
	Power   string `json:"power,omitempty" maxLength:"24" doc:"0.8 kW, 350 W"`
	Voltage string `json:"voltage,omitempty" maxLength:"24"`
	Current string `json:"current,omitempty" maxLength:"24"`
	Speed   string `json:"speed,omitempty" maxLength:"24" doc:"revolutions a minute"`
}

// setPlate keeps a motor's plate, with the parameters that follow from it in place of any that were
// given of the motor.
func setPlate(c *casefile.Case, in *PlateIn) error {
	bad := func(err error) error { return &casefile.Problem{Pointer: "/plate", What: err.Error()} }
	own := []string{}
	for i := range c.Circuit.Stations {
		if s := &c.Circuit.Stations[i]; s.Kind == circuit.Motor {
			own = append(own, plate.Own(s.ID)...)
		}
	}
	var given []casefile.Given
	p := casefile.Plate{Power: strings.TrimSpace(in.Power), Voltage: strings.TrimSpace(in.Voltage),
		Current: strings.TrimSpace(in.Current), Speed: strings.TrimSpace(in.Speed)}
	if p != (casefile.Plate{}) {
		f, err := circuit.Family(c.CircuitID)
		if err != nil { // the workshop's own: as it is
			f = c.Circuit
		}
		usual := f.Clone()
		usual.ScaleTo(c.NominalVoltage)
		m, err := plate.ParseMotor(p.Power, p.Voltage, p.Current, p.Speed)
		if err == nil {
			given, _, err = m.Parameters(usual)
		}
		if err != nil {
			return bad(err)
		}
	}
	c.Parameters = slices.DeleteFunc(c.Parameters, func(g casefile.Given) bool { return slices.Contains(own, g.Name) })
	c.Parameters = append(c.Parameters, given...)
	c.Known.Plate = &p
	if p == (casefile.Plate{}) {
		c.Known.Plate = nil
	}
	return nil
}

// setParameter puts one value into a case, replacing what stood there.
func setParameter(c *casefile.Case, p *ParameterIn) error {
	station, name, _ := strings.Cut(p.Name, ".")
	drop := func(names ...string) {
		c.Parameters = slices.DeleteFunc(c.Parameters, func(g casefile.Given) bool { return slices.Contains(names, g.Name) })
	}
	bad := func(format string, a ...any) error {
		return &casefile.Problem{Pointer: "/parameter", What: fmt.Sprintf(format, a...)}
	}
	if p.Size != "" {
		area, err := conductor.ParseSize(p.Size)
		if err != nil {
			return bad("%v", err)
		}
		if p.Length <= 0 {
			return bad("how long is the cable? Give its length in metres")
		}
		drop(station+".resistance", station+".area_mm2", station+".length_m")
		c.Parameters = append(c.Parameters,
			casefile.Given{Name: station + ".area_mm2", Value: area, Percent: p.Percent},
			casefile.Given{Name: station + ".length_m", Value: p.Length})
		return nil
	}
	if strings.TrimSpace(p.Value) == "" {
		drop(p.Name, station+".area_mm2", station+".length_m")
		return nil
	}
	g := casefile.Given{Name: p.Name, Percent: p.Percent}
	if _, ok := c.Circuit.Variants[p.Name]; ok || name == "load_law" || name == "excitation" {
		g.Word = strings.TrimSpace(p.Value)
	} else {
		v, err := plate.Parse(c.Circuit, p.Name, p.Value)
		if err != nil {
			return bad("%v", err)
		}
		g.Value = v
	}
	drop(p.Name, station+".area_mm2", station+".length_m")
	c.Parameters = append(c.Parameters, g)
	return nil
}

func (s *Server) codesFor(ctx context.Context, controller, kind, circuitID string) (blink.Choice, error) {
	if controller == "" {
		return blink.Choice{}, nil
	}
	ts, err := s.st.CodeTables(ctx)
	if err != nil {
		return blink.Choice{}, err
	}
	ts = slices.DeleteFunc(ts, func(t blink.Table) bool { return t.Circuit != circuitID })
	return blink.Choose(ts, controller, kind), nil
}

// Edit is a change of a circuit in the editor. Nothing is stored.
type Edit struct {
	Op    string  `json:"op" enum:"copy,insert,remove,check"`
	ID    string  `json:"id,omitempty" maxLength:"64"`
	Label string  `json:"label,omitempty" maxLength:"120"`
	After string  `json:"after,omitempty" maxLength:"64"`
	Kind  string  `json:"kind,omitempty" maxLength:"20"`
	Ohms  float64 `json:"ohms,omitempty" minimum:"0"`
	State string  `json:"state,omitempty" maxLength:"64"`
}

// Edited is a circuit after a change, with its current path.
type Edited struct {
	Circuit *circuit.Circuit  `json:"circuit"`
	Picture *diagnose.Picture `json:"picture"`
}

func (s *Server) workshopRoutes(get, post opFunc) {
	put := func(id, p, sum string) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodPut, Path: p, Summary: sum, DefaultStatus: 200, MaxBodyBytes: 2 << 20}
	}
	huma.Register(s.api, allow(people.See,
		post("intake", "/api/intake", "Which circuit a complaint points to, and what to ask")), func(ctx context.Context, in *struct {
		Body struct {
			Text    string            `json:"text" maxLength:"2000"`
			Answers map[string]string `json:"answers,omitempty"`
		}
	}) (*out[intake.Advice], error) {
		return body(intake.Suggest(in.Body.Text, in.Body.Answers)), nil
	})
	huma.Register(s.api, get("settings", "/api/jobs/{id}/settings",
		"What can be given of a job's vehicle, in the words of plates and manuals"),
		func(ctx context.Context, in *JobIn) (*out[SettingsView], error) {
			j, err := s.load(ctx, in.ID)
			if err != nil {
				return nil, err
			}
			return body(settingsOf(j.Case)), nil
		})
	s.scheduleRoutes(get, put)
	s.circuitRoutes(get, put, post)
	s.codeRoutes(get, put, post)
	s.profileRoutes(put)
	s.photoRoutes(get, put)
	s.stripRoutes(get, put, post)
	s.kitRoutes(get)
}

// invalid turns what is wrong with a circuit into one sentence.
func invalid(err error) error {
	var inv *circuit.Invalid
	if errors.As(err, &inv) {
		return huma.Error422UnprocessableEntity(phrase.Sentence(inv.What), &huma.ErrorDetail{Message: inv.What, Location: inv.Pointer})
	}
	return huma.Error422UnprocessableEntity(phrase.Sentence(err.Error()))
}

func (s *Server) circuitRoutes(get, put, post opFunc) {
	edit := post("edit_circuit", "/api/circuits/edit", "Change a circuit and see its path; stores nothing")
	edit.SkipValidateBody = true
	huma.Register(s.api, edit, func(ctx context.Context, in *struct {
		Body struct {
			Circuit *circuit.Circuit `json:"circuit"`
			Edit    Edit             `json:"edit"`
		}
	}) (*out[Edited], error) {
		c, e := in.Body.Circuit, in.Body.Edit
		if c == nil {
			return nil, huma.Error422UnprocessableEntity("There is no circuit to change.")
		}
		err := c.Solvable()
		if err == nil || e.Op == "copy" {
			switch e.Op {
			case "copy":
				c, err = c.Copy(e.ID, e.Label)
			case "insert":
				err = c.Insert(e.After, circuit.Kind(e.Kind), e.ID, e.Label, e.Ohms)
			case "remove":
				err = c.Remove(e.ID)
			}
		}
		if err != nil {
			return nil, invalid(err)
		}
		a, err := s.ws.Advisers.Get(c)
		if err != nil {
			return nil, invalid(err)
		}
		op, err := a.Weigh(ctx, &diagnose.Job{Brief: true})
		if err != nil {
			return nil, s.fail(ctx, "edit", err)
		}
		state := e.State
		if c.State(state) == nil {
			state = c.RunState
		}
		pic, err := op.Picture(state)
		if err != nil {
			return nil, s.fail(ctx, "edit", err)
		}
		return body(Edited{c, pic}), nil
	})
	save := put("save_circuit", "/api/circuits", "Keep one of the workshop's own circuits, from the editor or from a file")
	save.SkipValidateBody = true
	huma.Register(s.api, save, func(ctx context.Context, in *struct {
		IfMatch string `header:"If-Match" maxLength:"80" doc:"the ETag that was read: a change by somebody else since is not overwritten"`
		RawBody []byte `contentType:"application/json"`
	}) (*tagged[*circuit.Circuit], error) {
		u := caller(ctx)
		c, err := circuit.Read(bytes.NewReader(in.RawBody))
		if err == nil {
			err = c.Solvable()
		}
		if err != nil {
			return nil, invalid(err)
		}
		if _, err := circuit.Family(c.ID); err == nil {
			return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("%q is the id of a circuit that ships with "+
				"Corriente: give yours another.", c.ID))
		}
		if err := s.st.PutCircuit(ctx, c, strings.Trim(in.IfMatch, `"`), u.ID); err != nil {
			return nil, s.fail(ctx, "circuit", err)
		}
		return s.taggedCircuit(ctx, c)
	})
	huma.Register(s.api, get("export_circuit", "/api/circuits/{id}", "A circuit as a file"), func(ctx context.Context, in *struct {
		ID string `path:"id" maxLength:"64"`
	}) (*tagged[*circuit.Circuit], error) {
		c, _, err := s.st.Circuit(ctx, in.ID)
		if err != nil {
			return nil, s.fail(ctx, "circuit", err)
		}
		return s.taggedCircuit(ctx, c)
	})
}

// tagged is an answer with its revision (RFC 9110, 8.8.3).
type tagged[T any] struct {
	ETag string `header:"ETag"`
	Body T
}

func (s *Server) taggedCircuit(ctx context.Context, c *circuit.Circuit) (*tagged[*circuit.Circuit], error) {
	r, err := store.CircuitRevision(c)
	if err != nil {
		return nil, s.fail(ctx, "circuit", err)
	}
	return &tagged[*circuit.Circuit]{`"` + r + `"`, c}, nil
}

// TableOf names a table of blink codes.
type TableOf struct {
	Controller string `query:"controller" required:"true" minLength:"1" maxLength:"120"`
	Machine    string `query:"machine" maxLength:"120" doc:"type of machine; empty: the controller's own"`
	Circuit    string `query:"circuit" required:"true" maxLength:"64"`
}

func (s *Server) codeRoutes(get, put, post opFunc) {
	huma.Register(s.api, get("codes", "/api/codes", "Tables of blink codes"),
		func(ctx context.Context, _ *struct{}) (*out[[]blink.Table], error) {
			ts, err := s.st.CodeTables(ctx)
			if err != nil {
				return nil, s.fail(ctx, "codes", err)
			}
			return body(ts), nil
		})
	imp := put("put_codes", "/api/codes", "A table of blink codes from CSV: code, meaning, faults")
	imp.SkipValidateBody = true
	huma.Register(s.api, imp, func(ctx context.Context, in *struct {
		TableOf
		RawBody []byte `contentType:"text/csv"`
	}) (*out[[]blink.Table], error) {
		u := caller(ctx)
		c, _, err := s.st.Circuit(ctx, in.Circuit)
		if err != nil {
			return nil, s.fail(ctx, "codes", err)
		}
		es, err := blink.ReadCSV(bytes.NewReader(in.RawBody), c)
		if err != nil {
			return nil, huma.Error422UnprocessableEntity("This table is refused, nothing was stored: " + err.Error() + ".")
		}
		t := blink.Table{Controller: strings.TrimSpace(in.Controller), Machine: strings.TrimSpace(in.Machine), Circuit: c.ID, Entries: es}
		if err := s.st.PutCodeTable(ctx, t, &u.ID); err != nil {
			return nil, s.fail(ctx, "codes", err)
		}
		ts, err := s.st.CodeTables(ctx)
		if err != nil {
			return nil, s.fail(ctx, "codes", err)
		}
		return body(ts), nil
	})
	huma.Register(s.api, get("export_codes", "/api/codes/csv", "A table of blink codes as CSV"),
		s.exportCodes)
	huma.Register(s.api, allow(people.See,
		post("count_blinks", "/api/blink", "The code of a lamp that was tapped along with")), s.countBlinks)
}

// exportCodes answers GET /api/codes/csv: a table of blink codes as CSV.
func (s *Server) exportCodes(ctx context.Context, in *TableOf) (*caseOut, error) {
	ts, err := s.st.CodeTables(ctx)
	if err != nil {
		return nil, s.fail(ctx, "codes", err)
	}
	for _, t := range ts {
		if t.Controller == in.Controller && t.Machine == in.Machine && t.Circuit == in.Circuit {
			c, _, err := s.st.Circuit(ctx, t.Circuit)
			if err != nil {
				return nil, s.fail(ctx, "codes", err)
			}
			var b bytes.Buffer
			if err := blink.WriteCSV(&b, c, t.Entries); err != nil {
				return nil, s.fail(ctx, "codes", err)
			}
			return &caseOut{`attachment; filename="codes.csv"`, "text/csv; charset=utf-8", b.Bytes()}, nil
		}
	}
	return nil, huma.Error404NotFound("There is no such table.")
}

// countBlinksIn is the request of countBlinks.
type countBlinksIn struct {
	Body struct {
		Taps []float64 `json:"taps" maxItems:"400" doc:"seconds, rising"`
		Now  float64   `json:"now" doc:"seconds on the same clock"`
	}
}

// countBlinks answers POST /api/blink: the code of a lamp that was tapped along with.
func (s *Server) countBlinks(ctx context.Context, in *countBlinksIn) (*out[blink.Count], error) {
	if !slices.IsSorted(in.Body.Taps) {
		return nil, huma.Error422UnprocessableEntity("The taps do not stand in the order of their times.")
	}
	return body(blink.Group(in.Body.Taps, in.Body.Now)), nil
}

func (s *Server) profileRoutes(put opFunc) {
	huma.Register(s.api, put("mark", "/api/jobs/{id}/marks/{at}",
		"What the wiring diagram says of a node or station, kept for this type of machine"), s.mark)
}

// markIn is the request of mark.
type markIn struct {
	JobIn
	At   string `path:"at" maxLength:"64"`
	Body store.Mark
}

// mark answers PUT /api/jobs/{id}/marks/{at}: what the wiring diagram says of a node or station, kept for this type of machine.
func (s *Server) mark(ctx context.Context, in *markIn) (*out[map[string]store.Mark], error) {
	u := caller(ctx)
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	c := j.Case.Circuit
	if c.Node(in.At) == nil && c.Station(in.At) == nil {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("This circuit has no %q.", in.At))
	}
	m, err := s.st.PutMark(ctx, store.MarkedPoint{Kind: j.Machine.Kind, Circuit: c.ID, At: in.At}, in.Body, u.ID)
	if err != nil {
		return nil, s.fail(ctx, "mark", err)
	}
	return body(m), nil
}
