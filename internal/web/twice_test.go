package web_test

import (
	"bytes"
	"encoding/json"
	"image"
	"image/color"
	"image/jpeg"
	"net/http"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
	"corriente/internal/store"
	"corriente/internal/web"
)

// counts is how many rows every table holds: what was written once is there once.
func counts(t *testing.T, st *store.Store) map[string]int {
	t.Helper()
	rows, err := st.DB.QueryContext(t.Context(),
		"SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE'")
	require.NoError(t, err)
	defer rows.Close()
	var names []string
	for rows.Next() {
		var n string
		require.NoError(t, rows.Scan(&n))
		names = append(names, n)
	}
	require.NoError(t, rows.Err())
	out := map[string]int{}
	for _, n := range names {
		var k int
		require.NoError(t, st.DB.QueryRowContext(t.Context(), "SELECT COUNT(*) FROM `"+n+"`").Scan(&k))
		out[n] = k
	}
	delete(out, "verdicts") // worked out in its own time, once a revision
	return out
}

// picture is a small photo as a camera makes it.
func picture(t *testing.T) []byte {
	t.Helper()
	m := image.NewRGBA(image.Rect(0, 0, 64, 48))
	for x := range 64 {
		for y := range 48 {
			m.Set(x, y, color.RGBA{uint8(4 * x), uint8(5 * y), 90, 255})
		}
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, m, nil))
	return b.Bytes()
}

// Every write has an id of who made it: sent again, by a page that heard no answer, it is
// answered as the first time and changes nothing more.
func TestEveryWriteSentTwiceIsWrittenOnce(t *testing.T) {
	c, st := serve(t)
	c.signIn("wanda")
	j := c.job("Rescue boat Coot")
	path := "/api/jobs/" + j.ID
	id := func() string { return store.NewID().String() }
	now := time.Now().UTC().Format(time.RFC3339Nano)
	item, mended := id(), j.Decisions[0].ID // its work is what was chosen for this part
	attempt := id()
	for _, w := range []struct {
		what, method, path string
		body               any
	}{
		{"a job on a new machine", "POST", "/api/jobs",
			map[string]any{"id": id(), "machine_id": id(), "new_machine": "Reed cutter", "kind": "boat",
				"circuit": "wiper", "complaint": "slow"}},
		{"a reading", "POST", path + "/evidence?state=crank",
			map[string]any{"evidence": []any{map[string]any{"id": id(), "measure": "voltage", "state": "crank",
				"from": "sol_m", "to": "case", "value": "9.4", "taken_at": now}}}},
		{"two at once", "POST", path + "/evidence?state=crank", map[string]any{"evidence": []any{
			map[string]any{"id": id(), "observe": "lamps_dim", "state": "crank", "outcome": "yes", "taken_at": now},
			map[string]any{"id": id(), "measure": "current", "state": "crank", "through": "pos_cable", "value": "140", "taken_at": now}}}},
		{"a repair", "POST", path + "/repairs", map[string]any{"id": id(), "station": "battery", "what": "charged"}},
		{"a decision", "POST", path + "/decisions",
			map[string]any{"id": id(), "option": "repair", "station": "battery", "price": 20, "by": "customer",
				"who": "orchard office", "reason": "Friday", "set_aside": "it stood all winter"}},
		{"what was done, in other words", "PUT", path + "/repairs/" + mended, map[string]any{"what": "charged and load-tested"}},
		{"what the customer wants", "PUT", path + "/terms",
			map[string]any{"wishes": map[string]any{"most_cost": 60}, "with": map[string]any{}}},
		{"what it came to", "PUT", path + "/costs/" + mended, map[string]any{"parts": 12, "minutes": 30, "price": 41}},
		{"a line of the strip-down", "POST", path + "/strip", map[string]any{"id": item, "text": "2x 8 mm long bolt, thin"}},
		{"put back", "PATCH", path + "/strip/" + item, map[string]any{"back": true}},
		{"a note", "POST", path + "/notes", map[string]any{"id": id(), "text": "brushes 11 mm"}},
		{"a tick of the proof", "PUT", path + "/proof/ticks/cycles", map[string]any{"value": now[:16]}},
		{"a proof with a remark", "POST", path + "/proof",
			map[string]any{"id": id(), "result": "remark", "remark": "clock to be set", "signed": "Wanda"}},
		{"a machine's year", "PUT", "/api/machines/" + j.Machine.ID,
			map[string]any{"name": j.Machine.Name, "kind": j.Machine.Kind, "place": j.Machine.Place, "built": 2009}},
		{"an instrument", "PUT", "/api/instruments",
			web.InstrumentView{ID: id(), Name: "Bench meter", Kind: "multimeter", Percent: 0.5, Counts: 2,
				Digit: 0.01, OhmDigit: 0.1, LeadsOhm: 0.2}},
		{"an exercise begun", "POST", "/api/training/attempts", map[string]any{"id": attempt, "circuit": "starter", "seed": 7, "count": 1}},
	} {
		var first, second json.RawMessage
		code := c.do(w.method, w.path, w.body, &first)
		if !assert.Less(t, code, 300, "%s: %s", w.what, first) {
			continue
		}
		after := counts(t, st)
		assert.Less(t, c.do(w.method, w.path, w.body, &second), 300, "%s, sent again: %s", w.what, second)
		assert.Equal(t, after, counts(t, st), "%s, sent again", w.what)
	}
	// A photo, in pieces: a piece sent again is the same piece.
	pic := picture(t)
	photo := id()
	send := func() int {
		req, err := http.NewRequest("PUT", c.base+"/api/photos/"+photo+"/upload?at=0&size="+strconv.Itoa(len(pic)), bytes.NewReader(pic))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/octet-stream")
		res, err := c.http.Do(req)
		require.NoError(t, err)
		res.Body.Close()
		return res.StatusCode
	}
	if code := send(); assert.Less(t, code, 300, "a photo") {
		after := counts(t, st)
		assert.Less(t, send(), 300)
		assert.Equal(t, after, counts(t, st), "a photo, sent again")
	}
	// And the job is as it was with one of each.
	var v web.JobView
	require.Equal(t, 200, c.do("GET", path, nil, &v))
	assert.Len(t, v.Evidence, len(j.Evidence)+3)
	assert.Len(t, v.Repairs, len(j.Repairs)+1)
	assert.Len(t, v.Decisions, len(j.Decisions)+1)
}

