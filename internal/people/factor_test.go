package people

import (
	"encoding/base32"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// RFC 6238, appendix B: the SHA-1 rows, their last six of eight digits.
func TestCodesOfTheStandard(t *testing.T) {
	secret := base32.StdEncoding.EncodeToString([]byte("12345678901234567890"))
	for unix, code := range map[int64]string{59: "287082", 1111111109: "081804", 1111111111: "050471",
		1234567890: "005924", 2000000000: "279037", 20000000000: "353130"} {
		step, ok := CodeStep(secret, code, time.Unix(unix, 0), -1)
		require.True(t, ok, unix)
		assert.Equal(t, unix/30, step)
		_, ok = CodeStep(secret, code[:3]+" "+code[3:], time.Unix(unix, 0), -1)
		assert.True(t, ok, "as phones show it")
		_, ok = CodeStep(secret, code, time.Unix(unix, 0), step)
		assert.False(t, ok, "a code counts once")
		_, ok = CodeStep(secret, code, time.Unix(unix+30, 0), -1)
		assert.True(t, ok, "a clock may be half a minute off")
		_, ok = CodeStep(secret, code, time.Unix(unix+60, 0), -1)
		assert.False(t, ok, "and no more")
	}
	for _, wrong := range []string{"", "28708", "2870821", "000000", "abcdef"} {
		_, ok := CodeStep(secret, wrong, time.Unix(59, 0), -1)
		assert.False(t, ok, wrong)
	}
}

func TestSecretsAndSpareCodes(t *testing.T) {
	a, err := NewSecret()
	require.NoError(t, err)
	b, err := NewSecret()
	require.NoError(t, err)
	assert.Len(t, a, 32)
	assert.NotEqual(t, a, b)
	texts, hashes, err := NewSpareCodes()
	require.NoError(t, err)
	require.Len(t, texts, 10)
	seen := map[string]bool{}
	for i, x := range texts {
		assert.Regexp(t, `^[A-HJ-NP-Z2-9]{5}-[A-HJ-NP-Z2-9]{5}$`, x)
		assert.Equal(t, hashes[i], HashSpareCode(x))
		assert.Equal(t, hashes[i], HashSpareCode(" "+x[:5]+" "+x[6:]+" "), "as it is read off a paper")
		seen[x] = true
	}
	assert.Len(t, seen, 10)
}
