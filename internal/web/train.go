package web

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"corriente/core/diagnose"
	"corriente/core/phrase"
	"corriente/core/train"
	"corriente/internal/people"
	"corriente/internal/store"
)

// TrainView is the trainer's first page.
type TrainView struct {
	Courses  []CourseView  `json:"courses"`
	Attempts []AttemptLine `json:"attempts" doc:"the latest of the user, or of all for the owner"`
	Drill    [2]int        `json:"drill" doc:"right, of"`
}

// CourseView is a course with how far the user has come.
type CourseView struct {
	ID        string         `json:"id"`
	Title     string         `json:"title"`
	About     string         `json:"about"`
	Exercises []ExerciseView `json:"exercises"`
}

// ExerciseView is an exercise without what it hides.
type ExerciseView struct {
	ID        string `json:"id"`
	Title     string `json:"title"`
	Circuit   string `json:"circuit"`
	Complaint string `json:"complaint"`
	Best      *int   `json:"best,omitempty" doc:"the user's best score"`
}

// AttemptLine is an attempt in a list.
type AttemptLine struct {
	ID      string     `json:"id"`
	Who     string     `json:"who"`
	Title   string     `json:"title"`
	Circuit string     `json:"circuit"`
	At      time.Time  `json:"at"`
	OverAt  *time.Time `json:"over_at,omitempty"`
	Score   *int       `json:"score,omitempty"`
	Says    string     `json:"says"`
	Mine    bool       `json:"mine"`
}

// trainer returns the prepared adviser of a circuit as it ships or as the workshop made it.
func (s *Server) trainer(ctx context.Context, id string) (*diagnose.Adviser, error) {
	c, _, err := s.st.Circuit(ctx, id)
	if err != nil {
		return nil, err
	}
	return s.ws.Advisers.Get(c)
}

func (s *Server) attemptView(ctx context.Context, at *store.Attempt) (*out[*train.AttemptView], error) {
	a, err := s.trainer(ctx, at.Ex.Circuit)
	if err != nil {
		return nil, s.fail(ctx, "trainer", err)
	}
	t, err := train.Replay(a, at.Ex, at.Moves)
	if err != nil {
		return nil, s.fail(ctx, "trainer", err)
	}
	v := t.View(at.ID.String())
	if t.Over {
		d := &train.Debrief{}
		if string(at.Debrief) == "null" || json.Unmarshal(at.Debrief, d) != nil {
			if d, err = t.Debriefing(ctx); err != nil {
				return nil, s.fail(ctx, "debrief", err)
			}
			if err := s.st.Debriefed(ctx, at.ID, d); err != nil {
				return nil, s.fail(ctx, "debrief", err)
			}
		}
		v.Debrief = d
	}
	return body(v), nil
}

// exercise finds an exercise: of a course, of the workshop, or a random one by circuit
// and seed.
func (s *Server) exercise(ctx context.Context, b *train.Begin) (*train.Exercise, error) {
	id := b.Exercise
	if id == "" {
		c, _, err := s.st.Circuit(ctx, b.Circuit)
		if err != nil {
			return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("There is no circuit %q to train on.", b.Circuit))
		}
		ex, err := b.Random(c)
		if err != nil {
			return nil, huma.Error422UnprocessableEntity(phrase.Sentence(err.Error()))
		}
		return ex, nil
	}
	if ex := train.Find(id); ex != nil {
		return ex, nil
	}
	own, err := s.st.Exercises(ctx)
	if err != nil {
		return nil, s.fail(ctx, "exercises", err)
	}
	for i := range own {
		if own[i].ID == id {
			return &own[i], nil
		}
	}
	return nil, huma.Error404NotFound("There is no such exercise.")
}

// attempt reads an attempt of whoever is signed in.
func (s *Server) attempt(ctx context.Context, id uuid.UUID) (*store.Attempt, error) {
	u := caller(ctx)
	at, err := s.st.TrainingAttempt(ctx, id, u.ID)
	if err != nil {
		return nil, s.fail(ctx, "attempt", err)
	}
	return at, nil
}

func (s *Server) trainRoutes(get, put, post opFunc) {
	huma.Register(s.api, get("training", "/api/training", "Courses, own exercises and progress"),
		s.training)
	huma.Register(s.api, allow(people.See,
		post("start_attempt", "/api/training/attempts", "Start an exercise; the same seed gives the same machine")),
		s.startAttempt)
	huma.Register(s.api, get("attempt", "/api/training/attempts/{id}", "An attempt"),
		func(ctx context.Context, in *JobIn) (*out[*train.AttemptView], error) {
			at, err := s.attempt(ctx, in.ID)
			if err != nil {
				return nil, err
			}
			return s.attemptView(ctx, at)
		})
	huma.Register(s.api, get("attempt_kit", "/api/training/attempts/{id}/kit",
		"An attempt with what it hides, to go on with it without the server"), s.attemptKit)
	huma.Register(s.api, get("best_possible", "/api/training/attempts/{id}/best",
		"The shortest way to the verdict that there was, sought once the attempt is over; null where none was found"),
		s.bestPossible)
	huma.Register(s.api, allow(people.See,
		put("move", "/api/training/attempts/{id}/moves/{n}", "Make the n-th move; sent again it changes nothing")),
		s.move)
	huma.Register(s.api, post("exercise_from_job", "/api/jobs/{id}/exercise",
		"Make an exercise of what a job turned out to be"), s.exerciseFromJob)
	huma.Register(s.api, get("drill", "/api/training/drill", "One quick question about a made-up machine"),
		s.drill)
	huma.Register(s.api, allow(people.See, post("drilled", "/api/training/drill", "Keep an answer of the drill")),
		s.drilled)
}

