package web_test

import (
	"io"
	"net/http"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/store"
	"corriente/internal/web"
)

// What a job says around its evidence is changed field by field; what is not
// sent stays, and the evidence is never touched.
func TestChangingAJob(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Orchard tractor 3")
	n := len(j.Evidence)
	path := "/api/jobs/" + j.ID
	require.Equal(t, 200, c.do("PATCH", path, map[string]any{"complaint": "  silent now  ", "when": []string{"wet"}}, &j))
	assert.Equal(t, "silent now", j.Complaint)
	assert.Equal(t, []string{"wet"}, j.When)
	assert.Equal(t, "New battery in spring.", j.History, "what was not sent stays")
	require.Equal(t, 200, c.do("PATCH", path, map[string]any{"cautions_read": true}, &j))
	assert.True(t, j.CautionsRead)
	require.Equal(t, 200, c.do("PATCH", path, map[string]any{"closed": true}, &j))
	assert.Equal(t, "closed", j.Stage)
	require.Equal(t, 200, c.do("PATCH", path, map[string]any{"closed": false}, &j))
	assert.Nil(t, j.ClosedAt)
	assert.Len(t, j.Evidence, n)
	assert.Equal(t, 422, c.do("PATCH", path, map[string]any{"complaint": strings.Repeat("x", 2001)}, nil))
	assert.Equal(t, 422, c.do("PATCH", path, map[string]any{"colour": "red"}, nil))
	assert.Equal(t, 404, c.do("PATCH", "/api/jobs/"+store.NewID().String(), map[string]any{"complaint": "x"}, nil))
}

// What cannot be reached is not suggested, and can be taken back.
func TestUnreachablePlacesAreNotSuggested(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Orchard tractor 3")
	path := "/api/jobs/" + j.ID
	require.Equal(t, 200, c.do("PATCH", path, map[string]any{"unreachable": []string{"motor_connector"}}, &j))
	for _, s := range j.Diagnosis.Next {
		for _, id := range []string{s.From, s.To} {
			assert.NotContains(t, []string{"sol_b", "sol_m", "case", "sol_s"}, id, "%+v", s)
		}
	}
	require.Equal(t, 200, c.do("PATCH", path, map[string]any{"unreachable": []string{}}, &j))
	assert.Empty(t, j.Unreachable)
}

// Striking out changes the verdict at once, and taking back restores it.
func TestStrikingFollowsThrough(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Ferry Waterlily, main engine")
	require.Equal(t, "isolated", j.Diagnosis.Verdict.Status)
	before := j.Diagnosis.Stations[0].Probability
	path := "/api/jobs/" + j.ID + "/evidence/"
	var struck []string
	for _, e := range j.Evidence {
		if e.Measure != "" {
			require.Equal(t, 200, c.do("POST", path+e.ID+"/strike", map[string]bool{"out": true}, &j))
			struck = append(struck, e.ID)
		}
	}
	assert.NotEqual(t, "isolated", j.Diagnosis.Verdict.Status, "without its readings nothing is sure")
	for _, id := range struck {
		require.Equal(t, 200, c.do("POST", path+id+"/strike", map[string]bool{"out": false}, &j))
	}
	assert.Equal(t, "isolated", j.Diagnosis.Verdict.Status)
	assert.InDelta(t, before, j.Diagnosis.Stations[0].Probability, 1e-9)
	assert.Equal(t, 404, c.do("POST", path+store.NewID().String()+"/strike", map[string]bool{"out": true}, nil))
}

// The same reading sent by two hands at once arrives once.
func TestTheSameReadingSentAtOnceArrivesOnce(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Frost fan east")
	e := reading(store.NewID().String(), "crank", "bat_pos", "bat_neg", "11.7")
	var wg sync.WaitGroup
	codes := make([]int, 6)
	for i := range codes {
		wg.Go(func() { codes[i] = c.do("POST", "/api/jobs/"+j.ID+"/evidence", e, nil) })
	}
	wg.Wait()
	for _, code := range codes {
		assert.Equal(t, 200, code)
	}
	assert.Len(t, c.job("Frost fan east").Evidence, 1)
}

