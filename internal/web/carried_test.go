package web_test

import (
	"context"
	"encoding/json"
	"regexp"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/desk"
	"corriente/core/record"
	"corriente/internal/store"
	"corriente/internal/web"
)

// carrying is a job worked over HTTP, and beside it the same job as a browser carries it along
// from the beginning, with all that was entered since.
type carrying struct {
	*worked
	kit    json.RawMessage
	writes []record.Write
	seen   int // pieces of evidence
	desk   desk.Desk
}

func carry(t *testing.T, family string, faults ...string) *carrying {
	c := &carrying{worked: work(t, family, faults...)}
	require.Equal(t, 200, c.do("GET", c.path+"/kit", nil, &c.kit))
	return c
}

func (c *carrying) put(w record.Write) {
	w.ID, w.At, w.By = store.NewID().String(), time.Now(), "Jory (technician)"
	c.writes = append(c.writes, w)
}

// took notes the evidence that the server has more since.
func (c *carrying) took() {
	require.Equal(c.t, 200, c.do("GET", c.path, nil, &c.view))
	var es []casefile.Typed
	for _, e := range c.view.Evidence[c.seen:] {
		es = append(es, casefile.Typed{ID: e.ID, Measure: e.Measure, Observe: e.Observe, State: e.State, From: e.From,
			To: e.To, Through: e.Through, Value: e.Value, Outcome: e.Outcome, TakenAt: e.TakenAt})
	}
	c.seen = len(c.view.Evidence)
	c.put(record.Write{Evidence: es})
}

func (c *carrying) ask(q desk.Asked) *desk.Told {
	t, err := c.desk.Carry(context.Background(), c.kit, c.writes, q)
	require.NoError(c.t, err)
	require.Empty(c.t, t.Refused)
	return t
}

var clocks = regexp.MustCompile(`"[0-9]{4}-[0-9]{2}-[0-9]{2}T[^"]*"`)

// alike compares two answers but for what the clock says.
func alike(t *testing.T, want, got any, what string) {
	t.Helper()
	plain := func(v any) string {
		b, err := json.Marshal(v)
		require.NoError(t, err)
		return clocks.ReplaceAllString(string(b), `"a time"`)
	}
	assert.JSONEq(t, plain(want), plain(got), what)
}

// same asks both about everything.
func (c *carrying) same(when string) {
	var strips record.StripView
	var proof record.ProveView
	var path record.PathView
	var view web.JobView
	require.Equal(c.t, 200, c.do("GET", c.path, nil, &view))
	require.Equal(c.t, 200, c.do("GET", c.path+"/strip", nil, &strips))
	require.Equal(c.t, 200, c.do("GET", c.path+"/proof", nil, &proof))
	require.Equal(c.t, 200, c.do("GET", c.path+"/path", nil, &path))
	s := c.ask(desk.Asked{Screen: &desk.AskScreen{State: view.Picture.State}}).Screen
	alike(c.t, view.Diagnosis, s.Diagnosis, when+": diagnosis")
	alike(c.t, view.Picture, s.Picture, when+": picture")
	alike(c.t, view.Work, s.Work, when+": repairs")
	assert.Equal(c.t, []any{view.Stage, view.Proved, len(view.Evidence)}, []any{s.Stage, s.Proved, len(s.Evidence)}, when)
	for i := range s.Evidence {
		assert.Equal(c.t, [2]any{view.Evidence[i].ID, view.Evidence[i].Struck}, [2]any{s.Evidence[i].ID, s.Evidence[i].Struck}, when)
	}
	alike(c.t, strips, c.ask(desk.Asked{Strip: true}).Strip, when+": strip-down")
	alike(c.t, proof, c.ask(desk.Asked{Proof: true}).Proof, when+": proof")
	alike(c.t, path, c.ask(desk.Asked{Path: true}).Path, when+": path")
	if view.Diagnosis.Verdict.Station != nil {
		var options record.OptionsView
		require.Equal(c.t, 200, c.do("POST", c.path+"/compare", map[string]any{"terms": terms}, &options))
		var q record.Compare
		b, _ := json.Marshal(map[string]any{"terms": terms})
		require.NoError(c.t, json.Unmarshal(b, &q))
		alike(c.t, options, c.ask(desk.Asked{Compare: &q}).Options, when+": options")
	}
}

