package web

import (
	"archive/zip"
	"bytes"
	"cmp"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"
	"github.com/xuri/excelize/v2"

	"corriente/core/circuit"
	"corriente/core/fault"
	"corriente/core/learn"
	"corriente/core/oldlist"
	"corriente/core/phrase"
	"corriente/core/record"
	"corriente/internal/people"
	"corriente/internal/store"
	"corriente/internal/workshop"
)

// LogEntry is one line of the logbook.
type LogEntry struct {
	ID        string     `json:"id"`
	Old       bool       `json:"old" doc:"from an imported list: there is no job behind it"`
	Machine   string     `json:"machine"`
	MachineID string     `json:"machine_id,omitempty"`
	Circuit   string     `json:"circuit"`
	Title     string     `json:"title"`
	Complaint string     `json:"complaint"`
	Says      string     `json:"says"`
	Fault     string     `json:"fault" doc:"what it turned out to be, in words"`
	Option    string     `json:"option"`
	Price     *float64   `json:"price,omitempty"`
	OpenedAt  time.Time  `json:"opened_at"`
	ClosedAt  *time.Time `json:"closed_at,omitempty"`
	Lasted    string     `json:"lasted,omitempty" doc:"how long until the same part came again, in a machine's history"`
}

// LogPage is a page of the logbook.
type LogPage struct {
	Entries []LogEntry `json:"entries"`
	More    *time.Time `json:"more,omitempty" doc:"ask again with before set to this"`
}

// LearnView is what the workshop's own jobs say of a circuit.
type LearnView struct {
	Circuit string              `json:"circuit"`
	Title   string              `json:"title"`
	Since   string              `json:"since" doc:"jobs before this day do not count; empty: all do"`
	Rates   []LearnRate         `json:"rates"`
	Ways    []workshop.LearnWay `json:"ways" doc:"getting at things, where jobs here said how long it took"`
	Kinds   []string            `json:"kinds" doc:"kinds of machines there are"`
	ByKind  []KindFaults        `json:"by_kind" doc:"what was confirmed here, by the kind of machine"`
}

// KindFaults is what was confirmed on one kind of machine, the most frequent first.
type KindFaults struct {
	Kind   string      `json:"kind"`
	Of     int         `json:"of" doc:"confirmed jobs"`
	Faults []KindFault `json:"faults"`
}

// KindFault is how often one fault was confirmed.
type KindFault struct {
	learn.Count
	Label string `json:"label"`
}

// JobTime is how long finding out took on one job, against what its entries were reckoned with.
type JobTime struct {
	ID      string  `json:"id"`
	Machine string  `json:"machine"`
	Title   string  `json:"title"`
	Spent   float64 `json:"spent" doc:"minutes from the first entry to the last, breaks left out"`
	Advised float64 `json:"advised" doc:"minutes that the same entries were reckoned with"`
}

// LearnRate is one fault's share with its name.
type LearnRate struct {
	learn.Rate
	Label string `json:"label"`
}

// ReliabilityView is how the verdicts did.
type ReliabilityView struct {
	Bands    []learn.Band `json:"bands"`
	Jobs     int          `json:"jobs"`
	Readings float64      `json:"readings"`
	Minutes  float64      `json:"minutes"`
	Right    int          `json:"right"`
	Claims   int          `json:"claims"`
	Wrong    []LogEntry   `json:"wrong"`
	Times    []JobTime    `json:"times" doc:"the latest jobs, the newest first"`
}

// OldImport is an old list as read line by line.
type OldImport struct {
	Lines []oldlist.OldLine `json:"lines"`
	Good  int               `json:"good"`
	Wrong int               `json:"wrong"`
	Kept  int               `json:"kept"`
}

func (s *Server) entry(e *store.Entry, titles map[string]*circuit.Circuit) LogEntry {
	x := LogEntry{ID: e.ID.String(), Old: e.Old, Machine: e.Machine, Circuit: e.Circuit, Complaint: e.Complaint,
		Says: e.Says, Option: optionWords(e.Option), Price: e.Price, OpenedAt: e.OpenedAt, ClosedAt: e.ClosedAt, Fault: e.Fault}
	if !e.Old {
		x.MachineID = e.MachineID.String()
	}
	c := titles[e.Circuit]
	if c == nil {
		return x
	}
	x.Title = c.Title
	if st, mode, ok := strings.Cut(e.Fault, "."); ok && c.Station(st) != nil {
		x.Fault = c.Station(st).Label + ": " + fault.Label(mode)
	} else if st := c.Station(e.Station); st != nil {
		x.Fault = st.Label
	}
	if len(e.Was) > 1 { // a job of several repairs
		x.Fault = record.WasIn(c, e.Was)
	}
	return x
}

