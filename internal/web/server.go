package web

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net/http"
	"net/netip"
	"path"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/mysqlstore"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/prometheus/client_golang/prometheus"

	"corriente/core/phrase"
	"corriente/internal/backup"
	"corriente/internal/meters"
	"corriente/internal/store"
	"corriente/internal/workshop"
)

// Lists are never null: an empty one is [].
func init() { huma.DefaultArrayNullable = false }

// maxBody is the largest request body, in bytes.
const maxBody = 9 << 20

// requestTimeout is how long one request may take, unless the options say otherwise.
const requestTimeout = 20 * time.Second

// statusGone answers a request whose sender has left; nobody reads it.
const statusGone = 499

// Server answers requests. It keeps no state of its own but caches, so several
// may run over one database.
type Server struct {
	meters  meters.Set
	hashing chan struct{} // a slot for each password that is weighed
	st      *store.Store
	log     *slog.Logger
	sm      *scs.SessionManager
	ws      *workshop.Service
	ui      fs.FS
	mux     http.Handler
	api     huma.API

	open      openTraces
	photos    chan struct{} // one picture is unpacked at a time: each takes hundreds of megabytes
	hub       *hub
	others    *servers // over the same database; nil where there are none
	setupCode string
	demo      Demo
	restore   func(context.Context, io.Reader) (*backup.Summary, error)
	data      string         // folder whose disk is watched; empty: none is
	backups   Backups        // nil: none are kept
	closing   chan struct{}  // closed when the server ends: streams end with it
	work      sync.WaitGroup // what was answered before it was done

	sweeping sync.WaitGroup // of sessions that have ended
	once     sync.Once
}

// Memory is what a server's process keeps within, bytes, as long as it can: what it holds of fifty jobs at once is
// about half, and garbage is gathered the more often the nearer it comes. GOMEMLIMIT in the environment goes before.
const Memory = 940 << 20

// Options of a server.
type Options struct {
	UI     fs.FS // the built interface; nil serves the API alone
	Log    *slog.Logger
	Secure bool // the cookie is sent over HTTPS only
	// SetupCode lets whoever types it set an empty installation up; empty lets nobody.
	SetupCode string
	// Restore puts a backup in place of an empty installation's data; nil cannot.
	Restore func(context.Context, io.Reader) (*backup.Summary, error)
	// Demo can be loaded for a look; without Load it cannot.
	Demo Demo
	// Backups keeps the backups; nil keeps none.
	Backups Backups
	// Meters says which addresses instruments may have.
	Meters meters.Set
	// Metrics takes the figures of the server; nil takes none.
	Metrics prometheus.Registerer
	// Proxies are the addresses whose word for where a request came from is believed.
	Proxies []netip.Prefix
	// Shared: other servers may work over the same database.
	Shared bool
	// Data is the folder of the data on this machine, whose disk is watched; empty where they are elsewhere.
	Data string
	// Timeout is how long one request may take; 0 is twenty seconds. Tests on a busy machine give more.
	Timeout time.Duration
}

// New builds the handler.
func New(st *store.Store, o Options) *Server {
	if o.Timeout <= 0 {
		o.Timeout = requestTimeout
	}
	sm := scs.New()
	sm.Store = mysqlstore.NewWithCleanupInterval(st.DB, 0) // its own sweeping races with its end
	sm.HashTokenInStore = true
	sm.Lifetime = 14 * 24 * time.Hour
	sm.IdleTimeout = 3 * 24 * time.Hour
	sm.Cookie.Name = "corriente"
	if o.Secure { // then a browser takes it from this very host over HTTPS alone
		sm.Cookie.Name = "__Host-corriente"
	}
	sm.Cookie.HttpOnly = true
	sm.Cookie.SameSite = http.SameSiteLaxMode
	sm.Cookie.Secure = o.Secure
	s := &Server{st: st, log: o.Log, sm: sm,
		ws: &workshop.Service{Store: st, Advisers: workshop.NewAdvisers(o.Timeout)}, ui: o.UI, hub: newHub(),
		setupCode: o.SetupCode, data: o.Data, backups: o.Backups, demo: o.Demo, restore: o.Restore,
		meters: o.Meters, photos: make(chan struct{}, 1), hashing: make(chan struct{}, hashes), closing: make(chan struct{})}
	st.Changed = s.changed
	s.sweeping.Go(s.sweep)
	if o.Shared {
		s.others = newServers(st, s.hub, o.Log)
		s.sweeping.Go(func() { s.others.run(s.closing) })
	}
	sm.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		s.log.Error("session", "err", err)
		writeProblem(w, http.StatusServiceUnavailable, "The database does not answer: try again in a moment.")
	}

	r := chi.NewRouter()
	r.Use(numbered, behind(o.Proxies), measured(o.Metrics, s), s.logged, middleware.Recoverer, headers,
		timeout(o.Timeout), limitBody, plainLetters)
	r.Use(http.NewCrossOriginProtection().Handler)
	r.Use(middleware.Compress(5, "text/html", "text/css", "text/javascript", "application/javascript",
		"application/json", "application/problem+json", "image/svg+xml", "application/wasm"))
	r.Get("/healthz", alive)
	r.Get("/readyz", s.ready)
	r.Group(func(r chi.Router) {
		r.Use(sm.LoadAndSave)
		cfg := huma.DefaultConfig("Corriente", "1")
		cfg.Info.Description = "Finds out why a motor does not do its work. Errors are application/problem+json (RFC 9457)."
		cfg.OpenAPIPath, cfg.DocsPath, cfg.SchemasPath = "/api/openapi", "", "/api/schemas"
		cfg.CreateHooks = nil // no $schema links in bodies
		cfg.Transformers = append(cfg.Transformers, func(ctx huma.Context, _ string, v any) (any, error) {
			if e, ok := v.(*huma.ErrorModel); ok {
				mend(ctx.Context(), e)
			}
			return v, nil
		})
		s.api = humachi.New(r, cfg)
		s.routes(r)
	})
	r.NotFound(s.files)
	s.mux = r
	return s
}

