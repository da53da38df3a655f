package web

import (
	"context"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"corriente/core/phrase"
	"corriente/internal/password"
	"corriente/internal/people"
	"corriente/internal/store"
)

// PersonView is somebody who works here, as the owner sees them.
type PersonView struct {
	ID        string     `json:"id"`
	Login     string     `json:"login"`
	Name      string     `json:"name"`
	Role      string     `json:"role" enum:"owner,technician,trainee,counter"`
	Suspended bool       `json:"suspended"`
	Ready     bool       `json:"ready" doc:"has chosen a password"`
	SeenAt    *time.Time `json:"seen_at,omitempty"`
}

// RoleView is a role in words.
type RoleView struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Says string `json:"says"`
}

// PeopleView is the owner's page.
type PeopleView struct {
	People  []PersonView `json:"people"`
	Roles   []RoleView   `json:"roles"`
	Devices []DeviceView `json:"devices"`
}

// DeviceView is a shared device.
type DeviceView struct {
	ID    string    `json:"id"`
	Name  string    `json:"name"`
	Since time.Time `json:"since"`
	By    string    `json:"by"`
}

// Invitation is a link by which a person chooses a password, once.
type Invitation struct {
	Path    string    `json:"path" doc:"address within this application"`
	Expires time.Time `json:"expires"`
}

// ActView is one line of the record of who did what.
type ActView struct {
	ID   string    `json:"id"`
	At   time.Time `json:"at"`
	By   string    `json:"by"`
	Kind string    `json:"kind"`
	Says string    `json:"says"`
}

// invitationHolds is how long a link can be used.
const invitationHolds = 3 * 24 * time.Hour

func (s *Server) peopleRoutes(get, put, post opFunc) {
	manage := func(op huma.Operation) huma.Operation { return allow(people.Manage, op) }
	huma.Register(s.api, manage(get("people", "/api/people", "See who works here")),
		func(ctx context.Context, _ *struct{}) (*out[PeopleView], error) {
			return s.everybody(ctx)
		})
	huma.Register(s.api, manage(post("add_person", "/api/people", "Add a person")), s.addPerson)
	huma.Register(s.api, manage(put("change_person", "/api/people/{id}",
		"Change a person's name or role, suspend or let in again")), s.changePerson)
	huma.Register(s.api, manage(post("invite", "/api/people/{id}/invitation",
		"Make a link by which a person chooses a password; an older link ends")),
		func(ctx context.Context, in *JobIn) (*out[Invitation], error) {
			id := in.ID
			return s.invite(ctx, id)
		})
	huma.Register(s.api, manage(get("record", "/api/record",
		"Read who did what to people, settings and signed papers")), s.record)
	s.invitationRoutes(post)
	s.deviceRoutes(get, post)
}

// addPersonIn is the request of addPerson.
type addPersonIn struct {
	Body struct {
		ID    string `json:"id" format:"uuid" doc:"made by the client; sending it again changes nothing"`
		Login string `json:"login" maxLength:"200"`
		Name  string `json:"name" maxLength:"400"`
		Role  string `json:"role" enum:"owner,technician,trainee,counter"`
	}
}

// addPerson answers POST /api/people: add a person.
func (s *Server) addPerson(ctx context.Context, in *addPersonIn) (*out[PeopleView], error) {
	b := in.Body
	id, err := uuid.Parse(b.ID)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("A person needs an id of their own.")
	}
	login, err1 := people.CheckLogin(b.Login)
	name, err2 := people.CheckName(b.Name)
	for _, err := range []error{err2, err1} {
		if err != nil {
			return nil, huma.Error422UnprocessableEntity(phrase.Sentence(err.Error()))
		}
	}
	if err := s.st.AddUser(ctx, store.User{ID: id, Login: login, Name: name, Role: b.Role},
		s.act(ctx, "people", "Added "+name+" as "+people.RoleOf(b.Role).Name+".")); err != nil {
		return nil, s.fail(ctx, "people", err)
	}
	return s.everybody(ctx)
}