// faultLabel names a fault of a circuit; one that the circuit no longer has stands as it was written.
func faultLabel(c *circuit.Circuit, id string) string {
	station, mode, _ := strings.Cut(id, ".")
	st := c.Station(station)
	if st == nil {
		return id
	}
	return st.Label + ": " + fault.Label(mode)
}

// byKind is what was confirmed of a circuit on each kind of machine, the kind with most jobs first.
func (s *Server) byKind(ctx context.Context, c *circuit.Circuit) ([]KindFaults, error) {
	since, err := s.ws.Since(ctx)
	if err != nil {
		return nil, err
	}
	kinds, err := s.st.ByKind(ctx, c.ID, since)
	if err != nil {
		return nil, err
	}
	out := []KindFaults{}
	for kind, counts := range kinds {
		k := KindFaults{Kind: kind, Faults: []KindFault{}}
		for _, n := range counts {
			k.Of += n.N
			k.Faults = append(k.Faults, KindFault{n, faultLabel(c, n.Fault)})
		}
		out = append(out, k)
	}
	slices.SortFunc(out, func(a, b KindFaults) int {
		return cmp.Or(cmp.Compare(b.Of, a.Of), cmp.Compare(a.Kind, b.Kind))
	})
	return out, nil
}

// learned is what the workshop's own jobs say of a circuit's faults, on machines of one kind and age.
func (s *Server) learned(ctx context.Context, id, kind string, age int) (*LearnView, error) {
	c, _, err := s.st.Circuit(ctx, id)
	if err != nil {
		return nil, err
	}
	rs, err := s.ws.Rates(ctx, c, kind, age)
	if err != nil {
		return nil, err
	}
	v := LearnView{Circuit: c.ID, Title: c.Title, Rates: []LearnRate{}}
	if v.Ways, err = s.ws.Ways(ctx, c, kind); err != nil {
		return nil, err
	}
	if v.Kinds, err = s.st.Kinds(ctx); err != nil {
		return nil, err
	}
	if v.Since, err = s.st.Setting(ctx, "learning_since"); err != nil {
		return nil, err
	}
	for _, r := range rs {
		v.Rates = append(v.Rates, LearnRate{r, faultLabel(c, r.Fault)})
	}
	if v.ByKind, err = s.byKind(ctx, c); err != nil {
		return nil, err
	}
	return &v, nil
}

// reliability is how the verdicts did, and what finding out took.
func (s *Server) reliability(ctx context.Context) (*ReliabilityView, error) {
	r, err := s.st.Reliability(ctx)
	if err != nil {
		return nil, err
	}
	v := ReliabilityView{Bands: learn.Calibration(r.Claims), Jobs: r.Jobs, Readings: r.Readings, Minutes: r.Minutes,
		Wrong: []LogEntry{}, Times: []JobTime{}}
	for _, c := range r.Claims {
		v.Claims += c.N
		if c.Right {
			v.Right += c.N
		}
	}
	wrong, err := s.st.Wrong(ctx, 20)
	if err != nil {
		return nil, err
	}
	t, err := s.titles(ctx)
	if err != nil {
		return nil, err
	}
	for i := range wrong {
		v.Wrong = append(v.Wrong, s.entry(&wrong[i], t))
	}
	times, err := s.st.Times(ctx, 24)
	if err != nil {
		return nil, err
	}
	for _, x := range times {
		one := JobTime{ID: x.Job.String(), Machine: x.Machine, Title: x.Circuit, Spent: x.Spent, Advised: x.Advised}
		if c := t[x.Circuit]; c != nil {
			one.Title = c.Title
		}
		v.Times = append(v.Times, one)
	}
	return &v, nil
}

// historyOf lists a machine's jobs, the newest first, with how long each repair lasted.
func (s *Server) historyOf(ctx context.Context, machine uuid.UUID) ([]LogEntry, error) {
	es, err := s.st.Logbook(ctx, store.Search{Machine: &machine, Limit: 200})
	if err != nil {
		return nil, err
	}
	t, err := s.titles(ctx)
	if err != nil {
		return nil, err
	}
	list := []LogEntry{}
	for i := range es {
		x := s.entry(&es[i], t)
		// Newest first: a later entry of the same part stands before.
		for k := i - 1; k >= 0; k-- {
			if es[k].Station == es[i].Station && es[k].Circuit == es[i].Circuit && es[i].Station != "" && es[i].Option != "" {
				x.Lasted = span(es[k].OpenedAt.Sub(es[i].OpenedAt))
				break
			}
		}
		if x.Lasted == "" && es[i].Option != "" && es[i].ClosedAt != nil {
			x.Lasted = "holds since " + span(time.Since(*es[i].ClosedAt))
		}
		list = append(list, x)
	}
	return list, nil
}