// A job that is carried along says at every step what the server says of it: the verdict, the
// strip-down, the options, the repairs and the proof.
func TestAJobCarriedAlongSaysWhatTheServerSays(t *testing.T) {
	c := carry(t, "two_wire_motor", "motor.bearing_drag=2.5")
	c.toVerdict()
	c.took()
	c.same("at the verdict")

	line := func(text string) string {
		l := record.NewLine{ID: store.NewID().String(), Text: text}
		require.Equal(t, 200, c.do("POST", c.path+"/strip", l, nil))
		c.put(record.Write{Line: &l})
		return l.ID
	}
	change := func(x record.LineChange) {
		require.Equal(t, 200, c.do("PATCH", c.path+"/strip/"+x.Item, x, nil))
		c.put(record.Write{Change: &x})
	}
	yes, no := true, false
	bolt, plug := line("2x 8 mm long bolt, thin"), line("unplug blue plug")
	found := line("bearing rough at drive end")
	c.same("apart")
	text := "bearing tight at drive end"
	change(record.LineChange{Item: found, Text: &text})
	change(record.LineChange{Item: found, Struck: &yes})
	c.same("a finding taken back")
	change(record.LineChange{Item: found, Struck: &no})
	note := record.JobNote{ID: store.NewID().String(), Text: "end play 0.3 mm"}
	require.Equal(t, 200, c.do("POST", c.path+"/notes", map[string]any{"id": note.ID, "text": note.Text}, nil))
	note.Detail = json.RawMessage("{}")
	c.put(record.Write{Note: &note})
	c.seen = len(c.ask(desk.Asked{Screen: &desk.AskScreen{}}).Screen.Evidence)

	c.mend("motor")
	d := c.view.Decisions[len(c.view.Decisions)-1]
	var choice record.ChoiceIn
	b, _ := json.Marshal(map[string]any{"id": d.ID, "option": d.Option, "stations": []string{"motor"},
		"price": d.Price, "by": d.By, "who": d.Who, "terms": terms})
	require.NoError(t, json.Unmarshal(b, &choice))
	c.put(record.Write{Choice: &choice})
	c.put(record.Write{Work: &record.WorkIn{ID: c.view.Repairs[len(c.view.Repairs)-1].ID, Decision: d.ID}})
	require.Equal(t, 200, c.do("PUT", c.path+"/repairs/"+d.ID, map[string]any{"what": "new bearings, both ends"}, &c.view))
	c.put(record.Write{Reword: &record.RewordIn{Repair: d.ID, What: "new bearings, both ends"}})
	c.same("mended")

	for _, item := range []string{plug, bolt} {
		change(record.LineChange{Item: item, Back: &yes})
	}
	why := "replaced by a new one"
	change(record.LineChange{Item: found, Explained: &why})
	proof := c.prove()
	c.took()
	for _, k := range proof.Ticks {
		c.put(record.Write{Tick: &record.TickSet{Tick: k.ID, Value: "yes"}})
	}
	c.same("ready to sign")
	v, code, p := c.sign("passed", "")
	require.Equal(t, 200, code, p.Detail)
	last := v.Records[len(v.Records)-1]
	c.put(record.Write{Sign: &record.ProofIn{ID: store.NewID().String(), Result: last.Result, Signed: last.Signed, Counter: last.Counter}})
	c.same("signed")
}

// What the rules refuse on the server they refuse where a job is carried along, in the same
// words, and what is refused changes nothing.
func TestAJobCarriedAlongRefusesWhatTheServerRefuses(t *testing.T) {
	c := carry(t, "two_wire_motor", "motor.bearing_drag=2.5")
	c.toVerdict()
	c.took()
	long := "2020-01-01"
	for what, x := range map[string]struct {
		method, path string
		body         any
		write        record.Write
	}{
		"an empty line": {"POST", "/strip", map[string]any{"id": store.NewID(), "text": "  "},
			record.Write{Line: &record.NewLine{ID: store.NewID().String(), Text: "  "}}},
		"a signature under nothing": {"POST", "/proof", map[string]any{"id": store.NewID(), "result": "passed", "signed": "Jory"},
			record.Write{Sign: &record.ProofIn{ID: store.NewID().String(), Result: "passed", Signed: "Jory"}}},
		"work that nobody chose": {"POST", "/repairs", map[string]any{"id": store.NewID(), "decision": store.NewID().String()},
			record.Write{Work: &record.WorkIn{ID: store.NewID().String(), Decision: store.NewID().String()}}},
		"a part that is not there": {"POST", "/repairs", map[string]any{"id": store.NewID(), "station": "sail"},
			record.Write{Work: &record.WorkIn{ID: store.NewID().String(), Station: "sail"}}},
		"a plan that is none": {"POST", "/decisions",
			map[string]any{"id": store.NewID(), "option": "prayer", "price": 1, "reason": "", "by": "customer", "terms": terms},
			record.Write{Choice: &record.ChoiceIn{ID: store.NewID().String(), Option: "prayer", Price: 1, By: "customer"}}},
		"a day that has passed": {"PUT", "/terms", map[string]any{"wishes": map[string]any{"run_on": long}, "with": map[string]any{}},
			record.Write{Terms: &record.JobTerms{Wishes: record.Wishes{RunOn: long}}}},
	} {
		t.Run(what, func(t *testing.T) {
			var p problem
			require.Equal(t, 422, c.do(x.method, c.path+x.path, x.body, &p))
			x.write.ID, x.write.At = "w", time.Now()
			told, err := c.desk.Carry(context.Background(), c.kit,
				append(c.writes[:len(c.writes):len(c.writes)], x.write), desk.Asked{Strip: true})
			require.NoError(t, err)
			assert.Equal(t, p.Detail, sentenceOf(told.Refused["w"]))
			assert.Empty(t, told.Strip.Items)
		})
	}
}

// sentenceOf is a refusal as a person reads it.
func sentenceOf(s string) string {
	if s == "" {
		return ""
	}
	return string(s[0]-'a'+'A') + s[1:] + "."
}
