package desk

import (
	"cmp"
	"time"
)

// What a job may wait for.
const (
	WaitParts    = "parts"      // with the day they come
	WaitCold     = "cold_start" // the machine must have stood, mostly a night
	WaitCure     = "cure"       // sealant, glue or paint
	WaitCustomer = "customer"   // an answer
	WaitOther    = "other"
)

// Waits lists what a job may wait for.
func Waits() []string { return []string{WaitParts, WaitCold, WaitCure, WaitCustomer, WaitOther} }

// Wait is what stands between a job and its next step. Until is the zero time where nobody
// knows when it ends.
type Wait struct {
	Kind  string
	Until time.Time
}

// The groups of the board, the first on top.
const (
	Overdue = "overdue" // what it waited for is over, or a temporary repair has ended
	Now     = "now"     // somebody can go on
	Waiting = "waiting"
	Closed  = "closed"
)

// Place is where a job stands on the board.
type Place struct {
	Group string
	Due   time.Time // what puts it there, or what it waits for first; zero: nothing with a day
}

// soon is the order of what can be done now: what is known first, since a customer waits for it.
var soon = map[string]int{"decide": 0, "measure": 1, "checks": 2, "complaint": 3, "decided": 4}

// PlaceOf says where a job belongs: what has come due on top, then what can be gone on with, then
// what waits, what ends first before the rest.
//
// A job that waits is overdue from the moment its last wait with a day is over: until then nobody
// can go on.
func PlaceOf(now time.Time, closed bool, waits []Wait, temporaryEnds *time.Time) Place {
	if temporaryEnds != nil && !now.Before(*temporaryEnds) {
		return Place{Overdue, *temporaryEnds}
	}
	open, last, first := false, time.Time{}, time.Time{}
	for _, w := range waits {
		if w.Until.IsZero() || now.Before(w.Until) {
			open = true
		}
		if w.Until.IsZero() {
			continue
		}
		if w.Until.After(last) {
			last = w.Until
		}
		if first.IsZero() || w.Until.Before(first) {
			first = w.Until
		}
	}
	switch {
	case len(waits) > 0 && !open:
		return Place{Overdue, last}
	case len(waits) > 0:
		return Place{Waiting, first}
	case closed && temporaryEnds != nil:
		return Place{Waiting, *temporaryEnds}
	case closed:
		return Place{Closed, time.Time{}}
	}
	return Place{Now, time.Time{}}
}

// Row is what orders a job on the board.
type Row struct {
	Place
	Stage  string
	Opened time.Time
}

// Compare orders two jobs of the board: by group, then by what is due first, then by stage, then
// the newer first; below zero where r comes first.
func (r Row) Compare(o Row) int {
	groups := map[string]int{Overdue: 0, Now: 1, Waiting: 2, Closed: 3}
	due := func(p Place) time.Time {
		if p.Due.IsZero() { // after all that have a day
			return time.Unix(1<<40, 0)
		}
		return p.Due
	}
	return cmp.Or(
		cmp.Compare(groups[r.Group], groups[o.Group]),
		due(r.Place).Compare(due(o.Place)),
		cmp.Compare(soon[r.Stage], soon[o.Stage]),
		o.Opened.Compare(r.Opened),
	)
}
