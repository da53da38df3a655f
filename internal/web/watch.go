package web

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"net/http"
	"strconv"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"

	"corriente/core/phrase"
	"corriente/internal/backup"
	"corriente/internal/disk"
	"corriente/internal/people"
)

// What somebody looks at who keeps the application running: whether it is alive and ready, figures, backups.

// numbered gives every request a short number that a person can read out over the telephone; it stands in the log
// and in what is said of an error.
func numbered(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		var b [4]byte
		_, _ = rand.Read(b[:])
		id := hex.EncodeToString(b[:])
		w.Header().Set("X-Request-Id", id)
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), middleware.RequestIDKey, id)))
	})
}

// reference is how a person names a request that went wrong.
func reference(ctx context.Context) string {
	if id := middleware.GetReqID(ctx); id != "" {
		return " If it goes on, tell whoever looks after Corriente this number: " + id + "."
	}
	return ""
}

// measured counts requests and how long they take, by route and outcome: no addresses, ids or names.
func measured(reg prometheus.Registerer, s *Server) func(http.Handler) http.Handler {
	if reg == nil {
		return func(next http.Handler) http.Handler { return next }
	}
	took := prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "corriente_request_seconds",
		Help:    "Time to answer a request, in seconds.",
		Buckets: []float64{.005, .02, .05, .1, .2, .3, .6, 1, 2, 5, 10, 20}}, []string{"method", "route", "status"})
	open := prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "corriente_open_streams",
		Help: "Streams of events that are listened to."}, func() float64 {
		return float64(s.hub.listeners())
	})
	reg.MustRegister(took, open, collectors.NewDBStatsCollector(s.st.DB, "corriente"))
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			t := time.Now()
			ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
			next.ServeHTTP(ww, r)
			route := "other"
			if rc := chi.RouteContext(r.Context()); rc != nil && rc.RoutePattern() != "" {
				route = rc.RoutePattern()
			}
			took.WithLabelValues(r.Method, route, strconv.Itoa(ww.Status())).Observe(time.Since(t).Seconds())
		})
	}
}

// alive says that the program answers; it asks nobody else.
func alive(w http.ResponseWriter, _ *http.Request) {
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	_, _ = w.Write([]byte("ok\n"))
}

// ready says whether the application can do its work now.
func (s *Server) ready(w http.ResponseWriter, r *http.Request) {
	ctx, cancel := context.WithTimeout(r.Context(), 3*time.Second)
	defer cancel()
	if err := s.st.Ready(ctx); err != nil {
		writeProblem(w, http.StatusServiceUnavailable, "The database does not answer.")
		return
	}
	alive(w, r)
}

// Backups is what keeps backups.
type Backups interface {
	State() backup.State
	Now(context.Context) error
}

// BackupView is how the backups stand.
type BackupView struct {
	On      bool       `json:"on"`
	Folder  string     `json:"folder,omitempty"`
	Last    *time.Time `json:"last,omitempty"`
	Files   int        `json:"files"`
	Bytes   int64      `json:"bytes"`
	Problem string     `json:"problem,omitempty"`
	Share   *int       `json:"share,omitempty" doc:"how far a backup under way has come, per cent; absent: none is"`
}

// ServerView is how the machine stands on which the server runs, as far as everybody should know.
type ServerView struct {
	Disk string `json:"disk" enum:"enough,low,full" doc:"room where the data are: low below a tenth, full below two hundredths"`
	Left string `json:"left,omitempty" doc:"what is left, for people"`
}

func (s *Server) serverView() ServerView {
	v := ServerView{Disk: "enough"}
	if s.data == "" {
		return v
	}
	r, err := disk.At(s.data)
	if err != nil || r.Level() == "" {
		return v
	}
	return ServerView{Disk: r.Level(), Left: r.String()}
}

func (s *Server) backupRoutes(get, post opFunc) {
	huma.Register(s.api, get("server", "/api/server", "See whether the server's machine has room"),
		func(context.Context, *struct{}) (*out[ServerView], error) {
			return body(s.serverView()), nil
		})
	view := func() *out[BackupView] {
		if s.backups == nil {
			return body(BackupView{})
		}
		x := s.backups.State()
		v := BackupView{On: true, Folder: x.Dir, Files: x.Files, Bytes: x.Bytes, Problem: x.Problem}
		if x.Share >= 0 {
			v.Share = &x.Share
		}
		if !x.Last.IsZero() {
			v.Last = &x.Last
		}
		return body(v)
	}
	huma.Register(s.api, allow(people.Manage, get("backups", "/api/backups", "See how the backups stand")),
		func(context.Context, *struct{}) (*out[BackupView], error) {
			return view(), nil
		})
	huma.Register(s.api, allow(people.Manage, post("back_up", "/api/backups", "Back up now")),
		func(ctx context.Context, _ *struct{}) (*out[BackupView], error) {
			if s.backups == nil {
				return nil, huma.Error422UnprocessableEntity("This server keeps no backups: it was started with --backups none.")
			}
			if err := s.backups.Now(ctx); err != nil {
				if ctx.Err() != nil { // stopped by whoever asked: nothing is left of it
					return nil, huma.Error503ServiceUnavailable("The backup was stopped. Those of before are as they were.")
				}
				s.log.Error("backup", "err", err)
				return nil, huma.Error503ServiceUnavailable("The backup failed: " + phrase.Sentence(err.Error()))
			}
			if err := s.st.PutAct(ctx, s.act(ctx, "backup", "Made a backup.")); err != nil {
				return nil, s.fail(ctx, "backup", err)
			}
			return view(), nil
		})
}
