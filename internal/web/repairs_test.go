package web_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os/exec"
	"regexp"
	"slices"
	"sort"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/circuit"
	"corriente/core/diagnose"
	"corriente/core/machine"
	"corriente/core/meter"
	"corriente/core/phrase"
	"corriente/core/record"
	"corriente/core/repair"
	"corriente/core/unit"
	"corriente/internal/report"
	"corriente/internal/store"
	"corriente/internal/testdb"
	"corriente/internal/web"
)

// worked is a job on a simulated machine with faults hidden in it, worked over HTTP.
type worked struct {
	*client
	t    *testing.T
	a    *diagnose.Adviser
	rng  *rand.Rand
	bad  []machine.Hidden
	path string
	view web.JobView
}

// work opens a job on a machine that has these faults.
func work(t *testing.T, family string, faults ...string) *worked {
	c, _ := serve(t)
	c.signIn("jory")
	f, err := circuit.Family(family)
	require.NoError(t, err)
	a, err := diagnose.NewAdviser(f)
	require.NoError(t, err)
	w := &worked{client: c, t: t, a: a, rng: rand.New(rand.NewPCG(31, 7))}
	for _, x := range faults {
		fl, sev, _, err := a.Model.Parse(x)
		require.NoError(t, err)
		w.bad = append(w.bad, machine.Hidden{Fault: fl, Severity: sev})
	}
	id := store.NewID().String()
	require.Equal(t, 200, c.do("POST", "/api/jobs",
		map[string]any{"id": id, "machine_id": store.NewID().String(), "new_machine": "Reed barge", "kind": "boat",
			"circuit": family, "complaint": "does not do its work"}, &w.view))
	w.path = "/api/jobs/" + id
	return w
}

// take answers one question from the machine as it stands.
func (w *worked) take(e casefile.Evidence) {
	// The simulated machine has at most two faults at a time: a third shows once the first is
	// mended.
	m := machine.New(w.a.Model, machine.Spread(w.a.Model, 0.1, rand.New(rand.NewPCG(3, 3))), w.bad[:min(len(w.bad), 2)], w.rng)
	if e.Observe != "" {
		said := map[string]int{} // asked until it is clear
		for e.Outcome == "" {
			x := w.a.Answer(m.Truth(), e.Observe, e.State, nil, w.rng)
			if said[x]++; said[x] == 5 {
				e.Outcome = x
			}
		}
	} else {
		require.NoError(w.t, m.Measure(&e, meter.Default(e.Measure)))
	}
	body := map[string]any{"id": store.NewID(), "state": e.State, "taken_at": time.Now().UTC().Format(time.RFC3339Nano)}
	for k, v := range map[string]string{"measure": string(e.Measure), "observe": e.Observe, "from": e.From, "to": e.To,
		"through": e.Through, "value": e.Value, "outcome": e.Outcome} {
		if v != "" {
			body[k] = v
		}
	}
	var p problem
	if code := w.do("POST", w.path+"/evidence", map[string]any{"evidence": []any{body}}, &w.view); code != 200 {
		w.do("POST", w.path+"/evidence", map[string]any{"evidence": []any{body}}, &p)
		require.Equal(w.t, 200, code, "%v: %s", body, p.Detail)
	}
}

// toVerdict takes what is advised until a verdict stands.
func (w *worked) toVerdict() {
	for range 25 {
		v := &w.view.Diagnosis
		if v.Verdict.Status == diagnose.Isolated || len(v.Next) == 0 {
			return
		}
		n := v.Next[0]
		w.take(casefile.Evidence{Measure: unit.Measure(n.Measure), Observe: n.Observe, State: n.State, From: n.From, To: n.To,
			Through: n.Through})
	}
}

var terms = map[string]any{"hour_rate": 58, "loss_per_day": 5, "years": 4, "comeback": 60}

