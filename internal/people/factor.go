package people

import (
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base32"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/hotp"
)

// The second factor is a code of six digits from an application on the person's phone, which changes every
// thirty seconds (TOTP, RFC 6238, with the parameters that every such application knows).
const (
	codeEvery  = 30 // seconds
	codeSkew   = 1  // steps that a phone's clock may be off either way
	spareCodes = 10
)

// NewSecret makes what a phone and the workshop share, 160 bits as base32 (RFC 4226, 4, requirement 6).
func NewSecret() (string, error) {
	b := make([]byte, 20)
	if _, err := rand.Read(b); err != nil {
		return "", err
	}
	return base32.StdEncoding.WithPadding(base32.NoPadding).EncodeToString(b), nil
}

// CodeStep returns the step of a code, where it is one of now, or of the step before or after, and later than
// last: a code counts once. ok is false where it is none.
func CodeStep(secret, code string, now time.Time, last int64) (step int64, ok bool) {
	code = strings.Join(strings.Fields(code), "")
	at := now.Unix() / codeEvery
	for s := at - codeSkew; s <= at+codeSkew; s++ {
		want, err := hotp.GenerateCodeCustom(secret, uint64(max(s, 0)),
			hotp.ValidateOpts{Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1})
		if err == nil && s > last && subtle.ConstantTimeCompare([]byte(want), []byte(code)) == 1 {
			return s, true
		}
	}
	return 0, false
}

// spareLetters are those that are not taken for one another.
const spareLetters = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"

// NewSpareCodes makes codes that count once each where the phone is not at hand, 50 bits each, and the hashes
// they are kept by.
func NewSpareCodes() (texts []string, hashes [][32]byte, err error) {
	for range spareCodes {
		b := make([]byte, 10)
		if _, err := rand.Read(b); err != nil {
			return nil, nil, err
		}
		for i := range b {
			b[i] = spareLetters[int(b[i])%len(spareLetters)]
		}
		text := string(b[:5]) + "-" + string(b[5:])
		texts, hashes = append(texts, text), append(hashes, HashSpareCode(text))
	}
	return texts, hashes, nil
}

// HashSpareCode is what a spare code is kept and found by, however it is typed.
func HashSpareCode(text string) [32]byte {
	plain := strings.Map(func(r rune) rune {
		if r == '-' || r == ' ' {
			return -1
		}
		return r
	}, strings.ToUpper(strings.TrimSpace(text)))
	return sha256.Sum256([]byte("spare code\x00" + plain))
}
