package people

import (
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"github.com/trustelem/zxcvbn"
)

// weakest is the lowest score a password may have, 0 to 4: from 2 on, guessing takes over a million tries, and the
// commonest tens of thousands are all below.
// Source: D. L. Wheeler, "zxcvbn: Low-Budget Password Strength Estimation", USENIX Security 2016; its lists are
// compiled in.
const weakest = 2

// CheckPassword says in a sentence what is wrong with a new password; nil where nothing is. about are words that
// somebody who knows the person would try: login, name, workshop.
func CheckPassword(pw string, about ...string) error {
	n := utf8.RuneCountInString(pw)
	switch {
	case n < MinPassword:
		return fmt.Errorf("a password has at least %d letters: three words with a gap between them are easy to keep in mind", MinPassword)
	case n > MaxPassword:
		return fmt.Errorf("a password has at most %d letters", MaxPassword)
	}
	words := append([]string{"corriente"}, about...)
	for _, a := range about {
		words = append(words, strings.Fields(strings.ToLower(a))...)
	}
	// Its cost grows with the square of the length: what stands in the first letters is enough.
	if zxcvbn.PasswordStrength(string([]rune(pw)[:min(n, 72)]), words).Score < weakest {
		return errors.New("this password is among the first that are tried: take three words that do not belong together")
	}
	return nil
}

// CheckPIN says in a sentence what is wrong with a new PIN; nil where nothing is.
func CheckPIN(pin string) error {
	if len(pin) < MinPIN || len(pin) > MaxPIN || strings.Trim(pin, "0123456789") != "" {
		return fmt.Errorf("a PIN has %d to %d digits", MinPIN, MaxPIN)
	}
	up, down, same := true, true, true
	for i := 1; i < len(pin); i++ {
		up, down, same = up && pin[i] == pin[i-1]+1, down && pin[i]+1 == pin[i-1], same && pin[i] == pin[i-1]
	}
	if up || down || same {
		return errors.New("this PIN is among the first that are tried: not all digits alike, and not counted up or down")
	}
	return nil
}

// NewToken makes what stands in a link or a cookie, 192 bits, and the hash it is kept by: whoever reads the database
// learns no link.
func NewToken() (text string, hash [32]byte, err error) {
	b := make([]byte, 24)
	if _, err := rand.Read(b); err != nil {
		return "", hash, err
	}
	text = base64.RawURLEncoding.EncodeToString(b)
	return text, HashToken(text), nil
}

// HashToken is what a token is kept and found by.
func HashToken(text string) [32]byte { return sha256.Sum256([]byte(text)) }
