package web

import (
	"bytes"
	"context"
	"fmt"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"corriente/internal/report"
	"corriente/internal/store"
)

func (s *Server) reportRoutes(get opFunc) {
	huma.Register(s.api, get("paper", "/api/jobs/{id}/paper", "The customer's page: the text that is printed"),
		s.getPaper)
}

// getPaper answers GET /api/jobs/{id}/paper: the customer's page: the text that is printed.
func (s *Server) getPaper(ctx context.Context, in *JobIn) (*out[*report.Paper], error) {
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	p, err := s.ws.Customer(ctx, j)
	if err != nil {
		return nil, s.shop(ctx, "paper", err)
	}
	return body(p), nil
}

// pdf prints a job: customer, file or label.
func (s *Server) pdf(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	id, err := uuid.Parse(chi.URLParam(r, "id"))
	if err != nil {
		writeProblem(w, http.StatusNotFound, "There is no job at this address.")
		return
	}
	j, err := s.load(ctx, id)
	if err != nil {
		writeProblem(w, http.StatusNotFound, "There is no job at this address.")
		return
	}
	kind := chi.URLParam(r, "kind")
	var b bytes.Buffer
	known, err := s.print(ctx, &b, j, kind)
	switch {
	case !known:
		writeProblem(w, http.StatusNotFound, "There is a customer's page, a file copy and a label.")
		return
	case err != nil:
		s.log.Error("report", "err", err)
		writeProblem(w, http.StatusInternalServerError, "The report could not be made: try again.")
		return
	}
	w.Header().Set("Content-Type", "application/pdf")
	w.Header().Set("Content-Disposition", fmt.Sprintf("inline; filename=%q", kind+"-"+j.ID.String()[30:]+".pdf"))
	_, _ = w.Write(b.Bytes())
}

// print writes one of a job's papers; known is false where there is none of that kind.
func (s *Server) print(ctx context.Context, b *bytes.Buffer, j *store.Job, kind string) (known bool, err error) {
	switch kind {
	case "customer":
		p, err := s.ws.Customer(ctx, j)
		if err != nil {
			return true, err
		}
		return true, p.Write(b, nil)
	case "file":
		p, photos, err := s.ws.File(ctx, j)
		if err != nil {
			return true, err
		}
		return true, p.Write(b, photos)
	case "label":
		l, err := s.ws.LabelOf(ctx, j)
		if err != nil {
			return true, err
		}
		return true, l.Write(b)
	}
	return false, nil
}
