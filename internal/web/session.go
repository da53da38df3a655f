package web

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"corriente/core/phrase"
	"corriente/internal/password"
	"corriente/internal/people"
	"corriente/internal/store"
	"corriente/internal/workshop"
)

// Sign-ins that may fail within ten minutes, by one login and from one address. A workshop's phones may share an
// address, so it has room for several people who mistype.
const (
	attemptsByLogin   = 8
	attemptsByAddress = 40
)

// Me is who is signed in, and what the interface needs to know from the start.
type Me struct {
	ID           string            `json:"id"`
	Login        string            `json:"login"`
	Name         string            `json:"name"`
	Role         string            `json:"role" enum:"owner,technician,trainee,counter"`
	Rights       []people.Right    `json:"rights" doc:"see, work, manage"`
	HasPIN       bool              `json:"has_pin"`
	SecondFactor bool              `json:"second_factor" doc:"a code from the phone is asked for at sign-in"`
	Device       string            `json:"device,omitempty" doc:"name of the shared device this is"`
	Preferences  Preferences       `json:"preferences"`
	Workshop     workshop.Settings `json:"workshop"`
}

// Preferences are how a person likes the interface.
type Preferences struct {
	Dark     bool              `json:"dark,omitempty"`
	LeftHand bool              `json:"left_hand,omitempty" doc:"the keypad stands on the left"`
	Text     string            `json:"text,omitempty" enum:"normal,large,larger"`
	Meters   map[string]string `json:"meters,omitempty" doc:"the meter this person reads with, by what is measured; at most sixteen"`
}

// Place is one place where a person is signed in.
type Place struct {
	ID     string    `json:"id"`
	Device string    `json:"device"`
	Since  time.Time `json:"since"`
	SeenAt time.Time `json:"seen_at"`
	Here   bool      `json:"here"`
}

// deviceCookie marks a shared device.
const deviceCookie = "corriente-device"

type addrKey struct{}

// SigningIn is what every sign-in is sent with.
type SigningIn struct {
	Agent  string `header:"User-Agent"`
	Device string `cookie:"corriente-device"`
}

func (s *Server) sessionRoutes(get, post opFunc) {
	s.api.UseMiddleware(func(ctx huma.Context, next func(huma.Context)) {
		next(huma.WithValue(ctx, addrKey{}, ctx.RemoteAddr()))
	})
	huma.Register(s.api, get("me", "/api/session", "Who is signed in"), func(ctx context.Context, in *SigningIn) (*out[Me], error) {
		return s.me(ctx, caller(ctx).ID, in.Device)
	})
	huma.Register(s.api, allow(people.Anyone, post("sign_in", "/api/session", "Sign in")), s.postSignIn)
	huma.Register(s.api, allow(people.Anyone,
		huma.Operation{OperationID: "sign_out", Method: http.MethodDelete, Path: "/api/session", Summary: "Sign out", DefaultStatus: 204}),
		s.signOut)
	s.ownRoutes(get)
	s.factorRoutes()
}

// postSignInIn is the request of postSignIn.
type postSignInIn struct {
	SigningIn
	Body struct {
		Login    string `json:"login" minLength:"1" maxLength:"64"`
		Password string `json:"password" minLength:"1" maxLength:"200"`
		Code     string `json:"code,omitempty" maxLength:"40" doc:"of the second factor, where the person has one; asked for with 428"`
	}
}

// postSignIn answers POST /api/session: sign in.
func (s *Server) postSignIn(ctx context.Context, in *postSignInIn) (*out[Me], error) {
	u, err := s.signIn(ctx, in.Body.Login, in.Body.Password, in.Body.Code, in.Agent)
	if err != nil {
		return nil, err
	}
	return s.me(ctx, u, in.Device)
}

// signOut answers DELETE /api/session: sign out.
func (s *Server) signOut(ctx context.Context, _ *struct{}) (*struct{}, error) {
	if u, err := s.signedIn(ctx); err == nil {
		if err := s.st.EndSignIn(ctx, u.ID, u.SignIn); err != nil {
			return nil, s.fail(ctx, "sign-out", err)
		}
	}
	if err := s.sm.Destroy(ctx); err != nil {
		return nil, s.fail(ctx, "sign-out", err)
	}
	s.someoneLeft()
	return nil, nil
}

