package workshop

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/phrase"
	"corriente/core/record"
	"corriente/core/repair"
	"corriente/core/strip"
	"corriente/core/unit"
	"corriente/core/work"
	"corriente/internal/report"
	"corriente/internal/store"
)

// What the papers say is put together here, once. A figure on the customer's page was
// read, agreed, paid or typed by a person; what is reckoned says so, and stands apart in
// the file copy.

// draft is a paper's material.
type draft struct {
	s       *Service
	j       *store.Job
	c       *circuit.Circuit
	repairs []record.RepairView
	proof   *record.ProveView
	now     *diagnose.Opinion
	costs   map[uuid.UUID]store.Costs
	terms   record.JobTerms
	set     Settings
	logo    []byte
}

func (s *Service) draft(ctx context.Context, j *store.Job) (*draft, error) {
	d := &draft{s: s, j: j, c: j.Case.Circuit}
	var err error
	if d.proof, err = s.Proof(ctx, j); err != nil {
		return nil, err
	}
	if d.now, err = s.Advisers.Glance(ctx, j); err != nil {
		return nil, err
	}
	if d.costs, err = s.Store.Costs(ctx, j.ID); err != nil {
		return nil, err
	}
	if d.terms, err = s.Terms(ctx, j.ID); err != nil {
		return nil, err
	}
	if d.set, err = s.Settings(ctx); err != nil {
		return nil, err
	}
	if id, err := uuid.Parse(d.set.Logo); err == nil {
		if _, d.logo, err = s.Store.Photo(ctx, id, false); err != nil && !errors.Is(err, store.ErrNotFound) {
			return nil, err
		}
	}
	d.repairs = j.Record().Views(d.set.Zone())
	for i := range d.repairs {
		if id, err := uuid.Parse(d.repairs[i].ID); err == nil {
			if c, ok := d.costs[id]; ok {
				d.repairs[i].Paid = &c.Price
			}
		}
	}
	return d, nil
}

func (d *draft) day(t time.Time) string { return d.set.Day(t) }

func (d *draft) head(title, sub string) *report.Paper {
	return &report.Paper{Workshop: nameOf(&d.set), Address: d.set.Address, Job: short(d.j.ID), Title: title, Sub: sub,
		Opened: d.j.OpenedAt.In(d.set.Zone()), Sections: []report.Section{}, Foot: d.set.Foot, Logo: d.set.Logo, LogoJPEG: d.logo}
}

// written writes a paper's figures as the workshop does. What a person typed stays as it was
// typed.
func (d *draft) written(p *report.Paper) *report.Paper {
	st := d.set.Style()
	if st == (unit.Style{}) {
		return p
	}
	paras := func(ls []report.Para) {
		for i := range ls {
			ls[i].Text = st.Write(ls[i].Text)
		}
	}
	for i := range p.Sections {
		x := &p.Sections[i]
		if x.ID == "complaint" || x.ID == "strip" || x.ID == "notes" {
			continue
		}
		paras(x.Lines)
		paras(x.After)
		if x.Table != nil {
			for _, row := range x.Table.Rows {
				for k := range row {
					row[k] = st.Write(row[k])
				}
			}
		}
	}
	return p
}

// nameOf is what stands on paper where the workshop has given no name.
func nameOf(x *Settings) string {
	if x.Name == "" {
		return "Workshop"
	}
	return x.Name
}

// short is a job's number on paper.
func short(id uuid.UUID) string { return id.String()[30:] }

// sub is the line under a paper's title.
func (d *draft) sub(more ...string) string {
	volts := ""
	if d.c.Mains { // nobody takes its paper for a battery's machine
		volts = fmt.Sprintf("%g V mains", d.j.Machine.Voltage)
	}
	parts := append(more, d.j.Machine.Place, d.c.Title, volts)
	if n := len(d.j.Proofs); n > 0 {
		parts = append(parts, d.j.Proofs[n-1].Counter)
	}
	return strings.Join(slices.DeleteFunc(parts, func(s string) bool { return s == "" }), " · ")
}

func line(text string) report.Para { return report.Para{Text: text} }

func styled(style, text string) report.Para { return report.Para{Text: text, Style: style} }

func quoted(t string) string {
	if t == "" {
		return "No complaint was noted."
	}
	return "“" + t + "”"
}