// mend decides on what is in question and records the work; what is mended is whole.
func (w *worked) mend(stations ...string) record.RepairView {
	var cmp record.OptionsView
	require.Equal(w.t, 200, w.do("POST", w.path+"/compare", map[string]any{"stations": stations, "terms": terms}, &cmp))
	require.NotEmpty(w.t, cmp.Options)
	i := slices.IndexFunc(cmp.Options, func(o repair.Option) bool {
		return o.Veto == nil && !o.Temporary && o.ID != "leave" && o.ID != "reading" && o.CuresThis > 0.7 &&
			len(o.Steps) == max(len(stations), 1)
	})
	require.GreaterOrEqual(w.t, i, 0, "nothing cures %v: %+v", stations, cmp.Options)
	o := cmp.Options[i]
	d := map[string]any{"id": store.NewID(), "option": o.ID, "stations": stations, "price": o.Parts + o.Labour,
		"reason": "", "by": "customer", "who": "The reed cutters", "terms": terms}
	for range 2 { // a resend doubles nothing
		require.Equal(w.t, 200, w.do("POST", w.path+"/decisions", d, &w.view))
	}
	r := w.view.Work[len(w.view.Work)-1]
	require.Equal(w.t, "chosen", r.Status)
	done := map[string]any{"id": store.NewID(), "decision": r.ID}
	for range 2 {
		require.Equal(w.t, 200, w.do("POST", w.path+"/repairs", done, &w.view))
	}
	w.bad = slices.DeleteFunc(w.bad, func(h machine.Hidden) bool { return slices.Contains(r.Stations, h.Fault.Station) })
	return w.view.Work[len(w.view.Work)-1]
}

// prove takes every check that is asked for, and ticks what must be.
func (w *worked) prove() (v record.ProveView) {
	require.Equal(w.t, 200, w.do("GET", w.path+"/proof", nil, &v))
	for _, k := range v.Checks {
		if k.Passed == nil {
			w.take(casefile.Evidence{Measure: unit.Measure(k.Measure), Observe: k.Observe, State: k.State, From: k.From, To: k.To,
				Through: k.Through})
		}
	}
	for _, k := range v.Ticks {
		require.Equal(w.t, 200, w.do("PUT", w.path+"/proof/ticks/"+k.ID, map[string]any{"value": "yes"}, nil))
	}
	require.Equal(w.t, 200, w.do("GET", w.path+"/proof", nil, &v))
	return v
}

func (w *worked) sign(result, remark string) (v record.ProveView, code int, p problem) {
	body := map[string]any{"id": store.NewID(), "result": result, "signed": "Jory Reed", "remark": remark, "counter": "412 h"}
	code = w.do("POST", w.path+"/proof", body, &v)
	if code != 200 {
		w.do("POST", w.path+"/proof", body, &p)
	}
	return v, code, p
}

func (w *worked) paper() report.Paper {
	var p report.Paper
	require.Equal(w.t, 200, w.do("GET", w.path+"/paper", nil, &p))
	return p
}

func text(p report.Paper) string {
	var b strings.Builder
	for _, s := range p.Sections {
		fmt.Fprintln(&b, s.Head)
		for _, l := range slices.Concat(s.Lines, s.After) {
			fmt.Fprintln(&b, l.Text)
		}
		if s.Table != nil {
			for _, r := range s.Table.Rows {
				fmt.Fprintln(&b, strings.Join(r, " | "))
			}
		}
	}
	return b.String()
}

