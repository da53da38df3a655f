package web

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/strip"
	"corriente/core/unit"
	"corriente/internal/report"
	"corriente/internal/store"
)

// reportOf gathers what is printed of a job.
func (s *Server) reportOf(ctx context.Context, j *store.Job, photos bool) (*report.Report, error) {
	c := j.Case.Circuit
	v, before, err := s.proof(ctx, j)
	if err != nil {
		return nil, err
	}
	now, err := s.adv.weigh(ctx, j)
	if err != nil {
		return nil, err
	}
	name, err := s.st.Setting(ctx, "workshop")
	if err != nil {
		return nil, err
	}
	if name == "" {
		name = "Workshop"
	}
	r := &report.Report{Workshop: name, Job: j.ID.String()[30:], Machine: j.Machine.Name, Place: j.Machine.Place, Circuit: c.Title, Complaint: j.Complaint, Opened: j.OpenedAt, Closed: j.ClosedAt, Found: before.Verdict.Says}
	for _, w := range before.Evidence {
		at := ""
		if before.Verdict.Station != nil {
			at = *before.Verdict.Station
		}
		if w.Bits[at] > 0.3 && w.Index >= 1 && w.Index <= len(j.Case.Evidence) {
			r.RestsOn = append(r.RestsOn, evidenceWords(c, j, w.Index-1)+": "+w.Says)
		}
	}
	for _, d := range before.Diagnoses[:min(len(before.Diagnoses), 6)] {
		r.Suspects = append(r.Suspects, report.Suspect{Label: d.Label, P: d.Probability})
	}
	if n := len(j.Decisions); n > 0 {
		d := j.Decisions[n-1]
		r.Done = d.Label
		if r.Done == "" {
			r.Done = strings.ToUpper(d.Option[:1]) + d.Option[1:] + ": " + c.Station(d.Station).Label
		}
		r.Choice = "Chosen by the " + d.By
		if d.Who != "" {
			r.Choice += ", " + d.Who
		}
		r.Choice += " on " + d.At.Format("2 January 2006")
		if d.Reason != "" {
			r.Choice += ": " + d.Reason
		}
		r.Choice += "."
		p := d.Price
		r.Estimate = &p
		st := c.Station(d.Station)
		if d.Option == "temporary" {
			on, what, err := s.st.FollowUpOf(ctx, j.ID)
			if err != nil {
				return nil, err
			}
			r.Temporary, r.Until = strings.TrimPrefix(what, "Temporary repair, "), on
		}
		for id, a := range map[string]*circuit.Action{"repair": st.Repair, "replace": st.Replace} {
			if a != nil && id == d.Option {
				r.Watch = append(r.Watch, fmt.Sprintf("Work of this kind usually lasts about %.0f years.", max(a.LifeYears, 1)))
			}
		}
	}
	for _, x := range j.Case.Repairs {
		if x.What != "" {
			r.Done = x.What
		}
	}
	costs, err := s.st.Costs(ctx, j.ID)
	if err != nil {
		return nil, err
	}
	if costs != nil {
		r.Paid, r.Parts, r.Minutes = &costs.Price, &costs.Parts, &costs.Minutes
	}
	for i := range before.Evidence {
		w := &before.Evidence[i]
		if k := w.Index - 1; k >= 0 && k < len(j.Case.Evidence) {
			r.Readings = append(r.Readings, s.reading(c, j, k, w.Says))
		}
	}
	for k := len(before.Evidence); k < len(j.Case.Evidence); k++ {
		r.Readings = append(r.Readings, s.reading(c, j, k, "after the work"))
	}
	for _, k := range v.Checks {
		x := report.Check{Label: k.Label, Before: k.BeforeSays, After: k.AfterSays, Good: k.GoodSays}
		if k.Passed != nil && *k.Passed {
			x.Verdict = "good"
		} else if k.Passed != nil {
			x.Verdict = "not good"
		}
		r.Checks = append(r.Checks, x)
	}
	if n := len(v.Records); n > 0 {
		p := v.Records[n-1]
		r.Proof = map[string]string{"passed": "Proved good", "remark": "Proved good, with a remark", "failed": "Not proved"}[p.Result] + ", " + p.At.Format("2 January 2006") + ", " + p.Signed + "."
		r.Remark, r.Counter, r.By = p.Remark, p.Counter, p.Signed
	}
	lines, err := s.st.Strip(ctx, j.ID)
	if err != nil {
		return nil, err
	}
	for _, l := range lines {
		if l.Struck {
			continue
		}
		e := strip.Parse(l.Text)
		r.Strip = append(r.Strip, l.Text)
		for _, x := range e.Relearn {
			if !slices.Contains(r.Watch, x+".") && len(r.Watch) < 5 {
				r.Watch = append(r.Watch, x+".")
			}
		}
		if !photos {
			continue
		}
		for _, id := range l.Photos {
			if len(r.Photos) >= 24 {
				break
			}
			_, b, err := s.st.Photo(ctx, id, false)
			if err != nil && !errors.Is(err, store.ErrNotFound) {
				return nil, err
			}
			r.Photos = append(r.Photos, report.Photo{Label: e.What, JPEG: b}) // one that is gone is said to be so
		}
	}
	r.Watch = append(r.Watch, "If the same comes back, bring it in: the readings are on file.")
	notes, err := s.st.Notes(ctx, j.ID)
	if err != nil {
		return nil, err
	}
	for _, n := range notes {
		r.Notes = append(r.Notes, n.Text)
	}
	if st := c.State(c.RunState); st != nil && st.Powered() {
		if p, err := before.Picture(c.RunState); err == nil {
			r.Before = p
		}
		if v.Repaired {
			if p, err := now.Picture(c.RunState); err == nil {
				r.After = p
			}
		}
	}
	return r, nil
}