// Customer is the page for the customer: what was wrong, found, done and paid, and how one
// knows that it is good.
func (s *Service) Customer(ctx context.Context, j *store.Job) (*report.Paper, error) {
	d, err := s.draft(ctx, j)
	if err != nil {
		return nil, err
	}
	p := d.head(j.Machine.Name, d.sub())
	p.Foot = strings.TrimSpace(p.Foot + " " + "The machine's own manual and local rules come before this page.")
	add := func(x report.Section) { p.Sections = append(p.Sections, x) }
	add(report.Section{ID: "complaint", Head: "What was wrong", Lines: []report.Para{line(quoted(j.Complaint))}})
	rs := slices.DeleteFunc(slices.Clone(d.repairs), func(r record.RepairView) bool { return r.Status == string(work.Changed) })
	switch len(rs) {
	case 0:
		add(report.Section{ID: "found", Head: "What we found so far", Lines: []report.Para{styled(report.Strong, d.soFar())}})
	case 1:
		add(report.Section{ID: "found", Head: "What we found", Lines: []report.Para{styled(report.Strong, found(&rs[0]))}})
		add(report.Section{ID: "done", Head: doneHead(&rs[0]), Lines: d.told(&rs[0])})
	default:
		for i := range rs {
			ls := append([]report.Para{styled(report.Strong, found(&rs[i]))}, d.told(&rs[i])...)
			add(report.Section{ID: fmt.Sprintf("repair-%d", i+1), Head: fmt.Sprintf("%d. %s", i+1, rs[i].Parts), Lines: ls})
		}
	}
	if x := d.checked(8); x != nil {
		add(*x)
	}
	besides, err := d.besidesWork(ctx)
	if err != nil {
		return nil, err
	}
	if besides != nil {
		add(*besides)
	}
	if x := d.cost(rs); x != nil {
		add(*x)
	}
	watch, err := d.watch(ctx, rs)
	if err != nil {
		return nil, err
	}
	add(report.Section{ID: "watch", Head: "What to watch", Lines: watch})
	return d.written(p), nil
}

// soFar says what is known while nothing was decided.
func (d *draft) soFar() string {
	if !slices.ContainsFunc(d.j.Case.Evidence, func(e casefile.Evidence) bool { return !e.Struck }) {
		return "Nothing has been measured yet."
	}
	return d.now.Verdict.Plain
}

// found is what a repair was for: as signed where it is, else as the verdict said.
func found(r *record.RepairView) string {
	switch {
	case r.Found != "":
		return r.Found
	case r.Option == "":
		return "Put right while measuring: " + phrase.Lower(r.Parts) + "."
	}
	return "Taken to be at fault: " + phrase.Lower(r.Parts) + "." // stored before what was found was kept
}

func doneHead(r *record.RepairView) string {
	switch work.Status(r.Status) {
	case work.Chosen:
		return "What is to be done"
	case work.Left:
		return "What was decided"
	}
	return "What we did"
}

// told says what was chosen and done of one repair, and how it was proved.
func (d *draft) told(r *record.RepairView) []report.Para {
	var out []report.Para
	switch {
	case r.DoneAt != nil:
		by := ""
		if r.DoneBy != "" {
			by = " by " + r.DoneBy
		}
		out = append(out, line(phrase.Sentence(r.What)+" Done"+by+" on "+d.day(*r.DoneAt)+"."))
	case r.Label != "":
		out = append(out, line(phrase.Sentence(r.Label)))
	}
	if r.ChosenAt != nil {
		say := "Chosen by the " + r.By
		if r.Who != "" {
			say += ", " + r.Who
		}
		say += " on " + d.day(*r.ChosenAt)
		if r.Reason != "" {
			say += ": " + strings.TrimSuffix(r.Reason, ".")
		}
		out = append(out, line(say+"."))
	}
	if r.SetAside != "" {
		out = append(out, line("Against the advice: "+strings.TrimSuffix(r.SetAside, ".")+"."))
	}
	if r.Temporary && r.Status != string(work.Succeeded) {
		until := ""
		if r.Until != nil {
			until = " Until " + d.day(*r.Until) + "."
		}
		out = append(out, styled(report.Caution, "This is a temporary repair: "+r.Limit+"."+until))
	}
	if r.Status == string(work.Succeeded) {
		out = append(out, line("This was a temporary repair; the lasting one has followed."))
	}
	switch {
	case r.Proof != "":
		out = append(out, line(r.Proof))
	case r.Status == string(work.Worked):
		out = append(out, line("Not proved yet."))
	}
	if r.DoneAt != nil && r.Warranty > 0 && r.Option != "" {
		out = append(out, line(fmt.Sprintf("Guarantee until %s.", d.day(r.DoneAt.AddDate(0, int(12*r.Warranty+0.5), 0)))))
	} else if d.terms.Wishes.Guarantee == repair.GuaranteeWaived && r.DoneAt != nil {
		out = append(out, line("No guarantee, as agreed."))
	} else if m := d.set.Guarantee; m > 0 && r.DoneAt != nil && r.Option != "" && r.Option != work.Leave && !r.Temporary {
		out = append(out, line(fmt.Sprintf("Guarantee until %s.", d.day(r.DoneAt.AddDate(0, m, 0)))))
	}
	return out
}