// ownRoutes are what everybody changes about themselves.
func (s *Server) ownRoutes(get opFunc) {
	own := func(method, id, path, summary string) huma.Operation {
		return allow(people.See, huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary,
			DefaultStatus: 200, MaxBodyBytes: 1 << 16})
	}
	huma.Register(s.api, get("places", "/api/session/places", "Where the person is signed in"),
		func(ctx context.Context, _ *struct{}) (*out[[]Place], error) {
			return s.places(ctx)
		})
	huma.Register(s.api, own(http.MethodDelete, "end_place", "/api/session/places/{id}", "Sign out somewhere else"),
		func(ctx context.Context, in *JobIn) (*out[[]Place], error) {
			id := in.ID
			if err := s.st.EndSignIn(ctx, caller(ctx).ID, id); err != nil {
				return nil, s.fail(ctx, "places", err)
			}
			s.someoneLeft()
			return s.places(ctx)
		})
	huma.Register(s.api, own(http.MethodPut, "change_password", "/api/session/password",
		"Change one's password; every other place is signed out"), func(ctx context.Context, in *struct {
		Body struct {
			Old string `json:"old" maxLength:"200"`
			New string `json:"new" maxLength:"800"`
		}
	}) (*struct{}, error) {
		return nil, s.changePassword(ctx, in.Body.Old, in.Body.New)
	})
	huma.Register(s.api, own(http.MethodPut, "change_name", "/api/session/name", "Change one's name"),
		func(ctx context.Context, in *struct {
			SigningIn
			Body struct {
				Name string `json:"name" maxLength:"400"`
			}
		}) (*out[Me], error) {
			u := caller(ctx)
			name, err := people.CheckName(in.Body.Name)
			if err != nil {
				return nil, huma.Error422UnprocessableEntity(phrase.Sentence(err.Error()))
			}
			if name != u.Name {
				if err := s.st.ChangeUser(ctx, store.User{ID: u.ID, Name: name, Role: u.Role},
					store.Act{By: u.Name, Kind: "people", Says: "Is called " + name + " from now on."}); err != nil {
					return nil, s.fail(ctx, "name", err)
				}
			}
			return s.me(ctx, u.ID, in.Device)
		})
	huma.Register(s.api, own(http.MethodPut, "change_pin", "/api/session/pin",
		"Set one's PIN for shared devices; empty takes it away"), func(ctx context.Context, in *struct {
		Body struct {
			PIN      string `json:"pin" maxLength:"20"`
			Password string `json:"password" maxLength:"200"`
		}
	}) (*struct{}, error) {
		return nil, s.changePIN(ctx, in.Body.PIN, in.Body.Password)
	})
	huma.Register(s.api, own(http.MethodPut, "change_preferences", "/api/session/preferences",
		"How one likes the interface"), func(ctx context.Context, in *struct{ Body Preferences }) (*struct{}, error) {
		if len(in.Body.Meters) > 16 {
			return nil, huma.Error422UnprocessableEntity("A person prefers at most sixteen meters.")
		}
		for k, v := range in.Body.Meters {
			if len(k) > 16 || len(v) > 64 {
				return nil, huma.Error422UnprocessableEntity("The name of a meter has at most 64 letters.")
			}
		}
		b, err := json.Marshal(in.Body)
		if err == nil {
			err = s.st.SetPreferences(ctx, caller(ctx).ID, string(b))
		}
		if err != nil {
			return nil, s.fail(ctx, "preferences", err)
		}
		return nil, nil
	})
}

// me says who a person is, on the device that a request comes from.
func (s *Server) me(ctx context.Context, id uuid.UUID, device string) (*out[Me], error) {
	u, err := s.st.UserByID(ctx, id)
	if err != nil {
		return nil, s.fail(ctx, "session", err)
	}
	m := Me{ID: u.ID.String(), Login: u.Login, Name: u.Name, Role: u.Role, Rights: people.RoleOf(u.Role).Rights,
		HasPIN: u.PIN != "", SecondFactor: u.TOTP != ""}
	if u.Preferences != "" {
		if err := json.Unmarshal([]byte(u.Preferences), &m.Preferences); err != nil {
			s.log.Error("preferences", "err", err)
		}
	}
	d, err := s.deviceOf(ctx, device)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, s.fail(ctx, "session", err)
	}
	m.Device = d.Name
	if m.Workshop, err = s.ws.Settings(ctx); err != nil {
		return nil, s.fail(ctx, "session", err)
	}
	return body(m), nil
}

func (s *Server) places(ctx context.Context) (*out[[]Place], error) {
	u := caller(ctx)
	xs, err := s.st.SignIns(ctx, u.ID)
	if err != nil {
		return nil, s.fail(ctx, "places", err)
	}
	out := []Place{}
	for _, x := range xs {
		out = append(out, Place{x.ID.String(), x.Device, x.CreatedAt, x.SeenAt, x.ID == u.SignIn})
	}
	return body(out), nil
}

