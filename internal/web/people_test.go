package web_test

import (
	"bytes"
	"context"
	"encoding/json"
	"image"
	"image/jpeg"
	"io"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/netip"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/circuit"
	"corriente/internal/backup"
	"corriente/internal/demo"
	"corriente/internal/patience"
	"corriente/internal/people"
	"corriente/internal/report"
	"corriente/internal/store"
	"corriente/internal/testdb"
	"corriente/internal/web"
	"corriente/internal/workshop"
)

// another is somebody else at another browser.
func (c *client) another() *client {
	jar, err := cookiejar.New(nil)
	require.NoError(c.t, err)
	return &client{c.t, c.base, &http.Client{Jar: jar}, c.srv}
}

// Every role tries every operation: what the table refuses is refused, before anything of the request is read, and
// nothing else is refused for the role.
func TestRolesMayWhatTheTableSays(t *testing.T) {
	c, _ := serve(t)
	doc := c.srv.API()
	for _, u := range demo.Users {
		x := c.another()
		x.signIn(u[0])
		role := people.RoleOf(u[2])
		refused := 0
		for _, a := range c.srv.AccessTable() {
			if role.May(a.Right) {
				continue
			}
			refused++
			var p problem
			op := operation(doc, a.Method, a.Path)
			assert.Equal(t, 403, x.do(a.Method, at(a.Path, store.NewID().String())+requiredQuery(op), []byte("{"),
				&p), "%s %s by %s", a.Method, a.Path, u[2])
			assert.NotEmpty(t, p.Detail)
		}
		assert.Equal(t, map[string]bool{"owner": false, "technician": true, "trainee": true, "counter": true}[u[2]], refused > 0, u[2])
	}
}

// The table in the docs is the one that the server holds to.
func TestAccessTableStandsInTheDocs(t *testing.T) {
	want := web.AccessMarkdown()
	b, err := os.ReadFile("../../docs/access.md")
	require.NoError(t, err)
	assert.Equal(t, want, string(b), "write it anew: go run ./cmd/corriente access > docs/access.md")
}

func person(v web.PeopleView, login string) web.PersonView {
	for _, p := range v.People {
		if p.Login == login {
			return p
		}
	}
	return web.PersonView{}
}

