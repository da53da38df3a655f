package web

import (
	"context"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/json"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"corriente/core/phrase"
	"corriente/internal/backup"
	"corriente/internal/people"
	"corriente/internal/store"
	"corriente/internal/workshop"
)

// Setup says whether the installation still has to be set up.
type Setup struct {
	Needed bool `json:"needed"`
}

// SetupIn is what sets a workshop up.
type SetupIn struct {
	Code     string            `json:"code" maxLength:"40" doc:"printed where the application was started"`
	ID       string            `json:"id" format:"uuid" doc:"of the owner, made by the client"`
	Login    string            `json:"login" maxLength:"200"`
	Name     string            `json:"name" maxLength:"400"`
	Password string            `json:"password" maxLength:"800"`
	Workshop workshop.Settings `json:"workshop"`
}

// houseRoutes are set-up and settings.
func (s *Server) houseRoutes(get, put, post opFunc) {
	huma.Register(s.api, allow(people.Anyone,
		get("setup", "/api/setup", "Whether this installation still has to be set up")),
		func(ctx context.Context, _ *struct{}) (*out[Setup], error) {
			empty, err := s.st.Empty(ctx)
			if err != nil {
				return nil, s.fail(ctx, "setup", err)
			}
			return body(Setup{empty}), nil
		})
	huma.Register(s.api, allow(people.Anyone,
		post("set_up", "/api/setup", "Set a new installation up: the workshop and its owner")), s.postSetUp)
	s.backupRoutes(get, post)
	s.lookRoutes(get, post)
	huma.Register(s.api, get("workshop", "/api/settings/workshop", "The workshop's settings"),
		func(ctx context.Context, _ *struct{}) (*out[workshop.Settings], error) {
			x, err := s.ws.Settings(ctx)
			if err != nil {
				return nil, s.fail(ctx, "settings", err)
			}
			return body(x), nil
		})
	huma.Register(s.api, allow(people.Manage,
		put("put_workshop", "/api/settings/workshop", "Change the workshop's settings")),
		s.putWorkshop)
}

// postSetUpIn is the request of postSetUp.
type postSetUpIn struct {
	SigningIn
	Body SetupIn
}

// postSetUp answers POST /api/setup: set a new installation up: the workshop and its owner.
func (s *Server) postSetUp(ctx context.Context, in *postSetUpIn) (*out[Me], error) {
	u, err := s.setUp(ctx, &in.Body)
	if err != nil {
		return nil, err
	}
	if err := s.openSession(ctx, u, in.Agent); err != nil {
		return nil, err
	}
	return s.me(ctx, u.ID, in.Device)
}

// putWorkshopIn is the request of putWorkshop.
type putWorkshopIn struct{ Body workshop.Settings }

// putWorkshop answers PUT /api/settings/workshop: change the workshop's settings.
func (s *Server) putWorkshop(ctx context.Context, in *putWorkshopIn) (*out[workshop.Settings], error) {
	if in.Body.OwnersCode && !caller(ctx).Coded {
		return nil, huma.Error422UnprocessableEntity("Set up your own code first, under your name: without it " +
			"you would shut yourself out of this page.")
	}
	x, err := s.ws.PutSettings(ctx, in.Body, caller(ctx).Name)
	if err != nil {
		return nil, s.shop(ctx, "settings", err)
	}
	return body(x), nil
}

// knowsCode lets through who read the code where the application was started.
func (s *Server) knowsCode(ctx context.Context, code string) error {
	given := sha256.Sum256([]byte(strings.ToUpper(strings.Join(strings.Fields(code), ""))))
	want := sha256.Sum256([]byte(s.setupCode))
	good, err := s.counted(ctx, "set-up code", func() tried {
		return triedIs(s.setupCode != "" && subtle.ConstantTimeCompare(given[:], want[:]) == 1)
	})
	if err != nil {
		return err
	}
	if good != right {
		return huma.Error403Forbidden("This is not the code: it stands where the application was started, and changes at every start.")
	}
	return nil
}

// restorePath takes a whole backup, as large as it is.
const restorePath = "/api/setup/restore"

// restoring is how long putting a backup back may take.
const restoring = time.Hour

// putBack puts a backup in place of an empty installation's data: another workshop's machine, or this one's before.
func (s *Server) putBack(w http.ResponseWriter, r *http.Request) {
	refuse := func(err error) {
		var se huma.StatusError
		if !errors.As(err, &se) {
			se = huma.Error500InternalServerError("The backup could not be put back: nothing was changed." + reference(r.Context()))
			s.log.Error("restore", "err", err)
		}
		writeProblem(w, se.GetStatus(), se.Error())
	}
	ctx, cancel := context.WithTimeout(context.WithValue(r.Context(), addrKey{}, r.RemoteAddr), restoring)
	defer cancel()
	if err := s.knowsCode(ctx, r.Header.Get("Setup-Code")); err != nil {
		refuse(err)
		return
	}
	empty, err := s.st.Empty(ctx)
	switch {
	case err != nil:
		refuse(s.fail(ctx, "restore", err))
		return
	case !empty:
		refuse(huma.Error409Conflict("This workshop is set up already: a backup is put back here by corriente " +
			"restore, on the machine itself."))
		return
	case s.restore == nil:
		refuse(huma.Error422UnprocessableEntity("Here a backup is put back by corriente restore, on the machine itself."))
		return
	}
	rc := http.NewResponseController(w)
	_ = rc.SetReadDeadline(time.Now().Add(restoring))
	_ = rc.SetWriteDeadline(time.Now().Add(restoring))
	sum, err := s.restore(ctx, r.Body)
	var no *backup.Refused
	if errors.As(err, &no) {
		err = huma.Error422UnprocessableEntity("This file was not put back, and nothing was changed: " +
			strings.TrimSuffix(no.Why, ".") + ".")
	}
	if err != nil {
		refuse(err)
		return
	}
	s.ws.Advisers.Forget()
	writeBody(w, map[string]int{"jobs": sum.Jobs, "readings": sum.Readings, "people": sum.People})
}

// setUp makes the owner of an empty installation.
func (s *Server) setUp(ctx context.Context, in *SetupIn) (*store.User, error) {
	if err := s.knowsCode(ctx, in.Code); err != nil {
		return nil, err
	}
	id, err := uuid.Parse(in.ID)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The owner needs an id of their own.")
	}
	login, err1 := people.CheckLogin(in.Login)
	name, err2 := people.CheckName(in.Name)
	for _, err := range []error{err2, err1, people.CheckPassword(in.Password, login, name, in.Workshop.Name)} {
		if err != nil {
			return nil, huma.Error422UnprocessableEntity(phrase.Sentence(err.Error()))
		}
	}
	if err := in.Workshop.Check(); err != nil {
		return nil, s.shop(ctx, "setup", err)
	}
	hash, err := s.hashOf(ctx, in.Password)
	if err != nil {
		return nil, err
	}
	set, err := json.Marshal(in.Workshop)
	if err != nil {
		return nil, s.fail(ctx, "setup", err)
	}
	u := &store.User{ID: id, Login: login, Name: name, Role: people.Owner, Hash: hash}
	err = s.st.FirstOwner(ctx, *u, string(set))
	if errors.Is(err, store.ErrConflict) {
		was, err := s.st.UserByID(ctx, id) // sent again
		if err == nil && was.Login == login {
			return &was, nil
		}
		return nil, huma.Error409Conflict("This workshop is set up already: sign in.")
	}
	if err != nil {
		return nil, s.fail(ctx, "setup", err)
	}
	return u, nil
}
