package web

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"corriente/core/parts"
	"corriente/core/phrase"
	"corriente/core/record"
	"corriente/core/repair"
	"corriente/internal/people"
	"corriente/internal/store"
	"corriente/internal/supplier"
)

// PartsView is where a part is to be had.
type PartsView struct {
	Parts    []parts.Part `json:"parts"`
	Supplier string       `json:"supplier" doc:"why the supplier said nothing; empty when it answered or there is none"`
}

// Import is a list as read line by line, before anything is kept or after.
type Import struct {
	Lines []parts.ListLine `json:"lines"`
	Good  int              `json:"good"`
	Wrong int              `json:"wrong"`
	Kept  int              `json:"kept"`
}

// CostsIn is what a job came to in the end.
type CostsIn struct {
	Parts   float64 `json:"parts" minimum:"0" maximum:"1000000"`
	Minutes float64 `json:"minutes" minimum:"0" maximum:"100000"`
	Price   float64 `json:"price" minimum:"0" maximum:"1000000" doc:"what was charged"`
	Note    string  `json:"note,omitempty" maxLength:"400"`
}

// RepairCosts is what one repair came to.
type RepairCosts struct {
	CostsIn
	Repair string `json:"repair" doc:"id of the repair; empty: of the whole job, entered before costs were kept apart"`
}

// DecideIn is what is chosen, with what it was computed with.
type DecideIn struct {
	Decision
	Terms  *repair.Terms             `json:"terms,omitempty" doc:"what it was computed with; a veto is checked against it"`
	Wishes record.Wishes             `json:"wishes,omitempty"`
	With   map[string]repair.Figures `json:"with,omitempty"`
	At     string                    `json:"at,omitempty" maxLength:"40" doc:"when it was done, where it is sent later; else it is now"`
}

// shop turns what the workshop refuses into one sentence, and what failed into an answer.
func (s *Server) shop(ctx context.Context, what string, err error) error {
	var r *record.Refusal
	if errors.As(err, &r) {
		return huma.Error422UnprocessableEntity(phrase.Sentence(r.Says))
	}
	return s.fail(ctx, what, err)
}

func (s *Server) decideRoutes(get, put, post opFunc) {
	huma.Register(s.api, allow(people.See, post("compare", "/api/jobs/{id}/compare", "What can be done, by expected cost")), s.compare)
	huma.Register(s.api, get("job_terms", "/api/jobs/{id}/terms",
		"What the customer wants, and the figures typed for this job"), s.jobTerms)
	huma.Register(s.api, put("put_job_terms", "/api/jobs/{id}/terms",
		"Keep what the customer wants, and the figures typed for this job"), s.putJobTerms)
	huma.Register(s.api, post("decide", "/api/jobs/{id}/decisions", "Record what was chosen"), s.decide)
	huma.Register(s.api, post("repair", "/api/jobs/{id}/repairs",
		"What was chosen is done, or a part was put right; the job goes on"), s.repair)
	huma.Register(s.api, put("reword", "/api/jobs/{id}/repairs/{repair}", "What was done, in other words, until it is signed"), s.reword)
	huma.Register(s.api, put("costs", "/api/jobs/{id}/costs/{repair}", "What a repair came to in the end"), s.putCosts)
	huma.Register(s.api, get("job_costs", "/api/jobs/{id}/costs",
		"What a job's repairs came to in the end, as far as it was entered"), s.costs)
	s.partRoutes(get, put)
}

func (s *Server) compare(ctx context.Context, in *struct {
	JobIn
	Body record.Compare
}) (*out[*record.OptionsView], error) {
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	v, err := s.ws.Compare(ctx, j, in.Body)
	if err != nil {
		return nil, s.shop(ctx, "compare", err)
	}
	return body(v), nil
}

func (s *Server) jobTerms(ctx context.Context, in *JobIn) (*out[record.JobTerms], error) {
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	t, err := s.ws.Terms(ctx, j.ID)
	if err != nil {
		return nil, s.shop(ctx, "terms", err)
	}
	return body(t), nil
}

