package strip

import (
	"bufio"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What each of two hundred lines means, as their table says. Written before the words were
// tuned on it: an upper bound.
func TestLinesMeanWhatTheySay(t *testing.T) {
	n, right := rightOf(t, "testdata/lines.txt")
	assert.GreaterOrEqual(t, n, 200)
	assert.GreaterOrEqual(t, float64(right)/float64(n), 0.98)
}

// Lines that nobody tuned on.
func TestFreshLines(t *testing.T) {
	n, right := rightOf(t, "testdata/fresh.txt")
	assert.GreaterOrEqual(t, float64(right)/float64(n), 0.8)
}

func rightOf(t *testing.T, file string) (n, right int) {
	f, err := os.Open(file)
	require.NoError(t, err)
	defer f.Close()
	for sc := bufio.NewScanner(f); sc.Scan(); {
		p := strings.SplitN(sc.Text(), " | ", 3)
		if strings.HasPrefix(sc.Text(), "#") {
			continue
		}
		require.Len(t, p, 3, sc.Text())
		n++
		act, ask := strings.CutSuffix(p[0], "?")
		want := strings.Fields(strings.Replace(p[1], "-", "", 1))
		e := Parse(p[2])
		got := []string{}
		for _, x := range e.Findings {
			got = append(got, x.Observe+"="+x.Outcome)
		}
		slices.Sort(want)
		slices.Sort(got)
		if e.Act != act || !slices.Equal(want, got) || ask && !e.Unsure {
			t.Logf("%q: want %s %v, got %s %v unsure %v kind %s", p[2], p[0], want, e.Act, got, e.Unsure, e.Kind)
			continue
		}
		right++
	}
	t.Logf("%s: %d of %d right", file, right, n)
	return n, right
}
