package web_test

import (
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/core/meter"
	"corriente/internal/patience"
	"corriente/internal/scpi"
	"corriente/internal/store"
	"corriente/internal/testdb"
	"corriente/internal/web"
)

// An apprentice zeroes meters and cannot say where they are reached; whoever may gets no
// further than the gate lets them.
func TestWhereMetersAreReached(t *testing.T) {
	c, _ := serveWith(t, scpi.Gate{Never: []netip.AddrPort{netip.MustParseAddrPort("127.0.0.1:5555")}})
	view := func(id, addr string, leads float64) web.InstrumentView {
		return web.InstrumentView{ID: id, Name: "Green meter", Kind: string(meter.Handheld().Kind), Percent: 0.5,
			Counts: 2, Digit: 0.01, OhmDigit: 0.1, Address: addr, LeadsOhm: leads}
	}
	id := store.NewID().String()
	var p problem
	c.signIn("pip")
	assert.Equal(t, 403, c.do("PUT", "/api/instruments", view(id, "192.168.1.20:5025", 0), &p))
	assert.Contains(t, p.Detail, "technician or the owner")
	c.signIn("jory")
	for addr, says := range map[string]string{"127.0.0.1:5555": "application itself",
		"169.254.169.254:5025": "no address", "203.0.113.7:5025": "own network", "192.168.1.20:22": "port 22",
		"the meter":   "192.168.1.20:5025, or the serial line",
		"/etc/passwd": "no serial line", "/dev/../etc/passwd": "no serial line"} {
		require.Equal(t, 422, c.do("PUT", "/api/instruments", view(id, addr, 0), &p), addr)
		assert.Contains(t, p.Detail, says, addr)
	}
	require.Equal(t, 200, c.do("PUT", "/api/instruments", view(id, "192.168.1.20:5025", 0), nil))
	c.signIn("pip")
	require.Equal(t, 200, c.do("PUT", "/api/instruments", view(id, "192.168.1.20:5025", 0.2), nil), "zeroing is open to everybody")
	assert.Equal(t, 403, c.do("PUT", "/api/instruments", view(id, "", 0.2), &p))
}

// Over HTTPS the session's cookie is for this host alone, browsers are told to stay with HTTPS,
// and no answer with data is kept by them.
func TestWhatBrowsersAreTold(t *testing.T) {
	from, err := loaded()
	require.NoError(t, err)
	s := web.New(testdb.Copy(t, from), web.Options{Log: slog.New(slog.DiscardHandler), Timeout: patience.Limit(), Secure: true})
	t.Cleanup(s.Close)
	at := httptest.NewTLSServer(s)
	t.Cleanup(at.Close)
	res, err := at.Client().Post(at.URL+"/api/session", "application/json",
		strings.NewReader(`{"login":"jory","password":"apple-blossom"}`))
	require.NoError(t, err)
	defer res.Body.Close()
	require.Equal(t, 200, res.StatusCode)
	require.NotEmpty(t, res.Cookies())
	k := res.Cookies()[0]
	assert.Equal(t, "__Host-corriente", k.Name)
	assert.True(t, k.Secure && k.HttpOnly && k.Path == "/" && k.Domain == "" && k.SameSite == http.SameSiteLaxMode)
	assert.Contains(t, res.Header.Get("Strict-Transport-Security"), "max-age=")
	assert.Equal(t, "no-store", res.Header.Get("Cache-Control"))
}