func (s *Server) changePassword(ctx context.Context, old, pw string) error {
	u := caller(ctx)
	if err := s.proves(ctx, u.ID, old); err != nil {
		return err
	}
	hash, err := s.hashOf(ctx, pw, u.Login, u.Name)
	if err != nil {
		return err
	}
	if err := s.st.SetPassword(ctx, u.ID, hash, u.SignIn,
		store.Act{By: u.Name, Kind: "people", Says: "Changed their own password."}); err != nil {
		return s.fail(ctx, "password", err)
	}
	s.someoneLeft()
	return nil
}

func (s *Server) changePIN(ctx context.Context, pin, pw string) error {
	u := caller(ctx)
	if err := s.proves(ctx, u.ID, pw); err != nil {
		return err
	}
	hash := ""
	if pin != "" {
		err := people.CheckPIN(pin)
		if err != nil {
			return huma.Error422UnprocessableEntity(phrase.Sentence(err.Error()))
		}
		if hash, err = password.Hash(pin); err != nil {
			return s.fail(ctx, "pin", err)
		}
	}
	if err := s.st.SetPIN(ctx, u.ID, hash); err != nil {
		return s.fail(ctx, "pin", err)
	}
	return nil
}

// hashOf checks a new password and hashes it.
func (s *Server) hashOf(ctx context.Context, pw string, about ...string) (string, error) {
	set, err := s.ws.Settings(ctx)
	if err != nil {
		return "", s.fail(ctx, "settings", err)
	}
	if err := people.CheckPassword(pw, append(about, set.Name)...); err != nil {
		return "", huma.Error422UnprocessableEntity(phrase.Sentence(err.Error()))
	}
	hash, err := password.Hash(pw)
	if err != nil {
		return "", s.fail(ctx, "password", err)
	}
	return hash, nil
}

// proves asks for the password once more before what would let somebody else in. It counts as a sign-in.
func (s *Server) proves(ctx context.Context, id uuid.UUID, pw string) error {
	u, err := s.st.UserByID(ctx, id)
	if err != nil {
		return s.fail(ctx, "password", err)
	}
	good, err := s.counted(ctx, u.Login, func() tried { return triedIs(password.Check(pw, u.Hash)) })
	if err != nil {
		return err
	}
	if good != right {
		return huma.Error422UnprocessableEntity("This is not your password of today: type the one you signed in with.")
	}
	return nil
}

// tried is how a try to show who one is went.
type tried int

const (
	wrong tried = iota
	half        // right so far; the second factor is not given yet
	right
)

func triedIs(good bool) tried {
	if good {
		return right
	}
	return wrong
}

// counted tries a secret of a login, unless too many were tried. Half of what is asked for forgets no tries: the
// other half would be guessed at leisure.
func (s *Server) counted(ctx context.Context, login string, try func() tried) (tried, error) {
	byLogin := sha256.Sum256([]byte("login\x00" + people.Canonical(login)))
	addr, _ := ctx.Value(addrKey{}).(string)
	if host, _, err := net.SplitHostPort(addr); err == nil {
		addr = host
	}
	byAddress := sha256.Sum256([]byte("address\x00" + addr))
	n, err := s.st.Attempt(ctx, byLogin, byAddress)
	if err != nil {
		return wrong, s.fail(ctx, "sign-in", err)
	}
	if n[0] > attemptsByLogin || n[1] > attemptsByAddress {
		return wrong, huma.Error429TooManyRequests("Too many tries: wait ten minutes, or ask the owner for a new password.")
	}
	// A hash takes its time and memory by design: so many at once, and the rest of the workshop goes on meanwhile.
	select {
	case s.hashing <- struct{}{}:
	case <-ctx.Done():
		return wrong, huma.Error503ServiceUnavailable("Many are signing in just now: try again in a moment.")
	}
	good := try()
	<-s.hashing
	switch good {
	case wrong:
		s.log.Warn("sign-in refused", "login", fmt.Sprintf("%x", byLogin[:4])) // the same one is the same, and no name
	case right:
		if err := s.st.ForgetAttempts(ctx, byLogin, byAddress); err != nil {
			return wrong, s.fail(ctx, "sign-in", err)
		}
	}
	return good, nil
}