// A burnt connector hides a worn motor: the first repair is proved not to be enough, the
// verdict moves on, the second part is decided by itself, and both stand on every paper.
func TestASecondFaultIsDecidedByItself(t *testing.T) {
	w := work(t, "traction", "motor_connector.open", "motor.brushes_worn=0.9ohm")
	w.toVerdict()
	require.Equal(t, "motor_connector", *w.view.Diagnosis.Verdict.Station, w.view.Diagnosis.Verdict.Says)
	first := w.mend()
	assert.Equal(t, []string{"motor_connector"}, first.Stations)
	v := w.prove()
	require.True(t, v.Failed, "the motor is still worn: %+v", v.Checks)
	_, code, p := w.sign("passed", "")
	assert.Equal(t, 422, code)
	assert.Contains(t, p.Detail, "out of its band")
	v, code, _ = w.sign("failed", "still slow")
	require.Equal(t, 200, code)
	assert.False(t, v.Failed, "what failed stays on record and must be taken again")
	for _, k := range v.Checks {
		assert.Nil(t, k.Passed, "%s: only what is taken after the failed proof counts", k.Label)
	}
	assert.True(t, slices.ContainsFunc(v.Records[0].Checks, func(k record.ProofCheck) bool { return k.Verdict() == "not good" }))
	require.Equal(t, 200, w.do("GET", w.path, nil, &w.view))
	w.toVerdict()
	require.Equal(t, "motor", *w.view.Diagnosis.Verdict.Station, w.view.Diagnosis.Verdict.Says)
	second := w.mend()
	assert.Equal(t, []string{"motor"}, second.Stations)
	require.Len(t, w.view.Work, 2)
	assert.Equal(t, "failed", w.view.Work[0].Status, "the first decision stands as it was")
	assert.Equal(t, first.Label, w.view.Work[0].Label)
	// What was done is typed over while it is not signed.
	require.Equal(t, 200, w.do("PUT", w.path+"/repairs/"+second.ID,
		map[string]any{"what": "New brushes of 22 mm, springs as well"}, &w.view))
	v = w.prove()
	require.False(t, v.Failed, "%+v", v.Remarks)
	require.Empty(t, v.Missing)
	assert.Len(t, v.Repairs, 2)
	v, code, p = w.sign("passed", "")
	require.Equal(t, 200, code, p.Detail)
	assert.False(t, v.Open)
	require.Equal(t, 200, w.do("GET", w.path, nil, &w.view))
	assert.NotNil(t, w.view.ClosedAt)
	for _, r := range w.view.Work {
		assert.Equal(t, "proved", r.Status)
		assert.True(t, r.Signed)
	}
	assert.Equal(t, 422, w.do("PUT", w.path+"/repairs/"+second.ID, map[string]any{"what": "something else"}, nil), "signed is signed")
	require.Equal(t, 200, w.do("PUT", w.path+"/costs/"+first.ID, map[string]any{"parts": 12, "minutes": 40, "price": 58.5}, nil))
	require.Equal(t, 200, w.do("PUT", w.path+"/costs/"+second.ID, map[string]any{"parts": 32, "minutes": 150, "price": 177}, nil))
	said := text(w.paper())
	for _, x := range []string{"1. Motor connector", "2. Drive motor", "It was the motor connector: open.",
		"It was the drive motor: worn or hanging brushes.", "New brushes of 22 mm, springs as well.",
		"Chosen by the customer, The reed cutters", "How we know that it is good", "Proved good. Jory Reed", "Together: 235.50"} {
		assert.Contains(t, said, x)
	}
	assert.NotContains(t, said, "likeliest")
	assert.NotContains(t, said, "not yet sure")
	assert.NotContains(t, said, "not good")
	file := pdf(t, w.client, w.path, "file")
	for _, x := range []string{"Repair 1: Motor connector", "Repair 2: Drive motor", "Not good: still slow",
		"not good", "Reckoned from the readings, not measured"} {
		assert.Contains(t, file, x, "what failed is on the file copy")
	}
	label := pdf(t, w.client, w.path, "label")
	assert.Contains(t, label, "New brushes of 22 mm")
	assert.Contains(t, label, phrase.Lower(first.What)[1:20])
	// Both teach: two faults, two outcomes.
	var page web.LogPage
	require.Equal(t, 200, w.do("GET", "/api/logbook?q=reed+barge", nil, &page))
	require.Len(t, page.Entries, 1)
	assert.Equal(t, "Motor connector: open; Drive motor: worn or hanging brushes", page.Entries[0].Fault)
	require.NotNil(t, page.Entries[0].Price)
	assert.InDelta(t, 235.5, *page.Entries[0].Price, 1e-9)
	// Exported and read again it says the same.
	var cs map[string]any
	require.Equal(t, 200, w.do("GET", w.path+"/case", nil, &cs))
	job, ok := cs["job"].(map[string]any)
	require.True(t, ok)
	assert.Len(t, job["decisions"], 2)
	assert.Len(t, job["proofs"], 2)
}

// Two faults that are seen at once are one plan for two parts, done and proved together.
func TestAPlanForTwoParts(t *testing.T) {
	w := work(t, "starter", "gnd_cable.high_resistance=0.02ohm", "main_contact.high_resistance=0.03ohm")
	w.toVerdict()
	r := w.mend("gnd_cable", "main_contact")
	assert.ElementsMatch(t, []string{"gnd_cable", "main_contact"}, r.Stations)
	require.Len(t, w.view.Repairs, 2, "one piece of work a part")
	v := w.prove()
	require.False(t, v.Failed, "%+v", v.Remarks)
	_, code, p := w.sign("passed", "")
	require.Equal(t, 200, code, p.Detail)
	require.Equal(t, 200, w.do("GET", w.path, nil, &w.view))
	require.Len(t, w.view.Work, 1)
	assert.Equal(t, "proved", w.view.Work[0].Status)
}