// changePersonIn is the request of changePerson.
type changePersonIn struct {
	JobIn
	Body struct {
		Name      string `json:"name" maxLength:"400"`
		Role      string `json:"role" enum:"owner,technician,trainee,counter"`
		Suspended bool   `json:"suspended"`
	}
}

// changePerson answers PUT /api/people/{id}: change a person's name or role, suspend or let in again.
func (s *Server) changePerson(ctx context.Context, in *changePersonIn) (*out[PeopleView], error) {
	id, role, suspended := in.ID, in.Body.Role, in.Body.Suspended
	was, err := s.st.UserByID(ctx, id)
	if err != nil {
		return nil, s.fail(ctx, "people", err)
	}
	name, err := people.CheckName(in.Body.Name)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity(phrase.Sentence(err.Error()))
	}
	if name != was.Name || role != was.Role {
		says := "Made " + name + " " + people.RoleOf(role).Name + "."
		if name != was.Name {
			says = was.Name + " is called " + name + ", " + people.RoleOf(role).Name + "."
		}
		if err := s.st.ChangeUser(ctx, store.User{ID: id, Name: name, Role: role}, s.act(ctx, "people", says)); err != nil {
			return nil, s.fail(ctx, "people", err)
		}
	}
	if suspended != was.Suspended {
		says := "Let " + name + " in again."
		if suspended {
			says = "Suspended " + name + "."
		}
		if err := s.st.Suspend(ctx, id, suspended, s.act(ctx, "people", says)); err != nil {
			return nil, s.fail(ctx, "people", err)
		}
		s.someoneLeft()
	}
	return s.everybody(ctx)
}

// recordIn is the request of record.
type recordIn struct {
	Before time.Time `query:"before"`
}

// record answers GET /api/record: read who did what to people, settings and signed papers.
func (s *Server) record(ctx context.Context, in *recordIn) (*out[[]ActView], error) {
	if in.Before.IsZero() {
		in.Before = time.Now().Add(time.Minute)
	}
	xs, err := s.st.Acts(ctx, in.Before.UTC(), 100)
	if err != nil {
		return nil, s.fail(ctx, "record", err)
	}
	v := []ActView{}
	for _, a := range xs {
		v = append(v, ActView{a.ID.String(), a.At, a.By, a.Kind, a.Says})
	}
	return body(v), nil
}

// act is a line of the record, by whoever sent a request.
func (s *Server) act(ctx context.Context, kind, says string) store.Act {
	return store.Act{By: caller(ctx).Name, Kind: kind, Says: says}
}

func (s *Server) everybody(ctx context.Context) (*out[PeopleView], error) {
	us, err := s.st.Users(ctx)
	if err != nil {
		return nil, s.fail(ctx, "people", err)
	}
	v := PeopleView{People: []PersonView{}, Devices: []DeviceView{}}
	for _, u := range us {
		v.People = append(v.People, PersonView{u.ID.String(), u.Login, u.Name, u.Role, u.Suspended, u.Hash != "", u.SeenAt})
	}
	for _, r := range people.Roles() {
		v.Roles = append(v.Roles, RoleView{r.ID, r.Name, r.Says})
	}
	ds, err := s.st.Devices(ctx)
	if err != nil {
		return nil, s.fail(ctx, "people", err)
	}
	for _, d := range ds {
		v.Devices = append(v.Devices, DeviceView{d.ID.String(), d.Name, d.AdmittedAt, d.By})
	}
	return body(v), nil
}

func (s *Server) invite(ctx context.Context, id uuid.UUID) (*out[Invitation], error) {
	u, err := s.st.UserByID(ctx, id)
	if err != nil {
		return nil, s.fail(ctx, "people", err)
	}
	if u.Suspended {
		return nil, huma.Error422UnprocessableEntity(u.Name + " is suspended: let them in again first.")
	}
	text, hash, err := people.NewToken()
	if err != nil {
		return nil, s.fail(ctx, "people", err)
	}
	until := time.Now().Add(invitationHolds).UTC().Truncate(time.Second)
	if err := s.st.Invite(ctx, id, hash, until, s.act(ctx, "people", "Made a link for "+u.Name+" to choose a password.")); err != nil {
		return nil, s.fail(ctx, "people", err)
	}
	return body(Invitation{"/join#" + text, until}), nil
}