// optionWords is what was done in a word: of a plan for several parts that it was one.
func optionWords(id string) string {
	if strings.Contains(id, "+") {
		return "several parts"
	}
	_, does, ok := strings.Cut(id, ".")
	if !ok {
		does = id
	}
	return strings.ReplaceAll(does, "_", " ")
}

// titles are all circuits by id.
func (s *Server) titles(ctx context.Context) (map[string]*circuit.Circuit, error) {
	out := map[string]*circuit.Circuit{}
	own, err := s.st.Circuits(ctx)
	if err != nil {
		return nil, err
	}
	for _, c := range own {
		out[c.ID] = c
	}
	for _, id := range circuit.Families() {
		if c, err := circuit.Family(id); err == nil {
			out[id] = c
		}
	}
	return out, nil
}

// searchIn is a question to the logbook.
type searchIn struct {
	Q       string `query:"q" maxLength:"200"`
	Circuit string `query:"circuit" maxLength:"64"`
	Machine string `query:"machine" maxLength:"36"`
	From    string `query:"from" maxLength:"10" doc:"a day, such as 2026-03-01"`
	To      string `query:"to" maxLength:"10"`
	Before  string `query:"before" maxLength:"40"`
}

func (in *searchIn) search() (store.Search, error) {
	x := store.Search{Words: in.Q, Circuit: in.Circuit}
	if in.Machine != "" {
		id, err := uuid.Parse(in.Machine)
		if err != nil {
			return x, huma.Error422UnprocessableEntity("There is no such machine.")
		}
		x.Machine = &id
	}
	for _, d := range []struct {
		text string
		to   **time.Time
		days int
	}{{in.From, &x.From, 0}, {in.To, &x.To, 1}} {
		if d.text == "" {
			continue
		}
		t, err := time.Parse(time.DateOnly, d.text)
		if err != nil {
			return x, huma.Error422UnprocessableEntity(fmt.Sprintf("%q is no day: write it as 2026-03-01.", d.text))
		}
		t = t.AddDate(0, 0, d.days)
		*d.to = &t
	}
	if in.Before != "" {
		t, err := time.Parse(time.RFC3339Nano, in.Before)
		if err != nil {
			return x, huma.Error422UnprocessableEntity("This page cannot be found again: search anew.")
		}
		x.Before = &t
	}
	return x, nil
}

func (s *Server) logbookRoutes(get, put, post opFunc) {
	huma.Register(s.api, get("logbook", "/api/logbook", "Every job and outcome, by words, circuit, machine and days"),
		s.logbook)
	huma.Register(s.api, get("history", "/api/machines/{id}/history",
		"What failed before on a machine, and how long repairs lasted"), func(ctx context.Context, in *JobIn) (*out[[]LogEntry], error) {
		list, err := s.historyOf(ctx, in.ID)
		if err != nil {
			return nil, s.fail(ctx, "history", err)
		}
		return body(list), nil
	})
	huma.Register(s.api, get("learned", "/api/learned/{circuit}",
		"What the workshop's own jobs say of a circuit's faults"), s.getLearned)
	huma.Register(s.api, allow(people.Manage,
		post("forget", "/api/learned/forget", "Learn anew from today, or from all jobs again")), s.forget)
	huma.Register(s.api, put("exclude", "/api/jobs/{id}/excluded", "Keep a job out of learning, or take it in again"),
		s.exclude)
	huma.Register(s.api, get("reliability", "/api/reliability",
		"How often the verdict was right, by stated probability"), func(ctx context.Context, _ *struct{}) (*out[ReliabilityView], error) {
		v, err := s.reliability(ctx)
		if err != nil {
			return nil, s.fail(ctx, "reliability", err)
		}
		return body(*v), nil
	})
	list := put("import_old", "/api/logbook/import",
		"A workshop's old list as CSV: read line by line; kept only when asked, and only when no line is wrong")
	list.MaxBodyBytes, list.SkipValidateBody = maxBody, true
	huma.Register(s.api, list, func(ctx context.Context, in *struct {
		Keep    bool   `query:"keep"`
		RawBody []byte `contentType:"text/csv"`
	}) (*out[OldImport], error) {
		ls, err := oldlist.Read(bytes.NewReader(in.RawBody), circuit.Families(), time.Now())
		if err != nil {
			return nil, huma.Error422UnprocessableEntity(phrase.Sentence(err.Error()))
		}
		v := OldImport{Lines: ls}
		var jobs []store.OldJob
		for _, l := range ls {
			if l.Wrong != "" {
				v.Wrong++
				continue
			}
			v.Good++
			jobs = append(jobs, store.OldJob{Machine: l.Machine, Circuit: l.Circuit, Fault: l.Fault, What: l.What,
				Done: l.Done, On: l.On, Price: l.Price})
		}
		if in.Keep {
			if v.Wrong > 0 {
				return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("%d of %d lines are wrong: nothing was kept.", v.Wrong, len(ls)))
			}
			if v.Kept, err = s.st.PutOldJobs(ctx, jobs); err != nil {
				return nil, s.fail(ctx, "import", err)
			}
		}
		if len(v.Lines) > 500 {
			v.Lines = v.Lines[:500]
		}
		return body(v), nil
	})
}