func (s *Server) putJobTerms(ctx context.Context, in *struct {
	JobIn
	Body record.JobTerms
}) (*out[record.JobTerms], error) {
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	if err := s.ws.PutTerms(ctx, j.ID, in.Body); err != nil {
		return nil, s.shop(ctx, "terms", err)
	}
	return body(in.Body), nil
}

func (s *Server) decide(ctx context.Context, in *struct {
	JobIn
	Body DecideIn
}) (*out[JobView], error) {
	u, did, j, err := s.writeTo(ctx, in.ID, in.Body.ID)
	if err != nil {
		return nil, err
	}
	b := &in.Body
	c := record.ChoiceIn{ID: did.String(), Option: b.Option, Station: b.Station, Stations: b.Stations, Price: b.Price,
		Reason: strings.TrimSpace(b.Reason), By: b.By, Who: strings.TrimSpace(b.Who),
		Label: strings.TrimSpace(b.Label), SetAside: strings.TrimSpace(b.SetAside), Compare: record.Compare{Wishes: b.Wishes, With: b.With}}
	if b.Terms != nil {
		c.Terms = *b.Terms
	}
	if j, err = s.ws.Decide(ctx, j, c.Choice(store.When(b.At)), u.ID); err != nil {
		return nil, s.shop(ctx, "decide", err)
	}
	return s.view(ctx, j, in.State)
}

func (s *Server) repair(ctx context.Context, in *struct {
	JobIn
	Body record.WorkIn
}) (*out[JobView], error) {
	u, wid, j, err := s.writeTo(ctx, in.ID, in.Body.ID)
	if err != nil {
		return nil, err
	}
	j, err = s.ws.Done(ctx, j, record.Work{ID: wid.String(), Decision: in.Body.Decision, Station: in.Body.Station,
		What: strings.TrimSpace(in.Body.What), At: store.When(in.Body.At), Late: in.Body.At != ""}, u.ID)
	if err != nil {
		return nil, s.shop(ctx, "repair", err)
	}
	return s.view(ctx, j, in.State)
}

func (s *Server) reword(ctx context.Context, in *struct {
	JobIn
	Repair string `path:"repair" maxLength:"36"`
	Body   struct {
		What string `json:"what" minLength:"2" maxLength:"400"`
	}
}) (*out[JobView], error) {
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	if j, err = s.ws.Reword(ctx, j.ID, in.Repair, strings.TrimSpace(in.Body.What)); err != nil {
		return nil, s.shop(ctx, "reword", err)
	}
	return s.view(ctx, j, in.State)
}

func (s *Server) putCosts(ctx context.Context, in *struct {
	JobIn
	Repair uuid.UUID `path:"repair" format:"uuid"`
	Body   CostsIn
}) (*out[CostsIn], error) {
	u, rid := caller(ctx), in.Repair
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	if !slices.ContainsFunc(j.Record().Views(time.UTC), func(r record.RepairView) bool { return r.ID == rid.String() }) {
		return nil, huma.Error404NotFound("This job has no such repair.")
	}
	b := in.Body
	if err := s.st.PutCosts(ctx, j.ID, rid,
		store.Costs{Parts: b.Parts, Minutes: b.Minutes, Price: b.Price, Note: strings.TrimSpace(b.Note)}, u.ID); err != nil {
		return nil, s.fail(ctx, "costs", err)
	}
	return body(b), nil
}