// training answers GET /api/training: courses, own exercises and progress.
func (s *Server) training(ctx context.Context, _ *struct{}) (*out[TrainView], error) {
	u := caller(ctx)
	mine, _, err := s.st.Attempts(ctx, &u.ID, 500)
	if err != nil {
		return nil, s.fail(ctx, "training", err)
	}
	best := map[string]int{}
	for _, a := range mine {
		if a.Score != nil && (best[a.Ex.ID] <= *a.Score) {
			best[a.Ex.ID] = *a.Score
		}
	}
	v := TrainView{Courses: []CourseView{}, Attempts: []AttemptLine{}}
	view := func(ex train.Exercise) ExerciseView {
		x := ExerciseView{ID: ex.ID, Title: ex.Title, Circuit: ex.Circuit, Complaint: ex.Complaint}
		if b, ok := best[ex.ID]; ok {
			x.Best = &b
		}
		return x
	}
	own, err := s.st.Exercises(ctx)
	if err != nil {
		return nil, s.fail(ctx, "training", err)
	}
	for _, c := range train.Courses() {
		cv := CourseView{c.ID, c.Title, c.About, []ExerciseView{}}
		for _, ex := range c.Exercises {
			cv.Exercises = append(cv.Exercises, view(ex))
		}
		v.Courses = append(v.Courses, cv)
	}
	if len(own) > 0 {
		cv := CourseView{"own", "From our own workshop", "Jobs that were solved here.", []ExerciseView{}}
		for _, ex := range own {
			cv.Exercises = append(cv.Exercises, view(ex))
		}
		v.Courses = append(v.Courses, cv)
	}
	list, names := mine, []string(nil)
	if people.RoleOf(u.Role).May(people.Manage) {
		if list, names, err = s.st.Attempts(ctx, nil, 100); err != nil {
			return nil, s.fail(ctx, "training", err)
		}
	}
	for i, a := range list[:min(len(list), 60)] {
		l := AttemptLine{ID: a.ID.String(), Title: a.Ex.Title, Circuit: a.Ex.Circuit, At: a.At, OverAt: a.OverAt,
			Score: a.Score, Mine: a.User == u.ID, Who: u.Name}
		if names != nil {
			l.Who = names[i]
		}
		var d train.Debrief
		if json.Unmarshal(a.Debrief, &d) == nil {
			l.Says = d.Says
		}
		v.Attempts = append(v.Attempts, l)
	}
	v.Drill[0], v.Drill[1], err = s.st.DrillScore(ctx, u.ID)
	if err != nil {
		return nil, s.fail(ctx, "training", err)
	}
	return body(v), nil
}

// startAttemptIn is the request of startAttempt.
type startAttemptIn struct {
	Body train.Begin
}

// startAttempt answers POST /api/training/attempts: start an exercise; the same seed gives the same machine.
func (s *Server) startAttempt(ctx context.Context, in *startAttemptIn) (*out[*train.AttemptView], error) {
	u := caller(ctx)
	id, err := uuid.Parse(in.Body.ID)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("An attempt needs an id of its own.")
	}
	ex, err := s.exercise(ctx, &in.Body)
	if err != nil {
		return nil, err
	}
	at, err := s.st.StartAttempt(ctx, id, u.ID, *ex)
	if err != nil {
		return nil, s.fail(ctx, "attempt", err)
	}
	return s.attemptView(ctx, at)
}

