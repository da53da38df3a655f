package web

import (
	"context"
	"net/http"
	"net/url"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"corriente/internal/people"
	"corriente/internal/store"
)

// The second factor: a code from the person's phone at sign-in, beside the password.

// keyPending holds, in a session, the secret that is being shared with a phone.
const keyPending = "pending_factor"

// NewFactor is what a phone is shown, once.
type NewFactor struct {
	Secret  string `json:"secret" doc:"base32, to be typed where no camera is at hand"`
	Address string `json:"address" doc:"otpauth address, as a QR code"`
}

// SpareCodes count once each where the phone is not at hand; they are shown once.
type SpareCodes struct {
	Codes []string `json:"codes"`
}

func (s *Server) factorRoutes() {
	own := func(method, id, summary string) huma.Operation {
		return allow(people.See, huma.Operation{OperationID: id, Method: method, Path: "/api/session/factor",
			Summary: summary, DefaultStatus: 200, MaxBodyBytes: 1 << 16})
	}
	type passwordIn struct {
		Password string `json:"password" maxLength:"200"`
	}
	huma.Register(s.api, own(http.MethodPost, "begin_factor",
		"Begin with a second factor: share a secret with one's phone"),
		func(ctx context.Context, in *struct{ Body passwordIn }) (*out[NewFactor], error) {
			u := caller(ctx)
			if err := s.proves(ctx, u.ID, in.Body.Password); err != nil {
				return nil, err
			}
			secret, err := people.NewSecret()
			if err != nil {
				return nil, s.fail(ctx, "second factor", err)
			}
			set, err := s.ws.Settings(ctx)
			if err != nil {
				return nil, s.fail(ctx, "settings", err)
			}
			s.sm.Put(ctx, keyPending, secret)
			return body(NewFactor{secret, factorAddress(set.Name, u.Login, secret)}), nil
		})
	huma.Register(s.api, own(http.MethodPut, "set_factor",
		"Ask for a second factor from now on: the first code shows that the phone has it"), func(ctx context.Context, in *struct {
		Body struct {
			Code string `json:"code" maxLength:"40"`
		}
	}) (*out[SpareCodes], error) {
		return s.setFactor(ctx, in.Body.Code)
	})
	huma.Register(s.api, own(http.MethodDelete, "drop_factor", "Ask for no second factor any more"),
		func(ctx context.Context, in *struct{ Body passwordIn }) (*struct{}, error) {
			u := caller(ctx)
			set, err := s.ws.Settings(ctx)
			if err != nil {
				return nil, s.fail(ctx, "settings", err)
			}
			if set.OwnersCode && people.RoleOf(u.Role).May(people.Manage) {
				return nil, huma.Error409Conflict("Owners sign in with a code from their phone here: change that under Settings first.")
			}
			if err := s.proves(ctx, u.ID, in.Body.Password); err != nil {
				return nil, err
			}
			if err := s.st.SetSecondFactor(ctx, u.ID, "", nil,
				store.Act{By: u.Name, Kind: "people", Says: "Signs in without a code from the phone again."}); err != nil {
				return nil, s.fail(ctx, "second factor", err)
			}
			return nil, nil
		})
}

// factorAddress is how a secret is shown to a phone (Key URI Format, as the applications for it read it).
func factorAddress(workshop, login, secret string) string {
	issuer := "Corriente"
	if workshop != "" {
		issuer += " " + workshop
	}
	q := url.Values{"secret": {secret}, "issuer": {issuer}}
	return "otpauth://totp/" + url.PathEscape(issuer+":"+login) + "?" + q.Encode()
}

// setFactor keeps the secret that was begun with, once a code shows that the phone has it. Sent again, it makes new
// spare codes.
func (s *Server) setFactor(ctx context.Context, code string) (*out[SpareCodes], error) {
	u := caller(ctx)
	secret := s.sm.GetString(ctx, keyPending)
	if secret == "" {
		return nil, huma.Error409Conflict("This took too long, or was begun elsewhere: begin again.")
	}
	if _, ok := people.CodeStep(secret, code, time.Now(), -1); !ok {
		return nil, huma.Error422UnprocessableEntity("This is not the code that belongs to it: take the newest, and " +
			"see that the phone's clock is right.")
	}
	texts, hashes, err := people.NewSpareCodes()
	if err == nil {
		err = s.st.SetSecondFactor(ctx, u.ID, secret, hashes,
			store.Act{By: u.Name, Kind: "people", Says: "Signs in with a code from the phone from now on."})
	}
	if err != nil {
		return nil, s.fail(ctx, "second factor", err)
	}
	return body(SpareCodes{texts}), nil
}

// factor tries a code of a person's phone, or one of the spare ones. Each counts once.
func (s *Server) factor(ctx context.Context, u *store.User, code string) (bool, error) {
	if step, ok := people.CodeStep(u.TOTP, code, time.Now(), u.TOTPStep); ok {
		return s.st.UseCode(ctx, u.ID, step)
	}
	return s.st.UseSpareCode(ctx, u.ID, people.HashSpareCode(code))
}
