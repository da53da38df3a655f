package record

import (
	"encoding/json"
	"slices"
	"time"

	"corriente/core/casefile"
	"corriente/core/diagnose"
	"corriente/core/strip"
	"corriente/core/work"
)

// JobNote is a line kept with a job.
type JobNote struct {
	ID     string          `json:"id" format:"uuid"`
	Text   string          `json:"text" minLength:"1" maxLength:"1000"`
	Detail json.RawMessage `json:"detail,omitempty" required:"false"`
	At     time.Time       `json:"at,omitempty" readOnly:"true" required:"false"`
	By     string          `json:"by,omitempty" readOnly:"true" required:"false"`
}

// Kit is a job carried along: its case file and what is kept beside it, so that it can be
// worked on without the server.
type Kit struct {
	Case   json.RawMessage `json:"case" doc:"the case file"`
	Beside Beside          `json:"beside"`
	Own    []strip.Note    `json:"own" doc:"the workshop's own notes of the craft"`
	Notes  []JobNote       `json:"notes"`
	Terms  JobTerms        `json:"terms"`
	Lived  Lived           `json:"lived" doc:"how long repairs lasted here, by part and option"`
	Zone   string          `json:"zone" doc:"the workshop's time zone"`
}

// Write is one thing that was entered into a job and waits to be sent: exactly one of its
// parts is there. They are put to a kit in the order in which they were entered.
type Write struct {
	ID       string           `json:"id"`
	At       time.Time        `json:"at"`
	By       string           `json:"by"` // name
	Evidence []casefile.Typed `json:"evidence,omitempty"`
	Strike   *Strike          `json:"strike,omitempty"`
	Patch    *Patch           `json:"patch,omitempty"`
	Line     *NewLine         `json:"line,omitempty"`
	Change   *LineChange      `json:"change,omitempty"`
	Note     *JobNote         `json:"note,omitempty"`
	DropNote string           `json:"drop_note,omitempty"`
	Tick     *TickSet         `json:"tick,omitempty"`
	Terms    *JobTerms        `json:"terms,omitempty"`
	Choice   *ChoiceIn        `json:"choice,omitempty"`
	Work     *WorkIn          `json:"work,omitempty"`
	Reword   *RewordIn        `json:"reword,omitempty"`
	Sign     *ProofIn         `json:"sign,omitempty"`
}

// Strike strikes a piece of evidence out, or takes it in again.
type Strike struct {
	Evidence string `json:"evidence"`
	Out      bool   `json:"out"`
}

// Patch is what of a job itself may be changed without the server: what says the same however
// often it is sent.
type Patch struct {
	Acknowledge string    `json:"acknowledge,omitempty"`
	CannotReach string    `json:"cannot_reach,omitempty"`
	CanReach    string    `json:"can_reach,omitempty"`
	Complaint   *string   `json:"complaint,omitempty"`
	History     *string   `json:"history,omitempty"`
	When        *[]string `json:"when,omitempty"`
	Sometimes   *bool     `json:"intermittent,omitempty"`
}

// NewLine is what came off next.
type NewLine struct {
	ID   string `json:"id" format:"uuid"`
	Text string `json:"text" maxLength:"300"`
	At   string `json:"at,omitempty" maxLength:"40" doc:"when it was done, where it is sent later; else it is now"`
}

// LineChange is what is changed about a line of the strip-down; what is not there stays.
type LineChange struct {
	Item      string  `json:"item,omitempty" required:"false" hidden:"true"`
	Text      *string `json:"text,omitempty" maxLength:"300"`
	Struck    *bool   `json:"struck,omitempty"`
	Back      *bool   `json:"back,omitempty"`
	Explained *string `json:"explained,omitempty" maxLength:"300"`
	Photo     string  `json:"photo,omitempty" maxLength:"36"`
	DropPhoto string  `json:"drop_photo,omitempty" maxLength:"36"`
	At        string  `json:"at,omitempty" maxLength:"40" doc:"when it was done, where it is sent later; else it is now"`
}

// TickSet ticks something towards the proof; an empty value takes it away.
type TickSet struct {
	Tick  string `json:"tick"`
	Value string `json:"value"`
}

