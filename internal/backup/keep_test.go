package backup

import (
	"log/slog"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Three years of daily backups, the rule applied each day: the last week is there whole, each of the last four weeks
// and twelve months has one, and nothing else is left.
func TestRuleOverYears(t *testing.T) {
	var have []time.Time
	start := time.Date(2026, 1, 1, 3, 0, 0, 0, time.UTC)
	for d := range 3 * 365 {
		now := start.AddDate(0, 0, d)
		have = append(have, now)
		gone := map[time.Time]bool{}
		for _, x := range toDrop(have) {
			gone[x] = true
		}
		var left []time.Time
		for _, x := range have {
			if !gone[x] {
				left = append(left, x)
			}
		}
		have = left
	}
	assert.LessOrEqual(t, len(have), 7+4+12)
	last := have[len(have)-1]
	count := func(days int) (n int) {
		for _, x := range have {
			if last.Sub(x) < time.Duration(days)*24*time.Hour {
				n++
			}
		}
		return n
	}
	assert.Equal(t, 7, count(7))
	months := map[string]bool{}
	for _, x := range have {
		months[x.Format("2006-01")] = true
	}
	assert.Len(t, months, 12)
}

func TestRuleKeepsTheLatest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		at := rapid.SliceOfN(rapid.Int64Range(0, 4*365*86400), 1, 60).Draw(t, "at")
		var all []time.Time
		last := time.Time{}
		for _, s := range at {
			x := time.Unix(s, 0).UTC()
			all = append(all, x)
			if x.After(last) {
				last = x
			}
		}
		gone := toDrop(all)
		assert.NotContains(t, gone, last)
		if len(all) <= 7 {
			days := map[string]bool{}
			for _, x := range all {
				days[x.Format("2006-01-02")] = true
			}
			if len(days) == len(all) {
				assert.Empty(t, gone, "a week of days is kept whole")
			}
		}
	})
}

func TestFolderThatCannotBeUsed(t *testing.T) {
	f := filepath.Join(t.TempDir(), "file")
	require.NoError(t, os.WriteFile(f, nil, 0o600))
	_, err := NewKeeper(filepath.Join(f, "backups"), nil, slog.New(slog.DiscardHandler))
	assert.ErrorContains(t, err, "choose another with --backups")
}