// logbook answers GET /api/logbook: every job and outcome, by words, circuit, machine and days.
func (s *Server) logbook(ctx context.Context, in *searchIn) (*out[LogPage], error) {
	x, err := in.search()
	if err != nil {
		return nil, err
	}
	es, err := s.st.Logbook(ctx, x)
	if err != nil {
		return nil, s.fail(ctx, "logbook", err)
	}
	if x.Machine == nil {
		old, err := s.st.OldJobs(ctx, x)
		if err != nil {
			return nil, s.fail(ctx, "logbook", err)
		}
		es = append(es, old...)
		slices.SortStableFunc(es, func(a, b store.Entry) int { return b.OpenedAt.Compare(a.OpenedAt) })
	}
	t, err := s.titles(ctx)
	if err != nil {
		return nil, s.fail(ctx, "logbook", err)
	}
	p := LogPage{Entries: []LogEntry{}}
	if len(es) >= 50 {
		es = es[:50]
		p.More = &es[49].OpenedAt
	}
	for i := range es {
		p.Entries = append(p.Entries, s.entry(&es[i], t))
	}
	return body(p), nil
}

// getLearnedIn is the request of getLearned.
type getLearnedIn struct {
	Circuit string `path:"circuit" maxLength:"64"`
	Kind    string `query:"kind" maxLength:"120"`
	Age     int    `query:"age" default:"-1" minimum:"-1" maximum:"200" doc:"years; -1: any"`
}

// getLearned answers GET /api/learned/{circuit}: what the workshop's own jobs say of a circuit's faults.
func (s *Server) getLearned(ctx context.Context, in *getLearnedIn) (*out[LearnView], error) {
	v, err := s.learned(ctx, in.Circuit, in.Kind, in.Age)
	if err != nil {
		return nil, s.fail(ctx, "learned", err)
	}
	return body(*v), nil
}

// forgetIn is the request of forget.
type forgetIn struct {
	Body struct {
		Forget bool `json:"forget"`
	}
}

// forget answers POST /api/learned/forget: learn anew from today, or from all jobs again.
func (s *Server) forget(ctx context.Context, in *forgetIn) (*struct{}, error) {
	at := ""
	if in.Body.Forget {
		at = time.Now().UTC().Format(time.RFC3339)
	}
	if err := s.st.PutSetting(ctx, "learning_since", at); err != nil {
		return nil, s.fail(ctx, "settings", err)
	}
	return nil, nil
}

// excludeIn is the request of exclude.
type excludeIn struct {
	JobIn
	Body struct {
		Excluded bool `json:"excluded"`
	}
}

// exclude answers PUT /api/jobs/{id}/excluded: keep a job out of learning, or take it in again.
func (s *Server) exclude(ctx context.Context, in *excludeIn) (*struct{}, error) {
	id := in.ID
	if err := s.st.Exclude(ctx, id, in.Body.Excluded); err != nil {
		return nil, s.fail(ctx, "exclude", err)
	}
	return nil, nil
}

func span(d time.Duration) string {
	days := d.Hours() / 24
	switch {
	case days < 60:
		return fmt.Sprintf("%.0f days", days)
	case days < 730:
		return fmt.Sprintf("%.0f months", days/30.44)
	}
	return fmt.Sprintf("%.1f years", days/365.25)
}