// ChoiceIn is what is chosen, as it is sent.
type ChoiceIn struct {
	ID       string   `json:"id"`
	Option   string   `json:"option"`
	Station  string   `json:"station,omitempty"`
	Stations []string `json:"stations,omitempty"`
	Price    float64  `json:"price"`
	Reason   string   `json:"reason,omitempty"`
	By       string   `json:"by,omitempty"`
	Who      string   `json:"who,omitempty"`
	Label    string   `json:"label,omitempty"`
	SetAside string   `json:"set_aside,omitempty"`
	Compare
}

// WorkIn is work that was done, as it is sent.
type WorkIn struct {
	ID       string `json:"id" format:"uuid"`
	Station  string `json:"station,omitempty" maxLength:"64" doc:"the part that was put right while measuring"`
	Decision string `json:"decision,omitempty" maxLength:"36" doc:"what it was done for; its parts are taken"`
	What     string `json:"what,omitempty" maxLength:"400"`
	At       string `json:"at,omitempty" maxLength:"40" doc:"when it was done, where it is sent later; else it is now"`
}

// RewordIn says otherwise what was done.
type RewordIn struct {
	Repair string `json:"repair"`
	What   string `json:"what"`
}

// ProofIn is what is signed under a job's repairs, as it is sent.
type ProofIn struct {
	ID      string            `json:"id" format:"uuid"`
	Result  string            `json:"result" enum:"passed,remark,failed"`
	Remark  string            `json:"remark,omitempty" maxLength:"400"`
	Signed  string            `json:"signed" minLength:"2" maxLength:"120" doc:"name of who signs"`
	At      string            `json:"at,omitempty" maxLength:"40" doc:"when it was done, where it is sent later; else it is now"`
	Counter string            `json:"counter,omitempty" maxLength:"40" doc:"hours or mileage, as read"`
	Was     map[string]string `json:"was,omitempty" doc:"by repair: what it was, station.mode; none for nothing wrong; the likeliest where nothing is said"`
}

// Reasoner says what a case amounts to; thought through, what to do next as well.
type Reasoner func(c *casefile.Case, thought bool) (*diagnose.Opinion, error)

// Carried is a kit that is open: its case read, and the writes that wait put to it.
type Carried struct {
	*Kit
	On     *casefile.Case
	zone   *time.Location
	reason Reasoner
}

// Open opens a kit whose case was read, with who reasons about it. It is changed by what is
// put to it.
func (k *Kit) Open(c *casefile.Case, reason Reasoner) *Carried {
	zone, err := time.LoadLocation(k.Zone)
	if err != nil {
		zone = time.Local // a browser knows no zone but its own
	}
	if k.Beside.Ticks == nil {
		k.Beside.Ticks = map[string]string{}
	}
	if k.Beside.Signed == nil {
		k.Beside.Signed = map[string]SignedOn{}
	}
	return &Carried{Kit: k, On: withJob(c), zone: zone, reason: reason}
}

// Record is the job as it now stands.
func (c *Carried) Record() *Record { return Of(c.On) }

// Where is the workshop's time zone, as far as it is known here.
func (c *Carried) Where() *time.Location { return c.zone }

// Proof is the proof of the job as it now stands.
func (c *Carried) Proof() (*Proof, error) {
	r := c.Record()
	return r.Proof(func(k int) (*diagnose.Opinion, error) {
		if then := r.Before(k); then != nil {
			return c.reason(then, false)
		}
		return c.reason(c.On, false)
	}, &c.Beside, c.zone)
}

// Put puts one write to the kit, by the rules by which the server takes it. What it refuses
// changes nothing.
func (c *Carried) Put(w *Write) error {
	switch {
	case w.Evidence != nil:
		return c.enter(w.Evidence)
	case w.Strike != nil:
		c.strike(w.Strike.Evidence, w.Strike.Out)
	case w.Patch != nil:
		c.patch(w.Patch)
	case w.Line != nil:
		return c.line(w)
	case w.Change != nil:
		return c.change(w)
	case w.Note != nil:
		if !slices.ContainsFunc(c.Notes, func(n JobNote) bool { return n.ID == w.Note.ID }) {
			n := *w.Note
			n.At, n.By = w.At, w.By
			c.Notes = append(c.Notes, n)
		}
	case w.DropNote != "":
		c.Notes = slices.DeleteFunc(c.Notes, func(n JobNote) bool { return n.ID == w.DropNote })
	case w.Tick != nil:
		if w.Tick.Value == "" {
			delete(c.Beside.Ticks, w.Tick.Tick)
		} else {
			c.Beside.Ticks[w.Tick.Tick] = w.Tick.Value
		}
	case w.Terms != nil:
		if err := w.Terms.Check(w.At); err != nil {
			return err
		}
		c.Terms = *w.Terms
	case w.Choice != nil:
		return c.choose(w)
	case w.Work != nil:
		return c.do(w)
	case w.Reword != nil:
		return c.reword(w.Reword)
	case w.Sign != nil:
		return c.sign(w)
	}
	return nil
}