// invitationRoutes are for whoever holds a link.
// linkIn is the secret half of a one-time link.
type linkIn struct {
	Token string `json:"token" maxLength:"100" doc:"what stands in the link behind #"`
}

func (s *Server) invitationRoutes(post opFunc) {
	huma.Register(s.api, allow(people.Anyone, post("invited", "/api/invitation", "Whom a link is for")),
		s.invited)
	huma.Register(s.api, allow(people.Anyone,
		post("accept", "/api/invitation/accept", "Choose a password by a link, and sign in")), s.accept)
}

// invitedIn is the request of invited.
type invitedIn struct{ Body linkIn }

// invited answers POST /api/invitation: whom a link is for.
func (s *Server) invited(ctx context.Context, in *invitedIn) (*out[struct {
	Name  string `json:"name"`
	Login string `json:"login"`
}], error) {
	u, err := s.st.Invited(ctx, people.HashToken(in.Body.Token))
	if err != nil {
		return nil, s.fail(ctx, "invitation", err)
	}
	return body(struct {
		Name  string `json:"name"`
		Login string `json:"login"`
	}{u.Name, u.Login}), nil
}

// acceptIn is the request of accept.
type acceptIn struct {
	SigningIn
	Body struct {
		Token    string `json:"token" maxLength:"100" doc:"what stands in the link behind #"`
		Password string `json:"password" maxLength:"800"`
	}
}

// accept answers POST /api/invitation/accept: choose a password by a link, and sign in.
func (s *Server) accept(ctx context.Context, in *acceptIn) (*out[Me], error) {
	hash := people.HashToken(in.Body.Token)
	u, err := s.st.Invited(ctx, hash)
	if err != nil {
		return nil, s.fail(ctx, "invitation", err)
	}
	pw, err := s.hashOf(ctx, in.Body.Password, u.Login, u.Name)
	if err != nil {
		return nil, err
	}
	if u, err = s.st.Accept(ctx, hash, pw); err != nil {
		return nil, s.fail(ctx, "invitation", err)
	}
	s.someoneLeft()
	if err := s.openSession(ctx, &u, in.Agent); err != nil {
		return nil, err
	}
	return s.me(ctx, u.ID, in.Device)
}

// SharedView is whom a shared device offers.
type SharedView struct {
	Device string         `json:"device"`
	People []SharedPerson `json:"people" doc:"who has a PIN"`
}

// SharedPerson is one of them.
type SharedPerson struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// withCookie is an answer that sets a cookie.
type withCookie[T any] struct {
	SetCookie http.Cookie `header:"Set-Cookie"`
	Body      T
}

// deviceRoutes are for a tablet that several people share.
func (s *Server) deviceRoutes(get, post opFunc) {
	huma.Register(s.api, allow(people.Manage,
		post("admit_device", "/api/devices", "Admit this device to be shared by PIN")), s.admitDevice)
	huma.Register(s.api, allow(people.Manage,
		huma.Operation{OperationID: "drop_device", Method: http.MethodDelete, Path: "/api/devices/{id}",
			Summary: "Take a shared device's admission back", DefaultStatus: 200}),
		func(ctx context.Context, in *JobIn) (*out[PeopleView], error) {
			id := in.ID
			if err := s.st.DropDevice(ctx, id, s.act(ctx, "people", "Took a shared device's admission back.")); err != nil {
				return nil, s.fail(ctx, "device", err)
			}
			return s.everybody(ctx)
		})
	huma.Register(s.api, allow(people.Anyone, get("shift", "/api/shift", "Whom this shared device offers")),
		s.shift)
	huma.Register(s.api, allow(people.Anyone,
		post("sign_in_by_pin", "/api/shift", "Sign in on a shared device by PIN")), s.signInByPin)
}

// admitDeviceIn is the request of admitDevice.
type admitDeviceIn struct {
	Body struct {
		ID   string `json:"id" format:"uuid"`
		Name string `json:"name" maxLength:"200"`
	}
}