// From being added to being suspended: a link that works once, a role that changes at once, a stream that ends.
func TestPersonComesAndGoes(t *testing.T) {
	c, _ := serve(t)
	c.signIn("wanda")
	var v web.PeopleView
	body := map[string]any{"id": store.NewID(), "login": "Nell", "name": " Nell  Sorrel ", "role": "counter"}
	require.Equal(t, 200, c.do("POST", "/api/people", body, &v))
	require.Equal(t, 200, c.do("POST", "/api/people", body, &v), "sent again")
	nell := person(v, "nell")
	assert.Equal(t, "Nell Sorrel", nell.Name)
	assert.False(t, nell.Ready)
	var p problem
	body["id"] = store.NewID()
	assert.Equal(t, 409, c.do("POST", "/api/people", body, &p))
	assert.Contains(t, p.Detail, "already")
	body["login"] = "néll"
	assert.Equal(t, 422, c.do("POST", "/api/people", body, &p))
	assert.Contains(t, p.Detail, `use "nell"`)

	var first, link web.Invitation
	require.Equal(t, 200, c.do("POST", "/api/people/"+nell.ID+"/invitation", nil, &first))
	require.Equal(t, 200, c.do("POST", "/api/people/"+nell.ID+"/invitation", nil, &link))
	token := func(l web.Invitation) string { return strings.TrimPrefix(l.Path, "/join#") }
	n := c.another()
	assert.Equal(t, 410, n.do("POST", "/api/invitation", map[string]string{"token": token(first)}, nil), "an older link ends")
	var whom struct{ Name, Login string }
	require.Equal(t, 200, n.do("POST", "/api/invitation", map[string]string{"token": token(link)}, &whom))
	assert.Equal(t, "Nell Sorrel", whom.Name)
	assert.Equal(t, 422, n.do("POST", "/api/invitation/accept", map[string]string{"token": token(link), "password": "nellsorrel"}, &p))
	assert.Contains(t, p.Detail, "first that are tried")
	var me web.Me
	require.Equal(t, 200, n.do("POST", "/api/invitation/accept",
		map[string]string{"token": token(link), "password": "plum ladder seven"}, &me))
	assert.Equal(t, []people.Right{people.See}, me.Rights)
	assert.Equal(t, 410, n.do("POST", "/api/invitation/accept",
		map[string]string{"token": token(link), "password": "plum ladder eight"}, &p))
	assert.Contains(t, p.Detail, "ask the owner")

	// A new role holds from the next request on.
	job := c.job("Rescue boat Coot").ID
	note := func() int {
		return n.do("POST", "/api/jobs/"+job+"/notes", map[string]any{"id": store.NewID(), "text": "Nell was here"}, nil)
	}
	assert.Equal(t, 403, note())
	require.Equal(t, 200, c.do("PUT", "/api/people/"+nell.ID,
		map[string]any{"name": "Nell Sorrel", "role": "technician", "suspended": false}, &v))
	assert.Equal(t, 200, note())

	events := n.listen("/api/events")
	wait(t, events, "hello", func(string) bool { return true })
	require.Equal(t, 200, c.do("PUT", "/api/people/"+nell.ID,
		map[string]any{"name": "Nell Sorrel", "role": "technician", "suspended": true}, &v))
	assert.True(t, person(v, "nell").Suspended)
	patience.Until(t, "the stream ends", func() bool {
		select {
		case _, open := <-events:
			return !open
		default:
			return false
		}
	})
	assert.Equal(t, 401, n.do("GET", "/api/board", nil, nil))
	assert.Equal(t, 403, n.do("POST", "/api/session", map[string]string{"login": "nell", "password": "plum ladder seven"}, &p))
	assert.Contains(t, p.Detail, "the owner can change that")
	assert.Equal(t, 422, c.do("POST", "/api/people/"+nell.ID+"/invitation", nil, nil))

	// The workshop keeps an owner.
	wanda := person(v, "wanda")
	for _, change := range []map[string]any{{"name": wanda.Name, "role": "technician", "suspended": false},
		{"name": wanda.Name, "role": "owner", "suspended": true}} {
		assert.Equal(t, 409, c.do("PUT", "/api/people/"+wanda.ID, change, &p))
		assert.Contains(t, p.Detail, "last owner")
	}
	var acts []web.ActView
	require.Equal(t, 200, c.do("GET", "/api/record", nil, &acts))
	assert.Equal(t, "Suspended Nell Sorrel.", acts[0].Says)
	assert.Equal(t, wanda.Name, acts[0].By)
	assert.Contains(t, acts[len(acts)-1].Says, "Added Nell Sorrel as counter")
}

// What people change about themselves: a new password signs every other place out.
func TestOwnPasswordAndPlaces(t *testing.T) {
	c, _ := serve(t)
	c.signIn("pip")
	phone := c.another()
	phone.signIn("pip")
	var places []web.Place
	require.Equal(t, 200, c.do("GET", "/api/session/places", nil, &places))
	require.Len(t, places, 2)
	var p problem
	assert.Equal(t, 422, c.do("PUT", "/api/session/password", map[string]string{"old": "wrong", "new": "plum ladder seven"}, &p))
	assert.Contains(t, p.Detail, "not your password")
	assert.Equal(t, 422, c.do("PUT", "/api/session/password", map[string]string{"old": demo.Password, "new": "short"}, &p))
	assert.Contains(t, p.Detail, "at least 10")
	require.Equal(t, 200, c.do("PUT", "/api/session/password", map[string]string{"old": demo.Password, "new": "plum ladder seven"}, nil))
	assert.Equal(t, 401, phone.do("GET", "/api/session", nil, nil))
	assert.Equal(t, 200, c.do("GET", "/api/session", nil, nil))
	require.Equal(t, 200, phone.do("POST", "/api/session", map[string]string{"login": "pip", "password": "plum ladder seven"}, nil))
	require.Equal(t, 200, c.do("GET", "/api/session/places", nil, &places))
	for _, x := range places {
		if !x.Here {
			require.Equal(t, 200, c.do("DELETE", "/api/session/places/"+x.ID, nil, &places))
		}
	}
	assert.Len(t, places, 1)
	assert.Equal(t, 401, phone.do("GET", "/api/session", nil, nil))
	var me web.Me
	require.Equal(t, 200, c.do("PUT", "/api/session/name", map[string]string{"name": "Pip\u200b  Marl"}, &me))
	assert.Equal(t, "Pip Marl", me.Name)
	require.Equal(t, 200, c.do("PUT", "/api/session/preferences", map[string]any{"dark": true, "text": "large"}, nil))
	require.Equal(t, 200, c.do("GET", "/api/session", nil, &me))
	assert.True(t, me.Preferences.Dark)
}