// checked is the table of the proof as it was signed, or as it stands; nil where nothing
// was done.
func (d *draft) checked(most int) *report.Section {
	v := d.proof
	cs, head, after := v.Checks, "How we shall know that it is good", []report.Para{}
	if n := len(v.Records); n > 0 && !v.Open {
		cs, head = v.Records[n-1].Checks, "How we know that it is good"
		for i := range v.Records[n-1].Ticks {
			after = append(after, styled(report.Point, phrase.Sentence(v.Records[n-1].Ticks[i].Words())))
		}
		after = append(after, styled(report.Strong, v.Records[n-1].Says))
		if v.Records[n-1].Result != work.Passed {
			head = "What was checked"
		}
	} else if n > 0 {
		after = append(after, line(v.Records[n-1].Says+" It is checked again after the work that followed."))
	}
	if len(cs) == 0 && len(after) == 0 {
		return nil
	}
	return &report.Section{ID: "checks", Head: head, Lines: []report.Para{}, Table: checkTable(cs, most), After: after}
}

func checkTable(cs []record.ProofCheck, most int) *report.Grid {
	t := &report.Grid{Head: []string{"Checked", "Before", "After", "A good one, reckoned"},
		Share: []float64{0.44, 0.16, 0.18, 0.22}, Rows: [][]string{}}
	for i := range cs[:min(len(cs), most)] {
		k := &cs[i]
		after := k.AfterSays
		if after == "" {
			after = "not taken"
		} else if v := k.Verdict(); v != "" {
			after += ", " + v
		}
		before := k.BeforeSays
		if before == "" {
			before = "not taken"
		}
		t.Rows = append(t.Rows, []string{k.Label, before, after, k.GoodSays})
	}
	return t
}

// cost is what it came to, repair by repair where there are several.
func (d *draft) cost(rs []record.RepairView) *report.Section {
	var out []report.Para
	total, all := 0.0, len(rs) > 1
	for i := range rs {
		r := &rs[i]
		text := ""
		switch {
		case r.Paid != nil:
			text = d.set.Money(*r.Paid)
			if r.Price != nil {
				text += " (estimated " + d.set.Money(*r.Price) + ")"
			}
			total += *r.Paid
		case r.Price != nil && r.Option != work.Leave:
			text = "estimated " + d.set.Money(*r.Price)
			all = false
		default:
			all = all && r.Option == work.Leave
			continue
		}
		if len(rs) > 1 {
			text = r.Parts + ": " + text
		}
		out = append(out, line(text))
	}
	if c, ok := d.costs[uuid.Nil]; ok { // entered before costs were kept by repair
		out = append(out, line(d.set.Money(c.Price)))
	}
	if len(out) == 0 {
		return nil
	}
	if all && len(out) > 1 {
		out = append(out, styled(report.Strong, "Together: "+d.set.Money(total)))
	}
	if d.set.Tax > 0 {
		out = append(out, styled(report.Quiet, fmt.Sprintf("Prices hold %g %% tax.", d.set.Tax)))
	}
	return &report.Section{ID: "cost", Head: "What it came to", Lines: out}
}

