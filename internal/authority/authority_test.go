package authority

import (
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func names(h ...string) func() []string { return func() []string { return h } }

// A client that was given the authority reaches this machine by name and address, and trusts nothing else of it.
func TestClientTrustsThisMachine(t *testing.T) {
	dir := t.TempDir()
	a, err := Open(dir, names("localhost", "Bench.Local", "192.168.7.20", "127.0.0.1", "198.51.100.4", "example.com"))
	require.NoError(t, err)
	assert.Equal(t, []string{"127.0.0.1", "192.168.7.20", "bench.local", "localhost"}, a.Covered(),
		"a public name or address is none of the workshop's own")
	srv := httptest.NewUnstartedServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(204) }))
	srv.TLS = &tls.Config{GetCertificate: a.Certificate}
	srv.StartTLS()
	defer srv.Close()
	root, err := x509.ParseCertificate(a.Root())
	require.NoError(t, err)
	pool := x509.NewCertPool()
	pool.AddCert(root)
	client := &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{RootCAs: pool, ServerName: "bench.local"}}}
	// httptest brings a certificate of its own, which stands before GetCertificate only where no name is asked for.
	res, err := client.Get(srv.URL)
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, 204, res.StatusCode)
	leaf, err := a.Certificate(nil)
	require.NoError(t, err)
	for host, ok := range map[string]bool{"bench.local": true, "192.168.7.20": true, "example.com": false, "198.51.100.4": false} {
		_, err := leaf.Leaf.Verify(x509.VerifyOptions{Roots: pool, DNSName: host})
		assert.Equal(t, ok, err == nil, "%s: %v", host, err)
	}
	// Whoever steals the key cannot pose as the rest of the world.
	stolen, err := a.sign([]string{"example.com"})
	require.NoError(t, err)
	_, err = stolen.Leaf.Verify(x509.VerifyOptions{Roots: pool, DNSName: "example.com"})
	assert.ErrorContains(t, err, "not permitted")
}

// The judge of certificates that is not ours: OpenSSL takes the chain.
func TestOpenSSLTakesTheChain(t *testing.T) {
	if _, err := exec.LookPath("openssl"); err != nil {
		t.Skip("openssl is not here")
	}
	dir := t.TempDir()
	a, err := Open(dir, names("localhost", "10.0.0.9"))
	require.NoError(t, err)
	leaf, err := a.Certificate(nil)
	require.NoError(t, err)
	file := filepath.Join(dir, "leaf.pem")
	require.NoError(t, os.WriteFile(file, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: leaf.Certificate[0]}), 0o600))
	out, err := exec.Command("openssl", "verify", "-x509_strict", "-purpose", "sslserver", "-verify_ip", "10.0.0.9",
		"-CAfile", filepath.Join(dir, rootFile), file).CombinedOutput()
	assert.NoError(t, err, string(out))
}

// It stays the same over a restart, and the certificate follows the machine's addresses and the calendar.
func TestRenewal(t *testing.T) {
	dir := t.TempDir()
	hosts := []string{"localhost", "10.0.0.9"}
	a, err := Open(dir, func() []string { return hosts })
	require.NoError(t, err)
	again, err := Open(dir, nil)
	require.NoError(t, err)
	assert.Equal(t, a.Root(), again.Root())
	now := time.Now()
	a.now = func() time.Time { return now }
	first, err := a.Certificate(nil)
	require.NoError(t, err)
	same, err := a.Certificate(nil)
	require.NoError(t, err)
	assert.Same(t, first, same)
	hosts = append(hosts, "10.0.0.10")
	now = now.Add(2 * lookEvery)
	moved, err := a.Certificate(nil)
	require.NoError(t, err)
	assert.NoError(t, moved.Leaf.VerifyHostname("10.0.0.10"))
	now = moved.Leaf.NotAfter.Add(-renewFrom + time.Hour)
	renewed, err := a.Certificate(nil)
	require.NoError(t, err)
	assert.True(t, renewed.Leaf.NotAfter.After(moved.Leaf.NotAfter))
	assert.LessOrEqual(t, renewed.Leaf.NotAfter.Sub(renewed.Leaf.NotBefore), 398*24*time.Hour)
}

func TestBrokenAuthority(t *testing.T) {
	dir := t.TempDir()
	_, err := Open(dir, nil)
	require.NoError(t, err)
	info, err := os.Stat(filepath.Join(dir, rootKey))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	require.NoError(t, os.WriteFile(filepath.Join(dir, rootKey), []byte("torn"), 0o600))
	_, err = Open(dir, nil)
	assert.ErrorContains(t, err, "do not go together")
	require.NoError(t, os.Remove(filepath.Join(dir, rootKey)))
	_, err = Open(dir, nil)
	assert.ErrorContains(t, err, "key is missing")
}

func TestHosts(t *testing.T) {
	hs := Hosts()
	assert.Contains(t, hs, "localhost")
	assert.Contains(t, hs, "127.0.0.1")
	for _, h := range hs {
		assert.True(t, net.ParseIP(h) != nil || h != "", h)
	}
}
