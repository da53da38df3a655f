package web_test

import (
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/train"
	"corriente/internal/report"
	"corriente/internal/store"
	"corriente/internal/web"
)

// What a machine is may be mended; nonsense is refused in a sentence and changes nothing;
// its jobs are found by the new name.
func TestSayingWhatAMachineIs(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Irrigation pump")
	at := "/api/machines/" + j.Machine.ID
	for body, says := range map[*map[string]any]string{
		{"name": "Pump", "built": 1066}:   "built in 1066",
		{"name": "Pump", "built": 3000}:   "built in 3000",
		{"name": "   ", "built": 2001}:    "needs a name",
		{"name": "", "kind": "engine"}:    "",
		{"kind": "engine", "built": 2001}: "",
	} {
		var p problem
		assert.Equal(t, 422, c.do("PUT", at, *body, &p), "%v", *body)
		assert.Contains(t, p.Detail, says)
	}
	var m web.Machine
	require.Equal(t, 404, c.do("PUT", "/api/machines/"+store.NewID().String(), map[string]any{"name": "nobody's"}, nil))
	require.Equal(t, 200, c.do("PUT", at, map[string]any{"name": " Lakeside pump ", "kind": "engine", "place": "jetty", "built": 2009}, &m))
	assert.Equal(t, "Lakeside pump", m.Name)
	assert.Equal(t, 2009, m.Built)
	var page web.LogPage
	require.Equal(t, 200, c.do("GET", "/api/logbook?q="+url.QueryEscape("lakeside jetty"), nil, &page))
	assert.Len(t, page.Entries, 2, "this job and the one of earlier years")
	reader, _ := serve(t)
	reader.signIn("counter")
	assert.Equal(t, 403, reader.do("PUT", at, map[string]any{"name": "x"}, nil), "the counter only reads")
}

// A reading is found by its figure, with its unit and without, however it was typed.
func TestAReadingIsFoundWithItsUnit(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	job := c.job("Ferry Waterlily, main engine")
	figure := ""
	for _, e := range job.Evidence {
		if e.Measure == "voltage" && e.From == "block" {
			figure = e.Value
		}
	}
	require.Regexp(t, `^\d\.\d+$`, figure, "volts, typed without a unit")
	for _, q := range []string{figure, figure + " V", strings.Replace(figure, ".", ",", 1) + "V"} {
		var page web.LogPage
		require.Equal(t, 200, c.do("GET", "/api/logbook?q="+url.QueryEscape("waterlily "+q), nil, &page))
		if assert.Len(t, page.Entries, 1, q) {
			assert.Equal(t, "Ferry Waterlily, main engine", page.Entries[0].Machine, q)
		}
	}
	var page web.LogPage
	require.Equal(t, 200, c.do("GET", "/api/logbook?q="+url.QueryEscape("waterlily "+figure+" A"), nil, &page))
	assert.Empty(t, page.Entries, "volts are no amperes")
}

// A job that is opened begins with what jobs on such machines said: shares of faults and
// minutes of the way there; forgetting and excluding take it back.
func TestANewJobBeginsWithWhatWasLearned(t *testing.T) {
	c, _ := serve(t)
	c.signIn("wanda")
	open := func() web.JobView {
		var j web.JobView
		require.Equal(t, 200, c.do("POST", "/api/jobs",
			map[string]any{"id": store.NewID().String(), "machine_id": store.NewID().String(),
				"new_machine": "Vineyard tractor", "kind": "tractor",
				"built": time.Now().Year() - 20, "circuit": "starter", "complaint": "clicks"}, &j))
		return j
	}
	j := open()
	require.Contains(t, j.Known.Access, "motor")
	assert.Greater(t, j.Access["motor"], 25.0, "longer than as it ships")
	assert.Equal(t, j.Known.Access["motor"].Minutes, j.Access["motor"])
	assert.Greater(t, j.Known.Rates["motor.brushes_worn"].Factor, 1.5)
	var all, old, young web.LearnView
	require.Equal(t, 200, c.do("GET", "/api/learned/starter", nil, &all))
	require.Equal(t, 200, c.do("GET", "/api/learned/starter?kind=tractor&age=20", nil, &old))
	require.Equal(t, 200, c.do("GET", "/api/learned/starter?kind=tractor&age=2", nil, &young))
	assert.Contains(t, all.Kinds, "tractor")
	require.NotEmpty(t, all.Ways)
	brushes := func(v web.LearnView) float64 {
		for _, r := range v.Rates {
			if r.Fault == "motor.brushes_worn" {
				return r.Here
			}
		}
		return 0
	}
	assert.Greater(t, brushes(old), brushes(young), "old tractors had worn brushes here")
	for _, v := range []web.LearnView{all, old, young} {
		sum := 0.0
		for _, r := range v.Rates {
			sum += r.Here
		}
		assert.InDelta(t, 1, sum, 1e-9)
	}
	confirmed := 0
	for _, k := range all.ByKind { // the picture by kind holds the same jobs as the rates
		sum := 0
		for _, f := range k.Faults {
			assert.NotEqual(t, f.Fault, f.Label, "a fault has a name")
			sum += f.N
		}
		assert.Equal(t, k.Of, sum)
		confirmed += sum
	}
	assert.Equal(t, all.Rates[0].Of, confirmed)
	assert.Equal(t, "tractor", all.ByKind[0].Kind, "the kind with most jobs first")
	require.Less(t, c.do("POST", "/api/learned/forget", map[string]any{"forget": true}, nil), 300)
	require.Equal(t, 200, c.do("GET", "/api/learned/starter", nil, &all))
	assert.Empty(t, all.ByKind, "forgotten here as well")
	j = open()
	assert.Empty(t, j.Known.Rates)
	assert.Empty(t, j.Known.Access)
	require.Less(t, c.do("POST", "/api/learned/forget", map[string]any{"forget": false}, nil), 300)
	assert.NotEmpty(t, open().Known.Rates, "nothing was lost")
}

