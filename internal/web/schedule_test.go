package web_test

import (
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/store"
	"corriente/internal/web"
)

// A job waits, is overdue when its day is past, and can be gone on with once it is there; sent again
// nothing doubles, and what has ended does not begin anew.
func TestAJobWaitsAndIsNotForgotten(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Frost fan east")
	at := "/api/jobs/" + j.ID
	wait := at + "/waits/" + store.NewID().String()
	put := func(until time.Time) (v web.ScheduleView) {
		t.Helper()
		body := map[string]any{"kind": "parts", "note": "brush set from the depot", "until": until.UTC().Format(time.RFC3339)}
		for range 2 {
			require.Equal(t, 200, c.do("PUT", wait, body, &v))
		}
		return v
	}
	row := func() (r web.Row, place int) {
		t.Helper()
		var rows []web.Row
		require.Equal(t, 200, c.do("GET", "/api/board", nil, &rows))
		for i, x := range rows {
			if x.ID == j.ID {
				return x, i
			}
		}
		t.Fatal("the job is not on the board")
		return r, 0
	}
	r, _ := row()
	assert.Equal(t, "now", r.Group)
	v := put(time.Now().Add(26 * time.Hour))
	require.Len(t, v.Waits, 1)
	r, _ = row()
	assert.Equal(t, "waiting", r.Group)
	put(time.Now().Add(-2 * time.Hour))
	r, place := row()
	assert.Equal(t, "overdue", r.Group)
	assert.Less(t, place, 2, "on top, beside the one that is overdue in the demo")

	require.Equal(t, 200, c.do("PUT", at+"/schedule", map[string]any{"bench": "bench 3", "person": v.People[0].ID}, &v))
	assert.Equal(t, "bench 3", v.Bench)
	assert.Equal(t, v.People[0].Name, v.Name)

	for range 2 {
		require.Equal(t, 200, c.do("DELETE", wait, nil, &v))
	}
	assert.Empty(t, v.Waits)
	assert.Empty(t, put(time.Now().Add(time.Hour)).Waits, "a late resend does not begin it anew")
	r, _ = row()
	assert.Equal(t, "now", r.Group)
	assert.Equal(t, "bench 3", r.Bench)
}

func TestWaitsThatCannotBe(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Frost fan east")
	at := "/api/jobs/" + j.ID
	var p problem
	require.Equal(t, 422, c.do("PUT", at+"/waits/"+store.NewID().String(),
		map[string]any{"kind": "parts", "note": "", "until": "2099-01-01T08:00:00Z"}, &p))
	assert.Contains(t, p.Detail, "check the year")
	require.Equal(t, 422, c.do("PUT", at+"/waits/"+store.NewID().String(), map[string]any{"kind": "luck", "note": ""}, &p))
	require.Equal(t, 422, c.do("PUT", at+"/schedule", map[string]any{"bench": "", "person": store.NewID().String()}, &p))
	assert.Contains(t, p.Detail, "choose one of the list")
	require.Equal(t, 404, c.do("PUT", "/api/jobs/"+store.NewID().String()+"/waits/"+store.NewID().String(),
		map[string]any{"kind": "parts", "note": ""}, &p))
	id := store.NewID().String()
	require.Equal(t, 200, c.do("PUT", at+"/waits/"+id, map[string]any{"kind": "customer", "note": ""}, nil))
	other := c.job("Mulcher")
	require.Equal(t, 409, c.do("PUT", "/api/jobs/"+other.ID+"/waits/"+id, map[string]any{"kind": "customer", "note": ""}, &p))
	reader, _ := serve(t)
	reader.signIn("counter")
	require.Equal(t, 403, reader.do("PUT", at+"/schedule", map[string]any{"bench": "x", "person": ""}, &p))
}

// The calendar is read by a parser of its own kind: every wait with a day is an event, text with
// commas and line ends comes back as it was (RFC 5545).
func TestTheCalendarCanBeRead(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	j := c.job("Frost fan east")
	until := time.Now().Add(50 * time.Hour).Truncate(time.Minute)
	note := "gasket, sealant; \\ “grey”"
	require.Equal(t, 200, c.do("PUT", "/api/jobs/"+j.ID+"/waits/"+store.NewID().String(),
		map[string]any{"kind": "cure", "note": note, "until": until.UTC().Format(time.RFC3339)}, nil))
	req, err := http.NewRequestWithContext(t.Context(), http.MethodGet, c.base+"/api/calendar.ics", nil)
	require.NoError(t, err)
	res, err := c.http.Do(req)
	require.NoError(t, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	require.Equal(t, 200, res.StatusCode)
	assert.True(t, strings.HasPrefix(string(b), "BEGIN:VCALENDAR\r\n"))
	cal, err := ics.ParseCalendar(strings.NewReader(string(b)))
	require.NoError(t, err)
	found := 0
	for _, e := range cal.Events() {
		if e.GetProperty(ics.ComponentPropertySummary).Value != "Cured: Frost fan east" {
			continue
		}
		found++
		start, err := e.GetStartAt()
		require.NoError(t, err)
		assert.True(t, until.Equal(start), "%v is not %v", start, until)
		assert.Contains(t, e.GetProperty(ics.ComponentPropertyDescription).Value, note)
	}
	assert.Equal(t, 1, found)
	assert.GreaterOrEqual(t, len(cal.Events()), 4, "the demo's waits besides")
}
