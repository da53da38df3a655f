package patience

import (
	"os"
	"strconv"
	"testing"
	"time"
)

// limit is the wait on a quiet machine, of two cores or more.
const limit = 2 * time.Minute

// tick is the pause between two looks.
const tick = 20 * time.Millisecond

// Factor is the number in CORRIENTE_PATIENCE, at least 1; 1 without it or where it is no number.
func Factor() float64 {
	f, err := strconv.ParseFloat(os.Getenv("CORRIENTE_PATIENCE"), 64)
	if err != nil || !(f >= 1) || f > 1000 {
		return 1
	}
	return f
}

// Limit is how long anything may be waited for.
func Limit() time.Duration { return time.Duration(float64(limit) * Factor()) }

// Until looks until ok holds, or fails the test with what was waited for.
func Until(t testing.TB, what string, ok func() bool) {
	t.Helper()
	for end := time.Now().Add(Limit()); !ok(); time.Sleep(tick) {
		if time.Now().After(end) {
			t.Fatalf("waited %v in vain: %s", Limit(), what)
		}
	}
}