// The customer's page on the screen is the text of the PDF, word for word.
func TestThePaperOnTheScreen(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Rescue boat Coot")
	var p report.Paper
	require.Equal(t, 200, c.do("GET", "/api/jobs/"+j.ID+"/paper", nil, &p))
	printed := strings.ReplaceAll(pdf(t, c, "/api/jobs/"+j.ID, "customer"), " ", "")
	for _, s := range p.Sections {
		for _, l := range slices.Concat(s.Lines, s.After) {
			assert.Contains(t, printed, strings.Join(strings.Fields(l.Text), ""))
		}
	}
	assert.Contains(t, text(p), "What is to be done")
	assert.Equal(t, 404, c.do("GET", "/api/jobs/"+store.NewID().String()+"/paper", nil, nil))
}

// The shortest way is told once the verdict is given, not before.
func TestTheShortestWayIsToldAfterwards(t *testing.T) {
	c, _ := serve(t)
	c.signIn("pip")
	id := store.NewID().String()
	at := "/api/training/attempts/" + id
	require.Equal(t, 200, c.do("POST", "/api/training/attempts", map[string]any{"id": id, "exercise": "sg3"}, nil))
	var p problem
	assert.Equal(t, 422, c.do("GET", at+"/best", nil, &p))
	assert.Contains(t, p.Detail, "verdict first")
	var v train.AttemptView
	require.Equal(t, 200, c.do("PUT", at+"/moves/1",
		map[string]any{"kind": "read", "state": "run", "ready": true, "clips": true, "dial": "volts",
			"from": "motor_plus", "to": "motor_minus"}, &v))
	require.NotEmpty(t, v.Log[0].Frames)
	assert.Equal(t, v.Log[0].Shown, v.Log[0].Frames[len(v.Log[0].Frames)-1].Shown)
	require.Equal(t, 200, c.do("PUT", at+"/moves/2",
		map[string]any{"kind": "verdict", "station": "ground_point", "fault": "high_resistance", "option": "repair"}, &v))
	require.NotNil(t, v.Debrief)
	var best struct {
		Minutes float64
		Moves   []string
	}
	require.Equal(t, 200, c.do("GET", at+"/best", nil, &best))
	assert.Positive(t, best.Minutes)
	assert.LessOrEqual(t, best.Minutes, v.Debrief.Adviser)
	require.Equal(t, 200, c.do("GET", at, nil, &v))
	require.NotNil(t, v.Debrief.Best, "kept with the debrief")
	assert.Equal(t, best.Moves, v.Debrief.Best.Moves)
}

// A signature's id that another job's proof has is refused in a sentence, and signs nothing.
func TestAProofsIDIsItsOwn(t *testing.T) {
	c, _ := serve(t)
	c.signIn("wanda")
	id := store.NewID()
	sign := func(machine string) (int, string) {
		var p problem
		path := "/api/jobs/" + c.job(machine).ID
		require.Equal(t, 200, c.do("POST", path+"/repairs",
			map[string]any{"id": store.NewID(), "station": "battery", "what": "charged"}, nil))
		code := c.do("POST", path+"/proof", map[string]any{"id": id, "result": "failed", "remark": "still slow", "signed": "Wanda"}, &p)
		return code, p.Detail
	}
	first, said := sign("Orchard tractor 3")
	require.Equal(t, 200, first, said)
	code, said := sign("Ferry Waterlily, main engine")
	assert.Equal(t, 409, code)
	assert.Contains(t, said, "already used")
	signed := c.job("Ferry Waterlily, main engine").Work
	assert.Equal(t, "done", signed[len(signed)-1].Status, "it is still to be proved")
}

// What finding out took stands beside what it was reckoned with; a job left out of learning is in neither.
func TestTimeSpentAgainstAdvised(t *testing.T) {
	c, _ := serve(t)
	c.signIn("wanda")
	var v web.ReliabilityView
	require.Equal(t, 200, c.do("GET", "/api/reliability", nil, &v))
	require.NotEmpty(t, v.Times)
	for _, x := range v.Times {
		assert.Positive(t, x.Spent, x.Machine)
		assert.Positive(t, x.Advised, x.Machine)
	}
	out := v.Times[0].ID
	require.Less(t, c.do("PUT", "/api/jobs/"+out+"/excluded", map[string]any{"excluded": true}, nil), 300)
	var after web.ReliabilityView
	require.Equal(t, 200, c.do("GET", "/api/reliability", nil, &after))
	assert.Len(t, after.Times, len(v.Times)-1)
	for _, x := range after.Times {
		assert.NotEqual(t, out, x.ID)
	}
}
