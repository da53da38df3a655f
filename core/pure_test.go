// Package core_test holds the rule that the core stays pure.
package core_test

import (
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The core reaches no network, no database and nothing of internal/.
func TestCoreIsPure(t *testing.T) {
	out, err := exec.Command("go", "list", "-deps", "corriente/core/...").Output()
	require.NoError(t, err)
	for _, p := range strings.Fields(string(out)) {
		assert.NotContains(t, []string{"net", "net/http", "database/sql"}, p)
		assert.False(t, strings.HasPrefix(p, "corriente/internal"), p)
	}
}
