package main

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"log/slog"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"regexp"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"corriente/internal/backup"
)

// pair writes a certificate that somebody else issued, and its key.
func pair(t *testing.T, dir, name string, until time.Time) (cert, key string) {
	t.Helper()
	k, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	c := &x509.Certificate{SerialNumber: big.NewInt(1), Subject: pkix.Name{CommonName: name},
		DNSNames: []string{name}, NotBefore: until.Add(-48 * time.Hour), NotAfter: until}
	der, err := x509.CreateCertificate(rand.Reader, c, c, k.Public(), k)
	require.NoError(t, err)
	kb, err := x509.MarshalPKCS8PrivateKey(k)
	require.NoError(t, err)
	cert, key = filepath.Join(dir, name+".pem"), filepath.Join(dir, name+"-key.pem")
	require.NoError(t, os.WriteFile(cert, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}), 0o600))
	require.NoError(t, os.WriteFile(key, pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: kb}), 0o600))
	return cert, key
}

// The network is served over HTTPS whatever is forgotten; this machine's own address and a proxy's are not encrypted
// twice; what does not fit together is said in a sentence before anything starts.
func TestHowAnAddressIsServed(t *testing.T) {
	dir := t.TempDir()
	good, goodKey := pair(t, dir, "bench.example", time.Now().Add(time.Hour))
	other, otherKey := pair(t, dir, "other.example", time.Now().Add(time.Hour))
	old, oldKey := pair(t, dir, "old.example", time.Now().Add(-time.Hour))
	for _, x := range []struct {
		name   string
		f      serveFlags
		tls    bool
		own    bool
		secure bool
		wrong  string
	}{
		{name: "this machine", f: serveFlags{addr: "127.0.0.1:8080"}},
		{name: "this machine, by name", f: serveFlags{addr: "localhost:8080"}},
		{name: "the network", f: serveFlags{addr: "0.0.0.0:443"}, tls: true, own: true, secure: true},
		{name: "the network, no host", f: serveFlags{addr: ":443"}, tls: true, own: true, secure: true},
		{name: "one address", f: serveFlags{addr: "192.168.1.7:443"}, tls: true, own: true, secure: true},
		{name: "a given certificate", f: serveFlags{addr: "0.0.0.0:443", tlsCert: good, tlsKey: goodKey}, tls: true, secure: true},
		{name: "behind a proxy", f: serveFlags{addr: "0.0.0.0:8080", proxies: []string{"10.0.0.2", "fd00::/8"}}, secure: true},
		{name: "no proxy", f: serveFlags{addr: ":1", proxies: []string{"the proxy"}}, wrong: `"the proxy" is no address`},
		{name: "half a pair", f: serveFlags{addr: ":1", tlsCert: good}, wrong: "belong together"},
		{name: "of two pairs", f: serveFlags{addr: ":1", tlsCert: other, tlsKey: goodKey}, wrong: "do not go together"},
		{name: "ended", f: serveFlags{addr: ":1", tlsCert: old, tlsKey: oldKey}, wrong: "ended on"},
		{name: "not there", f: serveFlags{addr: ":1", tlsCert: good, tlsKey: filepath.Join(dir, "none")}, wrong: "cannot be read"},
		{name: "twice", f: serveFlags{addr: ":1", tlsCert: other, tlsKey: otherKey, proxies: []string{"10.0.0.2"}},
			wrong: "give one of them"},
		{name: "the demo on the network", f: serveFlags{addr: "0.0.0.0:8080", knownPasswords: true}, wrong: "known to everybody"},
		{name: "the demo here", f: serveFlags{addr: "127.0.0.1:8080", knownPasswords: true}},
	} {
		t.Run(x.name, func(t *testing.T) {
			x.f.data = t.TempDir()
			e, err := x.f.encrypt()
			if x.wrong != "" {
				assert.ErrorContains(t, err, x.wrong)
				return
			}
			require.NoError(t, err)
			assert.Equal(t, x.tls, e.tls != nil)
			assert.Equal(t, x.own, e.own != nil)
			assert.Equal(t, x.secure, e.secure())
		})
	}
}

func TestTheDemoRefusesTheNetwork(t *testing.T) {
	assert.Equal(t, 2, run(t.Context(), []string{"demo", "--addr", "0.0.0.0:0", "--data", t.TempDir()}))
}