// besidesWork is what was done besides the repairs: extra work of the strip-down's record, and
// what was found on the way.
func (d *draft) besidesWork(ctx context.Context) (*report.Section, error) {
	lines, err := d.s.Store.Strip(ctx, d.j.ID)
	if err != nil {
		return nil, err
	}
	var out []report.Para
	for _, l := range lines {
		if l.Struck {
			continue
		}
		if e := strip.Parse(l.Text); e.Act == strip.Work {
			out = append(out, styled(report.Point, phrase.Sentence(e.What)))
		}
	}
	if len(out) == 0 {
		return nil, nil
	}
	return &report.Section{ID: "besides", Head: "Done besides", Lines: out}, nil
}

// watch is what the customer does well to keep an eye on.
func (d *draft) watch(ctx context.Context, rs []record.RepairView) ([]report.Para, error) {
	var out []report.Para
	point := func(s string) {
		if l := styled(report.Point, phrase.Sentence(s)); !slices.Contains(out, l) && len(out) < 6 {
			out = append(out, l)
		}
	}
	for i := range rs {
		r := &rs[i]
		if r.DoneAt != nil && r.Life > 0 && !r.Temporary {
			point(fmt.Sprintf("%s: reckoned, half of such work lasts longer than %s", r.Parts, years(r.Life)))
		}
		if r.Status == string(work.Left) {
			point("the " + phrase.Lower(r.Parts) + " is left as it is: it will not get better by itself")
		}
	}
	lines, err := d.s.Store.Strip(ctx, d.j.ID)
	if err != nil {
		return nil, err
	}
	for _, l := range lines {
		if !l.Struck {
			for _, x := range strip.Parse(l.Text).Relearn {
				point(x)
			}
		}
	}
	point("if the same comes back, bring it in: the readings are on file")
	return out, nil
}

func years(y float64) string {
	if y < 1.5 {
		return "a year"
	}
	return fmt.Sprintf("%.0f years", y)
}

// File is the copy for the file: everything, with what is reckoned marked as such.
func (s *Service) File(ctx context.Context, j *store.Job) (*report.Paper, []report.Photo, error) {
	d, err := s.draft(ctx, j)
	if err != nil {
		return nil, nil, err
	}
	p := d.head("File copy", d.sub(j.Machine.Name))
	add := func(x report.Section) { p.Sections = append(p.Sections, x) }
	add(report.Section{ID: "complaint", Head: "Complaint", Lines: []report.Para{line(quoted(j.Complaint))}})
	if len(d.repairs) == 0 {
		add(report.Section{ID: "found", Head: "Verdict",
			Lines: append([]report.Para{styled(report.Strong, d.soFar())}, d.restsOn(d.now)...)})
	}
	rec := j.Record()
	for i := range d.repairs {
		op, err := s.before(ctx, j, rec, i)
		if err != nil {
			return nil, nil, err
		}
		r := &d.repairs[i]
		ls := []report.Para{styled(report.Strong, found(r))}
		if r.Status == string(work.Changed) {
			ls = append(ls, line("Another choice took its place before any work was done."))
		}
		ls = append(ls, d.told(r)...)
		if r.Signed && rec.Repairs[i].Decision >= 0 {
			ls = append(ls, line("The verdict before it: "+j.Decisions[rec.Repairs[i].Decision].Found))
		}
		add(report.Section{ID: fmt.Sprintf("repair-%d", i+1), Head: fmt.Sprintf("Repair %d: %s", i+1, r.Parts),
			Lines: append(ls, d.restsOn(op)...)})
	}
	if x := diagnoses(d.now); x != nil {
		add(*x)
	}
	if len(j.Case.Evidence) > 0 {
		add(report.Section{ID: "readings", Head: "Readings and looks, as they were taken", Lines: []report.Para{}, Table: d.readings()})
	}
	for i := range d.proof.Records {
		r := &d.proof.Records[i]
		add(report.Section{ID: fmt.Sprintf("proof-%d", i+1), Head: "Proof of " + d.day(r.At), Lines: []report.Para{},
			Table: checkTable(r.Checks, len(r.Checks)), After: []report.Para{styled(report.Strong, r.Says)}})
	}
	if d.proof.Open && len(d.proof.Checks) > 0 {
		add(report.Section{ID: "proof", Head: "Proof, not signed", Lines: []report.Para{},
			Table: checkTable(d.proof.Checks, len(d.proof.Checks))})
	}
	if x := d.costDetails(); x != nil {
		add(*x)
	}
	if x := d.reckoned(); x != nil {
		add(*x)
	}
	photos, err := d.record(ctx, p)
	return d.written(p), photos, err
}

