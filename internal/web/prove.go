package web

import (
	"context"
	"fmt"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"corriente/core/record"
	"corriente/core/work"
	"corriente/internal/store"
)

func (s *Server) proveRoutes(get, put, post opFunc) {
	huma.Register(s.api, get("proof", "/api/jobs/{id}/proof",
		"What would show the repairs to be good, and how far that is"),
		func(ctx context.Context, in *JobIn) (*out[*record.ProveView], error) {
			return s.proof(ctx, in.ID)
		})
	huma.Register(s.api, put("tick", "/api/jobs/{id}/proof/ticks/{tick}",
		"Tick something towards the proof; an empty value takes it away"), s.tick)
	huma.Register(s.api, post("prove", "/api/jobs/{id}/proof", "Sign the proof: passed, accepted with a remark, or failed"), s.sign)
}

// tickIn is the request of tick.
type tickIn struct {
	JobIn
	Tick string `path:"tick" maxLength:"64"`
	Body struct {
		Value string `json:"value" maxLength:"200"`
	}
}

// tick answers PUT /api/jobs/{id}/proof/ticks/{tick}: tick something towards the proof; an empty value takes it away.
func (s *Server) tick(ctx context.Context, in *tickIn) (*out[*record.ProveView], error) {
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	if err := s.st.PutTick(ctx, j.ID, in.Tick, strings.TrimSpace(in.Body.Value)); err != nil {
		return nil, s.fail(ctx, "tick", err)
	}
	return s.proof(ctx, in.ID)
}

func (s *Server) proof(ctx context.Context, id uuid.UUID) (*out[*record.ProveView], error) {
	j, err := s.load(ctx, id)
	if err != nil {
		return nil, err
	}
	v, err := s.ws.Proof(ctx, j)
	if err != nil {
		return nil, s.shop(ctx, "proof", err)
	}
	return body(v), nil
}

func (s *Server) sign(ctx context.Context, in *struct {
	JobIn
	Body record.ProofIn
}) (*out[*record.ProveView], error) {
	u, pid, j, err := s.writeTo(ctx, in.ID, in.Body.ID)
	if err != nil {
		return nil, err
	}
	b := &in.Body
	j, err = s.ws.Sign(ctx, j, record.Signature{ID: pid.String(), Result: b.Result,
		Remark: strings.TrimSpace(b.Remark), Signed: strings.TrimSpace(b.Signed),
		Counter: strings.TrimSpace(b.Counter), Was: b.Was, At: store.When(b.At)}, u.ID)
	if err != nil {
		return nil, s.shop(ctx, "prove", err)
	}
	a := s.act(ctx, "papers", fmt.Sprintf("Signed a proof as %s: %s, %s.", strings.TrimSpace(b.Signed),
		j.Machine.Name, map[string]string{work.Passed: "passed", work.Remark: "accepted with a remark", work.Failed: "failed"}[b.Result]))
	a.ID = pid // sent again, it was signed once
	if err := s.st.PutAct(ctx, a); err != nil {
		return nil, s.fail(ctx, "prove", err)
	}
	v, err := s.ws.Proof(ctx, j)
	if err != nil {
		return nil, s.shop(ctx, "proof", err)
	}
	return body(v), nil
}