// Nothing measured, nothing printed as measured; and what cannot be is refused.
func TestAPaperOfNothing(t *testing.T) {
	w := work(t, "starter")
	said := text(w.paper())
	assert.Contains(t, said, "Nothing has been measured yet.")
	assert.Empty(t, stray(said, nil))
	_, code, p := w.sign("passed", "")
	assert.Equal(t, 422, code)
	assert.Contains(t, p.Detail, "nothing to prove")
	assert.Equal(t, 422, w.do("POST", w.path+"/repairs", map[string]any{"id": store.NewID(), "decision": store.NewID().String()}, &p))
	assert.Contains(t, p.Detail, "decide first")
	for wish, says := range map[string]string{"2020-01-01": "has passed", "Friday": "is no day"} {
		assert.Equal(t, 422, w.do("PUT", w.path+"/terms",
			map[string]any{"wishes": map[string]any{"run_on": wish}, "with": map[string]any{}}, &p))
		assert.Contains(t, p.Detail, says)
	}
}

// pdf is the text of one of a job's papers.
func pdf(t *testing.T, c *client, path, kind string) string {
	t.Helper()
	res, err := c.http.Get(c.base + path + "/report/" + kind)
	require.NoError(t, err)
	defer res.Body.Close()
	require.Equal(t, 200, res.StatusCode)
	ctx, cancel := context.WithTimeout(t.Context(), time.Minute)
	defer cancel()
	cmd := exec.CommandContext(ctx, "pdftotext", "-raw", "-", "-")
	cmd.Stdin = res.Body
	out, err := cmd.Output()
	require.NoError(t, err, "pdftotext, from poppler-utils")
	return strings.Join(strings.Fields(string(out)), " ")
}

// A date, and a line that says of itself that it is reckoned, its sentence long.
var (
	dates    = regexp.MustCompile(`\b\d{1,2} (January|February|March|April|May|June|July|August|September|October|November|December) \d{4}`)
	reckoned = regexp.MustCompile(`[^.·]*\breckoned\b[^.·]*`)
	pageOf   = regexp.MustCompile(`page \d+ of \d+`)
	figure   = regexp.MustCompile(`\S*\d\S*`)
)

// stray lists the figures in a text that nobody wrote, read, agreed or dated.
func stray(text string, known []string) []string {
	text = strings.Join(strings.Fields(text), " ")
	for i := range known {
		known[i] = strings.Join(strings.Fields(known[i]), " ")
	}
	sort.Slice(known, func(i, j int) bool { return len(known[i]) > len(known[j]) })
	for _, k := range known {
		if strings.ContainsAny(k, "0123456789") {
			text = regexp.MustCompile(`(^|[^\w.,])`+regexp.QuoteMeta(k)+`($|[^\w]|\.$|\. )`).ReplaceAllString(text, "$1~$2")
		}
	}
	for _, x := range []*regexp.Regexp{dates, reckoned, pageOf} {
		text = x.ReplaceAllString(text, "~")
	}
	return figure.FindAllString(text, -1)
}