// safe keeps a field from being run by a spreadsheet.
func safe(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}

// export streams the logbook: CSV, XLSX, JSON lines, or a zip of case files.
func (s *Server) export(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	q := r.URL.Query()
	in := searchIn{Q: q.Get("q"), Circuit: q.Get("circuit"), From: q.Get("from"), To: q.Get("to"), Machine: q.Get("machine")}
	x, err := in.search()
	if err != nil {
		writeProblem(w, http.StatusUnprocessableEntity, err.Error())
		return
	}
	t, err := s.titles(ctx)
	if err != nil {
		writeProblem(w, http.StatusServiceUnavailable, "The database does not answer: try again in a moment.")
		return
	}
	_ = http.NewResponseController(w).SetWriteDeadline(time.Now().Add(15 * time.Minute))
	head := []string{"opened", "closed", "machine", "circuit", "complaint", "verdict", "fault", "done", "price", "readings"}
	row := func(e *store.Entry) []string {
		l := s.entry(e, t)
		closed, price := "", ""
		if l.ClosedAt != nil {
			closed = l.ClosedAt.Format(time.RFC3339)
		}
		if l.Price != nil {
			price = strconv.FormatFloat(*l.Price, 'f', 2, 64)
		}
		return []string{l.OpenedAt.Format(time.RFC3339), closed, safe(l.Machine), safe(l.Title), safe(l.Complaint),
			safe(l.Says), safe(l.Fault), safe(l.Option), price, strconv.Itoa(e.Readings)}
	}
	format := q.Get("format")
	name := "logbook-" + time.Now().Format(time.DateOnly)
	attach := func(ext, mime string) {
		w.Header().Set("Content-Type", mime)
		w.Header().Set("Content-Disposition", `attachment; filename="`+name+"."+ext+`"`)
	}
	switch format {
	case "csv":
		attach("csv", "text/csv; charset=utf-8")
		cw := csv.NewWriter(w)
		_ = cw.Write(head)
		err = s.st.Every(ctx, x, func(e *store.Entry) error { return cw.Write(row(e)) })
		cw.Flush()
	case "json":
		attach("jsonl", "application/x-ndjson")
		enc := json.NewEncoder(w)
		err = s.st.Every(ctx, x, func(e *store.Entry) error { return enc.Encode(s.entry(e, t)) })
	case "xlsx":
		attach("xlsx", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet")
		err = s.xlsx(ctx, w, x, head, row)
	case "cases":
		attach("zip", "application/zip")
		zw := zip.NewWriter(w)
		err = s.st.Every(ctx, x, func(e *store.Entry) error {
			j, err := s.st.Job(ctx, e.ID)
			if err != nil {
				return err
			}
			f, err := zw.Create(fmt.Sprintf("%s-%s.json", e.OpenedAt.Format(time.DateOnly), e.ID))
			if err != nil {
				return err
			}
			return j.Export().Write(f)
		})
		if err == nil {
			err = zw.Close()
		}
	default:
		writeProblem(w, http.StatusUnprocessableEntity, "Choose csv, xlsx, json or cases.")
		return
	}
	if err != nil {
		s.log.Error("export", "err", err)
	}
}

// xlsx writes rows as they come: the library keeps them in a temporary file, not in memory.
func (s *Server) xlsx(ctx context.Context, w http.ResponseWriter, x store.Search, head []string, row func(*store.Entry) []string) error {
	f := excelize.NewFile()
	defer func() { _ = f.Close() }()
	sw, err := f.NewStreamWriter("Sheet1")
	if err != nil {
		return err
	}
	n := 1
	put := func(cells []string) error {
		v := make([]any, len(cells))
		for i, c := range cells {
			v[i] = c
			if i >= 8 {
				if k, err := strconv.ParseFloat(c, 64); err == nil {
					v[i] = k
				}
			}
		}
		err := sw.SetRow(fmt.Sprintf("A%d", n), v)
		n++
		return err
	}
	if err := put(head); err != nil {
		return err
	}
	if err := s.st.Every(ctx, x, func(e *store.Entry) error {
		if n > 1048576 {
			return fmt.Errorf("a sheet holds no more than 1,048,576 rows")
		}
		return put(row(e))
	}); err != nil {
		return err
	}
	if err := sw.Flush(); err != nil {
		return err
	}
	_, err = f.WriteTo(w)
	return err
}
