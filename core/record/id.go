package record

import (
	"crypto/sha1"
	"encoding/hex"
	"strings"
)

// childID is the id of something that follows from another thing and a name: always the
// same, so that a resend adds nothing. It is a name-based UUID (RFC 9562, section 5.5) within
// the parent, itself a UUID. The usual library is not for the core: it reaches the network
// card.
func childID(parent, name string) string {
	ns, err := hex.DecodeString(strings.ReplaceAll(parent, "-", ""))
	if err != nil || len(ns) != 16 {
		ns = make([]byte, 16)
	}
	sum := sha1.Sum(append(ns, name...))
	b := sum[:16]
	b[6], b[8] = b[6]&0x0f|0x50, b[8]&0x3f|0x80
	s := hex.EncodeToString(b)
	return s[:8] + "-" + s[8:12] + "-" + s[12:16] + "-" + s[16:20] + "-" + s[20:]
}