// A tablet that several people share: only where the owner admitted it, limited in tries, under the right name.
func TestSharedDevice(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	var p problem
	assert.Equal(t, 422, c.do("PUT", "/api/session/pin", map[string]string{"pin": "1234", "password": demo.Password}, &p))
	require.Equal(t, 200, c.do("PUT", "/api/session/pin", map[string]string{"pin": "4071", "password": demo.Password}, nil))
	var me web.Me
	require.Equal(t, 200, c.do("GET", "/api/session", nil, &me))
	pin := map[string]string{"person": me.ID, "pin": "4071"}
	assert.Equal(t, 403, c.another().do("POST", "/api/shift", pin, &p))
	assert.Contains(t, p.Detail, "not admitted")
	var shift web.SharedView
	require.Equal(t, 200, c.another().do("GET", "/api/shift", nil, &shift))
	assert.Empty(t, shift.People, "names are for admitted devices")

	tablet := c.another()
	tablet.signIn("wanda")
	var v web.PeopleView
	require.Equal(t, 200, tablet.do("POST", "/api/devices", map[string]any{"id": store.NewID(), "name": "Tablet at the lift"}, &v))
	require.Equal(t, 204, tablet.do("DELETE", "/api/session", nil, nil))
	require.Equal(t, 200, tablet.do("GET", "/api/shift", nil, &shift))
	require.Len(t, shift.People, 1)
	assert.Equal(t, 401, tablet.do("POST", "/api/shift", map[string]string{"person": me.ID, "pin": "4072"}, &p))
	require.Equal(t, 200, tablet.do("POST", "/api/shift", pin, &me))
	assert.Equal(t, "jory", me.Login)
	assert.Equal(t, "Tablet at the lift", me.Device)
	for range 9 {
		tablet.do("POST", "/api/shift", map[string]string{"person": me.ID, "pin": "0000"}, nil)
	}
	assert.Equal(t, 429, tablet.do("POST", "/api/shift", pin, nil))
	assert.Equal(t, 200, c.another().do("POST", "/api/session",
		map[string]string{"login": "jory", "password": demo.Password}, nil), "the password's own count is not the PIN's")

	owner := c.another()
	owner.signIn("wanda")
	require.Equal(t, 200, owner.do("DELETE", "/api/devices/"+v.Devices[0].ID, nil, &v))
	assert.Empty(t, v.Devices)
	assert.Equal(t, 403, tablet.do("POST", "/api/shift", pin, nil))
}

// Two change the settings at once: the second is told, and nothing of the first is lost. Papers say what they say.
func TestWorkshopSettings(t *testing.T) {
	c, _ := serve(t)
	c.signIn("wanda")
	var was, x workshop.Settings
	require.Equal(t, 200, c.do("GET", "/api/settings/workshop", nil, &was))
	assert.Contains(t, was.Name, "orchard cooperative", "the name it had before there were settings")
	mine := was
	mine.Name, mine.Address, mine.Currency, mine.Tax, mine.Foot, mine.TimeZone = "Orchard workshop",
		"Landing stage 2\n\n By the lake ", "chf", 8.1, "Thank you.", "Pacific/Auckland"
	require.Equal(t, 200, c.do("PUT", "/api/settings/workshop", mine, &x))
	assert.Equal(t, "CHF", x.Currency)
	assert.Equal(t, "Landing stage 2\nBy the lake", x.Address)
	var p problem
	theirs := was
	theirs.Name = "Another"
	assert.Equal(t, 412, c.do("PUT", "/api/settings/workshop", theirs, &p))
	assert.Contains(t, p.Detail, "Somebody else")
	for _, wrong := range []func(*workshop.Settings){
		func(s *workshop.Settings) { s.Name = "  " }, func(s *workshop.Settings) { s.Currency = "XQZ" },
		func(s *workshop.Settings) { s.TimeZone = "Lake/Shore" }, func(s *workshop.Settings) { s.HourRate = -1 },
	} {
		bad := x
		wrong(&bad)
		assert.Equal(t, 422, c.do("PUT", "/api/settings/workshop", bad, &p), "%+v", bad)
	}
	var paper struct{ Workshop, Address, Foot string }
	require.Equal(t, 200, c.do("GET", "/api/jobs/"+c.job("Rescue boat Coot").ID+"/paper", nil, &paper))
	assert.Equal(t, "Orchard workshop", paper.Workshop)
	assert.Contains(t, paper.Address, "By the lake")
	assert.Contains(t, paper.Foot, "Thank you.")
}