// admitDevice answers POST /api/devices: admit this device to be shared by PIN.
func (s *Server) admitDevice(ctx context.Context, in *admitDeviceIn) (*withCookie[PeopleView], error) {
	id, err := uuid.Parse(in.Body.ID)
	name := strings.Join(strings.Fields(in.Body.Name), " ")
	if err != nil || name == "" || len([]rune(name)) > people.MaxName {
		return nil, huma.Error422UnprocessableEntity("Give the device a name of at most 80 letters, such as tablet at the lift.")
	}
	text, hash, err := people.NewToken()
	if err != nil {
		return nil, s.fail(ctx, "device", err)
	}
	if err := s.st.AdmitDevice(ctx, store.NewDevice{ID: id, Hash: hash, Name: name, By: caller(ctx).ID},
		s.act(ctx, "people", "Admitted the shared device "+name+".")); err != nil {
		return nil, s.fail(ctx, "device", err)
	}
	v, err := s.everybody(ctx)
	if err != nil {
		return nil, err
	}
	return &withCookie[PeopleView]{http.Cookie{Name: deviceCookie, Value: text, Path: "/", HttpOnly: true,
		Secure: s.sm.Cookie.Secure, SameSite: http.SameSiteStrictMode,
		Expires: time.Now().AddDate(2, 0, 0)}, v.Body}, nil
}

// shift answers GET /api/shift: whom this shared device offers.
func (s *Server) shift(ctx context.Context, in *SigningIn) (*out[SharedView], error) {
	v := SharedView{People: []SharedPerson{}}
	d, err := s.deviceOf(ctx, in.Device)
	if errors.Is(err, store.ErrNotFound) {
		return body(v), nil
	}
	if err != nil {
		return nil, s.fail(ctx, "device", err)
	}
	v.Device = d.Name
	us, err := s.st.Users(ctx)
	if err != nil {
		return nil, s.fail(ctx, "device", err)
	}
	for _, u := range us {
		if u.PIN != "" && !u.Suspended {
			v.People = append(v.People, SharedPerson{u.ID.String(), u.Name})
		}
	}
	return body(v), nil
}

// signInByPinIn is the request of signInByPin.
type signInByPinIn struct {
	SigningIn
	Body struct {
		Person string `json:"person" format:"uuid"`
		PIN    string `json:"pin" maxLength:"20"`
	}
}

// signInByPin answers POST /api/shift: sign in on a shared device by PIN.
func (s *Server) signInByPin(ctx context.Context, in *signInByPinIn) (*out[Me], error) {
	u, err := s.byPIN(ctx, in.Device, in.Body.Person, in.Body.PIN)
	if err != nil {
		return nil, err
	}
	if err := s.openSession(ctx, &u, in.Agent); err != nil {
		return nil, err
	}
	return s.me(ctx, u.ID, in.Device)
}

// byPIN finds who holds a PIN, on a device that is admitted.
func (s *Server) byPIN(ctx context.Context, device, person, pin string) (store.User, error) {
	var u store.User
	if _, err := s.deviceOf(ctx, device); err != nil {
		if errors.Is(err, store.ErrNotFound) {
			return u, huma.Error403Forbidden("This device is not admitted: sign in with name and password.")
		}
		return u, s.fail(ctx, "device", err)
	}
	id, err := uuid.Parse(person)
	if err == nil {
		u, err = s.st.UserByID(ctx, id)
	}
	if err != nil && !errors.Is(err, store.ErrNotFound) && u.ID != uuid.Nil {
		return u, s.fail(ctx, "device", err)
	}
	good, err := s.counted(ctx, "pin "+person, func() tried { return triedIs(password.Check(pin, u.PIN) && u.PIN != "") })
	if err != nil {
		return u, err
	}
	if good != right {
		return u, huma.Error401Unauthorized("This is not the PIN: try again, or sign in with name and password.")
	}
	if u.TOTP != "" { // four digits would go round it
		return u, huma.Error403Forbidden("You asked for a code at sign-in: sign in with name and password.")
	}
	return u, nil
}