func (c *Carried) has(id string) bool {
	return slices.ContainsFunc(c.On.Evidence, func(e casefile.Evidence) bool { return e.ID == id })
}

func (c *Carried) enter(es []casefile.Typed) error {
	var add []casefile.Evidence
	for _, t := range es {
		if c.has(t.ID) {
			continue
		}
		e := t.Evidence()
		if p := e.Check(c.On.Circuit, c.On.Instruments); p != nil {
			return Refuse("%s", p.What)
		}
		add = append(add, e)
	}
	c.On.Evidence = append(slices.Clip(c.On.Evidence), add...)
	return nil
}

func (c *Carried) strike(id string, out bool) {
	c.On.Evidence = slices.Clone(c.On.Evidence)
	for i := range c.On.Evidence {
		if c.On.Evidence[i].ID == id {
			c.On.Evidence[i].Struck = out
		}
	}
}

func (c *Carried) patch(p *Patch) {
	j, k := c.On.Job, &c.On.Known
	if p.Acknowledge != "" && !slices.Contains(j.Acknowledged, p.Acknowledge) {
		j.Acknowledged = append(slices.Clip(j.Acknowledged), p.Acknowledge)
	}
	if p.CannotReach != "" && !slices.Contains(k.Unreachable, p.CannotReach) {
		k.Unreachable = append(slices.Clip(k.Unreachable), p.CannotReach)
	}
	if p.CanReach != "" {
		k.Unreachable = slices.DeleteFunc(slices.Clone(k.Unreachable), func(s string) bool { return s == p.CanReach })
	}
	if p.Complaint != nil {
		j.Complaint = *p.Complaint
	}
	if p.History != nil {
		j.History = *p.History
	}
	if p.When != nil {
		j.When = *p.When
	}
	if p.Sometimes != nil {
		c.On.Intermittent = *p.Sometimes
	}
}

func (c *Carried) line(w *Write) error {
	text, err := Tidy(w.Line.Text)
	if err != nil {
		return err
	}
	if slices.ContainsFunc(c.Beside.Lines, func(l StripLine) bool { return l.ID == w.Line.ID }) {
		return nil
	}
	c.Beside.Lines = append(c.Beside.Lines, StripLine{ID: w.Line.ID, Text: text, At: w.At, By: w.By, Photos: []string{}})
	c.find(w.Line.ID, strip.Parse(text).Findings, w.At)
	return nil
}

// find takes what a line says as evidence; what it said before and says again counts again.
func (c *Carried) find(line string, fs []strip.Finding, at time.Time) {
	for _, f := range fs {
		e := FindingEvidence(c.On, line, f, at)
		switch {
		case e == nil:
		case c.has(e.ID):
			c.strike(e.ID, false)
		default:
			c.On.Evidence = append(slices.Clip(c.On.Evidence), *e)
		}
	}
}

