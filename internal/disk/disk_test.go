package disk_test

import (
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/disk"
)

func TestLevels(t *testing.T) {
	for _, x := range []struct {
		free, of uint64
		level    string
	}{{50, 100, ""}, {10, 100, ""}, {9, 100, "low"}, {2, 100, "low"}, {1, 100, "full"}, {0, 100, "full"}, {0, 0, ""}, {200, 100, ""}} {
		assert.Equal(t, x.level, disk.Room{Free: x.free, Of: x.of}.Level(), "%d of %d", x.free, x.of)
	}
	assert.Equal(t, "40 MB", disk.Room{Free: 40 << 20}.String())
	assert.Equal(t, "3.5 GB", disk.Room{Free: 7 << 29}.String())
}

// The system's own df says the same, for a folder that is there and for one that is to be made.
func TestAgainstDf(t *testing.T) {
	dir := t.TempDir()
	out, err := exec.Command("df", "-B1", "--output=size", dir).Output()
	require.NoError(t, err)
	lines := strings.Fields(string(out))
	size, err := strconv.ParseUint(lines[len(lines)-1], 10, 64)
	require.NoError(t, err)
	for _, d := range []string{dir, filepath.Join(dir, "not", "there", "yet")} {
		r, err := disk.At(d)
		require.NoError(t, err)
		assert.Equal(t, size, r.Of)
		assert.LessOrEqual(t, r.Free, r.Of)
	}
}
