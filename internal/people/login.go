package people

import (
	"errors"
	"fmt"
	"regexp"
	"strings"
	"unicode"

	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"
)

// Bounds of what a person types.
const (
	MaxLogin    = 40
	MaxName     = 80
	MinPassword = 10
	MaxPassword = 200
	MinPIN      = 4
	MaxPIN      = 8
)

// plain is a login as it is kept: it begins with a letter.
var plain = regexp.MustCompile(`^[a-z][a-z0-9._-]{0,39}$`)

// Canonical brings a login to the one form it is counted by: small letters, no accents, no full-width forms (NFKC),
// nothing that is not seen. Two logins that look alike count as one.
func Canonical(login string) string {
	t := transform.Chain(norm.NFKD, runes.Remove(runes.Predicate(func(r rune) bool {
		return unicode.In(r, unicode.Mn, unicode.Me, unicode.Cf, unicode.Cc, unicode.Zs, unicode.Zl, unicode.Zp)
	})), norm.NFKC)
	out, _, err := transform.String(t, login)
	if err != nil {
		out = login
	}
	return strings.ToLower(out)
}

// CheckLogin returns a new login as it is kept, or a sentence that says what is wrong with it.
func CheckLogin(login string) (string, error) {
	typed := strings.ToLower(strings.TrimSpace(login))
	switch {
	case typed == "":
		return "", errors.New("give a short name to sign in with, such as wanda")
	case plain.MatchString(typed):
		return typed, nil
	}
	if c := Canonical(typed); plain.MatchString(c) {
		return "", fmt.Errorf("a name to sign in with has plain letters, digits, dot, dash or underscore: use %q", c)
	}
	return "", fmt.Errorf("a name to sign in with begins with a letter and has at most %d plain letters, digits, "+
		"dots, dashes or underscores", MaxLogin)
}

// CheckName returns a person's name as it is kept, or a sentence that says what is wrong with it.
func CheckName(name string) (string, error) {
	name = strings.Join(strings.FieldsFunc(name, func(r rune) bool {
		return unicode.IsSpace(r) || unicode.In(r, unicode.Cf, unicode.Cc)
	}), " ")
	if name == "" {
		return "", errors.New("give the person's name as it stands on papers")
	}
	if len([]rune(name)) > MaxName {
		return "", fmt.Errorf("a name has at most %d letters", MaxName)
	}
	return name, nil
}
