package web_test

import (
	"bytes"
	"image"
	"image/color"
	"image/jpeg"
	"net/http"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/casefile"
	"corriente/core/desk"
	"corriente/core/record"
	"corriente/core/repair"
	"corriente/internal/store"
	"corriente/internal/web"
)

// What came off stays in order, once however often it is sent; a finding is evidence; a
// strike takes it back; a bad line is refused and nothing is lost.
func TestStripDownOverHTTP(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Ferry Waterlily, main engine")
	path := "/api/jobs/" + j.ID + "/strip"
	id := store.NewID().String()
	var v record.StripView
	for range 3 {
		require.Equal(t, 200, c.do("POST", path, map[string]any{"id": id, "text": "bearing rough at drive end"}, &v))
	}
	require.Len(t, v.Items, 1)
	now := c.job("Ferry Waterlily, main engine")
	require.Len(t, now.Evidence, len(j.Evidence)+1)
	last := now.Evidence[len(now.Evidence)-1]
	assert.Equal(t, "bearing_feel", last.Observe)
	assert.Equal(t, "rough", last.Outcome)
	// Changed into another finding: the first is struck out, the other stands.
	require.Equal(t, 200, c.do("PATCH", path+"/"+id, map[string]any{"text": "bearing tight at drive end"}, &v))
	require.Equal(t, 200, c.do("PATCH", path+"/"+id, map[string]any{"struck": true}, &v))
	assert.True(t, v.Items[0].Struck)
	standing := 0
	for _, e := range c.job("Ferry Waterlily, main engine").Evidence {
		if e.Observe == "bearing_feel" && !e.Struck {
			standing++
		}
	}
	assert.Zero(t, standing)
	require.Equal(t, 200, c.do("PATCH", path+"/"+id, map[string]any{"struck": false, "back": true}, &v))
	assert.Empty(t, v.Left)
	for _, bad := range []map[string]any{{"id": store.NewID(), "text": "   "}, {"id": "x", "text": "bolt"},
		{"id": store.NewID(), "text": strings.Repeat("x", 301)}} {
		assert.GreaterOrEqual(t, c.do("POST", path, bad, nil), 400)
	}
	assert.Equal(t, 404, c.do("PATCH", path+"/"+store.NewID().String(), map[string]any{"back": true}, nil))
	other := c.job("Mulcher")
	assert.Equal(t, 409, c.do("POST", "/api/jobs/"+other.ID+"/strip", map[string]any{"id": id, "text": "bolt"}, nil),
		"the id belongs to another job")
	c.signIn("counter")
	assert.Equal(t, 403, c.do("POST", path, map[string]any{"id": store.NewID(), "text": "bolt"}, nil))
}

// A photo goes up in pieces, in order, again where the line broke; what is no picture is
// refused at the first piece; the same picture twice is stored once.
func TestPhotosInPieces(t *testing.T) {
	c, st := serve(t)
	c.signIn("jory")
	img := image.NewRGBA(image.Rect(0, 0, 400, 300))
	for i := range img.Pix {
		img.Pix[i] = byte(i * 7)
	}
	img.Set(0, 0, color.White)
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, img, nil))
	send := func(id string, at int, piece []byte, size int) (web.Uploaded, int) {
		req, err := http.NewRequest("PUT", c.base+"/api/photos/"+id+"/upload?at="+strconv.Itoa(at)+"&size="+
			strconv.Itoa(size), bytes.NewReader(piece))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/octet-stream")
		res, err := c.http.Do(req)
		require.NoError(t, err)
		res.Body.Close()
		var u web.Uploaded
		require.Equal(t, 200, c.do("GET", "/api/photos/"+id+"/upload", nil, &u))
		return u, res.StatusCode
	}
	for range 2 {
		id, half := store.NewID().String(), b.Len()/2
		u, code := send(id, 0, b.Bytes()[:half], b.Len())
		assert.Equal(t, 200, code)
		assert.Equal(t, half, u.At)
		u, _ = send(id, 0, b.Bytes()[:half], b.Len()) // sent again
		assert.Equal(t, half, u.At)
		_, code = send(id, half+10, b.Bytes()[half+10:], b.Len())
		assert.Equal(t, 409, code, "a gap")
		u, code = send(id, half, b.Bytes()[half:], b.Len())
		assert.Equal(t, 200, code)
		assert.True(t, u.Done)
		assert.Equal(t, 200, c.do("GET", "/api/photos/"+id+"?thumb=true", nil, nil))
	}
	var blobs, photos int
	require.NoError(t, st.DB.QueryRowContext(t.Context(),
		"SELECT (SELECT COUNT(*) FROM blobs), (SELECT COUNT(*) FROM photos)").Scan(&blobs, &photos))
	assert.Equal(t, 2, photos)
	assert.Equal(t, 2, blobs, "one picture and its thumbnail")
	_, code := send(store.NewID().String(), 0, []byte("no picture at all, but long enough"), 99)
	assert.Equal(t, 422, code)
	_, code = send(store.NewID().String(), 0, b.Bytes()[:100], 50<<20)
	assert.Equal(t, 422, code)
}

