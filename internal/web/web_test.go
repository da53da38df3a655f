package web_test

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"reflect"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/demo"
	"corriente/internal/meters"
	"corriente/internal/patience"
	"corriente/internal/scpi"
	"corriente/internal/serialline"
	"corriente/internal/store"
	"corriente/internal/testdb"
	"corriente/internal/web"
)

func TestMain(m *testing.M) { os.Exit(testdb.Main(m)) }

type client struct {
	t    testing.TB
	base string
	http *http.Client
	srv  *web.Server
}

// loaded is the demo's data, made once: every test gets a copy.
var loaded = sync.OnceValues(func() (*store.Store, error) {
	dsn, err := testdb.Fresh(context.Background())
	if err != nil {
		return nil, err
	}
	st, err := store.Open(context.Background(), dsn)
	if err == nil {
		err = demo.Load(context.Background(), st, time.Now())
	}
	return st, err
})

func serve(t testing.TB) (*client, *store.Store) {
	t.Helper()
	return serveWith(t, scpi.Gate{AnyPort: true})
}

// serveWith serves the demo's data with a gate of its own for meters.
func serveWith(t testing.TB, g scpi.Gate) (*client, *store.Store) {
	t.Helper()
	return serveLogged(t, g, slog.DiscardHandler)
}

// serveLogged is [serveWith] with a place for the server's log.
func serveLogged(t testing.TB, g scpi.Gate, log slog.Handler) (*client, *store.Store) {
	t.Helper()
	from, err := loaded()
	require.NoError(t, err)
	st := testdb.Copy(t, from)
	s := web.New(st, web.Options{Log: slog.New(log), Timeout: patience.Limit(),
		Meters: meters.Set{scpi.Protocol{Gate: g}, serialline.Protocol{Simulated: true}}})
	srv := httptest.NewServer(s)
	t.Cleanup(func() { srv.Close(); s.Close() })
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &client{t, srv.URL, &http.Client{Jar: jar}, s}, st
}