// bestPossible answers GET /api/training/attempts/{id}/best: the shortest way to the verdict that
// there was, sought once the attempt is over; null where none was found.
func (s *Server) bestPossible(ctx context.Context, in *JobIn) (*out[*train.Hindsight], error) {
	at, err := s.attempt(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	d := &train.Debrief{}
	if at.OverAt == nil || string(at.Debrief) == "null" || json.Unmarshal(at.Debrief, d) != nil {
		return nil, huma.Error422UnprocessableEntity("Give your verdict first: then the shortest way is told.")
	}
	if !d.Sought {
		a, err := s.trainer(ctx, at.Ex.Circuit)
		if err != nil {
			return nil, s.fail(ctx, "trainer", err)
		}
		if d.Best, err = train.WithHindsight(ctx, a, at.Ex); err != nil {
			return nil, s.fail(ctx, "best possible", err)
		}
		d.Sought = true
		if err := s.st.Debriefed(ctx, at.ID, d); err != nil {
			return nil, s.fail(ctx, "debrief", err)
		}
	}
	return body(d.Best), nil
}

// moveIn is the request of move.
type moveIn struct {
	ID   uuid.UUID `path:"id" format:"uuid"`
	N    int       `path:"n" minimum:"1" maximum:"200"`
	Body train.Move
}

// move answers PUT /api/training/attempts/{id}/moves/{n}: make the n-th move; sent again it changes nothing.
func (s *Server) move(ctx context.Context, in *moveIn) (*out[*train.AttemptView], error) {
	u := caller(ctx)
	id := in.ID
	at, err := s.st.Move(ctx, store.Turn{Attempt: id, User: u.ID, N: in.N}, in.Body, func(at *store.Attempt) (bool, error) {
		a, err := s.trainer(ctx, at.Ex.Circuit)
		if err != nil {
			return false, err
		}
		t, err := train.Replay(a, at.Ex, at.Moves)
		if err != nil {
			return false, err
		}
		return t.Over, nil
	})
	var r *train.Refused
	switch {
	case errors.As(err, &r):
		return nil, huma.Error422UnprocessableEntity(phrase.Sentence(r.Why))
	case errors.Is(err, store.ErrLate):
		return nil, huma.Error409Conflict("Another move came first: look at the attempt again.")
	case err != nil:
		return nil, s.fail(ctx, "move", err)
	}
	return s.attemptView(ctx, at)
}

// drillIn is the request of drill.
type drillIn struct {
	Seed    uint64 `query:"seed" maximum:"9007199254740991"`
	Circuit string `query:"circuit" maxLength:"64"`
}

// drill answers GET /api/training/drill: one quick question about a made-up machine.
func (s *Server) drill(ctx context.Context, in *drillIn) (*out[*train.Round], error) {
	a, err := s.trainer(ctx, train.DrillOn(in.Circuit, in.Seed))
	if err != nil {
		return nil, s.fail(ctx, "drill", err)
	}
	q, err := train.Drill(ctx, a, in.Seed)
	if err != nil {
		return nil, s.fail(ctx, "drill", err)
	}
	return body(q), nil
}

// drilledIn is the request of drilled.
type drilledIn struct {
	Body struct {
		ID      string `json:"id" format:"uuid"`
		Kind    string `json:"kind" maxLength:"16"`
		Circuit string `json:"circuit" maxLength:"64"`
		Right   bool   `json:"right"`
	}
}

// drilled answers POST /api/training/drill: keep an answer of the drill.
func (s *Server) drilled(ctx context.Context, in *drilledIn) (*out[[2]int], error) {
	u := caller(ctx)
	id, err := uuid.Parse(in.Body.ID)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("An answer needs an id of its own.")
	}
	if err := s.st.Drilled(ctx, store.DrillAnswer{ID: id, User: u.ID, Kind: in.Body.Kind, Circuit: in.Body.Circuit,
		Right: in.Body.Right}); err != nil {
		return nil, s.fail(ctx, "drill", err)
	}
	r, of, err := s.st.DrillScore(ctx, u.ID)
	if err != nil {
		return nil, s.fail(ctx, "drill", err)
	}
	return body([2]int{r, of}), nil
}

// attemptKit is an attempt to be carried along.
func (s *Server) attemptKit(ctx context.Context, in *JobIn) (*out[train.AttemptKit], error) {
	at, err := s.attempt(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	c, _, err := s.st.Circuit(ctx, at.Ex.Circuit)
	if err != nil {
		return nil, s.fail(ctx, "attempt", err)
	}
	return body(train.AttemptKit{ID: at.ID.String(), Exercise: &at.Ex, Circuit: c, Moves: append([]train.Move{}, at.Moves...)}), nil
}

// exerciseFromJob makes an exercise of what a job turned out to be.
func (s *Server) exerciseFromJob(ctx context.Context, in *JobIn) (*out[ExerciseView], error) {
	u := caller(ctx)
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	os, err := s.st.Outcomes(ctx, j.ID)
	if err != nil {
		return nil, s.fail(ctx, "exercise", err)
	}
	was := ""
	for _, k := range slices.Backward(slices.Sorted(maps.Keys(os))) { // the first repair's fault
		if os[k].Fault != "" {
			was = os[k].Fault
		}
	}
	if was == "" {
		return nil, huma.Error422UnprocessableEntity("This job does not say which fault it was: prove it first.")
	}
	seed := uint64(0)
	for _, b := range j.ID[10:] {
		seed = seed<<8 | uint64(b)
	}
	ex, err := train.FromJob("job-"+j.ID.String(), train.Solved{Circuit: j.Case.Circuit, Machine: j.Machine.Name,
		Complaint: j.Complaint, Fault: was}, seed)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity(phrase.Sentence(err.Error()))
	}
	ex.Intermittent = j.Case.Intermittent
	if strings.TrimSpace(ex.Complaint) == "" {
		ex.Complaint = "It does not do its work."
	}
	if err := s.st.PutExercise(ctx, ex, u.ID); err != nil {
		return nil, s.fail(ctx, "exercise", err)
	}
	return body(ExerciseView{ID: ex.ID, Title: ex.Title, Circuit: ex.Circuit, Complaint: ex.Complaint}), nil
}