// Papers write figures as the workshop does, with its logo; what a person typed stays as it was
// typed.
func TestPapersInTheWorkshopsOwnWriting(t *testing.T) {
	c, _ := serve(t)
	c.signIn("wanda")
	path := "/api/jobs/" + c.job("Cider press lorry").ID
	note := "end play 0.3 mm at 20 °C"
	require.Equal(t, 200, c.do("POST", path+"/notes", map[string]any{"id": store.NewID(), "text": note}, nil))
	file := func() string {
		code, pdf := c.raw(t, "GET", path+"/report/file", nil)
		require.Equal(t, 200, code)
		return pdf
	}
	plain := file()
	assert.NotContains(t, plain, "/Subtype /Image")

	var s workshop.Settings
	require.Equal(t, 200, c.do("GET", "/api/settings/workshop", nil, &s))
	s.Imperial, s.Comma, s.Logo = true, true, store.NewID().String()
	var pic bytes.Buffer
	require.NoError(t, jpeg.Encode(&pic, image.NewGray(image.Rect(0, 0, 60, 20)), nil))
	code, said := c.raw(t, "PUT", "/api/photos/"+s.Logo+"/upload?at=0&size="+strconv.Itoa(pic.Len()), pic.Bytes())
	require.Equal(t, 200, code, said)
	require.Equal(t, 200, c.do("PUT", "/api/settings/workshop", s, &s))
	assert.Contains(t, file(), "/Subtype /Image", "the logo")
	var paper report.Paper
	require.Equal(t, 200, c.do("GET", path+"/paper", nil, &paper))
	assert.Equal(t, s.Logo, paper.Logo)

	dir := t.TempDir()
	words := func(pdf string) string {
		at := filepath.Join(dir, "file.pdf")
		require.NoError(t, os.WriteFile(at, []byte(pdf), 0o600))
		out, err := exec.Command("pdftotext", "-layout", at, "-").Output()
		require.NoError(t, err)
		return string(out)
	}
	was, now := words(plain), words(file())
	assert.Contains(t, was, "12.1 A")
	assert.Contains(t, now, "12,1 A")
	assert.NotContains(t, now, "12.1 A")
	assert.Contains(t, now, note)

	s.Logo = "picture.jpg"
	var p problem
	assert.Equal(t, 422, c.do("PUT", "/api/settings/workshop", s, &p))
	assert.Contains(t, p.Detail, "choose it again")
}

