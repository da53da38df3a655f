package record

import (
	"slices"
	"strings"
	"time"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/fault"
	"corriente/core/phrase"
	"corriente/core/work"
)

// RepairView is one repair of a job as its screens show it.
type RepairView struct {
	ID        string     `json:"id"`
	Stations  []string   `json:"stations"`
	Parts     string     `json:"parts" doc:"the parts in words"`
	Status    string     `json:"status" enum:"chosen,left,changed,done,failed,proved,accepted,succeeded"`
	Found     string     `json:"found" doc:"what it was as signed, else what the verdict said when it was chosen"`
	Signed    bool       `json:"signed" doc:"what it was is signed"`
	Option    string     `json:"option" doc:"empty where nobody chose"`
	Label     string     `json:"label" doc:"what was chosen, in words"`
	By        string     `json:"by" doc:"customer, workshop or empty"`
	Who       string     `json:"who"`
	Reason    string     `json:"reason"`
	SetAside  string     `json:"set_aside"`
	Price     *float64   `json:"price,omitempty" doc:"agreed"`
	Paid      *float64   `json:"paid,omitempty" doc:"what was charged in the end"`
	ChosenAt  *time.Time `json:"chosen_at,omitempty"`
	What      string     `json:"what" doc:"what was done, as typed"`
	DoneBy    string     `json:"done_by"`
	DoneAt    *time.Time `json:"done_at,omitempty"`
	Temporary bool       `json:"temporary"`
	Until     *time.Time `json:"until,omitempty"`
	Limit     string     `json:"limit"`
	Life      float64    `json:"life_years" doc:"how long such work usually lasts, reckoned; 0: not said"`
	Warranty  float64    `json:"warranty_years"`
	Proof     string     `json:"proof" doc:"how its last proof went, in words; empty while there is none"`
}

// Views lists a job's repairs, the first begun first; days are those of the zone.
func (r *Record) Views(zone *time.Location) []RepairView {
	out := []RepairView{}
	for i := range r.Repairs {
		out = append(out, r.View(i, zone))
	}
	return out
}

// View is the k-th repair as it is shown.
func (r *Record) View(k int, zone *time.Location) RepairView {
	c, w := r.Circuit, &r.Repairs[k]
	x := RepairView{ID: w.ID, Stations: append([]string{}, w.Stations...), Parts: Parts(c, w.Stations),
		Status: string(w.Status), Temporary: w.Temporary}
	if w.Decision >= 0 {
		d := &r.Job.Decisions[w.Decision]
		price := d.Price
		x.Found, x.Option, x.Label, x.By, x.Who, x.Reason, x.SetAside, x.Price, x.ChosenAt = d.Found, d.Option,
			d.Label, d.By, d.Who, d.Reason, d.SetAside, &price, at(d.At)
		x.Until, x.Limit, x.Life, x.Warranty = at(d.Until), d.Limit, d.Life, d.Warranty
		if x.Label == "" {
			x.Label = phrase.Upper(d.Option) + ": " + x.Parts
		}
	}
	if n := len(w.Done); n > 0 {
		d := &r.Case.Repairs[w.Done[n-1]]
		x.What, x.DoneBy, x.DoneAt = d.What, d.By, at(d.At)
		if x.What == "" {
			x.What = x.Label
		}
	}
	if n := len(w.Proofs); n > 0 {
		p := &r.Job.Proofs[w.Proofs[n-1]]
		x.Proof = proofWords(p, zone)
		if was, ok := p.Was[w.ID]; ok && p.Result != work.Failed {
			x.Found, x.Signed = wasWords(c, was), true
		}
	}
	return x
}

// at is a time of a case file, nil where there is none.
func at(s string) *time.Time {
	t := parse(s)
	if t.IsZero() {
		return nil
	}
	return &t
}

// proofWords says how a proof went. "Proved good" is said of one that passed, and of no
// other.
func proofWords(p *casefile.Proof, zone *time.Location) string {
	say := map[string]string{work.Passed: "Proved good", work.Remark: "Accepted with a remark", work.Failed: "Not good"}[p.Result]
	if p.Remark != "" {
		say += ": " + strings.TrimSuffix(p.Remark, ".")
	}
	return say + ". " + p.Signed + ", " + parse(p.At).In(zone).Format("2 January 2006") + "."
}

// wasWords says what a repair was for, as signed.
func wasWords(c *circuit.Circuit, was string) string {
	if was == "none" {
		return "Nothing was wrong with it."
	}
	station, mode, _ := strings.Cut(was, ".")
	s := c.Station(station)
	if s == nil {
		return ""
	}
	return "It was the " + phrase.Lower(s.Label) + ": " + fault.Label(mode) + "."
}

// WasIn says what a job's repairs turned out to be for, in one line; empty where nothing
// was wrong.
func WasIn(c *circuit.Circuit, was []string) string {
	var out []string
	for _, w := range was {
		station, mode, _ := strings.Cut(w, ".")
		if s := c.Station(station); s != nil {
			out = append(out, s.Label+": "+fault.Label(mode))
		}
	}
	return strings.Join(out, "; ")
}

// Work is work that was done: on a decision's parts, or on one part that was put right while
// measuring.
type Work struct {
	ID       string
	Decision string
	Station  string
	What     string
	At       time.Time
	By       string // name of who did it
	Late     bool   // it is told later: what was read since then was read after it
}

// TakenBy is how many pieces of evidence were taken by a time.
func TakenBy(es []casefile.Evidence, at time.Time) int {
	n := len(es)
	for n > 0 && parse(es[n-1].TakenAt).After(at) {
		n--
	}
	return n
}

// Do says what work amounts to, one entry a part. It is taken after all evidence so far, or,
// told later, after what was read by then.
func (r *Record) Do(in Work) ([]casefile.Repair, error) {
	stations := []string{in.Station}
	if in.Decision == "" { // put right while measuring, unless it is what was chosen
		if i := work.ToDo(r.Repairs); i >= 0 && slices.Contains(r.Repairs[i].Stations, in.Station) {
			in.Decision = r.Repairs[i].ID
		}
	}
	if in.Decision != "" {
		i := -1
		for k := range r.Repairs {
			if r.Repairs[k].ID == in.Decision && r.Repairs[k].Decision >= 0 {
				i = k
			}
		}
		if i < 0 {
			return nil, Refuse("nothing of this kind was decided: decide first, or say which part was put right")
		}
		if r.Repairs[i].Status == work.Left {
			return nil, Refuse("it was decided to leave this as it is: decide anew before work is recorded")
		}
		stations = r.Repairs[i].Stations
		if in.What == "" {
			in.What = r.Job.Decisions[r.Repairs[i].Decision].Label
		}
	}
	after := len(r.Evidence)
	if in.Late {
		after = TakenBy(r.Evidence, in.At)
	}
	var list []casefile.Repair
	for k, id := range stations {
		if r.Circuit.Station(id) == nil {
			return nil, Refuse("this circuit has no station %q", id)
		}
		one := in.ID
		if k > 0 { // sent again it is the same again
			one = childID(in.ID, id)
		}
		list = append(list, casefile.Repair{ID: one, Station: id, After: after, What: in.What,
			At: in.At.UTC().Format(time.RFC3339Nano), Decision: in.Decision, By: in.By})
	}
	return list, nil
}