// PaperView is the customer's page, for the screen and its printer.
type PaperView struct {
	Workshop string       `json:"workshop"`
	Job      string       `json:"job"`
	Found    string       `json:"found"`
	Done     string       `json:"done"`
	Choice   string       `json:"choice"`
	Estimate *float64     `json:"estimate,omitempty"`
	Paid     *float64     `json:"paid,omitempty"`
	Proof    string       `json:"proof"`
	Remark   string       `json:"remark"`
	Checks   []PaperCheck `json:"checks"`
	Watch    []string     `json:"watch"`
	Until    *time.Time   `json:"until,omitempty" doc:"of a temporary repair"`
	Limit    string       `json:"limit,omitempty" doc:"of a temporary repair"`

	Before *diagnose.Picture `json:"before,omitempty"`
	After  *diagnose.Picture `json:"after,omitempty"`
}

// PaperCheck is one line of a proof.
type PaperCheck struct {
	Label   string `json:"label"`
	Before  string `json:"before"`
	After   string `json:"after"`
	Good    string `json:"good"`
	Verdict string `json:"verdict"`
}

func (s *Server) reportRoutes(get opFunc) {
	huma.Register(s.api, get("paper", "/api/jobs/{id}/paper", "The customer's page"), func(ctx context.Context, in *JobIn) (*out[PaperView], error) {
		j, err := s.load(ctx, in.ID)
		if err != nil {
			return nil, err
		}
		r, err := s.reportOf(ctx, j, false)
		if err != nil {
			return nil, s.fail("paper", err)
		}
		v := PaperView{Workshop: r.Workshop, Job: r.Job, Found: r.Found, Done: r.Done, Choice: r.Choice, Estimate: r.Estimate, Paid: r.Paid, Proof: r.Proof, Remark: r.Remark,
			Checks: []PaperCheck{}, Watch: r.Watch, Until: r.Until, Limit: r.Temporary, Before: r.Before, After: r.After}
		for _, c := range r.Checks {
			v.Checks = append(v.Checks, PaperCheck(c))
		}
		return body(v), nil
	})
}

func evidenceWords(c *circuit.Circuit, j *store.Job, k int) string {
	e := &j.Case.Evidence[k]
	if o := c.Observation(e.Observe); o != nil {
		return o.Label + ", " + said(c, e)
	}
	w := words(c, &diagnose.Suggestion{Measure: string(e.Measure), From: e.From, To: e.To, Through: e.Through})
	return strings.ToUpper(w[:1]) + w[1:] + ", " + said(c, e)
}

func (s *Server) reading(c *circuit.Circuit, j *store.Job, k int, says string) report.Reading {
	e := &j.Case.Evidence[k]
	x := report.Reading{N: k + 1, Value: said(c, e), Says: says, Struck: e.Struck, By: j.TakenBy[k]}
	if st := c.State(e.State); st != nil {
		x.State = strings.ToLower(st.Label)
	}
	if t, err := time.Parse(time.RFC3339Nano, e.TakenAt); err == nil {
		x.At = t.Format("2 Jan 15:04")
	}
	if o := c.Observation(e.Observe); o != nil {
		x.What = o.Label
		return x
	}
	w := words(c, &diagnose.Suggestion{Measure: string(e.Measure), From: e.From, To: e.To, Through: e.Through})
	x.What = strings.ToUpper(w[:1]) + w[1:]
	if u := e.Sigma(j.Case.Instruments); u > 0 && !e.Reading.Over {
		x.Sig = "± " + unit.Format(2*u, e.Measure)
	}
	return x
}

// pdf prints a job: customer, file or label.
func (s *Server) pdf(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	if _, err := s.signedIn(ctx); err != nil {
		writeProblem(w, http.StatusUnauthorized, "Sign in first.")
		return
	}
	j, err := s.load(ctx, chi.URLParam(r, "id"))
	if err != nil {
		writeProblem(w, http.StatusNotFound, "There is no job at this address.")
		return
	}
	kind := chi.URLParam(r, "kind")
	rep, err := s.reportOf(ctx, j, kind == "file")
	if err != nil {
		s.log.Error("report", "err", err)
		writeProblem(w, http.StatusInternalServerError, "The report could not be made: try again.")
		return
	}
	write := map[string]func(io.Writer) error{"customer": rep.Customer, "file": rep.File, "label": rep.Label}[kind]
	if write == nil {
		writeProblem(w, http.StatusNotFound, "There is a customer's page, a file copy and a label.")
		return
	}
	var b bytes.Buffer
	if err := write(&b); err != nil {
		s.log.Error("report", "err", err)
		writeProblem(w, http.StatusInternalServerError, "The report could not be made: try again.")
		return
	}
	w.Header().Set("Content-Type", "application/pdf")
	w.Header().Set("Content-Disposition", fmt.Sprintf("inline; filename=%q", kind+"-"+rep.Job+".pdf"))
	_, _ = w.Write(b.Bytes())
}