// No paper of the demo's jobs prints a figure that is neither a reading, a price, a date nor
// marked as reckoned; and the check sees one that is.
func TestNoPaperPrintsWhatNobodyMeasured(t *testing.T) {
	assert.Equal(t, []string{"7.03"}, stray("Motor 7.03 V, code 3.", []string{"3"}))
	assert.Equal(t, []string{"7.03"}, stray("Before: Motor 7.03 V, 12.10 V read on 3 May 2026. Motor: reckoned, "+
		"half last longer than 4 years.", []string{"12.10 V"}))
	c, _ := serve(t)
	c.signIn("jory")
	var rows []web.Row
	require.Equal(t, 200, c.do("GET", "/api/board?all=true", nil, &rows))
	require.GreaterOrEqual(t, len(rows), 20)
	seen := 0
	for _, r := range rows {
		if seen >= 26 {
			break
		}
		seen++
		path := "/api/jobs/" + r.ID
		var j web.JobView
		require.Equal(t, 200, c.do("GET", path, nil, &j))
		var v record.ProveView
		require.Equal(t, 200, c.do("GET", path+"/proof", nil, &v))
		var jc web.JobCircuit
		require.Equal(t, 200, c.do("GET", path+"/circuit", nil, &jc))
		known := []string{j.ID[30:], j.Machine.Name, j.Machine.Place, j.Complaint, j.Title, j.CodesSay}
		for _, s := range jc.Circuit.Stations {
			known = append(known, s.Label, strings.ToLower(s.Label))
		}
		for _, n := range jc.Circuit.Nodes {
			known = append(known, n.Label)
		}
		for _, s := range jc.Circuit.States {
			known = append(known, s.Label, phrase.Lower(s.Label))
		}
		for _, o := range jc.Circuit.Observations {
			known = append(known, o.Label)
			for _, x := range o.Outcomes {
				if len(x.Label) > 2 { // a blink code is known only where it was read
					known = append(known, x.Label)
				}
			}
		}
		for _, e := range j.Evidence {
			known = append(known, e.Shown)
		}
		for _, k := range v.Checks { // in the column of what is reckoned
			known = append(known, k.GoodSays)
		}
		total := 0.0
		for i, w := range j.Work {
			known = append(known, fmt.Sprintf("%d. %s", i+1, w.Parts))
			if w.Paid != nil {
				total += *w.Paid
			}
			known = append(known, w.What, w.Label, w.Reason, w.Limit)
			for _, x := range []*float64{w.Price, w.Paid} {
				if x != nil {
					known = append(known, fmt.Sprintf("%.2f", *x))
				}
			}
		}
		var costs []web.RepairCosts
		require.Equal(t, 200, c.do("GET", path+"/costs", nil, &costs))
		for _, x := range costs {
			total += x.Price
			known = append(known, fmt.Sprintf("%.2f", x.Price))
		}
		for _, x := range v.Records {
			known = append(known, x.Counter)
		}
		known = append(known, fmt.Sprintf("%.2f", total))
		said := pdf(t, c, path, "customer")
		assert.Empty(t, stray(said, known), "%s, %s:\n%s", r.Machine, r.Complaint, said)
		assert.Contains(t, said, "What was wrong")
	}
}

// What is kept before repairs were told apart is carried over: a decision and its work
// belong together, a signature covers what was done by then.
func TestStoredJobsAreCarriedOver(t *testing.T) {
	c, st := serve(t)
	c.signIn("jory")
	j := c.job("Rescue boat Coot")
	id := j.ID
	exec := func(q string, args ...any) {
		_, err := st.DB.ExecContext(t.Context(), q, args...)
		require.NoError(t, err)
	}
	require.NotEmpty(t, j.Decisions)
	at := j.Decisions[0].At.Add(time.Hour)
	exec("INSERT INTO repairs (id, job_id, station, after_seq, what, created_at) VALUES "+
		"(UNHEX(REPLACE(UUID(),'-','')), UNHEX(REPLACE(?,'-','')), ?, 99, 'as it was done', ?)", id, j.Decisions[0].Station, at)
	exec("INSERT INTO proofs (id, job_id, result, remark, signed, counter, checks, plan, at) VALUES "+
		"(UNHEX(REPLACE(UUID(),'-','')), UNHEX(REPLACE(?,'-','')), 'passed', '', 'Old Hand', '', '[]', '[]', ?)", id, at.Add(time.Hour))
	exec("UPDATE decisions SET stations = '', found = ''")
	exec("DELETE FROM goose_db_version WHERE version_id >= 31")
	again, err := store.Open(t.Context(), testdb.DSNOf(t, st))
	require.NoError(t, err, "brought up to date a second time, as after a kill in the middle")
	require.NoError(t, again.Close())
	require.Equal(t, 200, c.do("GET", "/api/jobs/"+id, nil, &j))
	require.Len(t, j.Work, 1)
	assert.Equal(t, "proved", j.Work[0].Status)
	assert.Equal(t, "as it was done", j.Work[0].What)
	assert.Equal(t, j.Decisions[0].Option, j.Work[0].Option)
	said := pdf(t, c, "/api/jobs/"+id, "customer")
	assert.Contains(t, said, "Proved good. Old Hand")
}

