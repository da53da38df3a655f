package phrase

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Upper is s with its first letter a capital one.
func Upper(s string) string { return first(s, unicode.ToUpper) }

// Lower is s with its first letter a small one, unless it begins with a word in capitals: DC supply.
func Lower(s string) string {
	_, n := utf8.DecodeRuneInString(s)
	if next, _ := utf8.DecodeRuneInString(s[n:]); unicode.IsUpper(next) {
		return s
	}
	return first(s, unicode.ToLower)
}

func first(s string, to func(rune) rune) string {
	r, n := utf8.DecodeRuneInString(s)
	if n == 0 || r == utf8.RuneError {
		return s
	}
	return string(to(r)) + s[n:]
}

// Sentence is s with a capital letter in front and a stop behind, unless it has one.
func Sentence(s string) string {
	s = strings.TrimSpace(s)
	if s == "" || strings.HasSuffix(s, ".") || strings.HasSuffix(s, "!") || strings.HasSuffix(s, "?") {
		return Upper(s)
	}
	return Upper(s) + "."
}