func (s *Server) costs(ctx context.Context, in *JobIn) (*out[[]RepairCosts], error) {
	j, err := s.load(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	cs, err := s.st.Costs(ctx, j.ID)
	if err != nil {
		return nil, s.fail(ctx, "costs", err)
	}
	list := []RepairCosts{}
	for id, c := range cs {
		x := RepairCosts{CostsIn{c.Parts, c.Minutes, c.Price, c.Note}, id.String()}
		if id == uuid.Nil {
			x.Repair = ""
		}
		list = append(list, x)
	}
	slices.SortFunc(list, func(a, b RepairCosts) int { return strings.Compare(a.Repair, b.Repair) })
	return body(list), nil
}

func (s *Server) partRoutes(get, put opFunc) {
	huma.Register(s.api, get("parts", "/api/parts",
		"Where a part is to be had: shelf, lists and supplier, by what it is and measures"), s.parts)
	list := put("import_parts", "/api/parts",
		"A price list as CSV: read line by line; kept only when asked, and only when no line is wrong")
	list.MaxBodyBytes, list.SkipValidateBody = maxBody, true
	huma.Register(s.api, list, s.importParts)
	huma.Register(s.api, allow(people.Manage,
		put("supplier", "/api/settings/supplier", "Set the address of the supplier's service; empty for none")),
		s.supplier)
}

// partsIn is the request of parts.
type partsIn struct {
	Q string `query:"q" maxLength:"120"`
}

// parts answers GET /api/parts: where a part is to be had: shelf, lists and supplier, by what it is and measures.
func (s *Server) parts(ctx context.Context, in *partsIn) (*out[PartsView], error) {
	ps, err := s.st.FindParts(ctx, in.Q, 60)
	if err != nil {
		return nil, s.fail(ctx, "parts", err)
	}
	v := PartsView{Parts: ps}
	at, err := s.st.Setting(ctx, "supplier")
	if err != nil {
		return nil, s.fail(ctx, "parts", err)
	}
	if at != "" && strings.TrimSpace(in.Q) != "" {
		more, err := supplier.Ask(ctx, at, in.Q)
		if err != nil {
			v.Supplier = phrase.Sentence(err.Error())
		}
		v.Parts = append(v.Parts, more...)
		parts.Sort(v.Parts, parts.Words(in.Q), parts.Sizes(in.Q))
	}
	return body(v), nil
}

// supplierIn is the request of supplier.
type supplierIn struct {
	Body struct {
		Address string `json:"address" maxLength:"200"`
	}
}

// supplier answers PUT /api/settings/supplier: set the address of the supplier's service; empty for none.
func (s *Server) supplier(ctx context.Context, in *supplierIn) (*struct{}, error) {
	if a := in.Body.Address; a != "" && !strings.HasPrefix(a, "http://") && !strings.HasPrefix(a, "https://") {
		return nil, huma.Error422UnprocessableEntity("Give the supplier's address as http://host:port, or leave it empty.")
	}
	if err := s.st.PutSetting(ctx, "supplier", in.Body.Address); err != nil {
		return nil, s.fail(ctx, "settings", err)
	}
	return nil, nil
}

// importParts reads a price list, and keeps it where nothing in it is wrong.
func (s *Server) importParts(ctx context.Context, in *struct {
	Keep     bool   `query:"keep"`
	Supplier string `query:"supplier" maxLength:"80" doc:"whose list it is, where the list does not say"`
	RawBody  []byte `contentType:"text/csv"`
}) (*out[Import], error) {
	ls, err := parts.Read(bytes.NewReader(in.RawBody))
	if err != nil {
		return nil, huma.Error422UnprocessableEntity(phrase.Sentence(err.Error()))
	}
	v := Import{Lines: ls}
	var ps []parts.Part
	for i := range ls {
		if ls[i].Part == nil {
			v.Wrong++
			continue
		}
		v.Good++
		if ls[i].Part.Supplier == "" {
			ls[i].Part.Supplier = strings.TrimSpace(in.Supplier)
		}
		ps = append(ps, *ls[i].Part)
	}
	if in.Keep {
		if v.Wrong > 0 {
			return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("%d of %d lines are wrong, the first in line %d: nothing was kept.",
				v.Wrong, len(ls), firstWrong(ls)))
		}
		if err := s.st.PutParts(ctx, ps); err != nil {
			return nil, s.fail(ctx, "parts", err)
		}
		v.Kept = len(ps)
	}
	// A long list is shown by what is wrong with it, and its beginning.
	if len(v.Lines) > 500 {
		short := slices.DeleteFunc(slices.Clone(v.Lines), func(l parts.ListLine) bool { return l.Wrong == "" && l.Remark == "" })
		v.Lines = append(slices.Clone(v.Lines[:100]), short[:min(len(short), 400)]...)
	}
	return body(v), nil
}

func firstWrong(ls []parts.ListLine) int {
	for _, l := range ls {
		if l.Wrong != "" {
			return l.N
		}
	}
	return 0
}