// A fresh installation is set up by whoever reads the code where it was started, and by nobody else; sent again it
// is the same workshop.
func TestSetUp(t *testing.T) {
	st := testdb.Open(t)
	s := web.New(st, web.Options{Log: slog.New(slog.DiscardHandler), Timeout: patience.Limit(), SetupCode: "K4R2-9TXW"})
	srv := httptest.NewServer(s)
	t.Cleanup(func() { srv.Close(); s.Close() })
	c := (&client{t, srv.URL, nil, s}).another()
	var need web.Setup
	require.Equal(t, 200, c.do("GET", "/api/setup", nil, &need))
	require.True(t, need.Needed)
	in := web.SetupIn{Code: "K4R2-9TXX", ID: store.NewID().String(), Login: "ida", Name: "Ida Fenn",
		Password: "plum ladder seven", Workshop: workshop.Settings{Name: "Ida's", Currency: "EUR", HourRate: 60}}
	var p problem
	assert.Equal(t, 403, c.do("POST", "/api/setup", in, &p))
	assert.Contains(t, p.Detail, "not the code")
	in.Code, in.Password = " k4r2-9txw ", "password123"
	assert.Equal(t, 422, c.do("POST", "/api/setup", in, &p))
	in.Password = "plum ladder seven"
	var me web.Me
	require.Equal(t, 200, c.do("POST", "/api/setup", in, &me))
	assert.Equal(t, "owner", me.Role)
	assert.Equal(t, "EUR", me.Workshop.Currency)
	require.Equal(t, 200, c.do("POST", "/api/setup", in, &me), "sent again")
	in.ID = store.NewID().String()
	assert.Equal(t, 409, c.another().do("POST", "/api/setup", in, &p))
	require.Equal(t, 200, c.do("GET", "/api/setup", nil, &need))
	assert.False(t, need.Needed)
	for range 9 {
		in.Code = "AAAA-AAAA"
		c.do("POST", "/api/setup", in, nil)
	}
	assert.Equal(t, 429, c.do("POST", "/api/setup", in, nil))
}

// Behind a proxy that is trusted, tries are counted by the address it names; nobody else is believed.
func TestAddressBehindProxy(t *testing.T) {
	from, err := loaded()
	require.NoError(t, err)
	for _, trusted := range []bool{true, false} {
		st := testdb.Copy(t, from)
		o := web.Options{Log: slog.New(slog.DiscardHandler), Timeout: patience.Limit()}
		if trusted {
			o.Proxies = []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}
		}
		s := web.New(st, o)
		last := 0
		for i := range 45 {
			r := httptest.NewRequest("POST", "/api/session",
				strings.NewReader(`{"login":"nobody`+string(rune('a'+i%26))+string(rune('a'+i/26))+`","password":"x"}`))
			r.RemoteAddr = "127.0.0.1:4711"
			r.Header.Set("Content-Type", "application/json")
			r.Header.Set("X-Forwarded-For", "10.1.1.1, 192.0.2."+string(rune('0'+i%10))+", 127.0.0.1")
			w := httptest.NewRecorder()
			s.ServeHTTP(w, r)
			last = w.Code
		}
		assert.Equal(t, map[bool]int{true: 401, false: 429}[trusted], last, "trusted %v", trusted)
		s.Close()
	}
}

// Past the proxy nobody comes in unencrypted.
func TestNobodyComesPastTheProxy(t *testing.T) {
	s := web.New(testdb.Open(t), web.Options{Log: slog.New(slog.DiscardHandler),
		Proxies: []netip.Prefix{netip.MustParsePrefix("10.0.0.2/32")}})
	t.Cleanup(s.Close)
	for from, want := range map[string]int{"10.0.0.2:4711": 200, "127.0.0.1:4711": 200, "192.168.1.9:4711": 403,
		"10.0.0.3:4711": 403, "nonsense": 403} {
		r := httptest.NewRequest("GET", "/healthz", nil)
		r.RemoteAddr = from
		w := httptest.NewRecorder()
		s.ServeHTTP(w, r)
		assert.Equal(t, want, w.Code, from)
	}
}

func TestLinksEnd(t *testing.T) {
	c, st := serve(t)
	u, err := st.UserByLogin(t.Context(), "pip")
	require.NoError(t, err)
	require.NoError(t, st.Invite(t.Context(), u.ID, [32]byte{1}, time.Now().Add(-time.Second), store.Act{}))
	_, err = st.Invited(t.Context(), [32]byte{1})
	assert.ErrorIs(t, err, store.ErrExpired)
	_, err = st.Accept(t.Context(), [32]byte{2}, "x")
	assert.ErrorIs(t, err, store.ErrExpired)
	c.signIn("pip")
}

