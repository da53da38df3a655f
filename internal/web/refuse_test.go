package web_test

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/store"
)

// operations lists every method and path of the server's own OpenAPI document.
func operations(t *testing.T, c *client) [][2]string {
	t.Helper()
	var doc struct {
		Paths map[string]map[string]json.RawMessage `json:"paths"`
	}
	require.Equal(t, 200, c.do("GET", "/api/openapi.json", nil, &doc))
	var out [][2]string
	for path, ops := range doc.Paths {
		for m := range ops {
			if m = strings.ToUpper(m); m == "GET" || m == "POST" || m == "PUT" || m == "PATCH" || m == "DELETE" {
				out = append(out, [2]string{m, path})
			}
		}
	}
	require.Greater(t, len(out), 50)
	return out
}

// at puts something in place of a path's parameters.
func at(path, with string) string {
	var b strings.Builder
	for {
		before, rest, ok := strings.Cut(path, "{")
		b.WriteString(before)
		if !ok {
			return b.String()
		}
		_, path, _ = strings.Cut(rest, "}")
		b.WriteString(with)
	}
}

// Whatever is sent, an operation answers, or refuses in a sentence that a person can
// read; it never fails.
func TestNothingSentMakesTheServerFail(t *testing.T) {
	if testing.Short() {
		t.Skip("thousands of requests, one after the other: nothing for the race detector")
	}
	c, _ := serve(t)
	c.signIn("wanda")
	j := c.job("Irrigation pump")
	bodies := []string{"", "{}", "[]", "null", "{", `{"id":7}`, `{"id":"` + store.NewID().String() + `"}`,
		`{"state":"orbit","evidence":[{"id":"x"}]}`, `"text"`, "\x00\xff", strings.Repeat("[", 5000),
		`{"station":"mast","option":"repair","kind":"read","moves":[],"text":"` + strings.Repeat("ß", 500) +
			`","price":-1,"minutes":1e308,"year":-5,"built":99999}`}
	for _, op := range operations(t, c) {
		if op[0] == "DELETE" && strings.HasPrefix(op[1], "/api/session") {
			continue // it would sign out
		}
		for _, id := range []string{store.NewID().String(), "nonsense", j.ID, "%00", strings.Repeat("x", 300)} {
			for _, body := range bodies {
				if op[0] == "GET" && body != "" {
					continue
				}
				req, err := http.NewRequest(op[0], c.base+at(op[1], id), strings.NewReader(body))
				require.NoError(t, err)
				req.Header.Set("Content-Type", "application/json")
				if strings.HasPrefix(op[1], "/api/session") && op[0] == "POST" {
					continue // too many wrong passwords would lock the rest out
				}
				res, err := c.http.Do(req)
				if !assert.NoError(t, err, "%s %s", op[0], op[1]) {
					continue
				}
				var p problem
				_ = json.NewDecoder(res.Body).Decode(&p)
				res.Body.Close()
				assert.Less(t, res.StatusCode, 500, "%s %s with %.60q: %s", op[0], at(op[1], id), body, p.Detail)
				if res.StatusCode >= 400 && res.StatusCode != 404 && res.StatusCode != 405 {
					assert.NotEmpty(t, p.Detail, "%s %s with %.60q answers %d without a word", op[0], at(op[1], id), body, res.StatusCode)
					assert.NotContains(t, p.Detail, "runtime error")
					assert.NotContains(t, strings.ToLower(p.Detail), "sql")
				}
			}
		}
	}
	// And it still works.
	again := c.job("Irrigation pump")
	assert.Equal(t, len(j.Evidence), len(again.Evidence), "nothing half-written")
}

// An address that was cut short names nothing, and says so in a sentence.
func TestAnAddressThatWasCutShort(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	for _, path := range []string{"/api/jobs/018f", "/api/jobs/018f/strip", "/api/training/attempts/x", "/api/photos/%20"} {
		var p problem
		code := c.do("GET", path, nil, &p)
		assert.Equal(t, 422, code, path)
		assert.Equal(t, "There is nothing at this address: it may have been cut short.", p.Detail, path)
	}
}
