package password

import (
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"fmt"
	"strings"

	"golang.org/x/crypto/argon2"
)

// Parameters of OWASP's Password Storage Cheat Sheet: 19 MiB, two passes, one lane.
const (
	memory  = 19 * 1024
	passes  = 2
	lanes   = 1
	keyLen  = 32
	saltLen = 16
)

// Hash returns the PHC string of a password.
func Hash(pw string) (string, error) {
	salt := make([]byte, saltLen)
	if _, err := rand.Read(salt); err != nil {
		return "", err
	}
	key := argon2.IDKey([]byte(pw), salt, passes, memory, lanes, keyLen)
	b := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, memory, passes, lanes,
		b.EncodeToString(salt), b.EncodeToString(key)), nil
}

// Check reports whether pw is the password of a PHC string. It takes the same
// time for a hash that cannot be read, so that an unknown user is not told
// apart by the clock.
func Check(pw, phc string) bool {
	var v int
	var m, t uint32
	var p uint8
	parts := strings.Split(phc, "$")
	ok := len(parts) == 6 && parts[1] == "argon2id"
	var salt, want []byte
	if ok {
		_, e1 := fmt.Sscanf(parts[2], "v=%d", &v)
		_, e2 := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &m, &t, &p)
		var e3, e4 error
		salt, e3 = base64.RawStdEncoding.DecodeString(parts[4])
		want, e4 = base64.RawStdEncoding.DecodeString(parts[5])
		ok = e1 == nil && e2 == nil && e3 == nil && e4 == nil && v == argon2.Version && m <= 1<<20 && t >= 1 &&
			t <= 16 && p >= 1 && len(want) == keyLen
	}
	if !ok {
		argon2.IDKey([]byte(pw), make([]byte, saltLen), passes, memory, lanes, keyLen)
		return false
	}
	return subtle.ConstantTimeCompare(argon2.IDKey([]byte(pw), salt, t, m, p, keyLen), want) == 1
}