// do sends a request and decodes the answer into out, which may be nil.
func (c *client) do(method, path string, in, out any) int {
	c.t.Helper()
	var body io.Reader
	switch x := in.(type) {
	case nil:
	case []byte:
		body = bytes.NewReader(x)
	default:
		b, err := json.Marshal(in)
		require.NoError(c.t, err)
		body = bytes.NewReader(b)
	}
	req, err := http.NewRequest(method, c.base+path, body)
	require.NoError(c.t, err)
	if in != nil {
		req.Header.Set("Content-Type", "application/json")
	}
	res, err := c.http.Do(req)
	require.NoError(c.t, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	if res.StatusCode >= 400 {
		assert.Equal(c.t, "application/problem+json", res.Header.Get("Content-Type"), "%s %s", method, path)
	}
	if out != nil && len(b) > 0 {
		// A fresh value: what an answer leaves out must not stay from the last one.
		reflect.ValueOf(out).Elem().SetZero()
		require.NoError(c.t, json.Unmarshal(b, out), string(b))
	}
	return res.StatusCode
}

// rawJSON sends JSON as it is written.
func (c *client) rawJSON(t *testing.T, method, path, body string) (int, string) {
	t.Helper()
	return c.sent(t, method, path, "application/json", []byte(body))
}

// raw sends bytes and reads what comes back as they are.
func (c *client) raw(t *testing.T, method, path string, body []byte) (int, string) {
	t.Helper()
	return c.sent(t, method, path, "application/octet-stream", body)
}

func (c *client) sent(t *testing.T, method, path, kind string, body []byte) (int, string) {
	t.Helper()
	req, err := http.NewRequestWithContext(t.Context(), method, c.base+path, bytes.NewReader(body))
	require.NoError(t, err)
	req.Header.Set("Content-Type", kind)
	res, err := c.http.Do(req)
	require.NoError(t, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	return res.StatusCode, string(b)
}

func (c *client) signIn(login string) {
	c.t.Helper()
	require.Equal(c.t, 200, c.do("POST", "/api/session", map[string]string{"login": login, "password": demo.Password}, nil))
}

type problem struct {
	Detail string `json:"detail"`
	Errors []struct{ Message, Location string }
}

func (c *client) job(machine string) web.JobView {
	c.t.Helper()
	var rows []web.Row
	require.Equal(c.t, 200, c.do("GET", "/api/board?all=true", nil, &rows))
	for _, r := range rows {
		if r.Machine == machine {
			var j web.JobView
			require.Equal(c.t, 200, c.do("GET", "/api/jobs/"+r.ID, nil, &j))
			return j
		}
	}
	c.t.Fatalf("no job on %s", machine)
	return web.JobView{}
}

func TestNothingWithoutSigningIn(t *testing.T) {
	c, _ := serve(t)
	for _, p := range []string{"/api/board", "/api/machines", "/api/circuits", "/api/session", "/api/jobs/" + store.NewID().String()} {
		assert.Equal(t, 401, c.do("GET", p, nil, nil), p)
	}
	assert.Equal(t, 401, c.do("POST", "/api/jobs",
		map[string]any{"id": store.NewID(), "machine_id": store.NewID(), "circuit": "starter"}, nil))
}

func TestSignInIsLimited(t *testing.T) {
	c, _ := serve(t)
	var p problem
	for i := range 8 {
		require.Equal(t, 401, c.do("POST", "/api/session", map[string]string{"login": "jory", "password": "wrong"}, &p), "try %d", i)
	}
	assert.Contains(t, p.Detail, "do not go together")
	require.Equal(t, 429, c.do("POST", "/api/session", map[string]string{"login": "jory", "password": demo.Password}, &p))
	assert.Contains(t, p.Detail, "wait ten minutes")
	c.signIn("wanda") // others are not locked out
}

// A person has one login: what only looks like it, or differs by what nobody sees, is another.
func TestOneLoginAPerson(t *testing.T) {
	c, _ := serve(t)
	try := func(login string) int {
		return c.do("POST", "/api/session", map[string]string{"login": login, "password": demo.Password}, nil)
	}
	for _, login := range []string{"c\u00f3unter", "\uff43ounter", "coun\u200bter", "co\u0301unter", "counter\u00ad"} {
		assert.Equal(t, 401, try(login), "%q", login)
	}
	assert.Equal(t, 200, try(" Counter "), "as people type it")
}

func TestCookieAndHeaders(t *testing.T) {
	c, _ := serve(t)
	b, _ := json.Marshal(map[string]string{"login": "jory", "password": demo.Password})
	res, err := c.http.Post(c.base+"/api/session", "application/json", bytes.NewReader(b))
	require.NoError(t, err)
	defer res.Body.Close()
	ck := res.Header.Get("Set-Cookie")
	assert.Contains(t, ck, "HttpOnly")
	assert.Contains(t, ck, "SameSite=Lax")
	csp := res.Header.Get("Content-Security-Policy")
	assert.Contains(t, csp, "script-src 'self' 'wasm-unsafe-eval';")
	assert.Contains(t, csp, "frame-ancestors 'none'")
	assert.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"))

	// Another site's page cannot write with this session (Go's cross-origin protection).
	req, _ := http.NewRequest("DELETE", c.base+"/api/session", nil)
	req.Header.Set("Sec-Fetch-Site", "cross-site")
	res, err = c.http.Do(req)
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, 403, res.StatusCode)
	assert.Equal(t, 200, c.do("GET", "/api/session", nil, nil), "still signed in")
}

func reading(id, state, from, to, value string) map[string]any {
	return map[string]any{"evidence": []any{map[string]any{"id": id, "measure": "voltage", "state": state,
		"from": from, "to": to, "value": value}}}
}

// The whole way through: open, observe, measure to a verdict, compare, decide.
func TestFromComplaintToDecision(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	var j web.JobView
	open := map[string]any{"id": store.NewID(), "machine_id": store.NewID(), "new_machine": "Raft",
		"circuit": "starter", "complaint": "one clunk"}
	require.Equal(t, 200, c.do("POST", "/api/jobs", open, &j))
	require.Equal(t, 200, c.do("POST", "/api/jobs", open, &j), "sent again")
	assert.Equal(t, "complaint", j.Stage)
	for _, e := range []map[string]any{
		{"evidence": []any{map[string]any{"id": store.NewID(), "observe": "turning", "state": "crank", "outcome": "slow"}}},
		reading(store.NewID().String(), "crank", "bat_pos", "bat_neg", "11,62"),
		reading(store.NewID().String(), "crank", "sol_b", "sol_m", "2.33 V"),
		reading(store.NewID().String(), "crank", "case", "bat_neg", "190m"),
		reading(store.NewID().String(), "crank", "bat_pos", "sol_b", "0.24"),
		{"evidence": []any{map[string]any{"id": store.NewID(), "measure": "current", "state": "crank",
			"through": "pos_cable", "value": "132"}}},
	} {
		require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/evidence?state=crank", e, &j))
	}
	v := j.Diagnosis.Verdict
	require.Equal(t, "isolated", v.Status, v.Says)
	assert.Equal(t, "main_contact", *v.Station)
	assert.Contains(t, v.Says, "solenoid main contact")
	assert.Equal(t, "decide", j.Stage)
	var cmp struct {
		Options []struct {
			ID       string
			Expected float64
		}
	}
	require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/compare", map[string]any{"station": "main_contact",
		"terms": map[string]float64{"hour_rate": 58, "loss_per_day": 25, "years": 4, "comeback": 60}}, &cmp))
	ids := map[string]bool{}
	for i, o := range cmp.Options {
		ids[o.ID] = true
		assert.True(t, i == 0 || cmp.Options[i-1].Expected <= o.Expected, "cheapest first")
	}
	assert.True(t, ids["repair"] && ids["replace"] && ids["leave"])
	d := map[string]any{"id": store.NewID(), "option": "replace", "station": "main_contact", "price": 147.33,
		"reason": "ferry must run", "by": "customer"}
	require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/decisions", d, &j))
	require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/decisions", d, &j), "sent again")
	require.Len(t, j.Decisions, 1)
	assert.InDelta(t, 147.33, j.Decisions[0].Price, 1e-9)
	assert.Equal(t, "decided", j.Stage)
}

