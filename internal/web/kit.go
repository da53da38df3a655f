package web

import (
	"bytes"
	"context"

	"github.com/danielgtaylor/huma/v2"

	"corriente/core/record"
)

// kitRoutes give a job to be carried along: all that the core needs to go on with it in a
// browser without a connection.
func (s *Server) kitRoutes(get opFunc) {
	huma.Register(s.api, get("job_kit", "/api/jobs/{id}/kit",
		"A job with all that is kept beside it, to go on with it without the server"),
		s.jobKit)
}

// jobKit answers GET /api/jobs/{id}/kit: a job with all that is kept beside it, to go on with it without the server.
func (s *Server) jobKit(ctx context.Context, in *JobIn) (*out[*record.Kit], error) {
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	k := &record.Kit{}
	var text bytes.Buffer
	if err := j.Export().Write(&text); err != nil {
		return nil, s.fail(ctx, "kit", err)
	}
	k.Case = text.Bytes()
	b, err := s.ws.Beside(ctx, j)
	if err != nil {
		return nil, s.fail(ctx, "kit", err)
	}
	k.Beside = *b
	if k.Own, err = s.st.CraftNotes(ctx); err != nil {
		return nil, s.fail(ctx, "kit", err)
	}
	if k.Notes, err = s.notes(ctx, j.ID); err != nil {
		return nil, s.fail(ctx, "kit", err)
	}
	if k.Terms, err = s.ws.Terms(ctx, j.ID); err != nil {
		return nil, s.fail(ctx, "kit", err)
	}
	if k.Lived, err = s.ws.LivedOf(ctx, j.Case.Circuit); err != nil {
		return nil, s.fail(ctx, "kit", err)
	}
	set, err := s.ws.Settings(ctx)
	if err != nil {
		return nil, s.fail(ctx, "kit", err)
	}
	k.Zone = set.Zone().String()
	return body(k), nil
}
