package desk_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"corriente/core/desk"
)

var noon = time.Date(2026, 11, 28, 12, 0, 0, 0, time.UTC)

func TestPlaceOf(t *testing.T) {
	day := 24 * time.Hour
	at := func(d time.Duration) *time.Time { x := noon.Add(d); return &x }
	for name, x := range map[string]struct {
		closed bool
		waits  []desk.Wait
		ends   *time.Time
		want   string
		due    time.Duration
	}{
		"open, waits for nothing":         {want: desk.Now},
		"parts on Monday":                 {waits: []desk.Wait{{desk.WaitParts, noon.Add(2 * day)}}, want: desk.Waiting, due: 2 * day},
		"parts were due yesterday":        {waits: []desk.Wait{{desk.WaitParts, noon.Add(-day)}}, want: desk.Overdue, due: -day},
		"due this minute":                 {waits: []desk.Wait{{desk.WaitCure, noon}}, want: desk.Overdue},
		"the customer, nobody knows when": {waits: []desk.Wait{{desk.WaitCustomer, time.Time{}}}, want: desk.Waiting, due: 1e18},
		"cured, the customer still to answer": {waits: []desk.Wait{{desk.WaitCure, noon.Add(-day)},
			{desk.WaitCustomer, time.Time{}}}, want: desk.Waiting, due: -day},
		"closed":                             {closed: true, want: desk.Closed},
		"closed, a temporary repair holds":   {closed: true, ends: at(20 * day), want: desk.Waiting, due: 20 * day},
		"closed, a temporary repair is over": {closed: true, ends: at(-day), want: desk.Overdue, due: -day},
		"open, a temporary repair is over": {waits: []desk.Wait{{desk.WaitParts, noon.Add(day)}}, ends: at(-day),
			want: desk.Overdue, due: -day},
	} {
		p := desk.PlaceOf(noon, x.closed, x.waits, x.ends)
		assert.Equal(t, x.want, p.Group, name)
		switch {
		case x.due == 1e18, x.want == desk.Now, x.want == desk.Closed:
			assert.True(t, p.Due.IsZero(), name)
		default:
			assert.Equal(t, noon.Add(x.due), p.Due, name)
		}
	}
}

// What is overdue stands on top, the longest overdue first; then what can be done, what is to be
// decided before what is still measured; then what waits, the soonest first, without a day last.
func TestBoardOrder(t *testing.T) {
	type row struct {
		name, stage string
		place       desk.Place
		opened      time.Time
	}
	d := func(n int) time.Time { return noon.AddDate(0, 0, n) }
	want := []row{
		{"long overdue", "decided", desk.Place{desk.Overdue, d(-3)}, d(-9)},
		{"overdue", "decided", desk.Place{desk.Overdue, d(-1)}, d(-2)},
		{"to decide", "decide", desk.Place{Group: desk.Now}, d(-5)},
		{"measured, newer", "measure", desk.Place{Group: desk.Now}, d(0)},
		{"measured, older", "measure", desk.Place{Group: desk.Now}, d(-1)},
		{"just in", "complaint", desk.Place{Group: desk.Now}, d(0)},
		{"tomorrow", "decided", desk.Place{desk.Waiting, d(1)}, d(-1)},
		{"next week", "decided", desk.Place{desk.Waiting, d(7)}, d(-1)},
		{"some day", "decide", desk.Place{Group: desk.Waiting}, d(-1)},
		{"closed", "closed", desk.Place{Group: desk.Closed}, d(-1)},
	}
	got := slices.Clone(want)
	slices.Reverse(got)
	slices.SortStableFunc(got, func(a, b row) int {
		return desk.Row{Place: a.place, Stage: a.stage,
			Opened: a.opened}.Compare(desk.Row{Place: b.place, Stage: b.stage, Opened: b.opened})
	})
	assert.Equal(t, want, got)
}
