package work

import (
	"slices"
	"time"
)

// Options that are not work.
const (
	Leave     = "leave"     // it stays as it is
	Temporary = "temporary" // the option of a repair that holds only for a while; others say so by themselves
)

// Results of a proof.
const (
	Passed = "passed"
	Remark = "remark" // accepted, with a remark
	Failed = "failed"
)

// Decision is what was chosen about one part or several.
type Decision struct {
	ID        string
	Option    string
	Stations  []string
	Temporary bool
	At        time.Time
}

// Done is work on one part: evidence up to After was taken before it. Decision is empty
// where nobody decided anything and the part was put right while measuring.
type Done struct {
	ID       string
	Decision string
	Station  string
	After    int
	What     string
	At       time.Time
	By       string
}

// Proof is a signature under some repairs. After is how many pieces of evidence there were
// when it was signed. Of names the repairs it is for; empty is all that were done by then
// and not proved.
type Proof struct {
	ID     string
	Of     []string
	Result string
	After  int
	At     time.Time
}

// Status is how far one repair is.
type Status string

// How far a repair can be.
const (
	Chosen    Status = "chosen"    // the work is not done
	Left      Status = "left"      // it was decided to leave it
	Changed   Status = "changed"   // another choice took its place before any work was done
	Worked    Status = "done"      // not proved
	NotGood   Status = "failed"    // the last proof failed
	Proved    Status = "proved"    // passed
	Accepted  Status = "accepted"  // passed with a remark
	Succeeded Status = "succeeded" // a temporary repair that a lasting one followed
)

// Repair is one repair of a job.
type Repair struct {
	ID        string // of its decision, or of its work where nobody decided
	Stations  []string
	Decision  int   // index, -1 for none
	Done      []int // indices, in the order of the parts
	Proofs    []int // indices, oldest first
	Temporary bool
	Status    Status
}

// After is how many pieces of evidence were taken before the work; -1 while it is not done.
func (r *Repair) After(ds []Done) int {
	at := -1
	for _, k := range r.Done {
		if at < 0 || ds[k].After < at {
			at = ds[k].After
		}
	}
	return at
}

// Repairs puts a job's decisions, work and proofs together, in the order the repairs were
// begun. All three are in the order they were made.
func Repairs(decisions []Decision, done []Done, proofs []Proof) []Repair {
	var out []Repair
	byID := map[string]int{}
	for i, d := range decisions {
		byID[d.ID] = len(out)
		out = append(out, Repair{ID: d.ID, Stations: slices.Clone(d.Stations), Decision: i, Temporary: d.Temporary, Status: Chosen})
		if d.Option == Leave {
			out[len(out)-1].Status = Left
		}
	}
	for i, w := range done {
		k, ok := byID[w.Decision]
		if !ok {
			k = len(out)
			out = append(out, Repair{ID: w.ID, Stations: []string{w.Station}, Decision: -1})
		}
		out[k].Done = append(out[k].Done, i)
		if !slices.Contains(out[k].Stations, w.Station) {
			out[k].Stations = append(out[k].Stations, w.Station)
		}
		out[k].Status = Worked
	}
	slices.SortStableFunc(out, func(a, b Repair) int { return begun(&a, decisions, done).Compare(begun(&b, decisions, done)) })
	changed(out, decisions)
	for i, p := range proofs {
		prove(out, done, i, p)
	}
	followed(out, done)
	return out
}

// begun is when a repair was chosen, or done where nobody chose.
func begun(r *Repair, ds []Decision, ws []Done) time.Time {
	if r.Decision >= 0 {
		return ds[r.Decision].At
	}
	return ws[r.Done[0]].At
}

// changed marks choices that a later one about the same part replaced before any work was
// done.
func changed(rs []Repair, ds []Decision) {
	for i := range rs {
		if rs[i].Status != Chosen && rs[i].Status != Left {
			continue
		}
		for k := i + 1; k < len(rs); k++ {
			if rs[k].Decision >= 0 && shares(rs[i].Stations, rs[k].Stations) && ds[rs[k].Decision].At.After(ds[rs[i].Decision].At) {
				rs[i].Status = Changed
			}
		}
	}
}

func shares(a, b []string) bool {
	return slices.ContainsFunc(a, func(x string) bool { return slices.Contains(b, x) })
}

// prove puts a proof to the repairs it is for.
func prove(rs []Repair, done []Done, i int, p Proof) {
	for k := range rs {
		r := &rs[k]
		if len(r.Done) == 0 {
			continue
		}
		mine := slices.Contains(p.Of, r.ID)
		if len(p.Of) == 0 { // signed before proofs named their repairs
			mine = !done[r.Done[0]].At.After(p.At) && r.Status != Proved && r.Status != Accepted
		}
		if !mine {
			continue
		}
		r.Proofs = append(r.Proofs, i)
		r.Status = map[string]Status{Passed: Proved, Remark: Accepted, Failed: NotGood}[p.Result]
	}
}

// followed marks temporary repairs that a lasting one of the same part came after.
func followed(rs []Repair, done []Done) {
	for i := range rs {
		if !rs[i].Temporary || len(rs[i].Done) == 0 {
			continue
		}
		for k := range rs {
			if !rs[k].Temporary && len(rs[k].Done) > 0 && shares(rs[i].Stations, rs[k].Stations) &&
				done[rs[k].Done[0]].At.After(done[rs[i].Done[0]].At) {
				rs[i].Status = Succeeded
			}
		}
	}
}

// ToDo is the last repair that is chosen and not done, -1 for none.
func ToDo(rs []Repair) int {
	for i := len(rs) - 1; i >= 0; i-- {
		if rs[i].Status == Chosen {
			return i
		}
	}
	return -1
}

// ToProve lists the repairs that are done and not proved, oldest first.
func ToProve(rs []Repair) []int {
	var out []int
	for i := range rs {
		if rs[i].Status == Worked || rs[i].Status == NotGood {
			out = append(out, i)
		}
	}
	return out
}

// Finished reports whether a job's repairs are all proved, left or taken back, and at least
// one is not just taken back.
func Finished(rs []Repair) bool {
	any := false
	for i := range rs {
		switch rs[i].Status {
		case Chosen, Worked, NotGood:
			return false
		case Proved, Accepted, Left, Succeeded:
			any = true
		}
	}
	return any
}

// Counts is how many pieces of evidence an after-reading must come behind to count for a
// proof of these repairs: behind the work, and behind a proof that failed.
func Counts(rs []Repair, done []Done, proofs []Proof, of []int) int {
	from := 0
	for _, k := range of {
		from = max(from, rs[k].After(done))
		for _, i := range rs[k].Proofs {
			if proofs[i].Result == Failed {
				from = max(from, proofs[i].After)
			}
		}
	}
	return from
}
