package web_test

import (
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/demo"
	"corriente/internal/store"
	"corriente/internal/web"
	"corriente/internal/workshop"
)

// A second factor is asked for once the phone has shown that it has it; each code counts once; a spare code helps
// where the phone is not at hand; guessing it is as bounded as guessing a password.
func TestASecondFactor(t *testing.T) {
	c, _ := serve(t)
	in := func(c *client, code string) (int, string) {
		var said struct{ Detail string }
		b := map[string]string{"login": "wanda", "password": demo.Password}
		if code != "" {
			b["code"] = code
		}
		status := c.do("POST", "/api/session", b, &said)
		return status, said.Detail
	}
	c.signIn("wanda")
	assert.Equal(t, 409, c.do("PUT", "/api/session/factor", map[string]string{"code": "123456"}, nil), "nothing was begun")
	assert.Equal(t, 422, c.do("POST", "/api/session/factor", map[string]string{"password": "apple-blosson"}, nil))
	var f web.NewFactor
	require.Equal(t, 200, c.do("POST", "/api/session/factor", map[string]string{"password": demo.Password}, &f))
	u, err := url.Parse(f.Address)
	require.NoError(t, err)
	assert.Equal(t, "otpauth", u.Scheme)
	assert.Equal(t, f.Secret, u.Query().Get("secret"))
	assert.Contains(t, u.Path, ":wanda")

	// Until a code was shown, nothing is asked for.
	status, _ := in(c.another(), "")
	assert.Equal(t, 200, status)
	assert.Equal(t, 422, c.do("PUT", "/api/session/factor", map[string]string{"code": "12345"}, nil))
	code := func(at time.Time) string { // as a phone reckons it: another's code than the one that checks it
		x, err := totp.GenerateCode(f.Secret, at)
		require.NoError(t, err)
		return x
	}
	var spare web.SpareCodes
	require.Equal(t, 200, c.do("PUT", "/api/session/factor", map[string]string{"code": code(time.Now())}, &spare))
	require.Len(t, spare.Codes, 10)
	var me web.Me
	require.Equal(t, 200, c.do("GET", "/api/session", nil, &me))
	assert.True(t, me.SecondFactor)

	x := c.another()
	status, says := in(x, "")
	assert.Equal(t, 428, status)
	assert.Contains(t, says, "your phone shows")
	assert.Equal(t, 401, x.do("GET", "/api/session", nil, nil), "half is nothing")
	status, says = in(x, "000 000")
	assert.Equal(t, 401, status)
	assert.Contains(t, says, "This code is not right")
	now := time.Now()
	status, _ = in(x, code(now))
	assert.Equal(t, 200, status)
	status, _ = in(c.another(), code(now))
	assert.Equal(t, 401, status, "a code counts once")
	status, _ = in(c.another(), spare.Codes[3])
	assert.Equal(t, 200, status)
	status, _ = in(c.another(), spare.Codes[3])
	assert.Equal(t, 401, status, "a spare code as well")

	// The right password in between does not make room for more guesses.
	y := c.another()
	seen := 0
	for range 20 {
		in(y, "")
		if status, _ = in(y, "111 111"); status == 429 {
			seen++
		}
	}
	assert.Positive(t, seen)
}

// Whoever asks for a code cannot be signed in by four digits; taken away, it is as before.
func TestASecondFactorAndThePIN(t *testing.T) {
	c, st := serve(t)
	c.signIn("wanda")
	require.Less(t, c.do("PUT", "/api/session/pin", map[string]string{"pin": "4071", "password": demo.Password}, nil), 300)
	require.Less(t, c.do("POST", "/api/devices", map[string]any{"id": store.NewID(), "name": "Tablet at the lift"}, nil), 300)
	u, err := st.UserByLogin(t.Context(), "wanda")
	require.NoError(t, err)
	pin := func() int {
		return c.do("POST", "/api/shift", map[string]string{"person": u.ID.String(), "pin": "4071"}, nil)
	}
	require.Equal(t, 200, pin())
	var f web.NewFactor
	require.Equal(t, 200, c.do("POST", "/api/session/factor", map[string]string{"password": demo.Password}, &f))
	x, err := totp.GenerateCode(f.Secret, time.Now())
	require.NoError(t, err)
	require.Equal(t, 200, c.do("PUT", "/api/session/factor", map[string]string{"code": x}, nil))
	assert.Equal(t, 403, pin())
	require.Less(t, c.do("DELETE", "/api/session/factor", map[string]string{"password": demo.Password}, nil), 300)
	assert.Equal(t, 200, pin())
}

