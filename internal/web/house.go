package web

import (
	"context"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/json"
	"errors"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

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
	huma.Register(s.api, allow(people.Anyone, get("setup", "/api/setup", "Whether this installation still has to be set up")), func(ctx context.Context, _ *struct{}) (*out[Setup], error) {
		empty, err := s.st.Empty(ctx)
		if err != nil {
			return nil, s.fail(ctx, "setup", err)
		}
		return body(Setup{empty}), nil
	})
	huma.Register(s.api, allow(people.Anyone, post("set_up", "/api/setup", "Set a new installation up: the workshop and its owner")), func(ctx context.Context, in *struct {
		SigningIn
		Body SetupIn
	}) (*out[Me], error) {
		u, err := s.setUp(ctx, &in.Body)
		if err != nil {
			return nil, err
		}
		if err := s.openSession(ctx, u, in.Agent); err != nil {
			return nil, err
		}
		return s.me(ctx, u.ID, in.Device)
	})
	s.backupRoutes(get, post)
	s.lookRoutes(get, post)
	huma.Register(s.api, get("workshop", "/api/settings/workshop", "The workshop's settings"), func(ctx context.Context, _ *struct{}) (*out[workshop.Settings], error) {
		x, err := s.ws.Settings(ctx)
		if err != nil {
			return nil, s.fail(ctx, "settings", err)
		}
		return body(x), nil
	})
	huma.Register(s.api, allow(people.Manage, put("put_workshop", "/api/settings/workshop", "Change the workshop's settings")), func(ctx context.Context, in *struct{ Body workshop.Settings }) (*out[workshop.Settings], error) {
		x, err := s.ws.PutSettings(ctx, in.Body, caller(ctx).Name)
		if err != nil {
			return nil, s.shop(ctx, "settings", err)
		}
		return body(x), nil
	})
}

// setUp makes the owner of an empty installation.
func (s *Server) setUp(ctx context.Context, in *SetupIn) (*store.User, error) {
	given := sha256.Sum256([]byte(strings.ToUpper(strings.Join(strings.Fields(in.Code), ""))))
	want := sha256.Sum256([]byte(s.setupCode))
	good, err := s.counted(ctx, "set-up code", func() bool {
		return s.setupCode != "" && subtle.ConstantTimeCompare(given[:], want[:]) == 1
	})
	if err != nil {
		return nil, err
	}
	if !good {
		return nil, huma.Error403Forbidden("This is not the code: it stands where the application was started, and changes at every start.")
	}
	id, err := uuid.Parse(in.ID)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The owner needs an id of their own.")
	}
	login, err1 := people.CheckLogin(in.Login)
	name, err2 := people.CheckName(in.Name)
	for _, err := range []error{err2, err1, people.CheckPassword(in.Password, login, name, in.Workshop.Name)} {
		if err != nil {
			return nil, huma.Error422UnprocessableEntity(sentence(err.Error()))
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