// Warm prepares a circuit so that the first job on it does not wait.
func (s *Server) Warm(ctx context.Context, id string) error { return s.ws.Warm(ctx, id) }

// Close ends what runs in the background, open streams among it. It may be
// called more than once.
func (s *Server) Close() {
	s.once.Do(func() {
		close(s.closing)
		s.work.Wait()
		s.sweeping.Wait()
	})
}

// sweepEvery is how often what is over is taken out of the database.
const sweepEvery = 10 * time.Minute

// sweep takes out sessions that have ended and what servers have told, until the server closes.
func (s *Server) sweep() {
	t := time.NewTicker(sweepEvery)
	defer t.Stop()
	for {
		select {
		case <-s.closing:
			return
		case <-t.C:
			ctx, cancel := context.WithTimeout(context.Background(), requestTimeout)
			if err := errors.Join(s.st.SweepSessions(ctx), s.st.SweepTold(ctx)); err != nil {
				s.log.Error("sweep", "err", err)
			}
			cancel()
		}
	}
}

// ServeHTTP answers one request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.mux.ServeHTTP(w, r) }

// OpenAPI returns the document, JSON.
func (s *Server) OpenAPI() ([]byte, error) { return json.MarshalIndent(s.api.OpenAPI(), "", " ") }

// logged writes one line a request: no addresses, names or bodies.
func (s *Server) logged(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		t := time.Now()
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		next.ServeHTTP(ww, r)
		level := slog.LevelDebug
		if ww.Status() >= 500 {
			level = slog.LevelError
		}
		route := r.URL.Path
		if rc := chi.RouteContext(r.Context()); rc != nil && rc.RoutePattern() != "" {
			route = rc.RoutePattern()
		}
		s.log.Log(r.Context(), level, "request", "method", r.Method, "route", route, "status", ww.Status(),
			"ms", float64(time.Since(t).Microseconds())/1000, "id", middleware.GetReqID(r.Context()))
	})
}

func headers(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src "+
			"'self' 'unsafe-inline'; img-src 'self' data: blob:; "+
			"connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		if r.TLS != nil {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		if strings.HasPrefix(r.URL.Path, "/api/") { // nobody finds it in a browser's cache; photos say otherwise
			h.Set("Cache-Control", "no-store")
		}
		h.Set("Permissions-Policy", "geolocation=(), microphone=()")
		next.ServeHTTP(w, r)
	})
}

// timeout bounds a request; streams bound each of their writes instead.
func timeout(after time.Duration) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if r.URL.Path == "/api/events" || r.URL.Path == restorePath || r.URL.Path == "/api/traces" ||
				strings.HasSuffix(r.URL.Path, "/live") {
				next.ServeHTTP(w, r)
				return
			}
			ctx, cancel := context.WithTimeout(r.Context(), after)
			defer cancel()
			next.ServeHTTP(w, r.WithContext(ctx))
		})
	}
}

// mend makes an error one that a person can do something with: a number to read out where the
// fault is here, and a sentence where an address names nothing.
func mend(ctx context.Context, e *huma.ErrorModel) {
	if e.Status >= 500 {
		e.Detail += reference(ctx)
	}
	if len(e.Errors) > 0 && e.Status == http.StatusUnprocessableEntity && strings.HasPrefix(e.Errors[0].Location, "path.") {
		e.Detail = "There is nothing at this address: it may have been cut short."
	}
}