func TestWherePlainHTTPExplains(t *testing.T) {
	assert.Equal(t, "0.0.0.0:80", (&serveFlags{addr: "0.0.0.0:443"}).plainAddr("0.0.0.0:443"))
	assert.Empty(t, (&serveFlags{addr: "0.0.0.0:8443"}).plainAddr("0.0.0.0:8443"), "the port itself explains")
	assert.Equal(t, ":8000", (&serveFlags{addr: "0.0.0.0:443", plain: ":8000"}).plainAddr("0.0.0.0:443"))
}

func TestSetupCodes(t *testing.T) {
	seen := map[string]bool{}
	for range 200 {
		c, err := setupCode()
		require.NoError(t, err)
		assert.Regexp(t, regexp.MustCompile(`^[A-HJ-NP-Z2-9]{4}-[A-HJ-NP-Z2-9]{4}$`), c)
		seen[c] = true
	}
	assert.Len(t, seen, 200)
}

func TestBackupsOfTheDemoAreNotKept(t *testing.T) {
	cfg, err := mysql.ParseDSN("corriente:x@tcp(127.0.0.1:1)/corriente")
	require.NoError(t, err)
	k, err := (&serveFlags{data: t.TempDir(), knownPasswords: true}).keeper(cfg, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	assert.Nil(t, k)
	k, err = (&serveFlags{data: t.TempDir(), backups: "none"}).keeper(cfg, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	assert.Nil(t, k)
	dir := filepath.Join(t.TempDir(), "kept")
	k, err = (&serveFlags{data: t.TempDir(), backups: dir}).keeper(cfg, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	assert.Equal(t, dir, k.State().Dir)
	assert.DirExists(t, dir)
}

// The doctor says what is wrong in sentences, and looks at nothing twice.
func TestDoctor(t *testing.T) {
	dir := t.TempDir()
	assert.ErrorContains(t, folder(filepath.Join(dir, "none")), "first start makes it")
	assert.NoError(t, folder(dir))
	file := filepath.Join(dir, "file")
	require.NoError(t, os.WriteFile(file, []byte("torn"), 0o600))
	assert.ErrorContains(t, folder(file), "it is a file")
	assert.NoError(t, rooted(filepath.Join(dir, "no authority"), time.Now()))
	assert.ErrorContains(t, rooted(file, time.Now()), "torn")
	cert, _ := pair(t, dir, "root.example", time.Now().Add(24*time.Hour))
	assert.ErrorContains(t, rooted(cert, time.Now()), "it ends on")
	assert.NoError(t, rooted(cert, time.Now().Add(-365*24*time.Hour)))
	assert.ErrorContains(t, fresh(dir, time.Now()), "there is none")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "corriente-2026-01-02-030405.backup"), nil, 0o600))
	assert.ErrorContains(t, fresh(dir, time.Now()), "2 January 2026")
	assert.NoError(t, fresh(dir, backup.StateOf(dir).Last.Add(time.Hour)))
	var wrong []string
	for _, x := range (&serveFlags{data: filepath.Join(dir, "none")}).examine(t.Context()) {
		if x.wrong != "" {
			wrong = append(wrong, x.what)
		}
	}
	assert.Contains(t, wrong, "the application")
}

func TestReachable(t *testing.T) {
	assert.Equal(t, "127.0.0.1:8080", reachable(&net.TCPAddr{IP: net.IPv4(127, 0, 0, 1), Port: 8080}, &encryption{}))
	h, err := os.Hostname()
	require.NoError(t, err)
	assert.Equal(t, net.JoinHostPort(h, "443"), reachable(&net.TCPAddr{IP: net.IPv6unspecified, Port: 443}, &encryption{}))
}

// The gate for meters knows where the application and its database are, and says which port is
// none instead of leaving it out.
func TestWhereMetersMayBe(t *testing.T) {
	hosts := []string{"127.0.0.1:5025"}
	g, err := (&serveFlags{addr: "0.0.0.0:5024", meterPorts: list("9001, 9002")}).meters(hosts)
	require.NoError(t, err)
	for at, ok := range map[string]bool{"192.168.1.20:9002": true, "192.168.1.20:5025": true, "127.0.0.1:5025": false,
		"127.0.0.1:5024": false, "192.168.1.20:22": false, "/dev/ttyUSB0": true, "/dev/pts/3": false,
		"/etc/passwd": false, "meter": false} {
		assert.Equal(t, ok, g.Check(at) == nil, at)
	}
	for _, wrong := range []string{"scpi", "0", "70000", "-1"} {
		_, err := (&serveFlags{meterPorts: []string{wrong}}).meters(hosts)
		assert.ErrorContains(t, err, wrong)
	}
}