// What is too long for where it is kept is refused in one sentence, also out of a file.
func TestWhatIsTooLongIsRefused(t *testing.T) {
	c, _ := serve(t)
	c.signIn("wanda")
	long := strings.Repeat("long ", 200)
	file := func(job string) []byte {
		return []byte(`{"format":"corriente-case/1","circuit":"starter","evidence":[],"job":` + job + `}`)
	}
	for _, job := range []string{`{"decisions":[{"option":"repair","station":"motor","label":"` + long + `"}]}`,
		`{"proofs":[{"result":"passed","signed":"` + long + `"}]}`} {
		var p problem
		code := c.do("POST", "/api/cases?id="+store.NewID().String(), file(job), &p)
		assert.Equal(t, 422, code, p.Detail)
		assert.Contains(t, p.Detail, "too long")
	}
	// A machine's kind of a hundred letters does not end a proof with an error.
	w := work(t, "starter", "main_contact.stuck_open")
	require.Equal(t, 200, w.do("PUT", "/api/machines/"+w.view.Machine.ID,
		map[string]any{"name": "Reed barge", "kind": strings.Repeat("k", 100)}, nil))
	w.toVerdict()
	w.mend()
	w.prove()
	_, code, p := w.sign("passed", "")
	require.Equal(t, 200, code, p.Detail)
	require.Equal(t, 200, w.do("GET", "/api/learned/starter?kind="+strings.Repeat("k", 100), nil, nil))
}

// Jobs with two faults and one with three are worked to the end: whatever the verdict names
// is repaired, a proof that fails sends the technician on, and in the end all that was
// wrong is mended, proved, and on the paper.
func TestJobsWithSeveralFaults(t *testing.T) {
	for _, x := range []struct {
		family string
		faults []string
	}{
		{"starter", []string{"gnd_cable.high_resistance=0.02ohm", "main_contact.high_resistance=0.06ohm"}},
		{"two_wire_motor", []string{"ground_point.high_resistance=4ohm", "motor.brushes_worn=6ohm"}},
		{"traction", []string{"interlock.stuck_open", "motor_connector.high_resistance=0.3ohm", "motor.brushes_worn=1.2ohm"}},
	} {
		t.Run(x.family, func(t *testing.T) {
			w := work(t, x.family, x.faults...)
			rounds := 0
			for ; rounds < 7; rounds++ {
				w.toVerdict()
				w.mend()
				v := w.prove()
				if !v.Failed && len(v.Missing) == 0 {
					_, code, p := w.sign("passed", "")
					require.Equal(t, 200, code, p.Detail)
					break
				}
				_, code, p := w.sign("failed", "not yet")
				require.Equal(t, 200, code, p.Detail)
				require.Equal(t, 200, w.do("GET", w.path, nil, &w.view))
			}
			assert.Empty(t, w.bad, "all that was wrong is mended")
			require.Equal(t, 200, w.do("GET", w.path, nil, &w.view))
			said := text(w.paper())
			for _, f := range x.faults {
				id, _, _ := strings.Cut(f, ".")
				assert.Contains(t, strings.ToLower(said), strings.ToLower(w.a.C.Station(id).Label))
			}
			assert.NotNil(t, w.view.ClosedAt)
			for _, r := range w.view.Work {
				t.Log(r.Parts, r.Status, r.What)
			}
		})
	}
}

// Every kind of circuit, from the complaint to a signed paper: what the proof asks for is
// passed by the machine once it is mended, and the customer's page says what it was, what
// was done and how one knows.
func TestEveryKindOfJobEndsWithItsPapers(t *testing.T) {
	for family, fault := range map[string]string{
		"starter": "coil.sticking", "blower_module": "module.no_output", "blower_resistor": "resistor_pack.open",
		"wiper": "park_switch.stuck_open", "window": "drive.binding=x3",
		"traction": "battery_connector.open", "contactor_motor": "motor.bearing_drag=x8",
		"two_wire_motor": "motor.seized", "actuator": "motor.winding_open", "stator": "phase_2.open", "capacitor_fan": "capacitor.open",
	} {
		t.Run(family, func(t *testing.T) {
			w := work(t, family, fault)
			w.toVerdict()
			r := w.mend()
			require.Empty(t, w.bad, "the verdict named %v: %s", r.Stations, w.view.Diagnosis.Verdict.Says)
			v := w.prove()
			require.False(t, v.Failed, "%+v", v.Remarks)
			require.Empty(t, v.Missing)
			_, code, p := w.sign("passed", "")
			require.Equal(t, 200, code, p.Detail)
			said := text(w.paper())
			station, _, _ := strings.Cut(fault, ".")
			assert.Contains(t, said, "It was the "+phrase.Lower(w.a.C.Station(station).Label)+": ")
			assert.Contains(t, said, "Proved good. Jory Reed")
			assert.Contains(t, said, "What we did")
			assert.NotContains(t, said, "not good")
			for _, k := range v.Checks {
				st := w.a.C.State(k.State)
				assert.False(t, st.Supply == "mains" && k.Measure != "", "nothing is probed on the mains")
			}
		})
	}
}