// hashes is how many passwords are weighed at once.
const hashes = 2

const tooLarge = "This is larger than 9 MB: a case is text, leave photos out."

func limitBody(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/api/traces" || r.URL.Path == restorePath { // bound themselves
			next.ServeHTTP(w, r)
			return
		}
		if r.ContentLength > maxBody {
			writeProblem(w, http.StatusRequestEntityTooLarge, tooLarge)
			return
		}
		r.Body = http.MaxBytesReader(w, r.Body, maxBody)
		next.ServeHTTP(w, r)
	})
}

func writeProblem(w http.ResponseWriter, status int, detail string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(map[string]any{"title": http.StatusText(status), "status": status, "detail": detail})
}

// files serves the interface: a file where there is one, else its first page,
// since every view has its own address.
func (s *Server) files(w http.ResponseWriter, r *http.Request) {
	if strings.HasPrefix(r.URL.Path, "/api/") {
		writeProblem(w, http.StatusNotFound, "There is nothing at this address.")
		return
	}
	if s.ui == nil {
		writeProblem(w, http.StatusNotFound, "The interface is not built: run make web.")
		return
	}
	if r.Method != http.MethodGet && r.Method != http.MethodHead {
		writeProblem(w, http.StatusMethodNotAllowed, "This address is only read.")
		return
	}
	name := strings.TrimPrefix(path.Clean(r.URL.Path), "/")
	if st, err := fs.Stat(s.ui, name); err != nil || st.IsDir() {
		if strings.HasPrefix(name, "assets/") {
			writeProblem(w, http.StatusNotFound, "There is no such file.")
			return
		}
		name = "index.html"
	}
	if strings.HasPrefix(name, "assets/") {
		w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
	} else {
		w.Header().Set("Cache-Control", "no-cache")
	}
	http.ServeFileFS(w, r, s.ui, name)
}

// keySignIn holds, in a session, the id of the sign-in.
const keySignIn = "sign_in"

// fail turns an error of the store into what a person is told; the cause goes to
// the log.
func (s *Server) fail(ctx context.Context, what string, err error) error {
	switch {
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound("There is no such thing here: it may have been opened from an old link.")
	case errors.Is(err, store.ErrTaken):
		return huma.Error409Conflict("Somebody signs in by this name already: give another.")
	case errors.Is(err, store.ErrLastOwner):
		return huma.Error409Conflict("This is the last owner who can sign in: make somebody else owner first.")
	case errors.Is(err, store.ErrExpired):
		return huma.Error410Gone("This link was used or is too old: ask the owner for a new one.")
	case errors.Is(err, store.ErrStale):
		return huma.Error412PreconditionFailed("Somebody else changed this meanwhile: what you typed is still here, " +
			"look at theirs and save again.")
	case store.Used(err):
		return huma.Error409Conflict("This id is already used for something else: start again.")
	case errors.Is(err, context.Canceled), errors.Is(err, sql.ErrTxDone): // a transaction ends with its request
		return huma.NewError(statusGone, "Nobody waited for the answer.")
	case errors.Is(err, context.DeadlineExceeded):
		return huma.Error503ServiceUnavailable("This took too long and was stopped. Try again: nothing is stored twice.")
	}
	var full *store.Full
	if errors.As(err, &full) {
		return huma.Error422UnprocessableEntity(phrase.Sentence(full.Error()) + " Take out what is not needed, or start another job.")
	}
	var se huma.StatusError
	if errors.As(err, &se) {
		return err
	}
	if what, ok := store.TooLong(err); ok { // out of a file: a form's own limits come first
		return huma.Error422UnprocessableEntity(fmt.Sprintf("The %s is too long to be kept: shorten it.", what))
	}
	s.log.ErrorContext(ctx, what, "err", err, "id", middleware.GetReqID(ctx))
	if store.Away(err) { // a browser takes it for a lost connection, and goes on with what it keeps
		return huma.Error503ServiceUnavailable("The database does not answer: it is started again by itself. Try " +
			"again in a moment: nothing is stored twice.")
	}
	return huma.Error500InternalServerError("Something went wrong here. Try again: nothing is stored twice.")
}

// Document returns the OpenAPI document without a database, for generating the
// interface's types.
func Document() ([]byte, error) { return declared().OpenAPI() }

// declared is a server that has its operations and nothing to answer them with.
func declared() *Server {
	s := &Server{ws: &workshop.Service{Advisers: workshop.NewAdvisers(requestTimeout)}, sm: scs.New(), log: slog.Default()}
	cfg := huma.DefaultConfig("Corriente", "1")
	cfg.CreateHooks = nil
	r := chi.NewRouter()
	s.api = humachi.New(r, cfg)
	s.routes(r)
	return s
}