// signIn checks name, password and, where there is one, the second factor, and opens a session.
func (s *Server) signIn(ctx context.Context, login, pw, code, agent string) (uuid.UUID, error) {
	login = strings.ToLower(strings.TrimSpace(login))
	var u store.User
	var err error
	known := false
	good, err2 := s.counted(ctx, login, func() tried {
		if u, err = s.st.UserByLogin(ctx, login); err != nil && !errors.Is(err, store.ErrNotFound) {
			return wrong
		}
		known = password.Check(pw, u.Hash)
		switch {
		case !known:
			return wrong
		case u.TOTP == "":
			return right
		case strings.TrimSpace(code) == "":
			return half
		}
		var ok bool
		ok, err = s.factor(ctx, &u, code)
		return triedIs(ok)
	})
	switch {
	case err2 != nil:
		return u.ID, err2
	case err != nil && !errors.Is(err, store.ErrNotFound):
		return u.ID, s.fail(ctx, "sign-in", err)
	case good == half:
		return u.ID, huma.NewError(http.StatusPreconditionRequired, "Type the code that your phone shows for Corriente.")
	case good == wrong && known:
		return u.ID, huma.Error401Unauthorized("This code is not right, or was used already: wait for the next one, or type a spare code.")
	case good == wrong:
		return u.ID, huma.Error401Unauthorized("Name and password do not go together: check both.")
	}
	return u.ID, s.openSession(ctx, &u, agent)
}

// openSession signs in whoever has shown who they are.
func (s *Server) openSession(ctx context.Context, u *store.User, agent string) error {
	if u.Suspended {
		return huma.Error403Forbidden(u.Name + " may not sign in at present: the owner can change that under People.")
	}
	if was, err := s.signedIn(ctx); err == nil { // another person at the same browser
		if err := s.st.EndSignIn(ctx, was.ID, was.SignIn); err != nil {
			return s.fail(ctx, "sign-in", err)
		}
		s.someoneLeft()
	}
	id := store.NewID()
	if err := s.st.AddSignIn(ctx, id, u.ID, deviceWords(agent)); err != nil {
		return s.fail(ctx, "sign-in", err)
	}
	if err := s.sm.RenewToken(ctx); err != nil {
		return s.fail(ctx, "sign-in", err)
	}
	s.sm.Put(ctx, keySignIn, id.String())
	return nil
}

// deviceWords says what a browser calls itself in words a person knows: "Firefox on Android".
func deviceWords(agent string) string {
	pick := func(pairs ...string) string {
		for i := 0; i+1 < len(pairs); i += 2 {
			if strings.Contains(agent, pairs[i]) {
				return pairs[i+1]
			}
		}
		return ""
	}
	browser := pick("Firefox/", "Firefox", "Edg", "Edge", "OPR/", "Opera", "SamsungBrowser/", "Samsung's browser",
		"Chrome/", "Chrome", "Safari/", "Safari")
	on := pick("Android", "Android", "iPhone", "iPhone", "iPad", "iPad", "Windows", "Windows", "Mac OS", "Mac",
		"CrOS", "Chromebook", "Linux", "Linux")
	switch {
	case browser == "" && on == "":
		return "a program"
	case browser == "":
		return on
	case on == "":
		return browser
	}
	return browser + " on " + on
}

// deviceOf is the shared device a cookie belongs to.
func (s *Server) deviceOf(ctx context.Context, cookie string) (store.Device, error) {
	if cookie == "" {
		return store.Device{}, store.ErrNotFound
	}
	return s.st.DeviceOf(ctx, people.HashToken(cookie))
}

// behind takes the address a request came from out of X-Forwarded-For, where the one who sent it here is a proxy
// that is trusted: the last address that no trusted proxy added. Where there are proxies, whoever comes past them,
// unencrypted, is turned away.
func behind(trusted []netip.Prefix) func(http.Handler) http.Handler {
	is := func(a string) bool {
		ip, err := netip.ParseAddr(strings.TrimSpace(a))
		if err != nil {
			return false
		}
		for _, p := range trusted {
			if p.Contains(ip.Unmap()) {
				return true
			}
		}
		return false
	}
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			host, _, err := net.SplitHostPort(r.RemoteAddr)
			if ip, perr := netip.ParseAddr(host); len(trusted) > 0 && (err != nil || perr != nil || !ip.IsLoopback() && !is(host)) {
				writeProblem(w, http.StatusForbidden, "Come through the workshop's proxy, over HTTPS: this address is for it alone.")
				return
			}
			if err == nil && is(host) {
				hops := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
				for i := len(hops) - 1; i >= 0; i-- {
					a := strings.TrimSpace(hops[i])
					if _, err := netip.ParseAddr(a); err != nil {
						break
					}
					if r.RemoteAddr = net.JoinHostPort(a, "0"); !is(a) {
						break
					}
				}
			}
			next.ServeHTTP(w, r)
		})
	}
}