// A workshop may ask its owners for a second factor: one without it does what technicians do and no more, whoever asks
// for it has one, and none of them drops it while it is asked for.
func TestOwnersWithoutACodeDoNothingThatOnlyOwnersDo(t *testing.T) {
	c, _ := serve(t)
	c.signIn("wanda")
	var set workshop.Settings
	require.Equal(t, 200, c.do("GET", "/api/settings/workshop", nil, &set))
	ask := func(c *client, on bool) (int, string) {
		var said struct{ Detail string }
		set.OwnersCode = on
		status := c.do("PUT", "/api/settings/workshop", set, &said)
		if status == 200 {
			require.Equal(t, 200, c.do("GET", "/api/settings/workshop", nil, &set))
		}
		return status, said.Detail
	}
	status, says := ask(c, true)
	assert.Equal(t, 422, status)
	assert.Contains(t, says, "shut yourself out")

	var other web.Invitation
	id := store.NewID().String()
	require.Equal(t, 200, c.do("POST", "/api/people", map[string]any{"id": id, "name": "Nell Marl", "login": "nell", "role": "owner"}, nil))
	require.Equal(t, 200, c.do("POST", "/api/people/"+id+"/invitation", nil, &other))
	nell := c.another()
	_, token, _ := strings.Cut(other.Path, "#")
	require.Equal(t, 200, nell.do("POST", "/api/invitation/accept",
		map[string]string{"token": token, "password": "seven-green-pears"}, nil))

	var f web.NewFactor
	require.Equal(t, 200, c.do("POST", "/api/session/factor", map[string]string{"password": demo.Password}, &f))
	code, err := totp.GenerateCode(f.Secret, time.Now())
	require.NoError(t, err)
	require.Equal(t, 200, c.do("PUT", "/api/session/factor", map[string]string{"code": code}, nil))
	assert.Equal(t, 200, nell.do("GET", "/api/people", nil, nil), "until it is asked for")
	status, _ = ask(c, true)
	require.Equal(t, 200, status)

	var said struct{ Detail string }
	assert.Equal(t, 403, nell.do("GET", "/api/record", nil, &said))
	assert.Contains(t, said.Detail, "set yours up under your name")
	assert.Equal(t, 403, nell.do("PUT", "/api/settings/workshop", set, nil), "nor takes the rule back")
	assert.Equal(t, 200, nell.do("GET", "/api/board", nil, nil), "what technicians do")
	assert.Equal(t, 409, c.do("DELETE", "/api/session/factor", map[string]string{"password": demo.Password}, &said))
	assert.Contains(t, said.Detail, "under Settings first")

	require.Equal(t, 200, nell.do("POST", "/api/session/factor", map[string]string{"password": "seven-green-pears"}, &f))
	code, err = totp.GenerateCode(f.Secret, time.Now())
	require.NoError(t, err)
	require.Equal(t, 200, nell.do("PUT", "/api/session/factor", map[string]string{"code": code}, nil))
	assert.Equal(t, 200, nell.do("GET", "/api/record", nil, nil), "at once, where they are signed in")

	status, _ = ask(c, false)
	require.Equal(t, 200, status)
	assert.Equal(t, 200, c.do("DELETE", "/api/session/factor", map[string]string{"password": demo.Password}, nil))
}