func (c *Carried) change(w *Write) error {
	i := slices.IndexFunc(c.Beside.Lines, func(l StripLine) bool { return l.ID == w.Change.Item })
	if i < 0 {
		return Refuse("there is no such line in this strip-down")
	}
	x, l := w.Change, &c.Beside.Lines[i]
	if x.Text != nil {
		text, err := Tidy(*x.Text)
		if err != nil {
			return err
		}
		now := strip.Parse(text).Findings
		for _, f := range strip.Parse(l.Text).Findings {
			if !slices.Contains(now, f) {
				c.strike(FindingID(l.ID, f), true)
			}
		}
		l.Text = text
		c.find(l.ID, now, w.At)
	}
	if x.Struck != nil {
		l.Struck = *x.Struck
		for _, f := range strip.Parse(l.Text).Findings {
			c.strike(FindingID(l.ID, f), l.Struck)
		}
	}
	if x.Back != nil {
		l.BackAt, l.BackBy = nil, ""
		if *x.Back {
			at := w.At
			l.BackAt, l.BackBy = &at, w.By
		}
	}
	if x.Explained != nil {
		l.Explained = *x.Explained
	}
	if x.Photo != "" && !slices.Contains(l.Photos, x.Photo) {
		l.Photos = append(l.Photos, x.Photo)
	}
	if x.DropPhoto != "" {
		l.Photos = slices.DeleteFunc(slices.Clone(l.Photos), func(p string) bool { return p == x.DropPhoto })
	}
	return nil
}

// Choice is what is chosen, put as the rules take it.
func (in *ChoiceIn) Choice(at time.Time) Choice {
	x := Choice{ID: in.ID, Option: in.Option, Price: in.Price, Reason: in.Reason, By: in.By, Who: in.Who,
		Label: in.Label, SetAside: in.SetAside, At: at, Compare: in.Compare}
	x.Compare.Station, x.Compare.Stations = in.Station, in.Stations
	if x.Compare.Terms.Years == 0 {
		x.Compare.Terms.Years = 1
	}
	return x
}

func (c *Carried) choose(w *Write) error {
	if slices.ContainsFunc(c.On.Job.Decisions, func(d casefile.Decision) bool { return d.ID == w.Choice.ID }) {
		return nil
	}
	op, err := c.reason(c.On, true)
	if err != nil {
		return err
	}
	d, _, err := c.Record().Choose(op, w.Choice.Choice(w.At), c.Lived)
	if err != nil {
		return err
	}
	c.On.Job.Decisions = append(slices.Clip(c.On.Job.Decisions), d)
	if d.Option != work.Leave {
		c.On.Job.ClosedAt = ""
	}
	return nil
}

func (c *Carried) do(w *Write) error {
	if slices.ContainsFunc(c.On.Repairs, func(x casefile.Repair) bool { return x.ID == w.Work.ID }) {
		return nil
	}
	list, err := c.Record().Do(Work{ID: w.Work.ID, Decision: w.Work.Decision, Station: w.Work.Station,
		What: w.Work.What, At: w.At, By: w.By})
	if err != nil {
		return err
	}
	c.On.Repairs = append(slices.Clip(c.On.Repairs), list...)
	return nil
}

func (c *Carried) reword(x *RewordIn) error {
	r := c.Record()
	i := slices.IndexFunc(r.Repairs, func(y work.Repair) bool { return y.ID == x.Repair && len(y.Done) > 0 })
	if i < 0 {
		return Refuse("nothing was done yet that could be said otherwise")
	}
	if s := r.Repairs[i].Status; s != work.Worked && s != work.NotGood {
		return Refuse("this repair is signed: what was done stands as it is")
	}
	c.On.Repairs = slices.Clone(c.On.Repairs)
	for _, k := range r.Repairs[i].Done {
		c.On.Repairs[k].What = x.What
	}
	return nil
}

func (c *Carried) sign(w *Write) error {
	if slices.ContainsFunc(c.On.Job.Proofs, func(p casefile.Proof) bool { return p.ID == w.Sign.ID }) {
		return nil
	}
	p, err := c.Proof()
	if err != nil {
		return err
	}
	signed, _, err := c.Record().Sign(p,
		Signature{ID: w.Sign.ID, Result: w.Sign.Result, Remark: w.Sign.Remark, Signed: w.Sign.Signed,
			Counter: w.Sign.Counter, Was: w.Sign.Was, At: w.At, By: w.By})
	if err != nil {
		return err
	}
	c.Beside.Signed[signed.ID] = SignedOn{p.View.Checks, p.View.Ticks}
	c.On.Job.Proofs = append(slices.Clip(c.On.Job.Proofs), signed)
	if signed.Result != work.Failed && c.Beside.Excluded == nil { // it is learned from then
		c.Beside.Excluded = new(bool)
	}
	if signed.Result != work.Failed && work.Finished(c.Record().Repairs) {
		c.On.Job.ClosedAt = signed.At
	}
	return nil
}
