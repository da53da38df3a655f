package diagnose_test

import "testing"

// notForRaces skips what works through many machines in one goroutine: under the race
// detector, which runs with -short, it takes minutes and finds nothing.
func notForRaces(t *testing.T) {
	t.Helper()
	if testing.Short() {
		t.Skip("many machines, one goroutine: nothing for the race detector")
	}
}