// A calculator answers, refuses by the input's name, and what it offers is taken.
func TestCalculatorsOverHTTP(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Cider press lorry")
	var r desk.CalcView
	require.Equal(t, 200, c.do("POST", "/api/calculators/four_wire",
		map[string]any{"inputs": map[string]string{"pairs": "0.152 5.0\n0.301 10.0\n0.455 15.1"}, "job": j.ID, "part": "motor"}, &r))
	require.Len(t, r.Evidence, 1)
	e := r.Evidence[0]
	e.ID = store.NewID().String()
	var now web.JobView
	require.Equal(t, 200, c.do("POST", "/api/jobs/"+j.ID+"/evidence", map[string]any{"evidence": []casefile.Typed{e}}, &now))
	got := now.Evidence[len(now.Evidence)-1]
	assert.NotEmpty(t, got.Uncertainty, "kept over a reload")
	for _, w := range now.Diagnosis.Warnings {
		assert.NotEqual(t, "below_meter_resolution", w.Code, "a four-wire value is not a handheld's")
	}
	var p problem
	require.Equal(t, 422, c.do("POST", "/api/calculators/cable", map[string]any{"inputs": map[string]string{"amperes": "lots"}}, &p))
	assert.Contains(t, p.Detail, "Current")
	assert.Equal(t, 422, c.do("POST", "/api/calculators/nothing", map[string]any{"inputs": map[string]string{}}, nil))
}

// A dangerous option is refused by the server too; another with a reason; a temporary one
// comes back on the board; nothing is proved while something stands in its way.
func TestDecidingAndProvingOverHTTP(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Cider press lorry")
	path := "/api/jobs/" + j.ID
	decide := func(option, aside string, terms repair.Terms) (int, problem) {
		var p problem
		terms.Years, terms.HourRate = 4, 58
		code := c.do("POST", path+"/decisions",
			map[string]any{"id": store.NewID(), "option": option, "station": "motor", "price": 90, "reason": "",
				"by": "customer", "set_aside": aside, "terms": terms}, &p)
		return code, p
	}
	code, p := decide("temporary", "in a hurry", repair.Terms{Burnt: true, NearFuel: true})
	assert.Equal(t, 422, code)
	assert.Contains(t, p.Detail, "fire hazard")
	code, p = decide("rewind", "", repair.Terms{})
	assert.Equal(t, 422, code)
	assert.Contains(t, p.Detail, "no winder within reach")
	code, _ = decide("rewind", "a cousin winds motors", repair.Terms{})
	assert.Equal(t, 200, code)
	code, _ = decide("temporary", "", repair.Terms{Temporary: 10})
	assert.Equal(t, 200, code)
	var rows []web.Row
	require.Equal(t, 200, c.do("GET", "/api/board", nil, &rows))
	found := false
	for _, r := range rows {
		if r.ID == j.ID {
			found = r.FollowUp != nil && strings.Contains(r.FollowWhat, "at most 10 days")
		}
	}
	assert.True(t, found, "the temporary repair has its day on the board")
	var v record.ProveView
	require.Equal(t, 200, c.do("GET", path+"/proof", nil, &v))
	require.NotNil(t, v.Todo)
	assert.Equal(t, []string{"motor"}, v.Todo.Stations)
	assert.False(t, v.Open)
	prove := map[string]any{"id": store.NewID(), "result": "passed", "signed": "Jory"}
	require.Equal(t, 422, c.do("POST", path+"/proof", prove, &p))
	assert.Contains(t, p.Detail, "Not proved yet: the work itself is not recorded")
	require.Equal(t, 200, c.do("POST", path+"/repairs", map[string]any{"id": store.NewID(), "decision": v.Todo.ID}, nil))
	require.Equal(t, 422, c.do("POST", path+"/proof", prove, &p))
	assert.Contains(t, p.Detail, "Not proved yet")
	assert.Equal(t, 422, c.do("POST", path+"/proof",
		map[string]any{"id": store.NewID(), "result": "failed", "signed": "Jory"}, nil), "why it failed")
	assert.Equal(t, 200, c.do("POST", path+"/proof",
		map[string]any{"id": store.NewID(), "result": "failed", "signed": "Jory", "remark": "no change"}, &v))
	assert.Equal(t, "failed", v.Records[0].Result)
	assert.Contains(t, v.Records[0].Says, "Not good: no change")
	// A price of zero and days missing leave the decision possible.
	var cmp record.OptionsView
	require.Equal(t, 200, c.do("POST", path+"/compare",
		map[string]any{"station": "motor", "terms": map[string]any{"hour_rate": 0, "loss_per_day": 0, "years": 2, "comeback": 0},
			"with": map[string]any{"repair": map[string]any{"parts": 0, "minutes": -1, "wait_days": -1}}}, &cmp))
	assert.NotEmpty(t, cmp.Options)
	assert.Equal(t, 422, c.do("POST", path+"/compare",
		map[string]any{"station": "motor", "terms": map[string]any{"hour_rate": -5, "loss_per_day": 0, "years": 2, "comeback": 0}}, nil))
	for _, kind := range []string{"customer", "file", "label"} {
		res, err := c.http.Get(c.base + path + "/report/" + kind)
		require.NoError(t, err)
		res.Body.Close()
		assert.Equal(t, 200, res.StatusCode)
		assert.Equal(t, "application/pdf", res.Header.Get("Content-Type"))
	}
	assert.Equal(t, 404, c.do("GET", path+"/report/poem", nil, nil))
	assert.Equal(t, 422, c.do("GET", "/api/logbook?from=yesterday", nil, nil))
	assert.Equal(t, 422, c.do("GET", "/api/logbook/export?format=pdf", nil, nil))
	c.signIn("jory")
	assert.Equal(t, 403, c.do("POST", "/api/learned/forget", map[string]any{"forget": true}, nil), "the owner's to decide")
}