// Every circuit there is can be opened, looked at in each of its states, taken out as a
// case file and brought in again.
func TestEveryCircuitOpensAsAJob(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	for _, f := range circuit.Families() {
		id := store.NewID().String()
		p := problem{}
		require.Equal(t, 200, c.do("POST", "/api/jobs",
			map[string]any{"id": id, "machine_id": store.NewID(), "new_machine": "Cart for " + f, "kind": "cart",
				"circuit": f, "complaint": "slow"}, &p), "%s: %s", f, p.Detail)
		ci, err := circuit.Family(f)
		require.NoError(t, err)
		for _, s := range ci.States {
			if s.Hidden {
				continue
			}
			var v web.JobView
			require.Equal(t, 200, c.do("GET", "/api/jobs/"+id+"?state="+s.ID, nil, &v), "%s %s", f, s.ID)
			assert.Equal(t, s.ID, v.Picture.State)
			assert.Equal(t, ci.NominalVoltage, v.Voltage)
			assert.NotEmpty(t, v.Picture.Paths, "%s %s", f, s.ID)
		}
		var file json.RawMessage
		require.Equal(t, 200, c.do("GET", "/api/jobs/"+id+"/case", nil, &file), f)
		var back web.JobView
		require.Equal(t, 200, c.do("POST", "/api/cases?id="+store.NewID().String(), []byte(file), &back), "%s: %s", f, file)
		assert.Equal(t, f, back.Circuit)
		assert.Equal(t, "slow", back.Complaint)
	}
}

// The counter reads and prints and changes nothing, whatever is sent; what is refused is
// refused in a sentence, and leaves every table as it was.
func TestTheCounterChangesNothing(t *testing.T) {
	c, st := serve(t)
	c.signIn("counter")
	j := c.job("Rescue boat Coot")
	before := counts(t, st)
	for _, op := range operations(t, c) {
		if op[0] == "GET" || strings.HasPrefix(op[1], "/api/session") || strings.HasPrefix(op[1], "/api/setup") ||
			strings.HasPrefix(op[1], "/api/training") {
			continue
		}
		for _, id := range []string{j.ID, store.NewID().String()} {
			p := problem{}
			code := c.do(op[0], at(op[1], id), []byte(`{"id":"`+store.NewID().String()+
				`","text":"x","station":"battery","what":"x","evidence":[{"id":"`+store.NewID().String()+
				`","observe":"smell","state":"rest","outcome":"burnt"}]}`), &p)
			if code >= 400 {
				assert.Less(t, code, 500, "%s %s", op[0], op[1])
				assert.NotEmpty(t, p.Detail, "%s %s", op[0], op[1])
			}
		}
	}
	var p problem
	said := map[string]any{"evidence": []any{map[string]any{"id": store.NewID(), "observe": "click", "outcome": "none"}}}
	assert.Equal(t, 403, c.do("POST", "/api/jobs/"+j.ID+"/evidence", said, &p))
	assert.Contains(t, p.Detail, "reads and prints")
	assert.Equal(t, before, counts(t, st))
	// What it may: read a job, its papers and the logbook.
	for _, p := range []string{"/api/board", "/api/jobs/" + j.ID, "/api/jobs/" + j.ID + "/case", "/api/logbook", "/api/machines"} {
		assert.Equal(t, 200, c.do("GET", p, nil, nil), p)
	}
}