func TestWrongInputIsRefusedInOneSentenceAndNotStored(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Frost fan east")
	id := func() string { return store.NewID().String() }
	cases := map[string]struct {
		e    map[string]any
		says string
	}{
		"unknown node":         {reading(id(), "crank", "sol_x", "bat_neg", "1"), "did you mean"},
		"unknown state":        {reading(id(), "fly", "sol_b", "bat_neg", "1"), "no state"},
		"wrong unit":           {reading(id(), "crank", "sol_b", "bat_neg", "3 A"), "do not fit"},
		"no number":            {reading(id(), "crank", "sol_b", "bat_neg", "twelve"), "no number"},
		"value no meter shows": {reading(id(), "crank", "sol_b", "bat_neg", "230"), "60 V DC"},
		"ohms in a powered state": {map[string]any{"evidence": []any{map[string]any{"id": id(),
			"measure": "resistance", "state": "crank", "from": "sol_s", "to": "case", "value": "1"}}}, "disconnect first"},
		"an answer not on offer": {map[string]any{"evidence": []any{map[string]any{"id": id(), "observe": "click",
			"outcome": "loud"}}}, "chatter"},
		"an id that is not one":    {reading("17", "crank", "sol_b", "bat_neg", "1"), ""},
		"a field nobody knows":     {map[string]any{"evidence": []any{}, "colour": 1}, ""},
		"no evidence in the array": {map[string]any{"evidence": []any{}}, ""},
	}
	for name, x := range cases {
		t.Run(name, func(t *testing.T) {
			var p problem
			code := c.do("POST", "/api/jobs/"+j.ID+"/evidence", x.e, &p)
			assert.Equal(t, 422, code)
			assert.Contains(t, p.Detail, x.says)
			assert.NotContains(t, p.Detail, "\n")
		})
	}
	assert.Empty(t, c.job("Frost fan east").Evidence)
	assert.Equal(t, 422, c.do("POST", "/api/jobs/"+j.ID+"/preview",
		map[string]any{"id": id(), "measure": "voltage", "state": "crank", "from": "sol_b", "to": "bat_neg", "value": "3 A"}, nil))
	assert.Equal(t, 404, c.do("GET", "/api/jobs/"+id(), nil, nil))
	assert.Equal(t, 404, c.do("GET", "/api/nothing", nil, nil))
}

func TestImportRefusesAndImportsOnce(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	var rows []web.Row
	require.Equal(t, 200, c.do("GET", "/api/board?all=true", nil, &rows))
	before := len(rows)
	var p problem
	assert.Equal(t, 422, c.do("POST", "/api/cases?id="+store.NewID().String(),
		[]byte(`{"format":"corriente-case/1","circuit":"starter","evidence":[`), &p))
	assert.Contains(t, p.Detail, "line 1")
	assert.Contains(t, p.Detail, "nothing was stored")
	b, err := os.ReadFile("../../examples/starter-clicks.json")
	require.NoError(t, err)
	id := store.NewID().String()
	var j web.JobView
	for range 2 {
		require.Equal(t, 200, c.do("POST", "/api/cases?id="+id, b, &j))
	}
	assert.Len(t, j.Evidence, 5)
	require.Equal(t, 200, c.do("GET", "/api/board?all=true", nil, &rows))
	assert.Len(t, rows, before+1)
	assert.Equal(t, 413, c.do("POST", "/api/cases?id="+id, bytes.Repeat([]byte(" "), 10<<20), nil))
}

func TestPreviewUnderstandsAndStoresNothing(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Frost fan east")
	ask := func(value string) (out struct {
		Text, Verdict string
		Warnings      []struct{ Code string }
	}) {
		require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/preview",
			map[string]any{"id": store.NewID(), "measure": "voltage", "state": "crank",
				"from": "bat_pos", "to": "bat_neg", "value": value}, &out))
		return out
	}
	assert.Equal(t, "good", ask("11,7").Verdict)
	assert.Equal(t, "bad", ask("5.1").Verdict)
	slip := ask("11.7m")
	require.NotEmpty(t, slip.Warnings)
	assert.Equal(t, "unit_slip", slip.Warnings[0].Code)
	assert.Equal(t, "swapped_leads", ask("-11.7").Warnings[0].Code)
	assert.Empty(t, c.job("Frost fan east").Evidence)
}

func TestOpenAPIDocumentIsServed(t *testing.T) {
	c, _ := serve(t)
	var doc struct {
		OpenAPI string
		Paths   map[string]any
	}
	require.Equal(t, 200, c.do("GET", "/api/openapi.json", nil, &doc))
	assert.True(t, strings.HasPrefix(doc.OpenAPI, "3.1"))
	assert.Contains(t, doc.Paths, "/api/jobs/{id}/evidence")
}