// restsOn lists the evidence that accused the part a verdict names.
func (d *draft) restsOn(op *diagnose.Opinion) []report.Para {
	var out []report.Para
	if op.Verdict.Station == nil {
		return out
	}
	for k := range op.Evidence {
		if k < len(d.j.Case.Evidence) && op.Accused(k, *op.Verdict.Station) > 0.3 {
			e := &d.j.Case.Evidence[k]
			out = append(out, styled(report.Point, record.EvidenceWords(d.c, e)+": "+record.Said(d.c, e)))
		}
	}
	return out
}

func diagnoses(op *diagnose.Opinion) *report.Section {
	t := &report.Grid{Head: []string{"Still possible", "Probability, reckoned"}, Share: []float64{0.7, 0.3}, Rows: [][]string{}}
	for _, x := range op.Diagnoses[:min(len(op.Diagnoses), 6)] {
		t.Rows = append(t.Rows, []string{x.Label, fmt.Sprintf("%.1f %%", 100*x.Probability)})
	}
	if len(t.Rows) == 0 {
		return nil
	}
	return &report.Section{ID: "diagnoses", Head: "What the readings leave open", Lines: []report.Para{}, Table: t}
}

func (d *draft) readings() *report.Grid {
	t := &report.Grid{Head: []string{"", "What", "Value", "What it told, reckoned", "When, who"},
		Share: []float64{0.05, 0.31, 0.17, 0.32, 0.15}, Rows: [][]string{}}
	says := map[int]string{}
	for _, w := range d.now.Evidence {
		says[w.Index-1] = w.Says
	}
	for k := range d.j.Case.Evidence {
		e := &d.j.Case.Evidence[k]
		what := record.EvidenceWords(d.c, e)
		if st := d.c.State(e.State); st != nil {
			what += ", " + phrase.Lower(st.Label)
		}
		value := record.Said(d.c, e)
		if u := e.Sigma(d.j.Case.Instruments); u > 0 && e.Measure != "" && !e.Reading.Over {
			value += " ± " + unit.Format(2*u, e.Measure)
		}
		if e.Struck {
			value = "struck out: " + value
		}
		told := says[k]
		for i := range d.j.Case.Repairs {
			if r := &d.j.Case.Repairs[i]; r.After == k && (i == 0 || d.j.Case.Repairs[i-1].After != k) {
				told = strings.TrimSpace("After the work. " + told)
			}
		}
		when := ""
		if at, err := time.Parse(time.RFC3339Nano, e.TakenAt); err == nil {
			when = at.In(d.set.Zone()).Format("2 Jan 15:04")
		}
		if k < len(d.j.TakenBy) && d.j.TakenBy[k] != "" {
			when += " " + d.j.TakenBy[k]
		}
		t.Rows = append(t.Rows, []string{fmt.Sprint(k + 1), what, value, told, when})
	}
	return t
}

func (d *draft) costDetails() *report.Section {
	t := &report.Grid{Head: []string{"Repair", "Estimated", "Charged", "Parts", "Labour"},
		Share: []float64{0.36, 0.16, 0.16, 0.16, 0.16}, Rows: [][]string{}}
	for i := range d.repairs {
		r := &d.repairs[i]
		row := []string{r.Parts, "", "", "", ""}
		if r.Price != nil {
			row[1] = fmt.Sprintf("%.2f", *r.Price)
		}
		if id, err := uuid.Parse(r.ID); err == nil {
			if c, ok := d.costs[id]; ok {
				row[2], row[3], row[4] = fmt.Sprintf("%.2f", c.Price), fmt.Sprintf("%.2f", c.Parts), fmt.Sprintf("%.0f min", c.Minutes)
			}
		}
		if row[1]+row[2] != "" {
			t.Rows = append(t.Rows, row)
		}
	}
	if len(t.Rows) == 0 {
		return nil
	}
	return &report.Section{ID: "cost", Head: "Costs", Lines: []report.Para{}, Table: t}
}

