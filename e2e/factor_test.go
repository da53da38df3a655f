package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// An owner asks for a code from the phone at sign-in: a wrong password and a wrong code on the way, the next
// sign-in with a code, and one with a spare code, on a phone.
func TestACodeAtSignIn(t *testing.T) {
	_, b, base, x := begin(t, "wanda")
	x.page().MustNavigate(base + "/you")
	const card = "main .card"
	field := func(label string) string {
		return `//form[.//h2[.="Code at sign-in"]]//label[contains(., "` + label + `")]//input`
	}
	x.sees(card+" h2", "^Code at sign-in$")
	secret := x.page().MustElementX(field("Your password"))
	secret.MustInput("apple-blosson").MustType(input.Enter)
	x.sees(".wrong", "This is not your password of today")
	x.fill(x.page().MustElementX(field("Your password")), "apple-blossom")
	x.page().MustElementX(field("Your password")).MustType(input.Enter)
	code := x.page().MustElementX(field("The code it shows now"))
	letters := strings.ReplaceAll(x.page().MustElementX(`//form[.//h2[.="Code at sign-in"]]//p[contains(@class, "address")]`).MustText(),
		" ", "")
	x.page().MustElement(".ant-qrcode canvas, .ant-qrcode svg")
	code.MustInput("123").MustType(input.Enter)
	x.sees(".wrong", "not the code that belongs to it")
	now := func() string {
		c, err := totp.GenerateCode(letters, time.Now())
		require.NoError(t, err)
		return c
	}
	x.fill(x.page().MustElementX(field("The code it shows now")), now())
	x.page().MustElementX(field("The code it shows now")).MustType(input.Enter)
	spare := x.sees(`section[aria-label="Spare codes"] li`, ".").MustText()
	x.press("button", "I have them")
	x.sees(card+" p", "code is asked for when you sign in")

	// The workshop asks all its owners for one: the next is told so, and the first does not drop theirs.
	x.page().MustNavigate(base + "/settings")
	x.choose("Owners sign in", "with a code from their phone")
	x.press("button", "^Keep$")
	x.sees("[role=status]", "Kept")
	x.page().MustNavigate(base + "/you")
	x.sees(card+" p", "asks its owners for one")
	x.fill(x.page().MustElementX(field("Your password")), "apple-blossom")
	x.page().MustElementX(field("Your password")).MustType(input.Enter)
	x.sees(".wrong", "change that under Settings first")

	in := func(y *person, code string) {
		y.page().MustElement("#login").MustInput("wanda")
		y.page().MustElement("#password").MustInput("apple-blossom").MustType(input.Enter)
		at := y.page().MustElement("#code")
		y.counts(".signin .wrong", 0)
		at.MustInput("000000").MustType(input.Enter)
		y.sees(".signin .wrong", "This code is not right")
		y.fill(y.page().MustElement("#code"), code)
		y.page().MustElement("#code").MustType(input.Enter)
		y.page().MustElement(".board")
	}
	y := open(t, b, base, 1280, 800)
	in(y, now())
	z := open(t, b, base, 390, 844)
	in(z, strings.ToLower(spare))
	z.page().MustNavigate(base + "/you")
	z.sees("h2", "^Code at sign-in$")
	z.noOverflow()
	assert.Empty(t, z.page().MustElements(`section[aria-label="Spare codes"]`), "they are shown once")
}