// A new installation takes a backup instead of a new owner, by the same code; what is no backup changes nothing.
func TestANewInstallationTakesABackup(t *testing.T) {
	from, err := loaded()
	require.NoError(t, err)
	cfg, err := mysql.ParseDSN(testdb.DSNOf(t, from))
	require.NoError(t, err)
	var file bytes.Buffer
	require.NoError(t, backup.Write(t.Context(), cfg, &file))
	st := testdb.Open(t)
	to, err := mysql.ParseDSN(testdb.DSNOf(t, st))
	require.NoError(t, err)
	s := web.New(st, web.Options{Log: slog.New(slog.DiscardHandler), Timeout: patience.Limit(), SetupCode: "K4R2-9TXW",
		Restore: func(ctx context.Context, r io.Reader) (*backup.Summary, error) {
			return backup.Restore(ctx, to, r, nil)
		}})
	srv := httptest.NewServer(s)
	t.Cleanup(func() { srv.Close(); s.Close() })
	c := (&client{t, srv.URL, nil, s}).another()
	put := func(code string, body []byte) (int, string) {
		req, err := http.NewRequest("POST", c.base+"/api/setup/restore", bytes.NewReader(body))
		require.NoError(t, err)
		req.Header.Set("Setup-Code", code)
		res, err := c.http.Do(req)
		require.NoError(t, err)
		defer res.Body.Close()
		b, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res.StatusCode, string(b)
	}
	code, says := put("AAAA-AAAA", file.Bytes())
	assert.Equal(t, 403, code)
	assert.Contains(t, says, "not the code")
	for _, bad := range [][]byte{nil, []byte("a shopping list"), file.Bytes()[:file.Len()/2]} {
		code, says = put("K4R2-9TXW", bad)
		assert.Equal(t, 422, code, says)
		assert.Contains(t, says, "nothing was changed")
	}
	code, says = put("K4R2-9TXW", file.Bytes())
	require.Equal(t, 200, code, says)
	c.signIn("wanda")
	c.job("Rescue boat Coot")
	code, says = put("K4R2-9TXW", file.Bytes())
	assert.Equal(t, 409, code, says)
}

// The demo is loaded for a look and taken out again: the workshop is as it was, its people and settings with it.
func TestDemoForALook(t *testing.T) {
	st := testdb.Open(t)
	s := web.New(st, web.Options{Log: slog.New(slog.DiscardHandler), Timeout: patience.Limit(),
		SetupCode: "K4R2-9TXW", Demo: web.Demo{Load: demo.LoadForLook, People: demo.People()}})
	srv := httptest.NewServer(s)
	t.Cleanup(func() { srv.Close(); s.Close() })
	c := (&client{t, srv.URL, nil, s}).another()
	require.Equal(t, 200, c.do("POST", "/api/setup",
		web.SetupIn{Code: "K4R2-9TXW", ID: store.NewID().String(), Login: "jory", Name: "Jory Fenn",
			Password: "plum ladder seven", Workshop: workshop.Settings{Name: "Ours", HourRate: 60}}, nil))
	var before, h web.House
	require.Equal(t, 200, c.do("GET", "/api/house", nil, &before))
	assert.True(t, before.MayDemo)
	require.Equal(t, 200, c.do("POST", "/api/house/demo", nil, &h))
	assert.True(t, h.Demo)
	assert.Equal(t, 1, h.People, "the demo's people cannot sign in")
	assert.Equal(t, 401, c.another().do("POST", "/api/session", map[string]string{"login": "demo-wanda", "password": demo.Password}, nil))
	assert.Equal(t, 401, c.another().do("POST", "/api/session", map[string]string{"login": "jory", "password": demo.Password}, nil))
	job := c.job("Rescue boat Coot")
	require.Equal(t, 200, c.do("POST", "/api/jobs/"+job.ID+"/notes", map[string]any{"id": store.NewID(), "text": "tried"}, nil))
	assert.Equal(t, 409, c.do("POST", "/api/house/demo", nil, nil), "not twice")
	require.Equal(t, 200, c.do("DELETE", "/api/house/demo", nil, &h))
	require.Equal(t, 200, c.do("DELETE", "/api/house/demo", nil, &h), "sent again")
	assert.Equal(t, before, h)
	var rows []web.Row
	require.Equal(t, 200, c.do("GET", "/api/board?all=true", nil, &rows))
	assert.Empty(t, rows)
	for table, n := range counts(t, st) {
		switch table {
		case "users", "settings", "sign_ins":
			assert.Equal(t, 1, n, table)
		case "sessions", "acts", "sign_in_attempts", "goose_db_version":
		default:
			assert.Zero(t, n, table)
		}
	}
	// Work of one's own is never taken for the demo.
	require.Equal(t, 200, c.do("POST", "/api/jobs",
		map[string]any{"id": store.NewID(), "machine_id": store.NewID(), "new_machine": "Punt", "kind": "boat",
			"circuit": "starter", "complaint": "one clunk"}, nil))
	assert.Equal(t, 409, c.do("POST", "/api/house/demo", nil, nil))
	require.Equal(t, 200, c.do("DELETE", "/api/house/demo", nil, nil))
	require.Equal(t, 200, c.do("GET", "/api/board", nil, &rows))
	assert.Len(t, rows, 1)
}

