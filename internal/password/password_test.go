package password

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestHashAndCheck(t *testing.T) {
	a, err := Hash("apple-blossom")
	require.NoError(t, err)
	b, err := Hash("apple-blossom")
	require.NoError(t, err)
	assert.NotEqual(t, a, b, "every hash has its own salt")
	assert.True(t, strings.HasPrefix(a, "$argon2id$v=19$m=19456,t=2,p=1$"))
	assert.True(t, Check("apple-blossom", a))
	assert.False(t, Check("apple-blossoM", a))
	for _, broken := range []string{"", "x", "$argon2id$v=19$m=99999999,t=2,p=1$AA$AA", strings.Replace(a, "argon2id", "argon2i", 1)} {
		assert.False(t, Check("apple-blossom", broken))
	}
}