// An id belongs to one job; using it for another is refused, not merged.
func TestAnIDOfAnotherJobIsRefused(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	a, b := c.job("Frost fan east"), c.job("Mulcher")
	e := reading(store.NewID().String(), "crank", "bat_pos", "bat_neg", "11.7")
	require.Equal(t, 200, c.do("POST", "/api/jobs/"+a.ID+"/evidence", e, nil))
	var p problem
	require.Equal(t, 409, c.do("POST", "/api/jobs/"+b.ID+"/evidence", e, &p))
	assert.Contains(t, p.Detail, "already used")
	assert.Len(t, c.job("Mulcher").Evidence, len(b.Evidence))
}

// Comparing refuses figures that cannot be, and an option moves with them.
func TestComparingFollowsTheFigures(t *testing.T) {
	c, _ := serve(t)
	c.signIn("counter") // the counter may compute, not decide
	j := c.job("Cider press lorry")
	path := "/api/jobs/" + j.ID + "/compare"
	terms := map[string]float64{"hour_rate": 58, "loss_per_day": 25, "years": 4, "comeback": 60}
	type option struct {
		ID       string
		Expected float64
		Parts    float64
	}
	ask := func(with map[string]any) map[string]option {
		var cmp struct{ Options []option }
		require.Equal(t, 200, c.do("POST", path, map[string]any{"station": "motor", "terms": terms, "with": with}, &cmp))
		m := map[string]option{}
		for _, o := range cmp.Options {
			m[o.ID] = o
		}
		return m
	}
	base := ask(nil)
	dear := ask(map[string]any{"repair": map[string]float64{"parts": 100, "minutes": -1, "wait_days": -1}})
	assert.InDelta(t, 100, dear["repair"].Parts, 1e-9)
	assert.Greater(t, dear["repair"].Expected, base["repair"].Expected)
	terms["years"] = 0
	assert.Equal(t, 422, c.do("POST", path, map[string]any{"station": "motor", "terms": terms}, nil))
	terms["years"] = 4
	assert.Equal(t, 422, c.do("POST", path, map[string]any{"station": "mast", "terms": terms}, nil))
	assert.Equal(t, 403, c.do("POST", "/api/jobs/"+j.ID+"/decisions",
		map[string]any{"id": store.NewID(), "option": "repair", "station": "motor", "price": 1, "reason": "", "by": "customer"}, nil))
}

// Signing out ends the session on the server, not only in the browser.
func TestSignOutEndsTheSession(t *testing.T) {
	c, _ := serve(t)
	c.signIn("pip")
	var me web.Me
	require.Equal(t, 200, c.do("GET", "/api/session", nil, &me))
	assert.Equal(t, "trainee", me.Role)
	require.Equal(t, 204, c.do("DELETE", "/api/session", nil, nil))
	assert.Equal(t, 401, c.do("GET", "/api/board", nil, nil))
}

// Every state of a job can be looked at, an unknown one falls back to a sane one.
func TestEveryStateHasItsPicture(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Orchard tractor 3")
	for _, st := range []string{"rest", "crank", "direct_feed", "bench", "isolated"} {
		require.Equal(t, 200, c.do("GET", "/api/jobs/"+j.ID+"?state="+st, nil, &j))
		assert.Equal(t, st, j.Picture.State)
	}
	require.Equal(t, 200, c.do("GET", "/api/jobs/"+j.ID+"?state=moon", nil, &j))
	assert.NotEqual(t, "moon", j.Picture.State)
}

func TestHealthAnswersInPlainText(t *testing.T) {
	c, st := serve(t)
	get := func(path string) (int, string) {
		res, err := http.Get(c.base + path)
		require.NoError(t, err)
		defer res.Body.Close()
		b, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res.StatusCode, string(b)
	}
	for _, path := range []string{"/healthz", "/readyz"} {
		code, text := get(path)
		assert.Equal(t, 200, code)
		assert.Equal(t, "ok\n", text)
	}
	require.NoError(t, st.Close())
	code, _ := get("/readyz")
	assert.Equal(t, 503, code, "without its database it is not ready")
	code, _ = get("/healthz")
	assert.Equal(t, 200, code, "and alive all the same")
}