// Two change one machine, or say what cannot be reached, from the same page: the second is told, or both are kept.
func TestNobodyOverwritesAnotherUnseen(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	other := c.another()
	other.signIn("wanda")
	job := c.job("Rescue boat Coot")
	path := "/api/machines/" + job.Machine.ID
	mine := web.MachineIn{Name: job.Machine.Name, Kind: job.Machine.Kind, Place: "slipway", Revision: job.Machine.Revision}
	theirs := mine
	theirs.Place = "boathouse"
	var m web.Machine
	require.Equal(t, 200, other.do("PUT", path, theirs, &m))
	var p problem
	assert.Equal(t, 412, c.do("PUT", path, mine, &p))
	assert.Contains(t, p.Detail, "Somebody else")
	require.Equal(t, 200, other.do("PUT", path, theirs, &m), "sent again")
	assert.Equal(t, "boathouse", m.Place)
	mine.Revision = m.Revision
	require.Equal(t, 200, c.do("PUT", path, mine, &m))

	var j web.JobView
	require.Equal(t, 200, c.do("PATCH", "/api/jobs/"+job.ID, map[string]any{"cannot_reach": "motor"}, &j))
	require.Equal(t, 200, other.do("PATCH", "/api/jobs/"+job.ID, map[string]any{"cannot_reach": "battery"}, &j))
	require.Equal(t, 200, other.do("PATCH", "/api/jobs/"+job.ID, map[string]any{"cannot_reach": "battery"}, &j), "sent again")
	assert.ElementsMatch(t, []string{"motor", "battery"}, j.Unreachable)
	require.Equal(t, 200, c.do("PATCH", "/api/jobs/"+job.ID, map[string]any{"can_reach": "motor"}, &j))
	assert.Equal(t, []string{"battery"}, j.Unreachable)
}

// The same for a circuit of one's own, by its ETag.
func TestOwnCircuitIsNotOverwrittenUnseen(t *testing.T) {
	c, _ := serve(t)
	c.signIn("jory")
	var edited web.Edited
	require.Equal(t, 200, c.do("POST", "/api/circuits/edit",
		map[string]any{"circuit": family(t, "wiper"),
			"edit": map[string]any{"op": "copy", "id": "own_wiper", "label": "Our wiper"}}, &edited))
	put := func(title, tag string) (int, string) {
		edited.Circuit.Title = title
		b, err := json.Marshal(edited.Circuit)
		require.NoError(t, err)
		req, err := http.NewRequest("PUT", c.base+"/api/circuits", bytes.NewReader(b))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		if tag != "" {
			req.Header.Set("If-Match", tag)
		}
		res, err := c.http.Do(req)
		require.NoError(t, err)
		res.Body.Close()
		return res.StatusCode, res.Header.Get("ETag")
	}
	code, first := put("Our wiper", "")
	require.Equal(t, 200, code)
	code, second := put("Our wiper, theirs", first)
	require.Equal(t, 200, code)
	assert.NotEqual(t, first, second)
	code, _ = put("Our wiper, theirs", first)
	assert.Equal(t, 200, code, "sent again")
	code, _ = put("Our wiper, mine", first)
	assert.Equal(t, 412, code)
	code, _ = put("Our wiper, mine", second)
	assert.Equal(t, 200, code)
}

func family(t *testing.T, id string) *circuit.Circuit {
	t.Helper()
	c, err := circuit.Family(id)
	require.NoError(t, err)
	return c
}
