package web

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"corriente/core/phrase"
	"corriente/internal/people"
	"corriente/internal/store"
)

// Access stands where an operation is declared: [allow] says what it asks of whoever calls it. One that says
// nothing asks for [people.See] where it only reads and for [people.Work] where it writes. One middleware holds
// every operation to it before anything of the request is read, so a handler checks no role.

const keyRight = "right"

// allow declares what an operation asks of whoever calls it.
func allow(r people.Right, op huma.Operation) huma.Operation {
	op.Metadata = map[string]any{keyRight: r}
	return op
}

// rightFor is what an operation asks of whoever calls it.
func rightFor(op *huma.Operation) people.Right {
	if r, ok := op.Metadata[keyRight].(people.Right); ok {
		return r
	}
	if op.Method == http.MethodGet || op.Method == http.MethodHead {
		return people.See
	}
	return people.Work
}

// who is the signed-in user of a request.
type who struct {
	ID     uuid.UUID
	Login  string
	Name   string
	Role   string
	SignIn uuid.UUID
	Coded  bool // signs in with a code from the phone as well
}

type callerKey struct{}

// caller is who sent a request; nobody, the zero value, where the operation is for anyone.
func caller(ctx context.Context) who {
	u, _ := ctx.Value(callerKey{}).(who)
	return u
}

// admitted returns who sent a request, or why they may not do this.
func (s *Server) admitted(ctx context.Context, op *huma.Operation) (who, huma.StatusError) {
	right := rightFor(op)
	if right == people.Anyone {
		return who{}, nil
	}
	u, err := s.signedIn(ctx)
	switch {
	case errors.Is(err, store.ErrNotFound):
		return u, huma.Error401Unauthorized("Sign in first.")
	case err != nil:
		var se huma.StatusError
		if !errors.As(s.fail(ctx, "sign-in", err), &se) {
			se = huma.Error500InternalServerError("Something went wrong here. Try again: nothing is stored twice.")
		}
		return u, se
	case people.RoleOf(u.Role).May(right):
		if right == people.Manage && !u.Coded {
			return u, s.uncoded(ctx)
		}
		return u, nil
	case right == people.Manage:
		return u, huma.Error403Forbidden("The owner does this: " + phrase.Lower(op.Summary) + ".")
	}
	return u, huma.Error403Forbidden("The counter reads and prints; a technician changes a job.")
}

// uncoded refuses what only owners do to an owner who signs in without a code from the phone, where the workshop asks
// owners for one.
func (s *Server) uncoded(ctx context.Context) huma.StatusError {
	set, err := s.ws.Settings(ctx)
	var se huma.StatusError
	switch {
	case err != nil && errors.As(s.fail(ctx, "settings", err), &se):
		return se
	case err != nil:
		return huma.Error500InternalServerError("Something went wrong here. Try again: nothing is stored twice.")
	case set.OwnersCode:
		return huma.Error403Forbidden("Owners sign in with a code from their phone here: set yours up under your name first.")
	}
	return nil
}

// signedIn returns who is signed in; store.ErrNotFound where nobody is.
func (s *Server) signedIn(ctx context.Context) (who, error) {
	id, err := uuid.Parse(s.sm.GetString(ctx, keySignIn))
	if err != nil {
		return who{}, store.ErrNotFound
	}
	u, err := s.st.SignedIn(ctx, id)
	return who{u.ID, u.Login, u.Name, u.Role, id, u.TOTP != ""}, err
}

// admit is the middleware of all operations.
func (s *Server) admit(ctx huma.Context, next func(huma.Context)) {
	u, no := s.admitted(ctx.Context(), ctx.Operation())
	if no != nil {
		_ = huma.WriteErr(s.api, ctx, no.GetStatus(), no.Error())
		return
	}
	next(huma.WithValue(ctx, callerKey{}, u))
}

// raw declares an operation that answers with something else than JSON, or for as long as somebody listens: the
// same access, and an entry in the same document.
func (s *Server) raw(r chi.Router, op huma.Operation, h http.HandlerFunc) {
	op.Responses = map[string]*huma.Response{"200": {Description: op.Summary}}
	for _, p := range pathParameters(op.Path) {
		op.Parameters = append(op.Parameters, &huma.Param{Name: p, In: "path", Required: true, Schema: &huma.Schema{Type: huma.TypeString}})
	}
	s.api.OpenAPI().AddOperation(&op)
	r.MethodFunc(op.Method, op.Path, func(w http.ResponseWriter, r *http.Request) {
		u, no := s.admitted(r.Context(), &op)
		if no != nil {
			writeProblem(w, no.GetStatus(), no.Error())
			return
		}
		h(w, r.WithContext(context.WithValue(r.Context(), callerKey{}, u)))
	})
}

func pathParameters(path string) []string {
	var out []string
	for _, p := range strings.Split(path, "/") {
		if strings.HasPrefix(p, "{") && strings.HasSuffix(p, "}") {
			out = append(out, p[1:len(p)-1])
		}
	}
	return out
}

// whileSignedIn is a context for a stream: it ends with the request, with the server, and when whoever listens is
// signed out or suspended, here or on another server.
func (s *Server) whileSignedIn(ctx context.Context) (context.Context, context.CancelFunc) {
	u := caller(ctx)
	ctx, cancel := context.WithCancel(ctx)
	gone := s.hub.follow()
	go func() {
		defer cancel()
		defer s.hub.unfollow(gone)
		t := time.NewTicker(beat)
		defer t.Stop()
		for {
			select {
			case <-ctx.Done():
				return
			case <-s.closing:
				return
			case <-gone.left:
			case <-t.C:
			}
			if _, err := s.st.SignedIn(ctx, u.SignIn); errors.Is(err, store.ErrNotFound) {
				return
			}
		}
	}()
	return ctx, cancel
}

// Access is one operation and what it asks of whoever calls it.
type Access struct {
	Method, Path, Summary string
	Right                 people.Right
}

// AccessTable lists every operation of the API with the right it asks for, by path.
func (s *Server) AccessTable() []Access {
	var out []Access
	for path, item := range s.api.OpenAPI().Paths {
		for _, op := range []*huma.Operation{item.Get, item.Post, item.Put, item.Patch, item.Delete} {
			if op != nil {
				out = append(out, Access{op.Method, path, op.Summary, rightFor(op)})
			}
		}
	}
	slices.SortFunc(out, func(a, b Access) int {
		return strings.Compare(a.Path+" "+a.Method, b.Path+" "+b.Method)
	})
	return out
}

// AccessMarkdown is the table as it stands in the docs: roles in words, then every operation.
func AccessMarkdown() string {
	var b strings.Builder
	b.WriteString("# Who may do what\n\nWritten by `corriente access` from the declarations the server holds every " +
		"request to; a test compares the two.\n\n| role | may | |\n|---|---|---|\n")
	for _, r := range people.Roles() {
		rights := make([]string, 0, len(r.Rights))
		for _, x := range r.Rights {
			rights = append(rights, string(x))
		}
		b.WriteString("| " + r.Name + " | " + strings.Join(rights, ", ") + " | " + r.Says + " |\n")
	}
	b.WriteString("\n`anyone` needs no sign-in: signing in itself, set-up with its code, and whoever holds a " +
		"link.\n\n| operation | asks for | |\n|---|---|---|\n")
	for _, a := range declared().AccessTable() {
		b.WriteString("| `" + a.Method + " " + a.Path + "` | " + string(a.Right) + " | " + a.Summary + " |\n")
	}
	return b.String()
}
