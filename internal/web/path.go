package web

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"corriente/core/casefile"
	"corriente/core/diagnose"
	"corriente/core/record"
)

// pathRoutes say how a job goes: through its stages, and through its readings.
func (s *Server) pathRoutes(get opFunc) {
	huma.Register(s.api, get("path", "/api/jobs/{id}/path",
		"How far a job has come, stage by stage, and what is to be done next"),
		s.getPath)
	huma.Register(s.api, get("suspicion", "/api/jobs/{id}/suspicion",
		"How suspicion went, from before the first reading to the last"),
		s.suspicion)
}

// getPath answers GET /api/jobs/{id}/path: how far a job has come, stage by stage, and what is to be done next.
func (s *Server) getPath(ctx context.Context, in *JobIn) (*out[*record.PathView], error) {
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	lines, err := s.st.Strip(ctx, j.ID)
	if err != nil {
		return nil, s.fail(ctx, "strip", err)
	}
	op, err := s.ws.Advisers.Weigh(ctx, j)
	if err != nil {
		return nil, s.fail(ctx, "path", err)
	}
	return body(j.Record().Path(op, lines, j.ClosedAt != nil)), nil
}

// suspicion answers GET /api/jobs/{id}/suspicion: how suspicion went, from before the first reading to the last.
func (s *Server) suspicion(ctx context.Context, in *JobIn) (*out[*record.SuspicionView], error) {
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	a, err := s.ws.Advisers.Get(j.Case.Circuit)
	if err != nil {
		return nil, s.fail(ctx, "suspicion", err)
	}
	bound, cancel := context.WithTimeout(ctx, s.ws.Advisers.Patience)
	defer cancel()
	leave, err := s.ws.Advisers.Spare(bound, j.ID)
	if err != nil {
		return nil, s.fail(ctx, "suspicion", err)
	}
	defer leave()
	v, err := j.Record().Suspicion(func(c *casefile.Case) (*diagnose.Opinion, error) {
		dj := diagnose.JobOf(c)
		dj.Known.Unreachable, dj.Complaint = j.Unreachable, j.Complaint
		return a.Glance(bound, dj)
	})
	if err != nil {
		return nil, s.fail(ctx, "suspicion", err)
	}
	return body(v), nil
}