// reckoned is what was worked out from the readings, in the state the machine works in, with
// its range; nil where no volts were read.
func (d *draft) reckoned() *report.Section {
	st := d.c.State(d.c.RunState)
	read := slices.ContainsFunc(d.j.Case.Evidence,
		func(e casefile.Evidence) bool { return !e.Struck && e.Measure == unit.Voltage && !e.Reading.Over })
	if st == nil || !st.Powered() || st.Supply == "mains" || !read {
		return nil
	}
	pic, err := d.now.Picture(d.c.RunState)
	if err != nil || len(pic.Paths) == 0 {
		return nil
	}
	t := &report.Grid{Head: []string{"Part", "Volts lost, reckoned", "Range, 5 to 95 %", "Allowed"},
		Share: []float64{0.4, 0.2, 0.24, 0.16}, Rows: [][]string{}}
	for _, x := range pic.Paths[0].Stations {
		allowed := ""
		if x.Allowed > 0 {
			allowed = unit.Format(x.Allowed, unit.Voltage)
		}
		t.Rows = append(t.Rows, []string{x.Label, unit.Format(x.Drop.Mid, unit.Voltage),
			unit.Format(x.Drop.Low, unit.Voltage) + " to " + unit.Format(x.Drop.High, unit.Voltage), allowed})
	}
	return &report.Section{ID: "reckoned", Head: "Reckoned from the readings, not measured",
		Lines: []report.Para{styled(report.Quiet, "As the machine stands now, "+phrase.Lower(st.Label)+".")}, Table: t}
}

// record adds the strip-down and the notes to a paper, and returns the job's photos.
func (d *draft) record(ctx context.Context, p *report.Paper) ([]report.Photo, error) {
	lines, err := d.s.Store.Strip(ctx, d.j.ID)
	if err != nil {
		return nil, err
	}
	var photos []report.Photo
	var ls []report.Para
	for _, l := range lines {
		if l.Struck {
			continue
		}
		ls = append(ls, line(fmt.Sprintf("%d  %s", len(ls)+1, l.Text)))
		for _, id := range l.Photos {
			if len(photos) >= mostPhotos {
				break
			}
			photo, err := uuid.Parse(id)
			if err != nil {
				return nil, err
			}
			_, b, err := d.s.Store.Photo(ctx, photo, false)
			if err != nil && !errors.Is(err, store.ErrNotFound) {
				return nil, err
			}
			photos = append(photos, report.Photo{Label: strip.Parse(l.Text).What, JPEG: b}) // one that is gone is said to be so
		}
	}
	if len(ls) > 0 {
		p.Sections = append(p.Sections, report.Section{ID: "strip", Head: "Strip-down, in order", Lines: ls})
	}
	notes, err := d.s.Store.Notes(ctx, d.j.ID)
	if err != nil {
		return nil, err
	}
	ls = nil
	for _, n := range notes {
		ls = append(ls, styled(report.Point, n.Text))
	}
	if len(ls) > 0 {
		p.Sections = append(p.Sections, report.Section{ID: "notes", Head: "Notes and calculations", Lines: ls})
	}
	return photos, nil
}

// mostPhotos is how many photos a file copy prints.
const mostPhotos = 24

// LabelOf is the label for the machine: all that was done.
func (s *Service) LabelOf(ctx context.Context, j *store.Job) (*report.Label, error) {
	set, err := s.Settings(ctx)
	if err != nil {
		return nil, err
	}
	l := &report.Label{Workshop: nameOf(&set), Job: short(j.ID), Machine: j.Machine.Name, At: j.OpenedAt}
	for _, r := range j.Record().Views(set.Zone()) {
		switch {
		case r.DoneAt != nil:
			l.Done, l.At, l.By = append(l.Done, r.What), *r.DoneAt, r.DoneBy
		case r.Status == string(work.Chosen):
			l.Done = append(l.Done, "To be done: "+phrase.Lower(r.Label))
		}
		if r.Temporary && r.DoneAt != nil && r.Status != string(work.Succeeded) &&
			(l.Until == nil || r.Until != nil && r.Until.Before(*l.Until)) {
			l.Temporary, l.Until = r.Limit, r.Until
		}
	}
	if n := len(j.Proofs); n > 0 {
		p := &j.Proofs[n-1]
		l.Counter, l.By, l.At = p.Counter, p.Signed, p.At
	}
	l.At = l.At.In(set.Zone())
	if l.Until != nil {
		until := l.Until.In(set.Zone())
		l.Until = &until
	}
	return l, nil
}
